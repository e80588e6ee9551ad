"""Assignments: who is to see to an edition, and by when."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped
from hawthorn.store.put_away import AT_WORK


@dataclass(frozen=True, slots=True)
class Assignment:
    """Who is to work on an edition, who said so, and until when; with the people's names and what the entry is."""

    id: int
    uuid: str
    entry: int
    locale: str
    holder: int
    actor: int
    at: int
    due: str
    note: str
    ended_at: int | None
    ended_by: int | None
    outcome: str
    told: str
    holder_name: str
    holder_handle: str
    holder_zone: str
    by_name: str
    by_handle: str
    entry_uuid: str
    type: str
    source_locale: str
    section: int | None
    owner: int


_ASSIGNED = (
    "SELECT s.*, h.name AS holder_name, h.handle AS holder_handle, h.zone AS holder_zone, a.name AS by_name, "
    "a.handle AS by_handle, e.uuid AS entry_uuid, e.type, e.source_locale, e.section, e.actor AS owner "
    "FROM assignment s JOIN actor h ON h.id = s.holder JOIN actor a ON a.id = s.actor JOIN entry e ON e.id = s.entry "
)


def current(conn: sqlite3.Connection, entry: int, locale: str) -> Assignment | None:
    """The assignment of an edition that has not ended."""
    return shaped.one(
        Assignment,
        conn.execute(
            _ASSIGNED + "WHERE s.entry = ? AND s.locale = ? AND s.ended_at IS NULL", (entry, locale)
        ),
    )


def add(
    conn: sqlite3.Connection,
    uuid: str,
    entry: int,
    locale: str,
    holder: int,
    actor: int,
    at: int,
    due: str,
    note: str,
) -> None:
    """Assign an edition to somebody."""
    conn.execute(
        "INSERT INTO assignment (uuid, entry, locale, holder, actor, at, due, note) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (uuid, entry, locale, holder, actor, at, due, note),
    )


def end(conn: sqlite3.Connection, id: int, actor: int, at: int, outcome: str) -> None:
    """An assignment has ended, with an outcome."""
    conn.execute(
        "UPDATE assignment SET ended_at = ?, ended_by = ?, outcome = ? WHERE id = ? AND ended_at IS NULL",
        (at, actor, outcome, id),
    )


def assigned_to(conn: sqlite3.Connection, holder: int) -> list[Assignment]:
    """What is assigned to somebody, what is due first at the top."""
    return shaped.every(
        Assignment,
        conn.execute(
            _ASSIGNED + f"WHERE s.holder = ? AND s.ended_at IS NULL AND {AT_WORK} "
            "ORDER BY s.due = '', s.due, s.id LIMIT 200",
            (holder,),
        ),
    )


def assigned_by(conn: sqlite3.Connection, actor: int) -> list[Assignment]:
    """What somebody assigned to others."""
    return shaped.every(
        Assignment,
        conn.execute(
            _ASSIGNED + f"WHERE s.actor = ?1 AND s.holder <> ?1 AND s.ended_at IS NULL AND {AT_WORK} "
            "ORDER BY s.due = '', s.due, s.id LIMIT 100",
            (actor,),
        ),
    )


def due_by(conn: sqlite3.Connection, day: str) -> list[Assignment]:
    """Open assignments that are due by a day and whose holder was not told all there is to tell, in the order in which they were made."""
    return shaped.every(
        Assignment,
        conn.execute(
            _ASSIGNED + "WHERE s.ended_at IS NULL AND s.due <> '' AND s.due <= ? AND s.told <> 'late' "
            # Not by all there ever were, in the order of their numbers.
            f"AND {AT_WORK} ORDER BY +s.id",
            (day,),
        ),
    )


def told(conn: sqlite3.Connection, id: int, what: str) -> None:
    """Note what a holder was reminded of."""
    conn.execute("UPDATE assignment SET told = ? WHERE id = ?", (what, id))


def due_between(
    conn: sqlite3.Connection, first: str, last: str, holder: int | None, limit: int
) -> list[Assignment]:
    """What is due from one day until before another, in order; of everybody, or of somebody."""
    return shaped.every(
        Assignment,
        conn.execute(
            _ASSIGNED
            + f"WHERE s.due >= ?1 AND s.due < ?2 AND s.due <> '' AND s.ended_at IS NULL AND {AT_WORK} "
            "AND (?3 IS NULL OR s.holder = ?3) ORDER BY s.due, s.id LIMIT ?4",
            (first, last, holder, limit),
        ),
    )
