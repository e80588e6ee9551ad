"""Assistants: who of them is paused, and what they wrote."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Pause:
    """Since when an assistant is paused, by whom and why."""

    actor: int
    at: int
    by_name: str
    reason: str


@dataclass(frozen=True, slots=True)
class Assistant:
    """An assistant that has not ended, and when it last did something (0 for never)."""

    id: int
    handle: str
    name: str
    last_at: int


@dataclass(frozen=True, slots=True)
class Wrote:
    """A revision that somebody saved on a strand, and whether that is still open."""

    revision: int
    edition: int
    entry: int
    uuid: str
    locale: str
    strand: int
    strand_name: str
    head: int
    closed_at: int | None


def everyone(conn: sqlite3.Connection) -> list[Assistant]:
    """The assistants there are, by name."""
    return shaped.every(
        Assistant,
        conn.execute(
            "SELECT a.id, a.handle, a.name, coalesce((SELECT e.at FROM event e WHERE e.actor = a.id ORDER BY e.seq DESC LIMIT 1), 0) "
            "AS last_at FROM actor a WHERE a.kind = 'assistant' AND a.ended_at IS NULL ORDER BY a.name, a.id"
        ),
    )


def paused(conn: sqlite3.Connection, actor: int) -> Pause | None:
    """The pause of somebody; None where they go on."""
    return shaped.one(
        Pause,
        conn.execute(
            "SELECT p.actor, p.at, b.name AS by_name, p.reason FROM pause p JOIN actor b ON b.id = p.by WHERE p.actor = ?",
            (actor,),
        ),
    )


def pause(conn: sqlite3.Connection, actor: int, at: int, by: int, reason: str) -> None:
    """Pause somebody."""
    conn.execute("INSERT INTO pause (actor, at, by, reason) VALUES (?, ?, ?, ?)", (actor, at, by, reason))


def go_on(conn: sqlite3.Connection, actor: int) -> None:
    """End a pause."""
    conn.execute("DELETE FROM pause WHERE actor = ?", (actor,))


def wrote(conn: sqlite3.Connection, actor: int, since: int) -> list[Wrote]:
    """What somebody saved on strands from an instant on, the first first."""
    return shaped.every(
        Wrote,
        conn.execute(
            "SELECT r.id AS revision, r.edition, d.entry, e.uuid, d.locale, s.id AS strand, s.name AS strand_name, s.head, s.closed_at "
            "FROM (SELECT DISTINCT a.entry FROM event v JOIN event_about a ON a.seq = v.seq WHERE v.actor = ?1 AND v.at >= ?2) t "
            "JOIN edition d ON d.entry = t.entry JOIN entry e ON e.id = t.entry "
            "JOIN revision r ON r.edition = d.id AND r.actor = ?1 AND r.at >= ?2 "
            "JOIN strand s ON s.id = r.strand WHERE e.removed_at IS NULL ORDER BY r.id",
            (actor, since),
        ),
    )


def started(conn: sqlite3.Connection, actor: int, since: int) -> list[str]:
    """The entries (UUIDs) that somebody started from an instant on, and that nobody removed."""
    rows = conn.execute(
        "SELECT uuid FROM entry WHERE actor = ? AND created_at >= ? AND removed_at IS NULL ORDER BY id",
        (actor, since),
    )
    return [row[0] for row in rows]


def others_wrote(conn: sqlite3.Connection, entry: str, actor: int) -> bool:
    """Whether somebody else saved anything of an entry, or it stands at a stage."""
    row = conn.execute(
        "SELECT EXISTS (SELECT 1 FROM entry e JOIN edition d ON d.entry = e.id JOIN revision r ON r.edition = d.id "
        "WHERE e.uuid = ?1 AND r.actor <> ?2) OR EXISTS (SELECT 1 FROM entry e JOIN edition d ON d.entry = e.id "
        "JOIN standing s ON s.edition = d.id WHERE e.uuid = ?1 AND s.until IS NULL)",
        (entry, actor),
    ).fetchone()
    return bool(row[0])
