"""Calendars: what goes out, what is due and when it is quiet, as a calendar program reads it, at an address that can be renewed."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import icalendar
import pytest
import recurring_ical_events

from hawthorn.core.errors import Invalid, NotFound
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import assignments
from hawthorn.operations.release import dispatches, gathering, listing, quiet_periods
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.quiet_periods import Times
from hawthorn.operations.release.records import About
from hawthorn.operations.translation import commissions
from hawthorn.operations.views import calendars, timetable
from hawthorn.operations.views.timetable import Shows
from hawthorn.service import ical
from hawthorn.store import job_lists
from tests.service.made import House

PUBLIC = "https://house.example"


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def subscribed(house: House, who: str = "ida", **shows: Any) -> str:
    return house.do(who, lambda a: calendars.add(a, "What goes out", Shows(**shows)))[1]


def fetched(house: House, token: str) -> bytes:
    return ical.written(house.desk.read(house.who("wim"), lambda v: calendars.read(v, token)), PUBLIC)


def events(house: House, token: str) -> dict[str, icalendar.Event]:
    """The events of a calendar by what they are called, read by the library that programs use."""
    found = icalendar.Calendar.from_ical(fetched(house, token))
    return {str(one["summary"]): one for one in found.walk("VEVENT")}


def planned(house: House, title: str, hours: float) -> str:
    page = house.signed(title)
    when = When(instant=iso(house.clock.at + round(hours * 3600) * SECOND))
    return house.do(
        "ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")], when, name=f"Out: {title}")
    )


def test_what_is_planned_keeps_its_uid_and_is_counted_on_when_it_changes(house: House) -> None:
    token = subscribed(house)
    id = planned(house, "Fog", 30)
    first = events(house, token)["Out: Fog"]
    assert first["uid"] == f"dispatch-{id}@hawthorn"
    assert first["url"] == f"{PUBLIC}/timetable/{id}"
    assert "Fog" in first["description"]
    assert first["status"] == "CONFIRMED"
    assert first.start == datetime.fromtimestamp(house.clock.at // SECOND, UTC) + timedelta(
        hours=30, seconds=-1
    )
    assert fetched(house, token) == fetched(house, token), "the same content in the same bytes"
    later = When(instant=iso(house.clock.at + 50 * 3600 * SECOND))
    house.do("ida", lambda a: dispatches.replan(a, id, later))
    moved = events(house, token)["Out: Fog"]
    assert moved["uid"] == first["uid"]
    assert moved["sequence"] > first["sequence"]
    assert moved["dtstamp"].dt > first["dtstamp"].dt
    assert moved.start - first.start == timedelta(hours=20, seconds=1)
    house.do("ida", lambda a: gathering.describe(a, id, About(name="Out: fog and mist")))
    renamed = events(house, token)["Out: fog and mist"]
    assert renamed["sequence"] > moved["sequence"]
    house.do("ida", lambda a: dispatches.cancel(a, id))
    off = events(house, token)["Out: fog and mist"]
    assert (off["status"], off["sequence"] > renamed["sequence"]) == ("CANCELLED", True)


def test_a_quiet_night_comes_each_night_at_its_hours_over_a_change_of_clocks(house: House) -> None:
    token = subscribed(house)
    nights = Times(
        "2027-03-26T22:00", "2027-03-27T06:00", "Europe/London", "FREQ=DAILY;UNTIL=20270330T220000", "Night"
    )
    uuid = house.do("ida", lambda a: quiet_periods.add(a, nights))
    calendar = icalendar.Calendar.from_ical(fetched(house, token))
    found = recurring_ical_events.of(calendar).between(datetime(2027, 3, 20), datetime(2027, 4, 20))
    spans = sorted((one.start.astimezone(UTC), one.end.astimezone(UTC)) for one in found)
    kept = house.desk.read(
        house.who("ida"), lambda v: [(s.since, s.until) for s in quiet_periods.spans(v, 0, 1 << 62)]
    )
    assert [tuple(round(at.timestamp()) * SECOND for at in span) for span in spans] == kept
    assert len(kept) == 5
    assert {(b - a).total_seconds() for a, b in spans} == {8 * 3600.0, 7 * 3600.0}
    house.do("ida", lambda a: quiet_periods.end(a, uuid))
    assert events(house, token)["Quiet: Night"]["status"] == "CANCELLED"


def test_what_is_due_is_a_day(house: House) -> None:
    page = house.page("Gull")
    house.do("ida", lambda a: assignments.assign(a, page, "en", "wim", "2027-02-01", "Half of it."))
    mine, others = subscribed(house, person="wim"), subscribed(house, person="oda", kinds=("assignments",))
    one = events(house, mine)["Due: Gull (en)"]
    assert one.start == datetime(2027, 2, 1).date()
    assert one["url"] == f"{PUBLIC}/entries/{page}/en"
    assert events(house, others) == {}
    with house.desk.db.read() as conn:
        assert job_lists.due_between(conn, "2027-01-01", "2028-01-01", None, 10) == []
    found = house.desk.read(house.who("ida"), lambda v: timetable.due(v, "2027-02-01", "2027-02-02"))
    assert [(d.kind, d.title, d.person) for d in found] == [("assignment", "Gull", "Wim")]
    assert house.desk.read(house.who("ida"), lambda v: timetable.due(v, "2027-02-02", "2027-03-01")) == []


def test_a_translation_is_due_for_whoever_commissioned_it_and_whoever_is_to_translate_it(
    house: House,
) -> None:
    house.speaks(fr="French")
    page = house.page("Gull")
    uuid = house.do("ida", lambda a: commissions.open_one(a, "Gulls"))
    house.do("ida", lambda a: commissions.put(a, uuid, [page]))
    how = {"targets": [{"locale": "fr", "person": "wim"}], "due": "2027-02-01"}
    house.do("ida", lambda a: commissions.change(a, uuid, how))
    house.do("ida", lambda a: commissions.send(a, uuid))

    def due(person: str) -> list[tuple[str, str, str]]:
        found = house.desk.read(
            house.who("ida"), lambda v: timetable.due(v, "2027-02-01", "2027-02-02", person=person)
        )
        return [(d.kind, d.title, d.person) for d in found]

    assert due("ida") == due("wim") == due("") == [("job", "Gulls", "Wim")]
    assert due("oda") == []
    assert "Translation due: Gulls (fr)" in events(house, subscribed(house, "wim", person="wim"))


def test_a_calendar_shows_what_its_owner_may_read_at_the_time_of_looking(house: House) -> None:
    planned(house, "Fog", 30)
    token = subscribed(house, "oda")
    assert "Out: Fog" in events(house, token)
    narrow = [{"verb": "read", "types": ["picture"]}]
    house.do("ida", lambda a: people.define_role(a, "narrow", "narrow", narrow))
    house.do("ida", lambda a: people.set_holdings(a, "oda", [{"name": "narrow"}]))
    assert events(house, token) == {}
    house.do("ida", lambda a: people.end_person(a, "oda"))
    with pytest.raises(NotFound):
        fetched(house, token)


def test_an_address_is_renewed_and_ended(house: House) -> None:
    first = subscribed(house)
    (one,) = house.desk.read(house.who("ida"), calendars.mine)
    second = house.do("ida", lambda a: calendars.renew(a, one.uuid))
    with pytest.raises(NotFound):
        fetched(house, first)
    assert fetched(house, second)
    with pytest.raises(NotFound):
        house.do("oda", lambda a: calendars.renew(a, one.uuid))
    house.do("ida", lambda a: calendars.end(a, one.uuid))
    with pytest.raises(NotFound):
        fetched(house, second)
    with house.desk.db.read() as conn:
        kept = conn.execute("SELECT token FROM calendar").fetchall()
    assert all(second not in row[0] and first not in row[0] for row in kept), "only hashes are kept"


@pytest.mark.parametrize(
    "shows",
    [
        {"kinds": ()}, {"kinds": ("birthdays",)}, {"person": "nobody"}, {"type": "nothing"}, {"locale": "xx"}, {"section": "none"},
        {"states": ("lost",)},
    ],
)  # fmt: skip
def test_what_no_calendar_shows_is_refused(house: House, shows: dict[str, Any]) -> None:
    with pytest.raises(Invalid):
        subscribed(house, **shows)


def test_dispatches_are_narrowed_to_who_answers_for_them_and_what_they_are_about(house: House) -> None:
    fog, gull = planned(house, "Fog", 30), planned(house, "Gull", 40)
    house.do("ida", lambda a: gathering.describe(a, gull, About(owner="oda")))

    def names(**only: Any) -> list[str]:
        def look(view: Any) -> list[str]:
            narrowed = listing.narrowed(view, **only)
            return [row.uuid for row in listing.between(view, 0, 1 << 62, 50, "", narrowed)[0]]

        return house.desk.read(house.who("ida"), look)

    assert names() == [fog, gull]
    assert names(person="oda") == [gull]
    assert names(type="page", locale="en") == [fog, gull]
    assert names(type="picture") == []
    assert names(states=["planned"]) == [fog, gull]
    assert names(states=["gone"]) == []
