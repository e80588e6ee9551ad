"""Lines of lists: however many there are, they are asked for in the same number of questions, and say what a single one says."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from PIL import Image

from hawthorn.core.errors import Invalid
from hawthorn.operations.access import people
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import outline
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.media import files, library
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act, View, setup_changed
from hawthorn.operations.search import finding
from hawthorn.operations.translation import grid
from hawthorn.operations.views import show, show_history, show_lines
from hawthorn.store import definitions
from hawthorn.store import people as people_store
from hawthorn.store.standings import DRAFT
from tests.service.made import House


def png(colour: tuple[int, int, int]) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (8, 8), colour).save(out, "PNG")
    return out.getvalue()


LIMITED = [{"verb": "read", "locales": ["en"]}]


@pytest.fixture(scope="module")
def house(tmp_path_factory: pytest.TempPathFactory) -> Iterator[House]:
    made = House(tmp_path_factory.mktemp("lines"))
    pages = [made.signed(f"Page {n:02}") for n in range(12)]
    made.do("ida", lambda a: dispatches.make(a, [MoveRequest(u, "en") for u in pages[:6]]))
    made.plan(pages[3:9], 3600, "withdraw")
    for uuid in pages[::3]:
        base = made.desk.read(made.who("wim"), lambda v, u=uuid: show.entry(v, u, "en"))["etag"]
        patch = {"title": f"Later {uuid[-3:]}"}
        made.do("wim", lambda a, u=uuid, b=base, p=patch: entries.save(a, u, "en", p, entries.parse_etag(b)))

    def limited(act: Act) -> None:
        definitions.add_locale(act.conn, "fr", "French")
        setup_changed(act)
        people_store.set_role(act.conn, "english", "english", LIMITED)
        people.add_person(act, "kit", "Kit", "kit@x.example", "long enough", [{"name": "english"}])

    made.by_scheduler(limited)
    yield made
    made.close()


def in_list(view: View, limit: int) -> list[dict[str, Any]]:
    return show_lines.lines(view, finding.listing(view, limit=limit)[0])


def in_outline(view: View, limit: int) -> list[dict[str, Any]]:
    return show_lines.outline_lines(view, outline.below(view, "", Place(DRAFT), limit=limit)[0])


def in_grid(view: View, limit: int) -> list[dict[str, Any]]:
    return grid.lines(view, grid.Asked(), limit, "")[0]


def asked(house: House, who: str, look: Callable[[View, int], list[Any]], limit: int) -> int:
    """How many statements it takes to show so many lines."""

    def counted(view: View) -> int:
        said: list[str] = []
        view.conn.set_trace_callback(said.append)
        try:
            assert len(look(view, limit)) == limit
        finally:
            view.conn.set_trace_callback(None)
        return len(said)

    return house.desk.read(house.who(who), counted)


def in_library(view: View, limit: int) -> list[Any]:
    return list(library.listing(view, finding.Query(library=True), limit=limit)[0])


def in_history(view: View, limit: int) -> list[Any]:
    page = finding.listing(view, finding.Query(type="page"))[0][0]
    return list(show_history.history(view, page.uuid, "en", limit=limit)["revisions"])


@pytest.fixture(scope="module")
def shelf(tmp_path_factory: pytest.TempPathFactory) -> Iterator[House]:
    """Twelve pictures, every third in a folder and every second shown by a page, which has as many revisions."""
    made = House(tmp_path_factory.mktemp("shelf"))
    page = made.page("Pier")
    folder = made.do("ida", lambda a: library.make_folder(a, "Piers"))

    def picture(act: Act, n: int) -> None:
        file = files.keep(act, files.inspect(f"{n}.png", png((n, n, n))))
        one = entries.start(
            act, "picture", "en", {"title": f"Picture {n:02}", "alt": f"Pier {n}", "file": file}
        )
        base = entries.parse_etag(show.entry(act, page, "en")["etag"])
        text = f'<figure><img src="urn:uuid:{one}"></figure>' if n % 2 else f"<p>Without {n}.</p>"
        entries.save(act, page, "en", {"body": text}, base)
        if n % 3 == 0:
            library.file_into(act, [one], folder)

    for n in range(12):
        made.do("ida", lambda a, n=n: picture(a, n))
    yield made
    made.close()


@pytest.mark.parametrize("look", [in_library, in_history])
def test_a_long_page_of_the_library_or_a_history_takes_as_many_questions_as_a_short_one(
    shelf: House, look: Callable[[View, int], list[Any]]
) -> None:
    few = asked(shelf, "ida", look, 8)
    assert asked(shelf, "ida", look, 12) == few
    assert few < 20


def test_the_library_says_of_each_picture_its_own_file_folder_and_uses(shelf: House) -> None:
    found = shelf.desk.read(shelf.who("ida"), lambda v: in_library(v, 12))
    said = {row.title: about for row, about in found}
    assert len({one["file"]["sha256"] for one in said.values()}) == 12
    for n in range(12):
        about = said[f"Picture {n:02}"]
        assert about["alt"] == f"Pier {n}"
        assert bool(about["folder"]) == (n % 3 == 0)
        # The page shows the last of those that it showed, and no other.
        assert about["uses"] == int(n == 11)


@pytest.mark.parametrize("who", ["ida", "kit"])
@pytest.mark.parametrize("look", [in_list, in_outline, in_grid])
def test_a_long_page_takes_as_many_questions_as_a_short_one(
    house: House, who: str, look: Callable[[View, int], list[Any]]
) -> None:
    few = asked(house, who, look, 8)
    assert asked(house, who, look, 12) == few
    assert few < 20


@pytest.mark.parametrize("who", ["ida", "kit"])
def test_a_line_says_what_the_entry_itself_says(house: House, who: str) -> None:
    def both(view: View) -> list[tuple[dict[str, Any], dict[str, Any]]]:
        return [(line, show.entry(view, line["id"], "en")) for line in in_list(view, 12)]

    pairs = house.desk.read(house.who(who), both)
    assert {bead["state"] for line, _ in pairs for bead in line["rail"]} == {"head", "older", "none"}
    assert {len(line["planned"]) for line, _ in pairs} == {0, 1}
    for line, whole in pairs:
        for name in ("title", "rail", "planned", "section", "missing", "source_locale"):
            assert line[name] == whole[name], (line["title"], name)
    in_tree = house.desk.read(house.who(who), lambda v: in_outline(v, 12))
    rails = {line["id"]: (line["rail"], line["planned"]) for line, _ in pairs}
    assert {line["id"]: (line["rail"], line["planned"]) for line in in_tree} == rails


@pytest.mark.parametrize("asked", [{}, {"type": "page"}, {"incomplete": True}, {"stage": "draft"}])
@pytest.mark.parametrize("sort", ["", *finding.SORTS])
def test_a_list_goes_on_in_its_order_until_everything_was_seen_once(
    house: House, sort: str, asked: dict[str, Any]
) -> None:
    def whole(view: View) -> list[Any]:
        rows, cursor = [], ""
        while True:
            page, cursor = finding.listing(view, finding.Query(sort=sort, **asked), limit=5, cursor=cursor)
            rows += page
            if not cursor:
                return rows

    rows = house.desk.read(house.who("ida"), whole)
    counted = house.desk.read(house.who("ida"), lambda v: finding.count(v, finding.Query(sort=sort, **asked)))
    assert (counted.count, counted.more) == (len(rows), False)
    assert len({row.edition for row in rows}) == len(rows)
    told = [row.title.casefold() if "title" in sort else row.updated_at for row in rows]
    assert told == sorted(told, reverse=not sort or sort.startswith("-"))


def test_counting_ends_where_it_says_there_are_more(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(finding, "COUNTED", 7)
    for asked in ({}, {"words": "Page"}):
        found = house.desk.read(house.who("ida"), lambda v, q=asked: finding.count(v, finding.Query(**q)))
        rows, _ = house.desk.read(
            house.who("ida"), lambda v, q=asked: finding.listing(v, finding.Query(**q), limit=100)
        )
        assert found == finding.Count(min(len(rows), 7), len(rows) > 7)


def test_words_have_an_order_of_their_own(house: House) -> None:
    with pytest.raises(Invalid, match="order of its own"):
        house.desk.read(
            house.who("ida"), lambda v: finding.listing(v, finding.Query(words="a", sort="title"))
        )
    with pytest.raises(Invalid, match="not an order"):
        house.desk.read(house.who("ida"), lambda v: finding.count(v, finding.Query(sort="mood")))
