"""Passkeys of people, as they are kept: public keys, which are no secret."""

from __future__ import annotations

import json
import secrets
import sqlite3
from collections.abc import Sequence

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped

_COLUMNS = "id, uuid, actor, credential, public_key, counter, transports, name, at, used_at"


@dataclass(frozen=True, slots=True)
class Passkey:
    """A passkey. `transports` is JSON: the ways in which a browser reaches the device; `counter` is what the device said last, 0 where it does not count."""

    id: int
    uuid: str
    actor: int
    credential: bytes
    public_key: bytes
    counter: int
    transports: str
    name: str
    at: int
    used_at: int | None


def of(conn: sqlite3.Connection, actor: int) -> list[Passkey]:
    """Somebody's, the newest first."""
    rows = conn.execute(f"SELECT {_COLUMNS} FROM passkey WHERE actor = ? ORDER BY id DESC", (actor,))
    return shaped.every(Passkey, rows)


def has(conn: sqlite3.Connection, actor: int) -> bool:
    """Whether somebody has one."""
    return conn.execute("SELECT 1 FROM passkey WHERE actor = ?", (actor,)).fetchone() is not None


def by_credential(conn: sqlite3.Connection, credential: bytes) -> Passkey | None:
    """The one that a device calls so."""
    return shaped.one(
        Passkey, conn.execute(f"SELECT {_COLUMNS} FROM passkey WHERE credential = ?", (credential,))
    )


def by_uuid(conn: sqlite3.Connection, actor: int, uuid: str) -> Passkey | None:
    """One of somebody's, by id."""
    return shaped.one(
        Passkey,
        conn.execute(f"SELECT {_COLUMNS} FROM passkey WHERE actor = ? AND uuid = ?", (actor, uuid)),
    )


def add(
    conn: sqlite3.Connection,
    uuid: str,
    actor: int,
    credential: bytes,
    public_key: bytes,
    counter: int,
    transports: Sequence[str],
    name: str,
    at: int,
) -> None:
    """Keep a new one."""
    conn.execute(
        "INSERT INTO passkey (uuid, actor, credential, public_key, counter, transports, name, at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (uuid, actor, credential, public_key, counter, json.dumps(list(transports)), name, at),
    )


def rename(conn: sqlite3.Connection, id: int, name: str) -> None:
    """Call one otherwise."""
    conn.execute("UPDATE passkey SET name = ? WHERE id = ?", (name, id))


def used(conn: sqlite3.Connection, id: int, counter: int, at: int) -> None:
    """Note that somebody logged in with it."""
    conn.execute("UPDATE passkey SET counter = ?, used_at = ? WHERE id = ?", (counter, at, id))


def end(conn: sqlite3.Connection, id: int) -> None:
    """Let nobody log in with it any more."""
    conn.execute("DELETE FROM passkey WHERE id = ?", (id,))


def end_all(conn: sqlite3.Connection, actor: int) -> int:
    """The same of all of somebody's; returns how many there were."""
    return conn.execute("DELETE FROM passkey WHERE actor = ?", (actor,)).rowcount


def user_name(conn: sqlite3.Connection, actor: int) -> bytes:
    """What devices call somebody (Web Authentication, section 14.6.1: nothing that says who it is)."""
    conn.execute(
        "INSERT INTO passkey_user VALUES (?, ?) ON CONFLICT (actor) DO NOTHING",
        (actor, secrets.token_bytes(32)),
    )
    name: bytes = conn.execute("SELECT name FROM passkey_user WHERE actor = ?", (actor,)).fetchone()[0]
    return name


def is_new(conn: sqlite3.Connection, challenge_hash: str, at: int, since: int) -> bool:
    """Note that an answer was taken; whether it is the first time. Those from before an instant are forgotten."""
    conn.execute("DELETE FROM passkey_answer WHERE at < ?", (since,))
    return (
        conn.execute("INSERT OR IGNORE INTO passkey_answer VALUES (?, ?)", (challenge_hash, at)).rowcount > 0
    )
