"""Quiet periods."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.core.quiet import QuietPeriod
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class KeptPeriod:
    """A quiet period with who made it; what changes is kept in the log."""

    id: int
    uuid: str
    reason: str
    begins: str
    ends: str
    zone: str
    rule: str
    actor: int
    at: int
    ended_at: int | None
    sequence: int
    changed_at: int
    by_name: str

    @property
    def period(self) -> QuietPeriod:
        """The same without who and when."""
        return QuietPeriod(self.begins, self.ends, self.zone, self.reason, self.rule, self.uuid)


_KEPT = "SELECT q.*, a.name AS by_name FROM quiet_period q JOIN actor a ON a.id = q.actor WHERE q.ended_at IS NULL"


def every(conn: sqlite3.Connection) -> list[KeptPeriod]:
    """Those that were not ended, in the order in which they first begin."""
    return shaped.every(KeptPeriod, conn.execute(f"{_KEPT} ORDER BY q.begins, q.id"))


def by_uuid(conn: sqlite3.Connection, uuid: str) -> KeptPeriod | None:
    """One that was not ended."""
    return shaped.one(KeptPeriod, conn.execute(f"{_KEPT} AND q.uuid = ?", (uuid,)))


def add(conn: sqlite3.Connection, uuid: str, period: QuietPeriod, actor: int, at: int) -> None:
    """Keep one."""
    conn.execute(
        "INSERT INTO quiet_period (uuid, reason, begins, ends, zone, rule, actor, at, changed_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (uuid, period.reason, period.begins, period.ends, period.zone, period.rule, actor, at, at),
    )


def change(conn: sqlite3.Connection, id: int, period: QuietPeriod, at: int) -> None:
    """Put another in place of one."""
    conn.execute(
        "UPDATE quiet_period SET reason = ?, begins = ?, ends = ?, zone = ?, rule = ?, sequence = sequence + 1, changed_at = ? "
        "WHERE id = ?",
        (period.reason, period.begins, period.ends, period.zone, period.rule, at, id),
    )


def end(conn: sqlite3.Connection, id: int, at: int) -> None:
    """End one."""
    conn.execute(
        "UPDATE quiet_period SET ended_at = ?1, sequence = sequence + 1, changed_at = ?1 WHERE id = ?2",
        (at, id),
    )


def ended_since(conn: sqlite3.Connection, at: int) -> list[KeptPeriod]:
    """Those that were ended after an instant."""
    ended = _KEPT.replace("q.ended_at IS NULL", "q.ended_at >= ?")
    return shaped.every(KeptPeriod, conn.execute(f"{ended} ORDER BY q.id", (at,)))
