"""Spreading: one entry after another at the times of a rule, all planned or none, over clock changes and quiet days."""

from __future__ import annotations

import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import timeline
from hawthorn.core.errors import BadTime, GateUnmet, HawthornError, Invalid
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import dispatches, quiet_periods, records, spreading, workflows
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.release.quiet_periods import Times
from hawthorn.operations.release.spreading import Spread
from hawthorn.store import dispatches as store
from tests.service.made import House
from tests.service.test_limited import SHEET
from tests.service.test_workflows import flow


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def doors(house: House, count: int) -> list[str]:
    return [house.signed(f"Door {n}") for n in range(1, count + 1)]


def plan(house: House, pages: list[str], wanted: Spread, **more: Any) -> list[str]:
    requests = [MoveRequest(p, "en") for p in pages]
    return house.do("ida", lambda a: spreading.plan(a, requests, wanted, **more))


def when(house: House, ids: list[str]) -> list[tuple[str, str]]:
    def look(view: Any) -> list[tuple[str, str]]:
        return [(d.name, iso(d.at)[:16]) for d in (records.find(view, id) for id in ids)]

    return house.desk.read(house.who("ida"), look)


def count(house: House) -> int:
    with house.desk.db.read() as conn:
        return int(conn.execute("SELECT count(*) FROM dispatch").fetchone()[0])


def test_ten_go_one_a_day_without_the_days_that_are_left_out(house: House) -> None:
    pages = doors(house, 4)
    wanted = Spread("2027-03-26T09:00", "Europe/London", "FREQ=DAILY", ("2027-03-27",))
    made = plan(house, pages, wanted, name="Doors")
    assert when(house, made) == [
        ("Doors 1/4", "2027-03-26T09:00"),
        # Clocks were put forward: nine stays nine.
        ("Doors 2/4", "2027-03-28T08:00"),
        ("Doors 3/4", "2027-03-29T08:00"),
        ("Doors 4/4", "2027-03-30T08:00"),
    ]
    with house.desk.db.read() as conn:
        first = store.by_uuid(conn, made[0])
        assert first is not None
        assert [d.uuid for d in store.of_series(conn, first.id)] == made
    house.later(71 * 24 * 3600)
    assert [house.is_out(p) for p in pages] == [True, False, False, False]
    house.later(2 * 24 * 3600 + 3600)
    assert [house.is_out(p) for p in pages] == [True, True, True, False]


def test_all_are_planned_or_none(house: House) -> None:
    pages = [*doors(house, 2), house.page("Unsigned")]
    wanted = Spread("2027-02-01", "UTC", "FREQ=WEEKLY;BYDAY=MO,TH")
    found = house.desk.read(
        house.who("ida"), lambda v: spreading.check(v, [MoveRequest(p, "en") for p in pages], wanted)
    )
    assert [(iso(s.when.instant)[:16], c.blocked) for s, c in found] == [
        ("2027-02-01T09:00", False), ("2027-02-04T09:00", False), ("2027-02-08T09:00", True),
    ]  # fmt: skip
    with pytest.raises(GateUnmet, match="Unsigned"):
        plan(house, pages, wanted)
    assert count(house) == 0
    house.do(
        "ida",
        lambda a: quiet_periods.add(a, Times("2027-02-04T00:00", "2027-02-05T00:00", "UTC", "", "Works")),
    )
    with pytest.raises(GateUnmet, match="quiet period"):
        plan(house, pages[:2], wanted)
    assert len(plan(house, pages[:2], wanted, override_quiet=True)) == 2


@pytest.mark.parametrize(
    ("wanted", "error"),
    [
        (Spread("2020-01-01T09:00", "UTC"), BadTime),
        (Spread("2027-02-01T09:00", "Nowhere/City"), BadTime),
        (Spread("2027-02-01T09:00", "UTC", "daily"), BadTime),
        (Spread("2027-02-01T09:00", "UTC", "FREQ=DAILY;COUNT=1"), BadTime),
        (Spread("2027-02-01T09:00", "UTC", "FREQ=DAILY;UNTIL=20270131"), BadTime),
        (Spread("2027-03-27T01:30", "Europe/London"), BadTime),
        (Spread("2027-10-30T01:30", "Europe/London"), BadTime),
        (Spread("2027-02-01T09:00", "UTC", "FREQ=DAILY", ("Christmas",)), Invalid),
        (Spread("soon", "UTC"), BadTime),
    ],
)
def test_what_is_no_spread_is_refused_and_nothing_is_planned(
    house: House, wanted: Spread, error: type[Exception]
) -> None:
    pages = doors(house, 2)
    with pytest.raises(error):
        plan(house, pages, wanted)
    assert count(house) == 0


