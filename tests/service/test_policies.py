"""Policies of types: what a day means, what becomes of the past, and what a release has to have."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import contenttypes
from hawthorn.core.contenttypes import policy
from hawthorn.core.contenttypes.policy import Policy
from hawthorn.core.errors import BadTime, GateUnmet, InTheWay, Invalid
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import dispatches, gathering, records, review
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.views import show
from tests.service.made import House

HOUR = 3600 * SECOND


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def says(house: House, **wanted: Any) -> None:
    """Give pages a policy."""

    def define(act: Any) -> None:
        now = contenttypes.to_dict(act.setup.types["page"])
        changing.define_type(act, {**now, "policy": wanted})

    house.do("ida", define)


def make(
    house: House, *pages: str, when: When | None = None, until: When | None = None, verb: str = "release"
) -> str:
    requests = [MoveRequest(p, "en", verb) for p in pages]
    return house.do("ida", lambda a: dispatches.make(a, requests, when, until=until))


def time_of(house: House, id: str) -> str:
    return house.desk.read(house.who("ida"), lambda v: iso(records.find(v, id).at))


def day(date: str) -> When:
    return When(wall=date, zone="Europe/Paris")


def test_a_day_without_an_hour_has_the_usual_one_of_the_type(house: House) -> None:
    fog = house.signed("Fog")
    assert time_of(house, make(house, fog, when=day("2027-02-01"))) == "2027-02-01T08:00:00Z"
    says(house, hour="17:30")
    gull = house.signed("Gull")
    assert time_of(house, make(house, gull, when=day("2027-02-01"))) == "2027-02-01T16:30:00Z"
    made = house.do(
        "ida", lambda a: gathering.start(a, About("Later"), [MoveRequest(gull, "en", "withdraw")])
    )
    house.do("ida", lambda a: dispatches.plan(a, made, day("2027-03-01")))
    assert time_of(house, made) == "2027-03-01T16:30:00Z"
    house.do("ida", lambda a: dispatches.replan(a, made, day("2027-07-01")))
    assert time_of(house, made) == "2027-07-01T15:30:00Z", "in summer too"


def test_the_past_is_refused_or_now_or_goes_with_what_is_next(house: House) -> None:
    before = When(instant=iso(house.clock.at - HOUR))
    fog, gull, rope = (house.signed(name) for name in ("Fog", "Gull", "Rope"))
    with pytest.raises(BadTime, match="is past"):
        make(house, fog, when=before)
    says(house, past="next")
    with pytest.raises(BadTime):
        make(house, fog, when=before)
    later = make(house, gull, when=When(instant=iso(house.clock.at + 5 * HOUR)))
    joined = make(house, fog, when=before)
    assert time_of(house, joined) == time_of(house, later)
    assert not house.is_out(fog)
    says(house, past="now")
    assert house.state(make(house, rope, when=before)) == "gone"
    assert house.is_out(rope)
    # Of several types the strictest counts.
    assert policy.past_of([Policy("now"), Policy("next")]) == "next"
    assert policy.past_of([Policy("now"), Policy("refuse"), Policy("next")]) == "refuse"
    assert policy.past_of([]) == "refuse"


def test_what_has_to_be_planned_is_not_released_at_once(house: House) -> None:
    fog = house.signed("Fog")
    says(house, needs_date=True)
    with pytest.raises(GateUnmet, match="planned time"):
        make(house, fog)
    made = house.do("ida", lambda a: gathering.start(a, About("Later"), [MoveRequest(fog, "en")]))
    with pytest.raises(GateUnmet, match="planned time"):
        house.do("ida", lambda a: dispatches.send(a, made))
    make(house, fog, when=When(instant=iso(house.clock.at + HOUR)))
    house.later(7200)
    assert house.is_out(fog)
    # What is taken back is taken back at any time.
    make(house, fog, verb="withdraw")
    assert not house.is_out(fog)


def test_what_has_to_end_is_planned_with_its_end_in_one_step(house: House) -> None:
    fog = house.signed("Fog")
    says(house, needs_end=True)
    with pytest.raises(GateUnmet, match="no end"):
        make(house, fog)
    begins, ends = (When(instant=iso(house.clock.at + n * HOUR)) for n in (1, 10))
    with pytest.raises(Invalid, match="after the release"):
        make(house, fog, when=ends, until=begins)
    with pytest.raises(Invalid):
        make(house, fog, when=begins, until=ends, verb="withdraw")
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM dispatch").fetchone()[0] == 0, "nothing half done"
    make(house, fog, when=begins, until=ends)
    house.later(3700)
    assert house.is_out(fog)
    house.later(9 * 3600)
    assert not house.is_out(fog)


def test_the_last_end_of_what_has_to_have_one_is_not_called_off(house: House) -> None:
    fog = house.signed("Fog")
    first, second, third = (When(instant=iso(house.clock.at + n * HOUR)) for n in (1, 10, 20))
    says(house, needs_end=True)
    make(house, fog, when=first, until=second)
    ends = house.desk.read(house.who("ida"), lambda v: show.entry(v, fog, "en"))["planned"][-1]["dispatch"]
    house.later(3700)
    with pytest.raises(InTheWay, match="the only one"):
        house.do("ida", lambda a: dispatches.cancel(a, ends))
    later = make(house, fog, when=third, verb="withdraw")
    house.do("ida", lambda a: dispatches.cancel(a, ends))
    with pytest.raises(InTheWay, match="the only one"):
        house.do("ida", lambda a: dispatches.cancel(a, later))
    says(house, needs_end=False)
    house.do("ida", lambda a: dispatches.cancel(a, later))


def test_what_is_submitted_has_to_say_what_changed(house: House) -> None:
    says(house, needs_note=True)
    fog = house.page("Fog")
    with pytest.raises(Invalid, match="what changed"):
        house.do("wim", lambda a: review.submit(a, fog, "en"))
    house.do("wim", lambda a: review.submit(a, fog, "en", "The whole of it."))
    gull = house.page("Gull")

    def noted(a: Any) -> None:
        base = entries.current_base(a, entries.store.entry(a.conn, gull).id, "en", "draft")
        entries.save(a, gull, "en", {"body": "<p>More.</p>"}, base, "Two words.")

    house.do("wim", noted)
    house.do("wim", lambda a: review.submit(a, gull, "en"))


@pytest.mark.parametrize(
    ("wanted", "where"),
    [({"past": "later"}, "policy.past"), ({"hour": "9"}, "policy.hour"), ({"hour": "24:00"}, "policy.hour"), ({"until": 1}, "policy.until"),
     ({"needs_end": "perhaps"}, "policy.needs_end"), ([], "policy")],
)  # fmt: skip
def test_what_is_no_policy_is_refused_by_the_member(house: House, wanted: Any, where: str) -> None:
    def define(act: Any) -> None:
        changing.define_type(act, {**contenttypes.to_dict(act.setup.types["page"]), "policy": wanted})

    if wanted == []:
        wanted.append(1)
    with pytest.raises(Invalid) as refused:
        house.do("ida", define)
    assert any(p.where == where for p in refused.value.facts["problems"])
