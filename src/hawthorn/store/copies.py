"""A copy of a record file that another program keeps up with its source: read, and never written, by this one.

The program (Litestream) takes an exclusive lock for as long as it applies what has changed, so that nobody sees half of it, and waits for that
until nobody holds the file. So the file is held while connections to it are open, and when the program asks for it all of them are closed and
none is opened: it is let in then. Where nobody reads, none is open. A copy is of one process: each has its own.
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
from hawthorn.store.holding import Hold
from hawthorn.store.pool import MOST, WAITS, Own, closing
from hawthorn.store.wake import Bell

T = TypeVar("T")
TURN = 0.25
"""Seconds after which it is looked whether anybody still reads."""
PATIENCE = 0.05
"""Seconds for which those who come wait for those who have been reading since before the program asked."""
_HOLDS = 2.0
"""Seconds for which those who come wait until the program has done what it does."""
_LOOKS = 0.02
"""Seconds after which it is looked whether the program asks."""
_STEP = 0.002
"""Seconds after which it is tried again to hold the file."""


class Copy(Database):
    """Opens a copy for reading. `moved` lets it go on with another file, as if that were the same."""

    writes = False

    def __init__(self, path: Path, writer: str = "", alive: Callable[[], bool] = lambda: True) -> None:
        self.path = path
        self.writer = writer
        self.trouble = None
        self.waited = (0, 0.0)
        self.bell = Bell(path)
        self._mine = threading.local()
        self._turns = _Turns(path)
        self._turns.alive = alive
        self._position: tuple[int, tuple[int, int]] = (-1, (0, 0))
        try:
            with failing.named(path), self.read() as conn:
                if migrate.pending(conn):
                    # Whoever writes brings it up to date, and the copy follows.
                    raise BadStore("copies.older")
        except BaseException:
            self.close()
            raise

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

    @property
    def is_held(self) -> bool:
        """Whether nothing has to be waited for: the file is held as it is."""
        return self._turns.held() is not None

    def hold(self) -> None:
        """Wait until the file is held as it is, where it is being changed; raises `Busy` when that takes long."""
        with self._turns.lent():
            pass

    def version(self) -> int:
        """A number that is another after each change of the file: while it stays, somebody has kept the file open."""
        now = self._turns.held()
        if now is None:
            with self._turns.lent():
                # While a connection is lent the file is held.
                now = self._turns.held()
        assert now is not None
        return now

    def position(self) -> tuple[int, int]:
        """How far the copy has come: the term of whoever wrote, and the newest event. What was read before it was asked is no newer."""
        now = self._turns.held()
        if now is None or self._position[0] != now:
            with self._turns.lent() as conn:
                self._position = (self._turns.held() or 0, checks.position(conn))
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
    """Connections that are lent for as long as the file stays as it is: a turn ends when the program asks for the file, or nobody reads."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.moves = 0
        """How often another file took the place of the one before it."""
        self.lost = False
        self.alive: Callable[[], bool] = lambda: True
        """Whether what keeps the copy up is at work."""
        self._hold: Hold | None = None
        self._number = 0
        self._free: list[sqlite3.Connection] = []
        self._lent: dict[sqlite3.Connection, Hold] = {}
        self._changed = threading.Condition()
        self._closer: threading.Thread | None = None
        self._used = False
        self._look_from = 0.0
        self._ending = False
        self._ends_at = 0.0
        self._closing = False

    def move(self, path: Path) -> None:
        """Go on with another file."""
        with self._changed:
            self.moves += 1
            self._close_free()
            self._leave()
            self.path = path
            self.lost = False
            self._changed.notify_all()

    @property
    def open(self) -> int:
        return len(self._free) + len(self._lent)

    def held(self) -> int | None:
        """The turn in which the file stays as it is, while there is one."""
        self._used = True
        # First the number: at worst it is that of a turn that has just ended, never one that is to come.
        number, hold = self._number, self._hold
        return number if hold is not None and hold.taken else None

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
                if not self._changed.wait(until - time.monotonic()):
                    raise Busy("pool.too_many")
            self._let_in()
            hold = self._held(time.monotonic() + _HOLDS)
            self._used = True
            conn = self._free.pop() if self._free else connection.open_held(self.path)
            self._lent[conn] = hold
            return conn

    def one(self, sql: str, given: Sequence[Any]) -> Any:
        """The first row that a short question gives, or None."""
        with self._changed:
            if self._free and time.monotonic() < self._look_from:
                # Not lent, as nobody else comes meanwhile.
                self._used = True
                return _first(self._free[-1], sql, given)
        with self.lent() as conn:
            return _first(conn, sql, given)

    def _let_in(self) -> None:
        """End the turn where the program asks for the file; do not wait for whoever reads on for long."""
        hold = self._hold
        if hold is None or not hold.taken:
            return
        if not self._ending:
            now = time.monotonic()
            if now < self._look_from:
                return
            self._look_from = now + _LOOKS
            if not hold.asked():
                return
            self._ending, self._ends_at = True, now + PATIENCE
            self._close_free()
            self._end(hold)
        # All who come meanwhile wait.
        number = self._number
        while self._reads_on(hold, number):
            if (left := self._ends_at - time.monotonic()) <= 0:
                self._ending = False
                self._look_from = time.monotonic() + TURN
                return
            self._changed.wait(left)

    def _reads_on(self, hold: Hold, number: int) -> bool:
        """Whether a turn that is to end has not ended."""
        return self._ending and hold.taken and self._number == number

    def _held(self, until: float) -> Hold:
        """The file, held as it is; nothing in it is half applied: with the lock nothing is being applied, and whoever was killed in the midst of
        it is not at work."""
        while True:
            if self._closing:
                raise closing()
            if self.lost:
                self._close_free()
                raise Busy("copies.not_there")
            if self._hold is None:
                self._hold = Hold(self.path)
            if self._hold.taken:
                return self._hold
            if self._hold.take():
                break
            if time.monotonic() > until:
                raise Busy("failing.busy")
            self._changed.wait(_STEP)
        # Looked at in this order: one that was begun anew is of a copy that was lost before.
        if not self.alive() or self.lost:
            self._hold.release()
            raise Busy("copies.not_there")
        self._number += 1
        self._ending = False
        self._let_end()
        return self._hold

    def give_back(self, conn: sqlite3.Connection) -> None:
        fit = True
        try:
            if conn.in_transaction:
                conn.execute("ROLLBACK")
        except sqlite3.Error:
            fit = False
        with self._changed:
            hold = self._lent.pop(conn)
            if fit and hold is self._hold and not self._closing and not self._ending:
                self._free.append(conn)
            else:
                conn.close()
                self._end(hold)
            self._changed.notify_all()

    def _end(self, hold: Hold) -> None:
        """Let the file be changed, where no connection to it is open."""
        if hold in self._lent.values() or (hold is self._hold and self._free):
            return
        if hold is self._hold:
            hold.release()
        else:
            hold.close()

    def _leave(self) -> None:
        """Hold this file no more, once nobody reads it."""
        hold, self._hold = self._hold, None
        if hold is not None:
            self._end(hold)

    def _close_free(self) -> None:
        while self._free:
            self._free.pop().close()

    def _let_end(self) -> None:
        """Let the turn end also where nobody comes again; a thread that ends with it."""
        if self._closer is None:
            self._closer = threading.Thread(target=self._end_in_time, name="hawthorn-turns", daemon=True)
            self._closer.start()

    def _end_in_time(self) -> None:
        while True:
            time.sleep(TURN)
            with self._changed:
                hold = self._hold
                if hold is not None and hold.taken and (not self._used or hold.asked()):
                    self._close_free()
                    self._end(hold)
                self._used = False
                if self._closing or hold is None or not hold.taken:
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
                self._changed.wait(min(left, 0.1))
            self._leave()


class _Lent(Own):
    """Single questions, each with a connection that is lent for it."""

    def __init__(self, turns: _Turns) -> None:
        self._turns = turns

    def one(self, sql: str, given: Sequence[Any] = ()) -> Any:
        """The first row that a question gives, or None."""
        return self._turns.one(sql, given)

    def close(self) -> None:
        """Nothing is left open."""


def _first(conn: sqlite3.Connection, sql: str, given: Sequence[Any]) -> Any:
    cursor = conn.execute(sql, given)
    row = cursor.fetchone()
    cursor.close()
    return row
