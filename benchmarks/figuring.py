"""The page of figures at a million events, against a second."""

from __future__ import annotations

import random
import sqlite3
import time
from pathlib import Path

from benchmarks import made
from benchmarks.exchanging import _events
from benchmarks.figures import Figure
from hawthorn.core.timeline import SECOND
from hawthorn.operations.views import figures
from hawthorn.operations.views.figures import Asked
from hawthorn.store import outbox

_WEEK = 7 * 86_400 * SECOND


def figure_page(folder: Path, events: int = 1_000_000, pages: int = 40_000) -> dict[str, Figure]:
    """All figures of a quarter and of a year, of a house that works evenly over two years: a million events, with ten stays for each page."""
    desk = made.open_desk(folder / "house.sqlite")
    made.pages(desk, pages)
    desk.db.write(lambda conn: _events(conn, events))
    desk.db.write(lambda conn: _stays(conn, desk.clock.now()))
    me = made.somebody(desk, "wim")
    out = {}
    for name, weeks in (("a quarter", 13), ("a year", 52)):
        took = []
        for _ in range(3):
            begun = time.perf_counter()
            found = desk.read(me, lambda view, w=weeks: figures.look(view, Asked(weeks=w)))  # type: ignore[misc]
            took.append(time.perf_counter() - begun)
        assert sum(found.releases.editions) > 1_000
        out[f"figures of {name} at {events:,} events, in place of 1 s"] = Figure(
            min(took), 1, min(took), 1, "lower", "s"
        )
    desk.db.close()
    return out


def _stays(conn: sqlite3.Connection, now: int) -> None:
    rng = random.Random(5)
    rows = []
    begin = now - 104 * _WEEK
    for edition, entry, type in conn.execute(
        "SELECT d.id, d.entry, e.type FROM edition d JOIN entry e ON e.id = d.entry WHERE d.locale = 'en'"
    ).fetchall():
        for _ in range(3):
            at = begin + rng.randrange(103 * _WEEK)
            for stage, how in (("draft", "submitted"), ("review", rng.choice(("signed off", "sent back")))):
                went = at + rng.randrange(3 * 86_400 * SECOND)
                rows.append((edition, stage, at, went, how, 2, entry, type, "en"))
                at = went
            rows.append((edition, "release", at, at + _WEEK, "out", 2, entry, type, "en"))
    conn.execute("DELETE FROM stay")
    conn.executemany("INSERT OR REPLACE INTO stay VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)", rows)
    conn.execute("INSERT OR IGNORE INTO follower (name, cursor) VALUES ('counter', 0)")
    outbox.advance(conn, "counter", "", 0, 1)
