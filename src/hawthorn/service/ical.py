"""Calendars as iCalendar (RFC 5545), written by a library: stable UIDs, SEQUENCE on change, CANCELLED when called off."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from icalendar import Calendar, Event, vRecur

from hawthorn.core import timeline
from hawthorn.operations.views.calendars import Read
from hawthorn.operations.views.timetable import Item

MEDIA_TYPE = "text/calendar"
REFRESH = timedelta(minutes=15)


def written(read: Read, public: str) -> bytes:
    """A calendar as bytes; the same content in the same bytes."""
    made = Calendar()
    made.add("prodid", "-//Hawthorn//Timetable//EN")
    made.add("version", "2.0")
    made.add("method", "PUBLISH")
    # RFC 7986, sections 5.1, 5.3 and 5.7; the names before it are known more widely.
    made.add("name", read.name)
    made.add("x-wr-calname", read.name)
    made.add("uid", read.uuid)
    made.add("refresh-interval", REFRESH, {"VALUE": "DURATION"})
    for item in read.items:
        made.add_component(_event(item, public))
    made.add_missing_timezones()
    data: bytes = made.to_ical()
    return data


def _event(item: Item, public: str) -> Event:
    one = Event()
    one.add("uid", f"{item.uid}@hawthorn")
    one.add("summary", item.name)
    changed = timeline.to_datetime(item.changed_at).replace(microsecond=0)
    one.add("dtstamp", changed)
    one.add("last-modified", changed)
    one.add("sequence", item.sequence)
    one.add("status", item.status)
    # It is a moment that is marked, and no time that is taken.
    one.add("transp", "TRANSPARENT")
    one.add("url", f"{public}{item.path}")
    told = "\n".join(part for part in (item.about, *item.titles) if part)
    if told:
        one.add("description", told)
    if item.quiet is not None:
        zone = ZoneInfo(timeline.zone_or_utc(item.quiet.zone).key)
        begins, ends = (datetime.fromisoformat(w) for w in (item.quiet.begins, item.quiet.ends))
        one.add("dtstart", begins.replace(tzinfo=zone))
        one.add("dtend", ends.replace(tzinfo=zone))
        if item.quiet.rule:
            one.add("rrule", _rule(item.quiet.rule, zone))
    elif item.instant is not None:
        one.add("dtstart", timeline.to_datetime(item.instant).replace(microsecond=0))
    else:
        day = date.fromisoformat(item.day)
        one.add("dtstart", day)
        one.add("dtend", day + timedelta(days=1))
    return one


def _rule(rule: str, zone: ZoneInfo) -> vRecur:
    """A rule with its end in UTC, as RFC 5545 (section 3.3.10) asks of one that begins in a zone; ours are of the wall."""
    made: vRecur = vRecur.from_ical(rule)
    until = made.get("UNTIL")
    if until:
        last = until[0] if isinstance(until[0], datetime) else datetime.combine(until[0], datetime.max.time())
        made["UNTIL"] = [last.replace(tzinfo=zone, microsecond=0).astimezone(ZoneInfo("UTC"))]
    return made
