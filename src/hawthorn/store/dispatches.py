"""Dispatches and their moves."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from hawthorn.core.timeline import PlannedTime
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Dispatch:
    """A set of moves that go out together, with who planned it."""

    id: int
    uuid: str
    name: str
    state: str
    wall: str
    zone: str
    fold: str
    instant: int
    series: int | None
    undoes: int | None
    note: str
    created_at: int
    actor: int
    ended_at: int | None
    late_by: int | None
    held: str
    trouble: str
    by_name: str


@dataclass(frozen=True, slots=True)
class AskedMove:
    """A move as it was asked for: what to do with which edition."""

    verb: str
    edition: int
    stage: int
    revision: int | None
    regress: int
    payload: str
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
    stage_name: str


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


def add(
    conn: sqlite3.Connection,
    uuid: str,
    name: str,
    state: str,
    when: PlannedTime,
    note: str,
    at: int,
    actor: int,
) -> int:
    """Add a dispatch without moves."""
    cursor = conn.execute(
        "INSERT INTO dispatch (uuid, name, state, wall, zone, fold, instant, note, created_at, actor) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (uuid, name, state, when.wall, when.zone, when.fold, when.instant, note, at, actor),
    )
    return int(cursor.lastrowid or 0)


def add_moves(
    conn: sqlite3.Connection,
    dispatch: int,
    moves: Iterable[tuple[str, int, int, int | None, bool, Mapping[str, Any]]],
) -> None:
    """Add moves given as (verb, edition, stage, revision, regress, payload)."""
    conn.executemany(
        "INSERT INTO move (dispatch, ord, verb, edition, stage, revision, regress, payload) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        [
            (dispatch, n, verb, ed, stage, rev, int(regress), json.dumps(payload, ensure_ascii=False))
            for n, (verb, ed, stage, rev, regress, payload) in enumerate(moves)
        ],
    )


_SHOWN = "SELECT d.*, a.name AS by_name FROM dispatch d JOIN actor a ON a.id = d.actor "


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
    """Give a planned dispatch another time."""
    conn.execute(
        "UPDATE dispatch SET wall = ?, zone = ?, fold = ?, instant = ?, trouble = '' WHERE id = ? AND state = 'planned'",
        (when.wall, when.zone, when.fold, when.instant, id),
    )


def set_trouble(conn: sqlite3.Connection, id: int, trouble: str) -> None:
    """Keep what is wrong with a planned dispatch, in words."""
    conn.execute("UPDATE dispatch SET trouble = ? WHERE id = ?", (trouble, id))


def end(
    conn: sqlite3.Connection, id: int, state: str, at: int, late_by: int | None, held: Sequence[Any] = ()
) -> bool:
    """End a planned dispatch; False when it has ended already, which is how a repeat is prevented."""
    return (
        conn.execute(
            "UPDATE dispatch SET state = ?, ended_at = ?, late_by = ?, held = ? WHERE id = ? AND state = 'planned'",
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
            "m.verb, d.locale, e.id AS entry, e.uuid, e.type, e.source_locale, e.section, e.actor AS owner, r.number, g.name AS stage_name "
            "FROM move m JOIN edition d ON d.id = m.edition JOIN entry e ON e.id = d.entry "
            "JOIN stage g ON g.id = m.stage LEFT JOIN revision r ON r.id = m.revision WHERE m.dispatch = ? ORDER BY m.ord",
            (dispatch,),
        ),
    )


def asked(conn: sqlite3.Connection, dispatch: int) -> list[AskedMove]:
    """The moves of a dispatch as they were asked for, whatever became of them."""
    return shaped.every(
        AskedMove,
        conn.execute(
            "SELECT m.verb, m.edition, m.stage, m.revision, m.regress, m.payload, d.locale, e.uuid, e.type, "
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
