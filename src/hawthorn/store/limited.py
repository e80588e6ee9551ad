"""Who may read limited entries: their audiences and phrases."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped
from hawthorn.store.entries import Entry


@dataclass(frozen=True, slots=True)
class Phrase:
    """A phrase as it is kept: its hash, and its number, which is another with each new one."""

    hash: str
    number: int


def limit(conn: sqlite3.Connection, entry: int, way: str, audiences: Iterable[str]) -> None:
    """Say how an entry is limited, and to which audiences."""
    conn.execute("UPDATE entry SET limited = ? WHERE id = ?", (way, entry))
    conn.execute("DELETE FROM entry_audience WHERE entry = ?", (entry,))
    conn.executemany("INSERT INTO entry_audience VALUES (?, ?)", [(entry, one) for one in audiences])


def limited_among(conn: sqlite3.Connection, ids: Iterable[int]) -> list[Entry]:
    """Those of some entries that not everybody may read."""
    return shaped.every(
        Entry,
        conn.execute(
            "SELECT e.* FROM json_each(?) j CROSS JOIN entry e ON e.id = j.value AND e.limited <> ''",
            (json.dumps(list(ids)),),
        ),
    )


def set_phrase(conn: sqlite3.Connection, entry: int, hash: str) -> None:
    """Put a phrase in place of the one before it."""
    conn.execute(
        "INSERT INTO entry_phrase VALUES (?1, ?2, 1) ON CONFLICT (entry) DO UPDATE SET hash = ?2, number = number + 1",
        (entry, hash),
    )


def phrase(conn: sqlite3.Connection, entry: int) -> Phrase | None:
    """The phrase of an entry, if it ever had one."""
    row = conn.execute("SELECT hash, number FROM entry_phrase WHERE entry = ?", (entry,)).fetchone()
    return Phrase(row[0], row[1]) if row else None


def audiences(conn: sqlite3.Connection, entry: int) -> tuple[str, ...]:
    """The audiences that may read an entry."""
    rows = conn.execute("SELECT audience FROM entry_audience WHERE entry = ? ORDER BY audience", (entry,))
    return tuple(row[0] for row in rows)


def admits(conn: sqlite3.Connection, entry: int, audiences: Sequence[str]) -> bool:
    """Whether an entry is for any of some audiences."""
    row = conn.execute(
        "SELECT 1 FROM entry_audience WHERE entry = ? AND audience IN (SELECT value FROM json_each(?))",
        (entry, json.dumps(list(audiences))),
    ).fetchone()
    return row is not None


def known_audiences(conn: sqlite3.Connection) -> list[str]:
    """The audiences that keys read for, or that entries name."""
    rows = conn.execute(
        "SELECT j.value FROM access_key k, json_each(k.audiences) j WHERE k.ended_at IS NULL UNION SELECT audience FROM entry_audience ORDER BY 1"
    )
    return [row[0] for row in rows]
