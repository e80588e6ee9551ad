"""Pages: regions that follow the layout, common blocks, lists by a rule, what searches show, and what changes with what."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import Invalid, NotFound
from hawthorn.core.timeline import SECOND
from hawthorn.operations.access import people
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import affected, outline, reading, rendering, search_and_sharing
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import dispatches, planning
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.store import bodies, events
from hawthorn.store.standings import DRAFT
from tests.service.made import House

WORDS = {"name": "words", "fields": [{"name": "text", "kind": "rich"}]}
KEPT = {"name": "kept", "fields": [{"name": "block", "kind": "reference", "types": ["shared"]}]}
LIST = {"name": "list", "fields": [{"name": "rule", "kind": "query"}]}
TITLE = {"name": "title", "kind": "line", "required": True}
TYPES: list[dict[str, Any]] = [
    {
        "name": "shared",
        "common": True,
        "workflow": "short",
        "fields": [TITLE, {"name": "content", "kind": "blocks", "blocks": [WORDS]}],
    },
    {
        "name": "frame",
        "single": True,
        "workflow": "short",
        "fields": [TITLE, {"name": "foot", "kind": "blocks", "blocks": [WORDS, KEPT]}],
    },
    {"name": "home", "site": True, "single": True, "workflow": "short", "fields": [TITLE]},
    {
        "name": "sheet",
        "workflow": "short",
        "layout": "frame",
        "search_title": "said",
        "meta_description": "about",
        "fields": [
            TITLE,
            {"name": "slug", "kind": "slug", "follows": "title"},
            {"name": "body", "kind": "rich"},
            {"name": "page", "kind": "blocks", "blocks": [WORDS, KEPT, LIST]},
            {"name": "foot", "kind": "blocks", "region": True, "blocks": [WORDS, KEPT]},
            {"name": "said", "kind": "line"},
            {"name": "about", "kind": "text"},
            {"name": "tags", "kind": "tags", "shared": True},
            {"name": "below", "kind": "parent", "shared": True, "types": ["home", "sheet"]},
        ],
    },
]


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    for definition in TYPES:
        made.do("ida", lambda a, d=definition: changing.define_type(a, d))
    yield made
    made.close()


def start(house: House, type: str, out: bool = True, **fields: Any) -> str:
    uuid = house.do("wim", lambda a: entries.start(a, type, "en", fields))
    if out:
        release(house, uuid)
    return uuid


def release(house: House, *uuids: str) -> None:
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(u, "en") for u in uuids]))


def save(house: House, uuid: str, **fields: Any) -> None:
    def do(act: Any) -> None:
        row = act.conn.execute("SELECT id FROM entry WHERE uuid = ?", (uuid,)).fetchone()
        entries.save(act, uuid, "en", fields, entries.current_base(act, row["id"], "en"))

    house.do("wim", do)


def body(house: House, uuid: str, where: Place = Place()) -> dict[str, Any]:
    """The body as it is read: what is kept while it is fresh, else rendered and kept; both must be the same."""

    def look(view: Any) -> tuple[Any, Any, int]:
        kept = bodies.fresh(view.conn, uuid, "en", view.now) if where.plain else None
        return kept, rendering.render(view, uuid, "en", where), events.last(view.conn)[0]

    kept, made, seq = house.desk.read(house.who("ida"), look)
    if kept is not None:
        assert json.loads(kept.data) == json.loads(made.data)
    elif where.plain:
        house.desk.db.write(
            lambda c: bodies.keep(c, made.entry, "en", seq, 1, made.etag, made.data, made.deps, made.ends)
        )
    found: dict[str, Any] = json.loads(made.data)
    return found


def words(id: str, text: str) -> dict[str, Any]:
    return {"id": id, "kind": "words", "fields": {"text": f"<p>{text}</p>"}}


def test_a_region_follows_the_layout_until_the_page_has_its_own_and_again_when_it_has_none(
    house: House,
) -> None:
    frame = start(house, "frame", title="Frame", foot=[words("f", "Ring twice.")])
    one, two = (start(house, "sheet", title=t) for t in ("One", "Two"))
    assert body(house, one)["fields"]["foot"][0]["fields"]["text"] == "<p>Ring twice.</p>"
    assert body(house, one)["regions"] == {"foot": frame}
    save(house, one, foot=[words("o", "Ring once.")])
    release(house, one)
    save(house, frame, foot=[words("f", "Ring thrice.")])
    changed = house.desk.read(house.who("ida"), lambda v: affected.pages(v, frame))
    assert [(p.title, p.out) for p in changed.items] == [("Two", ["en"])]
    assert body(house, two)["fields"]["foot"][0]["fields"]["text"] == "<p>Ring twice.</p>"
    assert body(house, two, Place(DRAFT))["fields"]["foot"][0]["fields"]["text"] == "<p>Ring thrice.</p>"
    release(house, frame)
    assert body(house, two)["fields"]["foot"][0]["fields"]["text"] == "<p>Ring thrice.</p>"
    assert body(house, one)["fields"]["foot"][0]["fields"]["text"] == "<p>Ring once.</p>"
    assert body(house, one)["regions"] == {}
    save(house, one, foot=None)
    release(house, one)
    assert body(house, one)["fields"]["foot"][0]["fields"]["text"] == "<p>Ring thrice.</p>"


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"layout": "nothing"}, "“nothing” is not a type of exactly one entry; such types are frame, home"),
        ({"layout": "sheet"}, "is not a type of exactly one entry"),
        ({"layout": ""}, "names the type that the regions follow"),
        ({"layout": "home"}, "the layout “home” has no such field"),
        ({"site": True}, "has neither an address of its own"),
    ],
)
def test_a_type_that_cannot_be_says_why(house: House, change: dict[str, Any], says: str) -> None:
    definition = {**TYPES[-1], **change}
    with pytest.raises(Invalid, match=says):
        house.do("ida", lambda a: changing.define_type(a, definition))


def changing_with(house: House, uuid: str, who: str = "ida") -> dict[tuple[str, str], list[str]]:
    """The pages that change with an entry, and what they show of it."""

    def look(view: Any) -> affected.Changing:
        found = planning.check(view, [MoveRequest(uuid, "en")], asking=False)
        return affected.changing(view, found.lines)

    found = house.desk.read(house.who(who), look)
    assert found.total == len(found.items)
    return {(p.title, p.locale): p.shows for p in found.items}


def test_what_changes_with_a_dispatch_is_known_before_it_goes(house: House) -> None:
    block = start(house, "shared", title="Way", content=[words("w", "Go on")])
    start(house, "frame", title="Frame", foot=[{"id": "k", "kind": "kept", "fields": {"block": block}}])
    start(house, "sheet", title="Page", page=[{"id": "k", "kind": "kept", "fields": {"block": block}}])
    start(house, "sheet", title="Own", foot=[words("o", "Ring once.")])
    start(house, "sheet", title="Drafted", out=False)
    rule = {"id": "l", "kind": "list", "fields": {"rule": {"types": ["shared"]}}}
    start(house, "sheet", title="Lists", page=[rule], foot=[words("o", "Ring.")])
    assert changing_with(house, block) == {}, "it stands as it goes"
    save(house, block, content=[words("w", "Turn back")])
    assert changing_with(house, block) == {("Page", "en"): ["Way"], ("Lists", "en"): ["a list of shared"]}
    house.do("ida", lambda a: people.define_role(a, "k", "k", [{"verb": "read", "types": ["shared"]}]))
    house.by_scheduler(lambda a: people.add_person(a, "kit", "Kit", "", "long enough", [{"name": "k"}]))
    assert changing_with(house, block, "kit") == {}, "and no one hears of a page that they may not read"


def test_a_common_block_is_shown_where_it_is_kept_and_says_where_it_is_used(house: House) -> None:
    far = start(house, "sheet", title="Far")
    block = start(house, "shared", title="Way", content=[words("w", f'<a href="urn:uuid:{far}">Go on</a>')])
    start(house, "frame", title="Frame", foot=[{"id": "k", "kind": "kept", "fields": {"block": block}}])
    page = start(house, "sheet", title="Page", page=[{"id": "k", "kind": "kept", "fields": {"block": block}}])
    shown = body(house, page)["references"][block]
    assert shown["fields"]["content"][0]["fields"]["text"] == '<p><a href="/en/far">Go on</a></p>'
    used = house.desk.read(house.who("ida"), lambda v: affected.pages(v, block))
    assert {p.title for p in used.items} == {"Page", "Frame", "Far"}, "what follows the frame shows it too"
    assert {p.title for p in used.items if not p.page} == {"Frame"}
    assert used.shown_whole
    save(house, block, content=[words("w", "Turn back")])
    assert "Go on" in json.dumps(body(house, page))
    release(house, block)
    assert "Turn back" in json.dumps(body(house, page))


def test_a_list_by_a_rule_changes_with_what_is_out_and_as_days_go_by(house: House) -> None:
    rule = {"types": ["sheet"], "tag": "news", "days": 2, "limit": 2}
    page = start(house, "sheet", title="Front", page=[{"id": "l", "kind": "list", "fields": {"rule": rule}}])

    def listed(where: Place = Place()) -> list[str]:
        return [i["title"] for i in body(house, page, where)["fields"]["page"][0]["fields"]["rule"]["items"]]

    assert listed() == []
    for title in ("First", "Second", "Third"):
        start(house, "sheet", title=title, tags=["news"])
        house.later(3600)
    start(house, "sheet", title="Other", tags=["else"])
    assert listed() == ["Third", "Second"]
    third = start(house, "sheet", out=False, title="Fourth", tags=["news"])
    assert listed() == ["Third", "Second"]
    assert listed(Place(DRAFT)) == ["Fourth", "Third"]
    house.plan([third], 60)
    assert listed(Place(2, house.clock.now() + 120 * SECOND)) == ["Fourth", "Third"]
    house.later(90)
    assert listed() == ["Fourth", "Third"]
    house.later(2 * 86_400 - 2000)
    assert listed() == ["Fourth"], "what is older than the rule says is gone, though nothing was released"
    house.later(3 * 86_400)
    assert listed() == []
    kept = house.desk.read(house.who("ida"), lambda v: bodies.fresh(v.conn, page, "en", v.now))
    assert kept is not None


def test_what_heads_a_site_is_its_front_page_and_adds_nothing_to_addresses(house: House) -> None:
    low = start(house, "sheet", title="Low")
    home = start(house, "home", title="Home")
    house.do("wim", lambda a: outline.move(a, low, home))
    release(house, low)

    def at(path: str, site: str = "") -> str:
        return house.desk.read(house.who("ida"), lambda v: reading.find_path(v, path, Place(), site))[0]

    assert at("en") == home
    assert at("en/low") == at("en/low", home) == low
    assert body(house, home)["path"] == "/en"
    assert body(house, low)["path"] == "/en/low"
    with pytest.raises(NotFound):
        at("en/low", low)


def test_what_searches_show_is_checked_for_what_is_missing_too_long_or_said_twice(house: House) -> None:
    one = start(house, "sheet", out=False, title="One", body="<p>About the pier and its lamp.</p>")
    two = start(house, "sheet", out=False, title="Two", said="Piers of the harbour", about="All of them.")
    start(house, "sheet", out=False, title="Three", said="piers  of the HARBOUR", about="灯" * 81)

    def codes(uuid: str) -> dict[str, set[str]]:
        found, _ = house.desk.read(house.who("ida"), search_and_sharing.overview)
        return {
            check["field"]: {c["code"] for c in line["checks"] if c["field"] == check["field"]}
            for line in found
            if line["id"] == uuid
            for check in line["checks"]
        }

    found, _ = house.desk.read(house.who("ida"), search_and_sharing.overview)
    lines = {line["name"]: line for line in found}
    assert lines["One"]["description"] == "About the pier and its lamp."
    assert codes(one) == {"said": {"missing"}, "about": {"missing"}}
    assert codes(two) == {"said": {"twice"}}
    assert lines["Two"]["checks"][0]["others"][0]["title"] == "Three"
    assert lines["Three"]["description_room"] == [162, 160]
    save(house, two, said="Piers and quays")
    assert codes(two) == {}
