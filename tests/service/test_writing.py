"""Types that change, strands that are merged, templates, copies, removal, lists and acts on many."""

from __future__ import annotations

import json
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core import contenttypes, merge
from hawthorn.core.errors import Conflicting, GateUnmet, InTheWay, Invalid, NotFound, Refused, StaleRevision
from hawthorn.core.merge import Settlement
from hawthorn.operations.content import bulk, changing, entries, strands, templates
from hawthorn.operations.delivery import previews, reading, reading_lists, rendering
from hawthorn.operations.delivery.reading_lists import Wish
from hawthorn.operations.release import dispatches, going, review
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.runtime.act import Act, View, setup_changed
from hawthorn.operations.runtime.bootstrap import PAGE
from hawthorn.operations.search import finding, indexing, lists
from hawthorn.operations.views import show, show_comparison, show_history
from hawthorn.operations.views.health import health
from hawthorn.store import definitions as definition_store
from hawthorn.store import entries as store
from hawthorn.store.standings import DRAFT, RELEASE
from tests.service.made import House

ABOUT = {
    "name": "about",
    "fields": [{"name": "credit", "kind": "line"}, {"name": "rating", "kind": "number"}],
}
TOPIC = {
    "name": "topic",
    "workflow": "short",
    "fields": [{"name": "title", "kind": "line"}, {"name": "below", "kind": "parent", "shared": True}],
}
STORY: dict[str, Any] = {
    "name": "story",
    "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line", "required": True},
        {"name": "slug", "kind": "slug", "follows": "title"},
        {"name": "lead", "kind": "text", "derives": "body", "limit": 60},
        {"name": "body", "kind": "rich"},
        {"name": "price", "kind": "number", "shared": True, "default": 3},
        {"name": "tags", "kind": "tags", "shared": True},
        {"name": "topics", "kind": "reference", "many": True, "shared": True, "types": ["topic"]},
        {"name": "on_top", "kind": "boolean", "shared": True},
        {"name": "day", "kind": "date", "shared": True},
        {"name": "desk_name", "kind": "line", "shared": True},
        {
            "name": "parts",
            "kind": "blocks",
            "blocks": [
                {"name": "words", "fields": [{"name": "text", "kind": "rich", "required": True}]},
                {
                    "name": "fact",
                    "fields": [{"name": "said", "kind": "text"}, {"name": "of", "kind": "link"}],
                },
            ],
        },
    ],
    "internal": "desk_name",
    "pinned": "on_top",
    "dated": "day",
}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.do("ida", _locales)
    made.do("ida", lambda a: changing.define_type(a, TOPIC))
    made.do("ida", lambda a: changing.define_type(a, STORY))
    yield made
    with made.desk.db.read() as conn:
        assert (
            conn.execute("SELECT count(*) FROM search_row").fetchone()[0]
            == (conn.execute("SELECT count(*) FROM search_text").fetchone()[0])
        )
    assert made.desk.read(made.who("ida"), health) == []
    made.desk.db.close()


def _locales(act: Any) -> None:
    for tag in ("fr", "ja", "ar"):
        definition_store.add_locale(act.conn, tag, tag)
    setup_changed(act)


def story(house: House, title: str, locale: str = "en", **fields: Any) -> str:
    return house.do("wim", lambda a: entries.start(a, "story", locale, {"title": title, **fields}))


def shown(house: House, uuid: str, locale: str = "en", strand: str = "draft") -> dict[str, Any]:
    return house.desk.read(house.who("ida"), lambda v: show.entry(v, uuid, locale, strand))


def save(house: House, uuid: str, patch: dict[str, Any], locale: str = "en", strand: str = "draft") -> None:
    base = entries.parse_etag(shown(house, uuid, locale, strand)["etag"])
    house.do("wim", lambda a: entries.save(a, uuid, locale, patch, base, "", strand))


def without(*names: str) -> list[dict[str, Any]]:
    return [f for f in STORY["fields"] if f["name"] not in names]


def titles(house: House, who: str = "ida", **asked: Any) -> set[str]:
    rows, _ = house.desk.read(house.who(who), lambda v: finding.listing(v, finding.Query(**asked)))
    return {r.title for r in rows}


# -- types -----------------------------------------------------------------------------------------------------


def listed_in(view: View, place: reading.Place, limit: int, cursor: str) -> tuple[list[str], str]:
    """A page of stories: the UUIDs, and the next cursor."""
    found = reading_lists.page(view, place, Wish(("story",), "en", limit=limit, cursor=cursor))
    return found.uuids, found.next


