"""A page of the translation grid: many entries in many locales against few."""

from __future__ import annotations

import json
import random
import sqlite3
import statistics
import time
from pathlib import Path

from benchmarks import made
from benchmarks.figures import Figure
from hawthorn.core.translation import units
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Desk, View, setup_changed
from hawthorn.operations.translation import coverage, grid
from hawthorn.operations.translation.grid import Asked
from hawthorn.store import definitions, people, revisions

SMALL, LARGE = 2_000, 20_000
TARGETS = ("ar", "cy", "de", "es", "fi", "fr", "it", "ja", "pl", "tr")
PAGE = 50
QUESTIONS = {
    "everything": Asked(),
    "out of date in one locale": Asked(locale="fr", state="out of date"),
    "missing in one locale": Asked(locale="ja", state="none"),
}


def figure_grid(folder: Path, rounds: int = 15) -> dict[str, Figure]:
    """A page of the grid, and of what is found by state, of 20,000 entries × 10 locales against 2,000 × 10."""
    desks = {n: _filled(folder / f"{n}.sqlite", n) for n in (SMALL, LARGE)}
    out: dict[str, Figure] = {}
    for name, asked in QUESTIONS.items():
        took: dict[int, list[float]] = {SMALL: [], LARGE: []}
        for _ in range(rounds):
            for size, desk in desks.items():
                start = time.perf_counter()
                _page(desk, asked)
                took[size].append(time.perf_counter() - start)
        large, small = (statistics.median(took[n]) * 1000 for n in (LARGE, SMALL))
        out[f"grid of {LARGE:,} × {len(TARGETS)} against {SMALL:,}: {name}"] = Figure(
            large, small, large / small, 2.0, "lower", "ms"
        )
    for desk in desks.values():
        desk.db.close()
    return out


def _page(desk: Desk, asked: Asked) -> None:
    with desk.db.read() as conn:
        wim = people.by_handle(conn, "wim")
        assert wim is not None
        identity = permission.identity_of(conn, wim.id)

    def look(view: View) -> int:
        return len(grid.lines(view, asked, PAGE, "")[0])

    if desk.read(identity, look) != PAGE:
        raise RuntimeError("the page is not full")


def _filled(path: Path, count: int) -> Desk:
    """A house whose pages are translated here, out of date there, and missing elsewhere."""
    desk = made.open_desk(path)
    made.pages(desk, count)

    def more(conn: sqlite3.Connection) -> None:
        for tag in TARGETS:
            definitions.add_locale(conn, tag, tag)

    desk.db.write(more)
    with desk.db.read() as conn:
        wim = people.by_handle(conn, "wim")
        assert wim is not None
        identity = permission.identity_of(conn, wim.id)
    desk.write(identity, setup_changed)
    desk.db.write(lambda conn: _translated(conn, desk, wim.id))
    desk.db.write(lambda conn: definitions.set_setting(conn, "counted", ""))
    coverage.catch_up(desk)
    return desk


def _translated(conn: sqlite3.Connection, desk: Desk, author: int) -> None:
    rng = random.Random(5)
    page = desk.setup(conn).types["page"]
    sources = conn.execute(
        "SELECT d.entry, s.head FROM edition d JOIN strand s ON s.edition = d.id AND s.name = 'draft' WHERE d.locale = 'en'"
    ).fetchall()
    at = desk.clock.now()
    for entry, head in sources:
        content = revisions.content(conn, head)
        hashes = units.source_hashes(page, content)
        for locale in TARGETS:
            chance = rng.random()
            if chance < 0.2:
                continue
            said = {key: [[key, digest if chance < 0.7 else "0" * 16]] for key, digest in hashes.items()}
            _add(conn, entry, locale, content.fields, _ids(conn, head), json.dumps(said), author, at)


def _ids(conn: sqlite3.Connection, head: int) -> str:
    """The paragraph ids of a revision as they are kept."""
    return str(conn.execute("SELECT paragraph_ids FROM revision WHERE id = ?", (head,)).fetchone()[0])


def _add(
    conn: sqlite3.Connection,
    entry: int,
    locale: str,
    fields: object,
    paragraph_ids: str,
    unit_map: str,
    author: int,
    at: int,
) -> None:
    edition = conn.execute("INSERT INTO edition (entry, locale) VALUES (?, ?)", (entry, locale)).lastrowid
    made_of = conn.execute(
        "INSERT INTO revision (edition, number, content_hash, type_version, fields, paragraph_ids, unit_map, actor, actor_kind, "
        "at, note, origin) VALUES (?, 1, 'x', 1, ?, ?, ?, ?, 'person', ?, '', 'return')",
        (edition, json.dumps(fields), paragraph_ids, unit_map, author, at),
    ).lastrowid
    conn.execute("INSERT INTO strand (edition, name, head) VALUES (?, 'draft', ?)", (edition, made_of))
    conn.execute(
        "INSERT INTO summary (edition, entry, type, locale, title, missing, updated_at, actor) "
        "VALUES (?, ?, 'page', ?, 'T', '[]', ?, ?)",
        (edition, entry, locale, at, author),
    )
