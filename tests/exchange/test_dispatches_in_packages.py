"""Dispatches that are still to go come out of another house as they were, open there: nothing goes before somebody there plans it, and then just what was chosen."""

from __future__ import annotations

import json
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import GateUnmet
from hawthorn.core.exchange.package import DISPATCHES
from hawthorn.core.timeline import iso
from hawthorn.operations.collaboration import comments
from hawthorn.operations.content import entries
from hawthorn.operations.exchange import dispatches as carried
from hawthorn.operations.exchange import packages
from hawthorn.operations.exchange.exporting import Choice
from hawthorn.operations.exchange.report import Wish
from hawthorn.operations.release import dispatches, gathering, review, reviewing
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.views import my_work
from hawthorn.store import to_go
from tests.exchange.made import altered, exported, given, imported, row, trouble, work
from tests.exchange.test_packages import ALL, lines_as_described, save, text
from tests.service.made import START, Clock, House
from tests.service.test_leaving import drafted, out
from tests.service.test_planned_fields import FIELDS, add_fields, at, states
from tests.service.test_planned_fields import save as fill

DAY = 24 * 3600


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path, Clock(START))
    yield made
    made.close()


@pytest.fixture
def other(tmp_path: Path) -> Iterator[House]:
    (tmp_path / "other").mkdir()
    made = House(tmp_path / "other", Clock(START))
    yield made
    made.close()


def planned(house: House) -> tuple[str, str]:
    """A page that was signed off, planned for tomorrow and written on since; and its dispatch."""
    page = house.signed("Regatta", body="<p>Signed.</p>")
    dispatch = house.plan([page], DAY)
    save(house, page, body="<p>Written since.</p>")
    return page, dispatch


def opened(house: House) -> tuple[str, str]:
    """A page that is out and is written anew inside a dispatch that is being put together; and that dispatch."""
    page = house.signed("Boats")
    house.do("ida", lambda act: dispatches.make(act, [MoveRequest(page, "en")]))
    dispatch = house.do("ida", lambda act: gathering.start(act, About("Boats in spring", "For the season.")))
    name = house.do("ida", lambda act: gathering.write_in(act, dispatch, page, "en"))
    fields = {"body": "<p>Boats in spring.</p>"}
    under = house.desk.read(
        house.who("wim"), lambda v: entries.current_base(v, entries.permission.find(v, page).id, "en", name)
    )
    house.do("wim", lambda act: entries.save(act, page, "en", fields, under, strand=name))
    return page, dispatch


def kept(house: House) -> list[tuple[Any, ...]]:
    """The dispatches that are still to go, with their states and how much each moves and holds."""
    with house.desk.db.read() as conn:
        return [
            (d.uuid, d.name, house.state(d.uuid), len(to_go.moves(conn, d.id)), len(to_go.inside(conn, d.id)))
            for d in to_go.dispatches(conn)
        ]


def test_they_come_open_with_their_time_and_what_was_chosen_and_go_out_again_as_the_same_bytes(
    house: House, other: House, tmp_path: Path
) -> None:
    (regatta, first), (boats, second) = planned(house), opened(house)
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    _, seen, done = imported(other.desk, other.who("ida"), file)
    assert (seen["dispatches"], seen["new_dispatches"], done["new_dispatches"]) == (2, 2, 2)
    assert [(uuid, state) for uuid, _, state, _, _ in kept(other)] == [(second, "open"), (first, "open")]
    assert exported(other.desk, other.who("ida"), tmp_path / "b.zip").read_bytes() == file.read_bytes()
    # Its time comes, and nothing goes: nobody here said so.
    other.later(2 * DAY)
    assert not other.is_out(regatta)
    tomorrow = When(instant=iso(other.clock.at + DAY * 1_000_000))
    other.do("ida", lambda act: dispatches.plan(act, first, tomorrow))
    other.later(2 * DAY)
    assert other.is_out(regatta)
    out = [
        number for stage, number, _, until in other.standing(regatta) if stage == "release" and until is None
    ]
    assert out == [1], "what was signed off goes, not what was written since"
    assert text(other, regatta, "body") == "<p>Written since.</p>"
    # What is written inside the other goes with it, signed there.
    other.do("ida", lambda act: reviewing.ask(act, second))
    other.do("oda", lambda act: reviewing.sign(act, second))
    other.do("ida", lambda act: dispatches.send(act, second))
    assert text(other, boats, "body") == "<p>Boats in spring.</p>"
    assert trouble(other.desk) == []


