"""The keeper: makes backups by the timetable of the settings."""

from __future__ import annotations

from pathlib import Path

from hawthorn.core import keeping
from hawthorn.core.keeping import Keep
from hawthorn.core.timeline import SECOND
from hawthorn.followers.base import REST, Follower
from hawthorn.operations.exchange import backups
from hawthorn.operations.runtime.act import SCHEDULER_SELF

_AGAIN = 600 * SECOND
"""So long after one that failed it is tried again."""


class Keeper(Follower):
    """One process makes the backup that is due; without a folder in the settings there is nothing to do."""

    name = "keeper"
    topics = ()

    def step(self, holder: str) -> float:
        """Make a backup where one is due; returns the seconds until the next."""
        place = self.options.backups
        if place is None:
            return REST
        now = self.desk.clock.now()
        due, following = keeping.due(self.options.backup_times, self.options.backup_zone, now)
        last = self.desk.read(SCHEDULER_SELF, backups.last)
        if last is None or last.due < due or (last.trouble and now - last.at >= _AGAIN):
            if not self.hold(holder):
                return 5.0
            self._make(place, due, holder)
            return 0.0
        return self.rest(last.at + _AGAIN if last.trouble else None, following)

    def _make(self, place: Path, due: int, holder: str) -> None:
        options = self.options
        keep = Keep(options.backup_days, options.backup_weeks, options.backup_months)

        def told(done: int, total: int) -> None:
            self.hold(holder)

        backups.by_timetable(self.desk, place, due, keep, options.backup_recipients, told)
