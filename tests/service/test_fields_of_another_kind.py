"""Fields that become another kind while entries hold something: plain words are never taken for markup, nothing that cannot be brought along is let
go unsaid, and what is out says what it said."""

from __future__ import annotations

import json
import random
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import contenttypes, richtext
from hawthorn.core.errors import InTheWay
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.collaboration import assistants, comments
from hawthorn.operations.content import changing, entries, strands, templates
from hawthorn.operations.delivery import rendering
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import dispatches, gathering, planning, records, review, workflows
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.translation import table
from hawthorn.operations.views import show_assisted, show_comparison, show_dispatches, show_jobs
from hawthorn.operations.views.health import health
from tests.agent.test_overseeing import Overseen
from tests.service.made import House
from tests.service.test_fields_that_move import fields, out, save
from tests.service.test_planned_fields import add_fields
from tests.service.test_returns import order, returned
from tests.service.test_workflows import flow

BAD = "Wet & <script>alert(1)</script> <b>dry</b>"
SAFE = "<p>Wet &amp; &lt;script&gt;alert(1)&lt;/script&gt; &lt;b&gt;dry&lt;/b&gt;</p>"


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.speaks(fr="French")
    made.do("ida", lambda a: workflows.define(a, flow(sign_offs=0, checks=[])))
    add_fields(made, [{"name": "note", "kind": "line", "label": "Note"}])
    yield made
    assert made.desk.read(made.who("ida"), health) == []
    made.close()


def become(house: House, name: str = "note", **other: Any) -> dict[str, str]:
    """Let a field be another, None for none; returns what was said beforehand, by code of what it is about."""

    def defined(view: Any) -> dict[str, Any]:
        now = contenttypes.to_dict(view.setup.types["page"])
        rest = [f for f in now["fields"] if f["name"] != name]
        was = next((f for f in now["fields"] if f["name"] == name), {"name": name, "label": "Note"})
        return {**now, "fields": [*rest, {**was, **other}] if other else rest}

    told = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, defined(v))).effects
    house.do("ida", lambda a: changing.define_type(a, defined(a)))
    return {one.what: str(one.entries) for one in told}


def for_readers(house: House, page: str, name: str = "note", locale: str = "en") -> Any:
    made = house.desk.read(house.who("ida"), lambda v: rendering.render(v, page, locale, Place()))
    return json.loads(made.data)["fields"].get(name)


def test_plain_words_become_a_text_and_never_markup(house: House) -> None:
    page = house.page("Fog", note=BAD)
    out(house, page, "en")
    house.do("ida", lambda a: strands.fork(a, page, "en", "Side"))
    save(house, page, strand="Side", note=f"{BAD}!")
    told = become(house, kind="rich")
    assert any("another kind" in what for what in told)
    assert (fields(house, page)["note"], for_readers(house, page)) == (SAFE, SAFE)
    assert fields(house, page, strand="Side")["note"] == SAFE.replace("</p>", "!</p>")
    save(house, page, note="<p>All <em>new</em>.</p>")
    house.do("ida", lambda a: entries.restore(a, page, "en", 1))
    assert fields(house, page)["note"] == SAFE
    save(house, page, body="<p>Something else.</p>")

    def bring(act: Any) -> None:
        shown = strands.propose(act, page, "en", "Side")
        strands.accept(act, page, "en", "Side", shown.etag)

    house.do("ida", bring)
    assert fields(house, page)["note"] == SAFE.replace("</p>", "!</p>")
    out(house, page, "en")
    assert for_readers(house, page) == SAFE.replace("</p>", "!</p>")


def test_so_it_is_within_blocks_and_groups_however_deep(house: House) -> None:
    def cards(kind: str) -> list[dict[str, Any]]:
        line = {"name": "line", "kind": kind, "label": "Line"}
        more = {"name": "more", "kind": "group", "label": "More", "many": True, "fields": [line]}
        return [{"name": "card", "fields": [line, more]}, {"name": "gone", "fields": [line]}]

    add_fields(house, [{"name": "cards", "kind": "blocks", "label": "Cards", "blocks": cards("line")}])
    inner = {"line": BAD, "more": [{"fields": {"line": BAD}}]}
    some = [{"kind": "card", "fields": inner}, {"kind": "gone", "fields": {"line": BAD}}]
    page = house.page("Fog", cards=some)
    out(house, page, "en")
    told = become(house, "cards", blocks=cards("rich")[:1])
    assert any("readers no longer get it" in what for what in told)
    for now in (fields(house, page)["cards"], for_readers(house, page, "cards")):
        assert now[0]["fields"]["line"] == SAFE
        assert now[0]["fields"]["more"][0]["fields"]["line"] == SAFE
    assert fields(house, page)["cards"][1]["fields"] == {"line": BAD}, "kept as it was"
    assert for_readers(house, page, "cards")[1]["fields"] == {}
    with pytest.raises(InTheWay, match="another kind"):
        become(house, "cards", blocks=cards("number")[:1])


