"""The dispatches of a house that are still to go, as packages have them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import astuple

from hawthorn.core.dispatch import COMING
from hawthorn.core.quick import dataclass
from hawthorn.store import shaped
from hawthorn.store.packages import ReplyKept


@dataclass(frozen=True, slots=True)
class DispatchKept:
    """A dispatch that is still to go."""

    id: int
    uuid: str
    name: str
    note: str
    actor: int
    created_at: int
    owner: int
    partial: int
    instant: int | None
    wall: str
    zone: str
    fold: str


@dataclass(frozen=True, slots=True)
class MoveKept:
    """A move that was asked for; `entry` is a UUID, `revision` a number."""

    entry: str
    locale: str
    verb: str
    stage: int
    revision: int | None
    regress: int
    follows: int
    payload: str
    actor: int


@dataclass(frozen=True, slots=True)
class InsideKept:
    """A strand that is written inside a dispatch; `entry` is a UUID."""

    entry: str
    locale: str
    strand: str


@dataclass(frozen=True, slots=True)
class LeavingKept:
    """A sign-off that an edition leaves; `entry` is a UUID."""

    entry: str
    locale: str
    actor: int
    roles: str
    at: int
    note: str


@dataclass(frozen=True, slots=True)
class ReviewKept:
    """A review of a dispatch as one; `outcome` is None while it waits."""

    actor: int
    at: int
    note: str
    outcome: str | None
    decided_by: int | None
    decided_at: int | None
    reason: str


@dataclass(frozen=True, slots=True)
class CommentKept:
    """A comment on a dispatch as a whole."""

    id: int
    uuid: str
    actor: int
    actor_kind: str
    at: int
    text: str
    resolved_at: int | None
    resolved_by: int | None


def dispatches(conn: sqlite3.Connection) -> list[DispatchKept]:
    """The dispatches that are still to go, the last one first, which is how lists find them in order once they are brought: without those that undo
    another, and those that follow from a planned field."""
    return shaped.every(
        DispatchKept,
        conn.execute(
            "SELECT d.id, d.uuid, d.name, d.note, d.actor, d.created_at, d.owner, d.partial, d.instant, d.wall, d.zone, d.fold "
            "FROM json_each(?) j CROSS JOIN dispatch d ON d.state = j.value WHERE d.undoes IS NULL "
            "AND NOT EXISTS (SELECT 1 FROM planned_field f WHERE f.dispatch = d.id) ORDER BY d.instant IS NOT NULL, d.instant DESC, d.uuid",
            (json.dumps(COMING),),
        ),
    )


def moves(conn: sqlite3.Connection, dispatch: int) -> list[MoveKept]:
    """What was asked of a dispatch, in order, of entries that are not removed."""
    return shaped.every(
        MoveKept,
        conn.execute(
            "SELECT e.uuid AS entry, d.locale, m.verb, m.stage, r.number AS revision, m.regress, m.follows, m.payload, "
            "coalesce(m.asked_by, p.actor) AS actor FROM dispatch p JOIN move m ON m.dispatch = p.id JOIN edition d ON d.id = m.edition "
            "JOIN entry e ON e.id = d.entry LEFT JOIN revision r ON r.id = m.revision "
            "WHERE p.id = ? AND NOT m.along AND e.removed_at IS NULL ORDER BY m.ord",
            (dispatch,),
        ),
    )


def inside(conn: sqlite3.Connection, dispatch: int) -> list[InsideKept]:
    """The strands that are written inside a dispatch."""
    return shaped.every(
        InsideKept,
        conn.execute(
            "SELECT e.uuid AS entry, d.locale, s.name AS strand FROM strand s JOIN edition d ON d.id = s.edition "
            "JOIN entry e ON e.id = d.entry WHERE s.dispatch = ? AND s.closed_at IS NULL AND e.removed_at IS NULL "
            "ORDER BY e.uuid, d.locale, s.name",
            (dispatch,),
        ),
    )


def leaving(conn: sqlite3.Connection, dispatch: int) -> list[LeavingKept]:
    """Who signed off that editions leave by what was asked of a dispatch."""
    return shaped.every(
        LeavingKept,
        conn.execute(
            "SELECT e.uuid AS entry, d.locale, s.actor, s.roles, s.at, s.note FROM move_sign_off s JOIN edition d ON d.id = s.edition "
            "JOIN entry e ON e.id = d.entry WHERE s.dispatch = ? AND e.removed_at IS NULL AND EXISTS "
            "(SELECT 1 FROM move m WHERE m.dispatch = s.dispatch AND m.edition = s.edition AND NOT m.along) ORDER BY e.uuid, d.locale, s.at, s.actor",
            (dispatch,),
        ),
    )


def reviews(conn: sqlite3.Connection, dispatch: int) -> list[ReviewKept]:
    """The reviews of a dispatch as one, in order."""
    return shaped.every(
        ReviewKept,
        conn.execute(
            "SELECT actor, at, note, outcome, decided_by, decided_at, reason FROM dispatch_review WHERE dispatch = ? ORDER BY id",
            (dispatch,),
        ),
    )


def add_reviews(conn: sqlite3.Connection, dispatch: int, rows: Iterable[ReviewKept]) -> None:
    """Add reviews to a dispatch."""
    conn.executemany(
        "INSERT INTO dispatch_review (dispatch, actor, at, note, outcome, decided_by, decided_at, reason) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        [(dispatch, *astuple(row)) for row in rows],
    )


def drop_reviews(conn: sqlite3.Connection, dispatch: int) -> None:
    """Forget the reviews of a dispatch."""
    conn.execute("DELETE FROM dispatch_review WHERE dispatch = ?", (dispatch,))


def comments(conn: sqlite3.Connection, dispatch: int) -> list[CommentKept]:
    """The comments on a dispatch, in order."""
    return shaped.every(
        CommentKept,
        conn.execute(
            "SELECT id, uuid, actor, actor_kind, at, text, resolved_at, resolved_by FROM comment WHERE dispatch = ? ORDER BY id",
            (dispatch,),
        ),
    )


def replies(conn: sqlite3.Connection, dispatch: int) -> dict[int, list[ReplyKept]]:
    """The answers to the comments on a dispatch, by comment, in order."""
    out: dict[int, list[ReplyKept]] = {}
    rows = conn.execute(
        "SELECT p.uuid, p.comment, p.actor, p.actor_kind, p.at, p.text FROM comment m JOIN reply p ON p.comment = m.id "
        "WHERE m.dispatch = ? ORDER BY p.id",
        (dispatch,),
    )
    for row in shaped.each(ReplyKept, rows):
        out.setdefault(row.comment, []).append(row)
    return out
