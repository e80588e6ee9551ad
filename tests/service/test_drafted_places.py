"""Where entries are drafted in the outline: whatever an editor brings back, takes out of a strand or sends, no page is ever lost from it."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hawthorn.core.contenttypes import to_dict
from hawthorn.core.errors import HawthornError, InTheWay, Invalid
from hawthorn.core.merge import Settlement
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.content import changing, entries, strands
from hawthorn.operations.delivery import outline
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import dispatches, gathering, reviewing, undoing
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.views import show
from hawthorn.operations.views.health import health
from hawthorn.store import put_away
from hawthorn.store.entries import entry as entry_of
from hawthorn.store.standings import DRAFT
from tests.service.made import House


class Pages:
    """Some pages by their titles, and what is done with where they stand."""

    def __init__(self, folder: Path, *titles: str) -> None:
        self.house = House(folder)
        self.ids = {title: self.house.page(title) for title in titles}
        self.last = ""

    def tree(self, below: str = "") -> dict[str, Any]:
        """The drafts as the outline shows them."""
        lines, more = self.house.desk.read(
            self.house.who("ida"), lambda v: outline.below(v, below, Place(DRAFT))
        )
        assert not more
        return {line.title: self.tree(line.uuid) for line in lines}

    def move(self, title: str, below: str = "") -> None:
        """Move a page below another, at the top without one."""
        self.house.do("wim", lambda a: outline.move(a, self.ids[title], self.ids.get(below, "")))

    def restore(self, title: str, number: int) -> list[str]:
        """Bring older shared fields of a page back; returns what is said of it."""

        def act(a: Any) -> list[str]:
            entries.restore(a, self.ids[title], "*", number)
            return list(a.notes)

        return self.house.do("wim", act)

    def save(self, title: str, below: str, strand: str) -> None:
        """Place a page below another in a strand."""

        def act(a: Any) -> None:
            base = entries.base_now(a, self.ids[title], "en", strand)
            placed = {"entry": self.ids[below], "rank": "q"} if below else None
            entries.save(a, self.ids[title], "en", {"below": placed}, base, "", strand)

        self.house.do("wim", act)

    def fork(self, title: str, below: str) -> None:
        """Place a page below another in a strand beside the draft."""
        self.house.do("wim", lambda a: strands.fork(a, self.ids[title], "en", "Side"))
        self.save(title, below, "Side")

    def accept(self, title: str, name: str = "Side") -> None:
        """Bring a strand in as it is proposed."""
        id = self.ids[title]
        found = self.house.desk.read(self.house.who("wim"), lambda v: strands.propose(v, id, "en", name))
        made = {c.place: Settlement("ours") for _, c in found.conflicts}
        self.house.do("wim", lambda a: strands.accept(a, id, "en", name, found.etag, None, made))

    def in_the_way(self, title: str, name: str = "Side") -> str:
        """Why a strand cannot come in, as its proposal says."""
        wim, id = self.house.who("wim"), self.ids[title]
        found = self.house.desk.read(wim, lambda v: strands.propose(v, id, "en", name))
        return str(found.in_the_way or "")

    def put_away(self, *titles: str, verb: str = "remove") -> None:
        """Remove pages, or put them into the archive, in one dispatch."""
        some = [MoveRequest(self.ids[title], "en", verb=verb) for title in titles]
        self.last = self.house.do("ida", lambda a: dispatches.make(a, some))

    def bring_back(self, title: str) -> None:
        """Bring a page back that was put away."""
        self.house.do("ida", lambda a: entries.bring_back(a, self.ids[title]))

    def undo(self) -> None:
        """Undo the dispatch that put pages away last."""
        self.house.do("ida", lambda a: undoing.undo(a, self.last))

    def send(self, title: str, below: str, meanwhile: Any = None) -> None:
        """Release a page below another, written inside a dispatch, with something done before it goes."""
        id = self.house.do("wim", lambda a: gathering.start(a, About("Spring")))
        name = self.house.do("wim", lambda a: gathering.write_in(a, id, self.ids[title], "en"))
        self.save(title, below, name)
        self.house.do("oda", lambda a: reviewing.sign(a, id))
        soon = When(instant=iso(self.house.clock.at + 60 * SECOND))
        self.house.do("ida", lambda a: dispatches.plan(a, id, soon))
        if meanwhile is not None:
            meanwhile()
        self.house.later(90)

    def here(self) -> list[str]:
        """The titles of what is at work."""
        with self.house.desk.db.read() as conn:
            gone = put_away.archived(conn, self.ids.values())
            return sorted(
                t for t, id in self.ids.items() if entry_of(conn, id) is not None and id not in gone
            )

    def sound(self) -> list[str]:
        """What the check of the records finds wrong."""
        return list(self.house.desk.read(self.house.who("ida"), health))


def titles(tree: dict[str, Any]) -> list[str]:
    return sorted(one for title, below in tree.items() for one in (title, *titles(below)))


@pytest.fixture
def pages(tmp_path: Path) -> Iterator[Pages]:
    made = Pages(tmp_path, "Quay", "Pier", "Shed")
    yield made
    assert made.sound() == []
    made.house.close()


WHICH = st.sampled_from(["Quay", "Pier", "Shed", "Loft"])
ACTS = st.one_of(
    st.tuples(st.just("move"), WHICH, WHICH | st.just("")),
    st.tuples(st.just("move"), WHICH, WHICH | st.just("")),
    st.tuples(st.just("restore"), WHICH, st.integers(1, 4)),
    st.tuples(st.just("fork"), WHICH, WHICH | st.just("")),
    st.tuples(st.just("accept"), WHICH),
    st.tuples(st.just("put_away"), WHICH),
    st.tuples(st.just("archive"), WHICH),
    st.tuples(st.just("both"), WHICH, WHICH),
    st.tuples(st.just("bring_back"), WHICH),
    st.tuples(st.just("undo")),
    st.tuples(st.just("send"), WHICH, WHICH | st.just("")),
)


@given(st.lists(ACTS, min_size=6, max_size=16))
@settings(max_examples=40)
def test_whatever_is_done_every_page_at_work_is_in_the_outline_once(acts: list[tuple[Any, ...]]) -> None:
    with tempfile.TemporaryDirectory() as folder:
        pages = Pages(Path(folder), "Quay", "Pier", "Shed", "Loft")
        done = {
            "archive": lambda one: pages.put_away(one, verb="archive"),
            "both": lambda one, other: pages.put_away(one, other),
        }
        for name, *given in acts:
            with suppress(HawthornError):
                (done.get(name) or getattr(pages, name))(*given)
            assert titles(pages.tree()) == pages.here(), (name, given)
        assert pages.sound() == []
        pages.house.close()


def test_older_shared_fields_come_back_and_the_page_stays_where_it_stood_below_itself(pages: Pages) -> None:
    pages.move("Quay", "Pier")
    pages.move("Quay")
    pages.move("Pier", "Quay")
    assert "stands at or below it" in " ".join(pages.restore("Quay", 2))
    assert pages.tree() == {"Quay": {"Pier": {}}, "Shed": {}}
    history = pages.house.desk.read(pages.house.who("ida"), lambda v: show.entry(v, pages.ids["Quay"], "en"))
    assert history["title"] == "Quay"
    pages.move("Pier")
    assert pages.restore("Quay", 2) == []
    assert pages.tree() == {"Pier": {"Quay": {}}, "Shed": {}}


@pytest.mark.parametrize("verb", ["remove", "archive"])
def test_a_page_comes_back_to_where_it_stood_whichever_of_both_comes_back_first(
    pages: Pages, verb: str
) -> None:
    pages.move("Pier", "Quay")
    pages.put_away("Quay", "Pier", verb=verb)
    assert pages.tree() == {"Shed": {}}
    pages.bring_back("Pier")
    assert pages.tree() == {"Pier": {}, "Shed": {}}
    pages.bring_back("Quay")
    assert pages.tree() == {"Quay": {"Pier": {}}, "Shed": {}}
    pages.put_away("Quay", "Pier", verb=verb)
    pages.undo()
    assert pages.tree() == {"Quay": {"Pier": {}}, "Shed": {}}


def test_what_comes_back_below_what_stands_below_it_is_at_the_top(pages: Pages) -> None:
    pages.move("Pier", "Quay")
    pages.move("Quay", "Shed")
    pages.put_away("Quay", "Pier")
    pages.bring_back("Pier")
    pages.move("Shed", "Pier")
    pages.bring_back("Quay")
    assert pages.tree() == {"Quay": {"Pier": {"Shed": {}}}}


def test_what_comes_back_lies_in_the_section_that_it_is_drafted_in(pages: Pages) -> None:
    house, quay = pages.house, pages.ids["Quay"]
    page = house.desk.read(house.who("ida"), lambda v: to_dict(v.setup.type("page")))
    hall = {"name": "hall", "page": True, "section": True, "fields": page["fields"]}
    house.do("ida", lambda a: changing.define_type(a, hall))
    pages.ids["Hall"] = house.do("ida", lambda a: entries.start(a, "hall", "en", {"title": "Hall"}))

    def section() -> bool:
        with house.desk.db.read() as conn:
            row = entry_of(conn, quay)
            assert row is not None
            return row.section is not None

    pages.move("Quay", "Hall")
    assert section()
    pages.put_away("Quay", "Hall")
    pages.bring_back("Quay")
    assert (section(), pages.tree()) == (False, {"Quay": {}, "Pier": {}, "Shed": {}})
    pages.bring_back("Hall")
    assert (section(), pages.tree()["Hall"]) == (True, {"Quay": {}})


def test_nothing_is_placed_below_what_is_in_the_archive(pages: Pages) -> None:
    pages.put_away("Quay", verb="archive")
    with pytest.raises(Invalid, match="in the archive"):
        pages.move("Pier", "Quay")
    assert pages.tree() == {"Pier": {}, "Shed": {}}


def test_what_stands_below_something_in_the_archive_since_long_is_still_written(pages: Pages) -> None:
    pages.move("Pier", "Quay")
    pages.fork("Pier", "Quay")
    quay, pier = pages.ids["Quay"], pages.ids["Pier"]
    pages.house.do("ida", lambda a: put_away.set_archived(a.conn, [quay], a.now))
    pages.accept("Pier")
    pages.bring_back("Quay")
    assert pages.tree() == {"Quay": {"Pier": {}}, "Shed": {}}
    pages.house.do("wim", lambda a: strands.fork(a, pier, "en", "Other"))
    pages.house.do("wim", lambda a: strands.drop(a, pier, "en", "Other"))
    pages.put_away("Pier", verb="archive")
    with pytest.raises(InTheWay, match="archive"):
        pages.house.do("wim", lambda a: strands.reopen(a, pier, "en", "Other"))


def test_a_strand_that_would_place_a_page_below_itself_waits_until_one_of_both_was_moved(
    pages: Pages,
) -> None:
    pages.fork("Quay", "Pier")
    pages.move("Pier", "Quay")
    assert "stands at or below it" in pages.in_the_way("Quay")
    with pytest.raises(InTheWay, match="stands at or below it"):
        pages.accept("Quay")
    assert pages.tree() == {"Quay": {"Pier": {}}, "Shed": {}}
    pages.move("Pier")
    assert pages.in_the_way("Quay") == ""
    pages.accept("Quay")
    assert pages.tree() == {"Pier": {"Quay": {}}, "Shed": {}}


def test_what_went_out_below_a_page_that_is_drafted_below_it_stays_beside_the_draft(pages: Pages) -> None:
    pages.send("Pier", "")
    pages.send("Quay", "Pier", lambda: pages.move("Pier", "Quay"))
    assert pages.tree() == {"Quay": {"Pier": {}}, "Shed": {}}
    lines, _ = pages.house.desk.read(
        pages.house.who("ida"), lambda v: outline.below(v, pages.ids["Pier"], Place())
    )
    assert [line.title for line in lines] == ["Quay"], "readers have it where it was sent"
    shown = pages.house.desk.read(pages.house.who("ida"), lambda v: show.entry(v, pages.ids["Quay"], "en"))
    (waits,) = (s for s in shown["strands"] if s.open)
    pages.move("Pier")
    pages.accept("Quay", waits.name)
    assert pages.tree() == {"Pier": {"Quay": {}}, "Shed": {}}


def test_a_conflict_is_not_settled_by_a_place_that_is_below_itself(pages: Pages) -> None:
    house, id = pages.house, pages.ids["Quay"]

    def typed(below: str) -> Any:
        return {"below": {"entry": pages.ids[below]}}

    base = house.desk.read(house.who("wim"), lambda v: entries.base_now(v, id, "en"))
    house.do("oda", lambda a: entries.save(a, id, "en", typed("Shed"), base))
    mine = house.do("wim", lambda a: entries.save(a, id, "en", typed("Pier"), base))
    assert mine.conflicts
    pages.move("Pier", "Quay")
    places = {c.place: Settlement("ours") for _, c in mine.conflicts}
    with pytest.raises(InTheWay, match="stands at or below it"):
        house.do("wim", lambda a: entries.settle(a, id, "en", mine.typed, mine.base, places))
    assert pages.tree() == {"Shed": {"Quay": {"Pier": {}}}}


def test_a_strand_inside_a_dispatch_is_neither_dropped_nor_merged_behind_its_back(pages: Pages) -> None:
    house, id = pages.house, pages.ids["Quay"]
    dispatch = house.do("wim", lambda a: gathering.start(a, About("Spring")))
    name = house.do("wim", lambda a: gathering.write_in(a, dispatch, id, "en"))
    pages.save("Quay", "Pier", name)
    for act in (
        lambda: house.do("wim", lambda a: strands.drop(a, id, "en", name)),
        lambda: pages.accept("Quay", name),
    ):
        with pytest.raises(InTheWay, match="“Spring”"):
            act()
    assert "“Spring”" in pages.in_the_way("Quay", name)
    part = house.desk.read(house.who("wim"), lambda v: strands.propose(v, id, "en", name, ["below"]))
    assert part.in_the_way is None, "a part can be taken at any time"
    house.do("wim", lambda a: strands.accept(a, id, "en", name, part.etag, ["below"]))
    assert pages.tree() == {"Pier": {"Quay": {}}, "Shed": {}}
    house.do("wim", lambda a: gathering.drop(a, dispatch, [(id, "en")]))
    house.do("wim", lambda a: strands.drop(a, id, "en", name))
    house.do("wim", lambda a: strands.reopen(a, id, "en", name))
    shown = house.desk.read(house.who("ida"), lambda v: show.entry(v, id, "en"))
    assert [(s.name, s.open, s.dispatch_name) for s in shown["strands"]] == [(name, True, "")]
