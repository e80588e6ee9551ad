"""What a type says of its use: retired, read-only, not public; fields for programs and for colleagues; deleting what nobody uses."""

from __future__ import annotations

import copy
import random
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from hawthorn.core import contenttypes
from hawthorn.core.access import Identity
from hawthorn.core.errors import InTheWay, Invalid, NotFound, Refused
from hawthorn.core.timeline import SECOND, iso
from hawthorn.messages import ENGLISH
from hawthorn.operations.access import people, permission
from hawthorn.operations.content import changing, entries, templates
from hawthorn.operations.content.entries import Base
from hawthorn.operations.delivery import rendering
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import dispatches, workflows
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.search import finding
from hawthorn.operations.views.health import health
from hawthorn.service.context import NOBODY
from hawthorn.store import people as people_store
from tests.service.made import House, serving
from tests.service.test_planned_fields import add_fields

NOTE: dict[str, Any] = {
    "name": "note",
    "label": "Note",
    "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line", "required": True},
        {"name": "slug", "kind": "slug", "follows": "title"},
        {"name": "body", "kind": "rich"},
        {"name": "desk", "kind": "line", "public": False},
        {"name": "count", "kind": "number", "read_only": True},
        {"name": "below", "kind": "parent", "shared": True},
    ],
}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    define(made)
    yield made
    made.close()


def define(house: House, **more: Any) -> None:
    house.do("ida", lambda a: changing.define_type(a, NOTE | more))


def note(house: House, title: str = "Tide", **fields: Any) -> str:
    values = {"title": title, "body": "<p>High at nine.</p>", **fields}
    return house.do("ida", lambda a: entries.start(a, "note", "en", values))


def out(house: House, uuid: str) -> str:
    house.plan([uuid], 1)
    house.later(2)
    return uuid


def program(house: House, role: str = "writer", stages: tuple[str, ...] = ("draft", "release")) -> Identity:
    shown, _ = house.do("ida", lambda a: people.issue_key(a, f"Program {role}", role, "program", stages))
    with house.desk.db.read() as conn:
        found = people_store.by_handle(conn, shown.handle)
        return permission.identity_of(conn, found.id, stages)


def test_a_retired_type_takes_no_more_entries_and_those_there_go_on(house: House) -> None:
    uuid = note(house)
    impact = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, NOTE | {"retired": True}))
    assert ["No more entries" in e.what for e in impact.effects] == [True]
    define(house, retired=True)
    with pytest.raises(InTheWay, match="retired"):
        note(house, "Another")
    house.do("ida", lambda a: entries.save(a, uuid, "en", {"title": "Tides"}, Base(None, None)))
    with pytest.raises(InTheWay, match="retired"):
        house.do("ida", lambda a: templates.copy(a, uuid, {}))


def test_nobody_changes_what_a_read_only_type_holds_and_it_is_said_why(house: House) -> None:
    uuid = note(house)
    define(house, read_only=True)
    with pytest.raises(Refused, match="read-only") as caught:
        house.do("ida", lambda a: entries.save(a, uuid, "en", {"title": "Tides"}, Base(None, None)))
    assert "Ida" in ENGLISH.remedy(caught.value)
    with pytest.raises(Refused):
        note(house, "Another")
    said = house.desk.read(house.who("ida"), lambda v: permission.why(v, "ida", "write", entry=uuid))
    assert not said.allowed
    assert "read-only" in said.reason
    out(house, uuid)
    assert house.is_out(uuid), "what it holds can still go out"


def test_who_narrows_what_a_field_leads_to_is_told_whom_that_leaves(house: House) -> None:
    group = {
        "name": "more",
        "kind": "group",
        "fields": [{"name": "see", "kind": "reference", "label": "See"}],
    }
    own = [{"name": "near", "kind": "reference", "label": "Near", "many": True}, group]
    house.do("ida", lambda a: changing.define_type(a, NOTE | {"fields": [*NOTE["fields"], *own]}))
    there, page = note(house), house.page("Fog")
    note(house, "Both", near=[there, page])
    note(house, "One", near=[there], more={"see": there})
    note(house, "Within", more={"see": page})

    def told(*types: str) -> dict[str, int]:
        some = [
            own[0] | {"types": list(types)},
            group | {"fields": [group["fields"][0] | {"types": list(types)}]},
        ]
        now = NOTE | {"fields": [*NOTE["fields"], *some]}
        impact = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, now))
        return {one.field: one.entries for one in impact.effects}

    assert told("note", "page") == {}
    assert told("note") == {"near": 1, "more": 1}
    assert told("page") == {"near": 2, "more": 1}