def test_a_template_begins_with_what_its_fields_are_now(house: House) -> None:
    page = house.page("Fog", note=BAD)
    made = house.do("ida", lambda a: templates.make(a, page, "Fogs"))
    become(house, kind="rich")
    begun = house.do("ida", lambda a: templates.start(a, made, "en", {"title": "Mist"}))
    assert fields(house, begun)["note"] == SAFE


def test_of_a_text_the_words_are_left(house: House) -> None:
    become(house, kind="rich")
    page = house.page(
        "Fog", note="<p>Wet <strong>&amp;</strong> <a href='https://x.example/'>dry</a></p><p>Two</p>"
    )
    out(house, page, "en")
    become(house, kind="text")
    assert (fields(house, page)["note"], for_readers(house, page)) == ("Wet & dry\nTwo", "Wet & dry\nTwo")


def test_what_is_out_is_not_held_to_the_bounds_of_what_its_field_became(house: House) -> None:
    page = house.page("Fog", note="Wet and long")
    out(house, page, "en")
    save(house, page, note="Wet")
    become(house, kind="rich", limit=12)
    assert (fields(house, page)["note"], for_readers(house, page)) == ("<p>Wet</p>", "<p>Wet and long</p>")


def test_what_within_a_group_cannot_be_brought_along_is_refused_too(house: House) -> None:
    inner = {"name": "see", "kind": "json", "label": "See"}
    add_fields(house, [{"name": "more", "kind": "group", "label": "More", "fields": [inner]}])
    house.page("Fog", more={"see": {"a": 1}})
    with pytest.raises(InTheWay, match="another kind"):
        become(house, "more", fields=[inner | {"kind": "link"}])


def test_whatever_looks_at_older_revisions_goes_on(tmp_path: Path) -> None:
    house = Overseen(tmp_path)
    try:
        house.speaks(fr="French")
        house.do("ida", lambda a: workflows.define(a, flow(sign_offs=0, checks=[])))
        add_fields(house, [{"name": "note", "kind": "text", "label": "Note"}])
        page = house.page("Fog", note="Wet.\n\nCold and grey.", body="<p>It was wet all night.</p>")
        returned(house, order(house, page))
        quote = comments.Quote("Cold and grey")
        house.do("oda", lambda a: comments.make(a, page, "en", "How cold?", "note", quote))
        out(house, page, "en", "fr")
        house.do("ida", lambda a: workflows.define(a, flow(checks=["translated"])))
        house.saves(page, note="Wet.\n\nCold and grey & <dark>.", body="<p>It was wet nearly all night.</p>")
        job = order(house, page)
        become(house, kind="rich")

        def look(act: Callable[[Any], Any]) -> Any:
            return house.desk.read(house.who("ida"), act)

        shown = look(lambda v: show_jobs.job(v, job))
        assert "Note" not in {one.label for one in shown["units_shown"]}, "its text is no unit any more"
        lines = look(lambda v: table.lines(v, job, 50))[0]
        assert [one.then for one in lines if one.then] == [
            ["It was wet all night.", "French of It was wet all night."]
        ]
        between = look(lambda v: show_comparison.comparison(v, page, "en", "release", "draft"))
        differs = next(one for one in between["fields"] if one["field"] == "note")
        words = [run.text for part in differs["parts"] for run in part["runs"] if run.how == "new"]
        assert " ".join(words).strip() == "& <dark>"
        marked = look(lambda v: show_assisted.words(v, page, "en", "draft"))
        assert "dark" in " ".join(r.text for place in marked.places for r in place.runs if r.assistant)
        (comment,) = look(lambda v: comments.on(v, page, "en"))
        assert comment["passage"]["now"] == "Cold and grey"
        assert look(lambda v: planning.check(v, [MoveRequest(page, "fr")]))
        since = house.clock.at - 100 * SECOND
        house.do("ida", lambda a: assistants.undo(a, house.handle, iso(since)))
        assert fields(house, page)["note"] == "<p>Wet.</p><p>Cold and grey.</p>"
        assert look(health) == []
    finally:
        house.close()


