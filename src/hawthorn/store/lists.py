"""Lists that are kept."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class SavedList:
    """A list that somebody saved; `query` is JSON."""

    id: int
    uuid: str
    name: str
    actor: int
    shared: int
    query: str
    at: int
    by_name: str


def every(conn: sqlite3.Connection, actor: int) -> list[SavedList]:
    """The lists that somebody may use, by name."""
    return shaped.every(
        SavedList,
        conn.execute(
            "SELECT l.*, a.name AS by_name FROM saved_list l JOIN actor a ON a.id = l.actor WHERE l.shared = 1 OR l.actor = ? "
            "ORDER BY l.name, l.id",
            (actor,),
        ),
    )


def add(conn: sqlite3.Connection, uuid: str, name: str, actor: int, shared: int, query: str, at: int) -> None:
    """Keep a list; its query is JSON."""
    conn.execute(
        "INSERT INTO saved_list (uuid, name, actor, shared, query, at) VALUES (?, ?, ?, ?, ?, ?)",
        (uuid, name, actor, shared, query, at),
    )


def change(conn: sqlite3.Connection, name: str, shared: int, query: str, at: int, id: int) -> None:
    """Change a list."""
    conn.execute(
        "UPDATE saved_list SET name = ?, shared = ?, query = ?, at = ? WHERE id = ?",
        (name, shared, query, at, id),
    )


def drop(conn: sqlite3.Connection, id: int) -> None:
    """Drop a list."""
    conn.execute("DELETE FROM saved_list WHERE id = ?", (id,))


def by_uuid(conn: sqlite3.Connection, uuid: str, actor: int) -> SavedList | None:
    """A list that somebody may use."""
    return shaped.one(
        SavedList,
        conn.execute(
            "SELECT l.*, a.name AS by_name FROM saved_list l JOIN actor a ON a.id = l.actor "
            "WHERE l.uuid = ? AND (l.shared = 1 OR l.actor = ?)",
            (uuid, actor),
        ),
    )
