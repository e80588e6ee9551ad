"""Workflows while editions stand at their stages: chosen, changed, overridden, and asked again when embeds move on."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.errors import GateUnmet, InTheWay, Invalid, NotFound, Refused, StaleRevision
from hawthorn.core.timeline import SECOND, iso
from hawthorn.followers.mail import Mail
from hawthorn.messages import ENGLISH
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.content import changing, entries
from hawthorn.operations.release import dispatches, overriding, review, workflow_effects, workflows
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.search import finding
from hawthorn.operations.views import show, show_lines
from hawthorn.operations.views.health import health
from hawthorn.service.settings import Settings
from hawthorn.store import people as people_store
from tests.service.made import House

DRAFT, REVIEW = {"name": "draft"}, {"name": "review", "gate": {"checks": ["required"]}}


def flow(name: str = "standard", *between: dict[str, Any], **last: Any) -> dict[str, Any]:
    """A workflow with stages between review and release, and a gate before release."""
    release = {"name": "release", "gate": {"sign_offs": 1, "checks": ["required", "references"], **last}}
    return {"name": name, "label": name.title(), "stages": [DRAFT, REVIEW, *between, release]}


LAW = {"name": "law", "gate": {"sign_offs": 1, "people": ["oda"]}}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.by_scheduler(
        lambda a: people.add_person(a, "rhea", "Rhea", "", "long enough", [{"name": "reviewer"}])
    )
    yield made
    assert made.desk.read(made.who("ida"), health) == []
    made.close()


def define(house: House, definition: dict[str, Any]) -> Any:
    return house.do("ida", lambda a: workflows.define(a, definition))


def shown(house: House, uuid: str, who: str = "ida", locale: str = "en") -> dict[str, Any]:
    return house.desk.read(house.who(who), lambda v: show.entry(v, uuid, locale))


def sign(house: House, who: str, uuid: str, revision: int = 1) -> None:
    house.do(who, lambda a: review.sign_off(a, uuid, "en", revision))


def release(house: House, uuid: str, who: str = "ida") -> None:
    house.do(who, lambda a: dispatches.make(a, [MoveRequest(uuid, "en")]))


def test_a_longer_way_is_gone_stage_by_stage_and_each_tells_whom_it_waits_for(house: House) -> None:
    define(house, flow("standard", LAW, roles=["reviewer"]))
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    assert shown(house, page)["deciders"] == ["Oda"]
    with pytest.raises(Refused, match="Only oda may sign off for law") as refused:
        sign(house, "rhea", page)
    assert ENGLISH.remedy(refused.value) == "Ask Oda."
    with pytest.raises(GateUnmet, match="one more sign-off of exactly this revision by oda"):
        release(house, page)
    sign(house, "oda", page)
    now = shown(house, page)
    assert [b["stage"] for b in now["rail"] if b["state"] == "head"] == ["draft", "review", "law"]
    assert now["deciders"] == ["Rhea"]
    assert now["gate"]["stage"] == "release"
    sign(house, "rhea", page)
    release(house, page)
    assert house.is_out(page)


def test_the_most_specific_choice_is_followed_and_the_page_says_why(house: House) -> None:
    define(house, flow("strict", LAW))
    page = house.page("Lamp")
    assert shown(house, page)["workflow"]["why"] == "“Draft, review, release”, as the type “Page” says."
    house.do(
        "ida", lambda a: workflows.set_choices(a, [{"workflow": "strict", "type": "page", "locale": "en"}])
    )
    now = shown(house, page)
    assert now["workflow"]["name"] == "strict"
    assert now["workflow"]["why"] == "“Strict”, as was chosen for type page and locale en."
    assert [b["stage"] for b in now["rail"]] == ["draft", "review", "law", "release"]
    with pytest.raises(InTheWay, match="the choice for type page and locale en"):
        house.do("ida", lambda a: workflows.end(a, "strict"))
    for wrong in (
        {"workflow": "none"},
        {"workflow": "strict", "type": "x"},
        {"workflow": "strict", "section": page},
    ):
        with pytest.raises(Invalid):
            house.do("ida", lambda a, w=wrong: workflows.set_choices(a, [w]))
    house.do("ida", lambda a: workflows.set_choices(a, []))
    house.do("ida", lambda a: workflows.end(a, "strict"))
    with pytest.raises(NotFound):
        house.do("ida", lambda a: workflows.end(a, "strict"))
    again = define(house, flow("strict"))
    assert again.version == 2


def test_a_section_has_a_workflow_of_its_own_and_what_moves_out_follows_another(house: House) -> None:
    house.do("ida", lambda a: changing.define_type(a, {**SECTION, "name": "hall", "label": "Hall"}))
    define(house, flow("strict", LAW))
    hall = house.do("ida", lambda a: entries.start(a, "hall", "en", {"title": "Hall"}))
    wing = house.do("ida", lambda a: entries.start(a, "hall", "en", {"title": "Wing", "below": hall}))
    page = house.do(
        "ida", lambda a: entries.start(a, "page", "en", {"title": "A", "body": "<p>x</p>", "below": wing})
    )
    house.do("ida", lambda a: workflows.set_choices(a, [{"workflow": "strict", "section": hall}]))
    assert shown(house, page)["workflow"]["why"] == "“Strict”, as was chosen for section “Hall”."
    outside = house.page("Outside")
    lines = house.desk.read(
        house.who("ida"), lambda v: show_lines.lines(v, finding.listing(v, finding.Query(type="page"))[0])
    )
    stages = {line["id"]: [b["stage"] for b in line["rail"]] for line in lines}
    assert (stages[page][2], stages[outside][2]) == ("law", "release"), "in one list, each follows its own"
    house.do("ida", lambda a: review.submit(a, page, "en"))
    sign(house, "oda", page)
    assert [s for s, _, _, until in house.standing(page) if until is None] == ["review", "law"]

    def move(act: Any) -> None:
        row = entries.store.entry(act.conn, wing)
        entries.save(act, wing, "en", {"below": None}, entries.current_base(act, row.id, "en"))

    house.do("ida", move)
    now = shown(house, page)
    assert now["workflow"]["name"] == "standard"
    assert [s for s, _, _, until in house.standing(page) if until is None] == ["review"]
    assert now["review"]["stage"] == "review"
    assert now["review"]["outcome"] == "waiting"


SECTION: dict[str, Any] = {
    "section": True,
    "workflow": "short",
    "fields": [
        {"name": "title", "kind": "line", "label": "Title", "required": True},
        {"name": "below", "kind": "parent", "label": "In", "shared": True},
    ],
}


def test_a_changed_workflow_moves_what_stands_by_stage_name_and_says_so_first(house: House) -> None:
    define(house, flow("standard", LAW))
    waiting, draft = house.page("Waits"), house.page("Drafted")
    house.do("wim", lambda a: review.submit(a, waiting, "en", "Please."))
    sign(house, "oda", waiting)
    shorter = flow("standard")
    impact = house.desk.read(house.who("ida"), lambda v: workflow_effects.check(v, shorter))
    assert impact.editions == 1
    assert impact.effects[0].what == "What stands at Law moves to Review and waits there."
    assert impact.effects[0].examples[0]["title"] == "Waits"
    with pytest.raises(StaleRevision, match="at version 2 by now"):
        define(house, {**shorter, "version": 1})
    define(house, {**shorter, "version": 2})
    assert [s for s, _, _, until in house.standing(waiting) if until is None] == ["review"]
    now = shown(house, waiting)
    assert (now["review"]["stage"], now["review"]["by"], now["review"]["outcome"]) == (
        "review",
        "Wim",
        "waiting",
    )
    sign(house, "oda", waiting)
    release(house, waiting)
    assert [s for s, *_ in house.standing(draft)] == []
    assert ("workflow.moved", "person") in house.events()


def test_gates_that_ask_for_more_say_what_is_planned_and_lacks_it_before_it_is_held(house: House) -> None:
    fog, salt, rope = house.signed("Fog"), house.signed("Salt"), house.page("Rope")
    sign(house, "rhea", salt)
    planned = [house.plan([page], 600) for page in (fog, salt)]
    when = When(instant=iso(house.clock.at + 600 * SECOND))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(rope, "en", follows=True)], when))

    def lacking(definition: dict[str, Any]) -> list[tuple[int, list[str]]]:
        found = house.desk.read(house.who("ida"), lambda v: workflow_effects.check(v, definition)).effects
        said_of = [e for e in found if e.what.startswith("What is planned lacks")]
        return [(e.editions, [x["title"] for x in e.examples]) for e in said_of]

    twice = flow("standard", sign_offs=2)
    assert lacking(twice) == [(1, ["Fog"])], "what lacks a sign-off already is none of this change"
    assert lacking(flow("standard", sign_offs=1)) == lacking(flow("other", sign_offs=2)) == []
    ends = flow("standard", LAW, checks=["required", "references", "end"])
    assert lacking(ends) == [(3, ["Fog", "Salt", "Rope"])]
    assert lacking(flow("standard", {"name": "law", "gate": {"sign_offs": 1}})) == [(2, ["Fog", "Salt"])]
    define(house, twice)
    house.later(700)
    assert [house.state(one) for one in planned] == ["held", "gone"]


def test_what_waits_without_a_stage_below_goes_back_to_draft(house: House) -> None:
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    bare = {
        "name": "standard",
        "label": "Bare",
        "stages": [DRAFT, {"name": "release", "gate": {"sign_offs": 0}}],
    }
    impact = house.desk.read(house.who("ida"), lambda v: workflow_effects.check(v, bare))
    assert impact.effects[0].what == "What stands at Review goes back to draft."
    define(house, bare)
    assert [s for s, _, _, until in house.standing(page) if until is None] == []
    assert "has no such stage any more" in shown(house, page)["review"]["reason"]


@pytest.mark.parametrize(
    ("gate", "says"),
    [
        ({"roles": ["king"]}, "“king” is none of"),
        ({"override_people": ["ghost"]}, "“ghost” is none of"),
        ({"custom": [{"name": "x", "holds": "size(", "says": "y"}]}, "its end"),
        (
            {"custom": [{"name": "x", "holds": "size(colour) > 1", "says": "y"}]},
            "no content type has a field “colour”",
        ),
        ({"custom": [{"name": "", "holds": "true", "says": ""}]}, "has a name and says what is wrong"),
        ({"author": "maybe"}, "is “no”"),
    ],
)
def test_a_gate_that_names_what_is_not_there_is_refused(
    house: House, gate: dict[str, Any], says: str
) -> None:
    with pytest.raises(Invalid, match=says):
        define(house, flow("standard", **gate))


def test_own_checks_hold_what_breaks_them_and_say_what_the_team_says(house: House) -> None:
    own = {"name": "Short title", "holds": "size(title) <= 10 && has(body)", "says": "The title is too long."}
    define(house, flow("standard", custom=[own], sign_offs=0))
    fits, long = house.page("Lamp"), house.page("A lamp with a long title")
    release(house, fits)
    with pytest.raises(GateUnmet, match="The title is too long") as refused:
        release(house, long)
    assert refused.value.facts["unmet"][0]["code"] == "custom-check"


def test_only_whom_the_gate_names_overrides_and_the_reason_is_kept(house: House) -> None:
    define(house, flow("standard", LAW, override_roles=["managing-editor"]))
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    for who in ("oda", "wim"):
        with pytest.raises(Refused, match="Only managing-editor may override"):
            house.do(who, lambda a: overriding.override(a, page, "en", "release", 1, "Urgent."))
    with pytest.raises(Invalid, match="say why"):
        house.do("ida", lambda a: overriding.override(a, page, "en", "release", 1, " "))
    without = house.do("ida", lambda a: overriding.override(a, page, "en", "release", 1, "The ferry sinks."))
    assert [u.code for u in without] == ["sign-offs"]
    # The last gate alone was overridden: the one for law still asks.
    with pytest.raises(GateUnmet, match="by oda"):
        release(house, page)
    sign(house, "oda", page)
    release(house, page)
    assert [(p["by"], p["reason"]) for p in shown(house, page)["overrides"]] == [("Ida", "The ferry sinks.")]

    def change(act: Any) -> None:
        row = entries.store.entry(act.conn, page)
        entries.save(act, page, "en", {"title": "Lamps"}, entries.current_base(act, row.id, "en"))

    house.do("wim", change)
    with pytest.raises(GateUnmet):
        release(house, page)


def test_what_stands_nearest_to_release_goes_out_where_no_revision_is_named(house: House) -> None:
    define(house, flow("standard", LAW, sign_offs=0))
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    sign(house, "oda", page)
    base = house.desk.read(house.who("wim"), lambda v: entries.base_now(v, page))
    house.do("wim", lambda a: entries.save(a, page, "en", {"title": "Lamps"}, base))
    house.do("wim", lambda a: review.submit(a, page, "en"))
    now = {stage: number for stage, number, _, until in house.standing(page) if until is None}
    assert now == {"law": 1, "review": 2}
    release(house, page)
    now = {stage: number for stage, number, _, until in house.standing(page) if until is None}
    assert now == {"release": 1, "review": 2}


def test_whoever_signs_only_what_is_their_own_is_not_asked_to_sign_what_is_not(house: House) -> None:
    grants = [{"verb": "read"}, {"verb": "write", "own": True}, {"verb": "sign", "own": True}]
    house.by_scheduler(lambda a: people_store.set_role(a.conn, "own", "own", grants))
    house.by_scheduler(lambda a: people.add_person(a, "kay", "Kay", "", "long enough", [{"name": "own"}]))
    define(house, flow("standard", author="yes"))
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    assert sorted(shown(house, page)["deciders"]) == ["Ida", "Oda", "Rhea"]
    with pytest.raises(Refused):
        sign(house, "kay", page)


def test_a_person_whom_the_gate_names_overrides_and_no_program_does_whatever_its_role(house: House) -> None:
    define(house, flow("standard", override_people=["oda"]))
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    with pytest.raises(Refused, match="Only oda may override"):
        house.do("ida", lambda a: overriding.override(a, page, "en", "release", 1, "Urgent."))
    house.do("oda", lambda a: overriding.override(a, page, "en", "release", 1, "The ferry sinks."))
    release(house, page)

    define(house, flow("standard", override_roles=["managing-editor"]) | {"version": 2})
    other = house.page("Bell")
    house.do("wim", lambda a: review.submit(a, other, "en"))
    for kind in ("program", "assistant", "bureau"):
        machine = replace(house.who("ida"), kind=kind)
        with pytest.raises(Refused, match="Only managing-editor may override"):
            house.desk.write(machine, lambda a: overriding.override(a, other, "en", "release", 1, "Urgent."))
    house.do("ida", lambda a: overriding.override(a, other, "en", "release", 1, "Urgent."))


def test_what_must_end_goes_out_only_with_an_end_planned(house: House) -> None:
    define(house, flow("standard", checks=["required", "end"], sign_offs=0))
    page = house.page("Ice on the steps")
    with pytest.raises(GateUnmet, match="no end"):
        release(house, page)
    house.plan([page], 3600, "withdraw")
    release(house, page)
    house.later(3700)
    assert not house.is_out(page)


def test_a_link_to_what_is_gone_and_a_text_longer_than_its_field_are_held(house: House) -> None:
    define(house, flow("standard", checks=["links", "length"], sign_offs=0))
    gone = house.page("Gone")
    page = house.page("Lamp of the northern pier", body=f'<p><a href="urn:uuid:{gone}">there</a></p>')
    house.do("wim", lambda a: a.conn.execute("UPDATE entry SET removed_at = 1 WHERE uuid = ?", (gone,)))
    with pytest.raises(GateUnmet, match="leads to an entry that is not there"):
        release(house, page)
    house.do("wim", lambda a: a.conn.execute("UPDATE entry SET removed_at = NULL WHERE uuid = ?", (gone,)))
    kind = house.desk.read(house.who("ida"), lambda v: changing.definition_of(v, "page"))
    kind["fields"][0]["limit"] = 10
    house.do("ida", lambda a: changing.define_type(a, kind))
    with pytest.raises(GateUnmet, match="has 25 characters; at most 10"):
        release(house, page)


def test_a_translation_behind_its_source_is_held(house: House) -> None:
    house.by_scheduler(
        lambda a: a.conn.execute("INSERT INTO locale (tag, name, ord) VALUES ('fr', 'Français', 9)") and None
    )
    house.by_scheduler(lambda a: workflows.setup_changed(a))
    define(house, flow("standard", checks=["translated"], sign_offs=0))
    page = house.page("Lamp")
    release(house, page)

    def french(act: Any) -> None:
        row = entries.store.entry(act.conn, page)
        entries.save(act, page, "fr", {"title": "Lampe"}, entries.current_base(act, row.id, "fr"))

    house.do("ida", french)
    with pytest.raises(GateUnmet, match="missing or behind the source"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "fr")]))


def test_a_picture_that_moves_on_holds_what_was_signed_until_it_is_signed_again(house: House) -> None:
    define(house, flow("standard", embedded="hold"))
    house.do("ida", lambda a: changing.define_type(a, KEPT))
    block = house.do("ida", lambda a: entries.start(a, "kept", "en", {"title": "Bus times"}))
    release(house, block)
    kind = house.desk.read(house.who("ida"), lambda v: changing.definition_of(v, "page"))
    kind["fields"].append(
        {"name": "kept", "kind": "reference", "label": "Kept", "types": ["kept"], "shared": True}
    )
    house.do("ida", lambda a: changing.define_type(a, kind))
    page = house.page("Visit", kept=block)
    house.do("wim", lambda a: review.submit(a, page, "en"))
    sign(house, "oda", page)
    assert shown(house, page)["gate"]["moved"] == []

    def change(act: Any) -> None:
        row = entries.store.entry(act.conn, block)
        entries.save(act, block, "en", {"title": "New bus times"}, entries.current_base(act, row.id, "en"))

    house.do("ida", change)
    release(house, block)
    assert shown(house, page)["gate"]["moved"] == ["New bus times"]
    Mail(house.desk, Settings()).step("one")
    told = [n["says"] for n in house.desk.read(house.who("oda"), notifications.mine)["items"]]
    assert told[0] == "Moved on since you signed: New bus times, in Visit"
    with pytest.raises(GateUnmet, match="“New bus times” moved on after the sign-off"):
        release(house, page)
    sign(house, "oda", page)
    release(house, page)
    assert house.is_out(page)


KEPT: dict[str, Any] = {
    "name": "kept",
    "label": "Kept",
    "common": True,
    "workflow": "short",
    "fields": [{"name": "title", "kind": "line", "label": "Title", "required": True}],
}


def test_what_lacks_only_a_check_waits_and_moves_on_when_it_is_mended(house: House) -> None:
    alt = {"name": "law", "gate": {"sign_offs": 1, "checks": ["references"]}}
    define(house, flow("standard", alt))
    other = house.page("Other")
    page = house.page("Lamp", body=f'<p><a href="urn:uuid:{other}">there</a></p>')
    house.do("wim", lambda a: review.submit(a, page, "en"))
    sign(house, "oda", page)
    assert shown(house, page)["review"]["stage"] == "review"
    with pytest.raises(GateUnmet, match="refers to “Other”"):
        house.do("wim", lambda a: review.move_on(a, page, "en"))
    house.do("wim", lambda a: review.submit(a, other, "en"))
    sign(house, "oda", other)
    sign(house, "oda", other)
    release(house, other)
    house.do("wim", lambda a: review.move_on(a, page, "en"))
    assert shown(house, page)["review"]["stage"] == "law"


def test_a_type_that_names_another_workflow_moves_what_stands(house: House) -> None:
    define(house, flow("strict", LAW))
    page = house.page("Lamp")
    house.do("wim", lambda a: review.submit(a, page, "en"))
    kind = house.desk.read(house.who("ida"), lambda v: changing.definition_of(v, "page"))
    house.do("ida", lambda a: changing.define_type(a, {**kind, "workflow": "strict"}))
    assert shown(house, page)["deciders"] == ["Oda"]
    sign(house, "oda", page)
    assert shown(house, page)["review"]["stage"] == "law"

    def told(name: str) -> list[tuple[str, int, list[str]]]:
        made = {**kind, "version": 2, "workflow": name}
        found = house.desk.read(house.who("ida"), lambda v: changing.check_type(v, made)).effects
        return [(e.what, e.entries, [x["title"] for x in e.examples]) for e in found[1:]]

    assert told("standard") == [("What stands at Law moves to Review and waits there.", 1, ["Lamp"])]
    house.do("ida", lambda a: changing.define_type(a, {**kind, "version": 2, "workflow": "standard"}))
    assert shown(house, page)["review"]["stage"] == "review"
    assert told("short") == [("What stands at Review goes back to draft.", 1, ["Lamp"])]
    house.do("ida", lambda a: changing.define_type(a, {**kind, "version": 3, "workflow": "short"}))
    assert [s for s, _, _, until in house.standing(page) if until is None] == []
    release(house, page)


def test_an_override_is_of_the_shared_fields_that_were_looked_at(house: House) -> None:
    define(house, flow("standard", override_roles=["managing-editor"]))
    page, other = house.page("Lamp"), house.page("Bell")
    house.do("wim", lambda a: review.submit(a, page, "en"))

    def looked() -> int:
        gate = house.desk.read(house.who("ida"), lambda v: show.entry(v, page, "en"))["gate"]
        assert gate is not None
        return gate["common_revision"] or 0

    def override(shared: int | None) -> Any:
        return house.do("ida", lambda a: overriding.override(a, page, "en", "release", 1, "Urgent.", shared))

    seen = looked()

    def below(act: Any) -> Any:
        return entries.save(act, page, "en", {"below": other}, entries.base_now(act, page, "en"))

    house.do("wim", below)
    house.do("wim", lambda a: review.submit(a, page, "en"))
    assert looked() == seen + 1
    with pytest.raises(StaleRevision, match="others by now"):
        override(seen)
    assert override(looked())
