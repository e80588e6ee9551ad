"""Second factors by a code: their secret, which is sealed, and the spare codes that are left."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import field

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class SecondFactor:
    """What somebody confirms a log-in with."""

    actor: int
    secret: str = field(repr=False)
    begun_at: int
    since: int | None
    counter: int
    spare: str = field(repr=False)


def lacks_factor(conn: sqlite3.Connection, actor: int, token_hash: str) -> bool:
    """Whether somebody has no second factor, and did not come by this session through a provider, who asks for its own."""
    row = conn.execute(
        "SELECT EXISTS (SELECT 1 FROM second_factor WHERE actor = ? AND since IS NOT NULL) "
        "OR EXISTS (SELECT 1 FROM provider_session WHERE token_hash = ?)",
        (actor, token_hash),
    ).fetchone()
    return not row[0]


def second_factor(conn: sqlite3.Connection, actor: int) -> SecondFactor | None:
    """Somebody's second factor; `since` is null while it is being set up."""
    return shaped.one(SecondFactor, conn.execute("SELECT * FROM second_factor WHERE actor = ?", (actor,)))


def has_second_factor(conn: sqlite3.Connection, actor: int) -> bool:
    """Whether somebody logs in with a second factor."""
    row = second_factor(conn, actor)
    return row is not None and row.since is not None


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
