"""What is looked at in a record file to tell whether it is whole."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator


def pages(conn: sqlite3.Connection) -> list[str]:
    """What SQLite itself finds wrong with the pages of the file; empty when all is well."""
    return [row[0] for row in conn.execute("PRAGMA integrity_check") if row[0] != "ok"]


def broken_references(conn: sqlite3.Connection) -> list[str]:
    """The tables in which a row refers to one that is not there, once for each row."""
    return [row[0] for row in conn.execute("PRAGMA foreign_key_check")]


def files_in_part(conn: sqlite3.Connection) -> Iterator[str]:
    """Files (SHA-256) that should lie in the record file and of which not all bytes do."""
    for row in conn.execute(
        "SELECT f.sha256 FROM file f WHERE f.outside = 0 AND f.bytes <> "
        "(SELECT coalesce(sum(length(p.data)), 0) FROM file_part p WHERE p.sha256 = f.sha256)"
    ):
        yield row[0]


def files_outside(conn: sqlite3.Connection) -> dict[str, int]:
    """The files (SHA-256) that lie in the file store, with their bytes."""
    return dict(conn.execute("SELECT sha256, bytes FROM file WHERE outside = 1"))


def any_outside(conn: sqlite3.Connection) -> bool:
    """Whether any file lies in the file store."""
    return conn.execute("SELECT 1 FROM file WHERE outside = 1 LIMIT 1").fetchone() is not None


POSITION = "SELECT (SELECT value FROM setting WHERE name = 'term'), (SELECT max(seq) FROM event)"
"""How far a record file has come: the term of whoever wrote it last, and its newest event."""


def position(conn: sqlite3.Connection) -> tuple[int, int]:
    """The same, once."""
    row = conn.execute(POSITION).fetchone()
    return int(row[0] or 0), row[1] or 0


def answers(conn: sqlite3.Connection) -> None:
    """Read one row, which fails where the file cannot be read."""
    conn.execute("SELECT 1 FROM setting").fetchone()
