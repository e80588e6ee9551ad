"""Packages: the same bytes after a journey, merged with what is there, broken off and gone on with, undone; and what is none is refused whole."""

from __future__ import annotations

import io
import json
import random
import zipfile
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import jsonschema_rs
import pytest

from hawthorn.client import Client, Refusal
from hawthorn.core.access import Identity
from hawthorn.core.errors import HawthornError, InTheWay, Refused
from hawthorn.core.exchange.package import (
    CONCEPTS,
    ENTRIES,
    FILES,
    GLOSSARIES,
    MANIFEST,
    MEMORIES,
    PEOPLE,
    SENTENCES,
)
from hawthorn.core.translation import tmx
from hawthorn.core.translation.tmx import TmxUnit, Variant
from hawthorn.demo.seeding import Museum
from hawthorn.messages import WORDS
from hawthorn.operations.access import people as access
from hawthorn.operations.access import permission
from hawthorn.operations.collaboration import assignments, comments
from hawthorn.operations.content import entries, strands
from hawthorn.operations.content.entries import Base
from hawthorn.operations.delivery import limiting, outline
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.exchange import importing, language, packages
from hawthorn.operations.exchange.exporting import Choice
from hawthorn.operations.exchange.report import Wish
from hawthorn.operations.release import dispatches, review, workflows
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import SCHEDULER_SELF, Act, Desk, SystemClock, View
from hawthorn.operations.runtime.bootstrap import found as begin
from hawthorn.operations.translation import glossaries, memories, memory_files
from hawthorn.operations.views import assembled, my_work
from hawthorn.store import entries as entry_store
from hawthorn.store import people, revisions
from hawthorn.store.database import Database
from hawthorn.store.standings import DRAFT
from tests.conftest import Running
from tests.exchange.made import altered, derived, exported, given, imported, row, trouble, work
from tests.service.made import House
from tests.service.test_fields_of_another_kind import become, for_readers
from tests.service.test_fields_that_move import out
from tests.service.test_planned_fields import add_fields
from tests.service.test_workflows import flow

ALL = Wish(definitions=True)
SCHEMAS = Path(__file__).parents[2] / "docs" / "package.schema.json"


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[tuple[Desk, Identity]]:
    """A house that has just been begun, by somebody whom nobody elsewhere knows."""
    db = Database(tmp_path / "empty.sqlite")
    desk = assembled.desk(db, SystemClock(), WORDS)
    begin(desk)
    roles = [{"name": "managing-editor"}]
    desk.write(
        SCHEDULER_SELF, lambda act: access.add_person(act, "ada", "Ada Pell", "", "oakum and tide", roles)
    )
    with db.read() as conn:
        found = people.by_handle(conn, "ada")
        assert found is not None
        ada = permission.identity_of(conn, found.id)
    yield desk, ada
    db.close()


def base(house: House, uuid: str, locale: str = "en") -> Base:
    return house.desk.read(
        house.who("ida"), lambda v: entries.current_base(v, permission.find(v, uuid).id, locale)
    )


def save(house: House, uuid: str, locale: str = "en", by: str = "wim", **fields: Any) -> None:
    house.do(by, lambda act: entries.save(act, uuid, locale, fields, base(house, uuid, locale)))


def text(house: House, uuid: str, name: str = "title", locale: str = "en", strand: str = "draft") -> Any:
    """What a field of an edition holds, in its draft or in another strand."""

    def look(view: View) -> Any:
        row = permission.find(view, uuid)
        found: dict[str, Any] = {}
        for where in ("*", locale):
            edition = entry_store.edition(view.conn, row.id, where, strand)
            if edition is not None and edition.head is not None:
                found |= revisions.content(view.conn, edition.head).fields
        return found.get(name)

    return house.desk.read(house.who("ida"), look)


def count(house: House) -> int:
    with house.desk.db.read() as conn:
        return int(conn.execute("SELECT count(*) FROM entry WHERE removed_at IS NULL").fetchone()[0])


# -- there and back ----------------------------------------------------------------------------------------------------------


def test_the_museum_goes_elsewhere_and_comes_out_as_the_same_bytes(
    tmp_path: Path, empty: tuple[Desk, Identity]
) -> None:
    there, ada = empty
    db = Database(tmp_path / "museum.sqlite")
    Museum(db, SystemClock().now(), "http://127.0.0.1:9", [], "http://127.0.0.1:9").seed()
    desk = assembled.desk(db, SystemClock(), WORDS)
    try:
        with db.read() as conn:
            found = people.by_handle(conn, "ida")
            assert found is not None
            ida = permission.identity_of(conn, found.id)
        for history in (True, False):
            first = exported(desk, ida, tmp_path / f"{history}.zip", Choice(history=history))
            if history:
                _, seen, done = imported(there, ada, first, ALL)
                assert seen["added"] == done["added"] == seen["entries"] > 50
                assert (seen["left"], seen["cleaned"]) == (0, 0)
                for what, least in (("sentences", 700), ("concepts", 10), ("dispatches", 4)):
                    assert seen[what] == seen[f"new_{what}"] == done[f"new_{what}"] > least
            again = exported(there, ada, tmp_path / "again.zip", Choice(history=history))
            assert again.read_bytes() == first.read_bytes()
            assert lines_as_described(first) > 900
        mine, theirs = derived(desk), derived(there)
        for name in mine:
            assert theirs[name] == mine[name], name
        assert trouble(there) == []
    finally:
        db.close()


