"""What is derived from entries, in bulk: rows for lists, addresses, places, references and searches."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from hawthorn.store import search

DERIVED: Mapping[str, str] = {
    "summary": "edition, entry, type, locale, title, missing, updated_at, actor, internal, incomplete, behind, shown, pinned, is_source",
    "reference": "edition, target",
    "tag_use": "tag, edition",
    "listed": "section, stage, type, locale, sort, edition, entry, since, until, pinned",
    "placed": "entry, stage, parent, rank, since, until",
    "address": "stage, locale, parent, slug, entry, since, until",
    "search_said": "edition, locale, title, words",
}
"""The tables of what is derived from entries, with their columns."""


def derive(conn: sqlite3.Connection, table: str, rows: Sequence[Sequence[Any]]) -> None:
    """Add rows of what is derived from entries that were not there before."""
    columns = DERIVED[table]
    places = ", ".join("?" * (columns.count(",") + 1))
    conn.executemany(f"INSERT INTO {table} ({columns}) VALUES ({places})", rows)


def index(
    conn: sqlite3.Connection, rows: Sequence[tuple[int, int, str, str, str]], terms: Iterable[str]
) -> None:
    """Add texts to the index that were not there before: edition, stage, title, text and facets; and the words in them."""
    last = conn.execute("SELECT rowid FROM search_text ORDER BY rowid DESC LIMIT 1").fetchone()
    first = 1 + max(
        conn.execute("SELECT coalesce(max(id), 0) FROM search_row").fetchone()[0], last[0] if last else 0
    )
    conn.executemany(
        "INSERT INTO search_row (id, edition, stage) VALUES (?, ?, ?)",
        [(first + n, row[0], row[1]) for n, row in enumerate(rows)],
    )
    conn.executemany(
        "INSERT INTO search_text (rowid, title, body, facets) VALUES (?, ?, ?, ?)",
        [(first + n, *row[2:]) for n, row in enumerate(rows)],
    )
    conn.executemany("INSERT OR IGNORE INTO search_term VALUES (?)", [(one,) for one in terms])


_ENTRIES = "FROM json_each(?) j CROSS JOIN entry e ON e.id = j.value JOIN edition d ON d.entry = e.id"
_ABOVE = "iif({0}.stage = 1, {0}.parent, coalesce(a.id, 0))"
"""Below which entry something stands; what is out below what was removed is at the top, drafts are moved there."""
_KEPT = {
    "summary": "SELECT s.entry, s.edition, s.type, s.locale, s.title, s.missing, s.updated_at, s.actor, s.internal, s.incomplete, s.behind, "
    "s.shown, s.pinned, s.is_source FROM json_each(?) j CROSS JOIN summary s ON s.entry = j.value",
    "reference": f"SELECT e.id, x.edition, x.target {_ENTRIES} JOIN reference x ON x.edition = d.id",
    "tag_use": f"SELECT e.id, x.tag, x.edition {_ENTRIES} JOIN tag_use x ON x.edition = d.id",
    "listed": "SELECT l.entry, l.edition, l.stage, l.type, l.locale, l.sort, l.pinned FROM json_each(?) j "
    "CROSS JOIN listed l ON l.entry = j.value AND l.until IS NULL",
    "placed": f"SELECT p.entry, p.stage, {_ABOVE.format('p')}, p.rank FROM json_each(?) j CROSS JOIN placed p ON p.entry = j.value AND p.until IS NULL "
    "LEFT JOIN entry a ON a.id = p.parent AND a.removed_at IS NULL",
    "address": f"SELECT x.entry, x.stage, x.locale, {_ABOVE.format('x')}, x.slug FROM json_each(?) j CROSS JOIN address x ON x.entry = j.value "
    "AND x.until IS NULL LEFT JOIN entry a ON a.id = x.parent AND a.removed_at IS NULL",
    "search_said": f"SELECT e.id, x.edition, x.locale, x.title, x.words {_ENTRIES} JOIN search_said x ON x.edition = d.id",
    "search": f"SELECT e.id, r.edition, r.stage, t.title, t.body, t.facets {_ENTRIES} JOIN search_row r ON r.edition = d.id "
    "JOIN search_text t ON t.rowid = r.id WHERE t.title <> '' OR t.body <> ''",
}


def derived(conn: sqlite3.Connection, entries: Sequence[int]) -> dict[str, set[tuple[Any, ...]]]:
    """What is kept of entries in each table, as it stands now, the entry first. What is out below what was removed is at the top."""
    some = json.dumps(list(entries))
    return {name: {tuple(row) for row in conn.execute(sql, (some,))} for name, sql in _KEPT.items()}


def forget_derived(conn: sqlite3.Connection, entries: Sequence[int]) -> None:
    """Let go of what is derived from entries and stands now; what stood before stays."""
    some = json.dumps(list(entries))
    editions = "SELECT d.id FROM json_each(?) j CROSS JOIN edition d ON d.entry = j.value"
    search.drop(conn, [row[0] for row in conn.execute(editions, (some,)).fetchall()])
    for table in ("reference", "tag_use", "search_said"):
        conn.execute(f"DELETE FROM {table} WHERE edition IN ({editions})", (some,))
    conn.execute("DELETE FROM summary WHERE entry IN (SELECT value FROM json_each(?))", (some,))
    for table in ("listed", "placed", "address"):
        conn.execute(
            f"DELETE FROM {table} WHERE until IS NULL AND entry IN (SELECT value FROM json_each(?))", (some,)
        )
