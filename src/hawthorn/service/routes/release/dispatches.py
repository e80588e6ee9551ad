"""Dispatches: releasing and withdrawing now or as planned, put together over time, what that would do, and its undoing."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Annotated, Literal

from fastapi import Query

from hawthorn import wire
from hawthorn.core import timeline
from hawthorn.operations.release import dispatches, gathering, planning, records, spreading, times, undoing
from hawthorn.operations.release import listing as lists
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.release.spreading import Spread
from hawthorn.operations.runtime.act import Act, Desk, View
from hawthorn.operations.views import show_dispatches
from hawthorn.service.context import Answer, AtDesk, Once, Who, fingerprint
from hawthorn.service.paging import OfLocale, OfSection, OfType, Paged, Person, Since, Until
from hawthorn.service.routing import REFUSALS, area

router = area("/api/dispatches", "dispatches")


def _requests(moves: Sequence[wire.release.MoveAsk]) -> list[MoveRequest]:
    return [MoveRequest(m.id, m.locale, m.verb, m.revision, m.regress, m.payload, m.follows) for m in moves]


def _when(ask: wire.release.WhenAsk | None) -> When | None:
    return When(ask.instant, ask.wall, ask.zone, ask.fold) if ask else None


def _done(desk: Desk, me: Who, id: str, do: Callable[[Act], object]) -> Answer:
    """Do something with a dispatch, and show it as it is then."""

    def act(act: Act) -> Answer:
        do(act)
        return show_dispatches.dispatch(act, records.find(act, id))

    return desk.write(me, act)


@router.post(
    "",
    status_code=201,
    response_model=wire.release.Dispatch,
    operation_id="make_dispatch",
    responses=REFUSALS,
)
def make(body: wire.release.DispatchAsk, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Release or withdraw now, or plan it: all moves at one instant or none. One that is `open` is put together over time."""

    def do(act: Act) -> Answer:
        requests, when = _requests(body.moves), _when(body.when)
        if body.open:
            about = About(body.name, body.note, body.owner or None, body.partial)
            uuid = gathering.start(act, about, requests, when)
        else:
            uuid = dispatches.make(
                act,
                requests,
                when,
                name=body.name,
                note=body.note,
                with_needs=body.with_needs,
                partial=body.partial,
                owner=body.owner,
                override_quiet=body.override_quiet,
                until=_when(body.until),
            )
        return show_dispatches.dispatch(act, records.find(act, uuid))

    return desk.once(me, once, "make_dispatch", fingerprint(body), do)


@router.post(
    "/check", response_model=wire.release.DispatchCheck, operation_id="check_dispatch", responses=REFUSALS
)
def check(body: wire.release.DispatchAsk, me: Who, desk: AtDesk) -> Answer:
    """What a dispatch would do, what blocks it and who could clear that; nothing is planned."""

    def look(view: View) -> Answer:
        requests = _requests(body.moves)
        planned = times.resolve(view, _when(body.when), times.policies_of(view, requests))
        found = planning.check(
            view,
            requests,
            at=planned.instant if planned else None,
            with_needs=body.with_needs,
            asking=False,
            override_quiet=body.override_quiet,
        )
        return show_dispatches.dispatch_check(view, found)

    return desk.read(me, look)


def _spread(body: wire.release.SpreadAsk) -> Spread:
    return Spread(body.begins, body.zone, body.rule, tuple(body.skip), body.fold)


@router.post(
    "/spread/check", response_model=wire.release.SpreadCheck, operation_id="check_spread", responses=REFUSALS
)
def check_spread(body: wire.release.SpreadAsk, me: Who, desk: AtDesk) -> Answer:
    """When each of several entries would go if they went one after another, and what blocks it; nothing is planned."""

    def look(view: View) -> Answer:
        found = spreading.check(view, _requests(body.moves), _spread(body))
        steps = [show_dispatches.spread_step(view, step.when, one) for step, one in found]
        return {"steps": steps, "blocked": any(step["blocked"] for step in steps)}

    return desk.read(me, look)


