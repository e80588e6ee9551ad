"""The record file of one process: one writer that owns its transactions, and readers for every thread."""

from __future__ import annotations

import fcntl
import os
import sqlite3
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

from hawthorn.core.errors import BadStore
from hawthorn.store import connection, migrate
from hawthorn.store.wake import Bell

T = TypeVar("T")


class Database:
    """Opens (and, when it is new, makes) a record file.

    `write` runs a callback in a transaction that only the runner begins, commits or rolls back. Writers
    of several processes queue by a lock on a file beside the record file before they begin, so that none
    starves. `read` gives a connection in one read transaction, which sees one state throughout.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        path.parent.mkdir(parents=True, exist_ok=True)
        self._lock_file = os.open(path.with_name(path.name + ".lock"), os.O_RDWR | os.O_CREAT, 0o600)
        self._lock = threading.Lock()
        self._readers = threading.local()
        self._all_readers: list[sqlite3.Connection] = []
        self.bell = Bell(path)
        self._writer: sqlite3.Connection | None = None
        try:
            with self._queued():
                self._writer = connection.open_writer(path)
                migrate.migrate(self._writer)
        except BadStore:
            self.close()
            raise
        except sqlite3.DatabaseError as error:
            self.close()
            raise BadStore(
                f"“{path.name}” is not a Hawthorn record file ({error}).",
                remedy="Name another file, or restore a backup.",
            ) from None

    @contextmanager
    def _queued(self) -> Iterator[None]:
        with self._lock:
            fcntl.flock(self._lock_file, fcntl.LOCK_EX)
            try:
                yield
            finally:
                fcntl.flock(self._lock_file, fcntl.LOCK_UN)

    def write(self, act: Callable[[sqlite3.Connection], T]) -> T:
        """Run `act` in a transaction; commit when it returns, roll back when it raises."""
        with self._queued():
            conn = self._writer
            assert conn is not None
            conn.execute("BEGIN IMMEDIATE")
            try:
                result = act(conn)
            except BaseException:
                conn.execute("ROLLBACK")
                raise
            conn.execute("COMMIT")
        self.bell.ring()
        return result

    @contextmanager
    def read(self) -> Iterator[sqlite3.Connection]:
        """A reader of this thread, in one read transaction."""
        conn = self.reader()
        if conn.in_transaction:
            yield conn
            return
        conn.execute("BEGIN")
        try:
            yield conn
        finally:
            conn.execute("ROLLBACK")

    def reader(self) -> sqlite3.Connection:
        """The read-only connection of this thread, made when first asked for."""
        conn: sqlite3.Connection | None = getattr(self._readers, "conn", None)
        if conn is None:
            conn = connection.open_reader(self.path)
            self._readers.conn = conn
            with self._lock:
                self._all_readers.append(conn)
        return conn

    def close(self) -> None:
        """Wait for a running write, then close every connection."""
        with self._lock:
            self.bell.close()
            for conn in self._all_readers:
                conn.close()
            if self._writer is not None:
                self._writer.close()
            os.close(self._lock_file)
