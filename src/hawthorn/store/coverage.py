"""How far editions cover their sources: one narrow row for each, what comparing them needs apart, and their sums."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import fields
from operator import attrgetter
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import listings, shaped
from hawthorn.store.filters import Filter
from hawthorn.store.put_away import AT_WORK

SOURCE = "source"
"""The state of the row that an entry's source has."""


@dataclass(frozen=True, slots=True)
class Covered:
    """One edition: its state, the revisions that were compared (drafts, and what is out), and what came of it."""

    entry: int
    locale: str
    state: str
    source: int | None
    target: int | None
    units: int
    current: int
    changed: int
    missing: int
    gone: int
    words: int
    words_current: int
    out_source: int | None
    out_target: int | None
    out_due: int

    @property
    def due(self) -> int:
        """How many units and texts somebody has to see to."""
        return self.changed + self.missing + self.gone


@dataclass(frozen=True, slots=True)
class Standing:
    """An edition as it stands: the head of its draft, what is out, and whether the head was signed off for release."""

    entry: int
    type: str
    source_locale: str
    locale: str
    head: int | None
    out: int | None
    signed: int


def standing(conn: sqlite3.Connection, entries: Iterable[int]) -> list[Standing]:
    """The editions of entries that are there (neither removed nor in the archive)."""
    return shaped.every(
        Standing,
        conn.execute(
            "SELECT e.id AS entry, e.type, e.source_locale, d.locale, x.head, t.revision AS out, "
            "EXISTS (SELECT 1 FROM submission b WHERE b.edition = d.id AND b.revision = x.head AND b.outcome = 'signed off') AS signed "
            f"FROM json_each(?) j CROSS JOIN entry e ON e.id = j.value AND {AT_WORK} "
            "JOIN edition d ON d.entry = e.id AND d.locale <> '*' "
            "LEFT JOIN strand x ON x.edition = d.id AND x.name = 'draft' AND x.closed_at IS NULL "
            "LEFT JOIN standing t ON t.edition = d.id AND t.stage = 2 AND t.until IS NULL",
            (json.dumps(list(entries)),),
        ),
    )


def rows(conn: sqlite3.Connection, entries: Iterable[int]) -> dict[tuple[int, str], Covered]:
    """What is kept of entries, by entry and locale."""
    found = shaped.every(
        Covered,
        conn.execute(
            "SELECT c.* FROM json_each(?) j CROSS JOIN coverage c ON c.entry = j.value",
            (json.dumps(list(entries)),),
        ),
    )
    return {(row.entry, row.locale): row for row in found}


def every(conn: sqlite3.Connection) -> dict[tuple[int, str], Covered]:
    """All that is kept."""
    found = shaped.every(Covered, conn.execute("SELECT * FROM coverage"))
    return {(row.entry, row.locale): row for row in found}


def details(
    conn: sqlite3.Connection, some: Iterable[tuple[int, str]]
) -> dict[tuple[int, str], tuple[int, str]]:
    """What comparing needs of editions: the revision that it is of, and what that says."""
    found = conn.execute(
        "SELECT c.entry, c.locale, c.revision, c.detail FROM json_each(?) j CROSS JOIN coverage_detail c "
        "ON c.entry = j.value ->> 0 AND c.locale = j.value ->> 1",
        (json.dumps([list(one) for one in some]),),
    ).fetchall()
    return {(row[0], row[1]): (row[2], row[3]) for row in found}


_COLUMNS = tuple(one.name for one in fields(Covered))
_values_of = attrgetter(*_COLUMNS)


def keep(
    conn: sqlite3.Connection, some: Sequence[Covered], told: Mapping[tuple[int, str], tuple[int, str]]
) -> None:
    """Keep rows, and what comparing needs of those that are given."""
    conn.executemany(
        f"INSERT OR REPLACE INTO coverage VALUES ({', '.join('?' * len(_COLUMNS))})",
        [_values_of(row) for row in some],
    )
    conn.executemany(
        "INSERT OR REPLACE INTO coverage_detail VALUES (?, ?, ?, ?)",
        [(*key, *detail) for key, detail in told.items()],
    )


def drop(conn: sqlite3.Connection, some: Sequence[tuple[int, str]]) -> None:
    """Forget editions that are not counted any more."""
    for table in ("coverage", "coverage_detail"):
        conn.executemany(f"DELETE FROM {table} WHERE entry = ? AND locale = ?", some)


@dataclass(frozen=True, slots=True)
class Open:
    """A job that an entry is in and that is not closed: how far it is, and when it is due."""

    entry: int
    locale: str
    job: str
    done: int
    total: int
    due: str


