"""The outline: order, cycles, stages and instants, copies, and addresses that follow."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hawthorn.core.errors import GateUnmet, HawthornError, InTheWay, Invalid, NotFound
from hawthorn.core.timeline import SECOND
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import outline, reading
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import dispatches, planning, records, review
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import View
from hawthorn.operations.views import show, show_dispatches
from hawthorn.store.standings import DRAFT, RELEASE
from tests.service.made import House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def titles(house: House, below: str = "", where: Place = Place(DRAFT)) -> list[str]:
    lines, more = house.desk.read(house.who("ida"), lambda v: outline.below(v, below, where))
    assert not more
    return [line.title for line in lines]


def tree(house: House, where: Place = Place(DRAFT), below: str = "") -> dict[str, Any]:
    lines, _ = house.desk.read(house.who("ida"), lambda v: outline.below(v, below, where))
    return {line.title: tree(house, where, line.uuid) for line in lines}


def move(house: House, uuid: str, below: str = "", **beside: str) -> outline.Moved:
    return house.do("wim", lambda a: outline.move(a, uuid, below, **beside))


def release(house: House, *uuids: str) -> None:
    for uuid in uuids:
        house.do("wim", lambda a, u=uuid: review.submit(a, u, "en"))
        number = house.revision(uuid)["number"]
        house.do("oda", lambda a, u=uuid, n=number: review.sign_off(a, u, "en", n))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(u, "en") for u in uuids]))


def path(house: House, asked: str, where: Place = Place()) -> tuple[str, str | None]:
    found = house.desk.read(house.who("ida"), lambda v: reading.find_path(v, asked, where))
    return found[0], found[2]


MOVES = st.lists(st.tuples(st.integers(0, 5), st.integers(-1, 5), st.integers(-6, 5)), max_size=14)


@given(MOVES)
@settings(max_examples=25)
def test_any_moves_keep_a_forest_in_the_order_that_was_asked_for(moves: list[tuple[int, int, int]]) -> None:
    with tempfile.TemporaryDirectory() as folder:
        house = House(Path(folder))
        ids = [house.page(f"Page {n}") for n in range(6)]
        model: dict[int, list[int]] = {-1: list(range(6)), **{n: [] for n in range(6)}}

        def above(n: int) -> int:
            return next(p for p, below in model.items() if n in below)

        for one, parent, beside in moves:
            chain, at = {one}, parent
            while at >= 0 and at not in chain:
                at = above(at)
            cycle = at >= 0
            others = [n for n in model[parent] if n != one] if parent != one else []
            near = others[beside % len(others)] if others else None
            asked = {} if near is None else ({"before": ids[near]} if beside < 0 else {"after": ids[near]})
            try:
                move(house, ids[one], ids[parent] if parent >= 0 else "", **asked)
            except HawthornError as refused:
                said = f"Page {parent}" in str(refused) or "below itself" in str(refused)
                if not (cycle and said):
                    raise
                continue
            assert not cycle
            model[above(one)].remove(one)
            at = len(model[parent]) if near is None else model[parent].index(near) + (beside >= 0)
            model[parent].insert(at, one)
        for parent, below in model.items():
            assert titles(house, ids[parent] if parent >= 0 else "") == [f"Page {n}" for n in below]
        house.close()


def test_a_move_is_undone_as_it_was(house: House) -> None:
    one, two, three = (house.page(t) for t in ("One", "Two", "Three"))
    first = move(house, three, before=one)
    second = move(house, three, two)
    assert tree(house) == {"One": {}, "Two": {"Three": {}}}
    house.do("wim", lambda a: outline.place(a, three, second.before))
    assert titles(house) == ["Three", "One", "Two"]
    house.do("wim", lambda a: outline.place(a, three, first.before))
    assert titles(house) == ["One", "Two", "Three"]


def test_readers_see_a_move_when_it_is_released_and_can_look_back_and_ahead(house: House) -> None:
    piers, lamps, bells = (house.page(t) for t in ("Piers", "Lamps", "Bells"))
    release(house, piers, lamps, bells)
    before = house.clock.now()
    house.later(5)
    move(house, bells, lamps)
    assert tree(house) == {"Piers": {}, "Lamps": {"Bells": {}}}
    assert titles(house, where=Place()) == ["Piers", "Lamps", "Bells"]
    house.do("wim", lambda a: review.submit(a, bells, "en"))
    assert titles(house, where=Place(house_stage(house, "review"))) == ["Piers", "Lamps"]
    house.do("oda", lambda a: review.sign_off(a, bells, "en", 1))
    house.plan([bells], 60)
    ahead = Place(RELEASE, house.clock.now() + 120 * SECOND)
    assert titles(house, where=Place()) == ["Piers", "Lamps", "Bells"]
    assert titles(house, where=ahead) == ["Piers", "Lamps"]
    assert titles(house, lamps, ahead) == ["Bells"]
    house.later(90)
    assert tree(house, Place()) == {"Piers": {}, "Lamps": {"Bells": {}}}
    assert titles(house, where=Place(RELEASE, before)) == ["Piers", "Lamps", "Bells"]
    # Old addresses lead to the new ones, for what lay below too.
    assert path(house, "en/bells") == (bells, "/en/lamps/bells")
    assert path(house, "en/lamps/bells") == (bells, None)
    assert path(house, "en/bells", Place(RELEASE, before)) == (bells, None)


def house_stage(house: House, name: str) -> int:
    return house.desk.read(house.who("ida"), lambda v: v.setup.stages[name])


def test_releasing_one_of_two_moves_must_not_make_a_cycle(house: House) -> None:
    one, two = house.page("One"), house.page("Two")
    release(house, one, two)
    move(house, one, two)
    for uuid in (one,):
        house.do("wim", lambda a, u=uuid: review.submit(a, u, "en"))
        house.do("oda", lambda a, u=uuid: review.sign_off(a, u, "en", 1))
    with pytest.raises(Invalid, match="“One” stands at or below it"):
        move(house, two, one)
    # The drafts are put right the other way about, while the first move still waits to be released.
    move(house, one)
    move(house, two, one)
    house.do("wim", lambda a: review.submit(a, two, "en"))
    house.do("oda", lambda a: review.sign_off(a, two, "en", 1))
    with pytest.raises(GateUnmet, match=r"“One” below “Two” below “One”|“Two” below “One” below “Two”"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(one, "en"), MoveRequest(two, "en")]))


def test_a_move_to_where_the_address_is_taken_is_refused_with_the_place_named(house: House) -> None:
    piers = house.page("Piers")
    house.page("Bell", slug="bell", below=piers)
    other = house.page("Another bell", slug="bell")
    with pytest.raises(InTheWay, match="“Bell” stands below “Piers” with the same address “bell”"):
        move(house, other, piers)
    kinds = house.do("wim", lambda a: entries.start(a, "picture", "en", {"title": "Not a page"}))
    with pytest.raises(InTheWay, match="stand where they are"):
        move(house, kinds, piers)
    with pytest.raises(Invalid, match="cannot stand below “Picture”"):
        move(house, other, kinds)


def test_a_copy_takes_what_is_below_along_and_leads_to_the_copies(house: House) -> None:
    piers = house.page("Piers")
    north = house.page("North", below=piers)
    south = house.page("South", below=piers, body=f'<p>See <a href="urn:uuid:{north}">the north</a>.</p>')
    move(house, south, piers, before=north)
    copied, count = house.do("wim", lambda a: outline.copy(a, piers))
    assert count == 3
    assert tree(house)["Piers (copy)"] == {"South": {}, "North": {}}
    lines, _ = house.desk.read(house.who("ida"), lambda v: outline.below(v, copied, Place(DRAFT)))
    inside = {line.title: line.uuid for line in lines}
    body = house.desk.read(house.who("ida"), lambda v: show.entry(v, inside["South"], "en"))["fields"]["body"]
    assert inside["North"] in body
    assert north not in body


def test_a_wide_level_comes_in_pages_and_a_deep_one_by_its_way_up(house: House) -> None:
    top = house.page("Top")
    names = [f"Below {n:02d}" for n in range(25)]
    ids = [house.page(name, below=top) for name in names]
    found: list[str] = []
    cursor = ""
    while True:
        lines, cursor = house.desk.read(
            house.who("ida"), lambda v, c=cursor: outline.below(v, top, Place(DRAFT), limit=10, cursor=c)
        )
        found += [line.title for line in lines]
        if not cursor:
            break
    assert found == names
    way = house.desk.read(house.who("ida"), lambda v: outline.trail(v, ids[7], Place(DRAFT)))
    assert [line.title for line in way] == ["Top", "Below 07"]
    with pytest.raises(NotFound, match="does not stand in the outline there"):
        house.desk.read(house.who("ida"), lambda v: outline.trail(v, ids[7], Place()))
    matches = house.desk.read(house.who("ida"), lambda v: outline.search(v, "Below 07"))
    assert [(line.title, above) for line, above in matches] == [("Below 07", ["Top"])]


def signed(house: House, *uuids: str) -> None:
    for uuid in uuids:
        house.do("wim", lambda a, u=uuid: review.submit(a, u, "en"))
        number = house.revision(uuid)["number"]
        house.do("oda", lambda a, u=uuid, n=number: review.sign_off(a, u, "en", n))


def go(house: House, *requests: MoveRequest, with_needs: bool = False, **more: Any) -> str:
    return house.do("ida", lambda a: dispatches.make(a, requests, with_needs=with_needs, **more))


def test_what_lies_below_a_page_that_is_not_out_waits_for_it_or_takes_it_along(house: House) -> None:
    piers, lamps, bells = (house.page(t) for t in ("Piers", "Lamps", "Bells"))
    move(house, lamps, piers)
    move(house, bells, lamps)
    signed(house, piers, lamps, bells)
    with pytest.raises(GateUnmet, match="“Lamps”, below which it is placed, is not out") as held:
        go(house, MoveRequest(bells, "en"))
    assert {u["code"] for u in held.value.facts["unmet"]} == {"parent-not-out"}
    found = house.desk.read(house.who("ida"), lambda v: planning.check(v, [MoveRequest(bells, "en")]))
    assert [(n.id, n.verb) for n in found.needs] == [(lamps, "release")]
    go(house, MoveRequest(bells, "en"), with_needs=True)
    assert path(house, "/en/piers/lamps/bells")[0] == bells
    # Together it goes in any order, and what is out already needs nothing again.
    ropes = house.page("Ropes")
    move(house, ropes, bells)
    signed(house, ropes)
    go(house, MoveRequest(ropes, "en"))
    assert path(house, "/en/piers/lamps/bells/ropes")[0] == ropes
    # A page that is out does not move below one that is not.
    sheds = house.page("Sheds")
    move(house, ropes, sheds)
    signed(house, ropes)
    with pytest.raises(GateUnmet, match="“Sheds”, below which"):
        go(house, MoveRequest(ropes, "en"))
    assert path(house, "/en/piers/lamps/bells/ropes")[0] == ropes


def test_a_page_that_is_withdrawn_or_removed_takes_what_lies_below_along_or_stays(house: House) -> None:
    piers, lamps, bells = (house.page(t) for t in ("Piers", "Lamps", "Bells"))
    move(house, lamps, piers)
    move(house, bells, lamps)
    release(house, piers, lamps, bells)
    with pytest.raises(GateUnmet, match=r"“Lamps” \(en\) is out below “Piers” and would have no address"):
        go(house, MoveRequest(piers, "en", "withdraw"))
    assert path(house, "/en/piers/lamps/bells")[0] == bells
    found = house.desk.read(
        house.who("ida"),
        lambda v: planning.check(v, [MoveRequest(piers, "en", "withdraw")], with_needs=True),
    )
    assert not found.blocked
    assert [x.title for x in found.lines if x.locale == "en"] == ["Piers", "Lamps", "Bells"]
    go(
        house,
        MoveRequest(piers, "en", "withdraw"),
        MoveRequest(lamps, "en", "withdraw"),
        MoveRequest(bells, "en", "withdraw"),
    )
    assert not any(house.is_out(u) for u in (piers, lamps, bells))
    go(house, *(MoveRequest(u, "en") for u in (piers, lamps, bells)))
    go(house, MoveRequest(piers, "en", "withdraw"), with_needs=True)
    assert not any(house.is_out(u) for u in (piers, lamps, bells))


def test_what_moves_away_at_the_same_time_does_not_hold_a_page_back(house: House) -> None:
    piers, lamps, sheds = (house.page(t) for t in ("Piers", "Lamps", "Sheds"))
    move(house, lamps, piers)
    release(house, piers, lamps, sheds)
    move(house, lamps, sheds)
    signed(house, lamps)
    go(house, MoveRequest(lamps, "en"), MoveRequest(piers, "en", "withdraw"))
    assert path(house, "/en/sheds/lamps")[0] == lamps


def test_a_planned_page_waits_for_the_one_above_it_to_the_last(house: House) -> None:
    piers, lamps = house.page("Piers"), house.page("Lamps")
    move(house, lamps, piers)
    signed(house, piers, lamps)
    first = house.plan([piers], 60)
    second = house.plan([lamps], 120)
    house.do("ida", lambda a: dispatches.cancel(a, first))
    house.later(130)
    assert house.state(second) == "held"
    assert not house.is_out(lamps)


def test_a_dispatch_says_what_was_there_before_and_is_after(house: House) -> None:
    def lines(uuid: str) -> list[tuple[int | None, int | None]]:
        def look(view: View) -> list[dict[str, Any]]:
            moves: list[dict[str, Any]] = show_dispatches.dispatch(view, records.find(view, uuid))["moves"]
            return moves

        found = house.desk.read(house.who("ida"), look)
        return [(m["before"], m["after"]) for m in found if m["locale"] == "en"]

    lamp = house.signed("Lamp")
    first = go(house, MoveRequest(lamp, "en"))
    assert lines(first) == [(None, 1)]
    base = entries.parse_etag(house.desk.read(house.who("wim"), lambda v: show.entry(v, lamp, "en"))["etag"])
    house.do("wim", lambda a: entries.save(a, lamp, "en", {"title": "The lamp"}, base))
    signed(house, lamp)
    planned = house.plan([lamp], 60)
    assert lines(planned) == [(1, 2)]
    house.later(61)
    assert lines(planned) == [(1, 2)]
    gone = go(house, MoveRequest(lamp, "en", "withdraw"))
    assert lines(gone) == [(2, None)]
    assert lines(first) == [(None, 1)]
