"""Uploads that go on after a break."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Upload:
    """A file that is being sent in parts."""

    uuid: str
    actor: int
    name: str
    length: int
    created_at: int
    expires_at: int
    sha256: str | None


def unfinished(conn: sqlite3.Connection, actor: int) -> tuple[int, int]:
    """How many uploads of somebody are unfinished, and how long they are in all."""
    row = conn.execute(
        "SELECT count(*), coalesce(sum(length), 0) FROM upload WHERE actor = ? AND sha256 IS NULL", (actor,)
    ).fetchone()
    return row[0], row[1]


def add(conn: sqlite3.Connection, uuid: str, actor: int, name: str, length: int, at: int, until: int) -> None:
    """Begin an upload."""
    conn.execute(
        "INSERT INTO upload (uuid, actor, name, length, created_at, expires_at) VALUES (?, ?, ?, ?, ?, ?)",
        (uuid, actor, name, length, at, until),
    )


def over(conn: sqlite3.Connection, at: int) -> list[str]:
    """The uploads that expired."""
    rows = conn.execute("SELECT uuid FROM upload WHERE expires_at <= ?", (at,)).fetchall()
    return [row[0] for row in rows]


def forget_over(conn: sqlite3.Connection, at: int) -> None:
    """Forget the uploads that expired."""
    conn.execute("DELETE FROM upload WHERE expires_at <= ?", (at,))


def by_uuid(conn: sqlite3.Connection, uuid: str, actor: int, at: int) -> Upload | None:
    """An upload of somebody that has not expired."""
    return shaped.one(
        Upload,
        conn.execute(
            "SELECT * FROM upload WHERE uuid = ? AND actor = ? AND expires_at > ?", (uuid, actor, at)
        ),
    )


def of_actor(conn: sqlite3.Connection, actor: int, at: int) -> list[Upload]:
    """The unfinished uploads of somebody, the newest first."""
    return shaped.every(
        Upload,
        conn.execute(
            "SELECT * FROM upload WHERE actor = ? AND expires_at > ? AND sha256 IS NULL ORDER BY created_at DESC LIMIT 50",
            (actor, at),
        ),
    )


def finish(conn: sqlite3.Connection, sha256: str, uuid: str) -> None:
    """An upload is finished."""
    conn.execute("UPDATE upload SET sha256 = ? WHERE uuid = ?", (sha256, uuid))


def drop(conn: sqlite3.Connection, uuid: str) -> None:
    """Forget an upload."""
    conn.execute("DELETE FROM upload WHERE uuid = ?", (uuid,))
