"""Answers that a repeated request is given again."""

from __future__ import annotations

import sqlite3


def answered(conn: sqlite3.Connection, actor: int, key: str) -> sqlite3.Row | None:
    """What was answered to a request with a key."""
    row: sqlite3.Row | None = conn.execute(
        "SELECT route, request_hash, answer FROM idempotency WHERE actor = ? AND key = ?", (actor, key)
    ).fetchone()
    return row


def keep(
    conn: sqlite3.Connection, actor: int, key: str, route: str, request: str, answer: str, at: int
) -> None:
    """Keep what was answered to a request with a key."""
    conn.execute(
        "INSERT INTO idempotency VALUES (?, ?, ?, ?, ?, ?)", (actor, key, route, request, answer, at)
    )
