"""Dispatches as places to write in: what is written inside one, and its review as one."""

from __future__ import annotations

from collections.abc import Callable

from fastapi import Response

from hawthorn import wire
from hawthorn.operations.release import gathering, records, reviewing
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.views import show, show_dispatches
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.routing import REFUSALS, area

router = area("/api/dispatches/{id}", "dispatches")


@router.post("/write", response_model=wire.views.Entry, operation_id="write_inside", responses=REFUSALS)
def write(id: str, body: wire.release.WriteAsk, me: Who, desk: AtDesk, response: Response) -> Answer:
    """Open an entry to be written inside an open dispatch, on a strand of its own that goes out with it; the answer is the entry on that
    strand. What is open already is opened again."""

    def do(act: Act) -> Answer:
        strand = gathering.write_in(act, id, body.id, body.locale)
        return show.entry(act, body.id, body.locale, strand)

    answer = desk.write(me, do)
    response.headers["ETag"] = answer["etag"]
    return answer


def _done(desk: AtDesk, me: Who, id: str, do: Callable[[Act], object]) -> Answer:
    def act(act: Act) -> Answer:
        do(act)
        return show_dispatches.dispatch(act, records.find(act, id))

    return desk.write(me, act)


@router.post(
    "/submit", response_model=wire.release.Dispatch, operation_id="submit_dispatch", responses=REFUSALS
)
def submit(id: str, body: wire.release.NoteAsk, me: Who, desk: AtDesk) -> Answer:
    """Submit a dispatch for review, as one; those whose sign-off it needs are told."""
    return _done(desk, me, id, lambda act: reviewing.ask(act, id, body.note))


@router.post(
    "/take-back", response_model=wire.release.Dispatch, operation_id="take_dispatch_back", responses=REFUSALS
)
def take_back(id: str, me: Who, desk: AtDesk) -> Answer:
    """Take a dispatch back from review before it is decided."""
    return _done(desk, me, id, lambda act: reviewing.take_back(act, id))


@router.post("/sign", response_model=wire.release.Dispatch, operation_id="sign_dispatch", responses=REFUSALS)
def sign(id: str, body: wire.release.SignAsk, me: Who, desk: AtDesk) -> Answer:
    """Sign off what a dispatch brings: all of it as it is now, or what is named, in exactly the revisions that were looked at."""
    seen = {(m.id, m.locale): m.revision for m in body.moves}
    return _done(desk, me, id, lambda act: reviewing.sign(act, id, [*seen], body.note, seen))


@router.post(
    "/send-back", response_model=wire.release.Dispatch, operation_id="send_dispatch_back", responses=REFUSALS
)
def send_back(id: str, body: wire.release.DispatchReason, me: Who, desk: AtDesk) -> Answer:
    """Send a dispatch back from review with a reason; sign-offs of what was written inside it are void."""
    return _done(desk, me, id, lambda act: reviewing.send_back(act, id, body.reason))
