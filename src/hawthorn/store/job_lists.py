"""Jobs by whom they wait for, and by when they are due."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable

from hawthorn.store import shaped
from hawthorn.store.jobs import SHOWN, Job
from hawthorn.store.put_away import AT_WORK

_AT_WORK = (
    f"EXISTS (SELECT 1 FROM job_entry x JOIN entry e ON e.id = x.entry AND {AT_WORK} WHERE x.job = j.id) "
)
"""Of a job whose entries were all put away nothing is left to do."""


def by_hand(conn: sqlite3.Connection, actor: int, locales: Iterable[str], limit: int) -> list[Job]:
    """Jobs of no bureau that are not translated to their end, and are somebody's: by name, or, where nobody is named who is there still, by
    being into some locales; the newest first."""
    return shaped.every(
        Job,
        conn.execute(
            SHOWN + "WHERE (j.translator = ?1 OR ((j.translator IS NULL OR p.ended_at IS NOT NULL) "
            "AND j.locale IN (SELECT value FROM json_each(?2)))) "
            f"AND j.bureau IS NULL AND j.state IN ('waiting', 'in work') AND {_AT_WORK} ORDER BY j.id DESC LIMIT ?3",
            (actor, json.dumps(list(locales)), limit),
        ),
    )


def all_returned(conn: sqlite3.Connection, locales: Iterable[str], limit: int) -> list[Job]:
    """Jobs into some locales that returned and wait to be accepted, the newest first."""
    return shaped.every(
        Job,
        conn.execute(
            SHOWN
            + "WHERE j.locale IN (SELECT value FROM json_each(?)) AND j.state = 'returned' AND j.state NOT IN ('accepted', 'cancelled') "
            "ORDER BY j.id DESC LIMIT ?",
            (json.dumps(list(locales)), limit),
        ),
    )


def of_translator(conn: sqlite3.Connection, actor: int) -> list[Job]:
    """Jobs in which somebody has something to translate yet, the oldest first."""
    return shaped.every(
        Job,
        conn.execute(
            SHOWN
            + "WHERE j.translator = ? AND j.state NOT IN ('accepted', 'cancelled') AND j.state <> 'returned' ORDER BY j.id",
            (actor,),
        ),
    )


def due_between(conn: sqlite3.Connection, first: str, last: str, who: int | None, limit: int) -> list[Job]:
    """Jobs that are not closed and due from one day until before another, in order; all, or those that somebody commissioned or is to
    translate."""
    return shaped.every(
        Job,
        conn.execute(
            SHOWN
            + "WHERE j.due >= ?1 AND j.due < ?2 AND j.due <> '' AND j.state NOT IN ('accepted', 'cancelled') "
            f"AND (?3 IS NULL OR c.actor = ?3 OR j.translator = ?3) AND {_AT_WORK} ORDER BY j.due, j.id LIMIT ?4",
            (first, last, who, limit),
        ),
    )
