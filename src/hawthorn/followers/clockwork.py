"""The clockwork: lets planned dispatches go at their instant, also those that came due while nothing ran."""

from __future__ import annotations

import structlog

from hawthorn.core.timeline import SECOND
from hawthorn.operations import assignments, dispatches, permission
from hawthorn.operations.act import CLOCKWORK, Desk
from hawthorn.store import dispatches as store

log = structlog.get_logger(__name__)


class Clockwork:
    """Every process may run one: whichever comes first does what is due, and the state prevents repeats."""

    name = "clockwork"

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self._resolved = False

    def step(self, holder: str) -> float:
        """Let go what is due; returns the seconds until the next instant."""
        with self.desk.db.read() as conn:
            soonest = store.next_instant(conn)
            identity = permission.identity_of(conn, CLOCKWORK)
        if not self._resolved:
            moved = self.desk.write(identity, dispatches.resolve_again)
            self._resolved = True
            if moved:
                log.info("planned times resolved again under the zones' present rules", moved=moved)
        if self.desk.read(identity, assignments.something_to_tell):
            self.desk.write(identity, assignments.remind)
        if soonest is None:
            return 30.0
        wait = (soonest - self.desk.clock.now()) / SECOND
        if wait > 0:
            return wait
        # Every write lets what is due go first, so an empty one is enough.
        self.desk.write(identity, lambda _: None)
        return 0.0
