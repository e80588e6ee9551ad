"""Fields that are shared by all locales, then differ by them, and the other way: nothing that was written is lost, nothing that was emptied
comes back, and what readers have stays as it is until something goes out."""

from __future__ import annotations

import json
import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import contenttypes
from hawthorn.operations.content import bulk, changing, entries, strands, templates
from hawthorn.operations.delivery import addressing, reading_lists, rendering
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.delivery.reading_lists import Wish
from hawthorn.operations.exchange import sheets
from hawthorn.operations.release import dispatches, gathering, review, workflows
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.release.records import About
from hawthorn.operations.search.finding import Query
from hawthorn.operations.views import show, show_comparison
from hawthorn.operations.views.health import health
from hawthorn.store.standings import DRAFT
from tests.service.made import House
from tests.service.test_planned_fields import add_fields
from tests.service.test_workflows import flow

LOCALES = ("en", "fr")
VALUES = ("Wet", "Dry", "Damp", None)


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    made.do("ida", lambda a: workflows.define(a, flow(sign_offs=0, checks=[])))
    add_fields(
        made,
        [
            {"name": "note", "kind": "line", "label": "Note", "filter": True},
            {"name": "text", "kind": "rich", "label": "More"},
            {"name": "price", "kind": "line", "label": "Price", "shared": True},
        ],
    )
    yield made
    assert made.desk.read(made.who("ida"), health) == []
    made.close()


def move(house: House, shared: bool, name: str = "note") -> changing.Impact:
    """Let a field be shared, or differ by locale; returns what was said beforehand."""

    def defined(view: Any) -> dict[str, Any]:
        now = contenttypes.to_dict(view.setup.types["page"])
        some = [{**f, "shared": shared} if f["name"] == name else f for f in now["fields"]]
        return {**now, "fields": some}

    impact = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, defined(v)))
    house.do("ida", lambda a: changing.define_type(a, defined(a)))
    return impact


def save(house: House, page: str, locale: str = "en", strand: str = "draft", **fields: Any) -> entries.Saved:
    def do(act: Any) -> entries.Saved:
        entry = entries.store.entry(act.conn, page)
        base = entries.current_base(act, entry.id, locale, strand)
        return entries.save(act, page, locale, fields, base, "", strand)

    return house.do("ida", do)


def fields(house: House, page: str, locale: str = "en", strand: str = "draft") -> dict[str, Any]:
    return house.desk.read(house.who("ida"), lambda v: show.entry(v, page, locale, strand))["fields"]


def out(house: House, page: str, *locales: str) -> None:
    for locale in locales:
        house.do("ida", lambda a: review.submit(a, page, locale))  # noqa: B023
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, one) for one in locales]))


def for_readers(house: House, page: str, locale: str = "en") -> Any:
    made = house.desk.read(house.who("ida"), lambda v: rendering.render(v, page, locale, Place()))
    return json.loads(made.data)["fields"].get("note")


def found_by(house: House, value: str, locale: str) -> list[str]:
    wish = Wish(("page",), locale, (("where.note", value),), fallback=False)
    return house.desk.read(house.who("ida"), lambda v: reading_lists.page(v, Place(), wish)).uuids


class Model:
    """What a field holds, said without editions: one value for all while it is shared, else one of each locale's own."""

    def __init__(self) -> None:
        self.shared = False
        self.all: Any = None
        self.own: dict[str, Any] = {"en": "Wet", "fr": "Mouillé"}

    def move(self) -> None:
        self.shared = not self.shared
        if self.shared:
            self.all = self.own["en"]
        elif self.all is None or self.all != self.own["en"]:
            self.own = dict.fromkeys(LOCALES, self.all)
        else:
            self.own = {k: self.all if v is None else v for k, v in self.own.items()}

    def save(self, locale: str, value: Any) -> None:
        if self.shared:
            self.all = value
        else:
            self.own[locale] = value

    def at(self, locale: str) -> Any:
        return self.all if self.shared else self.own[locale]


