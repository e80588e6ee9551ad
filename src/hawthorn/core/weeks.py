"""Weeks, from Monday to Sunday (ISO 8601) in a time zone, of whatever length a change of clocks gives them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable
from datetime import datetime, time, timedelta

from hawthorn.core import timeline
from hawthorn.core.quick import dataclass

DAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
"""The days of a week, as they are chosen."""


@dataclass(frozen=True, slots=True)
class Weeks:
    """Some weeks in a row: when each begins, and where the last ends; and each by its Monday."""

    edges: list[int]
    days: list[str]

    @classmethod
    def until(cls, now: int, zone_name: str, count: int) -> Weeks:
        """So many weeks, of which an instant lies in the last."""
        zone = timeline.zone_or_utc(zone_name)
        today = timeline.to_datetime(now).astimezone(zone).date()
        monday = today - timedelta(days=today.weekday())
        mondays = [monday + timedelta(weeks=n) for n in range(1 - count, 2)]
        edges = [timeline.from_datetime(datetime.combine(d, time(), zone)) for d in mondays]
        return cls(edges, [d.isoformat() for d in mondays[:-1]])

    @property
    def whole(self) -> tuple[int, int]:
        """From when until when all of them are."""
        return self.edges[0], self.edges[-1]

    def at(self, instant: int) -> int:
        """The number of the week in which an instant lies."""
        return bisect_right(self.edges, instant) - 1

    def counts(self, instants: Iterable[int]) -> list[int]:
        """How many of some instants lie in each week."""
        out = [0] * len(self.days)
        for one in instants:
            out[self.at(one)] += 1
        return out
