"""Log-ins through an identity provider: who they belong to, those that are under way, and the sessions that it may end."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection
from dataclasses import field

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped

MOST_BEGUN = 10_000
"""So many log-ins may be under way; of more, the oldest are forgotten."""


@dataclass(frozen=True, slots=True)
class Begun:
    """A log-in that was begun: what the provider has to send back, and what the code is exchanged with. `verifier` is sealed."""

    browser_hash: str
    nonce: str
    verifier: str = field(repr=False)
    at: int


def begin(
    conn: sqlite3.Connection,
    state_hash: str,
    browser_hash: str,
    nonce: str,
    verifier: str,
    at: int,
    since: int,
) -> None:
    """Note a log-in that is begun, and forget those that were begun before an instant."""
    conn.execute("DELETE FROM provider_log_in WHERE at < ?", (since,))
    conn.execute(
        "DELETE FROM provider_log_in WHERE state_hash IN (SELECT state_hash FROM provider_log_in ORDER BY at DESC LIMIT -1 OFFSET ?)",
        (MOST_BEGUN - 1,),
    )
    conn.execute(
        "INSERT INTO provider_log_in VALUES (?, ?, ?, ?, ?)", (state_hash, browser_hash, nonce, verifier, at)
    )


def take(conn: sqlite3.Connection, state_hash: str, since: int) -> Begun | None:
    """A log-in that was begun since an instant, which is taken away: it comes back once."""
    return shaped.one(
        Begun,
        conn.execute(
            "DELETE FROM provider_log_in WHERE state_hash = ? AND at >= ? RETURNING browser_hash, nonce, verifier, at",
            (state_hash, since),
        ),
    )


def actor_of(conn: sqlite3.Connection, issuer: str, subject: str) -> int | None:
    """Who it is that a provider calls so, also one who has left."""
    row = conn.execute(
        "SELECT actor FROM provider_account WHERE issuer = ? AND subject = ?", (issuer, subject)
    ).fetchone()
    return row[0] if row else None


def connect(conn: sqlite3.Connection, issuer: str, subject: str, actor: int, at: int) -> None:
    """Note who it is that a provider calls so."""
    conn.execute("INSERT INTO provider_account VALUES (?, ?, ?, ?)", (issuer, subject, actor, at))


def disconnect(conn: sqlite3.Connection, actor: int) -> int:
    """Let nobody log in as somebody through a provider any more; returns how many accounts there could."""
    return conn.execute("DELETE FROM provider_account WHERE actor = ?", (actor,)).rowcount


def connected(conn: sqlite3.Connection, actors: Collection[int]) -> set[int]:
    """Of some people, those who log in through a provider."""
    rows = conn.execute("SELECT DISTINCT actor FROM provider_account").fetchall()
    return {row[0] for row in rows} & set(actors)


def note_session(conn: sqlite3.Connection, token_hash: str, issuer: str, subject: str, name: str) -> None:
    """Note that a session may be ended by the provider, by what it calls somebody or its own session."""
    conn.execute("INSERT INTO provider_session VALUES (?, ?, ?, ?)", (token_hash, issuer, subject, name))


def sessions(
    conn: sqlite3.Connection, issuer: str, subject: str, name: str, now: int
) -> list[tuple[str, int]]:
    """The open sessions of a provider's session, or of all that somebody has; each by its hash, with whose it is."""
    rows = conn.execute(
        "SELECT s.token_hash, s.actor FROM provider_session p JOIN session s ON s.token_hash = p.token_hash WHERE p.issuer = ?1 "
        "AND (?2 = '' OR p.subject = ?2) AND (?3 = '' OR p.name = ?3) AND s.ended_at IS NULL AND s.expires_at > ?4",
        (issuer, subject, name, now),
    )
    return [(row[0], row[1]) for row in rows.fetchall()]


def is_new(conn: sqlite3.Connection, id: str, at: int, since: int) -> bool:
    """Whether a word of a provider was not taken yet; it is from now on. Those taken before an instant are forgotten."""
    conn.execute("DELETE FROM provider_word WHERE at < ?", (since,))
    return conn.execute("INSERT OR IGNORE INTO provider_word VALUES (?, ?)", (id, at)).rowcount == 1
