"""A copy of a record file that another program keeps up with its source: read, and never written, by this one.

The program (Litestream) takes an exclusive lock for as long as it applies what has changed, so that nobody sees half of it, and waits for that
until no connection is open. So all connections are closed every now and then (`TURN`), and none is opened for a moment: it is let in then. Where
nobody reads, none is open. A copy is of one process: each has its own.
"""

from __future__ import annotations

import sqlite3
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeVar

from hawthorn.core.errors import BadStore, Busy, OnlyReads
from hawthorn.store import checks, connection, failing, migrate
from hawthorn.store.database import Database
from hawthorn.store.pool import MOST, WAITS, Own, closing
from hawthorn.store.wake import Bell

T = TypeVar("T")
TURN = 0.25
"""Seconds after which all connections are closed."""
GAP = 0.004
"""Seconds for which none is opened then."""
PATIENCE = 0.05
"""Seconds for which those who come wait for those who have been reading since before."""


class Copy(Database):
    """Opens a copy for reading. `moved` lets it go on with another file, as if that were the same."""

    writes = False

    def __init__(self, path: Path, writer: str = "", alive: Callable[[], bool] = lambda: True) -> None:
        self.path = path
        self.writer = writer
        self.trouble = None
        self.bell = Bell(path)
        self._mine = threading.local()
        self._turns = _Turns(path)
        self._turns.alive = alive
        self._position: tuple[int, tuple[int, int]] = (-1, (0, 0))
        with failing.named(path), self.read() as conn:
            if migrate.pending(conn):
                # Whoever writes brings it up to date, and the copy follows.
                raise BadStore("copies.older")

    def moved(self, path: Path) -> None:
        """Read from another file from now on; whoever reads the one before it ends first."""
        self.path = path
        self._turns.move(path)

    @property
    def moves(self) -> int:
        """A number that is another once it has moved: what is there then may be older for a moment."""
        return self._turns.moves

    @property
    def is_lost(self) -> bool:
        """Whether it may not be read just now."""
        return self._turns.lost

    def lost(self) -> None:
        """Read no more until it has moved: what lies there may be half of something."""
        self._turns.lost = True

    def write(self, act: Callable[[sqlite3.Connection], T]) -> T:
        """Refuses: raises `OnlyReads`."""
        raise OnlyReads("copies.only_reads", writer=self.writer)

    @contextmanager
    def read(self) -> Iterator[sqlite3.Connection]:
        """A reader, in one read transaction; inside another read of the same thread, the same one."""
        conn: sqlite3.Connection | None = getattr(self._mine, "conn", None)
        if conn is not None:
            yield conn
            return
        with failing.named(self.path), self._turns.lent() as conn:
            self._mine.conn = conn
            try:
                conn.execute("BEGIN")
                yield conn
            finally:
                self._mine.conn = None

    def own(self) -> Own:
        """Single questions from one place."""
        return _Lent(self._turns)

    def version(self) -> int:
        """A number that is another after each change of the file: while it stays, somebody has kept the file open."""
        now = self._turns.held()
        if now is None:
            with self._turns.lent() as conn:
                now = self._turns.of(conn)
        return now

    def position(self) -> tuple[int, int]:
        """How far the copy has come: the term of whoever wrote, and the newest event. What was read before it was asked is no newer."""
        now = self._turns.held()
        if now is None or self._position[0] != now:
            with self._turns.lent() as conn:
                self._position = (self._turns.of(conn), checks.position(conn))
        return self._position[1]

    @property
    def readers(self) -> int:
        """How many connections are open for reading."""
        return self._turns.open

    def close(self) -> None:
        """Wait for running reads, then close every connection."""
        self.bell.close()
        self._turns.close()