@pytest.mark.parametrize("seed", range(6))
def test_it_holds_what_was_written_last_however_often_it_moves(house: House, seed: int) -> None:
    rng = random.Random(seed)
    page, model = house.page("Fog", note="Wet"), Model()
    save(house, page, "fr", title="Brume", body="<p>Mots.</p>", note="Mouillé")
    out(house, page, "en", "fr")
    moved = 0
    for _ in range(40):
        what = rng.choice(["move", "save", "save", "out"])
        before = [for_readers(house, page, one) for one in LOCALES]
        if what == "move":
            model.move()
            move(house, model.shared)
            moved += 1
        elif what == "save":
            locale, value = rng.choice(LOCALES), rng.choice(VALUES)
            model.save(locale, value)
            save(house, page, locale, note=value)
        else:
            # Of what did not change since nothing goes.
            save(house, page, "en", body=f"<p>{house.clock.at}</p>")
            save(house, page, "fr", body=f"<p>{house.clock.at}</p>")
            out(house, page, "en", "fr")
            before = [model.at(one) for one in LOCALES]
        assert [fields(house, page, one).get("note") for one in LOCALES] == [model.at(o) for o in LOCALES]
        assert [for_readers(house, page, one) for one in LOCALES] == before, what
        for locale, value in zip(LOCALES, before, strict=True):
            for one in ("Wet", "Dry", "Damp"):
                assert found_by(house, one, locale) == ([page] if one == value else []), (what, one)
    assert moved > 4


def test_what_is_written_beside_the_draft_comes_with_it(house: House) -> None:
    for shared in (True, False):
        page = house.page("Fog", note="Wet", text="<p>One.</p><p>Two.</p>")
        house.do("ida", lambda a: strands.fork(a, page, "en", "Side"))  # noqa: B023
        save(house, page, strand="Side", note="Dry", text="<p>One.</p><p>Two, now.</p>")
        save(house, page, text="<p>One, here.</p><p>Two.</p>")
        move(house, shared)
        move(house, shared, "text")
        assert fields(house, page, strand="Side")["note"] == "Dry"

        def bring(act: Any) -> list[str]:
            shown = strands.propose(act, page, "en", "Side")  # noqa: B023
            strands.accept(act, page, "en", "Side", shown.etag)  # noqa: B023
            return sorted(one.field for one in shown.taken)

        # Both changed another paragraph of one text, and nobody has to be asked.
        assert house.do("ida", bring) == ["note", "text"]
        assert fields(house, page)["note"] == "Dry"
        assert fields(house, page)["text"] == "<p>One, here.</p><p>Two, now.</p>"


def test_one_of_the_fields_that_moved_is_brought_in_alone(house: House) -> None:
    page = house.page("Fog", note="Wet")
    house.do("ida", lambda a: strands.fork(a, page, "en", "Side"))
    save(house, page, strand="Side", note="Dry", title="Mist")
    move(house, shared=True)

    def bring(act: Any) -> None:
        shown = strands.propose(act, page, "en", "Side", ["note"])
        strands.accept(act, page, "en", "Side", shown.etag, ["note"])

    house.do("ida", bring)
    assert (fields(house, page)["title"], fields(house, page)["note"]) == ("Fog", "Dry")


@pytest.mark.parametrize("strand", ["draft", "Side"])
def test_a_form_that_was_opened_before_it_moved_is_merged_with_what_was_written_since(
    house: House, strand: str
) -> None:
    page = house.page("Fog", note="Wet")
    if strand != "draft":
        house.do("ida", lambda a: strands.fork(a, page, "en", strand))
    save(house, page, strand=strand, note="Dry")
    save(house, page, strand=strand, price="Two")
    seen = house.desk.read(
        house.who("ida"),
        lambda v: entries.current_base(v, entries.store.entry(v.conn, page).id, "en", strand),
    )
    move(house, shared=True)
    typed = {"note": "Damp", "price": "Three"}
    saved = house.do("wim", lambda a: entries.save(a, page, "en", typed, seen, "", strand))
    assert (saved.conflicts, fields(house, page, strand=strand)["note"]) == ([], "Damp")