def test_a_change_says_what_it_would_do_and_does_it(house: House) -> None:
    lamp, rope = story(house, "Lamp", body="<p>Brass.</p>"), story(house, "Rope", desk_name="R1")
    save(house, lamp, {"title": "Lampe"}, "fr")
    changed = {
        **STORY,
        "fields": [
            *without("price", "desk_name", "lead"),
            {"name": "price", "kind": "number"},
            {"name": "place", "kind": "line", "required": True},
        ],
        "internal": "",
    }
    found = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, changed))
    said = {(e.field, e.entries) for e in found.effects}
    assert {("price", 2), ("place", 2), ("desk_name", 1)} <= said
    assert not found.refused
    house.do("ida", lambda a: changing.define_type(a, changed))
    for locale in ("en", "fr"):
        assert shown(house, lamp, locale)["fields"]["price"] == 3
    assert [m["label"] for m in shown(house, rope)["missing"]] == ["Place"]
    assert titles(house, incomplete=True) == {"Lamp", "Rope"}
    save(house, lamp, {"price": 5}, "fr")
    assert shown(house, lamp)["fields"]["price"] == 3
    back = {**STORY, "version": 2}
    again = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, back))
    assert any("stay in the history" in e.what and e.entries == 1 for e in again.effects)
    house.do("ida", lambda a: changing.define_type(a, back))
    assert shown(house, lamp, "fr")["fields"]["price"] == 3
    assert shown(house, rope)["internal"] == "R1"
    with pytest.raises(StaleRevision, match="version 3"):
        house.do("ida", lambda a: changing.define_type(a, back))


def test_what_does_not_fit_what_is_there_is_refused_with_the_entries(house: House) -> None:
    story(house, "Lamp", desk_name="many words")
    other = {
        **STORY,
        "internal": "",
        "fields": [*without("desk_name"), {"name": "desk_name", "kind": "number"}],
    }
    found = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, other))
    assert found.refused
    with pytest.raises(InTheWay, match="another kind"):
        house.do("ida", lambda a: changing.define_type(a, other))
    story(house, "Rope")
    with pytest.raises(InTheWay, match="exactly one"):
        house.do("ida", lambda a: changing.define_type(a, {**STORY, "single": True}))
    with pytest.raises(Refused):
        house.desk.read(house.who("wim"), lambda v: changing.check_type(v, STORY))


def test_a_field_set_is_defined_once_and_changes_every_type_that_uses_it(house: House) -> None:
    house.do("ida", lambda a: changing.define_set(a, ABOUT))
    house.do("ida", lambda a: changing.define_type(a, {**STORY, "sets": ["about"]}))
    house.do("ida", lambda a: changing.define_type(a, {**PAGE, "sets": ["about"]}))
    lamp = story(house, "Lamp", rating=4, credit="us")
    more = {**ABOUT, "fields": [{"name": "credit", "kind": "line", "required": True}]}
    found = house.desk.read(house.who("ida"), lambda v: changing.check_set(v, more))
    assert {e.type for e in found.effects} == {"story", "Page"}
    house.do("ida", lambda a: changing.define_set(a, more))
    kinds = house.desk.read(house.who("ida"), lambda v: v.setup.types)
    assert [f.set for f in kinds["story"].fields][-1] == "about"
    assert kinds["page"].version == 3
    assert "rating" not in shown(house, lamp)["fields"]
    house.do("ida", lambda a: changing.define_set(a, {**ABOUT, "version": 2}))
    assert shown(house, lamp)["fields"]["rating"] == 4
    schema = contenttypes.json_schema(house.desk.read(house.who("ida"), lambda v: v.setup.types["story"]))
    assert schema["properties"]["parts"]["items"]["anyOf"][0]["properties"]["kind"] == {"const": "words"}
    with pytest.raises(Invalid, match="not a field set"):
        house.do("ida", lambda a: changing.define_type(a, {**STORY, "sets": ["nothing"]}))


def test_a_single_type_has_one_entry_and_an_untranslated_one_no_locales(house: House) -> None:
    one = {
        "name": "front",
        "single": True,
        "translated": False,
        "fields": [{"name": "title", "kind": "line"}],
    }
    house.do("ida", lambda a: changing.define_type(a, one))
    front = house.do("ida", lambda a: entries.start(a, "front", "fr", {"title": "Accueil"}))
    assert shown(house, front, "fr")["source_locale"] == "fr"
    with pytest.raises(InTheWay, match="can be no more"):
        house.do("ida", lambda a: entries.start(a, "front", "en", {"title": "x"}))
    with pytest.raises(InTheWay, match="no other locales"):
        save(house, front, {"title": "Home"}, "en")


