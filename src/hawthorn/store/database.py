"""The record file of one process: one writer that owns its transactions, and readers that are lent."""

from __future__ import annotations

import fcntl
import gc
import os
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

import structlog

from hawthorn.core.errors import BadStore, Busy
from hawthorn.core.messages import Message
from hawthorn.store import connection, failing, migrate
from hawthorn.store.pool import Own, Pool, closing
from hawthorn.store.wake import Bell

if TYPE_CHECKING:
    from hawthorn.store.replica import Replica

log = structlog.get_logger(__name__)
T = TypeVar("T")
PATIENCE = 20.0
"""Seconds that a write waits for its turn: many times what the longest act takes on a disk that works."""
MANY = 24
"""So many may wait for their turn; others are told to come again once one has been at work for long, so that there are threads left for those who read."""
LONG = 8.0
"""Seconds after which a write has been at work for long: longer than a dispatch of ten thousand moves."""
SLOW = 5.0
"""Seconds that nothing takes to be kept on a disk that works."""


@contextmanager
def _no_collection() -> Iterator[None]:
    """Leave cyclic garbage where it is while others wait: a large act makes much that is no garbage, and looking through it
    again and again took a quarter of its time."""
    on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if on:
            gc.enable()


class Database:
    """Opens (and, when it is new, makes) a record file.

    `write` runs a callback in a transaction that only the runner begins, commits or rolls back. Writers
    of several processes queue by a lock on a file beside the record file before they begin, so that none
    starves. `read` lends a connection in one read transaction, which sees one state throughout.
    """

    writes = True
    """Whether it can be written at all; a copy cannot."""
    writer = ""
    """Of a copy, the address of the service that writes."""
    _waiting = 0
    """How many wait for their turn to write."""
    _since = 0.0
    """Since when one is at work, by a clock that never goes back; 0 while none is."""
    _keeping = 0.0
    """Since when the disk is at work to keep something; 0 while it is not."""
    _slow = 0.0
    """Seconds that the disk took for the last write, where that was long."""
    replica: Replica | None = None
    """The replica that is kept of it, where one is."""
    behind: float | None = None
    """Of a copy, the seconds by which it was behind when that was asked last; nothing while nobody can say."""

    def __init__(self, path: Path, *, waits: bool = True) -> None:
        self.path = path
        self._lock = threading.Lock()
        # Held for a moment alone: for readers that somebody keeps, and for how many wait.
        self._lent = threading.Lock()
        self._mine = threading.local()
        self._pool = Pool(lambda: connection.open_reader(path))
        self._own: list[Own] = []
        self._watch: Own | None = None
        self._writer: connection.Writer | None = None
        self.guard: Callable[[], None] = lambda: None
        """Looked at before each write, with all other writers waiting, and before it is kept: raises where nothing may be written."""
        self.trouble: Message | None = None
        """Why the last write could not be kept, as long as none was kept since."""
        self.note_wait: Callable[[float], None] = lambda seconds: None
        """Told of each write for how many seconds it waited for others."""
        with failing.named(path, OSError):
            path.parent.mkdir(parents=True, exist_ok=True)
            self._lock_file = os.open(path.with_name(path.name + ".lock"), os.O_RDWR | os.O_CREAT, 0o600)
        self.bell = Bell(path)
        self.bell.quiet = self._pool.rest
        try:
            with self._queued(), failing.named(path):
                self._writer = connection.open_writer(path, waits)
                migrate.migrate(self._writer, path)
        except BaseException:
            self.close()
            raise

    @contextmanager
    def _queued(self) -> Iterator[None]:
        begun = time.monotonic()
        self._wait_for_turn(begun)
        try:
            if self._lock_file < 0:
                raise closing()
            self._since = begun
            fcntl.flock(self._lock_file, fcntl.LOCK_EX)
            self._since = time.monotonic()
            self.note_wait(self._since - begun)
            try:
                yield
            finally:
                fcntl.flock(self._lock_file, fcntl.LOCK_UN)
        finally:
            self._since = 0.0
            self._lock.release()

    def _wait_for_turn(self, begun: float) -> None:
        """Take the lock of those who write; raises `Busy` where that would take too long."""
        since = self._since
        if self._waiting >= MANY and since and begun - since > LONG:
            raise Busy("database.many_wait", waiting=self._waiting)
        with self._lent:
            self._waiting += 1
        try:
            mine = self._lock.acquire(timeout=PATIENCE)
        finally:
            with self._lent:
                self._waiting -= 1
        if not mine:
            raise Busy("database.long_wait", seconds=round(PATIENCE))

    def write(self, act: Callable[[sqlite3.Connection], T]) -> T:
        """Run `act` in a transaction; commit when it returns, roll back when it raises."""
        with self._queued():
            conn = self._writer
            assert conn is not None
            self.guard()
            with failing.named(self.path), self._noted(), _no_collection():
                conn.execute("BEGIN IMMEDIATE")
                conn.told = set()
                try:
                    result = act(conn)
                    # Somebody may have taken over while it was at work.
                    self.guard()
                    self._keep(conn)
                except BaseException:
                    # A full disk may have ended the transaction already.
                    if conn.in_transaction:
                        conn.execute("ROLLBACK")
                    raise
            told = conn.told
        self._pool.end_long()
        if told:
            self.bell.ring(told)
        return result

    def _keep(self, conn: sqlite3.Connection) -> None:
        """Commit, and note how long the disk took for it."""
        self._keeping = time.monotonic()
        try:
            conn.execute("COMMIT")
        finally:
            took, self._keeping = time.monotonic() - self._keeping, 0.0
        self._slow = took if took > SLOW else 0.0
        if self._slow:
            log.warning("the disk is slow", seconds=round(took, 1), file=self.path.name)

    @property
    def slow(self) -> float:
        """Seconds for which the disk has been at work to keep something, or was for the last write; 0 where that is not long."""
        keeping = self._keeping
        now = time.monotonic() - keeping if keeping else 0.0
        return now if now > SLOW else self._slow

    @contextmanager
    def _noted(self) -> Iterator[None]:
        try:
            yield
        except sqlite3.DatabaseError as error:
            found = failing.meaning(error, self.path)
            if isinstance(found, BadStore):
                self.trouble = found.message
            raise
        self.trouble = None

    @contextmanager
    def read(self) -> Iterator[sqlite3.Connection]:
        """A reader, in one read transaction; inside another read of the same thread, the same one."""
        conn: sqlite3.Connection | None = getattr(self._mine, "conn", None)
        if conn is not None:
            yield conn
            return
        with failing.named(self.path):
            conn = self._pool.lend()
            self._mine.conn = conn
            try:
                conn.execute("BEGIN")
                yield conn
            finally:
                self._mine.conn = None
                self._pool.give_back(conn)

    def own(self) -> Own:
        """A reader that somebody keeps, for single questions from one place."""
        made = Own(connection.open_reader(self.path))
        # Not the lock of those who write: whoever begins to read would wait for them.
        with self._lent:
            self._own.append(made)
        return made

    def version(self) -> int:
        """A number that is another after each change of the file, by whichever process."""
        if self._watch is None:
            self._watch = self.own()
        number: int = self._watch.one("PRAGMA data_version")[0]
        return number

    @property
    def readers(self) -> int:
        """How many connections are open for reading."""
        return self._pool.open + len(self._own)

    def close(self) -> None:
        """Wait for a running write and for running reads, then close every connection; nothing in use is closed."""
        self.bell.close()
        with self._lock:
            if self._lock_file < 0:
                return
            os.close(self._lock_file)
            self._lock_file = -1
            self._pool.close()
            with self._lent:
                for own in self._own:
                    own.close()
            if self._writer is not None:
                self._writer.close()
