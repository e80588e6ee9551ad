"""Quiet periods: nothing is released in them but by who holds the grant, and what was planned before is held and said."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import BadTime, GateUnmet, Invalid, NotFound, Refused
from hawthorn.core.timeline import SECOND, iso, parse_instant
from hawthorn.messages import ENGLISH
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.release import dispatches, quiet_periods, records, undoing
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.quiet_periods import Times
from hawthorn.operations.views import show, show_dispatches, show_quiet
from hawthorn.store import events, people
from tests.service.made import House

# The clock of a house begins on Friday 15 January 2027 at 08:00 UTC.
TONIGHT = Times("2027-01-15T22:00", "2027-01-16T06:00", "UTC", "FREQ=DAILY", "Nobody is at the desk.")
AT_TEN = When(wall="2027-01-15T22:00", zone="UTC")
HOUR = 3600


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.by_scheduler(made._adding("rhea", "release-editor"))
    yield made
    made.close()


def rest(house: House, times: Times = TONIGHT) -> str:
    return house.do("ida", lambda a: quiet_periods.add(a, times))


def plan(
    house: House, who: str, pages: list[str], when: When | None, verb: str = "release", **options: Any
) -> str:
    requests = [MoveRequest(p, "en", verb) for p in pages]
    return house.do(who, lambda a: dispatches.make(a, requests, when, **options))


def held(house: House, id: str) -> list[str]:
    one = house.desk.read(house.who("ida"), lambda v: show_dispatches.dispatch(v, records.find(v, id)))
    return [u["code"] for h in one["held"] for u in h["unmet"]]


def test_nothing_is_planned_in_one_and_the_refusal_says_why_until_when_and_who_could(house: House) -> None:
    rest(house)
    fog = house.signed("Fog")
    with pytest.raises(GateUnmet) as refused:
        plan(house, "rhea", [fog], AT_TEN)
    what, remedy = ENGLISH.text(refused.value.message), ENGLISH.remedy(refused.value)
    assert "quiet period (Nobody is at the desk.), until Sat 16 Jan 2027, 06:00 (UTC)" in what
    assert "from Sat 16 Jan 2027, 06:00 (UTC) on" in remedy
    assert "override-quiet" in remedy
    found = house.desk.read(
        house.who("rhea"),
        lambda v: show_dispatches.dispatch_check(
            v, dispatches.planning.check(v, [MoveRequest(fog, "en")], at=house.clock.at + 15 * HOUR * SECOND)
        ),
    )
    assert [(u["code"], u["who"]) for u in found["moves"][0]["unmet"]] == [
        ("quiet", ["Ida (managing editor)"])
    ]
    plan(house, "rhea", [fog], When(wall="2027-01-16T06:00", zone="UTC"))
    house.later(24 * HOUR)
    assert house.is_out(fog)


def test_only_who_holds_the_grant_releases_in_one_and_only_where_that_is_said(house: House) -> None:
    rest(house)
    fog, gull = house.signed("Fog"), house.signed("Gull")
    with pytest.raises(GateUnmet):
        plan(house, "ida", [fog], AT_TEN)
    with pytest.raises(Refused, match="release in quiet periods"):
        plan(house, "rhea", [fog], AT_TEN, override_quiet=True)
    id = plan(house, "ida", [fog], AT_TEN, override_quiet=True)
    house.later(15 * HOUR)
    assert (house.state(id), house.is_out(fog)) == ("gone", True)
    # It is eleven in the evening now.
    with pytest.raises(GateUnmet):
        plan(house, "rhea", [gull], None)
    tomorrow = plan(house, "rhea", [gull], soon(house, 9))
    with pytest.raises(GateUnmet):
        house.do("rhea", lambda a: dispatches.send(a, tomorrow))
    plan(house, "ida", [gull], None, override_quiet=True)
    assert house.is_out(gull)


def soon(house: House, hours: float) -> When:
    return When(instant=iso(house.clock.at + round(hours * HOUR * SECOND)))


def test_what_is_taken_back_is_taken_back_at_any_time(house: House) -> None:
    fog, gull = house.signed("Fog"), house.signed("Gull")
    gone = plan(house, "ida", [fog, gull], None)
    rest(house)
    house.later(15 * HOUR)
    plan(house, "rhea", [gull], None, "withdraw")
    assert not house.is_out(gull)
    house.do("rhea", lambda a: undoing.undo(a, gone, take=True))
    assert not house.is_out(fog)


def test_what_was_planned_before_is_held_at_its_time_and_one_act_sends_it_after_all(house: House) -> None:
    fog, gull = house.signed("Fog"), house.signed("Gull")
    plan(house, "ida", [gull], None)
    both = [MoveRequest(fog, "en"), MoveRequest(gull, "en", "withdraw")]
    whole = house.do("rhea", lambda a: dispatches.make(a, both, AT_TEN))
    effect = house.desk.read(house.who("ida"), lambda v: show_quiet.effect(v, TONIGHT))
    assert [one["id"] for one in effect["dispatches"]] == [whole]
    assert (effect["since"], effect["until"]) == ("2027-01-15T22:00:00Z", "2027-01-16T06:00:00Z")
    rest(house)
    house.later(15 * HOUR)
    assert (house.state(whole), held(house, whole)) == ("held", ["quiet"])
    assert (house.is_out(fog), house.is_out(gull)) == (False, True), "all or none"
    with house.desk.db.read() as conn:
        (last,) = [e for e in events.after(conn, 0, 1000) if e.kind == "dispatch.held"]
    told = house.desk.read(house.who("wim"), lambda v: notifications.for_event(v, last))
    names = house.desk.read(
        house.who("wim"), lambda v: {people.actor(v.conn, n.actor).handle: n.code for n in told}
    )
    assert names == {"rhea": "held", "ida": "held_for_you"}, "whoever answers for it, and who can send it"
    with pytest.raises(GateUnmet):
        house.do("rhea", lambda a: dispatches.send(a, whole))
    with pytest.raises(Refused):
        house.do("rhea", lambda a: dispatches.send(a, whole, override_quiet=True))
    house.do("ida", lambda a: dispatches.send(a, whole, override_quiet=True))
    assert (house.is_out(fog), house.is_out(gull)) == (True, False)


def test_where_the_rest_may_go_only_what_is_released_is_held_back(house: House) -> None:
    fog, gull = house.signed("Fog"), house.signed("Gull")
    plan(house, "ida", [gull], None)
    both = [MoveRequest(fog, "en"), MoveRequest(gull, "en", "withdraw")]
    house.do("rhea", lambda a: dispatches.make(a, both, AT_TEN, partial=True))
    rest(house)
    foreseen = [
        house.desk.read(house.who("ida"), lambda v, p=page: show.entry(v, p, "en"))["planned"][0]["goes"]
        for page in (fog, gull)
    ]
    assert foreseen == [False, True]
    house.later(15 * HOUR)
    assert (house.is_out(fog), house.is_out(gull)) == (False, False)


def test_a_dispatch_that_is_late_is_not_released_in_the_night_that_has_begun(house: House) -> None:
    fog = house.signed("Fog")
    id = plan(house, "rhea", [fog], When(wall="2027-01-15T21:00", zone="UTC"))
    rest(house)
    house.later(15 * HOUR)
    assert house.state(id) == "held"
    house.do("rhea", lambda a: dispatches.replan(a, id, When(wall="2027-01-16T07:00", zone="UTC")))
    with pytest.raises(GateUnmet, match="quiet period"):
        house.do("rhea", lambda a: dispatches.replan(a, id, When(wall="2027-01-16T23:00", zone="UTC")))
    house.later(10 * HOUR)
    assert house.state(id) == "gone"


def test_overriding_one_time_is_not_overriding_another(house: House) -> None:
    rest(house)
    fog = house.signed("Fog")
    id = plan(house, "ida", [fog], AT_TEN, override_quiet=True)
    house.do("rhea", lambda a: dispatches.replan(a, id, When(wall="2027-01-16T12:00", zone="UTC")))
    rest(house, Times("2027-01-16T11:00", "2027-01-16T13:00", "UTC", "", "Works"))
    # At that very time: what is late goes once the period is over.
    house.clock.at = parse_instant("2027-01-16T12:00:00Z")
    house.later(1)
    assert house.state(id) == "held"


def test_one_that_is_ended_or_changed_holds_no_more(house: House) -> None:
    first = rest(house)
    other = rest(house, Times("2027-01-15T20:00", "2027-01-15T23:00", "UTC", "", "Works"))
    fog = house.signed("Fog")
    house.do("ida", lambda a: quiet_periods.end(a, first))
    with pytest.raises(GateUnmet, match="Works"):
        plan(house, "rhea", [fog], AT_TEN)
    house.do(
        "ida",
        lambda a: quiet_periods.change(
            a, other, Times("2027-01-15T20:00", "2027-01-15T22:00", "UTC", "", "Works")
        ),
    )
    plan(house, "rhea", [fog], AT_TEN)
    with pytest.raises(NotFound):
        house.do("ida", lambda a: quiet_periods.end(a, first))


def test_who_sets_nothing_up_adds_none_and_what_is_none_is_refused(house: House) -> None:
    with pytest.raises(Refused):
        house.do("rhea", lambda a: quiet_periods.add(a, TONIGHT))
    with pytest.raises(Invalid, match="reason"):
        rest(house, Times("2027-01-15T20:00", "2027-01-15T23:00", "UTC"))
    with pytest.raises(BadTime):
        rest(house, Times("2027-01-15T20:00", "2027-01-15T23:00", "Nowhere/City", "", "x"))
    with house.desk.db.read() as conn:
        assert people.by_handle(conn, "rhea") is not None
    assert house.desk.read(house.who("rhea"), quiet_periods.listing) == []


def test_the_times_of_a_month_are_listed_in_order(house: House) -> None:
    rest(house)
    rest(house, Times("2027-01-16T12:00", "2027-01-16T13:00", "Europe/Paris", "", "Works"))
    found = house.desk.read(
        house.who("wim"),
        lambda v: quiet_periods.spans(v, house.clock.at, house.clock.at + 48 * HOUR * SECOND),
    )
    assert [(iso(s.since)[5:16], s.period.reason) for s in found] == [
        ("01-15T22:00", "Nobody is at the desk."),
        ("01-16T11:00", "Works"),
        ("01-16T22:00", "Nobody is at the desk."),
    ]