def test_readers_get_what_is_derived_and_blocks_with_their_links_resolved(house: House) -> None:
    rope = story(house, "Rope")
    body = '<p>A long opening of the text, told here.</p><hr class="opening"><p>The rest of it.</p>'
    parts = [
        {"kind": "words", "fields": {"text": f'<p>See <a href="urn:uuid:{rope}">it</a>.</p>'}},
        {"kind": "fact", "fields": {"said": "Old.", "of": f"urn:uuid:{rope}"}},
    ]
    lamp = story(house, "Lamp", body=body, parts=parts, on_top=True, day="2026-05-01")
    assert shown(house, lamp)["derived"]["lead"] == "A long opening of the text, told here."
    requests = [MoveRequest(lamp, "en"), MoveRequest(rope, "en")]
    house.do("ida", lambda a: dispatches.make(a, requests))
    got = json.loads(
        house.desk.read(house.who("ida"), lambda v: rendering.render(v, lamp, "en", reading.Place())).data
    )
    assert got["fields"]["lead"] == "A long opening of the text, told here."
    assert got["fields"]["body"].count("<p>") == 2
    assert got["openings"] == {"body": "<p>A long opening of the text, told here.</p>"}
    assert got["fields"]["parts"][0]["fields"]["text"] == '<p>See <a href="/en/rope">it</a>.</p>'
    assert got["fields"]["parts"][1]["fields"]["of"] == {"href": "/en/rope", "text": "Rope"}
    assert (got["date"], got["pinned"]) == ("2026-05-01", True)
    listed, _ = house.desk.read(
        house.who("ida"),
        lambda v: listed_in(v, reading.Place(), 5, ""),
    )
    assert listed == [lamp, rope]
    save(house, lamp, {"on_top": None})
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "en")]))
    first, cursor = house.desk.read(
        house.who("ida"),
        lambda v: listed_in(v, reading.Place(), 1, ""),
    )
    assert first == [rope]
    second, _ = house.desk.read(
        house.who("ida"),
        lambda v: listed_in(v, reading.Place(), 1, cursor),
    )
    assert second == [lamp]


# -- strands -----------------------------------------------------------------------------------------------------


def test_drafts_are_listed_by_the_date_that_is_shown_like_what_is_out(house: House) -> None:
    days = {"Autumn": "2027-10-01", "Winter": "2027-12-01", "Undated": None, "Spring": "2026-03-01"}
    made = {story(house, title, day=day): title for title, day in days.items()}
    on_top = story(house, "Pinned", on_top=True, day="2020-01-01")
    made[on_top] = "Pinned"

    def listed(stage: int, limit: int = 20, cursor: str = "") -> tuple[list[str], str]:
        place = reading.Place(stage)
        found, more = house.desk.read(
            house.who("ida"),
            lambda v: listed_in(v, place, limit, cursor),
        )
        return [made[uuid] for uuid in found], more

    # Without a date it counts from when it was last changed, which is now: January 2027.
    wanted = ["Pinned", "Winter", "Autumn", "Undated", "Spring"]
    assert listed(DRAFT)[0] == wanted
    paged, cursor = [], ""
    while True:
        some, cursor = listed(DRAFT, 2, cursor)
        paged += some
        if not cursor:
            break
    assert paged == wanted
    spring = next(uuid for uuid, title in made.items() if title == "Spring")
    save(house, spring, {"day": "2028-03-01"})
    save(house, on_top, {"on_top": None})
    assert listed(DRAFT)[0] == ["Spring", "Winter", "Autumn", "Undated", "Pinned"]
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en") for uuid in made]))
    assert listed(RELEASE)[0] == listed(DRAFT)[0]
    house.do("ida", lambda a: changing.define_type(a, STORY | {"dated": "", "pinned": ""}))
    for stage in (DRAFT, RELEASE):
        assert listed(stage)[0] == ["Pinned", *reversed(days)], "only the newest first"
    house.do("ida", lambda a: changing.define_type(a, STORY))
    assert listed(RELEASE)[0] == ["Spring", "Winter", "Autumn", "Undated", "Pinned"]


def test_what_a_text_loses_is_said_on_every_way_in(house: House) -> None:
    dirty = '<p>Made of <u>brass</u>.</p><hr class="more">'
    said = ["underlining", "the class “more” of a rule"]

    def start(a: Act) -> dict[str, Any]:
        uuid = entries.start(a, "story", "en", {"title": "Lamp", "body": dirty})
        return show.entry(a, uuid, "en")

    made = house.do("wim", start)
    assert all(any(one in warning for warning in made["warnings"]) for one in said), made["warnings"]
    lamp = made["id"]
    assert shown(house, lamp)["warnings"] == [], "it is said where it happens, and not for ever"
    block = [{"kind": "words", "fields": {"text": dirty}}]

    def saved(a: Act, patch: dict[str, Any], strand: str = "draft") -> list[str]:
        entries.save(a, lamp, "en", patch, entries.current_base(a, 1, "en", strand), strand=strand)
        return list(show.entry(a, lamp, "en", strand)["warnings"])

    assert any(
        "Words" in one or "Text" in one for one in house.do("wim", lambda a: saved(a, {"parts": block}))
    )
    house.do("wim", lambda a: strands.fork(a, lamp, "en", "Beside"))
    assert any("underlining" in w for w in house.do("wim", lambda a: saved(a, {"body": dirty}, "Beside")))
    (many,) = house.do(
        "wim", lambda a: bulk.run(a, "set", [(lamp, "en", None)], {"field": "body", "value": dirty})
    )
    assert "underlining" in many.what
    pane = house.do("wim", lambda a: previews.open_pane(a))
    typing = house.do("wim", lambda a: previews.type_into(a, pane, lamp, "en", {"body": dirty}))
    assert "underlining" in typing[0]["problem"]
    joined = {"body": "<table><tr><td colspan='2'>x</td></tr></table>"}
    assert any("several columns" in w for w in house.do("wim", lambda a: saved(a, joined)))


