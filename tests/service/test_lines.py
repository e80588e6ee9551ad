"""Lines of lists: however many there are, they are asked for in the same number of questions, and say what a single one says."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest

from hawthorn.operations.access import people
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import outline
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.planning import MoveRequest
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.search import finding
from hawthorn.operations.translation import shown
from hawthorn.operations.views import show, show_lines
from hawthorn.store import people as people_store
from hawthorn.store.standings import DRAFT
from tests.service.made import House

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
    return shown.grid(view, finding.listing(view, limit=limit)[0])


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
