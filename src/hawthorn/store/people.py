"""Actors, roles, invitations and keys."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import field
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Actor:
    """A person, program, assistant or bureau."""

    id: int
    kind: str
    handle: str
    name: str
    email: str
    password: str = field(repr=False)
    zone: str
    created_at: int
    ended_at: int | None
    language: str


@dataclass(frozen=True, slots=True)
class Invited(Actor):
    """Somebody who was invited, and by whom."""

    by_name: str


@dataclass(frozen=True, slots=True)
class Holding:
    """A role that somebody holds, where, with its grants as JSON."""

    role: str
    locales: str
    sections: str
    label: str
    grants: str


@dataclass(frozen=True, slots=True)
class HoldingOf(Holding):
    """The same, with who that is."""

    id: int
    name: str
    handle: str
    kind: str
    email: str
    zone: str


@dataclass(frozen=True, slots=True)
class Key:
    """An API key; `stages` and `audiences` are JSON. `a_minute` is how many reads it may make."""

    id: int
    secret_hash: str = field(repr=False)
    start: str
    name: str
    actor: int
    stages: str
    created_at: int
    ended_at: int | None
    expires_at: int | None
    audiences: str
    a_minute: int | None


@dataclass(frozen=True, slots=True)
class KeyLine:
    """The same as the set-up shows it."""

    id: int
    start: str
    name: str
    stages: str
    created_at: int
    expires_at: int | None
    actor: int
    handle: str
    kind: str
    audiences: str
    a_minute: int | None


@dataclass(frozen=True, slots=True)
class Role:
    """A role, with its grants as JSON."""

    name: str
    label: str
    grants: str


def anybody(conn: sqlite3.Connection) -> bool:
    """Whether there is a person, or ever was."""
    return bool(conn.execute("SELECT EXISTS (SELECT 1 FROM actor WHERE kind = 'person')").fetchone()[0])


def add_actor(
    conn: sqlite3.Connection, kind: str, handle: str, name: str, email: str, password: str, zone: str, at: int
) -> int:
    """Add someone or something that acts; `password` is its Argon2id hash, or empty for none."""
    cursor = conn.execute(
        "INSERT INTO actor (kind, handle, name, email, password, zone, created_at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (kind, handle, name, email, password, zone, at),
    )
    return int(cursor.lastrowid or 0)


def by_handle(conn: sqlite3.Connection, handle: str) -> Actor | None:
    """An actor who has not ended, by handle or mail address."""
    return shaped.one(
        Actor,
        conn.execute(
            "SELECT * FROM actor WHERE (handle IN (?1, ?2) OR (email = ?1 AND email <> '')) AND ended_at IS NULL "
            "ORDER BY handle = ?1 DESC LIMIT 1",
            (handle, handle.strip().casefold()),
        ),
    )


def by_address(conn: sqlite3.Connection, email: str) -> Actor | None:
    """The one person who has a mail address, however it is capitalised; none where several do."""
    found = shaped.every(
        Actor,
        conn.execute(
            "SELECT * FROM actor WHERE lower(email) = lower(?) AND kind = 'person' AND ended_at IS NULL LIMIT 2",
            (email,),
        ),
    )
    return found[0] if len(found) == 1 else None


def ended(conn: sqlite3.Connection, handle: str) -> Actor | None:
    """Somebody who has ended, by handle."""
    return shaped.one(
        Actor, conn.execute("SELECT * FROM actor WHERE handle = ? AND ended_at IS NOT NULL", (handle,))
    )


def actor(conn: sqlite3.Connection, id: int) -> Actor | None:
    """An actor who has not ended, by id."""
    return shaped.one(Actor, conn.execute("SELECT * FROM actor WHERE id = ? AND ended_at IS NULL", (id,)))


def ever(conn: sqlite3.Connection, handle: str) -> Actor | None:
    """An actor by handle, also one who has ended."""
    return shaped.one(Actor, conn.execute("SELECT * FROM actor WHERE handle = ?", (handle,)))


def name_of(conn: sqlite3.Connection, id: int) -> str:
    """What somebody is called, also one who has ended."""
    name: str = conn.execute("SELECT name FROM actor WHERE id = ?", (id,)).fetchone()[0]
    return name


def all_actors(conn: sqlite3.Connection) -> list[Actor]:
    """Everybody, by name."""
    return shaped.every(Actor, conn.execute("SELECT * FROM actor WHERE ended_at IS NULL ORDER BY kind, name"))


def set_role(conn: sqlite3.Connection, name: str, label: str, grants: Sequence[dict[str, Any]]) -> None:
    """Define a role, or define it anew."""
    conn.execute(
        "INSERT INTO role VALUES (?, ?, ?) ON CONFLICT (name) DO UPDATE SET label = excluded.label, grants = excluded.grants",
        (name, label, json.dumps(grants)),
    )


def hold(
    conn: sqlite3.Connection, actor: int, role: str, locales: Iterable[str] = (), sections: Iterable[int] = ()
) -> None:
    """Let an actor hold a role, perhaps only in certain locales or sections."""
    conn.execute(
        "INSERT OR REPLACE INTO holding VALUES (?, ?, ?, ?)",
        (actor, role, json.dumps(list(locales)), json.dumps(list(sections))),
    )


def holdings(conn: sqlite3.Connection, actor: int) -> list[Holding]:
    """The roles of an actor with their grants."""
    return shaped.every(
        Holding,
        conn.execute(
            "SELECT h.role, h.locales, h.sections, r.label, r.grants FROM holding h JOIN role r ON r.name = h.role "
            "WHERE h.actor = ? ORDER BY h.role",
            (actor,),
        ),
    )


def all_holdings(conn: sqlite3.Connection) -> list[HoldingOf]:
    """Every role as everybody holds it."""
    return shaped.every(
        HoldingOf,
        conn.execute(
            "SELECT a.id, a.name, a.handle, a.kind, a.email, a.zone, h.role, h.locales, h.sections, r.label, r.grants FROM holding h "
            "JOIN role r ON r.name = h.role JOIN actor a ON a.id = h.actor WHERE a.ended_at IS NULL ORDER BY a.name"
        ),
    )


def roles(conn: sqlite3.Connection) -> list[Role]:
    """All roles."""
    return shaped.every(Role, conn.execute("SELECT name, label, grants FROM role ORDER BY name"))


def end_role(conn: sqlite3.Connection, name: str) -> None:
    """End a role that nobody holds; it stays on record only in the log."""
    conn.execute("DELETE FROM role WHERE name = ?", (name,))


def holders_of_roles(conn: sqlite3.Connection) -> dict[str, int]:
    """How many hold each role."""
    rows = conn.execute(
        "SELECT h.role, count(*) FROM holding h JOIN actor a ON a.id = h.actor AND a.ended_at IS NULL GROUP BY h.role"
    )
    return {row[0]: row[1] for row in rows.fetchall()}


def drop_holdings(conn: sqlite3.Connection, actor: int) -> None:
    """Take all roles from somebody."""
    conn.execute("DELETE FROM holding WHERE actor = ?", (actor,))


def handle_was_used(conn: sqlite3.Connection, handle: str) -> bool:
    """Whether somebody has, or had, a handle; what they did stands under it."""
    return conn.execute("SELECT 1 FROM actor WHERE handle = ?", (handle,)).fetchone() is not None


def end_actor(conn: sqlite3.Connection, id: int, at: int) -> None:
    """Let somebody go; their name stays with what they did."""
    conn.execute("UPDATE actor SET ended_at = ?, password = '' WHERE id = ?", (at, id))
    conn.execute("DELETE FROM holding WHERE actor = ?", (id,))


def set_password(conn: sqlite3.Connection, id: int, password: str) -> None:
    """Keep the hash of somebody's password."""
    conn.execute("UPDATE actor SET password = ? WHERE id = ?", (password, id))


