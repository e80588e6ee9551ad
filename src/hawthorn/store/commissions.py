"""Commissions: orders for translation, open ones with what was put into them so far."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped
from hawthorn.store.entries import Entry
from hawthorn.store.put_away import PUT_AWAY


@dataclass(frozen=True, slots=True)
class Commission:
    """An order for translation. It is open until it is sent; `memories` and `glossaries` are JSON lists of the numbers of those that are
    looked into, all where one is empty."""

    id: int
    uuid: str
    name: str
    due: str
    note: str
    actor: int
    at: int
    sent_at: int | None
    cancelled_at: int | None
    shared: int
    also_away: int
    also_current: int
    fill: int
    returns: str
    memories: str
    glossaries: str
    standing: int | None
    machine: int
    by_name: str
    by_handle: str
    by_left: int
    entries: int
    jobs: int
    jobs_open: int
    done: int
    total: int
    locales: str


@dataclass(frozen=True, slots=True)
class Target:
    """A locale of a commission, and who does it: a bureau, a person, or nobody yet."""

    locale: str
    bureau: int | None
    person: int | None
    bureau_name: str | None
    person_name: str | None
    person_handle: str | None


@dataclass(frozen=True, slots=True)
class CommissionEntry:
    """An entry in a commission, and who put it there."""

    ord: int
    id: int
    uuid: str
    type: str
    source_locale: str
    section: int | None
    owner: int
    put_away: int
    by_name: str
    at: int

    @property
    def entry(self) -> int:
        """The entry's number, as permission asks for it."""
        return self.id


_ROW = """
SELECT c.*, a.name AS by_name, a.handle AS by_handle, a.ended_at IS NOT NULL AS by_left,
  (SELECT count(*) FROM commission_entry e WHERE e.commission = c.id) AS entries,
  (SELECT count(*) FROM job j WHERE j.commission = c.id) AS jobs,
  (SELECT count(*) FROM job j WHERE j.commission = c.id AND j.state NOT IN ('accepted', 'cancelled')) AS jobs_open,
  (SELECT coalesce(sum(j.done), 0) FROM job j WHERE j.commission = c.id) AS done,
  (SELECT coalesce(sum(j.total), 0) FROM job j WHERE j.commission = c.id) AS total,
  (SELECT json_group_array(t.locale) FROM commission_target t WHERE t.commission = c.id) AS locales
FROM commission c JOIN actor a ON a.id = c.actor
"""
_STATES = {
    "": "1",
    "open": "c.sent_at IS NULL AND c.cancelled_at IS NULL",
    "sent": "c.sent_at IS NOT NULL AND EXISTS (SELECT 1 FROM job j WHERE j.commission = c.id "
    "AND j.state NOT IN ('accepted', 'cancelled'))",
    "closed": "c.sent_at IS NOT NULL AND c.cancelled_at IS NULL AND NOT EXISTS (SELECT 1 FROM job j WHERE j.commission = c.id "
    "AND j.state NOT IN ('accepted', 'cancelled'))",
    "cancelled": "c.cancelled_at IS NOT NULL AND NOT EXISTS (SELECT 1 FROM job j WHERE j.commission = c.id "
    "AND j.state NOT IN ('accepted', 'cancelled'))",
}
STATES = tuple(state for state in _STATES if state)
"""Open; sent, while a job of it is at work; closed, when none is any more; cancelled."""


def add(conn: sqlite3.Connection, uuid: str, name: str, actor: int, at: int) -> int:
    """Add an open commission."""
    cursor = conn.execute(
        "INSERT INTO commission (uuid, name, actor, at) VALUES (?, ?, ?, ?)", (uuid, name, actor, at)
    )
    return int(cursor.lastrowid or 0)


def by_uuid(conn: sqlite3.Connection, uuid: str) -> Commission | None:
    """A commission, or None."""
    return shaped.one(Commission, conn.execute(_ROW + "WHERE c.uuid = ?", (uuid,)))


def of(conn: sqlite3.Connection, id: int) -> Commission:
    """A commission by its number."""
    return shaped.known(Commission, conn.execute(_ROW + "WHERE c.id = ?", (id,)))


def newest(conn: sqlite3.Connection, state: str, actor: int, limit: int, before: int) -> list[Commission]:
    """Commissions in a state (any when empty), the newest first, from before one: of open ones those that are shared, somebody's own, or of
    whoever has left."""
    return shaped.every(
        Commission,
        conn.execute(
            _ROW + f"WHERE {_STATES[state]} AND c.id < ?1 "
            "AND (c.sent_at IS NOT NULL OR c.shared OR c.actor = ?2 OR a.ended_at IS NOT NULL) "
            "ORDER BY c.id DESC LIMIT ?3",
            (before, actor, limit),
        ),
    )


def collected_by(conn: sqlite3.Connection, actor: int) -> list[Commission]:
    """The open commissions of somebody, the oldest first."""
    return shaped.every(
        Commission, conn.execute(_ROW + f"WHERE {_STATES['open']} AND c.actor = ? ORDER BY c.id", (actor,))
    )


