"""Notifications to people, and how each wants to hear of what."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped, wake


@dataclass(frozen=True, slots=True)
class Digest:
    """Somebody who gets notifications once a day, and when they got the last."""

    id: int
    name: str
    email: str
    zone: str
    hour: int | None
    sent_at: int
    oldest: int
    language: str


@dataclass(frozen=True, slots=True)
class Reader:
    """Somebody who gets the week's report: on which day (0 is Monday), at which hour, and when they had the last, or chose to get it."""

    id: int
    name: str
    email: str
    zone: str
    hour: int | None
    day: int
    sent_at: int
    language: str


@dataclass(frozen=True, slots=True)
class Notification:
    """Something that somebody is told."""

    id: int
    actor: int
    seq: int
    kind: str
    at: int
    says: str
    body: str
    path: str
    entry: int | None
    seen_at: int | None
    mailed: str


@dataclass(frozen=True, slots=True)
class NotificationLine(Notification):
    """The same as the inbox shows it."""

    by_name: str
    entry_uuid: str | None


def add(
    conn: sqlite3.Connection,
    actor: int,
    seq: int,
    kind: str,
    at: int,
    says: str,
    body: str,
    path: str,
    entry: int | None,
    mailed: str,
) -> bool:
    """Record a notification; one event gives somebody at most one. False when it was there."""
    wake.tell(conn, f"notification.{actor}")
    return (
        conn.execute(
            "INSERT OR IGNORE INTO notification (actor, seq, kind, at, says, body, path, entry, mailed) "
            "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (actor, seq, kind, at, says, body, path, entry, mailed),
        ).rowcount
        > 0
    )


def newest(conn: sqlite3.Connection, actor: int, before: int, limit: int) -> list[NotificationLine]:
    """Somebody's notifications before one, newest first, with who did what they tell of."""
    return shaped.every(
        NotificationLine,
        conn.execute(
            "SELECT n.*, a.name AS by_name, x.uuid AS entry_uuid FROM notification n JOIN event e ON e.seq = n.seq "
            "JOIN actor a ON a.id = e.actor LEFT JOIN entry x ON x.id = n.entry "
            "WHERE n.actor = ? AND n.id < ? ORDER BY n.id DESC LIMIT ?",
            (actor, before, limit),
        ),
    )


def newest_id(conn: sqlite3.Connection) -> int:
    """The number of the newest notification that anybody has."""
    row = conn.execute("SELECT max(id) FROM notification").fetchone()
    return row[0] or 0


def told_after(conn: sqlite3.Connection, after: int) -> list[int]:
    """Who was told something after a notification."""
    return [
        row[0]
        for row in conn.execute("SELECT DISTINCT actor FROM notification WHERE id > ?", (after,)).fetchall()
    ]


def unseen(conn: sqlite3.Connection, actor: int) -> int:
    """How many notifications somebody has not seen, counted up to 100."""
    count: int = conn.execute(
        "SELECT count(*) FROM (SELECT 1 FROM notification WHERE actor = ? AND seen_at IS NULL LIMIT 100)",
        (actor,),
    ).fetchone()[0]
    return count


def see(conn: sqlite3.Connection, actor: int, at: int, upto: int, entry: int | None) -> int:
    """Note that somebody saw their notifications up to one, or those about an entry; returns how many."""
    seen = conn.execute(
        "UPDATE notification SET seen_at = ?1 WHERE actor = ?2 AND seen_at IS NULL AND id <= ?3 AND (?4 IS NULL OR entry = ?4)",
        (at, actor, upto, entry),
    ).rowcount
    if seen:
        wake.tell(conn, f"notification.{actor}")
    return seen


def choices(conn: sqlite3.Connection, actor: int) -> dict[str, str]:
    """How somebody wants to hear of each kind, where they chose."""
    rows = conn.execute("SELECT kind, way FROM notification_choice WHERE actor = ?", (actor,)).fetchall()
    return {row[0]: row[1] for row in rows}


