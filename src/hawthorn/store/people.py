"""Actors, roles, sessions and keys."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from typing import Any


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


def by_handle(conn: sqlite3.Connection, handle: str) -> sqlite3.Row | None:
    """An actor who has not ended, by handle or mail address."""
    row: sqlite3.Row | None = conn.execute(
        "SELECT * FROM actor WHERE (handle IN (?1, ?2) OR (email = ?1 AND email <> '')) AND ended_at IS NULL "
        "ORDER BY handle = ?1 DESC LIMIT 1",
        (handle, handle.strip().casefold()),
    ).fetchone()
    return row


def actor(conn: sqlite3.Connection, id: int) -> sqlite3.Row | None:
    """An actor who has not ended, by id."""
    row: sqlite3.Row | None = conn.execute(
        "SELECT * FROM actor WHERE id = ? AND ended_at IS NULL", (id,)
    ).fetchone()
    return row


def ever(conn: sqlite3.Connection, handle: str) -> sqlite3.Row | None:
    """An actor by handle, also one who has ended."""
    row: sqlite3.Row | None = conn.execute("SELECT * FROM actor WHERE handle = ?", (handle,)).fetchone()
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


def set_profile(conn: sqlite3.Connection, id: int, name: str, zone: str) -> None:
    """Keep somebody's name and zone."""
    conn.execute("UPDATE actor SET name = ?, zone = ? WHERE id = ?", (name, zone, id))


def open_session(
    conn: sqlite3.Connection,
    token_hash: str,
    actor: int,
    at: int,
    expires_at: int,
    uuid: str,
    agent: str,
) -> None:
    """Record a session by the hash of its token; `uuid` is what it is called when it is ended by another."""
    conn.execute(
        "INSERT INTO session (token_hash, actor, created_at, expires_at, uuid, agent, seen_at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (token_hash, actor, at, expires_at, uuid, agent, at),
    )


def sessions(conn: sqlite3.Connection, actor: int, now: int) -> list[sqlite3.Row]:
    """Somebody's open sessions, the newest first."""
    return conn.execute(
        "SELECT * FROM session WHERE actor = ? AND ended_at IS NULL AND expires_at > ? ORDER BY created_at DESC",
        (actor, now),
    ).fetchall()


def session(conn: sqlite3.Connection, uuid: str) -> sqlite3.Row | None:
    """An open session with its holder's handle."""
    row: sqlite3.Row | None = conn.execute(
        "SELECT s.*, a.handle FROM session s JOIN actor a ON a.id = s.actor WHERE s.uuid = ? AND s.ended_at IS NULL",
        (uuid,),
    ).fetchone()
    return row


def session_last_seen(conn: sqlite3.Connection, token_hash: str) -> int:
    """When a session was last noted as in use; far in the future for what is none."""
    row = conn.execute("SELECT seen_at FROM session WHERE token_hash = ?", (token_hash,)).fetchone()
    return row[0] if row else 1 << 62


def session_seen(conn: sqlite3.Connection, token_hash: str, at: int, idle: int, longest: int) -> None:
    """Note that an open session is in use: it goes on for so long again, but not beyond its longest."""
    conn.execute(
        "UPDATE session SET seen_at = ?1, expires_at = min(created_at + ?2, ?1 + ?3) WHERE token_hash = ?4 "
        "AND ended_at IS NULL AND expires_at > ?1",
        (at, longest, idle, token_hash),
    )


def end_sessions(conn: sqlite3.Connection, actor: int, at: int, but: str = "") -> None:
    """End all sessions of somebody, or all but one."""
    conn.execute(
        "UPDATE session SET ended_at = ? WHERE actor = ? AND ended_at IS NULL AND token_hash <> ?",
        (at, actor, but),
    )


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


def invitation(conn: sqlite3.Connection, token_hash: str, now: int) -> sqlite3.Row | None:
    """Whom an invitation that may be used is for."""
    row: sqlite3.Row | None = conn.execute(
        "SELECT a.*, b.name AS by_name FROM invitation i JOIN actor a ON a.id = i.actor AND a.ended_at IS NULL "
        "JOIN actor b ON b.id = i.by WHERE i.token_hash = ? AND i.used_at IS NULL AND i.expires_at > ?",
        (token_hash, now),
    ).fetchone()
    return row


