"""The timetable beside dispatches: what is due, and calendars that somebody subscribes to."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import Query, Request, Response

from hawthorn import wire
from hawthorn.core import etags, timeline
from hawthorn.core.timeline import iso
from hawthorn.operations.delivery import differences
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.views import calendars, timetable
from hawthorn.operations.views.timetable import Shows
from hawthorn.service import ical
from hawthorn.service.context import NOBODY, Answer, AtDesk, Who, settings_of
from hawthorn.service.paging import OfLocale, OfSection, OfType, Paged, Person, Since, Until
from hawthorn.service.routing import REFUSALS, area
from hawthorn.service.serving import UNCHANGED, tagged
from hawthorn.store.calendars import Calendar

router = area("", "dispatches")
Day = Annotated[str, Query(pattern=r"^(\d{4}-\d\d-\d\d)?$", description="A day, as 2026-11-30.")]


@router.get("/api/dues", response_model=wire.timetable.Dues, operation_id="list_dues", responses=REFUSALS)
def dues(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    since: Day = "",
    until: Day = "",
    person: Person = "",
    type: OfType = "",
    locale: OfLocale = "",
    section: OfSection = "",
) -> Answer:
    """What is due from one day until before another, in order: assignments and translation jobs. Without days, from today on."""

    def look(view: View) -> Answer:
        about = {"person": person, "type": type, "locale": locale, "section": section}
        found = timetable.due(view, since or iso(view.now)[:10], until or "9999-12-31", kept=False, **about)
        shown = [{k: v for k, v in asdict(one).items() if k != "changed_at"} for one in found]
        return paged.of(shown, lambda one: f"{one['kind']} {one['id']}")

    return desk.read(me, look)


@router.get(
    "/api/differences",
    response_model=wire.timetable.Differences,
    operation_id="list_differences",
    responses=REFUSALS,
)
def listed(me: Who, desk: AtDesk, paged: Paged, since: Since = "", until: Until = "") -> Answer:
    """What readers see differently at two instants, of the past or planned; from now on, and for a week, where none is said."""

    def look(view: View) -> Answer:
        first = timeline.day_or_instant(since) if since else view.now
        last = timeline.day_or_instant(until) if until else first + differences.WEEK
        found, more = differences.listing(view, first, last, paged.limit, paged.cursor)
        return paged.answer([asdict(one) for one in found], more)

    return desk.read(me, look)


def _shown(one: Calendar) -> Answer:
    return {"id": one.uuid, "name": one.name, "at": iso(one.at), "shows": asdict(calendars.shows(one))}


def _made(act: Act, uuid: str, token: str, public: str) -> Answer:
    return _shown(calendars.find(act, uuid)) | {"address": f"{public}/calendar/{token}.ics"}


@router.get("/api/calendars", response_model=wire.timetable.Calendars, operation_id="list_calendars")
def listing(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The calendars that the caller subscribes to; their addresses are never shown again."""
    found = desk.read(me, lambda view: [_shown(one) for one in calendars.mine(view)])
    return paged.of(found, lambda one: one["id"])


@router.post(
    "/api/calendars",
    status_code=201,
    response_model=wire.timetable.CalendarMade,
    operation_id="add_calendar",
    responses=REFUSALS,
)
def add(body: wire.timetable.CalendarAsk, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Make a calendar of what the caller may read; the answer holds its secret address, which is shown this once."""

    def do(act: Act) -> Answer:
        uuid, token = calendars.add(act, body.name, Shows.of(body.shows.model_dump()))
        return _made(act, uuid, token, _public(request))

    return desk.write(me, do)


@router.post(
    "/api/calendars/{id}/renew",
    response_model=wire.timetable.CalendarMade,
    operation_id="renew_calendar",
    responses=REFUSALS,
)
def renew(id: str, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Give a calendar another secret address; nothing is at the one before any more."""
    return desk.write(me, lambda act: _made(act, id, calendars.renew(act, id), _public(request)))


@router.delete("/api/calendars/{id}", status_code=204, operation_id="end_calendar", responses=REFUSALS)
def end(id: str, me: Who, desk: AtDesk) -> None:
    """End a calendar: nothing is at its address any more."""
    desk.write(me, lambda act: calendars.end(act, id))


@router.get(
    "/calendar/{token}.ics",
    operation_id="calendar",
    response_class=Response,
    responses={
        200: {"content": {ical.MEDIA_TYPE: {"schema": {"type": "string"}}}},
        **UNCHANGED,
        404: REFUSALS[404],
    },
)
def calendar(token: str, desk: AtDesk, request: Request) -> Response:
    """The calendar at a secret address, as iCalendar (RFC 5545), with what its owner may read now."""
    read = desk.read(NOBODY, lambda view: calendars.read(view, token))
    data = ical.written(read, _public(request))
    headers = {"Cache-Control": "private, no-cache", "X-Robots-Tag": "noindex"}
    return tagged(request, data, etags.of(data), headers, f"{ical.MEDIA_TYPE}; charset=utf-8")


def _public(request: Request) -> str:
    return (settings_of(request).public or str(request.base_url)).rstrip("/")
