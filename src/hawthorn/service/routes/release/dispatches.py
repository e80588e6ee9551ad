"""Dispatches: releasing and withdrawing now or as planned, and what that would do."""

from __future__ import annotations

from hawthorn import wire
from hawthorn.core import timeline
from hawthorn.operations.release import dispatches, planning
from hawthorn.operations.release.planning import MoveRequest, When
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.views import show_work
from hawthorn.service.context import Answer, AtDesk, Once, Who, fingerprint
from hawthorn.service.paging import Paged, Since, Until
from hawthorn.service.routing import REFUSALS, area

router = area("/api/dispatches", "dispatches")


def _wishes(body: wire.release.DispatchAsk) -> list[MoveRequest]:
    return [MoveRequest(m.id, m.locale, m.verb, m.revision, m.regress) for m in body.moves]


def _when(ask: wire.release.WhenAsk | None) -> When | None:
    return When(ask.instant, ask.wall, ask.zone, ask.fold) if ask else None


@router.post(
    "",
    status_code=201,
    response_model=wire.release.Dispatch,
    operation_id="make_dispatch",
    responses=REFUSALS,
)
def make(body: wire.release.DispatchAsk, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Release or withdraw now, or plan it: all moves at one instant or none."""

    def do(act: Act) -> Answer:
        uuid = dispatches.make(
            act, _wishes(body), _when(body.when), name=body.name, note=body.note, with_needs=body.with_needs
        )
        return show_work.dispatch(act, dispatches.find(act, uuid))

    return desk.once(me, once, "make_dispatch", fingerprint(body), do)


@router.post(
    "/check", response_model=wire.release.DispatchCheck, operation_id="check_dispatch", responses=REFUSALS
)
def check(body: wire.release.DispatchAsk, me: Who, desk: AtDesk) -> Answer:
    """What a dispatch would do, what blocks it and who could clear that; nothing is planned."""

    def look(view: View) -> Answer:
        planned = planning.resolve_when(view, _when(body.when))
        found = planning.check(
            view,
            _wishes(body),
            at=planned.instant if planned else None,
            with_needs=body.with_needs,
            asking=False,
        )
        return show_work.dispatch_check(view, found)

    return desk.read(me, look)


@router.get("", response_model=wire.release.DispatchList, operation_id="list_dispatches")
def listing(me: Who, desk: AtDesk, paged: Paged, since: Since = "", until: Until = "") -> Answer:
    """Dispatches by when they go or went, in order of time."""

    def look(view: View) -> Answer:
        first = timeline.day_or_instant(since) if since else 0
        last = timeline.day_or_instant(until) if until else 1 << 62
        rows, more = dispatches.between(view, first, last, paged.limit, paged.cursor)
        return paged.answer([show_work.dispatch(view, row, whole=False) for row in rows], more)

    return desk.read(me, look)


@router.get("/{id}", response_model=wire.release.Dispatch, operation_id="dispatch", responses=REFUSALS)
def one(id: str, me: Who, desk: AtDesk) -> Answer:
    """A dispatch with its moves, and what would hold it if it went now."""
    return desk.read(me, lambda view: show_work.dispatch(view, dispatches.find(view, id)))


@router.post(
    "/{id}/cancel",
    response_model=wire.release.Dispatch,
    operation_id="cancel_dispatch",
    responses=REFUSALS,
)
def cancel(id: str, me: Who, desk: AtDesk) -> Answer:
    """Call a planned dispatch off."""

    def do(act: Act) -> Answer:
        dispatches.cancel(act, id)
        return show_work.dispatch(act, dispatches.find(act, id))

    return desk.write(me, do)


@router.post(
    "/{id}/replan", response_model=wire.release.Dispatch, operation_id="replan_dispatch", responses=REFUSALS
)
def replan(id: str, body: wire.release.WhenAsk, me: Who, desk: AtDesk) -> Answer:
    """Give a planned dispatch another time."""

    def do(act: Act) -> Answer:
        dispatches.replan(act, id, When(body.instant, body.wall, body.zone, body.fold))
        return show_work.dispatch(act, dispatches.find(act, id))

    return desk.write(me, do)
