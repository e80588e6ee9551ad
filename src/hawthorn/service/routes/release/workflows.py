"""Workflows: defining them, choosing which are followed, and what a change would do first."""

from __future__ import annotations

from dataclasses import asdict

from hawthorn import wire
from hawthorn.core import workflow
from hawthorn.operations.release import workflow_effects, workflows
from hawthorn.operations.runtime.act import Act
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.routing import REFUSALS, area

router = area("/api/workflows", "workflows")


@router.put(
    "", response_model=wire.workflows.WorkflowSpec, operation_id="define_workflow", responses=REFUSALS
)
def define(body: wire.content.Definition, me: Who, desk: AtDesk) -> Answer:
    """Define a workflow, or a new version of one; what stands at a stage that is no more moves to the one below it.

    A definition that names its `version` is taken only if that is the one in force.
    """
    return desk.write(me, lambda act: workflow.to_dict(workflows.define(act, body.model_dump())))


@router.post(
    "/check", response_model=wire.workflows.WorkflowImpact, operation_id="check_workflow", responses=REFUSALS
)
def check(body: wire.content.Definition, me: Who, desk: AtDesk) -> Answer:
    """What a definition of a workflow would do to what stands; nothing is changed."""
    return desk.read(me, lambda view: asdict(workflow_effects.check(view, body.model_dump())))


@router.delete("/{name}", status_code=204, operation_id="end_workflow", responses=REFUSALS)
def end(name: str, me: Who, desk: AtDesk) -> None:
    """End a workflow that nothing follows any more."""
    desk.write(me, lambda act: workflows.end(act, name))


@router.put(
    "/choices", response_model=wire.workflows.ChoicesAsk, operation_id="choose_workflows", responses=REFUSALS
)
def choose(body: wire.workflows.ChoicesAsk, me: Who, desk: AtDesk) -> Answer:
    """Choose workflows by type, locale and section, in place of what was chosen; the most specific choice wins."""

    def do(act: Act) -> Answer:
        workflows.set_choices(act, [c.model_dump() for c in body.choices])
        return {"choices": [asdict(c) for c in act.setup.choices]}

    return desk.write(me, do)


@router.post(
    "/choices/check",
    response_model=wire.workflows.WorkflowImpact,
    operation_id="check_choices",
    responses=REFUSALS,
)
def check_choices(body: wire.workflows.ChoicesAsk, me: Who, desk: AtDesk) -> Answer:
    """What other choices of workflows would do to what stands; nothing is changed."""
    given = [c.model_dump() for c in body.choices]
    return desk.read(me, lambda view: asdict(workflow_effects.check_choices(view, given)))
