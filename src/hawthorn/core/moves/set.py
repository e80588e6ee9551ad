"""Set: some fields get other values where readers see them. What it brings is a revision of a strand of its own, signed like any
other; when it has gone, it comes into the draft."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.moves.base import CHOSEN, Around, Bringing, MoveFacts, Touched
from hawthorn.core.workflow import Unmet


class SetFields(Bringing):
    """Brings what is out with other values in some fields."""

    name = "set"
    outs = True
    rests = True
    writes = True
    takes = ("fields",)
    may_take = ("field",)
    """The planned field of the type that says so: what is out with it needs no sign-off for what it says."""

    def taken(self, payload: Mapping[str, Any]) -> dict[str, Any]:
        found = super().taken(payload)
        if not isinstance(found["fields"], Mapping) or not found["fields"]:
            raise Invalid([FieldProblem("payload.fields", said("moves.no_fields"))])
        return found

    def touches(self, around: Around) -> Sequence[Touched]:
        return [Touched(one, CHOSEN) for one in around.holding]

    def against(self, move: MoveFacts) -> Sequence[Unmet]:
        if move.current is None:
            return (
                () if move.out_by_then else (Unmet("nothing-out", said("unmet.nothing_out"), "", "release"),)
            )
        if move.descends or move.regress:
            return ()
        return (Unmet("not-descended", said("unmet.set_moved_on"), "", "release"),)


VERB = SetFields()
