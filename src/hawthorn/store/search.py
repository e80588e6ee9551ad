"""The search index: the words of every draft, and of what is out where the draft has moved on."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence

from hawthorn.core import searching

_MOST_FORMS = 40


def put(
    conn: sqlite3.Connection, edition: int, stage: int, title: Sequence[str], text: Sequence[str], facets: str
) -> None:
    """Index a text as the newest; one that holds the very same words stays where it is."""
    named, body = " ".join(title), " ".join(text)
    row = conn.execute(
        "SELECT r.id, t.title, t.body, t.facets FROM search_row r JOIN search_text t ON t.rowid = r.id "
        "WHERE r.edition = ? AND r.stage = ?",
        (edition, stage),
    ).fetchone()
    before: set[str] = set()
    if row is not None:
        if (row["title"], row["body"], row["facets"]) == (named, body, facets):
            return
        before = {*row["title"].split(" "), *row["body"].split(" ")}
        conn.execute("DELETE FROM search_text WHERE rowid = ?", (row["id"],))
        conn.execute("DELETE FROM search_row WHERE id = ?", (row["id"],))
    made = conn.execute(
        "INSERT INTO search_row (id, edition, stage) VALUES ((SELECT coalesce(max(id), 0) + 1 FROM search_row), ?, ?)",
        (edition, stage),
    ).lastrowid
    conn.execute(
        "INSERT INTO search_text (rowid, title, body, facets) VALUES (?, ?, ?, ?)",
        (made, named, body, facets),
    )
    fresh = searching.terms({*title, *text} - before)
    conn.executemany("INSERT OR IGNORE INTO search_term VALUES (?)", [(t,) for t in fresh])


def has(conn: sqlite3.Connection, edition: int, stage: int) -> bool:
    """Whether a text is indexed."""
    return (
        conn.execute("SELECT 1 FROM search_row WHERE edition = ? AND stage = ?", (edition, stage)).fetchone()
        is not None
    )


def say(conn: sqlite3.Connection, edition: int, locale: str, title: str, words: str) -> None:
    """Keep what an edition's draft says to searches, folded."""
    conn.execute(
        "INSERT INTO search_said VALUES (?1, ?2, ?3, ?4) ON CONFLICT (edition) DO UPDATE SET title = ?3, words = ?4 "
        "WHERE title <> ?3 OR words <> ?4",
        (edition, locale, title, words),
    )


def drop(conn: sqlite3.Connection, editions: Iterable[int], stage: int | None = None) -> None:
    """Take texts out of the index; of all stages when none is named."""
    rows = conn.execute(
        "SELECT r.id FROM json_each(?1) j JOIN search_row r ON r.edition = j.value WHERE ?2 IS NULL OR r.stage = ?2",
        (json.dumps(list(editions)), stage),
    ).fetchall()
    for row in rows:
        conn.execute("DELETE FROM search_text WHERE rowid = ?", (row["id"],))
        conn.execute("DELETE FROM search_row WHERE id = ?", (row["id"],))


def begun(conn: sqlite3.Connection, some: Iterable[searching.Wanted]) -> dict[str, list[str]]:
    """How words that are only begun go on, by the words that there are."""
    out: dict[str, list[str]] = {}
    for one in some:
        if one.begun and (len(one.parts[0]) > 1 or not one.parts[0].isascii()):
            start = one.parts[0]
            rows = conn.execute(
                "SELECT term FROM search_term WHERE term >= ? AND term < ? ORDER BY length(term), term LIMIT ?",
                (start, start + "\U0010ffff", _MOST_FORMS),
            ).fetchall()
            out[start] = [row[0] for row in rows]
    return out
