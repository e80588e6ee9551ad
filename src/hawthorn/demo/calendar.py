"""A clock that seeding moves through the past."""

from __future__ import annotations

from datetime import timedelta

from hawthorn.core.timeline import SECOND


class Calendar:
    """A clock that seeding moves through the past."""

    def __init__(self, start: int, limit: int) -> None:
        self.at, self.limit = start, limit

    def now(self) -> int:
        """The instant it was moved to."""
        return self.at

    def later(self, **span: float) -> None:
        """Move on."""
        self.at = min(self.limit, self.at + round(timedelta(**span).total_seconds() * SECOND))