def lived_in(house: House, seed: int) -> None:
    """A house in which people did all kinds of things, in an order of its own."""
    pick = random.Random(seed)
    house.speaks(fr="Français", de="Deutsch")
    pages = [house.page(f"Page {n}") for n in range(8)]
    for n in range(90):
        with suppress(HawthornError):
            _something(house, pick, n, pages)


def _something(house: House, pick: random.Random, n: int, pages: list[str]) -> None:
    uuid, locale = pick.choice(pages), pick.choice(["en", "en", "fr", "de"])
    seen = base(house, uuid, locale)

    def write(fields: dict[str, Any], strand: str = "draft", on: Base = seen) -> Callable[[Act], object]:
        return lambda act: entries.save(act, uuid, locale, fields, on, strand=strand)

    def move(*some: MoveRequest) -> Callable[[Act], object]:
        return lambda act: dispatches.make(act, some)

    leaving = pick.choice(["withdraw", "archive", "remove"])
    acts: list[tuple[str, Callable[[Act], object]]] = [
        ("wim", write({"title": f"Title {n}", "body": f"<p>Lamp {n}.</p><p>Rope.</p>"})),
        ("wim", write({"title": f"Title {n}"})),
        ("ida", write({"below": {"entry": pick.choice(pages), "rank": ""}})),
        ("wim", lambda act: review.submit(act, uuid, locale)),
        ("oda", lambda act: review.sign_off(act, uuid, locale, 1, note="Good.")),
        ("ida", move(MoveRequest(uuid, locale), MoveRequest(uuid, "*"))),
        ("ida", move(MoveRequest(uuid, locale))),
        ("ida", move(MoveRequest(uuid, locale, leaving))),
        ("wim", lambda act: strands.fork(act, uuid, locale, f"idea {n}")),
        ("wim", write({"title": f"Aside {n}"}, f"idea {n - 1}", Base(None, None))),
        ("oda", lambda act: comments.make(act, uuid, locale, f"About {n}: why?", "title")),
        ("ida", lambda act: limiting.limit(act, uuid, "hidden", ["friends"])),
        (
            "oda",
            lambda act: assignments.assign(
                act, uuid, locale, "wim", pick.choice(["", "2030-04-01"]), f"Do {n}"
            ),
        ),
    ]
    by, act = pick.choice(acts)
    house.do(by, act)


@pytest.mark.parametrize("seed", range(4))
def test_whatever_happened_in_a_house_is_the_same_in_another(
    house: House, other: House, tmp_path: Path, seed: int
) -> None:
    lived_in(house, seed)
    first = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    imported(other.desk, other.who("ida"), first)
    assert exported(other.desk, other.who("ida"), tmp_path / "b.zip").read_bytes() == first.read_bytes()
    mine, theirs = derived(house.desk), derived(other.desk)
    for name in mine:
        assert theirs[name] == mine[name], name
    assert trouble(other.desk) == []


def test_what_fields_were_before_is_nothing_that_another_house_has_to_know(
    house: House, other: House, tmp_path: Path
) -> None:
    for one in (house, other):
        one.do("ida", lambda a: workflows.define(a, flow(sign_offs=0, checks=[])))
    add_fields(house, [{"name": "note", "kind": "line", "label": "Note"}])
    add_fields(other, [{"name": "note", "kind": "rich", "label": "Note", "shared": True}])
    page = house.page("Fog", note="Wet & <b>dry</b>")
    out(house, page, "en")
    become(house, kind="rich", shared=True)
    beside = house.page("Salt", note="<p>Dry</p>")
    other.clock.at = house.clock.at
    first = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    imported(other.desk, other.who("ida"), first)
    assert exported(other.desk, other.who("ida"), tmp_path / "b.zip").read_bytes() == first.read_bytes()
    for one in (house, other):
        assert for_readers(one, page) == text(one, page, "note") == "<p>Wet &amp; &lt;b&gt;dry&lt;/b&gt;</p>"
        save(one, page, body="<p>New.</p>")
        one.do("ida", lambda a: entries.restore(a, page, "en", 1))
        out(one, page, "en")
        assert for_readers(one, page) == "<p>Wet &amp; &lt;b&gt;dry&lt;/b&gt;</p>"
        assert trouble(one.desk) == []
    assert text(other, beside, "note") == "<p>Dry</p>"


