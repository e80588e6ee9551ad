"""Rows that became entries: mappings that are kept, what each entry is known by where its rows come from, and what they said last."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Kept:
    """A mapping that is kept; `body` is JSON."""

    id: int
    name: str
    body: str
    actor: int
    at: int
    by_name: str


_KEPT = "SELECT m.*, a.name AS by_name FROM mapping m JOIN actor a ON a.id = m.actor "


def mappings(conn: sqlite3.Connection) -> list[Kept]:
    """The mappings that are kept, by name."""
    return shaped.every(Kept, conn.execute(_KEPT + "ORDER BY m.name"))


def mapping(conn: sqlite3.Connection, name: str) -> Kept | None:
    """One of them."""
    return shaped.one(Kept, conn.execute(_KEPT + "WHERE m.name = ?", (name,)))


def keep(conn: sqlite3.Connection, name: str, body: str, actor: int, at: int) -> None:
    """Keep a mapping under a name, in place of what had it."""
    conn.execute(
        "INSERT INTO mapping (name, body, actor, at) VALUES (?, ?, ?, ?) "
        "ON CONFLICT (name) DO UPDATE SET body = excluded.body, actor = excluded.actor, at = excluded.at",
        (name, body, actor, at),
    )


def drop(conn: sqlite3.Connection, name: str) -> None:
    """Keep a mapping no longer."""
    conn.execute("DELETE FROM mapping WHERE name = ?", (name,))


def entry_of(conn: sqlite3.Connection, type: str, key: str) -> str | None:
    """The entry (UUID) that a key stands for."""
    asked = "SELECT e.uuid FROM row_key k JOIN entry e ON e.id = k.entry WHERE k.type = ? AND k.key = ? AND e.removed_at IS NULL"
    found = conn.execute(asked, (type, key)).fetchone()
    return found[0] if found else None


def know(conn: sqlite3.Connection, type: str, key: str, entry: int) -> None:
    """Let a key stand for an entry."""
    conn.execute("INSERT OR REPLACE INTO row_key (type, key, entry) VALUES (?, ?, ?)", (type, key, entry))


def bases(conn: sqlite3.Connection, entry: int) -> dict[str, int]:
    """By locale, the revision of an entry that held what came last."""
    return dict(conn.execute("SELECT locale, revision FROM row_base WHERE entry = ?", (entry,)).fetchall())


def set_bases(conn: sqlite3.Connection, entry: int, revisions: Mapping[str, int]) -> None:
    """Note the revisions that hold what came now."""
    conn.executemany(
        "INSERT OR REPLACE INTO row_base (entry, locale, revision) VALUES (?, ?, ?)",
        [(entry, locale, revision) for locale, revision in revisions.items()],
    )


def named(
    conn: sqlite3.Connection, allowed: tuple[str, Sequence[object]], text: str, types: Sequence[str]
) -> list[str]:
    """The entries (UUID) of some types, of any where none is named, that have an address or a title and may be read."""
    found = conn.execute(
        "SELECT DISTINCT e.uuid FROM (SELECT entry FROM address WHERE slug = ? AND until IS NULL "
        "UNION SELECT entry FROM summary WHERE title = ? COLLATE NOCASE AND locale <> '*') n "
        "JOIN entry e ON e.id = n.entry JOIN edition d ON d.entry = e.id "
        f"WHERE e.removed_at IS NULL AND {allowed[0]} AND (? = '[]' OR e.type IN (SELECT value FROM json_each(?))) LIMIT 3",
        (
            text.strip("/").rsplit("/", 1)[-1].casefold(),
            text,
            *allowed[1],
            json.dumps(list(types)),
            json.dumps(list(types)),
        ),
    )
    return [row[0] for row in found]
