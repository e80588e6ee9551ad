"""Calendars that somebody subscribes to."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Calendar:
    """A calendar of somebody's; `shows` is JSON."""

    id: int
    uuid: str
    actor: int
    name: str
    shows: str
    at: int


_KEPT = "SELECT id, uuid, actor, name, shows, at FROM calendar WHERE ended_at IS NULL"


def of_actor(conn: sqlite3.Connection, actor: int) -> list[Calendar]:
    """Somebody's, by name."""
    return shaped.every(Calendar, conn.execute(f"{_KEPT} AND actor = ? ORDER BY name, id", (actor,)))


def by_uuid(conn: sqlite3.Connection, actor: int, uuid: str) -> Calendar | None:
    """One of somebody's."""
    return shaped.one(Calendar, conn.execute(f"{_KEPT} AND actor = ? AND uuid = ?", (actor, uuid)))


def by_token(conn: sqlite3.Connection, digest: str) -> Calendar | None:
    """The one at a secret address, by the hash of what is secret."""
    return shaped.one(Calendar, conn.execute(f"{_KEPT} AND token = ?", (digest,)))


def add(conn: sqlite3.Connection, uuid: str, actor: int, name: str, shows: str, digest: str, at: int) -> None:
    """Keep one."""
    conn.execute(
        "INSERT INTO calendar (uuid, actor, name, shows, token, at) VALUES (?, ?, ?, ?, ?, ?)",
        (uuid, actor, name, shows, digest, at),
    )


def move(conn: sqlite3.Connection, id: int, digest: str) -> None:
    """Give one another secret address."""
    conn.execute("UPDATE calendar SET token = ? WHERE id = ?", (digest, id))


def end(conn: sqlite3.Connection, id: int, at: int) -> None:
    """End one."""
    conn.execute("UPDATE calendar SET ended_at = ? WHERE id = ?", (at, id))
