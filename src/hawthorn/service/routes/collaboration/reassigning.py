"""What somebody has to do, and giving it to somebody else."""

from __future__ import annotations

from dataclasses import asdict

from hawthorn import wire
from hawthorn.operations.collaboration import reassigning
from hawthorn.operations.runtime.act import Act
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api/people/{handle}/tasks", "people")


@router.get("", response_model=wire.collaboration.Tasks, operation_id="tasks_of_person", responses=REFUSALS)
def tasks(handle: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """What somebody has to do and answers for, also one who has left: assignments, jobs, dispatches, commissions that they collect, what goes for
    translation in their name, and gates at which nobody else is named."""
    found = desk.read(me, lambda view: reassigning.tasks(view, handle))
    return paged.of(found, lambda one: f"{one.kind} {one.id} {one.locale} {one.name}")


@router.post(
    "/reassign",
    response_model=wire.collaboration.Reassigned,
    operation_id="reassign_tasks",
    responses=REFUSALS,
)
def reassign(handle: str, body: wire.collaboration.ReassignAsk, me: Who, desk: AtDesk) -> Answer:
    """Give what somebody has to do to somebody else, before they leave, after it, or while they are away. What the other may not do stays, and is
    named with its reason."""

    def do(act: Act) -> Answer:
        found = reassigning.reassign(act, handle, body.to)
        left = [{**asdict(one.task), "why": one.why} for one in found.left]
        return {"moved": found.moved, "left": left}

    return desk.write(me, do)