def test_a_time_that_comes_twice_is_the_one_that_is_said(house: House) -> None:
    made = plan(house, doors(house, 2), Spread("2027-10-30T01:30", "Europe/London", fold="later"))
    assert [at for _, at in when(house, made)] == ["2027-10-30T00:30", "2027-10-31T01:30"]


def test_nothing_and_too_much_are_refused(house: House) -> None:
    with pytest.raises(Invalid):
        plan(house, [], Spread("2027-02-01"))
    many = [MoveRequest(f"{n}", "en") for n in range(spreading.MOST + 1)]
    with pytest.raises(Invalid, match="366"):
        house.do("ida", lambda a: spreading.plan(a, many, Spread("2027-02-01")))


# -- what is said of it before ------------------------------------------------------------------------------------


def sheet(house: House, title: str, **fields: Any) -> str:
    return house.do("ida", lambda a: entries.start(a, "sheet", "en", {"title": title, **fields}))


def hourly(house: House) -> Spread:
    begins = timeline.wall_at(house.clock.at + 3600 * SECOND, "UTC")
    return Spread(timeline.wall_text(begins), "UTC", "FREQ=HOURLY")


def said_of(house: House, pages: list[str]) -> list[list[str]]:
    """What is said against each step, in words."""

    def look(view: Any) -> list[list[str]]:
        found = spreading.check(view, [MoveRequest(p, "en") for p in pages], hourly(house))
        return [[view.say(u.what) for x in one.lines for u in x.unmet] for _, one in found]

    return house.desk.read(house.who("ida"), look)


@pytest.fixture
def sheets(house: House) -> House:
    house.do("ida", lambda a: workflows.define(a, flow(sign_offs=0)))
    house.do("ida", lambda a: changing.define_type(a, {**SHEET, "workflow": "standard"}))
    return house


def test_a_page_goes_after_the_one_that_it_lies_below_and_one_that_it_refers_to(sheets: House) -> None:
    hall = sheet(sheets, "Hall")
    lamp = sheet(sheets, "Lamp", below=hall)
    note = sheet(sheets, "Note", about=[lamp])
    assert said_of(sheets, [hall, lamp, note]) == [[], [], []]
    assert said_of(sheets, [note, lamp, hall])[0] == [
        "It refers to “Lamp”, which is not out and does not go along."
    ]
    plan(sheets, [hall, lamp, note], hourly(sheets))
    sheets.later(4 * 3600)
    assert all(sheets.is_out(page) for page in (hall, lamp, note))


def test_what_goes_later_does_not_take_the_address_of_what_goes_before(sheets: House) -> None:
    pages = [sheet(sheets, title, slug="fog") for title in ("Fog", "Mist")]
    pages.append(sheet(sheets, "Haze"))
    assert said_of(sheets, pages) == [[], ["“Fog”, which goes before it, takes the address “fog”."], []]
    with pytest.raises(GateUnmet, match="is planned with the address"):
        plan(sheets, pages, hourly(sheets))
    assert count(sheets) == 0


@pytest.mark.parametrize("seed", [0, 1, 3])
def test_what_is_said_of_a_spread_is_what_becomes_of_it(sheets: House, seed: int) -> None:
    pick, pages = random.Random(seed), list[str]()
    for n in range(5):
        fields: dict[str, Any] = {"slug": f"s{pick.randrange(6)}"}
        if pages and pick.random() < 0.5:
            fields["below"] = pick.choice(pages)
        if pages and pick.random() < 0.4:
            fields["about"] = [pick.choice(pages)]
        pages.append(sheet(sheets, f"Page {n}", **fields))
    sheets.would_end("ida", lambda a: dispatches.make(a, [MoveRequest(pages[0], "en")]))
    seen: set[bool] = set()
    for _ in range(12):
        some = pick.sample(pages, pick.choice([2, 3, 4]))
        wanted, requests = hourly(sheets), [MoveRequest(p, "en") for p in some]
        refused = any(said_of(sheets, some))
        error: HawthornError | None = sheets.would_end("ida", lambda a: spreading.plan(a, requests, wanted))  # noqa: B023
        assert isinstance(error, GateUnmet) == refused, (error, said_of(sheets, some))
        seen.add(refused)
    assert seen == {True, False}
