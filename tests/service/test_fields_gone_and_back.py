"""A field that a type has no more keeps what it held, with all that is known of it, for when it is taken up again; and what is in the archive
follows its type."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import contenttypes
from hawthorn.core.revision import Content
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import View
from hawthorn.operations.search import finding
from hawthorn.operations.translation import accepting, against, coverage
from hawthorn.operations.views.health import health
from hawthorn.store import revisions
from tests.service.made import House
from tests.service.test_planned_fields import add_fields
from tests.service.test_returns import order, returned


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    yield made
    with made.desk.db.read() as conn:
        assert list(coverage.wrong(conn)) == []
    assert made.desk.read(made.who("ida"), health) == []
    made.close()


def redefine(house: House, *fields: dict[str, Any], without: str = "") -> None:
    def define(act: Any) -> None:
        now = contenttypes.to_dict(act.setup.types["page"])
        changed = {one["name"] for one in fields}
        kept = [one for one in now["fields"] if one["name"] not in {without, *changed}]
        changing.define_type(act, {**now, "fields": [*kept, *fields]})

    house.do("ida", define)


def held(house: House, page: str, locale: str) -> Content:
    def look(view: View) -> Content:
        entry = entries.store.entry(view.conn, page)
        assert entry is not None
        edition = entries.store.edition(view.conn, entry.id, locale)
        assert edition is not None
        return revisions.content(view.conn, edition.tip)

    return house.desk.read(house.who("ida"), look)


def of_body(content: Content) -> tuple[Any, ...]:
    claims = {key: one for key, one in content.unit_map.items() if key.startswith("body")}
    return content.fields.get("body"), content.paragraph_ids.get("body"), claims


@pytest.mark.parametrize("how", ["saved", "merged", "translated"])
def test_a_text_is_known_as_before_when_its_field_is_taken_up_again(house: House, how: str) -> None:
    add_fields(house, [{"name": "note", "kind": "line", "label": "Note"}])
    page = house.page("Lamp", body="<p>One.</p><p>Two.</p>")
    # A paragraph that was written anew keeps the name that it had.
    house.do(
        "wim",
        lambda a: entries.save(
            a, page, "en", {"body": "<p>One more.</p><p>Two.</p>"}, entries.base_now(a, page, "en")
        ),
    )
    job = order(house, page)
    returned(house, job)
    house.do("ida", lambda a: accepting.accept(a, job))
    before = {tag: of_body(held(house, page, tag)) for tag in ("en", "fr")}
    assert len(before["fr"][2]) == 2
    body = house.desk.read(
        house.who("ida"),
        lambda v: next(f for f in changing.definition_of(v, "page")["fields"] if f["name"] == "body"),
    )
    redefine(house, without="body")
    bases = {
        tag: house.desk.read(house.who("wim"), lambda v, t=tag: entries.base_now(v, page, t))
        for tag in before
    }
    for tag, base in bases.items():
        house.do("wim", lambda a, t=tag, b=base: entries.save(a, page, t, {"title": f"Lantern {t}"}, b))
        if how == "merged":
            saved = house.do("wim", lambda a, t=tag, b=base: entries.save(a, page, t, {"note": "Wet"}, b))
            assert not saved.conflicts
    if how == "translated":
        house.do(
            "wim",
            lambda a: entries.save(a, page, "en", {"title": "Torch"}, entries.base_now(a, page, "en")),
        )
        returned(house, order(house, page))
    assert {tag: of_body(held(house, page, tag)) for tag in before} == before
    redefine(house, body)
    assert {tag: of_body(held(house, page, tag)) for tag in before} == before
    found = house.desk.read(house.who("wim"), lambda v: against.look(v, page, "fr"))
    assert not [one for one in found.due if one.key.startswith("body")]


def test_what_was_written_without_names_for_its_paragraphs_can_be_read_and_sent(house: House) -> None:
    """A record file of before may hold such texts."""
    page = house.page("Lamp", body="<p>One.</p><p>Two.</p>")
    house.desk.db.write(lambda conn: conn.execute("UPDATE revision SET paragraph_ids = '{}'"))
    job = order(house, page)
    returned(house, job)
    assert held(house, page, "fr").fields["body"] == "<p>French of One.</p><p>French of Two.</p>"


def test_what_is_in_the_archive_is_found_by_what_its_type_makes_of_it(house: House) -> None:
    add_fields(house, [{"name": "maker", "kind": "line", "label": "Maker", "shared": True}])
    page = house.page("Lamp", maker="Tallow")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", "archive")]))
    redefine(house, {"name": "maker", "kind": "line", "label": "Maker"})

    def found(words: str) -> list[str]:
        asked = finding.Query(words=words, archived="only")
        rows, _ = house.desk.read(house.who("ida"), lambda v: finding.listing(v, asked))
        return [row.uuid for row in rows]

    assert held(house, page, "en").fields["maker"] == "Tallow"
    assert found("tallow") == [page]
    house.do("ida", lambda a: entries.bring_back(a, page))
