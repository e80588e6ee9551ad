"""Set-up as a document: carried whole to another house, compared first, all of it or nothing."""

from __future__ import annotations

import json
import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from hawthorn.cli.app import assembled
from hawthorn.client import Client, Refusal
from hawthorn.core.errors import InTheWay, Invalid, Refused
from hawthorn.core.exchange.differing import Differing, differing
from hawthorn.operations.content import entries
from hawthorn.operations.exchange import set_up
from hawthorn.operations.exchange.set_up import Difference
from tests.conftest import Running
from tests.service.made import House
from tests.service.test_first_run import started

TIDE: dict[str, Any] = {
    "name": "tide",
    "label": "Tide",
    "workflow": "tidal",
    "fields": [
        {"name": "title", "kind": "line", "label": "Title", "required": True},
        {"name": "height", "kind": "number", "label": "Height"},
    ],
}
TIDAL: dict[str, Any] = {
    "name": "tidal",
    "label": "By the tide",
    "stages": [
        {"name": "draft", "label": "Draft", "order": 0},
        {
            "name": "release",
            "label": "Release",
            "order": 1000,
            "gate": {
                "roles": ["pilot"],
                "sign_offs": 1,
                "custom": [{"name": "high", "holds": "height > 3", "says": "The tide is too low."}],
            },
        },
    ],
}
PILOT = {"name": "pilot", "label": "pilot", "grants": [{"verb": "read", "types": ["tide"]}]}


def apply(house: House, by: str = "ida", **parts: Any) -> list[Difference]:
    return house.do(by, lambda act: set_up.apply(act, {"version": 1, **parts}))


def check(house: House, **parts: Any) -> list[Difference]:
    ida = house.who("ida")
    return house.desk.tried(ida, lambda act: set_up.apply(act, {"version": 1, **parts}, trying=True))


def whole(house: House) -> dict[str, Any]:
    return house.desk.read(house.who("ida"), set_up.document)


def test_the_museum_s_set_up_is_the_same_in_a_house_that_had_nothing(
    running: Running, tmp_path: Path
) -> None:
    """Over HTTP, by the command line, with the files of one house compared with those of the other, byte by byte."""
    words = ["--password", "oakum and the tide at six", "--file", str(tmp_path / "r.sqlite")]
    roles = ["--role", "managing-editor", "--role", "staff"]
    assert (
        CliRunner()
        .invoke(assembled("add-person"), ["add-person", "ada", "Ada Pell", *roles, *words])
        .exit_code
        == 0
    )
    here = running.as_("ida").setup_document()
    with started(tmp_path / "r.sqlite") as (url, _), Client(url) as ada:
        ada.log_in("ada", words[1])
        before = ada.setup_document()
        found = ada.check_setup(here.model_dump(exclude_none=True))
        assert {one.how for one in found.items} <= {"added", "changed", "only here"}
        assert ada.setup_document() == before, "only compared"
        done = ada.apply_setup(here.model_dump(exclude_none=True))
        assert done == found, "what was said is what was done"
        there = ada.setup_document()
        assert there == here
        assert not [
            i for i in ada.apply_setup(there.model_dump(exclude_none=True)).items if i.how != "only here"
        ]
        events = [e.kind for e in ada.events(kind="set-up.applied").items]
        assert events == ["set-up.applied"], "once, and not for what was the same"


def test_a_type_and_a_workflow_that_name_each_other_come_in_together(house: House) -> None:
    added = apply(house, workflows=[TIDAL], roles=[PILOT], types=[TIDE])
    assert {(d.part, d.name) for d in added if d.how == "added"} == {
        ("workflows", "tidal"), ("roles", "pilot"), ("types", "tide"),
    }  # fmt: skip
    made = whole(house)
    assert next(t for t in made["types"] if t["name"] == "tide")["workflow"] == "tidal"
    assert apply(house, types=[t for t in made["types"] if t["name"] == "tide"]) == [
        Difference("types", t["name"], "only here") for t in made["types"] if t["name"] != "tide"
    ]


def test_what_is_in_the_way_is_said_whole_and_nothing_is_done(house: House) -> None:
    apply(house, workflows=[TIDAL], roles=[PILOT], types=[TIDE])
    for title in ("Neap", "Spring"):
        house.do("ida", lambda act, title=title: entries.start(act, "tide", "en", {"title": title}))
    before = whole(house)
    single = {**TIDE, "single": True}
    nowhere = {**TIDAL, "name": "adrift", "stages": [{**TIDAL["stages"][0], "label": "Adrift"}]}
    other = {"name": "shore", "label": "Shore", "fields": TIDE["fields"]}
    found = check(house, types=[single, other], workflows=[nowhere])
    assert [(d.part, d.name) for d in found if d.how == "in the way"] == [
        ("types", "tide"),
        ("workflows", "adrift"),
    ]
    assert [d.name for d in found if d.how == "added"] == ["shore"]
    with pytest.raises(InTheWay, match=r"tide.*adrift") as refused:
        apply(house, types=[single, other], workflows=[nowhere])
    assert refused.value.facts["things"] == ["types/tide", "workflows/adrift"]
    assert whole(house) == before


