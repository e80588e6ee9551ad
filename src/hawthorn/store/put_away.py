"""Entries that were removed or put into the archive. Nothing of theirs is erased, and they come back as they were."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence

from hawthorn.store import shaped
from hawthorn.store.entries import Entry

AT_WORK = "e.removed_at IS NULL AND e.archived_at IS NULL"
"""What is neither removed nor in the archive (`e` the entry)."""
PUT_AWAY = "coalesce(e.removed_at, e.archived_at) IS NOT NULL"
"""What is one of both."""


def set_removed(conn: sqlite3.Connection, uuids: Sequence[str], at: int | None) -> None:
    """Mark entries as removed, or as no longer so. Nothing of theirs is erased."""
    conn.executemany("UPDATE entry SET removed_at = ? WHERE uuid = ?", [(at, u) for u in uuids])
    if at is not None:
        _take_place(conn, uuids, at)


def set_archived(conn: sqlite3.Connection, uuids: Sequence[str], at: int | None) -> None:
    """Put entries into the archive, or take them out of it."""
    conn.executemany("UPDATE entry SET archived_at = ? WHERE uuid = ?", [(at, u) for u in uuids])
    if at is not None:
        _take_place(conn, uuids, at)


def archived(conn: sqlite3.Connection, uuids: Iterable[str]) -> set[str]:
    """Which of some entries are in the archive."""
    rows = conn.execute(
        "SELECT e.uuid FROM json_each(?) j CROSS JOIN entry e ON e.uuid = j.value AND e.archived_at IS NOT NULL",
        (json.dumps(sorted(uuids)),),
    ).fetchall()
    return {row[0] for row in rows}


def drafted_below_before(conn: sqlite3.Connection, uuid: str) -> list[Entry]:
    """The entries at work that were drafted below another before."""
    return shaped.every(
        Entry,
        conn.execute(
            "SELECT DISTINCT e.* FROM entry me JOIN placed p ON p.stage = 1 AND p.parent = me.id AND p.until IS NOT NULL "
            f"JOIN entry e ON e.id = p.entry AND {AT_WORK} WHERE me.uuid = ? ORDER BY e.id",
            (uuid,),
        ),
    )


def drafted_below_nothing(conn: sqlite3.Connection) -> list[Entry]:
    """The entries at work that are drafted below something that is not there any more."""
    return shaped.every(
        Entry,
        conn.execute(
            f"SELECT e.* FROM placed p JOIN entry e ON e.id = p.entry AND {AT_WORK} "
            "WHERE p.stage = 1 AND p.until IS NULL AND p.parent > 0 AND NOT EXISTS (SELECT 1 FROM entry a WHERE a.id = p.parent) "
            "ORDER BY e.id"
        ),
    )


def _take_place(conn: sqlite3.Connection, uuids: Sequence[str], at: int) -> None:
    """Take the addresses and the places of drafts from entries."""
    for table in ("address", "placed"):
        conn.executemany(
            f"UPDATE {table} SET until = ? WHERE stage = 1 AND until IS NULL "
            "AND entry = (SELECT id FROM entry WHERE uuid = ?)",
            [(at, u) for u in uuids],
        )