def test_a_strand_comes_in_exactly_as_shown_or_not_at_all(house: House) -> None:
    lamp = story(house, "Lamp", body="<p>Made of brass in town.</p><p>Lit at night.</p>")
    house.do("wim", lambda a: strands.fork(a, lamp, "en", "Spring"))
    save(
        house,
        lamp,
        {"body": "<p>Made of fine brass in town.</p><p>Lit at night.</p>", "price": 9},
        "en",
        "Spring",
    )
    save(house, lamp, {"body": "<p>Made of brass in town.</p><p>Lit every night.</p>"})
    assert shown(house, lamp)["fields"]["price"] == 3
    found = house.desk.read(house.who("wim"), lambda v: strands.propose(v, lamp, "en", "Spring"))
    assert {d.field for d in found.taken} == {"body", "price"}
    save(house, lamp, {"title": "The lamp"})
    with pytest.raises(StaleRevision, match="moved on"):
        house.do("wim", lambda a: strands.accept(a, lamp, "en", "Spring", found.etag))
    now = house.desk.read(house.who("wim"), lambda v: strands.propose(v, lamp, "en", "Spring"))
    house.do("wim", lambda a: strands.accept(a, lamp, "en", "Spring", now.etag))
    fields = shown(house, lamp)["fields"]
    assert fields["body"] == "<p>Made of fine brass in town.</p><p>Lit every night.</p>"
    assert (fields["price"], fields["title"]) == (9, "The lamp")
    (ended,) = shown(house, lamp)["strands"]
    assert (ended.open, ended.ended) == (False, "merged")
    with pytest.raises(NotFound, match="is open here"):
        shown(house, lamp, "en", "Spring")
    house.do("wim", lambda a: strands.reopen(a, lamp, "en", "Spring"))
    save(house, lamp, {"lead": "For spring."}, "en", "Spring")
    more = house.desk.read(house.who("wim"), lambda v: strands.propose(v, lamp, "en", "Spring"))
    assert [d.field for d in more.taken] == ["lead"]
    house.do("wim", lambda a: strands.drop(a, lamp, "en", "Spring"))
    history = house.desk.read(house.who("wim"), lambda v: show_history.history(v, lamp, "en"))
    assert {r["strand"] for r in history["revisions"]} == {"draft", "Spring"}
    assert any(len(r["parents"]) == 2 for r in history["revisions"])


def test_part_of_a_strand_is_taken_and_the_rest_can_come_later(house: House) -> None:
    parts = [
        {"id": "one", "kind": "fact", "fields": {"said": "One."}},
        {"id": "two", "kind": "fact", "fields": {}},
    ]
    lamp = story(house, "Lamp", parts=parts)
    house.do("wim", lambda a: strands.fork(a, lamp, "en", "Facts"))
    changed = [
        {"id": "one", "kind": "fact", "fields": {"said": "One, mended."}},
        {"id": "three", "kind": "fact", "fields": {"said": "Three."}},
    ]
    save(house, lamp, {"parts": changed, "title": "Lamps"}, "en", "Facts")
    take = ["parts:three", "parts:two"]
    found = house.desk.read(house.who("wim"), lambda v: strands.propose(v, lamp, "en", "Facts", take))
    assert {p["place"] for p in found.places} >= {"title", "parts", "parts:one", "parts:two", "parts:three"}
    assert {d.field for d in found.left} == {"title", "slug", "parts"}
    house.do("wim", lambda a: strands.accept(a, lamp, "en", "Facts", found.etag, take))
    now = shown(house, lamp)["fields"]
    assert now["title"] == "Lamp"
    assert [(p["id"], p["fields"].get("said")) for p in now["parts"]] == [
        ("one", "One."),
        ("three", "Three."),
    ]
    newest = house.desk.read(house.who("wim"), lambda v: show_history.history(v, lamp, "en"))["revisions"][0]
    assert (newest["picked"], len(newest["parents"])) == (["parts:three", "parts:two"], 1)
    rest = house.desk.read(house.who("wim"), lambda v: strands.propose(v, lamp, "en", "Facts"))
    house.do("wim", lambda a: strands.accept(a, lamp, "en", "Facts", rest.etag))
    now = shown(house, lamp)["fields"]
    assert (now["title"], now["parts"]) == ("Lamps", changed)
    house.do("wim", lambda a: strands.fork(a, lamp, "en", "More"))
    with pytest.raises(Invalid, match="not something this strand changed"):
        house.desk.read(house.who("wim"), lambda v: strands.propose(v, lamp, "en", "More", ["title"]))


