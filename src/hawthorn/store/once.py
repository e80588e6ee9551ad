"""Answers that a repeated request is given again."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND
from hawthorn.store import shaped

KEPT = 24 * 3600 * SECOND
"""For so long an answer is kept."""
_SOME = 20
"""So many of those that were kept longer go with each that comes."""


@dataclass(frozen=True, slots=True)
class Answered:
    """A request that was answered, and the answer as JSON."""

    route: str
    request_hash: str
    answer: str


def answered(conn: sqlite3.Connection, actor: int, key: str) -> Answered | None:
    """What was answered to a request with a key."""
    return shaped.one(
        Answered,
        conn.execute(
            "SELECT route, request_hash, answer FROM idempotency WHERE actor = ? AND key = ?", (actor, key)
        ),
    )


def keep(
    conn: sqlite3.Connection, actor: int, key: str, route: str, request: str, answer: str, at: int
) -> None:
    """Keep what was answered to a request with a key. Some of those that have been kept for a day go."""
    conn.execute(
        "DELETE FROM idempotency WHERE (actor, key) IN (SELECT actor, key FROM idempotency WHERE at < ? ORDER BY at LIMIT ?)",
        (at - KEPT, _SOME),
    )
    conn.execute(
        "INSERT INTO idempotency VALUES (?, ?, ?, ?, ?, ?)", (actor, key, route, request, answer, at)
    )
