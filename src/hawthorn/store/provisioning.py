"""People and groups as a directory provisions them (SCIM 2.0, RFC 7643)."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Provisioned:
    """A person whom a directory may see: those who are here, and those who were let go and whom it made. `user_name` is what the directory calls them, by
    default what they log in with."""

    id: int
    handle: str
    name: str
    email: str
    zone: str
    created_at: int
    ended_at: int | None
    user_name: str
    external_id: str
    changed_at: int


@dataclass(frozen=True, slots=True)
class Group:
    """A group of a directory."""

    id: int
    name: str
    external_id: str
    at: int
    changed_at: int


_PEOPLE = (
    "SELECT a.id, a.handle, a.name, a.email, a.zone, a.created_at, a.ended_at, coalesce(p.user_name, a.handle) AS user_name, "
    "coalesce(p.external_id, '') AS external_id, coalesce(p.changed_at, a.created_at) AS changed_at "
    "FROM actor a LEFT JOIN provisioned p ON p.actor = a.id WHERE a.kind = 'person' AND (a.ended_at IS NULL OR p.actor IS NOT NULL)"
)


def people(conn: sqlite3.Connection) -> list[Provisioned]:
    """All of them, the oldest first."""
    return shaped.every(Provisioned, conn.execute(f"{_PEOPLE} ORDER BY a.id"))


def person(conn: sqlite3.Connection, id: int) -> Provisioned | None:
    """One of them."""
    return shaped.one(Provisioned, conn.execute(f"{_PEOPLE} AND a.id = ?", (id,)))


def called(conn: sqlite3.Connection, user_name: str) -> int | None:
    """Who it is that a directory calls so."""
    row = conn.execute("SELECT actor FROM provisioned WHERE user_name = ?", (user_name,)).fetchone()
    return row[0] if row else None


def is_provisioned(conn: sqlite3.Connection, actor: int) -> bool:
    """Whether a directory knows somebody."""
    return conn.execute("SELECT 1 FROM provisioned WHERE actor = ?", (actor,)).fetchone() is not None


def keep(conn: sqlite3.Connection, actor: int, user_name: str, external_id: str, at: int) -> None:
    """Keep what a directory calls somebody."""
    conn.execute(
        "INSERT INTO provisioned VALUES (?1, ?2, ?3, ?4) ON CONFLICT (actor) DO UPDATE SET user_name = ?2, external_id = ?3, changed_at = ?4",
        (actor, user_name, external_id, at),
    )


def forget(conn: sqlite3.Connection, actor: int) -> None:
    """Forget what a directory calls somebody, and its groups of theirs."""
    conn.execute("DELETE FROM provisioned_member WHERE actor = ?", (actor,))
    conn.execute("DELETE FROM provisioned WHERE actor = ?", (actor,))


def set_person(conn: sqlite3.Connection, actor: int, name: str, email: str, zone: str) -> None:
    """Keep what a directory says of somebody."""
    conn.execute("UPDATE actor SET name = ?, email = ?, zone = ? WHERE id = ?", (name, email, zone, actor))


def revive(conn: sqlite3.Connection, actor: int) -> None:
    """Let somebody come back who was let go."""
    conn.execute("UPDATE actor SET ended_at = NULL WHERE id = ?", (actor,))


def groups(conn: sqlite3.Connection) -> list[Group]:
    """All groups, the oldest first."""
    return shaped.every(
        Group, conn.execute("SELECT id, name, external_id, at, changed_at FROM provisioned_group ORDER BY id")
    )


def group(conn: sqlite3.Connection, id: int) -> Group | None:
    """A group by id."""
    return shaped.one(
        Group,
        conn.execute(
            "SELECT id, name, external_id, at, changed_at FROM provisioned_group WHERE id = ?", (id,)
        ),
    )


def group_named(conn: sqlite3.Connection, name: str) -> int | None:
    """The group of a name."""
    row = conn.execute("SELECT id FROM provisioned_group WHERE name = ?", (name,)).fetchone()
    return row[0] if row else None


def add_group(conn: sqlite3.Connection, name: str, external_id: str, at: int) -> int:
    """Add a group; returns its id."""
    made = conn.execute(
        "INSERT INTO provisioned_group (name, external_id, at, changed_at) VALUES (?, ?, ?, ?)",
        (name, external_id, at, at),
    )
    assert made.lastrowid is not None
    return made.lastrowid


def set_group(conn: sqlite3.Connection, id: int, name: str, external_id: str, at: int) -> None:
    """Keep what a directory says of a group."""
    conn.execute(
        "UPDATE provisioned_group SET name = ?, external_id = ?, changed_at = ? WHERE id = ?",
        (name, external_id, at, id),
    )


def end_group(conn: sqlite3.Connection, id: int) -> None:
    """End a group."""
    conn.execute('DELETE FROM provisioned_member WHERE "group" = ?', (id,))
    conn.execute("DELETE FROM provisioned_group WHERE id = ?", (id,))


def members(conn: sqlite3.Connection) -> list[tuple[int, int]]:
    """Who is in which group: pairs of group and person."""
    return [
        (row[0], row[1])
        for row in conn.execute('SELECT "group", actor FROM provisioned_member ORDER BY 1, 2').fetchall()
    ]


def set_members(conn: sqlite3.Connection, id: int, actors: Collection[int]) -> None:
    """Let a group have these members, in place of those before."""
    conn.execute('DELETE FROM provisioned_member WHERE "group" = ?', (id,))
    conn.executemany("INSERT INTO provisioned_member VALUES (?, ?)", [(id, one) for one in sorted(actors)])


def groups_of(conn: sqlite3.Connection, actor: int) -> list[str]:
    """The names of somebody's groups."""
    rows = conn.execute(
        'SELECT g.name FROM provisioned_member m JOIN provisioned_group g ON g.id = m."group" WHERE m.actor = ? ORDER BY g.id',
        (actor,),
    ).fetchall()
    return [row[0] for row in rows]
