"""Actors, roles, sessions and keys."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from typing import Any


def add_actor(
    conn: sqlite3.Connection, kind: str, handle: str, name: str, email: str, password: str, zone: str, at: int
) -> int:
    """Add someone or something that acts; `password` is its Argon2id hash, or empty for none."""
    cursor = conn.execute(
        "INSERT INTO actor (kind, handle, name, email, password, zone, created_at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (kind, handle, name, email, password, zone, at),
    )
    return int(cursor.lastrowid or 0)


def by_handle(conn: sqlite3.Connection, handle: str) -> sqlite3.Row | None:
    """An actor who has not ended, by handle or mail address."""
    row: sqlite3.Row | None = conn.execute(
        "SELECT * FROM actor WHERE (handle = ? OR (email = ? AND email <> '')) AND ended_at IS NULL",
        (handle, handle),
    ).fetchone()
    return row


def actor(conn: sqlite3.Connection, id: int) -> sqlite3.Row | None:
    """An actor who has not ended, by id."""
    row: sqlite3.Row | None = conn.execute(
        "SELECT * FROM actor WHERE id = ? AND ended_at IS NULL", (id,)
    ).fetchone()
    return row


def all_actors(conn: sqlite3.Connection) -> list[sqlite3.Row]:
    """Everybody, by name."""
    return conn.execute("SELECT * FROM actor WHERE ended_at IS NULL ORDER BY kind, name").fetchall()


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


def holdings(conn: sqlite3.Connection, actor: int) -> list[sqlite3.Row]:
    """The roles of an actor with their grants."""
    return conn.execute(
        "SELECT h.role, h.locales, h.sections, r.label, r.grants FROM holding h JOIN role r ON r.name = h.role "
        "WHERE h.actor = ? ORDER BY h.role",
        (actor,),
    ).fetchall()


def all_holdings(conn: sqlite3.Connection) -> list[sqlite3.Row]:
    """Every role as everybody holds it."""
    return conn.execute(
        "SELECT a.id, a.name, a.handle, a.kind, a.email, a.zone, h.role, h.locales, h.sections, r.label, r.grants FROM holding h "
        "JOIN role r ON r.name = h.role JOIN actor a ON a.id = h.actor WHERE a.ended_at IS NULL ORDER BY a.name"
    ).fetchall()


def roles(conn: sqlite3.Connection) -> list[sqlite3.Row]:
    """All roles."""
    return conn.execute("SELECT name, label, grants FROM role ORDER BY name").fetchall()


def open_session(conn: sqlite3.Connection, token_hash: str, actor: int, at: int, expires_at: int) -> None:
    """Record a session by the hash of its token."""
    conn.execute(
        "INSERT INTO session (token_hash, actor, created_at, expires_at) VALUES (?, ?, ?, ?)",
        (token_hash, actor, at, expires_at),
    )


def session_actor(conn: sqlite3.Connection, token_hash: str, now: int) -> int | None:
    """Whose session it is, if it is open."""
    row = conn.execute(
        "SELECT actor FROM session WHERE token_hash = ? AND ended_at IS NULL AND expires_at > ?",
        (token_hash, now),
    ).fetchone()
    return row[0] if row else None


def end_session(conn: sqlite3.Connection, token_hash: str, at: int) -> None:
    """End a session."""
    conn.execute(
        "UPDATE session SET ended_at = ? WHERE token_hash = ? AND ended_at IS NULL", (at, token_hash)
    )


def add_key(
    conn: sqlite3.Connection,
    secret_hash: str,
    start: str,
    name: str,
    actor: int,
    stages: Sequence[str],
    at: int,
) -> int:
    """Record a key by the hash of its secret."""
    cursor = conn.execute(
        "INSERT INTO access_key (secret_hash, start, name, actor, stages, created_at) VALUES (?, ?, ?, ?, ?, ?)",
        (secret_hash, start, name, actor, json.dumps(list(stages)), at),
    )
    return int(cursor.lastrowid or 0)


def key(conn: sqlite3.Connection, secret_hash: str) -> sqlite3.Row | None:
    """A key that has not ended."""
    row: sqlite3.Row | None = conn.execute(
        "SELECT * FROM access_key WHERE secret_hash = ? AND ended_at IS NULL", (secret_hash,)
    ).fetchone()
    return row


def keys(conn: sqlite3.Connection) -> list[sqlite3.Row]:
    """All keys that have not ended, without their secrets."""
    return conn.execute(
        "SELECT k.id, k.start, k.name, k.stages, k.created_at, a.handle FROM access_key k "
        "JOIN actor a ON a.id = k.actor WHERE k.ended_at IS NULL ORDER BY k.id"
    ).fetchall()


def end_key(conn: sqlite3.Connection, id: int, at: int) -> bool:
    """End a key; False when there is none."""
    return (
        conn.execute(
            "UPDATE access_key SET ended_at = ? WHERE id = ? AND ended_at IS NULL", (at, id)
        ).rowcount
        > 0
    )


def note_attempt(conn: sqlite3.Connection, handle: str, at: int, since: int) -> int:
    """Note a failed log-in and count those since an instant."""
    conn.execute("DELETE FROM login_attempt WHERE at < ?", (since,))
    conn.execute("INSERT INTO login_attempt VALUES (?, ?)", (handle, at))
    return attempts(conn, handle, since)


def attempts(conn: sqlite3.Connection, handle: str, since: int) -> int:
    """Failed log-ins since an instant."""
    count: int = conn.execute(
        "SELECT count(*) FROM login_attempt WHERE handle = ? AND at >= ?", (handle, since)
    ).fetchone()[0]
    return count
