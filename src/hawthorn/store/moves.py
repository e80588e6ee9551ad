"""What dispatches move: as it was asked for, what became of it, and what is planned."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Mapping
from dataclasses import field, fields
from typing import Any

from hawthorn.core.dispatch import COMING
from hawthorn.core.quick import dataclass
from hawthorn.store import dispatches, shaped


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
    entry: int
    uuid: str
    type: str
    source_locale: str
    section: int | None
    removed_at: int | None
    archived_at: int | None
    title: str


@dataclass(frozen=True, slots=True)
class Move:
    """One move of a dispatch: what it moves, and the numbers of the revisions that it took away and put where it goes, and of
    the one that stands there now."""

    closed: int | None
    opened: int | None
    stands: int | None
    verb: str
    payload: str
    edition: int
    locale: str
    entry: int
    uuid: str
    type: str
    source_locale: str
    section: int | None
    owner: int
    revision: int | None
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
    follows: int
    goes: int
    """Whether it goes by what is known now: not where a quiet period will hold it."""


@dataclass(frozen=True, slots=True)
class MovedBetween:
    """An edition that was moved between two instants, or will be, with the dispatches (UUIDs, comma between) that do."""

    edition: int
    locale: str
    entry: int
    dispatches: str


@dataclass(frozen=True, slots=True)
class MovedItem:
    """A move as the log tells of it; `entry` is a UUID, `revision` a number of the records."""

    verb: str
    locale: str
    entry: str
    revision: int | None
    title: str


ITEM = tuple(one.name for one in fields(MovedItem))
"""Its members, as they are called in the log."""


@dataclass(frozen=True, slots=True)
class MovedKind:
    """What some moves of a dispatch have alike for whoever would make them (see `shaped.OfEntry`); `entry` is that of one of them. `stood` says that
    their entries have been at a stage."""

    verb: str
    type: str
    source_locale: str
    section: int | None
    owner: int
    locale: str
    stage_name: str
    stood: int
    entry: int


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


_TITLE = (
    "coalesce(nullif(y.title, ''), (SELECT z.title FROM edition o JOIN summary z ON z.edition = o.id "
    "WHERE o.entry = e.id AND o.locale = e.source_locale), '')"
)
TITLED = "LEFT JOIN summary y ON y.edition = d.id"
"""What an edition is called; shared fields as their source is. Of `d` in `e`."""


def asked_by(conn: sqlite3.Connection, dispatch: int) -> dict[int, int]:
    """Who asked for each move of a dispatch, by edition."""
    rows = conn.execute(
        "SELECT edition, asked_by FROM move WHERE dispatch = ? AND asked_by IS NOT NULL", (dispatch,)
    ).fetchall()
    return {row[0]: row[1] for row in rows}


def add_moves(
    conn: sqlite3.Connection,
    dispatch: int,
    moves: Iterable[NewMove],
    by: int,
    before: Mapping[int, int] | None = None,
) -> None:
    """Add moves after those that are there, asked for by somebody; `before` says who asked for those that were there before, by
    edition."""
    first = conn.execute(
        "SELECT coalesce(max(ord) + 1, 0) FROM move WHERE dispatch = ?", (dispatch,)
    ).fetchone()[0]
    conn.executemany(
        "INSERT INTO move (dispatch, ord, verb, edition, stage, revision, regress, payload, follows, along, asked_by) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
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
                (before or {}).get(m.edition, by),
            )
            for n, m in enumerate(moves, first)
        ],
    )


def drop_moves(conn: sqlite3.Connection, dispatch: int, editions: Iterable[int] | None = None) -> int:
    """Take the moves of some editions out of a dispatch, or all of them; returns how many went."""
    only = "" if editions is None else " AND edition IN (SELECT value FROM json_each(?))"
    values = () if editions is None else (json.dumps(list(editions)),)
    return conn.execute(f"DELETE FROM move WHERE dispatch = ?{only}", (dispatch, *values)).rowcount


def drop_along(conn: sqlite3.Connection, dispatch: int, written: Collection[str]) -> None:
    """Take the moves out that came along with others, and let those that stay choose their revision anew, but for those of some
    verbs, which have one of their own."""
    conn.execute("DELETE FROM move WHERE dispatch = ? AND along", (dispatch,))
    conn.execute(
        "UPDATE move SET revision = NULL WHERE dispatch = ? AND NOT regress AND verb NOT IN (SELECT value FROM json_each(?))",
        (dispatch, json.dumps(list(written))),
    )


def follow(conn: sqlite3.Connection, standing: Iterable[tuple[int, int]]) -> None:
    """Let planned moves that bring whatever is approved by then bring what stands of an edition now: (edition, revision)."""
    conn.executemany(
        "UPDATE move SET revision = ?2 WHERE edition = ?1 AND follows AND dispatch IN "
        "(SELECT id FROM dispatch WHERE state = 'planned')",
        list(standing),
    )


def written(conn: sqlite3.Connection, dispatch: int, verbs: Collection[str]) -> set[int]:
    """The revisions that moves of some verbs bring in a dispatch."""
    rows = conn.execute(
        "SELECT revision FROM move WHERE dispatch = ? AND revision IS NOT NULL AND verb IN (SELECT value FROM json_each(?))",
        (dispatch, json.dumps(list(verbs))),
    ).fetchall()
    return {row[0] for row in rows}


def bring(conn: sqlite3.Connection, dispatch: int, edition: int, revision: int | None) -> None:
    """Let a move bring another revision."""
    conn.execute(
        "UPDATE move SET revision = ? WHERE dispatch = ? AND edition = ?", (revision, dispatch, edition)
    )


def brought(conn: sqlite3.Connection, dispatch: int) -> dict[int, int]:
    """The revisions that a dispatch brings, by edition."""
    rows = conn.execute(
        "SELECT edition, revision FROM move WHERE dispatch = ? AND revision IS NOT NULL", (dispatch,)
    ).fetchall()
    return {row[0]: row[1] for row in rows}


def moves(conn: sqlite3.Connection, dispatch: int, most: int = -1) -> list[Move]:
    """The moves of a dispatch, or the first of them, with what they are about and what became of them."""
    there = (
        "(SELECT n.number FROM standing t JOIN revision n ON n.id = t.revision WHERE t.edition = m.edition AND t.stage = m.stage "
        "AND {})"
    )
    return shaped.every(
        Move,
        conn.execute(
            f"SELECT {there.format('t.closed_by = m.dispatch')} AS closed, {there.format('t.opened_by = m.dispatch')} AS opened, "
            f"{there.format('t.until IS NULL')} AS stands, "
            "m.verb, m.payload, m.edition, d.locale, e.id AS entry, e.uuid, e.type, e.source_locale, e.section, e.actor AS owner, m.revision, r.number, "
            "h.number AS head, m.follows, m.along, g.name AS stage_name "
            "FROM move m JOIN edition d ON d.id = m.edition JOIN entry e ON e.id = d.entry "
            "JOIN stage g ON g.id = m.stage LEFT JOIN revision r ON r.id = m.revision "
            "LEFT JOIN strand w ON w.edition = d.id AND w.name = 'draft' LEFT JOIN revision h ON h.id = w.head "
            "WHERE m.dispatch = ? ORDER BY m.ord LIMIT ?",
            (dispatch, most),
        ),
    )


def kinds(conn: sqlite3.Connection, dispatch: int) -> list[MovedKind]:
    """The moves of a dispatch as far as they differ by what grants look at, in the order in which each kind comes first."""
    return shaped.every(
        MovedKind,
        conn.execute(
            "SELECT m.verb, e.type, e.source_locale, e.section, e.actor AS owner, d.locale, g.name AS stage_name, "
            "EXISTS (SELECT 1 FROM edition x JOIN standing t ON t.edition = x.id WHERE x.entry = e.id) AS stood, min(e.id) AS entry "
            "FROM move m JOIN edition d ON d.id = m.edition JOIN entry e ON e.id = d.entry JOIN stage g ON g.id = m.stage "
            "WHERE m.dispatch = ? GROUP BY 1, 2, 3, 4, 5, 6, 7, 8 ORDER BY min(m.ord)",
            (dispatch,),
        ),
    )


ASKED = (
    "m.verb, m.edition, m.stage, m.revision, m.regress, m.payload, m.follows, m.along, d.locale, e.id AS entry, e.uuid, "
    f"e.type, e.source_locale, e.section, e.removed_at, e.archived_at, {_TITLE} AS title"
)
"""A move as it was asked for, of the move `m`, its edition `d` and its entry `e`, with what it is called (`TITLED`)."""


def asked(conn: sqlite3.Connection, dispatch: int) -> list[AskedMove]:
    """The moves of a dispatch as they were asked for, whatever became of them."""
    return shaped.every(
        AskedMove,
        conn.execute(
            f"SELECT {ASKED} FROM move m JOIN edition d ON d.id = m.edition JOIN entry e ON e.id = d.entry "
            f"{TITLED} WHERE m.dispatch = ? ORDER BY m.ord",
            (dispatch,),
        ),
    )


def asked_of(conn: sqlite3.Connection, dispatch: int, entry: int) -> list[AskedMove]:
    """Those of them that move an entry."""
    return shaped.every(
        AskedMove,
        conn.execute(
            f"SELECT {ASKED} FROM edition d CROSS JOIN move m ON m.edition = d.id AND m.dispatch = ?1 JOIN entry e ON e.id = d.entry "
            f"{TITLED} WHERE d.entry = ?2 ORDER BY m.ord",
            (dispatch, entry),
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
            f"d.locale, e.id AS entry, e.uuid, e.type, {_TITLE} AS title FROM k JOIN edition d ON d.id = k.edition "
            f"JOIN entry e ON e.id = d.entry {TITLED} ORDER BY k.ord, k.stage",
            (id,),
        ),
    )


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
        "SELECT DISTINCT od.entry FROM dispatch p CROSS JOIN move m ON m.dispatch = p.id JOIN edition d ON d.id = m.edition "
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
            "SELECT m.edition, m.verb, m.stage, m.revision, p.id AS dispatch, p.uuid, p.name, p.instant, p.wall, p.zone, m.follows, "
            f"{dispatches.GOES} AS goes FROM json_each(?) j CROSS JOIN move m ON m.edition = j.value JOIN dispatch p ON p.id = m.dispatch "
            "WHERE p.state = 'planned' ORDER BY p.instant, p.id",
            (json.dumps(list(editions)),),
        ),
    )


def moved_between(
    conn: sqlite3.Connection, since: int, until: int, after: int, limit: int
) -> list[MovedBetween]:
    """The editions that dispatches move which went, or are planned, after one instant and until another; those after a number."""
    return shaped.every(
        MovedBetween,
        conn.execute(
            "SELECT m.edition, x.locale, x.entry, group_concat(DISTINCT d.uuid) AS dispatches FROM dispatch d "
            "JOIN move m ON m.dispatch = d.id JOIN edition x ON x.id = m.edition "
            "WHERE d.instant > ? AND d.instant <= ? AND d.state IN ('gone', 'undone', 'planned') AND m.edition > ? "
            "GROUP BY m.edition ORDER BY m.edition LIMIT ?",
            (since, until, after, limit),
        ),
    )


def to_be_set(conn: sqlite3.Connection, type: str) -> list[tuple[int, str]]:
    """What dispatches that have not gone yet set in entries of a type: each entry with what its move carries, as JSON."""
    return [
        (row[0], row[1])
        for row in conn.execute(
            "SELECT e.id, m.payload FROM dispatch p JOIN move m ON m.dispatch = p.id AND m.payload <> '{}' "
            "JOIN edition d ON d.id = m.edition JOIN entry e ON e.id = d.entry AND e.type = ?1 AND e.removed_at IS NULL "
            "WHERE p.state IN (SELECT value FROM json_each(?2))",
            (type, json.dumps(COMING)),
        ).fetchall()
    ]


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