def choose(conn: sqlite3.Connection, actor: int, kind: str, way: str) -> None:
    """Keep how somebody wants to hear of a kind."""
    conn.execute("INSERT OR REPLACE INTO notification_choice VALUES (?, ?, ?)", (actor, kind, way))


def digest_hour(conn: sqlite3.Connection, actor: int, default: int) -> int:
    """The local hour at which somebody gets their digest."""
    row = conn.execute("SELECT hour FROM digest WHERE actor = ?", (actor,)).fetchone()
    return row[0] if row else default


def set_digest_hour(conn: sqlite3.Connection, actor: int, hour: int) -> None:
    """Keep the hour of somebody's digest."""
    conn.execute(
        "INSERT INTO digest (actor, hour) VALUES (?, ?) ON CONFLICT (actor) DO UPDATE SET hour = excluded.hour",
        (actor, hour),
    )


def report_day(conn: sqlite3.Connection, actor: int) -> int | None:
    """The day of the week on which somebody gets the week's report, 0 being Monday; none for who does not."""
    row = conn.execute("SELECT day FROM report WHERE actor = ?", (actor,)).fetchone()
    return row[0] if row else None


def set_report_day(conn: sqlite3.Connection, actor: int, day: int | None, at: int) -> None:
    """Keep the day on which somebody gets the week's report from now on; none for no report."""
    if day is None:
        conn.execute("DELETE FROM report WHERE actor = ?", (actor,))
    else:
        conn.execute(
            "INSERT INTO report VALUES (?1, ?2, ?3) ON CONFLICT (actor) DO UPDATE SET day = ?2 WHERE day <> ?2",
            (actor, day, at),
        )
    wake.tell(conn, "outbox.mail")


def readers(conn: sqlite3.Connection) -> list[Reader]:
    """Those who get the week's report, and can."""
    return shaped.every(
        Reader,
        conn.execute(
            "SELECT a.id, a.name, a.email, a.zone, d.hour, r.day, r.sent_at, a.language FROM report r JOIN actor a ON a.id = r.actor "
            "LEFT JOIN digest d ON d.actor = a.id WHERE a.ended_at IS NULL AND a.email <> ''"
        ),
    )


def report_sent(conn: sqlite3.Connection, actor: int, before: int, at: int) -> bool:
    """Note that somebody got the week's report; whether nobody else noted that meanwhile."""
    return (
        conn.execute(
            "UPDATE report SET sent_at = ? WHERE actor = ? AND sent_at = ?", (at, actor, before)
        ).rowcount
        > 0
    )


def awaiting_digest(conn: sqlite3.Connection) -> list[Digest]:
    """Those for whom notifications wait for the next digest, with zone, hour and when they had the last."""
    return shaped.every(
        Digest,
        conn.execute(
            "SELECT a.id, a.name, a.email, a.zone, d.hour, coalesce(d.sent_at, 0) AS sent_at, min(n.at) AS oldest, a.language "
            "FROM notification n JOIN actor a ON a.id = n.actor LEFT JOIN digest d ON d.actor = a.id "
            "WHERE n.mailed = 'waiting' GROUP BY a.id"
        ),
    )


def take_digest(conn: sqlite3.Connection, actor: int, at: int, hour: int) -> list[Notification]:
    """The notifications that go with a digest now, oldest first; they wait no more."""
    rows = shaped.every(
        Notification,
        conn.execute(
            "SELECT * FROM notification WHERE actor = ? AND mailed = 'waiting' ORDER BY id LIMIT 200",
            (actor,),
        ),
    )
    conn.executemany("UPDATE notification SET mailed = 'digest' WHERE id = ?", [(r.id,) for r in rows])
    conn.execute(
        "INSERT INTO digest (actor, hour, sent_at) VALUES (?1, ?2, ?3) ON CONFLICT (actor) DO UPDATE SET sent_at = ?3",
        (actor, hour, at),
    )
    return rows
