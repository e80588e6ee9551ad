"""What readers see differently at two instants: told beforehand of what is planned, and the same when it has gone."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hawthorn.core.errors import Invalid
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import people
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import differences, reading
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.store.standings import RELEASE
from tests.service.made import House

HOUR = 3600 * SECOND


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def differ(house: House, since: int, until: int, who: str = "ida", limit: int = 50) -> list[tuple[Any, ...]]:
    def look(view: Any) -> list[tuple[Any, ...]]:
        out: list[tuple[Any, ...]] = []
        cursor = ""
        while True:
            found, cursor = differences.listing(view, since, until, limit, cursor)
            out += [(d.title, d.how, d.before, d.after, d.path_after) for d in found if d.locale != "*"]
            if not cursor:
                return out

    return house.desk.read(house.who(who), look)


def plan(house: House, page: str, hours: float, verb: str = "release", **more: Any) -> str:
    when = When(instant=iso(house.clock.at + round(hours * HOUR)))
    return house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", verb, **more)], when))


def test_what_will_be_different_is_told_beforehand_and_is_so_then(house: House) -> None:
    out, fog, gull = (
        house.signed("Out", slug="out"),
        house.signed("Fog", slug="fog"),
        house.signed("Gull", slug="gull"),
    )
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(out, "en")]))
    start = house.clock.at
    plan(house, fog, 2)
    plan(house, out, 3, "withdraw")
    plan(house, gull, 30)
    expected = [("Out", "gone", 1, None, ""), ("Fog", "new", None, 1, "/en/fog")]
    assert differ(house, start, start + 10 * HOUR) == expected
    assert differ(house, start, start + 10 * HOUR, limit=1) == expected, "page by page too"
    assert differ(house, start, start + 10 * HOUR, who="wim") == expected
    assert differ(house, start, start + HOUR) == []
    assert [d[0] for d in differ(house, start + 10 * HOUR, start + 40 * HOUR)] == ["Gull"]
    house.later(10 * 3600)
    assert differ(house, start, start + 10 * HOUR) == expected, "as it was told"
    # Looked back on from the other side nothing is new any more.
    assert differ(house, start - 10 * HOUR, start - HOUR) == []


def test_what_was_out_for_a_while_in_between_is_no_difference(house: House) -> None:
    fog = house.signed("Fog")
    start = house.clock.at
    plan(house, fog, 1)
    plan(house, fog, 2, "withdraw")
    assert differ(house, start, start + 10 * HOUR) == []
    assert [d[1] for d in differ(house, start, start + round(1.5 * HOUR))] == ["new"]


def test_what_follows_is_foreseen_as_it_is_approved_now(house: House) -> None:
    fog = house.signed("Fog")
    start = house.clock.at
    plan(house, fog, 5, follows=True)

    def more(act: Any) -> None:
        base = entries.current_base(act, entries.store.entry(act.conn, fog).id, "en", "draft")
        entries.save(act, fog, "en", {"body": "<p>More.</p>"}, base, "")
        review.submit(act, fog, "en")

    house.do("wim", more)
    house.do("oda", lambda a: review.sign_off(a, fog, "en", 2))
    assert [d[3] for d in differ(house, start, start + 10 * HOUR)] == [2]
    house.later(10 * 3600)
    assert [d[3] for d in differ(house, start, start + 10 * HOUR)] == [2]


def test_what_may_not_be_read_is_not_told_of_and_times_are_in_order(house: House) -> None:
    start = house.clock.at
    plan(house, house.signed("Fog"), 5)
    narrow = [{"verb": "read", "types": ["picture"]}]
    house.do("ida", lambda a: people.define_role(a, "narrow", "narrow", narrow))
    house.do("ida", lambda a: people.set_holdings(a, "oda", [{"name": "narrow"}]))
    assert differ(house, start, start + 10 * HOUR, who="oda") == []
    with pytest.raises(Invalid):
        differ(house, start, start)


MOVES = st.lists(
    st.tuples(st.integers(0, 3), st.sampled_from(["release", "withdraw"]), st.integers(1, 40)),
    min_size=1,
    max_size=8,
)


@settings(max_examples=25)
@given(MOVES)
def test_readers_see_at_each_instant_what_was_told_beforehand(moves: list[tuple[int, str, int]]) -> None:
    """Planned dispatches that nobody touches: what was foreseen for before, at and after each instant is what stands then."""
    with tempfile.TemporaryDirectory() as folder, closing(House(Path(folder))) as house:
        pages = [house.signed(f"Page {n}") for n in range(4)]
        for page, verb, hour in moves:
            plan(house, pages[page], hour, verb)
        with house.desk.db.read() as conn:
            instants = sorted({row[0] for row in conn.execute("SELECT instant FROM dispatch").fetchall()})
            editions = [
                row[0]
                for page in pages
                for row in conn.execute(
                    "SELECT d.id FROM edition d JOIN entry e ON e.id = d.entry WHERE e.uuid = ?", (page,)
                ).fetchall()
            ]
        asked = [at + by for at in instants for by in (-1, 0, 1)]

        def seen() -> list[Any]:
            def look(view: Any) -> list[Any]:
                found = [reading.revision_at(view, e, Place(RELEASE, at)) for at in asked for e in editions]
                return [one and one[0] for one in found]

            return house.desk.read(house.who("ida"), look)

        foreseen = seen()
        told = differ(house, instants[0] - 1, instants[-1] + 1)
        for _ in range(45):
            house.later(3600)
        assert seen() == foreseen
        assert differ(house, instants[0] - 1, instants[-1] + 1) == told