def set_profile(conn: sqlite3.Connection, id: int, name: str, zone: str, language: str) -> None:
    """Keep somebody's name, zone and language."""
    conn.execute("UPDATE actor SET name = ?, zone = ?, language = ? WHERE id = ?", (name, zone, language, id))


def add_invitation(
    conn: sqlite3.Connection, token_hash: str, actor: int, by: int, at: int, expires_at: int
) -> None:
    """Record an invitation by the hash of its token, in place of those before."""
    use_invitations(conn, actor, at)
    conn.execute(
        "INSERT INTO invitation (token_hash, actor, by, at, expires_at) VALUES (?, ?, ?, ?, ?)",
        (token_hash, actor, by, at, expires_at),
    )


def use_invitations(conn: sqlite3.Connection, actor: int, at: int) -> None:
    """Let no invitation of somebody be used any more."""
    conn.execute("UPDATE invitation SET used_at = ? WHERE actor = ? AND used_at IS NULL", (at, actor))


def invitation(conn: sqlite3.Connection, token_hash: str, now: int) -> Invited | None:
    """Whom an invitation that may be used is for."""
    return shaped.one(
        Invited,
        conn.execute(
            "SELECT a.*, b.name AS by_name FROM invitation i JOIN actor a ON a.id = i.actor AND a.ended_at IS NULL "
            "JOIN actor b ON b.id = i.by WHERE i.token_hash = ? AND i.used_at IS NULL AND i.expires_at > ?",
            (token_hash, now),
        ),
    )