def discussed(house: House) -> tuple[str, str, str]:
    """Two pages that are out and that a dispatch takes away, sent back once and asked about again: one of them is signed off, and people talk about it."""
    lamp, bell = out(house, "Lamp", "Bell")
    dispatch = drafted(house, "withdraw", lamp, bell)
    house.do("wim", lambda act: reviewing.ask(act, dispatch, "They are broken."))
    house.do("oda", lambda act: reviewing.send_back(act, dispatch, "Both?"))
    house.do("wim", lambda act: reviewing.ask(act, dispatch, "Both."))
    house.do("oda", lambda act: reviewing.sign(act, dispatch, [(lamp, "en")], "The lamp is."))
    first = house.do("oda", lambda act: comments.make_on_dispatch(act, dispatch, "And the bell?"))
    house.do("wim", lambda act: comments.reply(act, first, "It has a crack."))
    second = house.do("ida", lambda act: comments.make_on_dispatch(act, dispatch, "When?"))
    house.do("ida", lambda act: comments.resolve(act, second))
    return lamp, bell, dispatch


def talk(house: House, dispatch: str) -> list[tuple[Any, ...]]:
    """What was said about a dispatch: by whom, what, whether that is settled, and the answers."""
    found = house.desk.read(house.who("ida"), lambda v: comments.on_dispatch(v, dispatch))
    return [(c["by"], c["text"], bool(c["resolved_at"]), [r["text"] for r in c["replies"]]) for c in found]


def test_what_was_decided_and_said_about_them_comes_along_and_counts(
    house: House, other: House, tmp_path: Path
) -> None:
    lamp, bell, dispatch = discussed(house)
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    assert lines_as_described(file) > 3
    id, _, _ = imported(other.desk, other.who("ida"), file, ALL)
    assert exported(other.desk, other.who("ida"), tmp_path / "b.zip").read_bytes() == file.read_bytes()
    assert talk(other, dispatch) == talk(house, dispatch)
    assert len(talk(other, dispatch)) == 2
    # Taken back and given again, nothing of it is there twice.
    other.do("ida", lambda act: packages.undo(act, id))
    work(other.desk, id)
    imported(other.desk, other.who("ida"), file, ALL)
    assert exported(other.desk, other.who("ida"), tmp_path / "b.zip").read_bytes() == file.read_bytes()
    # The sign-off counts, and the review still waits for the other page alone.
    with pytest.raises(GateUnmet) as refused:
        other.do("ida", lambda act: dispatches.send(act, dispatch))
    assert [one["title"] for one in refused.value.facts["unmet"]] == ["Bell"]
    waits = other.desk.read(other.who("oda"), my_work.my_work)["waiting"]
    assert [one["title"] for one in waits if one["kind"] == "dispatch"] == ["Away"]
    other.do("oda", lambda act: reviewing.sign(act, dispatch))
    other.do("ida", lambda act: dispatches.send(act, dispatch))
    assert not other.is_out(lamp)
    assert not other.is_out(bell)
    assert trouble(other.desk) == []


def test_with_new_ids_what_was_said_is_said_of_both(house: House, tmp_path: Path) -> None:
    *_, dispatch = discussed(house)
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    imported(house.desk, house.who("ida"), file, Wish(new_ids=True))
    (new,) = [uuid for uuid, *_ in kept(house) if uuid != dispatch]
    assert talk(house, new) == talk(house, dispatch)
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM comment").fetchone()[0] == 4
        assert conn.execute("SELECT count(*) FROM move_sign_off").fetchone()[0] == 2


