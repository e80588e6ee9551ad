"""A save through the operations against the same rows, bare."""

from __future__ import annotations

import json
import random
import sqlite3
import time
from pathlib import Path

from benchmarks import made
from benchmarks.figures import Figure, interleaved
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.runtime.act import Desk
from hawthorn.store import connection


def figure_save(folder: Path, count: int = 300, rounds: int = 7) -> dict[str, Figure]:
    """A save of a 2 KB body through operations against the same rows in a bare transaction."""
    desk = made.open_desk(folder / "save.sqlite")
    pages = made.pages(desk, 200)
    with desk.db.read() as conn:
        wim = permission.identity_of(conn, made.people.by_handle(conn, "wim")["id"])  # type: ignore[index]
    rng = random.Random(3)
    bodies = [made.text(rng, 2000) for _ in range(40)]
    heads: dict[str, entries.Base] = {}

    def save(n: int) -> None:
        uuid = pages[n % len(pages)][2]
        body = bodies[n % len(bodies)]
        base = heads.get(uuid) or desk.read(wim, lambda v: _base(v.conn, uuid))
        heads[uuid] = desk.write(wim, lambda a: entries.save(a, uuid, "en", {"body": body}, base, "")).base

    at = 0

    def ours() -> float:
        nonlocal at
        start = time.perf_counter()
        for _ in range(count):
            save(at)
            at += 1
        return count / (time.perf_counter() - start)

    bare = _Bare(folder, desk, pages)
    rates = interleaved(ours, lambda: bare.run(count), rounds)
    desk.db.close()
    bare.conn.close()
    return {
        "save a draft of 2 KB": Figure(rates[0], rates[1], rates[0] / rates[1], 0.55, "higher", "saves/s"),
    }


def _base(conn: sqlite3.Connection, uuid: str) -> entries.Base:
    rows = dict(
        conn.execute(
            "SELECT d.locale, s.head FROM entry e JOIN edition d ON d.entry = e.id JOIN strand s ON s.edition = d.id "
            "WHERE e.uuid = ?",
            (uuid,),
        ).fetchall()
    )
    return entries.Base(rows["en"], rows["*"])


class _Bare:
    """The rows that a save writes, written again as they are: no check, no hash, no merge, no log chain."""

    def __init__(self, folder: Path, desk: Desk, pages: list[tuple[int, int, str]]) -> None:
        path = folder / "bare.sqlite"
        desk.db.write(lambda conn: None)
        with sqlite3.connect(folder / "save.sqlite") as source, sqlite3.connect(path) as copy:
            source.backup(copy)
        source.close()
        copy.close()
        self.conn = connection.open_writer(path)
        self.pages = pages
        self.at = 0
        self.seq = self.conn.execute("SELECT coalesce(max(seq), 0) FROM event").fetchone()[0]
        rng = random.Random(4)
        body = made.text(rng, 2000)
        self.fields = json.dumps({"title": "Page", "slug": "page", "body": body})
        self.ids = json.dumps({"body": [["p123456789", "0123456789abcdef"]] * 7})

    def run(self, count: int) -> float:
        """Saves a second."""
        start = time.perf_counter()
        for _ in range(count):
            self._one(self.pages[self.at % len(self.pages)][0])
            self.at += 1
        return count / (time.perf_counter() - start)

    def _one(self, edition: int) -> None:
        c = self.conn
        self.seq += 1
        c.execute("BEGIN IMMEDIATE")
        strand, head, entry = c.execute(
            "SELECT s.id, s.head, d.entry FROM strand s JOIN edition d ON d.id = s.edition WHERE s.edition = ?",
            (edition,),
        ).fetchone()
        made_id = c.execute(
            "INSERT INTO revision (edition, number, content_hash, type_version, fields, paragraph_ids, unit_map, strand, actor, "
            "actor_kind, at, note, origin) VALUES (?1, (SELECT max(number) + 1 FROM revision WHERE edition = ?1), ?, 1, ?, "
            "?, '{}', ?, 2, 'person', ?, '', 'save')",
            (edition, "0" * 64, self.fields, self.ids, strand, self.seq),
        ).lastrowid
        c.execute("INSERT INTO revision_parent VALUES (?, 0, ?)", (made_id, head))
        c.execute("UPDATE strand SET head = ? WHERE id = ?", (made_id, strand))
        c.execute("UPDATE summary SET title = 'Page', updated_at = ? WHERE edition = ?", (self.seq, edition))
        c.execute(
            "INSERT INTO event VALUES (?, ?, 'entry.saved', 2, 'person', ?, ?, ?)",
            (self.seq, self.seq, "0" * 64, "0" * 64, "0" * 64),
        )
        c.execute(
            "INSERT INTO event_payload VALUES (?, ?)",
            (self.seq, '{"entry": "x", "locale": "en", "title": "Page"}' * 4),
        )
        c.execute("INSERT INTO event_about VALUES (?, ?)", (entry, self.seq))
        c.execute("COMMIT")