def test_a_selection_takes_along_what_it_refers_to_unless_alone(running: Running, tmp_path: Path) -> None:
    """By the client, over HTTP, with the follower that makes packages."""
    ida = running.as_("ida")

    def types(**asked: Any) -> set[str]:
        made = ida.make_package({"types": ["exhibition"], **asked})
        while made.state == "running":
            made = ida.package(made.id)
        assert made.state == "done", made.trouble
        goal = tmp_path / f"{made.id}.zip"
        # What was broken off goes on where it was.
        goal.with_name(goal.name + ".part").write_bytes(
            ida._http.get(f"/api/packages/{made.id}/file").content[:1000]
        )
        ida.fetch_package(made.id, goal)
        ida.drop_package(made.id)
        with pytest.raises(Refusal, match="no package"):
            ida.package(made.id)
        with zipfile.ZipFile(goal) as package:
            assert package.testzip() is None
            return {json.loads(line)["type"] for line in package.read(ENTRIES).splitlines()}

    assert types(linked=False) == {"exhibition"}
    assert {"exhibition", "picture", "topic"} <= types()
    with pytest.raises(Refusal, match="none of"):
        ida.make_package({"types": ["wreck"]})


# -- with what is here already -------------------------------------------------------------------------------------------------


def both(house: House, other: House, tmp_path: Path, **mine: Any) -> tuple[str, Path]:
    """A page that both houses have, which the first changed since; and a package of it."""
    uuid = house.page("The lamp")
    imported(other.desk, other.who("ida"), exported(house.desk, house.who("ida"), tmp_path / "first.zip"))
    save(house, uuid, **mine)
    return uuid, exported(house.desk, house.who("ida"), tmp_path / "second.zip")


def test_changes_of_both_houses_come_together(house: House, other: House, tmp_path: Path) -> None:
    uuid, second = both(house, other, tmp_path, title="The great lamp")
    save(other, uuid, body="<p>Other words.</p>")
    id, seen, done = imported(other.desk, other.who("ida"), second)
    assert (seen["merged"], done["merged"], done["asked"]) == (1, 1, 0)
    assert (text(other, uuid), text(other, uuid, "body")) == ("The great lamp", "<p>Other words.</p>")
    assert imported(other.desk, other.who("ida"), second)[1]["same"] == 1, "brought once, it is here"
    other.do("ida", lambda act: packages.undo(act, id))
    assert work(other.desk, id).state == "undone"
    assert (text(other, uuid), text(other, uuid, "body")) == ("The lamp", "<p>Other words.</p>")


def test_the_same_place_changed_by_both_is_asked_about_and_nothing_is_lost(
    house: House, other: House, tmp_path: Path
) -> None:
    uuid, second = both(house, other, tmp_path, title="The great lamp")
    save(other, uuid, title="The small lamp")
    id, seen, done = imported(other.desk, other.who("ida"), second)
    assert (seen["asked"], done["asked"]) == (1, 1)
    assert text(other, uuid) == "The small lamp"
    assert "strand" in done["named"][0]["why"]
    assert text(other, uuid, strand="From second.zip") == "The great lamp"
    other.do("ida", lambda act: packages.undo(act, id))
    work(other.desk, id)
    open_ones = other.desk.read(other.who("ida"), lambda v: strands.listing(v, uuid, "en"))
    assert [(s.name, s.ended) for s in open_ones] == [("From second.zip", "dropped")]


def test_a_page_that_would_come_to_stand_below_itself_waits_in_its_strand(
    house: House, other: House, tmp_path: Path
) -> None:
    lamp, pier = house.page("The lamp"), house.page("The pier")
    imported(other.desk, other.who("ida"), exported(house.desk, house.who("ida"), tmp_path / "first.zip"))
    house.do("wim", lambda act: outline.move(act, lamp, pier))
    other.do("wim", lambda act: outline.move(act, pier, lamp))
    second = exported(house.desk, house.who("ida"), tmp_path / "second.zip")
    _, _, done = imported(other.desk, other.who("ida"), second)
    assert done["asked"] == 1
    tops, _ = other.desk.read(other.who("ida"), lambda v: outline.below(v, "", Place(DRAFT)))
    assert [line.title for line in tops] == ["The lamp"]
    assert text(other, lamp, "below", strand="From second.zip")["entry"] == pier
    assert trouble(other.desk) == []


def test_what_is_here_is_left_alone_where_that_is_wanted(house: House, other: House, tmp_path: Path) -> None:
    uuid, second = both(house, other, tmp_path, title="The great lamp")
    imported(other.desk, other.who("ida"), second, Wish(leave=True))
    assert text(other, uuid) == "The lamp"


def test_what_was_removed_here_is_brought_back(house: House, other: House, tmp_path: Path) -> None:
    uuid, second = both(house, other, tmp_path, title="The great lamp")
    other.do("ida", lambda act: dispatches.make(act, [MoveRequest(uuid, "en", "remove")]))
    imported(other.desk, other.who("ida"), second)
    assert text(other, uuid) == "The great lamp"
    assert trouble(other.desk) == []


