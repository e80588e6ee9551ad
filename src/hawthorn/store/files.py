"""Stored files, known by the SHA-256 of their bytes: the same bytes are kept once."""

from __future__ import annotations

import sqlite3


def add(
    conn: sqlite3.Connection,
    sha256: str,
    media_type: str,
    name: str,
    width: int | None,
    height: int | None,
    data: bytes,
    at: int,
    actor: int,
) -> None:
    """Keep a file, unless its bytes are kept already."""
    conn.execute(
        "INSERT OR IGNORE INTO file VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (sha256, media_type, name, len(data), width, height, data, at, actor),
    )


def find(conn: sqlite3.Connection, sha256: str) -> sqlite3.Row | None:
    """A file with its bytes."""
    row: sqlite3.Row | None = conn.execute("SELECT * FROM file WHERE sha256 = ?", (sha256,)).fetchone()
    return row


def known(conn: sqlite3.Connection, sha256: str) -> bool:
    """Whether a file is kept."""
    return conn.execute("SELECT 1 FROM file WHERE sha256 = ?", (sha256,)).fetchone() is not None


def is_out(conn: sqlite3.Connection, sha256: str, stage: int) -> bool:
    """Whether something that stands at a stage holds the file."""
    return (
        conn.execute(
            "SELECT 1 FROM file_use u JOIN revision r ON r.id = u.revision JOIN standing s ON s.edition = r.edition "
            "AND s.stage = ? AND s.until IS NULL AND s.revision = u.revision WHERE u.sha256 = ? LIMIT 1",
            (stage, sha256),
        ).fetchone()
        is not None
    )