def _made_otherwise(draw: random.Random) -> dict[str, Any]:
    """The type with what it asks for changed somewhere."""
    some = copy.deepcopy(NOTE["fields"])
    for one in draw.sample(some[2:4], draw.randint(0, 2)):
        one |= draw.choice([{"required": True}, {"shared": True}])
    if draw.random() < 0.4:
        some[3]["kind"] = "rich"
    if draw.random() < 0.3:
        some.append({"name": "more", "kind": "line", "required": draw.random() < 0.5})
    policies: list[dict[str, Any]] = [{}, {}, {}, {"policy": {"needs_end": True}}, {"workflow": "standard"}]
    return NOTE | {"fields": some} | draw.choice(policies)


@pytest.mark.parametrize("seed", range(6))
def test_who_changes_a_type_is_told_what_of_what_is_planned_is_held_then(house: House, seed: int) -> None:
    draw = random.Random(seed)
    some = [{"desk": "Ring twice."}, {"body": "<p>High.</p>"}]
    pages: dict[str, str] = {}
    for n in range(5):
        title = f"Tide {n}"
        values = {k: v for one in some if draw.random() < 0.6 for k, v in one.items()}
        page = house.do("ida", lambda a, v={"title": title, **values}: entries.start(a, "note", "en", v))
        came = draw.random() < 0.4
        if came:
            out(house, page)
        if draw.random() < 0.5:
            end = When(instant=iso(house.clock.at + (draw.choice([300, 900]) if came else 900) * SECOND))
            house.do(
                "ida", lambda a, p=page, w=end: dispatches.make(a, [MoveRequest(p, "en", "withdraw")], w)
            )
        pages[title] = house.plan([page], 600)
    made = _made_otherwise(draw)
    found = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, made)).effects
    told = [e for e in found if e.what.startswith("What is planned lacks")]
    house.do("ida", lambda a: changing.define_type(a, made))
    house.later(700)
    held = {title for title, dispatch in pages.items() if house.state(dispatch) == "held"}
    assert {x["title"] for e in told for x in e.examples} == held
    assert [e.entries for e in told] == [len(held)] * bool(held)


def test_what_is_planned_is_held_against_a_type_as_its_values_are_read_then(house: House) -> None:
    must = [one | {"required": True} if one["name"] == "desk" else one for one in NOTE["fields"]]
    define(house, fields=must)
    above = note(house, "Visit", desk="Ring once.")
    page = note(house, desk="Ring twice.", below=above)
    planned = house.plan([above, page], 600)
    shared = NOTE | {"fields": [one | {"shared": True} if one["name"] == "desk" else one for one in must]}
    found = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, shared)).effects
    assert [e.what for e in found if e.what.startswith("What is planned lacks")] == []
    define(house, **shared)
    house.later(700)
    assert house.state(planned) == "gone"


def test_shared_fields_that_come_along_by_then_are_held_against_a_type_too(house: House) -> None:
    house.speaks(fr="French")
    shared = [one | {"shared": True} if one["name"] == "desk" else one for one in NOTE["fields"]]
    define(house, fields=shared)
    above, page = out(house, note(house, "Visit")), note(house)
    house.do("ida", lambda a: entries.save(a, page, "en", {"below": above}, entries.base_now(a, page, "en")))
    out(house, page)
    first = {"title": "Marée", "body": "<p>Haute.</p>"}
    house.do("ida", lambda a: entries.save(a, page, "fr", first, entries.base_now(a, page, "fr")))
    request, when = MoveRequest(page, "fr"), When(instant=iso(house.clock.at + 600 * SECOND))
    planned = house.do("ida", lambda a: dispatches.make(a, [request], when))
    house.plan([page], 300, "withdraw")
    must = NOTE | {"fields": [one | {"required": True} if one["name"] == "desk" else one for one in shared]}
    found = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, must)).effects
    told = [e for e in found if e.what.startswith("What is planned lacks")]
    assert [(e.entries, e.examples[0]["title"]) for e in told] == [(1, "Tide")]
    define(house, **must)
    house.later(700)
    assert house.state(planned) == "held"


def _without(*names: str) -> Callable[[dict[str, Any]], dict[str, Any]]:
    return lambda now: {"fields": [f for f in now["fields"] if f["name"] not in names]}


