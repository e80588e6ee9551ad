"""Followers' leases and cursors, and what waits to go out of the service."""

from __future__ import annotations

import sqlite3


def take_lease(conn: sqlite3.Connection, name: str, holder: str, now: int, until: int) -> int | None:
    """Take or renew a follower's lease; returns its cursor, or None while another process holds it."""
    conn.execute("INSERT OR IGNORE INTO follower (name, cursor) VALUES (?, 0)", (name,))
    changed = conn.execute(
        "UPDATE follower SET holder = ?, lease_until = ? WHERE name = ? AND (holder = ? OR lease_until <= ?)",
        (holder, until, name, holder, now),
    ).rowcount
    if not changed:
        return None
    cursor: int = conn.execute("SELECT cursor FROM follower WHERE name = ?", (name,)).fetchone()[0]
    return cursor


def advance(conn: sqlite3.Connection, name: str, holder: str, before: int, after: int) -> bool:
    """Compare and swap a follower's cursor."""
    return (
        conn.execute(
            "UPDATE follower SET cursor = ? WHERE name = ? AND holder = ? AND cursor = ?",
            (after, name, holder, before),
        ).rowcount
        > 0
    )


def release_lease(conn: sqlite3.Connection, holder: str) -> None:
    """Give back every lease of a process that stops."""
    conn.execute("UPDATE follower SET holder = '', lease_until = 0 WHERE holder = ?", (holder,))


def put(
    conn: sqlite3.Connection,
    follower: str,
    stable_id: str,
    seq: int,
    recipient: str,
    payload: str,
    next_at: int,
) -> None:
    """Put something into the outbox; the same stable id is never put twice."""
    conn.execute(
        "INSERT OR IGNORE INTO outbox (follower, stable_id, seq, recipient, payload, state, next_at) "
        "VALUES (?, ?, ?, ?, ?, 'waiting', ?)",
        (follower, stable_id, seq, recipient, payload, next_at),
    )


def waiting(conn: sqlite3.Connection, follower: str, now: int) -> list[sqlite3.Row]:
    """What a follower should send now."""
    return conn.execute(
        "SELECT * FROM outbox WHERE follower = ? AND state = 'waiting' AND next_at <= ? ORDER BY id LIMIT 50",
        (follower, now),
    ).fetchall()


def settle(conn: sqlite3.Connection, id: int, state: str, next_at: int, trouble: str) -> None:
    """Record how sending went. An invitation that was sent is not kept: whoever holds it could use it."""
    conn.execute(
        "UPDATE outbox SET state = ?1, tries = tries + 1, next_at = ?2, trouble = ?3, "
        "payload = CASE WHEN ?1 = 'done' AND stable_id LIKE 'invitation-%' THEN '{}' ELSE payload END WHERE id = ?4",
        (state, next_at, trouble, id),
    )
