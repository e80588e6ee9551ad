"""Advance: a revision stands at a stage before release, and waits there for whoever decides."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.moves.base import Bringing
from hawthorn.core.workflow import Stage, Workflow


class Advance(Bringing):
    """Brings a revision to the stage that its payload names; what stands below stays there."""

    name = "advance"
    submits = True
    takes = ("stage",)

    def goal(self, flow: Workflow, payload: Mapping[str, Any]) -> Stage:
        between = {stage.name: stage for stage in flow.stages[1:-1]}
        found = between.get(str(payload.get("stage")))
        if found is None:
            what = said("moves.no_such_stage", name=str(payload.get("stage")), known=list(between))
            raise Invalid([FieldProblem("payload.stage", what)])
        return found

    def asks(self, stood: bool) -> str:
        return "submit"


VERB = Advance()
