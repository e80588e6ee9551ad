"""Lists of jobs: the newest, by whom they wait for, and by when they are due."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped
from hawthorn.store.jobs import SHOWN, Job
from hawthorn.store.put_away import AT_WORK

_AT_WORK = (
    f"EXISTS (SELECT 1 FROM job_entry x JOIN entry e ON e.id = x.entry AND {AT_WORK} WHERE x.job = j.id) "
)
"""Of a job whose entries were all put away nothing is left to do."""
STATES = ("waiting", "sent", "in work", "failed", "returned", "accepted", "cancelled")
"""The states of a job."""


@dataclass(frozen=True, slots=True)
class Narrowed:
    """What a list of jobs is narrowed to: states, a target locale, a bureau by its name, the person who translates; what is empty narrows
    nothing."""

    states: tuple[str, ...] = ()
    locale: str = ""
    bureau: str = ""
    translator: int | None = None

    def condition(self) -> tuple[str, list[Any]]:
        """The same for SQL, with its values."""
        parts: list[str] = []
        values: list[Any] = []
        if len(self.states) == 1:
            # One by itself is read in order, and no further than the page.
            parts.append("j.state = ?")
            values += self.states
        elif self.states:
            parts.append("j.state IN (SELECT value FROM json_each(?))")
            values.append(json.dumps(self.states))
        if self.locale:
            parts.append("j.locale = ?")
            values.append(self.locale)
        if self.bureau:
            parts.append("j.bureau = (SELECT id FROM bureau WHERE name = ?)")
            values.append(self.bureau)
        if self.translator is not None:
            parts.append("j.translator = ?")
            values.append(self.translator)
        return "".join(f"AND {part} " for part in parts), values


def newest(
    conn: sqlite3.Connection, limit: int, before: int = 1 << 62, narrowed: Narrowed = Narrowed()
) -> list[Job]:
    """Jobs, newest first, from before one."""
    asked, values = narrowed.condition()
    return shaped.every(
        Job,
        conn.execute(f"{SHOWN}WHERE j.id < ? {asked}ORDER BY j.id DESC LIMIT ?", (before, *values, limit)),
    )


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
