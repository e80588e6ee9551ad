"""Assistants, as people oversee them."""

from __future__ import annotations

from hawthorn import wire
from hawthorn.operations.collaboration import assistants
from hawthorn.operations.runtime.act import Act
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api/assistants", "people")


@router.get("", response_model=wire.assistants.Assistants, operation_id="assistants", responses=REFUSALS)
def everyone(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The assistants there are, by name, with what each did in the last hour. All that one did is in the log: `GET /api/events?person=`."""
    return paged.of(desk.read(me, assistants.assistants), lambda one: one.handle)


@router.post("/{handle}/pause", status_code=204, operation_id="pause_assistant", responses=REFUSALS)
def pause(handle: str, body: wire.assistants.PauseAsk, me: Who, desk: AtDesk) -> None:
    """Pause an assistant: from now on its key opens nothing, and it is told by whom and why."""
    desk.write(me, lambda act: assistants.pause(act, handle, body.reason))


@router.post("/{handle}/resume", status_code=204, operation_id="resume_assistant", responses=REFUSALS)
def resume(handle: str, me: Who, desk: AtDesk) -> None:
    """Let a paused assistant go on."""
    desk.write(me, lambda act: assistants.resume(act, handle))


@router.post(
    "/{handle}/undo/check",
    response_model=wire.assistants.AssistantUndo,
    operation_id="check_assistant_undo",
    responses=REFUSALS,
)
def check_undo(handle: str, body: wire.assistants.AssistantUndoAsk, me: Who, desk: AtDesk) -> Answer:
    """What undoing what an assistant did would come to; nothing is changed."""
    return desk.tried(me, lambda act: _undone(act, handle, body.since))


@router.post(
    "/{handle}/undo",
    response_model=wire.assistants.AssistantUndo,
    operation_id="undo_assistant",
    responses=REFUSALS,
)
def undo(handle: str, body: wire.assistants.AssistantUndoAsk, me: Who, desk: AtDesk) -> Answer:
    """Undo what an assistant wrote from an instant on, as far as nobody else's words are in the way."""
    return desk.write(me, lambda act: _undone(act, handle, body.since))


def _undone(act: Act, handle: str, since: str) -> Answer:
    return {"items": assistants.undo(act, handle, since)}