def test_they_go_with_all_of_a_house_and_its_history_alone(house: House, tmp_path: Path) -> None:
    page, _ = planned(house)
    ida = house.who("ida")
    for choice in (Choice(entries=(page,)), Choice(history=False)):
        with zipfile.ZipFile(exported(house.desk, ida, tmp_path / "a.zip", choice)) as package:
            assert DISPATCHES not in package.namelist()


def test_what_was_here_before_is_not_moved_by_the_numbers_of_another_house(
    house: House, other: House, tmp_path: Path
) -> None:
    page = house.page("One")
    before = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    imported(other.desk, other.who("ida"), before)
    # Here it was written on, so that its second revision is another.
    save(other, page, body="<p>Ours.</p>")
    save(house, page, body="<p>Theirs.</p>")
    fresh = house.signed("Two")
    house.do("wim", lambda act: review.submit(act, page, "en"))
    house.do("oda", lambda act: review.sign_off(act, page, "en", 2))
    both, alone = house.plan([page, fresh], DAY), house.plan([page], 2 * DAY)
    waits = house.do("ida", lambda act: gathering.start(act, About("Waits"), [MoveRequest(page, "en")]))
    file = exported(house.desk, house.who("ida"), tmp_path / "b.zip")
    _, _, done = imported(other.desk, other.who("ida"), file)
    here = {uuid: moved for uuid, _, _, moved, _ in kept(other)}
    assert here == {both: 1, waits: 1}, "of the one that was here only what names no revision comes"
    assert alone not in here
    named = [one["why"] for one in done["named"] if not one["id"]]
    assert [why.split(":")[0] for why in named] == [
        "1 of its 1 moves did not come",
        "1 of its 2 moves did not come",
    ]


def test_those_that_are_here_stay_and_those_that_came_are_taken_back_unless_somebody_took_them_on(
    house: House, other: House, tmp_path: Path
) -> None:
    (regatta, first), (boats, second) = planned(house), opened(house)
    third = house.do("ida", lambda act: gathering.start(act, About("Later"), [MoveRequest(boats, "en")]))
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    ida = other.who("ida")
    id, _, _ = imported(other.desk, ida, file)
    _, again, nothing = imported(other.desk, ida, file)
    assert (again["dispatches"], again["new_dispatches"], nothing["new_dispatches"]) == (3, 0, 0)
    other.do("ida", lambda act: packages.undo(act, id))
    assert (work(other.desk, id).state, kept(other)) == ("undone", [])
    with other.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM entry WHERE removed_at IS NULL").fetchone()[0] == 0
    # Given again, they are here again.
    id, anew, done = imported(other.desk, ida, file)
    assert (anew["new_dispatches"], done["new_dispatches"]) == (3, 3)
    assert exported(other.desk, ida, tmp_path / "b.zip").read_bytes() == file.read_bytes()
    other.later(1)
    tomorrow = When(instant=iso(other.clock.at + DAY * 1_000_000))
    other.do("ida", lambda act: dispatches.plan(act, first, tomorrow))
    other.do("ida", lambda act: gathering.describe(act, third, About(note="Ours by now.")))
    other.do("ida", lambda act: packages.undo(act, id))
    left = json.loads(work(other.desk, id).report)["named"]
    assert [one["title"] for one in left if not one["id"]] == [name for _, name, *_ in kept(other)]
    assert {uuid: state for uuid, _, state, _, _ in kept(other)} == {first: "planned", third: "open"}
    assert {one["id"] for one in left if one["id"]} == {regatta, boats}, "what they move stays with them"
    assert other.state(second) == "cancelled"


def test_with_new_ids_they_move_what_came(house: House, tmp_path: Path) -> None:
    (regatta, first), _ = planned(house), opened(house)
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    before = {uuid for uuid, *_ in kept(house)}
    imported(house.desk, house.who("ida"), file, Wish(new_ids=True))
    assert len(kept(house)) == 4
    new = [one for one in kept(house) if one[0] not in before]
    assert [one[2:] for one in new] == [("open", 1, 2), ("open", 1, 0)]
    with house.desk.db.read() as conn:
        moved = {
            m.entry for d in to_go.dispatches(conn) if d.uuid not in before for m in to_go.moves(conn, d.id)
        }
    assert regatta not in moved
    assert len(moved) == 2
    assert house.state(first) == "planned"


