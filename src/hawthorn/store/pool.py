"""Reading connections of one file: a bounded number, lent and given back, so that threads that come and go leave none behind."""

from __future__ import annotations

import sqlite3
import threading
import time
from collections.abc import Callable, Sequence
from typing import Any

from hawthorn.core.errors import Busy

MOST = 8
"""So many connections of a file are open for reading at most; whoever comes then waits."""
KEPT = 2
"""So many stay open when nobody reads."""
REST = 75.0
"""Seconds after which another one that nobody used is closed: to open one takes longer than most reads. More than followers rest, who look at once
when they do: what they need stays open, and a quiet service opens nothing."""
WAITS = 10.0
"""Seconds that somebody waits for a connection before being told that there is none."""
LONGEST = 60.0
"""Seconds after which a reader is ended once somebody writes: behind it the write-ahead log could only grow."""


def closing() -> Busy:
    """What somebody is told who comes while the file is being closed."""
    return Busy("pool.stopping")


class Pool:
    """Lends connections that `open` makes; the one given back last is lent next, so that quiet ones need no memory."""

    def __init__(self, open: Callable[[], sqlite3.Connection], most: int = MOST) -> None:
        self._open = open
        self._most = most
        self._free: list[tuple[sqlite3.Connection, float]] = []
        """Those that nobody uses, since when; the one used last at the end."""
        self._waiting = 0
        self._lent: dict[sqlite3.Connection, float] = {}
        self._turn = threading.Condition()
        self._closing = False

    def lend(self) -> sqlite3.Connection:
        """A connection until it is given back. Raises `Busy` when none is free for long, or the file is closing."""
        with self._turn:
            until = time.monotonic() + WAITS
            self._waiting += 1
            try:
                while not self._free and len(self._lent) >= self._most and not self._closing:
                    if not self._turn.wait(until - time.monotonic()):
                        raise Busy("pool.too_many")
            finally:
                self._waiting -= 1
            if self._closing:
                raise closing()
            conn = self._free.pop()[0] if self._free else self._open()
            self._lent[conn] = time.monotonic()
            return conn

    def give_back(self, conn: sqlite3.Connection) -> None:
        """End what a borrower may have left open, and let the next have the connection."""
        fit = True
        try:
            if conn.in_transaction:
                conn.execute("ROLLBACK")
        except sqlite3.Error:
            fit = False
        with self._turn:
            self._lent.pop(conn)
            if fit and not self._closing:
                self._free.append((conn, time.monotonic()))
            else:
                conn.close()
            self._turn.notify()

    def rest(self) -> None:
        """Close those that nobody used for a while, but for a few."""
        if len(self._free) <= KEPT:
            return
        before = time.monotonic() - REST
        with self._turn:
            while len(self._free) > KEPT and self._free[0][1] < before:
                self._free.pop(0)[0].close()

    def end_long(self, longest: float = LONGEST) -> None:
        """Interrupt those who have been reading for too long."""
        if not self._lent:
            return
        before = time.monotonic() - longest
        with self._turn:
            for conn, since in self._lent.items():
                if since < before:
                    conn.interrupt()

    @property
    def open(self) -> int:
        """How many connections are open."""
        return len(self._free) + len(self._lent)

    def close(self, grace: float = 2.0, patience: float = 10.0) -> None:
        """Close all: those in use when they come back, for which there is some time; after that they are interrupted.

        Nothing that is in use is ever closed under whoever uses it.
        """
        with self._turn:
            self._closing = True
            self._turn.notify_all()
            while self._free:
                self._free.pop()[0].close()
            until = time.monotonic() + grace
            while self._lent and (left := until - time.monotonic()) > 0:
                self._turn.wait(left)
            until = time.monotonic() + patience
            while self._lent and time.monotonic() < until:
                # Again and again, as it only reaches a statement that runs just then.
                for conn in self._lent:
                    conn.interrupt()
                self._turn.wait(0.02)


class Own:
    """A connection that somebody keeps, for single questions from one place: it holds no transaction between two."""

    def __init__(self, conn: sqlite3.Connection) -> None:
        self._conn = conn
        self._lock = threading.Lock()
        self._closed = False

    def one(self, sql: str, given: Sequence[Any] = ()) -> Any:
        """The first row that a question gives, or None."""
        with self._lock:
            if self._closed:
                raise closing()
            cursor = self._conn.execute(sql, given)
            row = cursor.fetchone()
            cursor.close()
            return row

    def close(self) -> None:
        """Close it after the question that is being answered."""
        with self._lock:
            self._closed = True
            self._conn.close()