def has_invitation(conn: sqlite3.Connection, actor: int, now: int) -> bool:
    """Whether somebody was invited and may still come."""
    return (
        conn.execute(
            "SELECT 1 FROM invitation WHERE actor = ? AND used_at IS NULL AND expires_at > ?", (actor, now)
        ).fetchone()
        is not None
    )


def add_key(
    conn: sqlite3.Connection,
    secret_hash: str,
    start: str,
    name: str,
    actor: int,
    stages: Sequence[str],
    at: int,
    expires_at: int | None = None,
    audiences: Sequence[str] = (),
    a_minute: int | None = None,
) -> int:
    """Record a key by the hash of its secret, and when it ends by itself."""
    cursor = conn.execute(
        "INSERT INTO access_key (secret_hash, start, name, actor, stages, created_at, expires_at, audiences, a_minute) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            secret_hash,
            start,
            name,
            actor,
            json.dumps(list(stages)),
            at,
            expires_at,
            json.dumps(list(audiences)),
            a_minute,
        ),
    )
    return int(cursor.lastrowid or 0)


def key(conn: sqlite3.Connection, secret_hash: str) -> Key | None:
    """A key that nobody ended; it may have expired."""
    return shaped.one(
        Key,
        conn.execute("SELECT * FROM access_key WHERE secret_hash = ? AND ended_at IS NULL", (secret_hash,)),
    )


def keys(conn: sqlite3.Connection) -> list[KeyLine]:
    """All keys that have not ended, without their secrets."""
    return shaped.every(
        KeyLine,
        conn.execute(
            "SELECT k.id, k.start, k.name, k.stages, k.created_at, k.expires_at, k.actor, a.handle, a.kind, k.audiences, k.a_minute FROM access_key k "
            "JOIN actor a ON a.id = k.actor WHERE k.ended_at IS NULL ORDER BY k.id"
        ),
    )


def end_key(conn: sqlite3.Connection, id: int, at: int) -> bool:
    """End a key; False when there is none."""
    return (
        conn.execute(
            "UPDATE access_key SET ended_at = ? WHERE id = ? AND ended_at IS NULL", (at, id)
        ).rowcount
        > 0
    )