def test_what_was_taken_and_edited_again_in_the_strand_comes_again_without_a_conflict(house: House) -> None:
    lamp = story(house, "Lamp", body="<p>Made of brass.</p>")
    house.do("wim", lambda a: strands.fork(a, lamp, "en", "Words"))

    def take(*places: str) -> strands.Proposal:
        wanted = list(places) or None
        found = house.desk.read(house.who("wim"), lambda v: strands.propose(v, lamp, "en", "Words", wanted))
        if not found.still_open:
            house.do("wim", lambda a: strands.accept(a, lamp, "en", "Words", found.etag, wanted))
        return found

    save(house, lamp, {"title": "Lamps", "body": "<p>Made of copper.</p>"}, "en", "Words")
    take("title")
    save(house, lamp, {"title": "Lamps and lanterns"}, "en", "Words")
    assert take("title").conflicts == []
    assert shown(house, lamp)["fields"]["title"] == "Lamps and lanterns"
    # What the draft wrote over what it took is its own, and asked about.
    save(house, lamp, {"title": "Lights"})
    save(house, lamp, {"title": "Lamps, lanterns"}, "en", "Words")
    clash = take("title")
    assert [c.base for _, c in clash.conflicts] == ["Lamps and lanterns"]
    # What was taken and not touched in the strand since is no change of it any more.
    save(house, lamp, {"title": "Lamps and lanterns"}, "en", "Words")
    rest = take()
    assert [d.field for d in rest.taken] == ["slug", "body"]
    assert shown(house, lamp)["fields"]["title"] == "Lights"


def test_the_etag_of_a_proposal_covers_what_is_taken(house: House) -> None:
    lamp = story(house, "Lamp")
    house.do("wim", lambda a: strands.fork(a, lamp, "en", "Words"))
    save(house, lamp, {"title": "Lamps", "body": "<p>Many.</p>"}, "en", "Words")

    def looked(take: list[str] | None) -> str:
        return house.desk.read(house.who("wim"), lambda v: strands.propose(v, lamp, "en", "Words", take)).etag

    assert looked(["title", "body"]) == looked(["body", "title", "title"])
    assert len({looked(None), looked(["title"]), looked(["body"]), looked(["title", "body"])}) == 4
    with pytest.raises(StaleRevision):
        house.do("wim", lambda a: strands.accept(a, lamp, "en", "Words", looked(["title"]), ["body"]))


def test_what_both_changed_is_settled_before_a_strand_comes_in(house: House) -> None:
    lamp = story(house, "Lamp", body="<p>Made of brass.</p>")
    for name in ("A", "B"):
        house.do("wim", lambda a, n=name: strands.fork(a, lamp, "en", n))
    save(house, lamp, {"body": "<p>Made of old brass.</p>"}, "en", "A")
    save(house, lamp, {"body": "<p>Made of new brass.</p>"})
    found = house.desk.read(house.who("wim"), lambda v: strands.propose(v, lamp, "en", "A"))
    (place,) = found.still_open
    with pytest.raises(Conflicting):
        house.do("wim", lambda a: strands.accept(a, lamp, "en", "A", found.etag))
    both = {place: Settlement("own", "<p>Made of old and new brass.</p>")}
    house.do("wim", lambda a: strands.accept(a, lamp, "en", "A", found.etag, None, both))
    assert shown(house, lamp)["fields"]["body"] == "<p>Made of old and new brass.</p>"
    side = house.desk.read(
        house.who("wim"), lambda v: show_comparison.comparison(v, lamp, "en", "strand:B", "draft")
    )
    assert side["before"]["label"].startswith("strand “B”")
    with pytest.raises(InTheWay, match="open here already"):
        house.do("wim", lambda a: strands.fork(a, lamp, "en", "B"))
    with pytest.raises(Invalid, match="every edition's first strand"):
        house.do("wim", lambda a: strands.fork(a, lamp, "en", "Draft"))


def test_what_is_referred_to_is_compared_by_its_name(house: House) -> None:
    sea = house.do("wim", lambda a: entries.start(a, "topic", "en", {"title": "Sea"}))
    tides = house.do("wim", lambda a: entries.start(a, "topic", "en", {"title": "Tides"}))
    lamp = story(house, "Lamp", topics=[sea])
    house.do("wim", lambda a: strands.fork(a, lamp, "en", "Tidal"))
    save(house, lamp, {"topics": [sea, tides]}, "en", "Tidal")
    side = house.desk.read(
        house.who("wim"), lambda v: show_comparison.comparison(v, lamp, "en", "draft", "strand:Tidal")
    )
    assert [(f["before"], f["after"]) for f in side["fields"]] == [("Sea", "Sea, Tides")]
    found = house.desk.read(house.who("wim"), lambda v: strands.propose(v, lamp, "en", "Tidal"))
    assert [(d.before, d.after) for d in found.taken] == [("Sea", "Sea, Tides")]


