"""The collector: sends what standing commissions have waiting, when nothing of it has changed for as long as was wanted."""

from __future__ import annotations

from hawthorn.followers.base import Follower
from hawthorn.operations.runtime.act import SCHEDULER_SELF
from hawthorn.operations.translation import standing_commissions
from hawthorn.store import standing_commissions as store


class Collector(Follower):
    """Every process may run one: what is sent waits no more, so that nothing goes twice."""

    name = "collector"
    topics = ("standing",)

    def step(self, holder: str) -> float:
        """Send what is due; returns the seconds until there is more."""
        with self.desk.db.read() as conn:
            soonest = store.next_time(conn)
        if soonest is not None and soonest <= self.desk.clock.now():
            self.desk.write(SCHEDULER_SELF, standing_commissions.send_due)
            with self.desk.db.read() as conn:
                soonest = store.next_time(conn)
            # Where something changed meanwhile, it is looked at again when that is still.
            return max(1.0, self.rest(soonest))
        return self.rest(soonest)
