"""Quiet periods: when nothing is released."""

from __future__ import annotations

from collections.abc import Callable

from hawthorn import wire
from hawthorn.core import timeline
from hawthorn.operations.release import quiet_periods
from hawthorn.operations.release.quiet_periods import Times
from hawthorn.operations.runtime.act import Act, Desk, View
from hawthorn.operations.views import show_quiet
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged, Since, Until
from hawthorn.service.routing import REFUSALS, area

router = area("/api/quiet-periods", "dispatches")


def _times(body: wire.timetable.QuietPeriodAsk) -> Times:
    return Times(body.begins, body.ends, body.zone, body.rule, body.reason)


def _done(desk: Desk, me: Who, do: Callable[[Act], str]) -> Answer:
    def act(act: Act) -> Answer:
        return show_quiet.period(act, quiet_periods.find(act, do(act)))

    return desk.write(me, act)


@router.get("", response_model=wire.timetable.QuietPeriods, operation_id="quiet_periods")
def listing(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The quiet periods, each with the time that it takes now or next."""

    def look(view: View) -> Answer:
        found = [show_quiet.period(view, one) for one in quiet_periods.listing(view)]
        return paged.of(found, lambda one: one["id"])

    return desk.read(me, look)


@router.get(
    "/spans", response_model=wire.timetable.QuietSpans, operation_id="quiet_spans", responses=REFUSALS
)
def spans(me: Who, desk: AtDesk, paged: Paged, since: Since = "", until: Until = "") -> Answer:
    """Each time between two instants in which nothing is released, in order; from now on, and a month, where none is named."""

    def look(view: View) -> Answer:
        first = timeline.day_or_instant(since) if since else view.now
        last = timeline.day_or_instant(until) if until else first + quiet_periods.MONTH
        found = [show_quiet.span(one) for one in quiet_periods.spans(view, first, last)]
        return paged.of(found, lambda one: f"{one['since']} {one['id']}")

    return desk.read(me, look)


@router.post(
    "",
    status_code=201,
    response_model=wire.timetable.QuietPeriod,
    operation_id="add_quiet_period",
    responses=REFUSALS,
)
def add(body: wire.timetable.QuietPeriodAsk, me: Who, desk: AtDesk) -> Answer:
    """Release nothing from one time to another, once or by a rule (RFC 5545); what is planned in it is held when its time comes."""
    return _done(desk, me, lambda act: quiet_periods.add(act, _times(body)))


@router.post(
    "/check", response_model=wire.timetable.QuietEffect, operation_id="check_quiet_period", responses=REFUSALS
)
def check(body: wire.timetable.QuietPeriodAsk, me: Who, desk: AtDesk) -> Answer:
    """When a quiet period would be next, and what is planned in that time; nothing is done."""
    return desk.read(me, lambda view: show_quiet.effect(view, _times(body)))


@router.put(
    "/{id}", response_model=wire.timetable.QuietPeriod, operation_id="change_quiet_period", responses=REFUSALS
)
def change(id: str, body: wire.timetable.QuietPeriodAsk, me: Who, desk: AtDesk) -> Answer:
    """Other times, another rule or another reason."""
    return _done(desk, me, lambda act: quiet_periods.change(act, id, _times(body)))


@router.delete("/{id}", status_code=204, operation_id="end_quiet_period", responses=REFUSALS)
def end(id: str, me: Who, desk: AtDesk) -> None:
    """End a quiet period: from now on it holds nothing."""
    desk.write(me, lambda act: quiet_periods.end(act, id))