def test_two_who_save_in_one_strand_merge_there_too(house: House) -> None:
    lamp = story(house, "Lamp", body="<p>Made of brass in town.</p>")
    house.do("wim", lambda a: strands.fork(a, lamp, "en", "Spring"))
    base = entries.parse_etag(shown(house, lamp, "en", "Spring")["etag"])
    patches = ({"body": "<p>Made of fine brass in town.</p>"}, {"body": "<p>Made of brass in our town.</p>"})
    for who, patch in zip(("wim", "oda"), patches, strict=True):
        house.do(who, lambda a, p=patch: entries.save(a, lamp, "en", p, base, "", "Spring"))
    assert shown(house, lamp, "en", "Spring")["fields"]["body"] == "<p>Made of fine brass in our town.</p>"
    assert shown(house, lamp)["fields"]["body"] == "<p>Made of brass in town.</p>"
    assert titles(house, words="fine") == set()


# -- beginning and ending -----------------------------------------------------------------------------------------


def test_copies_and_templates_carry_every_locale_and_no_address(house: House) -> None:
    lamp = story(house, "Lamp", body="<p>Brass.</p>", tags=["old"])
    save(house, lamp, {"title": "Lampe", "body": "<p>Laiton.</p>"}, "fr")
    copy = house.do("oda", lambda a: templates.copy(a, lamp, {}))
    assert shown(house, copy)["title"] == "Lamp (copy)"
    assert shown(house, copy)["fields"]["slug"] == "lamp-copy"
    assert shown(house, copy, "fr")["fields"]["body"] == "<p>Laiton.</p>"
    made = house.do("oda", lambda a: templates.make(a, lamp, "A lamp"))
    french = house.do("wim", lambda a: templates.start(a, made, "fr", {"title": "Une lampe"}))
    assert shown(house, french, "fr")["source_locale"] == "fr"
    assert shown(house, french, "fr")["fields"] | {"title": ""} == {
        "title": "", "slug": "une-lampe", "body": "<p>Laiton.</p>", "tags": ["old"], "price": 3,
    }  # fmt: skip
    (listed,) = house.desk.read(house.who("wim"), templates.listing)
    assert (listed.name, listed.locales) == ("A lamp", ["en", "fr"])
    with pytest.raises(Refused):
        house.do("wim", lambda a: templates.end(a, made))
    house.do("oda", lambda a: templates.end(a, made))
    assert house.desk.read(house.who("wim"), templates.listing) == []


def test_what_is_referred_to_is_removed_only_with_what_refers_to_it(house: House) -> None:
    topic = house.do("wim", lambda a: entries.start(a, "topic", "en", {"title": "Sea"}))
    below = house.do("wim", lambda a: entries.start(a, "topic", "en", {"title": "Tides", "below": topic}))
    lamp = story(house, "Lamp", topics=[topic])
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "en")], with_needs=True))
    with pytest.raises(GateUnmet) as refusal:
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(topic, "en", "remove")]))
    assert {u["where"] for u in refusal.value.facts["unmet"]} == {lamp, below}
    with pytest.raises(Refused):
        house.do("wim", lambda a: dispatches.make(a, [MoveRequest(lamp, "en", "remove")]))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(topic, "en", "remove")], with_needs=True))
    assert titles(house) == set()
    with pytest.raises(NotFound):
        house.desk.read(house.who("ida"), lambda v: rendering.render(v, lamp, "en", reading.Place()))
    with pytest.raises(NotFound):
        shown(house, lamp)
    for uuid in (topic, lamp):
        house.do("wim", lambda a, u=uuid: entries.bring_back(a, u))
    assert titles(house, words="lamp") == {"Lamp"}
    assert shown(house, lamp)["rail"][-1]["state"] == "none"
    with pytest.raises(InTheWay):
        house.do("wim", lambda a: entries.bring_back(a, lamp))


def test_an_address_that_is_planned_is_taken(house: House) -> None:
    lamp, other = story(house, "Lamp"), story(house, "Lamp")
    friday, saturday = When(wall="2027-02-05T09:00", zone="UTC"), When(wall="2027-02-06T09:00", zone="UTC")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "en")], friday, name="Season"))
    with pytest.raises(GateUnmet, match=r"planned with the address “lamp” \(Season\)"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(other, "en")], saturday))
    house.clock.at += 60 * 86_400 * 1_000_000
    house.do("ida", lambda a: going.run_due(a))
    ending = When(wall="2027-06-01T09:00", zone="UTC")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "en", "withdraw")], ending))
    with pytest.raises(GateUnmet, match="taken by another entry"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(other, "en")]))
    after = When(wall="2027-06-02T09:00", zone="UTC")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(other, "en")], after))