def _in_cards(now: dict[str, Any]) -> dict[str, Any]:
    bare = {"blocks": [{"name": "card", "fields": []}]}
    return {"fields": [f | (bare if f["name"] == "cards" else {}) for f in now["fields"]]}


@pytest.mark.parametrize(
    "change",
    [
        lambda now: {"title": "line"},
        lambda now: {"internal": "line"},
        lambda now: {"search_title": "line"},
        lambda now: {"meta_description": "line"},
        lambda now: {"dated": "day"},
        _without("slug"),
        _without("below"),
        _without("see"),
        _without("marks"),
        _in_cards,
    ],
    ids=[
        "title",
        "internal",
        "search",
        "description",
        "dated",
        "slug",
        "parent",
        "reference",
        "tags",
        "blocks",
    ],
)
def test_lists_and_searches_follow_a_changed_type_and_back(
    house: House, change: Callable[[dict[str, Any]], dict[str, Any]]
) -> None:
    see = {"name": "see", "kind": "reference", "label": "See", "many": True}
    card = {"name": "card", "fields": [see]}
    add_fields(
        house,
        [
            {"name": "line", "kind": "line", "label": "Line"},
            {"name": "day", "kind": "date", "label": "Day"},
            {"name": "marks", "kind": "tags", "label": "Marks"},
            {"name": "cards", "kind": "blocks", "label": "Cards", "blocks": [card]},
            see,
        ],
    )
    above, other = house.signed("Visit", line="V"), house.signed("Rope", line="R")
    cards = [{"kind": "card", "fields": {"see": [other]}}]
    page = house.signed(
        "Fog", line="Wet", day="2026-01-02", marks=["rope"], see=[above], cards=cards, below={"entry": above}
    )
    for one in (above, other, page):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(one, "en")]))  # noqa: B023
    house.page("Salt", line="Dry", below={"entry": page})

    def define(how: Callable[[dict[str, Any]], dict[str, Any]]) -> dict[str, Any]:
        def do(act: Any) -> dict[str, Any]:
            now = contenttypes.to_dict(act.setup.types["page"])
            changing.define_type(act, {**now, **how(now)})
            return now

        return house.do("ida", do)

    def called() -> list[str]:
        rows, _ = house.desk.read(house.who("ida"), lambda v: finding.listing(v, finding.Query()))
        return sorted(row.title for row in rows)

    names = called()
    was, before = define(change), called()
    assert house.desk.read(house.who("ida"), health) == []
    assert before == (["Dry", "R", "V", "Wet"] if "title" in change(was) else names)
    define(lambda now: {**was, "version": now["version"]})
    assert house.desk.read(house.who("ida"), health) == []
    assert called() == names == ["Fog", "Rope", "Salt", "Visit"]


def test_what_programs_fill_is_shown_to_people_and_changed_by_programs(house: House) -> None:
    with pytest.raises(Invalid, match="count: is filled by programs"):
        note(house, count=3)
    uuid = note(house)
    with pytest.raises(Invalid, match="count"):
        house.do("wim", lambda a: entries.save(a, uuid, "en", {"count": 4}, Base(None, None)))
    machine = program(house)
    house.desk.write(machine, lambda a: entries.save(a, uuid, "en", {"count": 4}, Base(None, None)))
    # A form that sends back what it was shown changes nothing.
    house.do("wim", lambda a: entries.save(a, uuid, "en", {"count": 4, "title": "Tides"}, Base(None, None)))


def test_readers_never_get_what_is_for_colleagues(house: House) -> None:
    uuid = out(house, note(house, desk="ask Rhea first"))
    body = house.desk.read(NOBODY, lambda v: rendering.render(v, uuid, "en", Place())).data
    assert b"Rhea" not in body
    assert b'"title"' in body
    key = program(house, "reader", ("release",))
    assert b"Rhea" not in house.desk.read(key, lambda v: rendering.render(v, uuid, "en", Place())).data


