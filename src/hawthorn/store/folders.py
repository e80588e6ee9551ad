"""Folders of the library, and what lies in them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Folder:
    """A folder of the library."""

    id: int
    uuid: str
    name: str
    parent: int
    at: int
    actor: int


@dataclass(frozen=True, slots=True)
class FolderCount:
    """A folder, the one around it (UUID), and how many entries lie in it."""

    uuid: str
    name: str
    parent: str | None
    entries: int


def counted(conn: sqlite3.Connection, allowed: str, values: Sequence[Any]) -> list[FolderCount]:
    """Every folder with how many entries lie in it that may be read."""
    return shaped.every(
        FolderCount,
        conn.execute(
            "SELECT f.uuid, f.name, p.uuid AS parent, (SELECT count(DISTINCT e.id) FROM filed x JOIN entry e ON e.id = x.entry "
            f"AND e.removed_at IS NULL JOIN edition d ON d.entry = e.id WHERE x.folder = f.id AND {allowed}) AS entries "
            "FROM folder f LEFT JOIN folder p ON p.id = f.parent ORDER BY f.name COLLATE NOCASE, f.id",
            values,
        ),
    )


def by_uuid(conn: sqlite3.Connection, uuid: str) -> Folder | None:
    """A folder."""
    return shaped.one(Folder, conn.execute("SELECT * FROM folder WHERE uuid = ?", (uuid,)))


def named_in(conn: sqlite3.Connection, parent: int, name: str) -> int | None:
    """The folder of a name in another (0 for the top)."""
    row = conn.execute("SELECT id FROM folder WHERE parent = ? AND name = ?", (parent, name)).fetchone()
    return None if row is None else int(row[0])


def how_many(conn: sqlite3.Connection) -> int:
    """How many folders there are."""
    row = conn.execute("SELECT count(*) FROM folder").fetchone()
    return int(row[0])


def add(conn: sqlite3.Connection, uuid: str, name: str, parent: int | None, at: int, actor: int) -> None:
    """Make a folder."""
    conn.execute(
        "INSERT INTO folder (uuid, name, parent, at, actor) VALUES (?, ?, ?, ?, ?)",
        (uuid, name, parent, at, actor),
    )


def above(conn: sqlite3.Connection, folder: int) -> int:
    """The folder that one lies in."""
    row = conn.execute("SELECT parent FROM folder WHERE id = ?", (folder,)).fetchone()
    return int(row[0])


def change(conn: sqlite3.Connection, name: str, parent: int | None, folder: int) -> None:
    """Name a folder, and put it into another."""
    conn.execute("UPDATE folder SET name = ?, parent = ? WHERE id = ?", (name, parent, folder))


def within(conn: sqlite3.Connection, folder: int) -> list[str]:
    """The folders in one."""
    rows = conn.execute("SELECT name FROM folder WHERE parent = ?", (folder,)).fetchall()
    return [row[0] for row in rows]


def pour_out(conn: sqlite3.Connection, into: int, folder: int) -> None:
    """What lies in a folder lies in another."""
    conn.execute("UPDATE filed SET folder = ? WHERE folder = ?", (into, folder))


def empty(conn: sqlite3.Connection, folder: int) -> None:
    """What lies in a folder lies in none."""
    conn.execute("DELETE FROM filed WHERE folder = ?", (folder,))


def remove(conn: sqlite3.Connection, folder: int) -> None:
    """Remove a folder."""
    conn.execute("DELETE FROM folder WHERE id = ?", (folder,))


def lift(conn: sqlite3.Connection, into: int | None, folder: int) -> None:
    """The folders in one lie in another."""
    conn.execute("UPDATE folder SET parent = ? WHERE parent = ?", (into, folder))


def named(conn: sqlite3.Connection, parent: int | None, name: str, own: int) -> str | None:
    """A folder of a name in another, but for one."""
    row = conn.execute(
        "SELECT uuid FROM folder WHERE parent = ? AND name = ? AND id <> ?", (parent, name, own)
    ).fetchone()
    return None if row is None else str(row[0])


def of_entry(conn: sqlite3.Connection, entry: int) -> str | None:
    """The folder that an entry lies in."""
    row = conn.execute(
        "SELECT f.uuid FROM filed x JOIN folder f ON f.id = x.folder WHERE x.entry = ?", (entry,)
    ).fetchone()
    return None if row is None else str(row[0])


def of_entries(conn: sqlite3.Connection, entries: Iterable[int]) -> dict[int, str]:
    """The folder that each of some entries lies in; those that lie in none are left out."""
    rows = conn.execute(
        "SELECT x.entry, f.uuid FROM json_each(?) j CROSS JOIN filed x ON x.entry = j.value JOIN folder f ON f.id = x.folder",
        (json.dumps(list(entries)),),
    ).fetchall()
    return {row[0]: row[1] for row in rows}


def take_out(conn: sqlite3.Connection, entry: int) -> None:
    """Let an entry lie in no folder."""
    conn.execute("DELETE FROM filed WHERE entry = ?", (entry,))


def put(conn: sqlite3.Connection, entry: int, folder: int) -> None:
    """Let an entry lie in a folder."""
    conn.execute(
        "INSERT INTO filed VALUES (?1, ?2) ON CONFLICT (entry) DO UPDATE SET folder = ?2", (entry, folder)
    )


def uses(
    conn: sqlite3.Connection, allowed: str, targets: Iterable[str], values: Sequence[Any]
) -> dict[str, int]:
    """How many entries refer to each of some, of those that may be read; those that none refers to are left out."""
    rows = conn.execute(
        "SELECT x.target, count(DISTINCT d.entry) FROM json_each(?) j CROSS JOIN reference x ON x.target = j.value "
        f"JOIN edition d ON d.id = x.edition JOIN entry e ON e.id = d.entry AND e.removed_at IS NULL WHERE {allowed} "
        "GROUP BY x.target",
        (json.dumps(list(targets)), *values),
    ).fetchall()
    return {row[0]: row[1] for row in rows}