# -- finding -----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("words", "expected"),
    [
        ("brass", {"Lamp"}),
        ("BRA", {"Lamp"}),
        ("“made of brass”", {"Lamp"}),
        ("“brass made”", set()),
        ("ete", {"Été"}),
        ("灯", {"灯台"}),
        ("灯台", {"灯台"}),
        ("台灯", set()),
        ("光る", {"灯台"}),
        ("فنار", {"الفنار"}),
        ("الفنار", {"الفنار"}),
        ("بح", {"الفنار"}),
        ("و", {"الفنار"}),
        ("lamp 17", {"Lamp"}),
        ("rope brass", set()),
        ("", {"Lamp", "Rope", "灯台", "الفنار", "Été"}),
    ],
)
def test_words_are_found_in_every_script(house: House, words: str, expected: set[str]) -> None:
    story(house, "Lamp", body="<p>It is made of <strong>brass</strong>.</p>", desk_name="PH 17")
    story(house, "Rope", body="<p>Été is another word.</p>" if words == "never" else "<p>Tarred hemp.</p>")
    story(house, "灯台", "ja", body="<p>夜に光る。</p>")
    story(house, "الفنار", "ar", body="<p>عند البَحر و الميناء</p>")
    story(house, "Été", "fr")
    assert titles(house, words=words) == expected


def test_filters_say_what_is_true_now(house: House) -> None:
    sea = house.do("ida", lambda a: entries.start(a, "topic", "en", {"title": "Sea"}))
    tides = house.do("ida", lambda a: entries.start(a, "topic", "en", {"title": "Tides", "below": sea}))
    lamp, rope = story(house, "Lamp", tags=["old"], topics=[tides]), story(house, "Rope", tags=["old", "new"])
    house.do(
        "ida",
        lambda a: dispatches.make(
            a,
            [
                MoveRequest(lamp, "en"),
                MoveRequest(rope, "en"),
                MoveRequest(tides, "en"),
                MoveRequest(sea, "en"),
            ],
        ),
    )
    assert titles(house, type="story", validity="endless") == {"Lamp", "Rope"}
    ends = When(wall="2027-06-01T09:00", zone="UTC")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(rope, "en", "withdraw")], ends))
    assert titles(house, planned=True) == titles(house, validity="ends") == {"Rope"}
    assert titles(house, tag="old") == {"Lamp", "Rope"}
    assert titles(house, topic=sea) == {"Lamp", "Tides"} - {"Tides"}
    assert titles(house, stage="release", type="story") == {"Lamp", "Rope"}
    assert titles(house, behind=True) == set()
    save(house, lamp, {"body": "<p>Only drafted.</p>"})
    assert titles(house, behind=True) == {"Lamp"}
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "en")]))
    assert titles(house, behind=True) == set()
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "en", "withdraw")]))
    assert titles(house, validity="over") == {"Lamp"}
    assert titles(house, since="2999-01-01") == set()
    assert titles(house, until="2999-01-01", type="story") == {"Lamp", "Rope"}
    counted = house.desk.read(house.who("wim"), lambda v: finding.tags(v))
    assert [(t.tag, t.entries) for t in counted] == [("old", 2), ("new", 1)]
    tree = house.desk.read(house.who("wim"), lambda v: finding.topics(v, "topic"))
    assert {(t.title, t.parent, t.entries) for t in tree} == {("Sea", None, 0), ("Tides", sea, 1)}
    with pytest.raises(Invalid, match="validity"):
        titles(house, validity="soon")


def test_what_is_out_is_found_though_the_draft_has_moved_on(house: House) -> None:
    lamp = story(house, "Lamp", body="<p>It is of brass.</p>")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "en")]))
    save(house, lamp, {"body": "<p>It is of copper.</p>"})
    assert titles(house, words="brass") == titles(house, words="copper") == {"Lamp"}
    assert titles(house, words="brass copper") == set()
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(lamp, "en")]))
    assert titles(house, words="brass") == set()
    page = finding.Query(words="lamp")
    rows, cursor = house.desk.read(house.who("ida"), lambda v: finding.listing(v, page, limit=1))
    assert (len(rows), cursor) == (1, "")


def test_an_index_is_made_for_a_file_that_had_none(house: House) -> None:
    story(house, "Lamp", tags=["old"])

    def forget(conn: Any) -> None:
        for table in ("search_text", "search_row", "search_term", "tag_use"):
            conn.execute(f"DELETE FROM {table}")
        conn.execute("UPDATE summary SET behind = 1 WHERE locale <> '*'")

    house.desk.db.write(forget)
    assert titles(house, words="lamp") == set()
    assert indexing.catch_up(house.desk) == 1
    assert titles(house, words="lamp") == titles(house, tag="old") == {"Lamp"}
    assert titles(house, behind=True) == set()
    assert indexing.catch_up(house.desk) == 0


def test_lists_are_ones_own_or_shared(house: House) -> None:
    own = house.do("wim", lambda a: lists.save(a, "Mine", {"person": "wim", "incomplete": True}))
    all_ = house.do("oda", lambda a: lists.save(a, "For all", {"stage": "review"}, True))
    assert [x.name for x in house.desk.read(house.who("ida"), lists.listing)] == ["For all"]
    assert own.query == {"person": "wim", "incomplete": True}
    with pytest.raises(Refused):
        house.do("wim", lambda a: lists.drop(a, all_.id))
    with pytest.raises(NotFound):
        house.do("oda", lambda a: lists.change(a, own.id, "x", {}, True))
    house.do("wim", lambda a: lists.change(a, own.id, "Ours", {}, True))
    house.do("ida", lambda a: lists.drop(a, all_.id))
    assert [x.name for x in house.desk.read(house.who("ida"), lists.listing)] == ["Ours"]
    for query in ({"words": 7}, {"wrods": "x"}):
        with pytest.raises(Invalid):
            house.do("wim", lambda a, q=query: lists.save(a, "x", q))