def has_invitation(conn: sqlite3.Connection, actor: int, now: int) -> bool:
    """Whether somebody was invited and may still come."""
    return (
        conn.execute(
            "SELECT 1 FROM invitation WHERE actor = ? AND used_at IS NULL AND expires_at > ?", (actor, now)
        ).fetchone()
        is not None
    )


def second_factor(conn: sqlite3.Connection, actor: int) -> sqlite3.Row | None:
    """Somebody's second factor; `since` is null while it is being set up."""
    row: sqlite3.Row | None = conn.execute("SELECT * FROM second_factor WHERE actor = ?", (actor,)).fetchone()
    return row


def has_second_factor(conn: sqlite3.Connection, actor: int) -> bool:
    """Whether somebody logs in with a second factor."""
    row = second_factor(conn, actor)
    return row is not None and row["since"] is not None


def begin_second_factor(conn: sqlite3.Connection, actor: int, secret: str, at: int) -> None:
    """Keep the secret of a second factor that is being set up."""
    conn.execute(
        "INSERT OR REPLACE INTO second_factor (actor, secret, begun_at) VALUES (?, ?, ?)", (actor, secret, at)
    )


def confirm_second_factor(conn: sqlite3.Connection, actor: int, at: int, spare: Sequence[str]) -> None:
    """Turn a second factor on, with the hashes of its spare codes."""
    conn.execute(
        "UPDATE second_factor SET since = ?, spare = ? WHERE actor = ?", (at, json.dumps(list(spare)), actor)
    )


def use_step(conn: sqlite3.Connection, actor: int, counter: int) -> None:
    """Note the time step whose code was taken."""
    conn.execute("UPDATE second_factor SET counter = ? WHERE actor = ?", (counter, actor))


def set_spare(conn: sqlite3.Connection, actor: int, spare: Sequence[str]) -> None:
    """Keep the hashes of the spare codes that are left."""
    conn.execute("UPDATE second_factor SET spare = ? WHERE actor = ?", (json.dumps(list(spare)), actor))


def end_second_factor(conn: sqlite3.Connection, actor: int) -> None:
    """Turn a second factor off."""
    conn.execute("DELETE FROM second_factor WHERE actor = ?", (actor,))


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
    expires_at: int | None = None,
) -> int:
    """Record a key by the hash of its secret, and when it ends by itself."""
    cursor = conn.execute(
        "INSERT INTO access_key (secret_hash, start, name, actor, stages, created_at, expires_at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (secret_hash, start, name, actor, json.dumps(list(stages)), at, expires_at),
    )
    return int(cursor.lastrowid or 0)


def key(conn: sqlite3.Connection, secret_hash: str) -> sqlite3.Row | None:
    """A key that nobody ended; it may have expired."""
    row: sqlite3.Row | None = conn.execute(
        "SELECT * FROM access_key WHERE secret_hash = ? AND ended_at IS NULL", (secret_hash,)
    ).fetchone()
    return row


def keys(conn: sqlite3.Connection) -> list[sqlite3.Row]:
    """All keys that have not ended, without their secrets."""
    return conn.execute(
        "SELECT k.id, k.start, k.name, k.stages, k.created_at, k.expires_at, k.actor, a.handle, a.kind FROM access_key k "
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


def note_attempt(conn: sqlite3.Connection, key: str, at: int, since: int) -> None:
    """Note a guess, and forget those before an instant."""
    conn.execute("DELETE FROM login_attempt WHERE at < ?", (since,))
    conn.execute("INSERT INTO login_attempt VALUES (?, ?)", (key, at))


def attempts(conn: sqlite3.Connection, key: str, since: int) -> tuple[int, int]:
    """How many guesses there were since an instant, and when the last one was."""
    row = conn.execute(
        "SELECT count(*), coalesce(max(at), 0) FROM login_attempt WHERE handle = ? AND at >= ?", (key, since)
    ).fetchone()
    return row[0], row[1]


def forget_attempts(conn: sqlite3.Connection, keys: Sequence[str], latest: int = 0) -> None:
    """Forget all guesses under some keys, or the latest so many of each."""
    for key in keys:
        conn.execute(
            "DELETE FROM login_attempt WHERE rowid IN (SELECT rowid FROM login_attempt WHERE handle = ? "
            "ORDER BY at DESC, rowid DESC LIMIT ?)",
            (key, latest or -1),
        )
