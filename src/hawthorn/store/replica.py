"""By how much the replica of a record file is behind what was written, as the service that writes sees it."""

from __future__ import annotations

import sqlite3
import threading
import time
from collections.abc import Callable
from contextlib import AbstractContextManager

from hawthorn.core.errors import FileStoreFails
from hawthorn.core.messages import Message, told_by
from hawthorn.core.timeline import SECOND
from hawthorn.store import events
from hawthorn.store.terms import Place

AGAIN = 10.0
"""Seconds after which it is looked anew into where the replica lies, while there is more than was seen there."""
_MOST = 1_000
"""So many of the newest events are looked at."""


class Replica:
    """The replica of a term. Nothing is looked at but when somebody asks, and nothing far away while all is there that is in the log."""

    def __init__(self, place: Place, term: int) -> None:
        self._place = place
        self._term = term
        self._looking = threading.Lock()
        self._newest = 0
        self._asked = -AGAIN
        self.trouble: Message | str = ""
        """Why nobody can say; empty where somebody can."""

    def behind(
        self, read: Callable[[], AbstractContextManager[sqlite3.Connection]], now: int
    ) -> float | None:
        """For how many seconds something is in the log that is not in the replica; 0 for nothing, None where nobody can say. Nothing is held open
        while it is looked where the replica lies."""
        with read() as conn:
            newest = events.last(conn)[1]
        if newest <= self._newest:
            return 0.0
        self._look()
        if self.trouble:
            return None
        with read() as conn:
            since = conn.execute(
                "SELECT min(at) FROM (SELECT at FROM event ORDER BY seq DESC LIMIT ?) WHERE at > ?",
                (_MOST, self._newest),
            ).fetchone()[0]
        return 0.0 if since is None else max(0, now - since) / SECOND

    def _look(self) -> None:
        with self._looking:
            if time.monotonic() - self._asked < AGAIN:
                return
            try:
                self._newest = round((self._place.newest(self._term) + self._place.apart) * SECOND)
                self.trouble = ""
            except (FileStoreFails, OSError) as error:
                self.trouble = told_by(error)
            self._asked = time.monotonic()