def test_going_back_to_a_revision_from_before_brings_what_it_held_then(house: House) -> None:
    page = house.page("Fog", note="Wet")
    move(house, shared=True)
    save(house, page, note="Dry", body="<p>New.</p>")
    house.do("ida", lambda a: entries.restore(a, page, "*", 1))
    assert fields(house, page)["note"] == "Wet"
    move(house, shared=False)
    save(house, page, note="Damp")
    house.do("ida", lambda a: entries.restore(a, page, "en", 1))
    assert fields(house, page)["note"] == "Wet"


def test_what_is_written_inside_a_dispatch_begins_with_what_is_out(house: House) -> None:
    page = house.page("Fog", note="Wet")
    out(house, page, "en")
    move(house, shared=True)
    made = house.do("ida", lambda a: gathering.start(a, About("Spring"), [MoveRequest(page, "en")]))
    house.do("ida", lambda a: gathering.write_in(a, made, page, "en"))
    name = house.desk.read(house.who("ida"), lambda v: show.entry(v, page, "en"))["strands"][0].name
    save(house, page, strand=name, body="<p>Spring.</p>")
    assert fields(house, page, strand=name)["note"] == "Wet"
    save(house, page, strand=name, note=None)
    assert "note" not in fields(house, page, strand=name)
    assert for_readers(house, page) == "Wet"


def test_a_comparison_shows_what_readers_would_see_change(house: House) -> None:
    page = house.page("Fog", note="Wet")
    out(house, page, "en")
    move(house, shared=True)
    seen = house.desk.read(
        house.who("ida"), lambda v: show_comparison.comparison(v, page, "en", "release", "draft")
    )
    assert seen["fields"] == []
    save(house, page, note="Dry")
    seen = house.desk.read(
        house.who("ida"), lambda v: show_comparison.comparison(v, page, "en", "release", "draft")
    )
    assert [one["field"] for one in seen["fields"]] == ["note"]


def test_of_a_change_that_is_taken_back_at_once_nothing_stays(house: House) -> None:
    page = house.page("Fog", note="Wet")
    save(house, page, "fr", title="Brume", note="Mouillé")
    told = [one.what for one in move(house, shared=True).effects]
    assert any("Other values" in one for one in told)
    assert fields(house, page, "fr")["note"] == "Wet"
    told = [one.what for one in move(house, shared=False).effects]
    assert any("its own of before" in one for one in told), told
    assert [fields(house, page, one)["note"] for one in LOCALES] == ["Wet", "Mouillé"]


def test_what_is_held_since_it_moved_is_what_tables_addresses_and_acts_on_many_go_by(house: House) -> None:
    add_fields(house, [{"name": "marks", "kind": "tags", "label": "Marks"}])
    page = house.page("Fog", note="Wet", marks=["rope"])
    move(house, shared=True)
    move(house, True, "marks")
    save(house, page, note="Dry", marks=["salt"])
    read = house.desk.read
    names = read(house.who("ida"), lambda v: sheets.columns(v, Query(), ["note"]))
    (_, line) = sheets.lines(lambda look: read(house.who("ida"), look), Query(), names)
    assert "Dry" in line
    row = read(house.who("ida"), lambda v: entries.store.entry(v.conn, page))
    values = read(house.who("ida"), lambda v: addressing.page_values(v, row, "en", Place(DRAFT)))
    assert values["field:note"] == "Dry"
    house.do("ida", lambda a: bulk.run(a, "tag", [(page, "en", None)], {"tag": "tide"}))
    assert fields(house, page)["marks"] == ["salt", "tide"]


def test_a_copy_and_a_template_have_what_is_held_since_it_moved(house: House) -> None:
    page = house.page("Fog", note="Wet")
    before = house.do("ida", lambda a: templates.make(a, page, "Before"))
    move(house, shared=True)
    save(house, page, note="Dry")
    since = house.do("ida", lambda a: templates.make(a, page, "Since"))
    made = [
        house.do("ida", lambda a: templates.copy(a, page, {})),
        house.do("ida", lambda a: templates.start(a, since, "en", {})),
        house.do("ida", lambda a: templates.start(a, before, "en", {})),
    ]
    assert [fields(house, one)["note"] for one in made] == ["Dry", "Dry", "Wet"]