def test_a_type_that_is_not_public_is_read_with_a_key_alone_wherever_one_looks(house: House) -> None:
    secret = out(house, note(house, "Hidden"))
    open_page = out(house, house.signed("Open", body=f'<p>See <a href="urn:uuid:{secret}">that</a>.</p>'))
    with serving(house) as (_, url), httpx.Client(base_url=url) as web:
        before = web.get(f"/read/entries/{open_page}?locale=en").text
        assert "Hidden" in before
        assert web.get(f"/read/entries/{secret}?locale=en").status_code == 200
        define(house, public=False)
        for address in (f"/read/entries/{secret}?locale=en", "/read/pages/en/hidden"):
            assert web.get(address).status_code == 404
        for address in (
            f"/read/entries/{open_page}?locale=en", "/read/entries", "/read/entries?type=note", "/read/outline",
        ):  # fmt: skip
            assert "Hidden" not in web.get(address).text, address
        _, key = house.do("ida", lambda a: people.issue_key(a, "Site", "reader", "program", ["release"]))
        bearer = {"Authorization": f"Bearer {key}"}
        for address in (
            f"/read/entries/{secret}?locale=en",
            "/read/pages/en/hidden",
            "/read/entries?type=note",
        ):
            assert "Hidden" in web.get(address, headers=bearer).text, address
        # What somebody with a key was given is not kept for those without.
        assert web.get(f"/read/entries/{secret}?locale=en").status_code == 404
        assert "Hidden" not in web.get(f"/read/entries/{open_page}?locale=en").text
        define(house, public=True)
        assert web.get(f"/read/entries/{secret}?locale=en").status_code == 200


@pytest.mark.parametrize(
    ("wrong", "where"),
    [
        ({"fields": [{"name": "title", "kind": "line", "public": False}]}, "title"),
        ({"public": False, "fields": [{"name": "title", "kind": "line"}, {"name": "file", "kind": "file"}]}, "public"),
        ({"fields": [{"name": "title", "kind": "line"}, {"name": "slug", "kind": "slug", "public": False}]}, "fields.slug.public"),
        ({"fields": [{"name": "title", "kind": "line", "read_only": True, "required": True}]}, "fields.title.required"),
        ({"retired": "yes", "fields": [{"name": "title", "kind": "line"}]}, "retired"),
    ],
)  # fmt: skip
def test_switches_that_cannot_be_are_refused_by_name(house: House, wrong: dict[str, Any], where: str) -> None:
    with pytest.raises(Invalid) as caught:
        house.do("ida", lambda a: changing.define_type(a, {"name": "odd", "workflow": "short"} | wrong))
    assert where in [p.where for p in caught.value.facts["problems"]]


def test_a_type_is_deleted_only_when_nothing_uses_it_and_all_that_does_is_named(house: House) -> None:
    uuid = note(house)
    other = {
        "name": "guide",
        "workflow": "short",
        "fields": [
            {"name": "title", "kind": "line"},
            {"name": "group", "kind": "group", "fields": [{"name": "see", "kind": "reference", "types": ["note"]}]},
        ],
    }  # fmt: skip
    house.do("ida", lambda a: changing.define_type(a, other))
    house.do("ida", lambda a: workflows.set_choices(a, [{"workflow": "short", "type": "note"}]))
    role = {"name": "noter", "label": "Noter", "grants": [{"verb": "read", "types": ["note"]}]}
    house.do("ida", lambda a: people.define_roles(a, [role]))
    with pytest.raises(InTheWay) as caught:
        house.do("ida", lambda a: changing.delete_type(a, "note"))
    assert len(caught.value.facts["uses"]) == 4, caught.value.facts["uses"]
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(uuid, "en", "remove")]))
    house.do("ida", lambda a: workflows.set_choices(a, []))
    house.do("ida", lambda a: people.end_role(a, "noter"))
    house.do("ida", lambda a: changing.delete_type(a, "guide"))
    with pytest.raises(InTheWay, match="removed"):
        house.do("ida", lambda a: changing.delete_type(a, "note"))
    with pytest.raises(Refused):
        house.do("wim", lambda a: changing.delete_type(a, "document"))
    house.do("ida", lambda a: changing.delete_type(a, "document"))
    assert "document" not in house.desk.read(house.who("ida"), lambda v: v.setup.types)
    with pytest.raises(NotFound):
        house.do("ida", lambda a: changing.delete_type(a, "document"))


def test_a_field_set_is_deleted_only_when_no_type_uses_it(house: House) -> None:
    house.do(
        "ida",
        lambda a: changing.define_set(a, {"name": "desk", "fields": [{"name": "memo", "kind": "line"}]}),
    )
    define(house, sets=["desk"])
    with pytest.raises(InTheWay, match="Note"):
        house.do("ida", lambda a: changing.delete_set(a, "desk"))
    define(house, sets=[])
    house.do("ida", lambda a: changing.delete_set(a, "desk"))
    assert house.desk.read(house.who("ida"), lambda v: dict(v.setup.sets)) == {}
