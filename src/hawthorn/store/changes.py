"""What changed of what is out, since some event."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class ChangedEntry:
    """An entry that came out, moved, went, or is for others now; `limited` as it is now, `there` whether it is out in any locale, and `was`
    whether it was there for everybody at some time before it was limited."""

    id: int
    uuid: str
    type: str
    limited: str
    there: bool
    was: bool


def entries(conn: sqlite3.Connection, seq: int, most: int) -> list[ChangedEntry]:
    """The entries of which something that readers see changed after an event, in the order of their numbers."""
    return shaped.every(
        ChangedEntry,
        conn.execute(
            "SELECT e.id, e.uuid, e.type, e.limited, EXISTS (SELECT 1 FROM listed l WHERE l.entry = e.id AND l.stage = 2 AND l.until IS NULL) AS there, "
            "EXISTS (SELECT 1 FROM event_about a JOIN event v ON v.seq = a.seq AND v.kind = 'entry.limited' JOIN edition d ON d.entry = e.id "
            "JOIN standing s ON s.edition = d.id AND s.stage = 2 AND s.since < v.at WHERE a.entry = e.id AND v.seq > ?1) AS was "
            "FROM (SELECT DISTINCT c.target FROM change c WHERE c.seq > ?1 AND c.stage = 2 AND c.target > 0 LIMIT ?2) c "
            "JOIN entry e ON e.id = c.target ORDER BY e.id",
            (seq, most),
        ),
    )


def facets(conn: sqlite3.Connection, seq: int) -> list[str]:
    """What changed of no entry alone after an event: lists (`list:` and a type), renditions; and `address` where any address did."""
    rows = conn.execute(
        "SELECT DISTINCT facet FROM change WHERE seq > ? AND stage = 2 AND (target = 0 OR facet = 'address')",
        (seq,),
    )
    return sorted(row[0] for row in rows)


def any_of(conn: sqlite3.Connection, seq: int, beginnings: Sequence[str]) -> bool:
    """Whether anything happened after an event whose kind begins so."""
    asked = " OR ".join("kind GLOB ?" for _ in beginnings)
    row = conn.execute(
        f"SELECT 1 FROM event WHERE seq > ? AND ({asked}) LIMIT 1", (seq, *(f"{one}*" for one in beginnings))
    ).fetchone()
    return row is not None
