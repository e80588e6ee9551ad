"""Sections and what lies in them."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class SectionRow:
    """An entry below another, with its section."""

    id: int
    type: str
    section: int | None


def around(conn: sqlite3.Connection, section: int) -> list[str]:
    """A section and those above it, the nearest first."""
    rows = conn.execute(
        "SELECT e.uuid FROM (SELECT ?1 AS id UNION SELECT ancestor FROM section_within WHERE section = ?1) x "
        "JOIN entry e ON e.id = x.id ORDER BY (SELECT count(*) FROM section_within w WHERE w.section = x.id) DESC",
        (section,),
    ).fetchall()
    return [row[0] for row in rows]


_BELOW = """
WITH RECURSIVE below (id) AS (
  SELECT entry FROM placed WHERE stage = 1 AND parent = ? AND until IS NULL
  UNION SELECT p.entry FROM below JOIN placed p ON p.stage = 1 AND p.parent = below.id AND p.until IS NULL
)
SELECT e.id, e.type, e.section FROM below JOIN entry e ON e.id = below.id
"""


def below(conn: sqlite3.Connection, entry: int) -> list[SectionRow]:
    """What is placed below an entry in the draft, however deep."""
    return shaped.every(SectionRow, conn.execute(_BELOW, (entry,)))


def stand_alone(conn: sqlite3.Connection, section: int) -> None:
    """Let a section lie in no other."""
    conn.execute("DELETE FROM section_within WHERE section = ?", (section,))


def lie_in(conn: sqlite3.Connection, above: int, section: int) -> None:
    """Let a section lie in another."""
    conn.execute("INSERT OR IGNORE INTO section_within VALUES (?, ?)", (above, section))


def lie_in_all_of(conn: sqlite3.Connection, section: int, above: int) -> None:
    """Let a section lie in all that another lies in."""
    conn.execute(
        "INSERT OR IGNORE INTO section_within SELECT ancestor, ? FROM section_within WHERE section = ? AND ancestor <> ?",
        (section, above, section),
    )