@pytest.mark.parametrize(
    ("kind", "value", "other"),
    [
        ("json", {"a": 1}, "link"),
        ("instant", "2027-01-02T10:00:00Z", "link"),
        ("line", "Wet", "number"),
        ("tags", ["a", "b"], "line"),
        ("line", "2027-01-02", "instant"),
    ],
)
def test_what_cannot_be_brought_along_is_refused_by_name(
    house: House, kind: str, value: Any, other: str
) -> None:
    become(house, kind=kind)
    page = house.page("Fog", note=value)
    before = fields(house, page)["note"]
    with pytest.raises(InTheWay, match="another kind"):
        become(house, kind=other)
    become(house)
    with pytest.raises(InTheWay):
        become(house, kind=other)
    become(house, kind=kind)
    assert fields(house, page)["note"] == before


@pytest.mark.parametrize("where", ["out", "planned", "set", "open"])
def test_what_is_out_or_to_go_has_to_be_brought_along_too(house: House, where: str) -> None:
    become(house, kind="json")
    page = house.page("Fog", **({"note": {"a": 1}} if where in ("out", "planned") else {}))
    house.do("ida", lambda a: review.submit(a, page, "en"))
    ahead = When(instant=iso(house.clock.at + 3600 * SECOND))
    made = ""
    if where == "planned":
        made = house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")], ahead))
    else:
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    wish = [MoveRequest(page, "en", "set", payload={"fields": {"note": {"a": 2}}})]
    if where == "set":
        made = house.do("ida", lambda a: dispatches.make(a, wish, ahead))
    if where == "open":
        made = house.do("ida", lambda a: gathering.start(a, About("Spring"), wish))
    save(house, page, note=None)
    with pytest.raises(InTheWay, match="another kind"):
        become(house, kind="link")
    if made:
        house.do("ida", lambda a: dispatches.cancel(a, made))
    if where == "planned":
        house.do("ida", lambda a: review.take_back(a, page, "en"))
    if where == "out":
        out(house, page, "en")
    become(house, kind="link")
    assert "note" not in fields(house, page)


def test_what_is_planned_to_be_set_is_set_as_what_its_field_is_then(house: House) -> None:
    page = house.page("Fog")
    out(house, page, "en")
    wish = [MoveRequest(page, "en", "set", payload={"fields": {"note": BAD}})]
    ahead = When(instant=iso(house.clock.at + 3600 * SECOND))
    made = house.do("ida", lambda a: dispatches.make(a, wish, ahead))
    become(house, kind="rich")
    shown = house.desk.read(
        house.who("ida"), lambda v: show_dispatches.dispatch(v, records.find(v, made))["moves"]
    )
    assert [one["text"] for one in shown[0]["sets"]] == [BAD]
    house.later(4000)
    assert house.state(made) == "gone"
    assert (fields(house, page)["note"], for_readers(house, page)) == (SAFE, SAFE)


def test_a_field_that_comes_back_as_another_has_what_it_held(house: House) -> None:
    page = house.page("Fog", note=BAD)
    out(house, page, "en")
    become(house)
    assert for_readers(house, page) is None
    told = become(house, kind="rich", shared=True)
    assert any("back" in what for what in told), told
    assert (fields(house, page)["note"], for_readers(house, page)) == (SAFE, SAFE)


@pytest.mark.parametrize("seed", range(3))
def test_what_is_out_says_the_same_whatever_its_field_becomes(house: House, seed: int) -> None:
    rng = random.Random(seed)
    page = house.page("Fog", note="Wet")
    out(house, page, "en")
    said, kind, shared = "Wet", "line", False
    drafted = said
    for n in range(30):
        what = rng.choice(["kind", "move", "save", "out"])
        if what == "kind":
            kind = rng.choice(["line", "text", "rich"])
            become(house, kind=kind)
        elif what == "move":
            shared = not shared
            become(house, shared=shared)
        elif what == "save":
            drafted = f"{n} < {n + 1} & <i>so on</i>"
            save(house, page, note=richtext.from_plain(drafted) if kind == "rich" else drafted)
        else:
            save(house, page, body=f"<p>{n}</p>")
            out(house, page, "en")
            said = drafted

        def words(value: str) -> str:
            return richtext.text_of(value) if kind == "rich" else value  # noqa: B023

        assert words(fields(house, page)["note"]) == drafted, what
        assert words(for_readers(house, page)) == said, what
