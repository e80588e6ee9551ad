"""The packer: makes packages of entries, looks through those that somebody gave, brings them and takes them back."""

from __future__ import annotations

from hawthorn.core.timeline import SECOND
from hawthorn.followers.base import REST, Follower
from hawthorn.operations.exchange import at_work, packages
from hawthorn.store import exchange

_SWEEPS = 3600 * SECOND


class Packer(Follower):
    """At most one process works on packages at a time; what one left when it was stopped or killed, the next goes on with."""

    name = "packer"
    topics = ("exchange",)
    _swept = 0

    def step(self, holder: str) -> float:
        """Do what waits, one package after another."""
        with self.desk.db.read() as conn:
            row = exchange.next_at_work(conn)
        if row is None:
            self._sweep()
            return REST
        if not self.hold(holder):
            return 5.0
        at_work.work(self.desk, row, lambda: not self.stopping.is_set() and self.hold(holder))
        return 0.0

    def _sweep(self) -> None:
        """Take away what lay there long enough, now and then."""
        now = self.desk.clock.now()
        if not 0 <= now - self._swept < _SWEEPS and packages.folder(self.desk).is_dir():
            self._swept = now
            packages.sweep(self.desk)
