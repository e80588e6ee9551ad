"""The counter: keeps what figures are made of in step with the log, some seconds behind."""

from __future__ import annotations

from hawthorn.core.timeline import SECOND
from hawthorn.followers.base import REST, Follower
from hawthorn.followers.options import Options
from hawthorn.operations.runtime.act import Desk
from hawthorn.operations.views import counting

GATHERS = 5 * SECOND
"""So long what happens is gathered before it is counted: nobody looks at figures each second."""
COVERS = 600 * SECOND
"""So often at most it is noted how many words are up to date: that looks at all of them."""


class Counter(Follower):
    """One process counts at a time; where nothing happens, nothing is counted."""

    name = counting.NAME
    topics = ("",)

    def __init__(self, desk: Desk, options: Options) -> None:
        super().__init__(desk, options)
        self._counted = 0
        self._covered = 0
        self._uncovered = True

    def step(self, holder: str) -> float:
        """Count what happened; returns the seconds until it is looked at again."""
        now = self.desk.clock.now()
        with self.desk.db.read() as conn:
            news = counting.news(conn)
        if news and 0 <= now - self._counted < GATHERS:
            return self.rest(self._counted + GATHERS)
        if news:
            if not self.hold(holder):
                return REST
            while self._count(holder):
                if self.stopping.is_set() or not self.hold(holder):
                    return 0.0
            self._counted, self._uncovered = now, True
        if not self._uncovered:
            return REST
        if 0 <= now - self._covered < COVERS:
            return self.rest(self._covered + COVERS)
        with self.desk.db.read() as conn:
            due = counting.uncovered(conn, now)
        if due is not None:
            if not self.hold(holder):
                return REST
            self.desk.db.write(lambda conn: counting.cover(conn, now, due))
        self._covered, self._uncovered = now, False
        return REST

    def _count(self, holder: str) -> bool:
        """Count the next events; False where there are none, or another process has taken over."""
        with self.desk.db.read() as conn:
            news = counting.following(conn)
        if news is None:
            return False
        for gone, new in news.parts():
            self.desk.db.write(lambda conn, g=gone, n=new: counting.keep(conn, holder, g, n))  # type: ignore[misc]
        return self.desk.db.write(lambda conn: counting.advance(conn, holder, news))
