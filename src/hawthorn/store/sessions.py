"""Sessions of people, by the hash of their token."""

from __future__ import annotations

import sqlite3
from dataclasses import field

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Session:
    """A session that is open or was."""

    token_hash: str = field(repr=False)
    actor: int
    created_at: int
    expires_at: int
    ended_at: int | None
    uuid: str
    agent: str
    seen_at: int


@dataclass(frozen=True, slots=True)
class SessionOf(Session):
    """The same, with whose it is."""

    handle: str


def open_session(
    conn: sqlite3.Connection,
    token_hash: str,
    actor: int,
    at: int,
    expires_at: int,
    uuid: str,
    agent: str,
) -> None:
    """Record a session by the hash of its token; `uuid` is what it is called when it is ended by another."""
    conn.execute(
        "INSERT INTO session (token_hash, actor, created_at, expires_at, uuid, agent, seen_at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (token_hash, actor, at, expires_at, uuid, agent, at),
    )


def sessions(conn: sqlite3.Connection, actor: int, now: int) -> list[Session]:
    """Somebody's open sessions, the newest first."""
    return shaped.every(
        Session,
        conn.execute(
            "SELECT * FROM session WHERE actor = ? AND ended_at IS NULL AND expires_at > ? ORDER BY created_at DESC",
            (actor, now),
        ),
    )


def session(conn: sqlite3.Connection, uuid: str) -> SessionOf | None:
    """An open session with its holder's handle."""
    return shaped.one(
        SessionOf,
        conn.execute(
            "SELECT s.*, a.handle FROM session s JOIN actor a ON a.id = s.actor WHERE s.uuid = ? AND s.ended_at IS NULL",
            (uuid,),
        ),
    )


def session_last_seen(conn: sqlite3.Connection, token_hash: str) -> int:
    """When a session was last noted as in use; far in the future for what is none."""
    row = conn.execute("SELECT seen_at FROM session WHERE token_hash = ?", (token_hash,)).fetchone()
    return row[0] if row else 1 << 62


def session_seen(conn: sqlite3.Connection, token_hash: str, at: int, idle: int, longest: int) -> None:
    """Note that an open session is in use: it goes on for so long again, but not beyond its longest."""
    conn.execute(
        "UPDATE session SET seen_at = ?1, expires_at = min(created_at + ?2, ?1 + ?3) WHERE token_hash = ?4 "
        "AND ended_at IS NULL AND expires_at > ?1",
        (at, longest, idle, token_hash),
    )


def end_sessions(conn: sqlite3.Connection, actor: int, at: int, but: str = "") -> None:
    """End all sessions of somebody, or all but one."""
    conn.execute(
        "UPDATE session SET ended_at = ? WHERE actor = ? AND ended_at IS NULL AND token_hash <> ?",
        (at, actor, but),
    )


def session_actor(conn: sqlite3.Connection, token_hash: str, now: int) -> int | None:
    """Whose session it is, if it is open."""
    row = conn.execute(
        "SELECT actor FROM session WHERE token_hash = ? AND ended_at IS NULL AND expires_at > ?",
        (token_hash, now),
    ).fetchone()
    return row[0] if row else None


def end_session(conn: sqlite3.Connection, token_hash: str, at: int) -> None:
    """End a session."""
    conn.execute(
        "UPDATE session SET ended_at = ? WHERE token_hash = ? AND ended_at IS NULL", (at, token_hash)
    )