def test_under_new_ids_they_come_beside_and_refer_to_each_other(house: House, tmp_path: Path) -> None:
    above = house.page("Above")
    below = house.page(
        "Below", below={"entry": above, "rank": "m"}, body=f'<p>See <a href="urn:uuid:{above}">above</a>.</p>'
    )
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    imported(house.desk, house.who("ida"), file, Wish(new_ids=True))
    assert count(house) == 4
    with house.desk.db.read() as conn:
        rows = dict(
            conn.execute(
                "SELECT title, uuid FROM summary s JOIN entry e ON e.id = s.entry WHERE s.locale = 'en' AND e.uuid NOT IN (?, ?)",
                (above, below),
            ).fetchall()
        )
    assert text(house, rows["Below"], "below")["entry"] == rows["Above"]
    assert rows["Above"] in text(house, rows["Below"], "body")
    assert trouble(house.desk) == []


def test_an_address_that_is_taken_lets_it_in_as_a_draft(house: House, other: House, tmp_path: Path) -> None:
    mine = house.signed("Tides")
    house.do("ida", lambda act: dispatches.make(act, [MoveRequest(mine, "en")]))
    theirs = other.signed("Tides")
    other.do("ida", lambda act: dispatches.make(act, [MoveRequest(theirs, "en")]))
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    _, seen, done = imported(other.desk, other.who("ida"), file)
    assert seen["out"] == 1
    assert "tides" in done["named"][0]["why"]
    assert (other.is_out(mine), other.is_out(theirs)) == (False, True)
    assert trouble(other.desk) == []


def test_as_drafts_nothing_is_out_and_no_right_to_release_is_needed(
    house: House, other: House, tmp_path: Path
) -> None:
    uuid = house.signed("Tides")
    house.do("ida", lambda act: dispatches.make(act, [MoveRequest(uuid, "en")]))
    house.do("ida", lambda act: limiting.limit(act, uuid, "hidden", ["friends"]))
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    for by in ("wim", "oda"):
        with pytest.raises(Refused):
            given(other.desk, other.who(by), file)
        with pytest.raises(Refused):
            exported(other.desk, other.who(by), tmp_path / "no.zip")
    imported(other.desk, other.who("ida"), file, Wish(as_drafts=True))
    assert not other.is_out(uuid)
    limit = other.desk.read(other.who("ida"), lambda v: limiting.of(v, permission.find(v, uuid)))
    assert (limit.way, limit.audiences) == ("hidden", ("friends",))


# -- broken off, and undone ------------------------------------------------------------------------------------------------------


