"""Dispatches, without what they move."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from typing import Any

from hawthorn.core import moves
from hawthorn.core.dispatch import COMING
from hawthorn.core.quick import dataclass
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
    quiet_by: int | None
    sequence: int
    changed_at: int
    held_back_from: int | None
    by_name: str
    owner_name: str
    owner_handle: str

    @property
    def at(self) -> int:
        """The instant of one that has a time."""
        assert self.instant is not None, f"dispatch {self.id} has no time"
        return self.instant

    @property
    def coming(self) -> bool:
        """Whether something of it is still to come."""
        return self.state in COMING


@dataclass(frozen=True, slots=True)
class PlannedWall:
    """The wall time of a planned dispatch."""

    id: int
    wall: str
    zone: str
    fold: str
    instant: int
    trouble: str


@dataclass(frozen=True, slots=True)
class Narrowed:
    """What a list of dispatches is narrowed to: states, whoever answers for them, and what any of their moves is about."""

    states: tuple[str, ...] = ()
    owner: int | None = None
    type: str = ""
    locale: str = ""
    section: int | None = None

    def condition(self) -> tuple[str, list[Any]]:
        """The same for SQL, with its values."""
        parts: list[str] = []
        values: list[Any] = []
        if self.states:
            parts.append("d.state IN (SELECT value FROM json_each(?))")
            values.append(json.dumps(self.states))
        if self.owner is not None:
            parts.append("d.owner = ?")
            values.append(self.owner)
        about: list[str] = []
        if self.type:
            about.append("ne.type = ?")
            values.append(self.type)
        if self.locale:
            about.append("nd.locale = ?")
            values.append(self.locale)
        if self.section is not None:
            about.append(
                "(ne.section = ? OR EXISTS (SELECT 1 FROM section_within w WHERE w.section = ne.section AND w.ancestor = ?))"
            )
            values += [self.section, self.section]
        if about:
            parts.append(
                "EXISTS (SELECT 1 FROM move n JOIN edition nd ON nd.id = n.edition JOIN entry ne ON ne.id = nd.entry "
                f"WHERE n.dispatch = d.id AND {' AND '.join(about)})"
            )
        return "".join(f"AND {part} " for part in parts), values


_COMING = ", ".join(map(repr, COMING))
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
    held_back_from: int | None = None,
) -> int:
    """Add a dispatch without moves; whoever makes it answers for it unless somebody else is named."""
    time = (when.wall, when.zone, when.fold, when.instant) if when else ("", "", "", None)
    cursor = conn.execute(
        "INSERT INTO dispatch (uuid, name, state, wall, zone, fold, instant, note, created_at, actor, owner, partial, undoes, "
        "changed_at, held_back_from) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (uuid, name, state, *time, note, at, actor, owner or actor, int(partial), undoes, at, held_back_from),
    )
    return int(cursor.lastrowid or 0)


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


def _only(allowed: str) -> str:
    """The condition that each move of a dispatch is allowed."""
    if allowed == "1":
        return ""
    return (
        "AND NOT EXISTS (SELECT 1 FROM move m JOIN edition x ON x.id = m.edition JOIN entry e ON e.id = x.entry "
        f"WHERE m.dispatch = d.id AND NOT {allowed}) "
    )


def between(
    conn: sqlite3.Connection,
    start: int,
    end: int,
    limit: int,
    allowed: str = "1",
    values: Sequence[Any] = (),
    after: tuple[int, int] = (-1, 0),
    narrowed: Narrowed | None = None,
) -> list[Dispatch]:
    """Dispatches with an instant in [start, end), in order of time, after one (its instant and number): those of which each
    move (`x` its edition, `e` its entry) is allowed."""
    narrow, wanted = (narrowed or Narrowed()).condition()
    return shaped.every(
        Dispatch,
        conn.execute(
            _SHOWN
            + f"WHERE d.instant >= ? AND d.instant < ? AND (d.instant, d.id) > (?, ?) {_only(allowed)}{narrow}"
            + "ORDER BY d.instant, d.id LIMIT ?",
            (start, end, *after, *values, *wanted, limit),
        ),
    )


def waiting(
    conn: sqlite3.Connection,
    state: str,
    limit: int,
    allowed: str = "1",
    values: Sequence[Any] = (),
    before: int | None = None,
    narrowed: Narrowed | None = None,
) -> list[Dispatch]:
    """Dispatches that are open, held or failed, newest first, before one: those of which each move is allowed, said as for
    `between`."""
    narrow, wanted = (narrowed or Narrowed()).condition()
    return shaped.every(
        Dispatch,
        conn.execute(
            _SHOWN
            + "WHERE d.state = ? AND d.state IN ('open', 'held', 'failed') AND d.id < ? "
            + f"{_only(allowed)}{narrow}ORDER BY d.id DESC LIMIT ?",
            (state, 1 << 62 if before is None else before, *values, *wanted, limit),
        ),
    )


def holding_others(
    conn: sqlite3.Connection, ids: Iterable[int], allowed: str, values: Sequence[Any]
) -> set[int]:
    """Which of some dispatches have a move that is not allowed, said as for `between`."""
    rows = conn.execute(
        "SELECT DISTINCT m.dispatch FROM json_each(?) j CROSS JOIN move m ON m.dispatch = j.value JOIN edition x ON x.id = m.edition "
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


def answered_for_by(conn: sqlite3.Connection, owner: int) -> list[Dispatch]:
    """What somebody answers for and may still go, the oldest first."""
    return shaped.every(
        Dispatch,
        conn.execute(_SHOWN + f"WHERE d.owner = ? AND d.state IN ({_COMING}) ORDER BY d.id", (owner,)),
    )


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
        "UPDATE dispatch SET wall = ?, zone = ?, fold = ?, instant = ?, trouble = '', resting = 0 WHERE id = ? "
        f"AND state IN ({_COMING})",
        (when.wall, when.zone, when.fold, when.instant, id),
    )


def may_rest(conn: sqlite3.Connection) -> list[tuple[int, int]]:
    """Planned dispatches (id, instant) that a quiet period would hold, as nobody lets them pass it."""
    rows = conn.execute(
        "SELECT p.id, p.instant FROM dispatch p WHERE p.state = 'planned' AND p.quiet_by IS NULL AND EXISTS "
        "(SELECT 1 FROM move m WHERE m.dispatch = p.id AND m.verb IN (SELECT value FROM json_each(?))) ORDER BY p.instant",
        (json.dumps(moves.RESTING),),
    ).fetchall()
    return [(row[0], row[1]) for row in rows]


def rest(conn: sqlite3.Connection, ids: Iterable[int]) -> None:
    """Mark which planned dispatches lie in a quiet period and will be held; the others do not."""
    conn.execute(
        "UPDATE dispatch SET resting = NOT resting WHERE state = 'planned' "
        "AND resting <> (id IN (SELECT value FROM json_each(?)))",
        (json.dumps(list(ids)),),
    )


GOES = f"(p.resting = 0 OR (p.partial = 1 AND m.verb NOT IN ({', '.join(map(repr, moves.RESTING))})))"
"""Of a planned dispatch `p` a move `m` that goes by what is known now: none that a quiet period will hold."""


def describe(conn: sqlite3.Connection, id: int, name: str, note: str, owner: int, partial: bool) -> None:
    """Keep what a dispatch is called, why it is, who answers for it, and whether what cannot go holds back the rest."""
    conn.execute(
        "UPDATE dispatch SET name = ?, note = ?, owner = ?, partial = ? WHERE id = ?",
        (name, note, owner, int(partial), id),
    )


def begin_anew(
    conn: sqlite3.Connection,
    id: int,
    name: str,
    when: PlannedTime | None,
    note: str,
    owner: int,
    partial: bool,
) -> None:
    """Open one again that was called off and moves nothing any more."""
    time = (when.wall, when.zone, when.fold, when.instant) if when else ("", "", "", None)
    conn.execute(
        "UPDATE dispatch SET state = 'open', ended_at = NULL, name = ?, wall = ?, zone = ?, fold = ?, instant = ?, note = ?, "
        "owner = ?, partial = ? WHERE id = ? AND state = 'cancelled' AND NOT EXISTS (SELECT 1 FROM move WHERE dispatch = ?9)",
        (name, *time, note, owner, int(partial), id),
    )


def put(conn: sqlite3.Connection, id: int, state: str) -> None:
    """Put a dispatch that has not gone into another state; what held it is no matter any more."""
    conn.execute(
        f"UPDATE dispatch SET state = ?, ended_at = NULL, late_by = NULL, held = '[]' WHERE id = ? AND state IN ({_COMING})",
        (state, id),
    )


def set_quiet_by(conn: sqlite3.Connection, id: int, actor: int | None) -> None:
    """Keep who overrides a quiet period for a dispatch, or that nobody does."""
    conn.execute("UPDATE dispatch SET quiet_by = ? WHERE id = ?", (actor, id))


def join_series(conn: sqlite3.Connection, uuids: Iterable[str], first: int) -> None:
    """Keep that dispatches were planned together, one after another."""
    conn.execute(
        "UPDATE dispatch SET series = ? WHERE uuid IN (SELECT value FROM json_each(?))",
        (first, json.dumps(list(uuids))),
    )


def of_series(conn: sqlite3.Connection, series: int) -> list[Dispatch]:
    """The dispatches that were planned together, in order of time."""
    return shaped.every(
        Dispatch, conn.execute(_SHOWN + "WHERE d.series = ? ORDER BY d.instant, d.id", (series,))
    )


def touch(conn: sqlite3.Connection, id: int, at: int) -> None:
    """Note that something about a dispatch changed, for the calendars that it is in."""
    conn.execute("UPDATE dispatch SET sequence = sequence + 1, changed_at = ? WHERE id = ?", (at, id))


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


def undoing(conn: sqlite3.Connection, id: int) -> str | None:
    """The dispatch (UUID) that undid another, and still does."""
    row = conn.execute(
        "SELECT uuid FROM dispatch WHERE undoes = ? AND state = 'gone' ORDER BY id DESC LIMIT 1", (id,)
    ).fetchone()
    return row[0] if row else None


def held_back(conn: sqlite3.Connection, id: int) -> str | None:
    """The dispatch (UUID) that keeps what another went without."""
    row = conn.execute("SELECT uuid FROM dispatch WHERE held_back_from = ?", (id,)).fetchone()
    return row[0] if row else None
