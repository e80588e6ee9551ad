"""Standing commissions, and the entries that wait for their pause to be over."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped, wake
from hawthorn.store.commissions import Target
from hawthorn.store.put_away import AT_WORK
from hawthorn.store.standings import RELEASE

LONGEST = 6
"""After so many pauses what is still goes out, though other entries go on changing."""


@dataclass(frozen=True, slots=True)
class StandingCommission:
    """What is sent by itself: which entries (a section's, or all), when (`sends`: as soon as it is out, or drafts too), after how many minutes
    without a change (`pause`), due after how many days (0 for never), and how. `waiting` entries go at `next`."""

    id: int
    uuid: str
    name: str
    section: int | None
    state: str
    trouble: str
    sends: str
    pause: int
    days: int
    note: str
    linked: int
    fill: int
    returns: str
    memories: str
    glossaries: str
    machine: int
    actor: int
    since: int
    by_name: str
    by_handle: str
    section_uuid: str | None
    waiting: int
    sent: int
    next: int | None


_MINUTE = 60_000_000
_WAITING = f"FROM standing_waiting w JOIN entry e ON e.id = w.entry AND {AT_WORK} WHERE w.commission = s.id AND w.waits"
"""What waits for one (`s`); what was put away waits for nothing until it is brought back."""
_ROW = f"""
SELECT s.*, a.name AS by_name, a.handle AS by_handle, e.uuid AS section_uuid,
  (SELECT count(*) {_WAITING}) AS waiting,
  (SELECT count(*) FROM commission c WHERE c.standing = s.id) AS sent,
  CASE WHEN s.state = 'on' THEN (SELECT min(max(w.at) + s.pause * {_MINUTE}, min(w.at) + s.pause * {_MINUTE * LONGEST})
    {_WAITING}) END AS next
FROM standing_commission s JOIN actor a ON a.id = s.actor LEFT JOIN entry e ON e.id = s.section
"""
_COLUMNS = (
    "name", "section", "state", "trouble", "sends", "pause", "days", "note", "linked", "fill", "returns", "memories", "glossaries", "machine",
)  # fmt: skip
_CHANGES = {name: f"UPDATE standing_commission SET {name} = ? WHERE id = ?" for name in (*_COLUMNS, "actor")}


def add(conn: sqlite3.Connection, uuid: str, name: str, pause: int, actor: int, at: int) -> int:
    """Add one that is on."""
    cursor = conn.execute(
        "INSERT INTO standing_commission (uuid, name, pause, actor, since) VALUES (?, ?, ?, ?, ?)",
        (uuid, name, pause, actor, at),
    )
    return int(cursor.lastrowid or 0)


def change(conn: sqlite3.Connection, id: int, values: Mapping[str, Any]) -> None:
    """Change one; only the columns that may change are taken."""
    for name, value in values.items():
        conn.execute(_CHANGES[name], (value, id))
    wake.tell(conn, "standing")


def end(conn: sqlite3.Connection, id: int) -> None:
    """End one; the commissions that it sent stay."""
    conn.execute("UPDATE commission SET standing = NULL WHERE standing = ?", (id,))
    for table in ("standing_waiting", "standing_target"):
        conn.execute(f"DELETE FROM {table} WHERE commission = ?", (id,))
    conn.execute("DELETE FROM standing_commission WHERE id = ?", (id,))


def every(conn: sqlite3.Connection) -> list[StandingCommission]:
    """All of them, by name."""
    return shaped.every(StandingCommission, conn.execute(_ROW + "ORDER BY s.name"))


def by_uuid(conn: sqlite3.Connection, uuid: str) -> StandingCommission | None:
    """One, or None."""
    return shaped.one(StandingCommission, conn.execute(_ROW + "WHERE s.uuid = ?", (uuid,)))


def named(conn: sqlite3.Connection, name: str) -> int | None:
    """The number of one by its name."""
    row = conn.execute("SELECT id FROM standing_commission WHERE name = ?", (name,)).fetchone()
    return row[0] if row else None


def next_time(conn: sqlite3.Connection) -> int | None:
    """The instant at which one is to send next."""
    return min((one.next for one in every(conn) if one.next is not None), default=None)


def set_targets(
    conn: sqlite3.Connection, id: int, some: Iterable[tuple[str, int | None, int | None]]
) -> None:
    """Keep all the locales of one: (locale, bureau, person)."""
    conn.execute("DELETE FROM standing_target WHERE commission = ?", (id,))
    conn.executemany("INSERT INTO standing_target VALUES (?, ?, ?, ?)", [(id, *one) for one in some])


def targets(conn: sqlite3.Connection, id: int) -> list[Target]:
    """The locales of one."""
    return shaped.every(
        Target,
        conn.execute(
            "SELECT t.locale, t.bureau, t.person, b.name AS bureau_name, a.name AS person_name, a.handle AS person_handle "
            "FROM standing_target t LEFT JOIN bureau b ON b.id = t.bureau LEFT JOIN actor a ON a.id = t.person "
            "WHERE t.commission = ? ORDER BY t.locale",
            (id,),
        ),
    )


def touched(conn: sqlite3.Connection, some: Iterable[int], at: int) -> None:
    """Let those of some entries wait whose source has changed since a standing commission that they are for knows them: a draft, or what is out. One
    that waits begins its pause anew."""
    changed = conn.execute(_TOUCHED, {"some": json.dumps(list(some)), "at": at, "release": RELEASE}).rowcount
    if changed > 0:
        wake.tell(conn, "standing")


def on(conn: sqlite3.Connection) -> bool:
    """Whether any is on."""
    return conn.execute("SELECT 1 FROM standing_commission WHERE state = 'on' LIMIT 1").fetchone() is not None


_TOUCHED = f"""
WITH source AS MATERIALIZED (
  SELECT e.id, e.section, k.head, st.revision AS out, st.since
  FROM json_each(:some) j CROSS JOIN entry e ON e.id = j.value AND {AT_WORK}
  JOIN edition d ON d.entry = e.id AND d.locale = e.source_locale JOIN strand k ON k.edition = d.id AND k.name = 'draft' AND k.closed_at IS NULL
  LEFT JOIN standing st ON st.edition = d.id AND st.stage = :release AND st.until IS NULL
)
INSERT INTO standing_waiting (commission, entry, revision, at)
SELECT s.id, x.id, CASE s.sends WHEN 'out' THEN x.out ELSE x.head END, :at
FROM standing_commission s JOIN source x ON s.section IS NULL OR x.id = s.section OR x.section = s.section
  OR EXISTS (SELECT 1 FROM section_within w WHERE w.section = x.section AND w.ancestor = s.section)
LEFT JOIN revision r ON r.id = x.head
WHERE s.state = 'on' AND CASE s.sends WHEN 'out' THEN x.out IS NOT NULL AND x.since > s.since ELSE x.head IS NOT NULL AND r.at > s.since END
ON CONFLICT (commission, entry) DO UPDATE SET revision = excluded.revision, at = excluded.at, waits = 1
WHERE standing_waiting.revision <> excluded.revision
"""


@dataclass(frozen=True, slots=True)
class Waiting:
    """An entry that waits: its draft and what is out of it now, and since when it has not changed."""

    entry: int
    uuid: str
    source_locale: str
    at: int
    head: int | None
    out: int | None


def waiting(conn: sqlite3.Connection, id: int) -> list[Waiting]:
    """The entries that wait for one, the one that changed first first."""
    return shaped.every(
        Waiting,
        conn.execute(
            "SELECT w.entry, e.uuid, e.source_locale, w.at, k.head, st.revision AS out FROM standing_waiting w JOIN entry e ON e.id = w.entry "
            "LEFT JOIN edition d ON d.entry = e.id AND d.locale = e.source_locale "
            "LEFT JOIN strand k ON k.edition = d.id AND k.name = 'draft' AND k.closed_at IS NULL LEFT JOIN standing st ON st.edition = d.id AND st.stage = ? AND st.until IS NULL "
            f"WHERE w.commission = ? AND w.waits AND {AT_WORK} ORDER BY w.at, w.entry",
            (RELEASE, id),
        ),
    )


def settle(conn: sqlite3.Connection, id: int, some: Iterable[int]) -> None:
    """Entries wait no more, until their source changes again."""
    conn.executemany(
        "UPDATE standing_waiting SET waits = 0 WHERE commission = ? AND entry = ?",
        [(id, one) for one in some],
    )
