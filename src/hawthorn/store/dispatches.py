"""Dispatches and their moves."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from hawthorn.core.timeline import PlannedTime
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Dispatch:
    """A set of moves that go out together, with who made it and who answers for it. One that is open may have no instant yet."""

    id: int
    uuid: str
    name: str
    state: str
    wall: str
    zone: str
    fold: str
    instant: int | None
    series: int | None
    undoes: int | None
    note: str
    created_at: int
    actor: int
    ended_at: int | None
    late_by: int | None
    held: str
    trouble: str
    owner: int
    partial: int
    by_name: str
    owner_name: str
    owner_handle: str

    @property
    def at(self) -> int:
        """The instant of one that has a time."""
        assert self.instant is not None, f"dispatch {self.id} has no time"
        return self.instant


@dataclass(frozen=True, slots=True)
class AskedMove:
    """A move as it was asked for: what to do with which edition."""

    verb: str
    edition: int
    stage: int
    revision: int | None
    regress: int
    payload: str
    follows: int
    along: int
    locale: str
    uuid: str
    type: str
    title: str


@dataclass(frozen=True, slots=True)
class Move:
    """One move of a dispatch: what it moves, and the numbers of the revisions that it took away and put where it goes, and of
    the one that stands there now."""

    closed: int | None
    opened: int | None
    stands: int | None
    verb: str
    locale: str
    entry: int
    uuid: str
    type: str
    source_locale: str
    section: int | None
    owner: int
    number: int | None
    head: int | None
    follows: int
    along: int
    stage_name: str


@dataclass(frozen=True, slots=True)
class Changed:
    """What a dispatch changed at one stage of an edition: the revision that it took away and the one that it put there, the one
    that stands there now, and whether that is still what it left. Numbers are of the records."""

    edition: int
    stage: int
    took: int | None
    put: int | None
    stands: int | None
    as_left: int
    locale: str
    entry: int
    uuid: str
    type: str
    title: str


@dataclass(frozen=True, slots=True)
class PlannedMove:
    """A move that is still to come, as what it moves shows it."""

    edition: int
    verb: str
    stage: int
    revision: int | None
    dispatch: int
    uuid: str
    name: str
    instant: int
    wall: str
    zone: str


@dataclass(frozen=True, slots=True)
class PlannedBy:
    """A move that is planned by an instant."""

    edition: int
    verb: str
    stage: int
    revision: int | None
    dispatch: int
    instant: int
    locale: str
    entry: int
    uuid: str
    type: str
    source_locale: str


@dataclass(frozen=True, slots=True)
class MovedItem:
    """A move as the log tells of it; `entry` is a UUID, `revision` a number of the records."""

    verb: str
    locale: str
    entry: str
    revision: int | None
    title: str


@dataclass(frozen=True, slots=True)
class PlannedWall:
    """The wall time of a planned dispatch."""

    id: int
    wall: str
    zone: str
    fold: str
    instant: int
    trouble: str


_COMING = "'open', 'planned', 'held', 'failed'"
"""The states of what has not gone and may still go."""


def add(
    conn: sqlite3.Connection,
    uuid: str,
    name: str,
    state: str,
    when: PlannedTime | None,
    note: str,
    at: int,
    actor: int,
    *,
    owner: int | None = None,
    partial: bool = False,
    undoes: int | None = None,
) -> int:
    """Add a dispatch without moves; whoever makes it answers for it unless somebody else is named."""
    time = (when.wall, when.zone, when.fold, when.instant) if when else ("", "", "", None)
    cursor = conn.execute(
        "INSERT INTO dispatch (uuid, name, state, wall, zone, fold, instant, note, created_at, actor, owner, partial, undoes) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (uuid, name, state, *time, note, at, actor, owner or actor, int(partial), undoes),
    )
    return int(cursor.lastrowid or 0)


@dataclass(frozen=True, slots=True)
class NewMove:
    """A move to add; `revision` None of one that leads somewhere: not chosen yet."""

    verb: str
    edition: int
    stage: int
    revision: int | None
    regress: bool = False
    payload: Mapping[str, Any] = field(default_factory=dict)
    follows: bool = False
    along: bool = False


def add_moves(conn: sqlite3.Connection, dispatch: int, moves: Iterable[NewMove]) -> None:
    """Add moves after those that are there."""
    first = conn.execute(
        "SELECT coalesce(max(ord) + 1, 0) FROM move WHERE dispatch = ?", (dispatch,)
    ).fetchone()[0]
    conn.executemany(
        "INSERT INTO move (dispatch, ord, verb, edition, stage, revision, regress, payload, follows, along) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        [
            (
                dispatch,
                n,
                m.verb,
                m.edition,
                m.stage,
                m.revision,
                int(m.regress),
                json.dumps(m.payload, ensure_ascii=False) if m.payload else "{}",
                int(m.follows),
                int(m.along),
            )
            for n, m in enumerate(moves, first)
        ],
    )


def drop_moves(conn: sqlite3.Connection, dispatch: int, editions: Iterable[int] | None = None) -> int:
    """Take the moves of some editions out of a dispatch, or all of them; returns how many went."""
    only = "" if editions is None else " AND edition IN (SELECT value FROM json_each(?))"
    values = () if editions is None else (json.dumps(list(editions)),)
    return conn.execute(f"DELETE FROM move WHERE dispatch = ?{only}", (dispatch, *values)).rowcount


def drop_along(conn: sqlite3.Connection, dispatch: int) -> None:
    """Take the moves out that came along with others, and let those that stay choose their revision anew."""
    conn.execute("DELETE FROM move WHERE dispatch = ? AND along", (dispatch,))
    conn.execute("UPDATE move SET revision = NULL WHERE dispatch = ? AND NOT regress", (dispatch,))


def follow(conn: sqlite3.Connection, standing: Iterable[tuple[int, int]]) -> None:
    """Let planned moves that bring whatever is approved by then bring what stands of an edition now: (edition, revision)."""
    conn.executemany(
        "UPDATE move SET revision = ?2 WHERE edition = ?1 AND follows AND dispatch IN "
        "(SELECT id FROM dispatch WHERE state = 'planned')",
        list(standing),
    )


_SHOWN = (
    "SELECT d.*, a.name AS by_name, o.name AS owner_name, o.handle AS owner_handle "
    "FROM dispatch d JOIN actor a ON a.id = d.actor JOIN actor o ON o.id = d.owner "
)


def by_uuid(conn: sqlite3.Connection, uuid: str) -> Dispatch | None:
    """A dispatch by its UUID."""
    return shaped.one(Dispatch, conn.execute(_SHOWN + "WHERE d.uuid = ?", (uuid,)))


def by_id(conn: sqlite3.Connection, id: int) -> Dispatch:
    """A dispatch by its number."""
    return shaped.known(Dispatch, conn.execute(_SHOWN + "WHERE d.id = ?", (id,)))


def between(
    conn: sqlite3.Connection,
    start: int,
    end: int,
    limit: int,
    allowed: str = "1",
    values: Sequence[Any] = (),
    after: tuple[int, int] = (-1, 0),
) -> list[Dispatch]:
    """Dispatches with an instant in [start, end), in order of time, after one (its instant and number): those of which each
    move (`x` its edition, `e` its entry) is allowed."""
    only = (
        "AND NOT EXISTS (SELECT 1 FROM move m JOIN edition x ON x.id = m.edition JOIN entry e ON e.id = x.entry "
        f"WHERE m.dispatch = d.id AND NOT {allowed}) "
    )
    return shaped.every(
        Dispatch,
        conn.execute(
            _SHOWN
            + f"WHERE d.instant >= ? AND d.instant < ? AND (d.instant, d.id) > (?, ?) {'' if allowed == '1' else only}ORDER BY d.instant, d.id LIMIT ?",
            (start, end, *after, *values, limit),
        ),
    )


def waiting(
    conn: sqlite3.Connection,
    state: str,
    limit: int,
    allowed: str = "1",
    values: Sequence[Any] = (),
    before: int | None = None,
) -> list[Dispatch]:
    """Dispatches that are open, held or failed, newest first, before one: those of which each move is allowed, said as for
    `between`."""
    only = (
        "AND NOT EXISTS (SELECT 1 FROM move m JOIN edition x ON x.id = m.edition JOIN entry e ON e.id = x.entry "
        f"WHERE m.dispatch = d.id AND NOT {allowed}) "
    )
    return shaped.every(
        Dispatch,
        conn.execute(
            _SHOWN
            + "WHERE d.state = ? AND d.state IN ('open', 'held', 'failed') AND d.id < ? "
            + f"{'' if allowed == '1' else only}ORDER BY d.id DESC LIMIT ?",
            (state, 1 << 62 if before is None else before, *values, limit),
        ),
    )


def holding_others(
    conn: sqlite3.Connection, ids: Iterable[int], allowed: str, values: Sequence[Any]
) -> set[int]:
    """Which of some dispatches have a move that is not allowed, said as for `between`."""
    rows = conn.execute(
        "SELECT DISTINCT m.dispatch FROM json_each(?) j JOIN move m ON m.dispatch = j.value JOIN edition x ON x.id = m.edition "
        f"JOIN entry e ON e.id = x.entry WHERE NOT {allowed}",
        (json.dumps(list(ids)), *values),
    ).fetchall()
    return {row[0] for row in rows}


def due(conn: sqlite3.Connection, now: int) -> list[int]:
    """Planned dispatches whose instant has come, in the order in which they go."""
    rows = conn.execute(
        "SELECT id FROM dispatch WHERE state = 'planned' AND instant <= ? ORDER BY instant, id", (now,)
    ).fetchall()
    return [row[0] for row in rows]


def next_instant(conn: sqlite3.Connection) -> int | None:
    """The instant of the next planned dispatch."""
    row = conn.execute("SELECT min(instant) FROM dispatch WHERE state = 'planned'").fetchone()
    return row[0] if row else None


def planned_walls(conn: sqlite3.Connection) -> list[PlannedWall]:
    """Planned dispatches that were given as a wall time."""
    return shaped.every(
        PlannedWall,
        conn.execute(
            "SELECT id, wall, zone, fold, instant, trouble FROM dispatch WHERE state = 'planned' AND wall <> ''"
        ),
    )


def move_instant(conn: sqlite3.Connection, id: int, when: PlannedTime) -> None:
    """Give a dispatch that has not gone a time, or another one."""
    conn.execute(
        "UPDATE dispatch SET wall = ?, zone = ?, fold = ?, instant = ?, trouble = '' WHERE id = ? "
        f"AND state IN ({_COMING})",
        (when.wall, when.zone, when.fold, when.instant, id),
    )


def describe(conn: sqlite3.Connection, id: int, name: str, note: str, owner: int, partial: bool) -> None:
    """Keep what a dispatch is called, why it is, who answers for it, and whether what cannot go holds back the rest."""
    conn.execute(
        "UPDATE dispatch SET name = ?, note = ?, owner = ?, partial = ? WHERE id = ?",
        (name, note, owner, int(partial), id),
    )


def put(conn: sqlite3.Connection, id: int, state: str) -> None:
    """Put a dispatch that has not gone into another state; what held it is no matter any more."""
    conn.execute(
        f"UPDATE dispatch SET state = ?, ended_at = NULL, late_by = NULL, held = '[]' WHERE id = ? AND state IN ({_COMING})",
        (state, id),
    )


def mark_undone(conn: sqlite3.Connection, id: int, undone: bool) -> None:
    """Say of a dispatch that went that it was undone, or that its undoing was."""
    conn.execute(
        "UPDATE dispatch SET state = ? WHERE id = ? AND state IN ('gone', 'undone')",
        ("undone" if undone else "gone", id),
    )


def set_trouble(conn: sqlite3.Connection, id: int, trouble: str) -> None:
    """Keep what is wrong with a planned dispatch, in words."""
    conn.execute("UPDATE dispatch SET trouble = ? WHERE id = ?", (trouble, id))


def end(
    conn: sqlite3.Connection, id: int, state: str, at: int, late_by: int | None, held: Sequence[Any] = ()
) -> bool:
    """End a dispatch that has not gone; False when it has ended already, which is how a repeat is prevented."""
    return (
        conn.execute(
            f"UPDATE dispatch SET state = ?, ended_at = ?, late_by = ?, held = ? WHERE id = ? AND state IN ({_COMING})",
            (state, at, late_by, json.dumps(list(held)), id),
        ).rowcount
        > 0
    )


def moves(conn: sqlite3.Connection, dispatch: int) -> list[Move]:
    """The moves of a dispatch with what they are about and what became of them."""
    there = (
        "(SELECT n.number FROM standing t JOIN revision n ON n.id = t.revision WHERE t.edition = m.edition AND t.stage = m.stage "
        "AND {})"
    )
    return shaped.every(
        Move,
        conn.execute(
            f"SELECT {there.format('t.closed_by = m.dispatch')} AS closed, {there.format('t.opened_by = m.dispatch')} AS opened, "
            f"{there.format('t.until IS NULL')} AS stands, "
            "m.verb, d.locale, e.id AS entry, e.uuid, e.type, e.source_locale, e.section, e.actor AS owner, r.number, "
            "h.number AS head, m.follows, m.along, g.name AS stage_name "
            "FROM move m JOIN edition d ON d.id = m.edition JOIN entry e ON e.id = d.entry "
            "JOIN stage g ON g.id = m.stage LEFT JOIN revision r ON r.id = m.revision "
            "LEFT JOIN strand w ON w.edition = d.id AND w.name = 'draft' LEFT JOIN revision h ON h.id = w.head "
            "WHERE m.dispatch = ? ORDER BY m.ord",
            (dispatch,),
        ),
    )


def asked(conn: sqlite3.Connection, dispatch: int) -> list[AskedMove]:
    """The moves of a dispatch as they were asked for, whatever became of them."""
    return shaped.every(
        AskedMove,
        conn.execute(
            "SELECT m.verb, m.edition, m.stage, m.revision, m.regress, m.payload, m.follows, m.along, d.locale, e.uuid, e.type, "
            "coalesce(s.title, '') AS title FROM move m JOIN edition d ON d.id = m.edition JOIN entry e ON e.id = d.entry "
            "LEFT JOIN summary s ON s.edition = m.edition WHERE m.dispatch = ? ORDER BY m.ord",
            (dispatch,),
        ),
    )


def planned_by(conn: sqlite3.Connection, instant: int) -> list[PlannedBy]:
    """The planned moves that go until an instant, soonest first, each with its entry."""
    return shaped.every(
        PlannedBy,
        conn.execute(
            "SELECT m.edition, m.verb, m.stage, m.revision, p.id AS dispatch, p.instant, d.locale, e.id AS entry, e.uuid, e.type, "
            "e.source_locale FROM dispatch p JOIN move m ON m.dispatch = p.id JOIN edition d ON d.id = m.edition "
            "JOIN entry e ON e.id = d.entry WHERE p.state = 'planned' AND p.instant <= ? ORDER BY p.instant, p.id, m.ord",
            (instant,),
        ),
    )


def changed(conn: sqlite3.Connection, id: int) -> list[Changed]:
    """What a dispatch that went changed, at each stage of each edition, in the order of its moves."""
    there = "(SELECT t.{} FROM standing t WHERE t.edition = k.edition AND t.stage = k.stage AND {})"
    return shaped.every(
        Changed,
        conn.execute(
            "WITH touched AS (SELECT min(m.ord) AS ord, m.edition FROM move m WHERE m.dispatch = ?1 GROUP BY m.edition), "
            "k AS (SELECT DISTINCT j.ord, s.edition, s.stage FROM touched j JOIN standing s ON s.edition = j.edition "
            "AND (s.opened_by = ?1 OR s.closed_by = ?1)) "
            f"SELECT k.edition, k.stage, {there.format('revision', 't.closed_by = ?1 AND t.opened_by IS NOT ?1')} AS took, "
            f"{there.format('revision', 't.opened_by = ?1')} AS put, {there.format('revision', 't.until IS NULL')} AS stands, "
            f"{there.format('revision', 't.until IS NULL')} IS {there.format('revision', 't.opened_by = ?1')} AS as_left, "
            "d.locale, e.id AS entry, e.uuid, e.type, coalesce(y.title, '') AS title FROM k JOIN edition d ON d.id = k.edition "
            "JOIN entry e ON e.id = d.entry LEFT JOIN summary y ON y.edition = k.edition ORDER BY k.ord, k.stage",
            (id,),
        ),
    )


def undoing(conn: sqlite3.Connection, id: int) -> str | None:
    """The dispatch (UUID) that undid another, and still does."""
    row = conn.execute(
        "SELECT uuid FROM dispatch WHERE undoes = ? AND state = 'gone' ORDER BY id DESC LIMIT 1", (id,)
    ).fetchone()
    return row[0] if row else None


def count_moves(conn: sqlite3.Connection, id: int) -> int:
    """How many moves a dispatch has."""
    found: int = conn.execute("SELECT count(*) FROM move WHERE dispatch = ?", (id,)).fetchone()[0]
    return found


def moved_with(conn: sqlite3.Connection, id: int, verbs: Iterable[str]) -> list[str]:
    """The entries (UUIDs) that a dispatch moves with one of some verbs."""
    rows = conn.execute(
        "SELECT DISTINCT e.uuid FROM move m JOIN edition d ON d.id = m.edition JOIN entry e ON e.id = d.entry "
        "WHERE m.dispatch = ? AND m.verb IN (SELECT value FROM json_each(?)) ORDER BY e.id",
        (id, json.dumps(list(verbs))),
    ).fetchall()
    return [row[0] for row in rows]


def going_with(conn: sqlite3.Connection, instant: int, entry: int, *, whole_section: bool) -> frozenset[int]:
    """The entries in the planned dispatches that go until an instant and hold an entry, or any of the section that it heads."""
    rows = conn.execute(
        "SELECT DISTINCT od.entry FROM dispatch p JOIN move m ON m.dispatch = p.id JOIN edition d ON d.id = m.edition "
        "JOIN entry e ON e.id = d.entry JOIN move o ON o.dispatch = p.id JOIN edition od ON od.id = o.edition "
        "WHERE p.state = 'planned' AND p.instant <= ?1 AND (e.id = ?2 OR (?3 AND (e.section = ?2 OR EXISTS "
        "(SELECT 1 FROM section_within w WHERE w.section = e.section AND w.ancestor = ?2))))",
        (instant, entry, int(whole_section)),
    ).fetchall()
    return frozenset(row[0] for row in rows)


def planned_for(conn: sqlite3.Connection, editions: Iterable[int]) -> list[PlannedMove]:
    """The planned moves of editions, soonest first."""
    return shaped.every(
        PlannedMove,
        conn.execute(
            "SELECT m.edition, m.verb, m.stage, m.revision, p.id AS dispatch, p.uuid, p.name, p.instant, p.wall, p.zone "
            "FROM json_each(?) j JOIN move m ON m.edition = j.value JOIN dispatch p ON p.id = m.dispatch "
            "WHERE p.state = 'planned' ORDER BY p.instant, p.id",
            (json.dumps(list(editions)),),
        ),
    )


def entries(conn: sqlite3.Connection, id: int) -> list[int]:
    """The entries that a dispatch moves."""
    rows = conn.execute(
        "SELECT DISTINCT d.entry FROM move m JOIN edition d ON d.id = m.edition WHERE m.dispatch = ?", (id,)
    ).fetchall()
    return sorted(row[0] for row in rows)


def items(conn: sqlite3.Connection, id: int, most: int) -> list[MovedItem]:
    """The first moves of a dispatch, with what each moves."""
    cursor = conn.execute(
        "SELECT m.verb, d.locale, e.uuid AS entry, m.revision, coalesce(s.title, '') AS title FROM move m JOIN edition d ON d.id = m.edition "
        "JOIN entry e ON e.id = d.entry LEFT JOIN summary s ON s.edition = d.id WHERE m.dispatch = ? ORDER BY m.ord LIMIT ?",
        (id, most),
    )
    return shaped.every(MovedItem, cursor)