def give(conn: sqlite3.Connection, id: int, actor: int) -> None:
    """Make a commission somebody else's."""
    conn.execute("UPDATE commission SET actor = ? WHERE id = ?", (actor, id))


_CHANGES = {
    name: f"UPDATE commission SET {name} = ? WHERE id = ?"
    for name in (
        "name",
        "due",
        "note",
        "shared",
        "also_away",
        "also_current",
        "fill",
        "returns",
        "memories",
        "glossaries",
        "sent_at",
        "cancelled_at",
        "standing",
        "machine",
    )
}


def change(conn: sqlite3.Connection, id: int, values: Mapping[str, Any]) -> None:
    """Change a commission; only the columns that may change are taken."""
    for name, value in values.items():
        conn.execute(_CHANGES[name], (value, id))


def opened_again(conn: sqlite3.Connection, id: int) -> None:
    """A commission is not cancelled any more once none of its jobs is."""
    conn.execute(
        "UPDATE commission SET cancelled_at = NULL WHERE id = ?1 AND cancelled_at IS NOT NULL "
        "AND NOT EXISTS (SELECT 1 FROM job WHERE commission = ?1 AND state = 'cancelled')",
        (id,),
    )


def set_targets(
    conn: sqlite3.Connection, id: int, some: Iterable[tuple[str, int | None, int | None]]
) -> None:
    """Keep all the locales of a commission: (locale, bureau, person)."""
    conn.execute("DELETE FROM commission_target WHERE commission = ?", (id,))
    conn.executemany("INSERT INTO commission_target VALUES (?, ?, ?, ?)", [(id, *one) for one in some])


def set_target(
    conn: sqlite3.Connection, id: int, locale: str, bureau: int | None, person: int | None
) -> None:
    """Say who does a locale of a commission, where it is of it."""
    conn.execute(
        "UPDATE commission_target SET bureau = ?, person = ? WHERE commission = ? AND locale = ?",
        (bureau, person, id, locale),
    )


def targets(conn: sqlite3.Connection, id: int) -> list[Target]:
    """The locales of a commission."""
    return shaped.every(
        Target,
        conn.execute(
            "SELECT t.locale, t.bureau, t.person, b.name AS bureau_name, a.name AS person_name, a.handle AS person_handle "
            "FROM commission_target t LEFT JOIN bureau b ON b.id = t.bureau LEFT JOIN actor a ON a.id = t.person "
            "WHERE t.commission = ? ORDER BY t.locale",
            (id,),
        ),
    )


def put(conn: sqlite3.Connection, id: int, some: Iterable[int], actor: int, at: int) -> None:
    """Put entries into a commission, after those that are there; one that is there stays as it is."""
    conn.executemany(
        "INSERT INTO commission_entry SELECT ?1, (SELECT coalesce(max(ord), 0) + 1 FROM commission_entry WHERE commission = ?1), ?2, ?3, ?4 "
        "WHERE NOT EXISTS (SELECT 1 FROM commission_entry WHERE commission = ?1 AND entry = ?2)",
        [(id, entry, actor, at) for entry in some],
    )


def take_out(conn: sqlite3.Connection, id: int, some: Iterable[int]) -> None:
    """Take entries out of a commission."""
    conn.executemany(
        "DELETE FROM commission_entry WHERE commission = ? AND entry = ?", [(id, entry) for entry in some]
    )


def entries(conn: sqlite3.Connection, id: int) -> list[CommissionEntry]:
    """The entries of a commission, in the order in which they were put there."""
    return shaped.every(
        CommissionEntry,
        conn.execute(
            "SELECT x.ord, e.id, e.uuid, e.type, e.source_locale, e.section, e.actor AS owner, "
            f"{PUT_AWAY} AS put_away, a.name AS by_name, x.at "
            "FROM commission_entry x JOIN entry e ON e.id = x.entry JOIN actor a ON a.id = x.actor WHERE x.commission = ? ORDER BY x.ord",
            (id,),
        ),
    )


def referred(conn: sqlite3.Connection, some: Sequence[int]) -> list[Entry]:
    """The entries that the drafts of some refer to, in their source and in what all locales share, as far as they are there; the first of
    them first."""
    return shaped.every(
        Entry,
        conn.execute(
            "SELECT t.* FROM json_each(?1) j CROSS JOIN entry e ON e.id = j.value JOIN edition d ON d.entry = e.id "
            "AND d.locale IN (e.source_locale, '*') JOIN reference x ON x.edition = d.id JOIN entry t ON t.uuid = x.target "
            "AND t.removed_at IS NULL AND t.archived_at IS NULL AND t.id NOT IN (SELECT value FROM json_each(?1)) GROUP BY t.id ORDER BY min(j.key), t.id",
            (json.dumps(list(some)),),
        ),
    )