def test_what_a_change_does_to_what_is_there_is_said_before(house: House) -> None:
    apply(house, workflows=[TIDAL], roles=[PILOT], types=[TIDE])
    house.do("ida", lambda act: entries.start(act, "tide", "en", {"title": "Neap", "height": 2}))
    [found] = [d for d in check(house, types=[{**TIDE, "fields": TIDE["fields"][:1]}]) if d.how == "changed"]
    assert [m.path for m in found.members] == ["fields.height"]
    assert any("Height" in effect and "1" in effect for effect in found.effects)


def test_only_whoever_sets_up_gives_out_or_puts_in_place(house: House) -> None:
    with pytest.raises(Refused):
        house.desk.read(house.who("wim"), set_up.document)
    with pytest.raises(Refused):
        apply(house, "wim", types=[TIDE])


@pytest.mark.parametrize(
    ("given", "where"),
    [
        ({"version": 2}, "version"),
        ({}, "version"),
        ({"version": 1, "tipes": []}, "tipes"),
        ({"version": 1, "types": {"tide": TIDE}}, "types"),
        ({"version": 1, "types": [TIDE, TIDE]}, "types.tide"),
        ({"version": 1, "types": ["tide"]}, "types.0"),
        ({"version": 1, "roles": [{"label": "nobody"}]}, "roles.0"),
    ],
)
def test_what_is_no_document_is_refused_by_name(house: House, given: dict[str, Any], where: str) -> None:
    with pytest.raises(Invalid) as refused:
        house.do("ida", lambda act: set_up.apply(act, given))
    assert [p.where for p in refused.value.facts["problems"]] == [where]


def test_a_bureau_comes_without_its_key_and_only_with_an_address(running: Running) -> None:
    ida = running.as_("ida")
    with pytest.raises(Refusal, match="url"):
        ida.check_setup({"version": 1, "bureaus": [{"name": "Adrift", "url": "ftp://adrift.example"}]})
    assert "secret" not in json.dumps(ida.setup_document(["bureaus"]).model_dump())
    [found] = [
        d for d in ida.check_setup({"version": 1, "bureaus": [{"name": "Adrift", "url": "https://adrift.example"}]}).items
        if d.how != "only here"
    ]  # fmt: skip
    assert (found.how, found.name) == ("added", "Adrift")
    assert "key" in found.effects[0]


def test_order_counts_where_things_stand_in_one(house: House) -> None:
    both = [{"tag": "en", "name": "English"}, {"tag": "fr", "name": "Français"}]
    apply(house, locales=both)
    [found] = check(house, locales=both[::-1])
    assert (found.name, found.members) == ("*", [Differing("order", ["en", "fr"], ["fr", "en"])])


def test_members_differ_by_the_names_of_things() -> None:
    before = {"a": 1, "fields": [{"name": "x", "kind": "line"}, {"name": "y"}], "empty": []}
    after = {"a": 1, "fields": [{"name": "y"}, {"name": "x", "kind": "text"}, {"name": "z"}]}
    assert [*differing(before, after)] == [
        Differing("fields.x.kind", "line", "text"),
        Differing("fields.z", None, {"name": "z"}),
        Differing("fields", ["x", "y"], ["y", "x", "z"]),
    ]


_JUNK: tuple[Any, ...] = (None, True, 7, "x", "", [], {}, [[]], [7], {"a": 1}, [{"name": 1}], {"name": "x"})


def _paths(value: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    if at:
        yield at
    members = (
        value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    )
    for key, one in members:
        yield from _paths(one, (*at, key))


def test_whatever_somebody_wrote_into_the_document_is_refused_by_name_or_taken(running: Running) -> None:
    """A document is edited by hand: junk in any of its places is the document's fault, never ours."""
    ida = running.as_("ida")
    document = json.loads(ida.setup_document().model_dump_json(exclude_none=True))
    rng = random.Random(19)
    answers: dict[str, list[Any]] = {}
    # The places depend on what others set up, so one of each answer is named.
    some = [(path, rng.choice(_JUNK)) for path in rng.sample([*_paths(document)], 30) if path != ("version",)]
    for path, junk in (*some, (("types",), 7), (("types", 0, "fields"), 7), (("types", 0, "label"), "Junk")):
        changed = json.loads(json.dumps(document))
        inner = changed
        for key in path[:-1]:
            inner = inner[key]
        inner[path[-1]] = junk
        try:
            found = ida.check_setup(changed)
            answer = "in the way" if any(one.why for one in found.items) else "taken"
        except Refusal as refusal:
            answer = str(refusal.problem.status)
        answers.setdefault(answer, []).append((path, junk))
    assert set(answers) == {"in the way", "taken", "422"}, answers.get("500")
    assert len(answers["in the way"]) > 6