def test_they_go_on_exactly_where_they_were_stopped(
    house: House, other: House, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    page = house.signed("One")
    for n in range(7):
        house.do("ida", lambda act, n=n: gathering.start(act, About(f"No {n}"), [MoveRequest(page, "en")]))  # type: ignore[misc]
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    monkeypatch.setattr(carried, "AT_ONCE", 2)
    uuid = given(other.desk, other.who("ida"), file)
    work(other.desk, uuid)
    other.do("ida", lambda act: packages.run(act, uuid))
    turns = 0
    while row(other.desk, uuid).state != "done":
        steps = iter(range(turns % 3 + 1))
        work(other.desk, uuid, lambda left=steps: next(left, None) is not None)  # type: ignore[misc]
        turns += 1
        assert turns < 60
    assert turns > 5
    assert [name for _, name, *_ in kept(other)] == [f"No {n}" for n in range(7)], "none has a time: by id"
    with other.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM exchange_dispatch").fetchone()[0] == 7


def test_what_a_field_plans_is_a_wish_there_and_what_it_planned_once_is_not_asked_again(
    house: House, other: House, tmp_path: Path
) -> None:
    add_fields(house, FIELDS)
    past, coming = house.page("Past"), house.page("Coming")
    fill(house, past, "ida", out_from=at(house, 60))
    fill(house, coming, "ida", out_from=at(house, DAY), out_until=at(house, 2 * DAY))
    house.later(120)
    other.clock.at = house.clock.at
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    _, seen, done = imported(other.desk, other.who("ida"), file, Wish(definitions=True))
    assert seen["dispatches"] == 0
    assert states(other, coming) == {"out_from": "wish", "out_until": "wish"}
    assert [(one["id"], one["why"]) for one in done["named"]] == [
        (
            coming,
            "Not planned here yet: Out from, Out until. A sign-off of the entry plans it; so does another time in the field.",
        )
    ]
    assert kept(other) == []
    # What was planned once does not keep anybody from writing on.
    save(other, past, body="<p>Written on.</p>")
    assert text(other, past, "body") == "<p>Written on.</p>"
    # Who signs it off confirms what it asks for.
    other.do("wim", lambda act: review.submit(act, coming, "en"))
    number = other.revision(coming)["number"]
    other.do("oda", lambda act: review.sign_off(act, coming, "en", number))
    assert states(other, coming) == {"out_from": "planned", "out_until": "planned"}
    other.later(DAY)
    assert other.is_out(coming)
    other.later(DAY)
    assert not other.is_out(coming)
    assert trouble(other.desk) == []


WHEN = "2026-01-01T00:00:00Z"
LEAVES = {"entry": "", "locale": "en", "by": "oda", "roles": [], "at": WHEN, "note": ""}
WAITS = {
    "by": "wim", "at": WHEN, "note": "", "outcome": None, "decided_by": None, "decided_at": None, "reason": "",
}  # fmt: skip
ANSWER = {
    "id": "01a1f5b2-4c1d-7a41-9d40-1de0b42efb6a", "by": "wim", "kind": "person", "at": WHEN, "text": "Yes.",
}  # fmt: skip
SAID: dict[str, Any] = {
    "id": "01a1f5b2-4c1d-7a41-9d40-1de0b42efb6b", "by": "oda", "kind": "person", "at": WHEN, "text": "Why?",
    "resolved_at": None, "resolved_by": None, "replies": [],
}  # fmt: skip


def of(dispatch: dict[str, Any], sign_off: dict[str, Any]) -> dict[str, Any]:
    """A sign-off of the first that a dispatch moves."""
    return {**sign_off, "entry": dispatch["moves"][0]["entry"]}


WRONG: dict[str, tuple[Callable[[dict[str, Any]], Any], str]] = {
    "another entry": (lambda one: one["moves"][0].update(entry="0" * 36), "which the package does not have"),
    "another locale": (lambda one: one["moves"][0].update(locale="fr"), "which the package does not have"),
    "another revision": (lambda one: one["moves"][0].update(revision=99), "revision 99"),
    "twice": (lambda one: one["moves"].append(one["moves"][0]), "twice"),
    "another verb": (lambda one: one["moves"][0].update(verb="burn"), "burn"),
    "a verb that nobody asks for": (lambda one: one["moves"][0].update(verb="restore"), "restore"),
    "what no verb carries": (lambda one: one["moves"][0].update(payload={"x": 1}), "x"),
    "nobody": (lambda one: one.update(owner="nobody"), "nobody"),
    "no id": (lambda one: one.update(id="../1"), "no id"),
    "no name": (lambda one: one.update(name=" "), "needed"),
    "no time": (lambda one: one["when"].update(instant="soon"), "time"),
    "no wall time": (lambda one: one["when"].update(wall="9 o'clock"), "time"),
    "no strand": (
        lambda one: one["inside"].append(
            {"entry": one["moves"][0]["entry"], "locale": "en", "strand": "draft"}
        ),
        "strand",
    ),
    "a sign-off of what it does not move": (lambda one: one["sign_offs"].append({**LEAVES, "locale": "fr"}), "does not move"),
    "signed off by nobody": (lambda one: one["sign_offs"].append({**of(one, LEAVES), "by": "nobody"}), "nobody"),
    "signed off twice": (lambda one: one["sign_offs"].extend([of(one, LEAVES)] * 2), "twice"),
    "signed off at no time": (lambda one: one["sign_offs"].append({**of(one, LEAVES), "at": "soon"}), "time"),
    "two reviews that wait": (lambda one: one["reviews"].extend([WAITS] * 2), "wait at once"),
    "a review decided by nobody": (lambda one: one["reviews"].append({**WAITS, "outcome": "sent back", "decided_by": "nobody"}), "nobody"),
    "a review decided at no time": (lambda one: one["reviews"].append({**WAITS, "outcome": "sent back", "decided_at": "soon"}), "time"),
    "a comment of no id": (lambda one: one["comments"].append({**SAID, "id": "../1"}), "no id"),
    "a comment twice": (lambda one: one["comments"].extend([SAID] * 2), "twice"),
    "answered by nobody": (lambda one: one["comments"].append({**SAID, "replies": [{**ANSWER, "by": "nobody"}]}), "nobody"),
    "answered at no time": (lambda one: one["comments"].append({**SAID, "replies": [{**ANSWER, "at": "soon"}]}), "time"),
    "resolved by nobody": (lambda one: one["comments"].append({**SAID, "resolved_at": SAID["at"], "resolved_by": "nobody"}), "nobody"),
    "resolved at no time": (lambda one: one["comments"].append({**SAID, "resolved_at": "soon", "resolved_by": "ida"}), "time"),
    "a state": (lambda one: one.update(state="gone"), "state"),
}  # fmt: skip


@pytest.mark.parametrize("name", WRONG)
def test_one_that_cannot_be_is_refused_with_the_whole_package(
    house: House, other: House, tmp_path: Path, name: str
) -> None:
    planned(house)
    change, said = WRONG[name]

    def changed(members: dict[str, bytes]) -> dict[str, bytes]:
        told = json.loads(members[DISPATCHES])
        change(told)
        return {**members, DISPATCHES: json.dumps(told).encode() + b"\n"}

    file = altered(exported(house.desk, house.who("ida"), tmp_path / "a.zip"), tmp_path / "b.zip", changed)
    found = work(other.desk, given(other.desk, other.who("ida"), file))
    assert found.state == "failed"
    assert DISPATCHES in found.trouble
    assert said in found.trouble
    with other.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM entry").fetchone()[0] == 0
