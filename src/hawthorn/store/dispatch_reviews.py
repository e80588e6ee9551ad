"""Dispatches that wait for review as one, and what came of it."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class DispatchReview:
    """That somebody asked for the review of a dispatch, and who decided it how; `outcome` is None while it waits."""

    id: int
    dispatch: int
    actor: int
    at: int
    note: str
    outcome: str | None
    decided_by: int | None
    decided_at: int | None
    reason: str
    uuid: str
    by_name: str
    decided_name: str | None


_SHOWN = (
    "SELECT v.*, d.uuid, a.name AS by_name, b.name AS decided_name FROM dispatch_review v JOIN dispatch d ON d.id = v.dispatch "
    "JOIN actor a ON a.id = v.actor LEFT JOIN actor b ON b.id = v.decided_by "
)


def latest(conn: sqlite3.Connection, dispatch: int) -> DispatchReview | None:
    """The newest review of a dispatch."""
    return shaped.one(
        DispatchReview,
        conn.execute(_SHOWN + "WHERE v.dispatch = ? ORDER BY v.id DESC LIMIT 1", (dispatch,)),
    )


def waiting(conn: sqlite3.Connection, most: int) -> list[DispatchReview]:
    """The reviews that wait for a decision, of dispatches that may still go, the oldest first."""
    return shaped.every(
        DispatchReview,
        conn.execute(
            _SHOWN
            + "WHERE v.outcome IS NULL AND d.state IN ('open', 'planned', 'held') ORDER BY v.id LIMIT ?",
            (most,),
        ),
    )


def ask(conn: sqlite3.Connection, dispatch: int, actor: int, at: int, note: str) -> None:
    """Ask for the review of a dispatch, in place of one that waits."""
    decide(conn, dispatch, "replaced", actor, at, "")
    conn.execute(
        "INSERT INTO dispatch_review (dispatch, actor, at, note) VALUES (?, ?, ?, ?)",
        (dispatch, actor, at, note),
    )


def decide(conn: sqlite3.Connection, dispatch: int, outcome: str, actor: int, at: int, reason: str) -> bool:
    """Record the outcome of the review that waits; False when none does."""
    return (
        conn.execute(
            "UPDATE dispatch_review SET outcome = ?, decided_by = ?, decided_at = ?, reason = ? "
            "WHERE dispatch = ? AND outcome IS NULL",
            (outcome, actor, at, reason, dispatch),
        ).rowcount
        > 0
    )
