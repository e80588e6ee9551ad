"""What writers asked for in fields that plan a move."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class PlannedField:
    """A field that plans a move: what its draft says (`wanted`, JSON, empty for nothing), the dispatch that does it with its state and
    instant, what it was planned by, and what kept it from being planned. The move of one whose entry was taken out of the dispatch is
    called off."""

    edition: int
    field: str
    wanted: str
    dispatch: int | None
    planned: str
    trouble: str
    actor: int
    at: int
    uuid: str | None
    state: str | None
    instant: int | None


_MINE = (
    "EXISTS (SELECT 1 FROM move m JOIN edition e ON e.id = m.edition JOIN edition o ON o.id = f.edition "
    "WHERE m.dispatch = {} AND e.entry = o.entry AND (o.locale = '*' OR e.locale IN (o.locale, '*')))"
)
"""Whether a dispatch moves what a field is about."""
_SHOWN = (
    f"SELECT f.*, d.uuid, CASE WHEN {_MINE.format('d.id')} THEN d.state WHEN d.id IS NOT NULL THEN 'cancelled' END AS state, d.instant "
    "FROM planned_field f LEFT JOIN dispatch d ON d.id = f.dispatch "
)


def of_edition(conn: sqlite3.Connection, edition: int) -> dict[str, PlannedField]:
    """What an edition's fields ask for, by field."""
    rows = shaped.every(PlannedField, conn.execute(_SHOWN + "WHERE f.edition = ?", (edition,)))
    return {row.field: row for row in rows}


def set_in_open(
    conn: sqlite3.Connection, editions: Collection[int], verbs: Collection[str]
) -> dict[int, list[int]]:
    """The open dispatches that move some editions with one of some verbs, by edition."""
    out: dict[int, list[int]] = {}
    for edition, dispatch in conn.execute(
        "SELECT m.edition, m.dispatch FROM json_each(?1) j CROSS JOIN move m ON m.edition = j.value JOIN dispatch p ON p.id = m.dispatch "
        "WHERE p.state = 'open' AND m.verb IN (SELECT value FROM json_each(?2)) ORDER BY m.dispatch",
        (json.dumps([*editions]), json.dumps([*verbs])),
    ).fetchall():
        out.setdefault(edition, []).append(dispatch)
    return out


def keep(
    conn: sqlite3.Connection,
    edition: int,
    field: str,
    *,
    wanted: str,
    dispatch: int | None,
    planned: str,
    trouble: str,
    actor: int,
    at: int,
) -> None:
    """Keep what a field asks for."""
    conn.execute(
        "INSERT OR REPLACE INTO planned_field VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (edition, field, wanted, dispatch, planned, trouble, actor, at),
    )


def carry(conn: sqlite3.Connection, dispatch: int, to: int) -> None:
    """Let the fields of a dispatch go over to another that makes their moves instead."""
    conn.execute(
        f"UPDATE planned_field AS f SET dispatch = ?1 WHERE dispatch = ?2 AND {_MINE.format('?1')}",
        (to, dispatch),
    )


def drop(conn: sqlite3.Connection, edition: int, field: str) -> None:
    """Forget what a field asked for."""
    conn.execute("DELETE FROM planned_field WHERE edition = ? AND field = ?", (edition, field))