class _Turns:
    """Connections that are lent until the end of a turn."""

    def __init__(self, path: Path) -> None:
        self.path, self.name = path, str(path)
        self.moves = 0
        """How often another file took the place of the one before it; a turn ends with it."""
        self.lost = False
        self.alive: Callable[[], bool] = lambda: True
        """Whether what keeps the copy up is at work."""
        self._free: list[sqlite3.Connection] = []
        self._lent: dict[sqlite3.Connection, int] = {}
        self._of = -1
        self._changed = threading.Condition()
        self._waiting = 0
        self._closer: threading.Thread | None = None
        self._closing = False

    def move(self, path: Path) -> None:
        """Go on with another file."""
        with self._changed:
            self.path, self.name = path, str(path)
            self.moves += 1
            self.lost = False

    @property
    def open(self) -> int:
        return len(self._free) + len(self._lent)

    def of(self, conn: sqlite3.Connection) -> int:
        """The turn of a connection that is lent."""
        return self._lent[conn]

    def held(self) -> int | None:
        """The turn in which the file has stayed as it is since it began, as a connection of it is open."""
        now = self._turn()
        if now != self._of:
            return None
        with self._changed:
            return now if self._free or now in self._lent.values() else None

    def _turn(self) -> int:
        return int(time.monotonic() / TURN) * 1_000_003 + self.moves

    @contextmanager
    def lent(self) -> Iterator[sqlite3.Connection]:
        """A connection, for a short while."""
        conn = self.lend()
        try:
            yield conn
        finally:
            self.give_back(conn)

    def lend(self) -> sqlite3.Connection:
        with self._changed:
            until = time.monotonic() + WAITS
            while len(self._lent) >= MOST and not self._closing:
                if not self._wait(until - time.monotonic()):
                    raise Busy("pool.too_many")
            self._begin_turn()
            if self._closing:
                raise closing()
            if self.lost:
                self._close_free()
                raise Busy("copies.not_there")
            conn = self._free.pop() if self._free else self._opened()
            self._lent[conn] = self._of
            self._let_close()
            return conn

    def _opened(self) -> sqlite3.Connection:
        """A new connection. Of the first of a turn it is sure that nothing is half applied: with its lock nothing is being applied, and whoever was
        killed in the midst of it does not live."""
        conn = connection.open_reader(self.path)
        if not self._lent:
            try:
                conn.execute("SELECT 1 FROM sqlite_master LIMIT 1").fetchone()
                alive = self.alive()
            except BaseException:
                conn.close()
                raise
            if not alive:
                conn.close()
                raise Busy("copies.not_there")
        return conn

    def _begin_turn(self) -> None:
        """Close what is open from the turn before, and leave the file alone for a moment; do not wait for whoever reads on for long."""
        if self._turn() == self._of:
            return
        self._close_free()
        until = time.monotonic() + PATIENCE
        while self._lent and not self._closing and (left := until - time.monotonic()) > 0:
            self._wait(left)
        if self._turn() != self._of:
            self._of = self._turn()
            if not self._lent:
                # With all who come waiting behind this one.
                time.sleep(GAP)

    def give_back(self, conn: sqlite3.Connection) -> None:
        fit = True
        try:
            if conn.in_transaction:
                conn.execute("ROLLBACK")
        except sqlite3.Error:
            fit = False
        with self._changed:
            of = self._lent.pop(conn)
            if fit and not self._closing and of == self._of == self._turn():
                self._free.append(conn)
            else:
                conn.close()
                if of == self._of:
                    # Perhaps the last that kept the file as it is.
                    self.moves += 1
            if self._waiting:
                self._changed.notify_all()

    def _wait(self, seconds: float) -> bool:
        """Until something was given back."""
        self._waiting += 1
        try:
            return self._changed.wait(seconds)
        finally:
            self._waiting -= 1

    def _close_free(self) -> None:
        while self._free:
            self._free.pop().close()

    def _let_close(self) -> None:
        """Let the connections of this turn be closed at its end, also where nobody comes again; a thread that ends with them."""
        if self._closer is None:
            self._closer = threading.Thread(target=self._close_in_time, name="hawthorn-turns", daemon=True)
            self._closer.start()

    def _close_in_time(self) -> None:
        while True:
            time.sleep(TURN - time.monotonic() % TURN)
            with self._changed:
                if self._turn() != self._of:
                    self._close_free()
                if self._closing or not (self._lent or self._free):
                    self._closer = None
                    return

    def close(self) -> None:
        with self._changed:
            self._closing = True
            self._changed.notify_all()
            self._close_free()
            until = time.monotonic() + 10
            while self._lent and (left := until - time.monotonic()) > 0:
                for conn in self._lent:
                    conn.interrupt()
                self._wait(min(left, 0.1))


class _Lent(Own):
    """Single questions, each with a connection that is lent for it."""

    def __init__(self, turns: _Turns) -> None:
        self._turns = turns

    def one(self, sql: str, given: Sequence[Any] = ()) -> Any:
        """The first row that a question gives, or None."""
        conn = self._turns.lend()
        try:
            cursor = conn.execute(sql, given)
            row = cursor.fetchone()
            cursor.close()
            return row
        finally:
            self._turns.give_back(conn)

    def close(self) -> None:
        """Nothing is left open."""
