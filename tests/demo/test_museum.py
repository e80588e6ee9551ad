"""The museum's files say what the rest of the demo can use: definitions that hold, and names that are there."""

from __future__ import annotations

import json
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from pydantic import ValidationError

from hawthorn.core import contenttypes, workflow
from hawthorn.core.timeline import SECOND
from hawthorn.demo import museum
from hawthorn.demo.museum import HOUSE
from hawthorn.demo.seeding import Museum
from hawthorn.operations.content import changing
from hawthorn.operations.delivery import described
from hawthorn.store import events
from hawthorn.store.database import Database
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


def test_the_whole_museum_is_a_house_one_would_believe(tmp_path: Path) -> None:
    """What a newcomer meets: many entries, in five languages, at every stage, over three months, by everybody, with nothing that does not hold."""
    db = Database(tmp_path / "museum.sqlite", waits=False)
    Museum(
        db, time.time_ns() // 1000, "http://127.0.0.1:1", [], "http://127.0.0.1:1/changed", whole=True
    ).seed()
    with db.read() as conn:

        def counted(sql: str) -> dict[str, int]:
            return dict(tuple(row) for row in conn.execute(sql).fetchall())

        types = counted("SELECT t.type, count(*) FROM entry t GROUP BY 1")
        assert sum(types.values()) >= 150
        assert types["label"] >= 40
        assert types["picture"] >= 40
        out = counted(
            "SELECT d.locale, count(*) FROM standing s JOIN edition d ON d.id = s.edition JOIN stage g ON g.id = s.stage "
            "WHERE g.name = 'release' AND s.until IS NULL GROUP BY 1"
        )
        assert {"en", "fr", "de", "ja", "ar"} <= set(out)
        assert min(out[tag] for tag in ("fr", "de", "ja", "ar")) >= 5
        jobs = counted("SELECT state, count(*) FROM job GROUP BY 1")
        assert {"waiting", "in work", "returned", "accepted"} <= set(jobs)
        first, last = conn.execute("SELECT min(at), max(at) FROM event").fetchone()
        assert last - first > 85 * 86_400 * SECOND
        busy = {
            row[0]
            for row in conn.execute("SELECT DISTINCT a.handle FROM event e JOIN actor a ON a.id = e.actor")
        }
        assert len(busy & {person[0] for person in HOUSE.people}) >= 12
        weeks = counted(f"SELECT at / {7 * 86_400 * SECOND}, count(*) FROM event GROUP BY 1")
        assert min(sorted(weeks.values())[1:]) > 20
        assert list(events.verify(conn)) == []
    db.close()
