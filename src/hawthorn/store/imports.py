"""Imports of files into memories and glossaries: how far each is, and what became of it."""

from __future__ import annotations

import sqlite3
from typing import Literal

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped

Into = Literal["memory", "glossary"]
"""What a file is imported into."""


@dataclass(frozen=True, slots=True)
class Import:
    """One import; `problems` is a JSON list of words."""

    id: int
    name: str
    state: str
    read: int
    added: int
    known: int
    refused: int
    problems: str
    at: int
    changed_at: int
    ended_at: int | None
    by_name: str


_FOUND = (
    "SELECT i.id, i.name, i.state, i.read, i.added, i.known, i.refused, i.problems, i.at, i.changed_at, i.ended_at, "
    "a.name AS by_name FROM {into}_import i JOIN actor a ON a.id = i.actor WHERE i.{into} = ?1 AND "
)


@dataclass(frozen=True, slots=True)
class WithPackage:
    """An import that came in a package: its number, what it went into, and whether that was `made` by it."""

    id: int
    whose: int
    uuid: str
    name: str
    made: bool
    state: str
    read: int
    added: int
    known: int
    refused: int


def begin(
    conn: sqlite3.Connection,
    into: Into,
    whose: int,
    name: str,
    actor: int,
    at: int,
    package: int | None = None,
    *,
    made: bool = False,
) -> int:
    """Begin an import into a memory or a glossary, of a file or with a `package` that may have `made` it; returns its number."""
    asked = (
        f"INSERT INTO {into}_import ({into}, name, state, added, actor, at, changed_at, exchange, made) "
        "VALUES (?1, ?2, 'running', 0, ?3, ?4, ?4, ?5, ?6)"
    )
    return int(conn.execute(asked, (whose, name, actor, at, package, made)).lastrowid or 0)


def with_package(conn: sqlite3.Connection, into: Into, package: int) -> list[WithPackage]:
    """The imports that came with a package and were not undone."""
    return shaped.every(
        WithPackage,
        conn.execute(
            f"SELECT i.id, i.{into} AS whose, c.uuid, c.name, i.made, i.state, i.read, i.added, i.known, i.refused "
            f"FROM {into}_import i JOIN {into} c ON c.id = i.{into} WHERE i.exchange = ? AND i.state <> 'undone' ORDER BY i.id",
            (package,),
        ),
    )


def went_on(
    conn: sqlite3.Connection,
    into: Into,
    id: int,
    state: str,
    counts: tuple[int, int, int, int],
    problems: str,
    at: int,
) -> None:
    """Keep how far an import is: how many were read, added, known before, refused."""
    conn.execute(
        f"UPDATE {into}_import SET state = ?1, read = ?2, added = ?3, known = ?4, refused = ?5, problems = ?6, "
        "changed_at = ?7, ended_at = CASE WHEN ?1 = 'running' THEN NULL ELSE ?7 END WHERE id = ?8",
        (state, *counts, problems, at, id),
    )


def undone(conn: sqlite3.Connection, into: Into, id: int, at: int) -> None:
    """Say that an import was undone."""
    conn.execute(f"UPDATE {into}_import SET state = 'undone', ended_at = ? WHERE id = ?", (at, id))


def listing(conn: sqlite3.Connection, into: Into, whose: int, limit: int, before: int) -> list[Import]:
    """The imports into one, the newest first, before a place."""
    asked = _FOUND.format(into=into) + "i.id < ?2 ORDER BY i.id DESC LIMIT ?3"
    return shaped.every(Import, conn.execute(asked, (whose, before, limit)))


def one(conn: sqlite3.Connection, into: Into, whose: int, id: int) -> Import | None:
    """One import."""
    return shaped.one(Import, conn.execute(_FOUND.format(into=into) + "i.id = ?2", (whose, id)))
