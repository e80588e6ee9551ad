"""Opening the record file: one place prepares every connection."""

from __future__ import annotations

import os
import sqlite3
import stat
from contextlib import suppress
from pathlib import Path

from hawthorn.core.filtering import distance

_LOG = 8_000_000
"""Bytes of the write-ahead log that are left on the disk once it was emptied, however large it had to grow."""


class Writer(sqlite3.Connection):
    """A connection that may write; it gathers what its transaction will have to be told of (see `store.wake.tell`)."""

    told: set[str]


def keep_private(path: Path) -> None:
    """Let a database and what lies beside it be read by its owner alone, whatever the usual mode of new files is.

    It holds hashes of passwords and tokens, and what was not released yet.
    """
    with suppress(FileExistsError):
        os.close(os.open(path, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o600))
    for ending in ("", "-wal", "-shm"):
        beside = path.with_name(path.name + ending)
        with suppress(OSError):
            # A folder that was named by mistake stays whose it is.
            if beside.is_file() and stat.S_IMODE(beside.stat().st_mode) & 0o077:
                beside.chmod(0o600)


def open_writer(path: Path, waits: bool = True) -> Writer:
    """A connection that may write. Transactions are begun by the writer alone. It `waits` for the disk after each, but where a file is filled that
    is made anew if the power fails meanwhile."""
    with suppress(OSError):
        # A file on a disk that cannot be written is refused by the database itself, by its name.
        keep_private(path)
    conn = sqlite3.connect(
        path, isolation_level=None, check_same_thread=False, cached_statements=512, factory=Writer
    )
    conn.told = set()
    try:
        _prepare(conn)
        conn.execute("PRAGMA cache_size = -32000")
        conn.execute("PRAGMA journal_mode = WAL")
        conn.execute(f"PRAGMA journal_size_limit = {_LOG}")
        conn.execute(f"PRAGMA synchronous = {'FULL' if waits else 'OFF'}")
        conn.execute("PRAGMA foreign_keys = ON")
    except sqlite3.Error:
        conn.close()
        raise
    return conn


def open_still(path: Path) -> sqlite3.Connection:
    """A connection that changes nothing at all, not even beside the file, and needs no right to; for looking at a file that
    may be damaged, on a disk that may not be written."""
    try:
        conn = open_reader(path)
        conn.execute("SELECT 1 FROM sqlite_master").fetchone()
    except sqlite3.OperationalError:
        if path.with_name(f"{path.name}-wal").exists():
            raise
        conn = sqlite3.connect(f"{path.resolve().as_uri()}?immutable=1", uri=True, isolation_level=None)
        conn.row_factory = sqlite3.Row
    return conn


def open_held(path: Path) -> sqlite3.Connection:
    """A connection that cannot write, to a file that is held as it is for as long as it is open (see `store.holding`): SQLite locks nothing, looks
    for no changes and reads no log."""
    return _reading(path, "immutable=1")


def open_reader(path: Path) -> sqlite3.Connection:
    """A connection that cannot write."""
    return _reading(path, "mode=ro")


def _reading(path: Path, how: str) -> sqlite3.Connection:
    conn = sqlite3.connect(
        f"{path.resolve().as_uri()}?{how}",
        uri=True,
        isolation_level=None,
        check_same_thread=False,
        cached_statements=512,
    )
    _prepare(conn)
    conn.execute("PRAGMA query_only = ON")
    return conn


def _prepare(conn: sqlite3.Connection) -> None:
    conn.row_factory = sqlite3.Row
    conn.execute("PRAGMA busy_timeout = 10000")
    # Pages of the file are mapped, as far as SQLite maps at all (two gigabytes); only those behind that, or still in the log, are copied. The system
    # keeps them too, so that readers, of which there may be several, need not keep many.
    conn.execute("PRAGMA cache_size = -4000")
    conn.execute(f"PRAGMA mmap_size = {2**31 - 65_536}")
    conn.execute("PRAGMA temp_store = MEMORY")
    conn.create_function("kilometres", 4, distance, deterministic=True)


def mark(conn: sqlite3.Connection) -> None:
    """Mark a point of a transaction, to which `settle` may go back."""
    conn.execute("SAVEPOINT trial")


def settle(conn: sqlite3.Connection, *, kept: bool) -> None:
    """Keep what was done since the newest mark, or undo it. A full or failing disk may have ended the whole transaction."""
    if conn.in_transaction:
        if not kept:
            conn.execute("ROLLBACK TO trial")
        conn.execute("RELEASE trial")