def open_jobs(conn: sqlite3.Connection, entries: Iterable[int]) -> dict[tuple[int, str], Open]:
    """The job that entries are in, by entry and locale; the newest of those with units of it that have not returned."""
    found = shaped.every(
        Open,
        conn.execute(
            "SELECT x.entry, j.locale, j.uuid AS job, j.done, j.total, j.due FROM json_each(?) w CROSS JOIN job_entry x ON x.entry = w.value "
            "JOIN job j ON j.id = x.job AND j.state NOT IN ('accepted', 'cancelled') "
            f"WHERE {_WAITS.format(job='j.id', entry='x.entry')} ORDER BY j.id",
            (json.dumps(list(entries)),),
        ),
    )
    return {(one.entry, one.locale): one for one in found}


_WAITS = "EXISTS (SELECT 1 FROM job_unit u WHERE u.job = {job} AND u.entry = {entry} AND u.outcome IN ('', 'conflict'))"
_OPEN = (
    "job j CROSS JOIN job_entry x ON x.job = j.id {more}WHERE j.state NOT IN ('accepted', 'cancelled') AND "
    + _WAITS.format(job="j.id", entry="x.entry")
)


def in_state(locale: str, state: str) -> Filter:
    """Entries that are in a state in a locale."""
    return Filter(
        "EXISTS (SELECT 1 FROM coverage c WHERE c.entry = s.entry AND c.locale = ? AND c.state = ?)",
        (locale, state),
        "SELECT d.id FROM coverage c CROSS JOIN edition d ON d.entry = c.entry AND d.locale <> '*' "
        "WHERE c.locale = ? AND c.state = ?",
    )


def _in_jobs(more: str, value: str) -> Filter:
    """Entries in jobs that are not closed, with units that have not returned."""
    jobs = f"SELECT x.entry FROM {_OPEN.format(more=more)}"
    return Filter(
        f"s.entry IN ({jobs})",
        (value,),
        f"SELECT d.id FROM (SELECT DISTINCT entry FROM ({jobs})) x CROSS JOIN edition d ON d.entry = x.entry AND d.locale <> '*'",
    )


def in_a_job(locale: str) -> Filter:
    """Entries that are in a job for a locale, with units that have not returned."""
    return _in_jobs("AND j.locale = ? ", locale)


def not_there(locale: str) -> Filter:
    """Entries that are written in another locale and not in this one."""
    return Filter(
        "EXISTS (SELECT 1 FROM coverage c WHERE c.entry = s.entry AND c.state = 'source' AND c.units > 0 AND c.locale <> ?) "
        "AND NOT EXISTS (SELECT 1 FROM coverage c WHERE c.entry = s.entry AND c.locale = ?)",
        (locale, locale),
    )


def due_until(day: str) -> Filter:
    """Entries in jobs that are due on a day or before it."""
    return _in_jobs("AND j.due <> '' AND j.due <= ? ", day)


def begun_by(actor: int) -> Filter:
    """Entries that somebody began."""
    return Filter(
        "e.actor = ?",
        (actor,),
        "SELECT d.id FROM entry w CROSS JOIN edition d ON d.entry = w.id AND d.locale <> '*' WHERE w.actor = ?",
    )


COUNTED = Filter(
    "EXISTS (SELECT 1 FROM coverage c WHERE c.entry = s.entry AND c.state = 'source' AND c.units > 0)"
)
"""Entries with something to translate, of types that are translated."""


@dataclass(frozen=True, slots=True)
class Sum:
    """So many editions of one locale and state, with their units and words and how many of them are current."""

    locale: str
    state: str
    entries: int
    units: int
    current: int
    words: int
    words_current: int


def sums(
    conn: sqlite3.Connection,
    allowed: tuple[str, Sequence[Any]],
    filters: Iterable[Filter],
    among: Sequence[int] | None,
) -> list[Sum]:
    """The sums over all entries that may be read and that every filter leaves, by locale and state; sources among them."""
    source, parts, values = listings.left(allowed, filters, among)
    return shaped.every(
        Sum,
        conn.execute(
            "SELECT c.locale, c.state, count(*) AS entries, sum(c.units) AS units, sum(c.current) AS current, "
            "sum(c.words) AS words, sum(c.words_current) AS words_current "
            f"FROM {source} CROSS JOIN coverage c ON c.entry = s.entry WHERE {' AND '.join(parts)} GROUP BY c.locale, c.state",
            values,
        ),
    )


def ids(conn: sqlite3.Connection, type: str = "") -> list[int]:
    """All entries, or those of a type."""
    rows = conn.execute("SELECT id FROM entry WHERE ? IN ('', type) ORDER BY id", (type,)).fetchall()
    return [row[0] for row in rows]


def any_of(some: Sequence[Filter]) -> Filter:
    """What any of some filters leaves."""
    values = tuple(value for one in some for value in one.values)
    few = " UNION ".join(one.few for one in some) if all(one.few for one in some) else ""
    return Filter(f"({' OR '.join(f'({one.sql})' for one in some)})", values, few)
