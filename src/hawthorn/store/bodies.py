"""Rendered bodies of what is out: one SELECT answers a read, and says whether the body is still fresh."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

FRESH = """
SELECT b.etag, b.bytes FROM entry e JOIN body b ON b.entry = e.id AND b.wanted_locale = ? AND b.stage = 2 AND b.until IS NULL
WHERE e.uuid = ? AND b.ends > ? AND NOT EXISTS (
  SELECT 1 FROM dep d JOIN change c ON c.target = d.target AND c.stage = 2 AND c.facet = d.facet AND c.seq > b.seq
  WHERE d.body = b.id)
"""


def fresh(conn: sqlite3.Connection, uuid: str, locale: str, now: int) -> tuple[str, bytes] | None:
    """The ETag and bytes of a released entry, if they are kept, still hold, and nothing they depend on has changed."""
    row = conn.execute(FRESH, (locale, uuid, now)).fetchone()
    return (row[0], row[1]) if row else None


def keep(
    conn: sqlite3.Connection,
    entry: int,
    locale: str,
    seq: int,
    since: int,
    etag: str,
    data: bytes,
    deps: Iterable[tuple[int, str]],
    ends: int,
) -> None:
    """Keep a rendered body in place of the one before it; it holds until `ends`."""
    old = conn.execute(
        "SELECT id, seq FROM body WHERE entry = ? AND wanted_locale = ? AND stage = 2 AND until IS NULL",
        (entry, locale),
    ).fetchone()
    if old and old["seq"] > seq:
        return
    if old:
        conn.execute("DELETE FROM dep WHERE body = ?", (old["id"],))
        conn.execute("DELETE FROM body WHERE id = ?", (old["id"],))
    made = conn.execute(
        "INSERT INTO body (entry, wanted_locale, stage, since, seq, etag, bytes, ends) VALUES (?, ?, 2, ?, ?, ?, ?, ?)",
        (entry, locale, since, seq, etag, data, ends),
    ).lastrowid
    conn.executemany("INSERT OR IGNORE INTO dep VALUES (?, ?, ?)", [(made, t, f) for t, f in deps])


def clear(conn: sqlite3.Connection) -> None:
    """Let all bodies go; they are made anew when they are asked for."""
    conn.execute("DELETE FROM dep")
    conn.execute("DELETE FROM body")


def forget_needs_of_type(conn: sqlite3.Connection, type: str) -> None:
    """Forget what the kept bodies of a type depend on."""
    conn.execute(
        "DELETE FROM dep WHERE body IN (SELECT b.id FROM body b JOIN entry e ON e.id = b.entry WHERE e.type = ?)",
        (type,),
    )


def forget_type(conn: sqlite3.Connection, type: str) -> None:
    """Forget the kept bodies of a type."""
    conn.execute("DELETE FROM body WHERE entry IN (SELECT id FROM entry WHERE type = ?)", (type,))
