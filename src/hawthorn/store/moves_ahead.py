"""What is planned: the moves that are to come, in the order in which they go."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection

from hawthorn.core.quick import dataclass
from hawthorn.store import dispatches, shaped
from hawthorn.store.moves import ASKED, TITLED, AskedMove


@dataclass(frozen=True, slots=True)
class MoveAhead(AskedMove):
    """A move that is planned, with the dispatch that it goes with and when that does."""

    dispatch: int
    instant: int


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


def ahead(conn: sqlite3.Connection, entries: Collection[int], until: int) -> list[MoveAhead]:
    """The planned moves of some entries that go until an instant, in the order in which they will."""
    return shaped.every(
        MoveAhead,
        conn.execute(
            f"SELECT {ASKED}, p.id AS dispatch, p.instant FROM json_each(?1) j CROSS JOIN edition d ON d.entry = j.value "
            f"CROSS JOIN move m ON m.edition = d.id JOIN dispatch p ON p.id = m.dispatch JOIN entry e ON e.id = d.entry {TITLED} "
            f"WHERE p.state = 'planned' AND p.instant <= ?2 AND {dispatches.GOES} ORDER BY p.instant, p.id, m.ord",
            (json.dumps([*entries]), until),
        ),
    )


def planned_by(conn: sqlite3.Connection, instant: int) -> list[PlannedBy]:
    """The planned moves that go until an instant, soonest first, each with its entry."""
    return shaped.every(
        PlannedBy,
        conn.execute(
            "SELECT m.edition, m.verb, m.stage, m.revision, p.id AS dispatch, p.instant, d.locale, e.id AS entry, e.uuid, e.type, "
            "e.source_locale FROM dispatch p CROSS JOIN move m ON m.dispatch = p.id JOIN edition d ON d.id = m.edition "
            "JOIN entry e ON e.id = d.entry WHERE p.state = 'planned' AND p.instant <= ? "
            f"AND {dispatches.GOES} ORDER BY p.instant, p.id, m.ord",
            (instant,),
        ),
    )


def soonest(conn: sqlite3.Connection, most: int) -> list[MoveAhead]:
    """The moves of what is planned, those that come first first, up to so many."""
    return shaped.every(
        MoveAhead,
        conn.execute(
            f"SELECT {ASKED}, p.id AS dispatch, p.instant FROM dispatch p CROSS JOIN move m ON m.dispatch = p.id "
            f"JOIN edition d ON d.id = m.edition JOIN entry e ON e.id = d.entry {TITLED} "
            "WHERE p.state = 'planned' ORDER BY p.instant, p.id, m.ord LIMIT ?",
            (most,),
        ),
    )


def listed_by(conn: sqlite3.Connection, dispatch: int, verbs: Collection[str]) -> list[PlannedBy]:
    """The moves of a dispatch that bring editions to readers, each with its entry."""
    return shaped.every(
        PlannedBy,
        conn.execute(
            "SELECT m.edition, m.verb, m.stage, m.revision, p.id AS dispatch, coalesce(p.instant, 0) AS instant, d.locale, "
            "e.id AS entry, e.uuid, e.type, e.source_locale FROM dispatch p CROSS JOIN move m ON m.dispatch = p.id "
            "AND m.verb IN (SELECT value FROM json_each(?)) JOIN edition d ON d.id = m.edition JOIN entry e ON e.id = d.entry "
            "WHERE p.id = ? AND d.locale <> '*' ORDER BY m.ord",
            (json.dumps(list(verbs)), dispatch),
        ),
    )
