"""A save through the operations against the very statements that it writes, replayed bare."""

from __future__ import annotations

import random
import sqlite3
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from benchmarks import made
from benchmarks.figures import Figure, copied, interleaved
from hawthorn.operations.content import entries
from hawthorn.store import connection

PAGES = 50
"""So many texts are being written at once."""
Statement = tuple[str, Any]


class _Writer:
    """Somebody who changes a sentence in one page after another."""

    def __init__(self, path: Path, pages: list[tuple[int, int, str]]) -> None:
        self.desk = made.open_desk(path)
        self.wim = made.somebody(self.desk, "wim")
        rng = random.Random(3)
        self.pages = pages
        self.bodies = [made.text(rng, 2000) for _ in pages]
        self.bases = [self.desk.read(self.wim, lambda v, p=p: _base(v.conn, p[2])) for p in pages]  # type: ignore[misc]
        self.at = 0

    def save(self) -> None:
        """The next save."""
        n = self.at % len(self.pages)
        body = self.bodies[n].replace("</p>", f" {self.at:06} tides.</p>", 1)
        uuid, base = self.pages[n][2], self.bases[n]
        self.bases[n] = self.desk.write(
            self.wim, lambda act: entries.save(act, uuid, "en", {"body": body}, base, "")
        ).base
        self.at += 1


def figure_save(folder: Path, count: int = 200, rounds: int = 7) -> dict[str, Figure]:
    """A save of a 2 KB body in which a sentence changed; the floor writes the same rows, each save in one transaction."""
    first = folder / "first.sqlite"
    desk = made.open_desk(first)
    pages = made.pages(desk, PAGES)
    desk.db.close()
    recorded = _recorded(copied(first, folder / "recorded.sqlite"), pages, PAGES + count * rounds)
    ours = _Writer(copied(first, folder / "ours.sqlite"), pages)
    bare = connection.open_writer(copied(first, folder / "bare.sqlite"))
    replay = iter(recorded)
    for _ in range(PAGES):
        ours.save()
        _write(bare, next(replay))
    rates = interleaved(
        lambda: _rate(count, ours.save), lambda: _rate(count, lambda: _write(bare, next(replay))), rounds
    )
    rows = [c.execute("SELECT count(*) FROM revision").fetchone()[0] for c in (bare, _reader(ours))]
    if rows[0] != rows[1] or rows[0] < count * rounds:
        raise RuntimeError(f"the floor wrote {rows[0]} revisions and ours {rows[1]}")
    ours.desk.db.close()
    bare.close()
    return {"save a draft of 2 KB": Figure(*rates, rates[0] / rates[1], 0.55, "higher", "saves/s")}


def _reader(writer: _Writer) -> sqlite3.Connection:
    return connection.open_reader(writer.desk.db.path)


def _rate(count: int, act: Callable[[], object]) -> float:
    start = time.perf_counter()
    for _ in range(count):
        act()
    return count / (time.perf_counter() - start)


def _recorded(path: Path, pages: list[tuple[int, int, str]], count: int) -> list[list[Statement]]:
    """What each of so many saves writes."""
    writer = _Writer(path, pages)
    conn = writer.desk.db._writer
    assert conn is not None
    said: list[Statement] = []
    out: list[list[Statement]] = []
    plain, many = conn.execute, conn.executemany

    def execute(sql: str, *given: Any) -> sqlite3.Cursor:
        if sql.lstrip().startswith(("INSERT", "UPDATE", "DELETE")):
            said.append((sql, given[0] if given else ()))
        return plain(sql, *given)

    def executemany(sql: str, rows: Iterable[Any]) -> sqlite3.Cursor:
        kept = list(rows)
        said.extend((sql, row) for row in kept)
        return many(sql, kept)

    conn.execute, conn.executemany = execute, executemany  # type: ignore[method-assign, assignment]
    for _ in range(count):
        writer.save()
        out.append(list(said))
        said.clear()
    writer.desk.db.close()
    return out


def _write(conn: sqlite3.Connection, statements: list[Statement]) -> None:
    conn.execute("BEGIN IMMEDIATE")
    for sql, given in statements:
        conn.execute(sql, given)
    conn.execute("COMMIT")


def _base(conn: sqlite3.Connection, uuid: str) -> entries.Base:
    rows = dict(
        conn.execute(
            "SELECT d.locale, s.head FROM entry e JOIN edition d ON d.entry = e.id JOIN strand s ON s.edition = d.id "
            "WHERE e.uuid = ?",
            (uuid,),
        ).fetchall()
    )
    return entries.Base(rows["en"], rows["*"])
