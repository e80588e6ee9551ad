"""Migrations: numbered SQL files, each applied once, with its checksum in a ledger."""

from __future__ import annotations

import hashlib
import os
import sqlite3
from collections.abc import Iterator, Mapping
from importlib import resources
from pathlib import Path

from hawthorn.core.errors import BadStore
from hawthorn.core.quick import dataclass

_LEDGER = """
CREATE TABLE IF NOT EXISTS migration (
  number INTEGER PRIMARY KEY, name TEXT NOT NULL, checksum TEXT NOT NULL, at TEXT NOT NULL
) STRICT
"""


@dataclass(frozen=True, slots=True)
class Step:
    """One migration file."""

    number: int
    name: str
    sql: str

    @property
    def checksum(self) -> str:
        """The SHA-256 of its text."""
        return hashlib.sha256(self.sql.encode()).hexdigest()


def steps() -> list[Step]:
    """All migrations that this program knows, in order."""
    found = []
    for item in resources.files("hawthorn.store.migrations").iterdir():
        if item.name.endswith(".sql"):
            number, _, name = item.name.removesuffix(".sql").partition("_")
            found.append(Step(int(number), name, item.read_text("utf-8")))
    return sorted(found, key=lambda step: step.number)


def migrate(conn: sqlite3.Connection, path: Path | None = None) -> list[Step]:
    """Bring a file up to what this program knows; returns what was applied.

    With the `path` of the file, a copy of it as it was is kept beside it before anything is changed; a new file needs
    none. Nobody else may write meanwhile. Raises `BadStore` for a file that a newer program made, or whose ledger does
    not match these files.
    """
    known = {step.number: step for step in steps()}
    before = pending(conn, known)
    if not before:
        return []
    if path is not None and len(before) < len(known):
        keep_copy(conn, path, before[0])
    applied = []
    conn.execute(_LEDGER)
    with _immediate(conn):
        done = _done(conn)
        _check(done, known)
        for number in sorted(set(known) - set(done)):
            step = known[number]
            for statement in _statements(step.sql):
                conn.execute(statement)
            conn.execute(
                "INSERT INTO migration VALUES (?, ?, ?, strftime('%Y-%m-%dT%H:%M:%SZ', 'now'))",
                (number, step.name, step.checksum),
            )
            applied.append(step)
    return applied


def pending(conn: sqlite3.Connection, known: Mapping[int, Step] | None = None) -> list[int]:
    """The migrations that a file still needs, by number. Changes nothing; raises `BadStore` as `migrate` does."""
    known = known or {step.number: step for step in steps()}
    done = _done(conn)
    _check(done, known)
    return sorted(set(known) - set(done))


def copy_of(path: Path, number: int) -> Path:
    """Where the copy of a file is kept that was made before a migration."""
    return path.with_name(f"{path.name}.before-{number:03d}")


def keep_copy(conn: sqlite3.Connection, path: Path, number: int) -> Path:
    """Keep a whole copy of a file as it is before a migration; one that was begun and not ended is never taken for it."""
    whole = copy_of(path, number)
    begun = whole.with_name(f"{whole.name}.begun")
    begun.unlink(missing_ok=True)
    conn.execute("VACUUM INTO ?", (str(begun),))
    with begun.open("rb") as file:
        os.fsync(file.fileno())
    begun.chmod(0o600)
    os.replace(begun, whole)
    return whole


def _done(conn: sqlite3.Connection) -> dict[int, sqlite3.Row]:
    if (
        conn.execute("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = 'migration'").fetchone()
        is None
    ):
        return {}
    return {row["number"]: row for row in conn.execute("SELECT number, name, checksum FROM migration")}


def _check(done: Mapping[int, sqlite3.Row], known: Mapping[int, Step]) -> None:
    newer = sorted(set(done) - set(known))
    if newer:
        raise BadStore("migrate.newer", newer=newer[-1], known=max(known))
    for number, row in done.items():
        if row["checksum"] != known[number].checksum:
            raise BadStore("migrate.another_text", number=number, name=row["name"])


def _statements(sql: str) -> Iterator[str]:
    """Split a script into statements; `executescript` would commit the transaction around it."""
    pending = ""
    for line in sql.splitlines(keepends=True):
        pending += line
        if sqlite3.complete_statement(pending):
            yield pending
            pending = ""


class _immediate:
    def __init__(self, conn: sqlite3.Connection) -> None:
        self.conn = conn

    def __enter__(self) -> None:
        self.conn.execute("BEGIN IMMEDIATE")

    def __exit__(self, kind: object, *_: object) -> None:
        try:
            if kind is None:
                self.conn.execute("COMMIT")
        finally:
            # SQLite takes some back by itself, such as on a disk that is full.
            if self.conn.in_transaction:
                self.conn.execute("ROLLBACK")
