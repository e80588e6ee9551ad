"""A file of each earlier version is brought up, and loses nothing: pages in draft, waiting, planned and out, with comments, strands and jobs as far as
that version knew of them.

The files were made by the programs of their time (`make_earlier.py`), and lie together in `earlier.tar.xz`, one for each number of the last migration that it had.
"""

from __future__ import annotations

import json
import sqlite3
import tarfile
from pathlib import Path

import pytest

from hawthorn.core.timeline import SECOND
from hawthorn.operations.content import entries
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.search import finding
from hawthorn.operations.views import show
from hawthorn.operations.views.health import examine
from hawthorn.service.app import open_desk
from hawthorn.service.settings import Settings
from hawthorn.store import connection, migrate
from hawthorn.store.file_store import opened
from tests.service.made import START, Clock, House

ARCHIVE = Path(__file__).with_name("earlier.tar.xz")
with tarfile.open(ARCHIVE) as _archive:
    FILES = {
        int(Path(one.name).stem): file.read()
        for one in _archive.getmembers()
        if (file := _archive.extractfile(one)) is not None
    }

MISSING = {9, 41, 53, 57}
"""Versions whose migration was never in a program without the next one."""


def test_there_is_one_of_each_version_but_the_first_and_this_one() -> None:
    newest = migrate.steps()[-1].number
    # Files of the first ones were made by hand, in `test_migrations.py`.
    assert set(FILES) >= set(range(4, newest - 1)) - MISSING
    assert max(FILES) <= newest


def held(path: Path) -> dict[str, object]:
    """What nobody may lose: who did what when, every text, and what stood."""
    conn = sqlite3.connect(path)
    try:
        out: dict[str, object] = {
            name: conn.execute(f"SELECT count(*) FROM {name}").fetchone()[0]
            for name in ("entry", "edition", "revision", "strand", "job", "commission", "dispatch")
        }
        out["events"] = conn.execute("SELECT seq, at, actor, hash FROM event ORDER BY seq").fetchall()
        out["stood"] = conn.execute(
            "SELECT edition, revision, since, until FROM standing ORDER BY id"
        ).fetchall()
        out["people"] = conn.execute(
            "SELECT handle, name, email, password FROM actor WHERE kind = 'person' ORDER BY id"
        ).fetchall()
        return out
    finally:
        conn.close()


@pytest.mark.parametrize("number", sorted(FILES))
def test_a_file_of_an_earlier_version_is_brought_up_and_loses_nothing(number: int, tmp_path: Path) -> None:
    path = tmp_path / "house.sqlite"
    path.write_bytes(FILES[number])
    before = held(path)
    open_desk(Settings(file=path), Clock(START + 600 * SECOND)).db.close()
    after = held(path)
    had = before.pop("events")
    assert isinstance(had, list)
    assert after.pop("events")[: len(had)] == had  # type: ignore[index]
    assert after == before
    # A copy as it was is kept beside it, whole.
    if number < migrate.steps()[-1].number:
        kept = migrate.copy_of(path, number + 1)
        assert held(kept)["events"] == had
        copied = sqlite3.connect(kept)
        assert copied.execute("SELECT max(number) FROM migration").fetchone()[0] == number
        copied.close()
    conn = connection.open_still(path)
    assert [lines for _, lines in examine(conn, opened("")) if lines] == []
    conn.close()
    goes_on(tmp_path, path)


def goes_on(folder: Path, path: Path) -> None:
    """The work goes on where it was."""
    house = House(folder, Clock(START + 900 * SECOND))
    try:
        ida = house.who("ida")

        def titles(words: str) -> dict[str, str]:
            rows, _ = house.desk.read(ida, lambda v: finding.listing(v, finding.Query(words=words)))
            return {row.title: row.uuid for row in rows}

        found = titles("brass")
        assert set(found) == {"Harbour lamp"}
        uuid = found["Harbour lamp"]

        def save(act: Act) -> None:
            row = act.conn.execute("SELECT id FROM entry WHERE uuid = ?", (uuid,)).fetchone()[0]
            base = entries.current_base(act, row, "en")
            entries.save(act, uuid, "en", {"body": "<p>Tarred hemp.</p>"}, base)

        house.do("wim", save)
        assert set(titles("hemp")) == {"Harbour lamp"}
        assert set(titles("knot")) == {"Waiting knot"}
        bell = titles("bell")["Planned bell"]
        assert not house.is_out(bell)
        house.later(7200)
        assert house.is_out(bell)
        conn = connection.open_still(path)
        assert [lines for _, lines in examine(conn, opened("")) if lines] == []
        conn.close()
    finally:
        house.close()


def test_what_fields_were_before_is_told_from_the_definitions_that_were_kept(tmp_path: Path) -> None:
    path = tmp_path / "house.sqlite"
    path.write_bytes(FILES[59])
    conn = sqlite3.connect(path, isolation_level=None)
    now = json.loads(conn.execute("SELECT definition FROM content_type WHERE name = 'page'").fetchone()[0])
    was = {**now, "fields": [f | {"kind": "text"} if f["name"] == "body" else f for f in now["fields"]]}
    changed = {**now, "version": 2, "sets": ["more"]}
    note = {"name": "note", "kind": "line", "label": "Note", "was_shared": None, "set": "more"}
    sets = [
        {
            "name": "more",
            "label": "More",
            "version": n + 1,
            "help": "",
            "fields": [note | {"shared": bool(n)}],
        }
        for n in range(2)
    ]
    conn.execute("UPDATE content_type SET definition = ? WHERE name = 'page'", (json.dumps(was),))
    row = conn.execute("SELECT max(id), max(at) FROM revision").fetchone()
    later = (row[1] + SECOND, None)
    conn.execute("INSERT INTO content_type VALUES ('page', 2, ?, ?, ?)", (json.dumps(changed), *later))
    for n, made in enumerate(sets):
        conn.execute(
            "INSERT INTO field_set VALUES ('more', ?, ?, ?, ?)", (n + 1, json.dumps(made), row[1] + n, None)
        )
    conn.close()
    house = House(tmp_path, Clock(START + 900 * SECOND))
    try:
        kind = house.desk.read(house.who("ida"), lambda v: v.setup.type("page"))
        marks = {
            name: [(m.revision, m.field.kind, m.field.shared) for m in some]
            for name, some in kind.marks.items()
        }
        assert marks == {"body": [(row[0], "text", False)], "note": [(row[0], "line", False)]}
        kept = house.desk.db.write(
            lambda c: c.execute("SELECT group_concat(definition) FROM content_type").fetchone()
        )
        assert "was_shared" not in kept[0]
        ida = house.who("ida")
        rows, _ = house.desk.read(ida, lambda v: finding.listing(v, finding.Query(words="lamp")))
        shown = house.desk.read(ida, lambda v: show.entry(v, rows[0].uuid, "en"))
        assert shown["fields"]["body"] == "<p>&lt;p&gt;Polished brass.&lt;/p&gt;</p>"
    finally:
        house.close()
