"""What every follower shares: what wakes it, its cursor in the log, its lease, and its rows of the outbox.

To add one: a subclass in a module of its own with a `name`, the `topics` that wake it and a `step`, and its name in
`followers/running.py`.
"""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterable, Iterator
from typing import ClassVar

import structlog

from hawthorn.core.timeline import SECOND
from hawthorn.followers.options import Options
from hawthorn.operations.runtime.act import SCHEDULER_SELF, Act, Desk
from hawthorn.store import events, outbox
from hawthorn.store.events import Event
from hawthorn.store.outbox import Outgoing

log = structlog.get_logger(__name__)
REST = 30.0
"""Seconds after which a follower looks again at the latest; a clock may have been set meanwhile."""


class Follower:
    """Something that follows the log, or the clock, in steps that may be repeated. A step without work writes nothing."""

    name: ClassVar[str]
    topics: ClassVar[tuple[str, ...]]
    """The beginnings of the topics (`store.wake`) after which there may be work."""
    kinds: ClassVar[tuple[str, ...]] = ()
    """The kinds of events that it follows."""
    tries: ClassVar[int] = 40
    """After so many tries something is given up."""
    longest: ClassVar[int] = outbox.LONGEST_PAUSE
    """The longest pause between two tries, in microseconds."""

    def __init__(self, desk: Desk, options: Options) -> None:
        self.desk = desk
        self.options = options
        self._held = ("", 0)
        self.stopping = threading.Event()

    def step(self, holder: str) -> float:
        """Do what there is to do; returns after how many seconds to look again at the latest."""
        raise NotImplementedError

    def close(self) -> None:
        """Let go of what is kept between two steps."""

    def hold(self, holder: str) -> bool:
        """Take the lease, or renew it when half of it is over; False while another process works."""
        now = self.desk.clock.now()
        mine, until = self._held
        if mine == holder and outbox.LEASE // 2 < until - now <= outbox.LEASE:
            return True
        taken = self.desk.db.write(lambda c: outbox.take_lease(c, self.name, holder, now))
        self._held = (holder, now + outbox.LEASE) if taken is not None else ("", 0)
        return taken is not None

    def news(self) -> tuple[int, list[Event]]:
        """The cursor, and the events after it that are followed, oldest first."""
        with self.desk.db.read() as conn:
            cursor = outbox.cursor(conn, self.name)
            return cursor, events.of_kinds(conn, cursor, self.kinds)

    def enqueue(self, holder: str) -> bool:
        """Put what follows from the next events into the outbox (`put`); False when there are none, or another process does."""
        cursor, found = self.news()
        if not found or not self.hold(holder):
            return False

        def put(conn: sqlite3.Connection) -> bool:
            if not outbox.advance(conn, self.name, holder, cursor, found[-1].seq):
                return False
            for event in found:
                self.put(conn, event)
            return True

        return self.desk.db.write(put)

    def put(self, conn: sqlite3.Connection, event: Event) -> None:
        """Put what follows from an event into the outbox."""

    def due(self) -> list[Outgoing]:
        """What waits to be sent now."""
        with self.desk.db.read() as conn:
            return outbox.waiting(conn, self.name, self.desk.clock.now(), self.longest)

    def claimed(self, holder: str, rows: Iterable[Outgoing]) -> Iterator[Outgoing]:
        """Rows one by one, each made this process's own just before it is tried."""
        for row in rows:
            if self.stopping.is_set() or not self.hold(holder):
                return
            now = self.desk.clock.now()
            if self.desk.db.write(lambda c, r=row, at=now: outbox.claim(c, r, at)):  # type: ignore[misc]
                yield row

    def done(self, row: Outgoing) -> None:
        """Note that a row was sent; it never is again."""
        self.desk.db.write(lambda c: outbox.settle(c, row.id, "done"))

    def last_try(self, row: Outgoing) -> bool:
        """Whether there is no other try after this one."""
        return bool(row.tries + 1 >= self.tries)

    def later(self, row: Outgoing, trouble: str, *, permanent: bool = False, after: float = 0) -> None:
        """Try a row again, each time after a longer pause (and not before `after` seconds), or give it up."""
        if permanent or self.last_try(row):
            log.error("given up", follower=self.name, recipient=row.recipient, trouble=trouble)

            def give_up(act: Act) -> None:
                outbox.settle(act.conn, row.id, "given up", trouble)
                self.gave_up(act, row, trouble)

            self.desk.write(SCHEDULER_SELF, give_up)
            return
        now = self.desk.clock.now()
        wait = min(max(2 ** min(row.tries, 20) * SECOND, round(after * SECOND)), self.longest)
        self.desk.db.write(lambda c: outbox.postpone(c, row.id, now + wait, trouble))

    def gave_up(self, act: Act, row: Outgoing, trouble: str) -> None:
        """Say that something will never be sent."""

    def rest(self, *instants: int | None) -> float:
        """Seconds until the first of some instants, of those that lie ahead; else until a look for its own sake."""
        now = self.desk.clock.now()
        return min([REST, *(max(at - now, 0) / SECOND for at in instants if at is not None)])
