"""The museum's files say what the rest of the demo can use: definitions that hold, and names that are there."""

from __future__ import annotations

import json
import re
import sqlite3
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple

import pytest
from pydantic import ValidationError

from hawthorn.core import contenttypes, workflow
from hawthorn.core.timeline import SECOND
from hawthorn.demo import museum
from hawthorn.demo.museum import HOUSE
from hawthorn.demo.seeding import Museum
from hawthorn.operations.content import changing
from hawthorn.operations.delivery import described
from hawthorn.store import connection, events
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


class Whole(NamedTuple):
    """The whole museum, and every question that was asked while it was made."""

    db: Database
    asked: set[str]


@pytest.fixture(scope="module")
def whole(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Whole]:
    asked: set[str] = set()

    class Noted(connection.Writer):
        def execute(self, sql: str, *values: Any) -> sqlite3.Cursor:  # type: ignore[override]
            asked.add(sql)
            return super().execute(sql, *values)

        def executemany(self, sql: str, *values: Any) -> sqlite3.Cursor:  # type: ignore[override]
            asked.add(sql)
            return super().executemany(sql, *values)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(connection, "Writer", Noted)
        db = Database(tmp_path_factory.mktemp("whole") / "museum.sqlite", waits=False)
        db.write(lambda conn: asked.clear())
        Museum(
            db, time.time_ns() // 1000, "http://127.0.0.1:1", [], "http://127.0.0.1:1/changed", whole=True
        ).seed()
    yield Whole(db, asked)
    db.close()


GROWING = {
    "address", "body", "change", "comment", "coverage", "dep", "dispatch", "edition", "entry", "event", "event_about",
    "filter_value", "job", "job_unit", "listed", "memory_unit", "move", "notification", "placed", "reference", "revision",
    "search_row", "section_within", "sign_off", "standing", "stay", "strand", "submission", "summary",
}  # fmt: skip
"""What gets longer as a house works."""
FEW = {
    "dispatch_due": "those that are planned",
    "dispatch_waiting": "those that wait",
    "job_not_closed": "those that are open",
    "strand_beside": "strands that are open beside drafts",
    "submission_waiting": "those that wait",
}
"""Indexes that hold some of what is there only, and may be gone through."""
ONCE = {
    "SELECT seq, at, hash FROM event ORDER BY seq DESC LIMIT 1": "the last one",
    "SELECT id FROM entry WHERE ? IN ('', type) ORDER BY id": "a type was changed, or nothing is kept yet",
    "DELETE FROM body WHERE entry IN (SELECT id FROM entry WHERE type = ?)": "a type was changed",
    "DELETE FROM dep WHERE body IN (SELECT b.id FROM body b JOIN entry e ON": "a type was changed",
    "SELECT DISTINCT d.id AS edition, d.locale, x.stage, e.id AS entry": "a workflow was changed",
}
"""What is asked at a time when all has to be gone through, and why."""


def test_nothing_that_writing_asks_goes_through_all_there_is(whole: Whole) -> None:
    """A house of ten years is as quick as one of ten weeks: no draft, review, release or translation asks for what is found by looking at everything."""
    once = tuple(ONCE)
    found: dict[str, list[str]] = {}
    with whole.db.read() as conn:
        for sql in whole.asked:
            asks = sql.lstrip().startswith(("SELECT", "WITH", "INSERT", "UPDATE", "DELETE"))
            if not asks or sql.lstrip().startswith(once):
                continue
            names = dict.fromkeys(re.findall(r":([a-z_]+)", sql))
            try:
                plan = conn.execute(f"EXPLAIN QUERY PLAN {sql}", names)
            except sqlite3.ProgrammingError:
                wants = re.search(r"uses (\d+)", _error(conn, sql))
                plan = conn.execute(f"EXPLAIN QUERY PLAN {sql}", [None] * int(wants[1] if wants else 0))
            called = {alias: name for name, alias in re.findall(r"(?:FROM|JOIN|,) (\w+)(?: AS)? (\w+)", sql)}
            for step in (row["detail"] for row in plan):
                # By a stage or a locale alone is as good as not at all.
                through = re.match(r"(?:SCAN (\w+)|SEARCH (\w+)(?=.*\((?:stage|locale)=\?\)$))", step)
                if through is None or any(f"INDEX {one}" in step for one in FEW):
                    continue
                alias = through[1] or through[2]
                if called.get(alias, alias) in GROWING:
                    found.setdefault(sql, []).append(step)
    assert found == {}


def _error(conn: sqlite3.Connection, sql: str) -> str:
    with pytest.raises(sqlite3.ProgrammingError) as error:
        conn.execute(f"EXPLAIN QUERY PLAN {sql}")
    return str(error.value)


def test_the_whole_museum_is_a_house_one_would_believe(whole: Whole) -> None:
    """What a newcomer meets: many entries, in five languages, at every stage, over three months, by everybody, with nothing that does not hold."""
    with whole.db.read() as conn:

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
