"""Guesses at passwords, codes and phrases, by what they were made at."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence


def note(conn: sqlite3.Connection, key: str, at: int, instant: int) -> None:
    """Note a guess, and forget those before an instant."""
    conn.execute("DELETE FROM login_attempt WHERE at < ?", (instant,))
    conn.execute("INSERT INTO login_attempt VALUES (?, ?)", (key, at))


def since(conn: sqlite3.Connection, key: str, instant: int) -> tuple[int, int]:
    """How many guesses there were since an instant, and when the last one was."""
    row = conn.execute(
        "SELECT count(*), coalesce(max(at), 0) FROM login_attempt WHERE handle = ? AND at >= ?",
        (key, instant),
    ).fetchone()
    return row[0], row[1]


def forget(conn: sqlite3.Connection, keys: Sequence[str], latest: int = 0) -> None:
    """Forget all guesses under some keys, or the latest so many of each."""
    for key in keys:
        conn.execute(
            "DELETE FROM login_attempt WHERE rowid IN (SELECT rowid FROM login_attempt WHERE handle = ? "
            "ORDER BY at DESC, rowid DESC LIMIT ?)",
            (key, latest or -1),
        )