@router.post(
    "/spread",
    status_code=201,
    response_model=wire.release.SpreadMade,
    operation_id="spread",
    responses=REFUSALS,
)
def spread(body: wire.release.SpreadAsk, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Plan a dispatch for each of several entries, at the times of a rule (RFC 5545): all of them, or none."""

    def do(act: Act) -> Answer:
        made = spreading.plan(
            act,
            _requests(body.moves),
            _spread(body),
            name=body.name,
            note=body.note,
            override_quiet=body.override_quiet,
        )
        return {"items": [show_dispatches.dispatch(act, records.find(act, uuid)) for uuid in made]}

    return desk.once(me, once, "spread", fingerprint(body), do)


@router.get("", response_model=wire.release.DispatchList, operation_id="list_dispatches")
def listing(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    since: Since = "",
    until: Until = "",
    state: Annotated[
        Literal["", "open", "held", "failed", "planned", "gone", "undone", "cancelled"], Query()
    ] = "",
    person: Person = "",
    type: OfType = "",
    locale: OfLocale = "",
    section: OfSection = "",
) -> Answer:
    """Dispatches by when they go or went, in order of time; or those that are open, held or failed and wait for somebody, newest
    first. They can be narrowed to who answers for them, and to what any of their moves is about."""

    def look(view: View) -> Answer:
        states = [state] if state else []
        only = lists.narrowed(view, states=states, person=person, type=type, locale=locale, section=section)
        if state in ("open", "held", "failed"):
            rows, more = lists.waiting(view, state, paged.limit, paged.cursor, only)
            return paged.answer([show_dispatches.dispatch(view, row, whole=False) for row in rows], more)
        first = timeline.day_or_instant(since) if since else 0
        last = timeline.day_or_instant(until) if until else 1 << 62
        rows, more = lists.between(view, first, last, paged.limit, paged.cursor, only)
        return paged.answer([show_dispatches.dispatch(view, row, whole=False) for row in rows], more)

    return desk.read(me, look)


@router.get("/{id}", response_model=wire.release.Dispatch, operation_id="dispatch", responses=REFUSALS)
def one(id: str, me: Who, desk: AtDesk) -> Answer:
    """A dispatch with its moves, and what would hold it if it went now."""
    return desk.read(me, lambda view: show_dispatches.dispatch(view, records.find(view, id)))


@router.patch(
    "/{id}", response_model=wire.release.Dispatch, operation_id="change_dispatch", responses=REFUSALS
)
def change(id: str, body: wire.release.DispatchChange, me: Who, desk: AtDesk) -> Answer:
    """Another name, note or owner, or whether what cannot go holds back the rest."""
    about = About(body.name, body.note, body.owner, body.partial)
    return _done(desk, me, id, lambda act: gathering.describe(act, id, about))


@router.post(
    "/{id}/moves", response_model=wire.release.Dispatch, operation_id="add_moves", responses=REFUSALS
)
def add(id: str, body: wire.release.MovesAsk, me: Who, desk: AtDesk) -> Answer:
    """Put moves into an open dispatch, with what lies below their entries if that is wanted."""
    return _done(desk, me, id, lambda act: gathering.add(act, id, _requests(body.moves), below=body.below))


@router.post(
    "/{id}/moves/drop", response_model=wire.release.Dispatch, operation_id="drop_moves", responses=REFUSALS
)
def drop(id: str, body: wire.release.MovesDrop, me: Who, desk: AtDesk) -> Answer:
    """Take entries out of an open dispatch: in a locale, or without one in each."""
    return _done(desk, me, id, lambda act: gathering.drop(act, id, [(m.id, m.locale) for m in body.moves]))


@router.post(
    "/{id}/check",
    response_model=wire.release.DispatchCheck,
    operation_id="check_open_dispatch",
    responses=REFUSALS,
)
def check_one(id: str, body: wire.release.PlanAsk, me: Who, desk: AtDesk) -> Answer:
    """What a dispatch would do at its time, or at another, what blocks it and who could clear that; one that has gone does nothing
    any more."""

    def look(view: View) -> Answer:
        options = {"with_needs": body.with_needs, "override_quiet": body.override_quiet}
        found = dispatches.check(view, id, _when(body.when), **options)
        return show_dispatches.dispatch_check(view, found, records.find(view, id).id)

    return desk.read(me, look)


@router.post(
    "/{id}/plan", response_model=wire.release.Dispatch, operation_id="plan_dispatch", responses=REFUSALS
)
def plan(id: str, body: wire.release.PlanAsk, me: Who, desk: AtDesk) -> Answer:
    """Plan an open dispatch for a time; each of its moves then has its revision."""
    options = {"with_needs": body.with_needs, "override_quiet": body.override_quiet}
    return _done(desk, me, id, lambda act: dispatches.plan(act, id, _when(body.when), **options))


@router.post(
    "/{id}/send", response_model=wire.release.Dispatch, operation_id="send_dispatch", responses=REFUSALS
)
def send(id: str, body: wire.release.SendAsk, me: Who, desk: AtDesk) -> Answer:
    """Let a dispatch go now: one that is open, planned for later, or was held and is clear by now."""
    options = {"with_needs": body.with_needs, "override_quiet": body.override_quiet}
    return _done(desk, me, id, lambda act: dispatches.send(act, id, **options))


@router.post(
    "/{id}/reopen", response_model=wire.release.Dispatch, operation_id="reopen_dispatch", responses=REFUSALS
)
def reopen(id: str, me: Who, desk: AtDesk) -> Answer:
    """Open a dispatch again that has not gone, to put in or take out; it does not go until it is planned anew."""
    return _done(desk, me, id, lambda act: dispatches.reopen(act, id))


@router.post(
    "/{id}/cancel", response_model=wire.release.Dispatch, operation_id="cancel_dispatch", responses=REFUSALS
)
def cancel(id: str, me: Who, desk: AtDesk) -> Answer:
    """Call a dispatch off that has not gone."""
    return _done(desk, me, id, lambda act: dispatches.cancel(act, id))


@router.post(
    "/{id}/replan", response_model=wire.release.Dispatch, operation_id="replan_dispatch", responses=REFUSALS
)
def replan(id: str, body: wire.release.ReplanAsk, me: Who, desk: AtDesk) -> Answer:
    """Give a dispatch that was planned another time; one that was held goes then if nothing is in its way."""
    when = When(body.instant, body.wall, body.zone, body.fold)
    return _done(
        desk, me, id, lambda act: dispatches.replan(act, id, when, override_quiet=body.override_quiet)
    )


@router.get(
    "/{id}/undo", response_model=wire.release.UndoCheck, operation_id="check_undo", responses=REFUSALS
)
def check_undo(id: str, me: Who, desk: AtDesk, take_changed: bool = False) -> Answer:
    """What undoing a dispatch would do, and what changed since it went: that is left as it is, or taken along."""
    return desk.read(
        me, lambda view: show_dispatches.undo_check(view, undoing.look(view, id, take=take_changed))
    )


@router.post(
    "/{id}/undo",
    status_code=201,
    response_model=wire.release.Dispatch,
    operation_id="undo_dispatch",
    responses=REFUSALS,
)
def undo(id: str, body: wire.release.UndoAsk, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Undo a dispatch that went, as a whole; the answer is the dispatch that does, which can be undone in turn."""

    def do(act: Act) -> Answer:
        made = undoing.undo(act, id, take=body.take_changed, note=body.note)
        return show_dispatches.dispatch(act, records.find(act, made))

    return desk.once(me, once, f"undo_dispatch {id}", fingerprint(body), do)
