"""The museum's files say what the rest of the demo can use: definitions that hold, and names that are there."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from pydantic import ValidationError

from hawthorn.core import contenttypes, workflow
from hawthorn.demo import museum
from hawthorn.operations.content import changing
from hawthorn.operations.delivery import described
from tests.service.made import House

EXAMPLE = Path(__file__).parents[2] / "examples/sveltekit/src/lib/museum.ts"


def used(value: Any) -> Iterator[str]:
    """The pieces that a definition names."""
    if isinstance(value, dict) and set(value) == {"use"}:
        yield value["use"]
    elif isinstance(value, (dict, list)):
        for one in value.values() if isinstance(value, dict) else value:
            yield from used(one)


def test_every_definition_is_one_and_every_piece_is_used() -> None:
    sets = {one["name"]: contenttypes.set_from_dict(one) for one in museum.SETS}
    kinds = [contenttypes.from_dict(one, sets) for one in museum.TYPES]
    assert len({kind.name for kind in kinds}) == len(kinds) > 10
    assert workflow.from_dict(museum.WORKFLOWS.checked).name == "checked"
    named = {choice["type"] for choice in museum.WORKFLOWS.choices}
    assert named <= {kind.name for kind in kinds}
    pieces = json.loads((museum.DATA / "pieces.json").read_text("utf-8"))
    files = [json.loads(file.read_text("utf-8")) for file in (museum.DATA / "types").iterdir()]
    assert {*used(files), *used(pieces)} == set(pieces)
    assert not [*used(museum.TYPES)]


def test_what_is_named_is_there() -> None:
    it = museum.COLLECTION
    pictures, galleries = {p.name for p in it.pictures}, {g.title for g in it.galleries}
    makers, topics = {m.title for m in it.makers}, {t.title for t in it.topics}
    for label in it.labels:
        assert label["picture"] in pictures
        assert label["below"] in galleries
        assert label.get("maker") in {*makers, None}
    assert {t.above for t in it.topics} <= topics | {""}
    assert {one for about in it.about.values() for one in about} <= topics
    assert {*it.focus, *(one for some in it.folders.values() for one in some)} <= pictures
    handles, desk = {p.handle for p in museum.HOUSE.people}, museum.DESK
    said: list[Any] = [
        *desk.lists,
        *desk.comments,
        *desk.assigned,
        *(a for c in desk.comments for a in c.answers),
    ]
    assert {one.by for one in said} | {one.to for one in desk.assigned} <= handles
    assert {*museum.NEWS.translated["Winter opening hours"]} <= set(museum.HOUSE.locales)


def test_a_file_with_a_member_too_many_or_too_few_is_refused() -> None:
    whole = json.loads((museum.DATA / "desk.json").read_text("utf-8"))
    assert museum.Desk.model_validate(whole) == museum.DESK
    for wrong in ({**whole, "list": []}, {k: v for k, v in whole.items() if k != "lists"}):
        with pytest.raises(ValidationError):
            museum.Desk.model_validate(wrong)


def test_the_example_in_typescript_has_the_types_of_the_museum(tmp_path: Path) -> None:
    house = House(tmp_path)
    house.speaks(**{tag: name for tag, name in museum.HOUSE.locales.items() if tag != "en"})
    for one in museum.SETS:
        house.do("ida", lambda a, d=one: changing.define_set(a, d))  # type: ignore[misc]
    for one in museum.TYPES:
        house.do("ida", lambda a, d=one: changing.define_type(a, d))  # type: ignore[misc]
    made = house.desk.read(house.who("ida"), lambda view: described.types(view, "typescript"))
    house.close()
    assert EXAMPLE.read_text("utf-8") == made, "hawthorn types --file examples/sveltekit/src/lib/museum.ts"