def test_it_goes_on_exactly_where_it_was_stopped_while_people_write(
    house: House, other: House, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    lived_in(house, 7)
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    monkeypatch.setattr(importing, "AT_ONCE", 2)
    monkeypatch.setattr(importing.in_batches, "__defaults__", (2,))
    monkeypatch.setattr(importing.settle, "__defaults__", (2,))
    own = other.page("Written here")
    uuid = given(other.desk, other.who("ida"), file)
    work(other.desk, uuid)
    other.do("ida", lambda act: packages.run(act, uuid))
    for turn in range(60):
        steps = iter(range(turn % 3 + 1))
        if work(other.desk, uuid, lambda left=steps: next(left, None) is not None).state == "done":
            break
        save(other, own, title=f"Written here {turn}")
    assert row(other.desk, uuid).state == "done"
    assert turn > 3
    mine, theirs = derived(house.desk), derived(other.desk)
    for name in mine:
        assert mine[name] <= theirs[name], name
    assert trouble(other.desk) == []


def test_undone_it_is_as_if_it_had_not_been_but_for_what_was_written_since(
    house: House, other: House, tmp_path: Path
) -> None:
    lived_in(house, 3)
    page = house.page("Assigned")
    house.do("oda", lambda act: assignments.assign(act, page, "en", "wim", "2030-04-01", "Read it."))
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    before, own = derived(other.desk), count(other)
    id, seen, _ = imported(other.desk, other.who("ida"), file)
    work_of_wim = other.desk.read(other.who("wim"), my_work.my_work)
    assert ("Assigned", "Read it.") in {(one["title"], one["note"]) for one in work_of_wim["assigned_to_you"]}
    other.do("ida", lambda act: packages.undo(act, id))
    assert work(other.desk, id).state == "undone"
    assert (count(other), derived(other.desk)) == (own, before)
    id, again, _ = imported(other.desk, other.who("ida"), file)
    assert again["added"] == seen["added"]
    with other.desk.db.read() as conn:
        some = conn.execute(
            "SELECT e.uuid FROM entry e WHERE e.archived_at IS NULL AND e.removed_at IS NULL LIMIT 1"
        ).fetchone()[0]
    save(other, some, title="Mine by now")
    other.do("ida", lambda act: packages.undo(act, id))
    left = json.loads(work(other.desk, id).report)["named"]
    assert [one["id"] for one in left] == [some]
    assert text(other, some) == "Mine by now"
    assert trouble(other.desk) == []


def test_what_somebody_asked_for_who_has_left_holds_up_nothing_and_others_take_it_back(
    house: House, other: House, tmp_path: Path
) -> None:
    house.page("Lamp")
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    role = [{"name": "managing-editor"}]
    other.do("ida", lambda act: access.add_person(act, "una", "Una", "", "oakum and tide", role))
    id, _, _ = imported(other.desk, other.who("una"), file)
    waits = given(other.desk, other.who("una"), file)
    other.do("ida", lambda act: access.end_person(act, "una"))
    found = work(other.desk, waits)
    assert (found.state, found.trouble) == ("failed", "Whoever asked for it has left.")
    other.do("ida", lambda act: packages.look_again(act, waits, Wish()))
    assert work(other.desk, waits).state == "looked"
    other.do("ida", lambda act: packages.undo(act, id))
    assert work(other.desk, id).state == "undone"
    assert count(other) == 0


def test_only_what_is_under_way_is_broken_off_and_only_what_is_not_forgotten(
    house: House, other: House, tmp_path: Path
) -> None:
    house.page("One")
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    uuid = given(other.desk, other.who("ida"), file)
    with pytest.raises(InTheWay, match="being looked through"):
        other.do("ida", lambda act: packages.run(act, uuid))
    with pytest.raises(InTheWay):
        other.do("ida", lambda act: packages.drop(act, uuid, packages.folder(other.desk)))
    other.do("ida", lambda act: packages.cancel(act, uuid))
    assert work(other.desk, uuid).state == "cancelled"
    other.do("ida", lambda act: packages.drop(act, uuid, packages.folder(other.desk)))
    assert not packages.file_of(other.desk, uuid).exists()


# -- memories and glossaries ---------------------------------------------------------------------------------------------------


def speaking(house: House, names: tuple[str, str], some: dict[str, str]) -> None:
    """Give a house a memory and a glossary by their names, with words in English and French."""
    house.speaks(fr="Français")
    memory = house.do("ida", lambda act: memories.add(act, names[0])).id
    glossary = house.do("ida", lambda act: glossaries.add(act, names[1])).id
    add_words(house, memory, glossary, some)


def add_words(house: House, memory: str, glossary: str, some: dict[str, str]) -> None:
    units = (
        TmxUnit((Variant("en", f"The <1>{one}</1>."), Variant("fr", f"<1>{two}</1>.")))
        for one, two in some.items()
    )
    file = io.BytesIO(b"".join(tmx.write(units, "en")))
    memory_files.import_file(house.desk, house.who("ida"), memory, "words.tmx", file)
    for one, two in some.items():
        terms = [glossaries.TermShown("en", one, "preferred"), glossaries.TermShown("fr", two, "admitted")]
        house.do("ida", lambda act, t=terms: glossaries.put(act, glossary, "From the yard.", t))  # type: ignore[misc]


def said_in(house: House) -> dict[str, list[tuple[Any, ...]]]:
    """What the memories and glossaries of a house say, by whom."""
    ask = {
        "sentences": "SELECT m.name, s.locale, s.text, u.locale, u.text, u.origin, a.handle, u.at FROM memory_unit u JOIN memory m ON m.id = u.memory "
        "JOIN memory_source s ON s.id = u.source JOIN actor a ON a.id = u.actor ORDER BY 1, 2, 3, 4, 5",
        "concepts": "SELECT g.name, t.locale, t.text, t.status, c.note, a.handle, c.at FROM term t JOIN concept c ON c.id = t.concept "
        "JOIN glossary g ON g.id = c.glossary JOIN actor a ON a.id = c.actor ORDER BY 1, 2, 3",
        "names": "SELECT uuid, name FROM memory UNION ALL SELECT uuid, name FROM glossary",
    }
    with house.desk.db.read() as conn:
        return {what: [tuple(row) for row in conn.execute(sql)] for what, sql in ask.items()}


def test_memories_and_glossaries_go_with_all_of_a_house_and_with_nothing_less(
    house: House, other: House, tmp_path: Path
) -> None:
    speaking(house, ("House", "Sea words"), {"rope": "cordage", "lamp": "lampe", "keel": "quille"})
    with house.desk.db.read() as conn:
        glossary = conn.execute("SELECT uuid FROM glossary").fetchone()[0]
    # Twice the same, as somebody put it.
    twice = [
        glossaries.TermShown("en", "rope", "preferred"),
        glossaries.TermShown("fr", "cordage", "admitted"),
    ]
    house.do("ida", lambda act: glossaries.put(act, glossary, "From the yard.", twice))
    page = house.page("A page")
    ida = house.who("ida")
    part = exported(house.desk, ida, tmp_path / "part.zip", Choice(entries=(page,)))
    assert not {MEMORIES, SENTENCES, GLOSSARIES, CONCEPTS} & {*zipfile.ZipFile(part).namelist()}
    first = exported(house.desk, ida, tmp_path / "a.zip")
    _, seen, done = imported(other.desk, other.who("ida"), first)
    assert [seen[k] for k in ("sentences", "new_sentences", "concepts", "new_concepts")] == [3, 3, 4, 4]
    assert (done["new_sentences"], done["new_concepts"]) == (3, 4)
    assert said_in(other) == said_in(house)
    assert exported(other.desk, other.who("ida"), tmp_path / "b.zip").read_bytes() == first.read_bytes()
    assert trouble(other.desk) == []


def test_words_come_to_those_that_are_here_once_and_are_taken_back(
    house: House, other: House, tmp_path: Path
) -> None:
    speaking(house, ("House", "Sea words"), {"rope": "cordage", "lamp": "lampe", "keel": "quille"})
    speaking(other, ("House", "Land words"), {"rope": "cordage", "barn": "grange"})
    house.page("A page")
    before, ida = said_in(other), other.who("ida")
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    id, seen, done = imported(other.desk, ida, file)
    assert (seen["sentences"], seen["new_sentences"], done["new_sentences"]) == (3, 2, 2)
    assert [name for _, name in said_in(other)["names"]] == ["House", "Land words", "Sea words"]
    _, again, nothing = imported(other.desk, ida, file)
    assert (again["new_sentences"], again["new_concepts"]) == (0, 0)
    assert (nothing["new_sentences"], nothing["new_concepts"]) == (0, 0)
    with other.desk.db.read() as conn:
        kept = conn.execute("SELECT id FROM memory_unit WHERE text = '<1>quille</1>.'").fetchone()[0]
        home = conn.execute("SELECT uuid FROM memory").fetchone()[0]
    other.do("ida", lambda act: memories.edit(act, home, kept, "<1>la quille</1>."))
    other.do("ida", lambda act: packages.undo(act, id))
    assert work(other.desk, id).state == "undone"
    after = said_in(other)
    assert {**after, "sentences": [s for s in after["sentences"] if "la quille" not in s[4]]} == before
    assert len(after["sentences"]) == len(before["sentences"]) + 1
    assert trouble(other.desk) == []


def test_words_are_left_alone_where_that_is_wanted_and_in_languages_that_are_not_here(
    house: House, other: House, tmp_path: Path
) -> None:
    speaking(house, ("House", "Sea words"), {"rope": "cordage", "lamp": "lampe"})
    speaking(other, ("House", "Sea words"), {"barn": "grange"})
    page = house.page("A page")
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    before = said_in(other)
    _, seen, _ = imported(other.desk, other.who("ida"), file, Wish(leave=True))
    assert (seen["sentences"], seen["new_sentences"]) == (2, 0)
    assert said_in(other) == before
    strange = altered(file, tmp_path / "b.zip", _line(lambda one: one.update(locale="nl"), SENTENCES))
    _, seen, done = imported(other.desk, other.who("ida"), strange)
    assert (seen["new_sentences"], done["new_sentences"]) == (1, 1)
    assert page


def test_words_go_on_exactly_where_they_were_stopped(
    house: House, other: House, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    speaking(house, ("House", "Sea words"), {f"rope {n}": f"cordage {n}" for n in range(9)})
    house.page("A page")
    file = exported(house.desk, house.who("ida"), tmp_path / "a.zip")
    monkeypatch.setattr(language, "AT_ONCE", 2)
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
    assert said_in(other) == said_in(house)
    with other.desk.db.read() as conn:
        told = conn.execute("SELECT state, read, added, known FROM memory_import").fetchall()
        assert [tuple(one) for one in told] == [("done", 9, 9, 0)]


def lines_as_described(file: Path) -> int:
    """Hold each line of a package against its schema, by another library; returns how many they were."""
    count = 0
    with zipfile.ZipFile(file) as package:
        for part, schema in json.loads(SCHEMAS.read_text("utf-8"))["parts"].items():
            validator = jsonschema_rs.validator_for(schema)
            for line in package.read(part).splitlines() if part in package.namelist() else ():
                validator.validate(json.loads(line))
                count += 1
    return count


# -- what is none ------------------------------------------------------------------------------------------------------------------


def _line(
    change: Callable[[dict[str, Any]], None], part: str = ENTRIES
) -> Callable[[dict[str, bytes]], dict[str, bytes]]:
    def all_of(members: dict[str, bytes]) -> dict[str, bytes]:
        first, *rest = members[part].splitlines()
        told = json.loads(first)
        change(told)
        lines = [json.dumps(told).encode(), *rest]
        return {**members, part: b"".join(line + b"\n" for line in lines)}

    return all_of


def _manifest(**members: Any) -> Callable[[dict[str, bytes]], dict[str, bytes]]:
    return lambda all_of: {
        **all_of,
        MANIFEST: json.dumps({**json.loads(all_of[MANIFEST]), **members}).encode(),
    }


ASSIGNED = {
    "id": "01a1f5b2-4c1d-7a41-9d40-1de0b42efb6a", "locale": "en", "to": "wim", "by": "ida", "at": "2026-01-01T00:00:00Z", "due": "", "note": "", "told": "",
}  # fmt: skip
OTHER_ID = "01a1f5b2-4c1d-7a41-9d40-1de0b42efb6b"
BAD: dict[str, tuple[Callable[[dict[str, bytes]], dict[str, bytes]], str]] = {
    "another version": (_manifest(version=2), "version 2"),
    "another kind of archive": (_manifest(format="leaflet"), "no package"),
    "a path that leads out": (lambda m: {**m, "../out.txt": b"x"}, "does not belong"),
    "a part that is missing": (lambda m: {k: v for k, v in m.items() if k != PEOPLE}, PEOPLE),
    "two entries of one id": (lambda m: {**m, ENTRIES: m[ENTRIES] * 2}, "twice"),
    "somebody unknown": (_line(lambda e: e.update(by="stranger")), "stranger"),
    "a member that nobody knows": (_line(lambda e: e.update(owner="ida")), "owner"),
    "no id": (_line(lambda e: e.update(id="../../etc")), "no id"),
    "no instant": (_line(lambda e: e.update(at="yesterday")), "none"),
    "an edition twice": (_line(lambda e: e["editions"].append(e["editions"][0])), "twice"),
    "a head that is not there": (_line(lambda e: e["editions"][0]["strands"][0].update(head=99)), "99"),
    "a revision that comes from itself": (_line(lambda e: e["editions"][0]["revisions"][0].update(parents=[1])), "younger"),
    "two that stand at once": (
        _line(lambda e: e["editions"][0].update(standings=[
            {"stage": "release", "revision": 1, "since": "2026-01-01T00:00:00Z", "until": None, "committed_at": "2026-01-01T00:00:00Z"}] * 2)),
        "at once",
    ),
    "a file whose bytes are not its name": (
        lambda m: {k: v + b"x" if k.startswith("files/") else v for k, v in m.items()}, "other bytes"),
    "a file of another kind": (_line(lambda f: f.update(media_type="text/html"), FILES), "another size"),
    "assigned twice": (_line(lambda e: e.update(assignments=[ASSIGNED, {**ASSIGNED, "id": OTHER_ID}])), "assigned twice"),
    "assigned to somebody unknown": (_line(lambda e: e.update(assignments=[{**ASSIGNED, "to": "stranger"}])), "stranger"),
    "assigned until no day": (_line(lambda e: e.update(assignments=[{**ASSIGNED, "due": "2027-02-30"}])), "none"),
    "a sentence of no memory": (_line(lambda s: s.update(memory=OTHER_ID), SENTENCES), "no memory or glossary"),
    "a sentence without words": (_line(lambda s: s.update(source="<1></1>"), SENTENCES), "no words"),
    "a sentence by somebody unknown": (_line(lambda s: s.update(by="stranger"), SENTENCES), "stranger"),
    "a memory without a name": (_line(lambda m: m.update(name=" "), MEMORIES), "a name that is none"),
    "a memory twice": (lambda m: {**m, MEMORIES: m[MEMORIES] * 2}, "twice"),
    "sentences without memories": (lambda m: {k: v for k, v in m.items() if k != MEMORIES}, MEMORIES),
    "a concept without terms": (_line(lambda c: c.update(terms=[]), CONCEPTS), "no terms"),
    "a term twice": (_line(lambda c: c.update(terms=c["terms"][:1] * 2), CONCEPTS), "one twice"),
    "a number that readers take for different ones": (_line(lambda e: e["editions"][0]["revisions"][0].update(n=10**24)), "<= 9007199254740991"),
    "a number with a fraction": (_line(lambda e: e["editions"][0]["revisions"][0].update(n=1.0)), "not `float`"),
    "half a letter": (_line(lambda e: e["editions"][0]["revisions"][0]["fields"].update(internal="\ud83c")), "surrogate"),
    "more in one another than anybody reads": (
        lambda m: {**m, ENTRIES: m[ENTRIES].replace(b'"fields":{', b'"fields":{"deep":' + b"[" * 100_000 + b"]" * 100_000 + b",", 1)}, "recursion"),
    "a member too few": (_line(lambda e: e.pop("type")), "`type` is missing"),
    "a value that is none": (_line(lambda e: e["editions"][0]["revisions"][0].update(kind="ghost")), "“ghost” is none"),
    "a number too small": (_line(lambda e: e["editions"][0]["revisions"][0].update(n=-1)), "`int` >= 0"),
    "a line cut off": (lambda m: {**m, ENTRIES: m[ENTRIES].splitlines()[0][:-9] + b"\n"}, "no JSON from byte"),
    "an empty line": (lambda m: {**m, ENTRIES: m[ENTRIES] + b"\n"}, "it is empty"),
    "no JSON": (lambda m: {**m, ENTRIES: b"{id: 1}\n"}, "no JSON from byte 1"),
    "not even lines": (lambda m: {**m, ENTRIES: b"\xff\xfe\n"}, "line 1"),
}  # fmt: skip


@pytest.fixture(scope="module")
def sound(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A package with a page and a picture."""
    from hawthorn.operations.media import files
    from tests.service.test_story import png

    folder = tmp_path_factory.mktemp("sound")
    made = House(folder)
    kept = made.do("ida", lambda act: files.keep(act, files.inspect("lamp.png", png("red"))))
    picture = made.do("ida", lambda act: entries.start(act, "picture", "en", {"title": "Lamp", "file": kept}))
    made.page("Lamps", picture=picture)
    speaking(made, ("House", "Sea words"), {"rope": "cordage"})
    file = exported(made.desk, made.who("ida"), folder / "sound.zip")
    made.close()
    return file


@pytest.mark.parametrize("name", BAD)
def test_what_cannot_be_is_refused_whole_and_says_where(
    other: House, sound: Path, tmp_path: Path, name: str
) -> None:
    change, said = BAD[name]
    file = altered(sound, tmp_path / "bad.zip", change)
    before = derived(other.desk), count(other)
    found = work(other.desk, given(other.desk, other.who("ida"), file))
    assert found.state == "failed"
    assert said in found.trouble
    assert (derived(other.desk), count(other)) == before


@pytest.mark.parametrize("share", [0, 0.3, 0.9, 0.999])
def test_what_was_cut_off_or_altered_is_refused(
    other: House, sound: Path, tmp_path: Path, share: float
) -> None:
    data = sound.read_bytes()
    cut, hurt = tmp_path / "cut.zip", tmp_path / "hurt.zip"
    cut.write_bytes(data[: int(len(data) * share)])
    at = int(len(data) * share / 2)
    hurt.write_bytes(data[:at] + bytes([data[at] ^ 1]) + data[at + 1 :])
    assert work(other.desk, given(other.desk, other.who("ida"), cut)).state == "failed"
    changed = altered(sound, tmp_path / "lies.zip", _line(lambda e: e.update(limited="")), honest=False)
    assert (
        "not what the package says" in work(other.desk, given(other.desk, other.who("ida"), changed)).trouble
    )
    assert work(other.desk, given(other.desk, other.who("ida"), hurt)).state in ("failed", "looked")


def test_scripts_in_texts_do_not_come_in_and_what_does_not_fit_is_left(
    other: House, sound: Path, tmp_path: Path
) -> None:
    def hostile(members: dict[str, bytes]) -> dict[str, bytes]:
        lines = [json.loads(line) for line in members[ENTRIES].splitlines()]
        for entry in lines:
            for edition in entry["editions"]:
                for revision in edition["revisions"]:
                    if "body" in revision["fields"]:
                        revision["fields"]["body"] = (
                            '<p onclick="x()">Words<script>alert(1)</script></p><p>More</p>'
                        )
                    elif entry["type"] == "picture" and edition["locale"] == "en":
                        revision["fields"]["title"] = {"not": "a line"}
        return {**members, ENTRIES: b"".join(json.dumps(e).encode() + b"\n" for e in lines)}

    file = altered(sound, tmp_path / "hostile.zip", hostile)
    _, seen, done = imported(other.desk, other.who("ida"), file)
    assert (seen["cleaned"], seen["left"], done["added"]) == (1, 1, 1)
    with other.desk.db.read() as conn:
        page = conn.execute("SELECT e.uuid FROM entry e WHERE e.type = 'page'").fetchone()[0]
    assert text(other, page, "body") == "<p>Words</p><p>More</p>"
    save(other, page, body="<p>Words</p><p>More, and more</p>")
    assert trouble(other.desk) == []


def test_given_over_http_it_is_looked_through_and_brought_by_the_follower(
    running: Running, sound: Path
) -> None:
    ida: Client = running.as_("ida")
    told: list[int] = []
    one = ida.give_package(sound, name="sound.zip", told=told.append)
    assert told == [sound.stat().st_size]
    while one.state == "looking":
        one = ida.package(one.id)
    assert (one.state, one.report.added) == ("looked", 2)
    one = ida.look_at_package(one.id, {"as_drafts": True})
    while one.state == "looking":
        one = ida.package(one.id)
    one = ida.run_package(one.id)
    while one.state == "running":
        one = ida.package(one.id)
    assert (one.state, one.report.added) == ("done", 2)
    assert ida.packages().items[0] == one
    one = ida.undo_package(one.id)
    while one.state == "undoing":
        one = ida.package(one.id)
    assert one.state == "undone"
    with pytest.raises(Refusal):
        running.as_("wim").give_package(sound)
