"""A dispatch that is put together outlives what it holds: entries that are removed, stages and fields that go. It says so, and hides nothing else."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import contenttypes
from hawthorn.core.errors import GateUnmet, NotFound, Refused
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import people
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import (
    dispatches,
    gathering,
    records,
    review,
    reviewing,
    undoing,
    workflow_effects,
    workflows,
)
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.views import my_work, show, show_dispatches
from tests.service.made import House
from tests.service.test_planned_fields import FIELDS, add_fields, at
from tests.service.test_workflows import flow

LAW = {"name": "law", "gate": {"sign_offs": 1}}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def opened(house: House, *requests: MoveRequest) -> str:
    when = When(instant=iso(house.clock.at + 3600 * SECOND))
    return house.do("ida", lambda a: gathering.start(a, About(name="Spring"), requests, when))


def unmet(house: House, made: str) -> list[tuple[str, str, list[str]]]:
    """What a dispatch checks as: the title and the locale of each move with the codes of what is unmet."""

    def look(view: Any) -> list[tuple[str, str, list[str]]]:
        # Its page and everybody's work are there whatever it holds.
        show_dispatches.dispatch(view, records.find(view, made))
        my_work.my_work(view)
        found = show_dispatches.dispatch_check(view, dispatches.check(view, made))["moves"]
        return [(m["title"], m["locale"], [u["code"] for u in m["unmet"]]) for m in found]

    assert house.desk.read(house.who("oda"), look)
    return house.desk.read(house.who("ida"), look)


def redefined(house: House, *, drop: str = "", limit: int | None = None, of: str = "") -> list[str]:
    """Take a field from pages, or give one another limit; returns what that was said to do."""

    def do(act: Any) -> list[str]:
        now = contenttypes.to_dict(act.setup.types["page"])
        fields = [f | {"limit": limit} if f["name"] == of else f for f in now["fields"] if f["name"] != drop]
        wanted = {**now, "fields": fields}
        said = [effect.what for effect in changing.check_type(act, wanted).effects]
        changing.define_type(act, wanted)
        return said

    return house.do("ida", do)


def test_an_entry_that_was_removed_is_said_to_be_and_can_be_taken_out(house: House) -> None:
    fog, salt = house.page("Fog"), house.page("Salt")
    made = opened(house, MoveRequest(fog, "en"), MoveRequest(salt, "en"))
    house.do("ida", lambda a: reviewing.ask(a, made))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(fog, "en", "remove")]))
    assert unmet(house, made)[0] == ("Fog", "en", ["removed"])
    assert {code for *_, codes in unmet(house, made)[1:] for code in codes} == {"sign-offs"}
    assert house.do("oda", lambda a: reviewing.sign(a, made)) > 0, "the rest of it is signed off all the same"
    for partial in (False, True):
        house.do("ida", lambda a: gathering.describe(a, made, About(partial=partial)))  # noqa: B023
        with pytest.raises(GateUnmet) as stopped:
            house.do("ida", lambda a: dispatches.plan(a, made))
        assert [u["code"] for u in stopped.value.facts["unmet"]] == ["removed"]
    with pytest.raises(NotFound):
        house.do("ida", lambda a: gathering.add(a, made, [MoveRequest(fog, "en", "withdraw")]))
    assert house.do("wim", lambda a: gathering.drop(a, made, [(fog, "en")])) == 1
    house.do("ida", lambda a: dispatches.plan(a, made))
    house.later(4000)
    assert house.is_out(salt)


def test_who_may_not_write_an_entry_does_not_take_it_out_as_it_was_removed(house: House) -> None:
    fog = house.page("Fog")
    house.do("ida", lambda a: people.define_role(a, "looker", "Looker", [{"verb": "read"}]))
    house.by_scheduler(house._adding("lou", "looker"))
    made = opened(house, MoveRequest(fog, "en"))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(fog, "en", "remove")]))
    with pytest.raises(Refused):
        house.do("lou", lambda a: gathering.drop(a, made, [(fog, "en")]))


def test_a_stage_that_goes_holds_what_is_to_go_there_and_says_so_before(house: House) -> None:
    house.do("ida", lambda a: workflows.define(a, flow("standard", LAW)))
    fog, salt = house.signed("Fog"), house.page("Salt")
    to_law = {"stage": "law"}
    made = opened(house, MoveRequest(salt, "en", "advance", payload=to_law))
    planned = house.do(
        "ida",
        lambda a: dispatches.make(
            a,
            [MoveRequest(fog, "en", "advance", payload=to_law)],
            When(instant=iso(house.clock.at + 600 * SECOND)),
        ),
    )
    said = house.desk.read(house.who("ida"), lambda v: workflow_effects.check(v, flow("standard")).effects)
    assert [e.editions for e in said if "planned" in e.what] == [2], "and it is said once"
    assert any("planned to go to Law" in e.what for e in said)
    house.do("ida", lambda a: workflows.define(a, flow("standard")))
    assert unmet(house, made) == [("Salt", "en", ["no-stage"])]
    assert [codes for *_, codes in unmet(house, planned)] == [["no-stage"]]
    house.later(700)
    assert house.state(planned) == "held"
    house.do("ida", lambda a: workflows.define(a, flow("standard", LAW)))
    assert unmet(house, made)[0] == ("Salt", "en", ["sign-offs"]), "it is there again"


def test_what_is_planned_to_go_to_a_stage_that_goes_is_said_once(house: House) -> None:
    house.do("ida", lambda a: workflows.define(a, flow("standard", {"name": "law"})))
    request = MoveRequest(house.page("Rope"), "en", "advance", payload={"stage": "law"})
    when = When(instant=iso(house.clock.at + 600 * SECOND))
    planned = house.do("ida", lambda a: dispatches.make(a, [request], when))
    said = house.desk.read(house.who("ida"), lambda v: workflow_effects.check(v, flow("standard")).effects)
    assert [(e.editions, "planned to go to Law" in e.what) for e in said] == [(1, True)]
    house.do("ida", lambda a: workflows.define(a, flow("standard")))
    house.later(700)
    assert house.state(planned) == "held"


def test_a_field_that_goes_or_takes_less_is_said_of_what_sets_it(house: House) -> None:
    add_fields(house, [{"name": "note", "kind": "line", "label": "Note"}])
    fog, salt = house.page("Fog"), house.page("Salt")
    made = opened(
        house,
        MoveRequest(fog, "en", "set", payload={"fields": {"note": "Wet until noon"}}),
        MoveRequest(salt, "en"),
    )
    redefined(house, of="note", limit=5)
    assert unmet(house, made)[0] == ("Fog", "en", ["stuck"])
    redefined(house, drop="note")
    assert unmet(house, made)[0] == ("Fog", "en", ["stuck"])
    house.do("ida", lambda a: gathering.drop(a, made, [(fog, "en")]))
    assert {title for title, *_ in unmet(house, made)} == {"Salt"}


def test_what_a_field_planned_stays_planned_without_it_and_that_is_said(house: House) -> None:
    add_fields(house, FIELDS)
    fog = house.page("Fog")
    wish = at(house, 600)
    house.do("ida", lambda a: entries.save(a, fog, "en", {"out_from": wish}, entries.base_now(a, fog, "en")))
    said = redefined(house, drop="out_from")
    assert any("stays in the timetable" in what for what in said)
    number = house.revision(fog)["number"]
    house.do("wim", lambda a: review.submit(a, fog, "en"))
    house.do("oda", lambda a: review.sign_off(a, fog, "en", number))
    house.later(700)
    assert house.is_out(fog)


@pytest.mark.parametrize("verb", ["release", "remove", "archive"])
def test_what_is_undone_stands_where_its_workflow_has_a_stage_by_now(house: House, verb: str) -> None:
    house.do("ida", lambda a: workflows.define(a, flow("standard", LAW)))
    fog = house.signed("Fog")
    if verb == "release":
        house.do("ida", lambda a: review.sign_off(a, fog, "en", 1))
    made = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(fog, "en", verb)]))
    house.do("ida", lambda a: workflows.define(a, flow("standard")))
    house.do("ida", lambda a: undoing.undo(a, made))
    assert [stage for stage, _, _, until in house.standing(fog) if until is None] == ["review"]
    entry = house.desk.read(house.who("oda"), lambda v: show.entry(v, fog, "en"))
    assert [bead["stage"] for bead in entry["rail"]] == ["draft", "review", "release"]
    if verb == "release":
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(fog, "en")]))
    else:
        assert entry["review"] is not None
        assert (entry["review"]["stage"], entry["review"]["outcome"]) == ("review", "waiting")
        assert "Oda" in entry["deciders"]
        house.do("wim", lambda a: review.take_back(a, fog, "en"))
