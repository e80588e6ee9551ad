"""The scheduler: lets planned dispatches go at their instant, also those that came due while nothing ran."""

from __future__ import annotations

import structlog

from hawthorn.core.timeline import SECOND
from hawthorn.followers.base import Follower
from hawthorn.followers.options import Options
from hawthorn.operations.access import permission
from hawthorn.operations.collaboration import assignments
from hawthorn.operations.release import dispatches
from hawthorn.operations.runtime.act import SCHEDULER, Desk
from hawthorn.operations.views.health import BEHIND
from hawthorn.store import dispatches as store
from hawthorn.store import events

log = structlog.get_logger(__name__)


class Scheduler(Follower):
    """Every process may run one: whichever comes first does what is due, and the state prevents repeats."""

    name = "scheduler"
    topics = ("dispatch.", "assignment.", "person.")

    def __init__(self, desk: Desk, options: Options) -> None:
        super().__init__(desk, options)
        self._resolved = False
        self._behind = False

    def step(self, holder: str) -> float:
        """Let go what is due; returns the seconds until the next instant."""
        with self.desk.db.read() as conn:
            soonest = store.next_instant(conn)
            identity = permission.identity_of(conn, SCHEDULER)
            self._look_at_clock(events.last(conn)[1])
        if not self._resolved:
            moved = self.desk.write(identity, dispatches.resolve_again)
            self._resolved = True
            if moved:
                log.info("planned times resolved again under the zones' present rules", moved=moved)
        if soonest is not None and soonest <= self.desk.clock.now():
            # Every write lets what is due go first, so an empty one is enough.
            self.desk.write(identity, lambda _: None)
            return 0.0
        if self.desk.read(identity, assignments.something_to_tell):
            self.desk.write(identity, assignments.remind)
        return self.rest(soonest)

    def _look_at_clock(self, newest: int) -> None:
        behind = newest - self.desk.clock.now() > BEHIND
        if behind and not self._behind:
            log.warning(
                "this machine's clock is behind the event log; set it right",
                seconds=(newest - self.desk.clock.now()) // SECOND,
            )
        self._behind = behind
