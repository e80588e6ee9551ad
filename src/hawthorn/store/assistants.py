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


@dataclass(frozen=True, slots=True)
class Ancestor:
    """A revision from which another comes: who made it, whether somebody signed it off, and its parents as JSON, the first first."""

    id: int
    actor_kind: str
    author: str
    signed: int
    parents: str


# What was picked from a strand comes from there, though the strand is no parent.
_UNSIGNED = (
    "WITH RECURSIVE up(id) AS (SELECT ? UNION SELECT p.parent FROM up JOIN revision_parent p ON p.revision = up.id "
    "WHERE NOT EXISTS (SELECT 1 FROM sign_off s WHERE s.revision = up.id) "
    "UNION SELECT k.picked_from FROM up JOIN revision_pick k ON k.revision = up.id "
    "WHERE NOT EXISTS (SELECT 1 FROM sign_off s WHERE s.revision = up.id)) "
)


def assisted(conn: sqlite3.Connection, edition: int, head: int) -> bool:
    """Whether an assistant made one of the revisions of an edition from which one comes, back to those that were signed off."""
    theirs = "SELECT id FROM revision WHERE edition = ? AND actor_kind = 'assistant'"
    if not conn.execute(f"SELECT EXISTS ({theirs})", (edition,)).fetchone()[0]:
        return False
    row = conn.execute(
        f"{_UNSIGNED}SELECT EXISTS (SELECT 1 FROM up WHERE up.id IN ({theirs}) "
        "AND NOT EXISTS (SELECT 1 FROM sign_off s WHERE s.revision = up.id))",
        (head, edition),
    ).fetchone()
    return bool(row[0])


def unsigned(conn: sqlite3.Connection, head: int, most: int) -> list[Ancestor]:
    """The revisions from which one comes, back to those that were signed off, the oldest first; the newest, so many at most."""
    found = shaped.every(
        Ancestor,
        conn.execute(
            f"{_UNSIGNED}SELECT r.id, r.actor_kind, a.name AS author, EXISTS (SELECT 1 FROM sign_off s WHERE s.revision = r.id) AS signed, "
            "(SELECT json_group_array(parent) FROM (SELECT parent, ord FROM revision_parent WHERE revision = r.id "
            "UNION ALL SELECT DISTINCT picked_from, 1000 FROM revision_pick WHERE revision = r.id ORDER BY 2)) AS parents "
            "FROM up JOIN revision r ON r.id = up.id JOIN actor a ON a.id = r.actor ORDER BY r.id DESC LIMIT ?",
            (head, most),
        ),
    )
    return found[::-1]