def test_one_act_on_many_shows_first_what_it_does_and_answers_for_each(house: House) -> None:
    lamp, rope = story(house, "Lamp"), story(house, "Rope", tags=["old"])
    page = house.page("A page")
    items = [(uuid, "en", None) for uuid in (lamp, rope, page, "nothing")]
    with house.desk.db.read() as conn:
        before = conn.execute("SELECT count(*) FROM event").fetchone()[0]
    looked = house.do("wim", lambda a: bulk.run(a, "tag", items, {"tag": "old"}, check=True))
    assert [x.done for x in looked] == [True, True, False, False]
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM event").fetchone()[0] == before
    assert titles(house, tag="old") == {"Rope"}
    done = house.do("wim", lambda a: bulk.run(a, "tag", items, {"tag": "old"}))
    assert [x.what for x in done[:2]] == ["has the tag “old”", "has the tag “old” already"]
    assert titles(house, tag="old") == {"Lamp", "Rope"}
    sent = house.do(
        "wim", lambda a: bulk.run(a, "submit", [(page, "en", None), (lamp, "en", None)], {"note": "Please."})
    )
    assert [x.done for x in sent] == [True, False]
    (refused,) = house.do("wim", lambda a: bulk.run(a, "release", [(lamp, "en", None)], {}))
    assert refused.remedy.startswith("Ask")
    (released,) = house.do("ida", lambda a: bulk.run(a, "release", [(lamp, "en", None)], {}))
    assert released.done
    house.do("wim", lambda a: bulk.run(a, "set", [(rope, "en", None)], {"field": "price", "value": 8}))
    assert shown(house, rope)["fields"]["price"] == 8
    house.do("wim", lambda a: bulk.run(a, "untag", [(rope, "en", None)], {"tag": "old"}))
    house.do("wim", lambda a: bulk.run(a, "remove", [(rope, "en", None)], {}))
    assert titles(house, type="story") == {"Lamp"}
    with pytest.raises(Invalid, match="not an act"):
        house.do("wim", lambda a: bulk.run(a, "publish", items, {}))


def test_a_review_of_blocks_lacks_what_a_block_requires(house: House) -> None:
    house.do("ida", lambda a: changing.define_type(a, {**STORY, "workflow": "standard"}))
    lamp = story(house, "Lamp", body="<p>x</p>", parts=[{"id": "w", "kind": "words", "fields": {}}])
    assert [m["field"] for m in shown(house, lamp)["missing"]] == ["parts:w:text"]
    with pytest.raises(GateUnmet, match="Parts: Text"):
        house.do("wim", lambda a: review.submit(a, lamp, "en"))
    with pytest.raises(Invalid, match="number 1"):
        save(house, lamp, {"parts": [{"kind": "party", "fields": {}}]})
    row = house.desk.read(house.who("wim"), lambda v: store.entry(v.conn, lamp))
    assert row is not None


def test_a_long_merge_holds_up_nobody_who_saves_meanwhile(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    lamp, other = story(house, "Lamp", body="<p>Made of brass in town.</p>"), story(house, "Rope")
    base = entries.parse_etag(shown(house, lamp)["etag"])
    save(house, lamp, {"body": "<p>Made of fine brass in town.</p>"})
    merging = merge.merge_revisions
    turns: list[int] = []

    def slow(*given: object) -> merge.Merged:
        """Somebody else saves another entry while it lasts, and the first time this one too."""
        turns.append(len(turns))
        saving = threading.Thread(target=save, args=(house, other, {"body": f"<p>{len(turns)}</p>"}))
        saving.start()
        saving.join(5)
        assert not saving.is_alive(), "a save waited for a merge"
        if len(turns) == 1:
            save(house, lamp, {"body": "<p>Made of fine brass in town, we say.</p>"})
        return merging(*given)  # type: ignore[arg-type]

    monkeypatch.setattr(merge, "merge_revisions", slow)
    patch = {"body": "<p>Made of brass in our town.</p>"}
    done = house.desk.write(
        house.who("oda"),
        lambda a: entries.save(a, lamp, "en", patch, base),
        lambda v: entries.work_out(v, lamp, "en", patch, base),
    )
    assert done.merged_with
    assert shown(house, lamp)["fields"]["body"] == "<p>Made of fine brass in our town, we say.</p>"
    assert shown(house, other)["fields"]["body"] == "<p>2</p>"
    assert len(turns) == 2, "once for each head that was met, and never under the lock"
