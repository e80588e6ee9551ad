"""What leaves readers where the gate asks for sign-offs of that: drafted as a change, reviewed, planned, held and undone like others."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import GateUnmet, Invalid, Refused
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.release import dispatches, gathering, reviewing, undoing, workflows
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.views import my_work
from hawthorn.store import events
from tests.service.made import House
from tests.service.test_planned_fields import FIELDS, add_fields, at, dispatch_of, save, signed
from tests.service.test_workflows import flow


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.by_scheduler(
        lambda a: people.add_person(a, "rhea", "Rhea", "", "long enough", [{"name": "reviewer"}])
    )
    yield made
    made.close()


def out(house: House, *titles: str, **gate: Any) -> list[str]:
    """Pages that are out, in a workflow that asks for sign-offs of what leaves."""
    pages = [house.signed(title) for title in titles]
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(p, "en") for p in pages]))
    house.do("ida", lambda a: workflows.define(a, flow(leaving=True, **gate)))
    return pages


def drafted(house: House, verb: str, *pages: str, by: str = "wim", partial: bool = False) -> str:
    """A dispatch that takes pages away."""
    requests = [MoveRequest(p, "en", verb) for p in pages]
    return house.do(by, lambda a: gathering.start(a, About("Away", partial=partial), requests))


def soon(house: House, seconds: float) -> When:
    return When(instant=iso(house.clock.at + round((seconds + 1) * SECOND)))


@pytest.mark.parametrize("verb", ["withdraw", "archive", "remove"])
def test_what_leaves_is_drafted_reviewed_planned_and_undone(house: House, verb: str) -> None:
    (lamp,) = out(house, "Lamp")
    with pytest.raises(GateUnmet, match="Add it to a dispatch, and submit that for review"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "en", verb)]))
    id = drafted(house, verb, lamp)
    with pytest.raises(GateUnmet, match="needs one more sign-off"):
        house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 60)))
    house.do("wim", lambda a: reviewing.ask(a, id, "It is broken."))
    with house.desk.db.read() as conn:
        (last,) = [e for e in events.after(conn, 0, 1000) if e.kind == "dispatch.submitted"]
    told = house.desk.read(house.who("wim"), lambda v: notifications.for_event(v, last))
    assert {house.who("oda").id, house.who("rhea").id} <= {n.actor for n in told}
    waits = house.desk.read(house.who("oda"), my_work.my_work)["waiting"]
    assert [w["title"] for w in waits if w["kind"] == "dispatch"] == ["Away"]
    assert house.do("oda", lambda a: reviewing.sign(a, id, note="Agreed.")) == 1
    house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 60)))
    assert house.is_out(lamp)
    house.later(120)
    assert (house.state(id), house.is_out(lamp)) == ("gone", False)
    house.do("ida", lambda a: undoing.undo(a, id))
    assert house.is_out(lamp), "what was agreed on is taken back in one act"


def test_whoever_asked_for_it_does_not_sign_it_off_and_roles_are_asked_for(house: House) -> None:
    (lamp,) = out(house, "Lamp", roles=["reviewer", "managing-editor"])
    id = drafted(house, "remove", lamp, by="ida")
    house.do("ida", lambda a: reviewing.ask(a, id))
    with pytest.raises(Refused, match="You asked for this yourself"):
        house.do("ida", lambda a: reviewing.sign(a, id))
    with pytest.raises(Refused, match="reviewer"):
        house.do("oda", lambda a: reviewing.sign(a, id))
    house.do("rhea", lambda a: reviewing.sign(a, id))
    house.do("ida", lambda a: dispatches.send(a, id))
    assert not house.is_out(lamp)


def test_a_sign_off_is_void_when_it_is_sent_back_or_taken_out_and_each_entry_needs_its_own(
    house: House,
) -> None:
    lamp, bell = out(house, "Lamp", "Bell")
    id = drafted(house, "withdraw", lamp, bell)
    house.do("wim", lambda a: reviewing.ask(a, id))
    assert house.do("oda", lambda a: reviewing.sign(a, id, [(lamp, "en")])) == 1
    with pytest.raises(GateUnmet) as refused:
        house.do("ida", lambda a: dispatches.send(a, id))
    assert [u["title"] for u in refused.value.facts["unmet"]] == ["Bell"]
    house.do("oda", lambda a: reviewing.send_back(a, id, "Not the lamp."))
    with pytest.raises(GateUnmet) as refused:
        house.do("ida", lambda a: dispatches.send(a, id))
    assert {u["title"] for u in refused.value.facts["unmet"]} == {"Lamp", "Bell"}
    house.do("wim", lambda a: reviewing.ask(a, id))
    house.do("oda", lambda a: reviewing.sign(a, id))
    house.do("wim", lambda a: gathering.drop(a, id, [(bell, "en")]))
    house.do("wim", lambda a: gathering.add(a, id, [MoveRequest(bell, "en", "withdraw")]))
    with pytest.raises(GateUnmet) as refused:
        house.do("ida", lambda a: dispatches.send(a, id))
    assert [u["title"] for u in refused.value.facts["unmet"]] == ["Bell"]


def test_it_is_held_when_the_gate_asks_for_more_by_then_and_what_was_signed_goes_with_the_rest(
    house: House,
) -> None:
    lamp, bell = out(house, "Lamp", "Bell")
    id = drafted(house, "withdraw", lamp, bell, partial=True)
    house.do("oda", lambda a: reviewing.sign(a, id))
    house.do("ida", lambda a: dispatches.plan(a, id, soon(house, 60)))
    house.do("ida", lambda a: workflows.define(a, flow(leaving=True, sign_offs=2)))
    house.do("rhea", lambda a: reviewing.sign(a, id, [(lamp, "en")]))
    house.later(120)
    assert (house.is_out(lamp), house.is_out(bell)) == (False, True)
    back = next(d for d in held(house) if d.startswith("Held back"))
    house.do("rhea", lambda a: reviewing.sign(a, ids(house)[back]))
    house.do("ida", lambda a: dispatches.send(a, ids(house)[back]))
    assert not house.is_out(bell), "oda's sign-off went along"


def test_what_was_never_out_and_what_a_gate_does_not_ask_for_leaves_as_before(house: House) -> None:
    out(house, "Lamp")
    sail = house.page("Sail")
    house.do("wim", lambda a: dispatches.make(a, [MoveRequest(sail, "en", "remove")]))
    house.do("ida", lambda a: workflows.define(a, flow()))
    bell = house.signed("Bell")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(bell, "en")]))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(bell, "en", "remove")]))
    assert not house.is_out(bell)


def test_a_gate_before_another_stage_does_not_ask_it(house: House) -> None:
    wrong = {"name": "law", "gate": {"sign_offs": 1, "leaving": True}}
    with pytest.raises(Invalid, match="before release alone"):
        house.do("ida", lambda a: workflows.define(a, flow("standard", wrong)))


@pytest.fixture
def said_so(house: House) -> tuple[str, str]:
    """Two pages that are out where what leaves is signed off; the first says in its text until when, and was signed off with that."""
    add_fields(house, FIELDS)
    house.do("ida", lambda a: workflows.define(a, flow(leaving=True)))
    lamp, bell = house.page("Lamp"), house.page("Bell")
    save(house, lamp, "ida", out_until=at(house, 1200))
    for page in (lamp, bell):
        signed(house, page)
        house.do("ida", lambda a, p=page: dispatches.make(a, [MoveRequest(p, "en")]))
    return lamp, bell


def test_a_text_that_says_until_when_it_is_out_was_signed_off_with_that(
    house: House, said_so: tuple[str, str]
) -> None:
    lamp, bell = said_so
    save(house, bell, "ida", out_until=at(house, 1200))
    house.later(1300)
    assert (house.is_out(lamp), house.is_out(bell)) == (False, True), "nobody signed off when the bell leaves"
    (back,) = ids(house).values()
    house.do("oda", lambda a: reviewing.sign(a, back))
    house.do("ida", lambda a: dispatches.send(a, back))
    assert not house.is_out(bell)


def test_a_text_covers_neither_what_others_put_in_nor_a_sooner_time(
    house: House, said_so: tuple[str, str]
) -> None:
    lamp, bell = said_so
    made = dispatch_of(house, lamp, "out_until")
    with pytest.raises(GateUnmet, match="needs one more sign-off"):
        house.do("ida", lambda a: dispatches.send(a, made))
    house.do("ida", lambda a: dispatches.reopen(a, made))
    house.do("ida", lambda a: gathering.add(a, made, [MoveRequest(bell, "en", "withdraw")]))
    with pytest.raises(GateUnmet) as refused:
        house.do("ida", lambda a: dispatches.plan(a, made))
    assert [u["title"] for u in refused.value.facts["unmet"]] == ["Bell"]
    house.do("oda", lambda a: reviewing.sign(a, made))
    house.do("ida", lambda a: dispatches.plan(a, made))
    house.later(1300)
    assert (house.is_out(lamp), house.is_out(bell)) == (False, False)


def ids(house: House) -> dict[str, str]:
    with house.desk.db.read() as conn:
        return dict(conn.execute("SELECT name, uuid FROM dispatch WHERE state = 'held'").fetchall())


def held(house: House) -> list[str]:
    return [*ids(house)]
