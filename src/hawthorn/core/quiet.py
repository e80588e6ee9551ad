"""Quiet periods: from one wall time to another nothing is released, once or by a rule that comes again."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import datetime, timedelta

from hawthorn.core import recurrence, timeline
from hawthorn.core.errors import BadTime
from hawthorn.core.quick import dataclass

LONGEST = timedelta(days=366)
_TRIES = 1_000
"""So many periods are gone through to find the end of those that follow one another."""


@dataclass(frozen=True, slots=True)
class QuietPeriod:
    """Nothing is released from `begins` until `ends`, wall times in a zone, and again by `rule` (RFC 5545) where there is one.

    At a clock change the whole of it is meant: a beginning that happens twice is the earlier one, an end the later; what a
    change skips is as far behind it as it would have been.
    """

    begins: str
    ends: str
    zone: str
    reason: str = ""
    rule: str = ""
    uuid: str = ""

    @property
    def length(self) -> timedelta:
        """How long it takes on the clock of the wall."""
        return datetime.fromisoformat(self.ends) - datetime.fromisoformat(self.begins)

    def spans(self, since: int, until: int) -> Iterator[tuple[int, int]]:
        """Each of its intervals [first, last) that has a part in [since, until), in order."""
        place = timeline.zone_or_utc(self.zone)
        first = datetime.fromisoformat(self.begins)
        here = timeline.wall_at(max(since, 0), self.zone)
        # A day more, for what a clock change moves.
        after = max(first, here - self.length - timedelta(days=1))
        found = recurrence.read(self.rule, first).walls(after) if self.rule else [first]
        for wall in found:
            begun = timeline.from_datetime(wall.replace(tzinfo=place, fold=0))
            over = timeline.from_datetime((wall + self.length).replace(tzinfo=place, fold=1))
            if begun >= until:
                return
            if over > since:
                yield begun, over


def checked(begins: str, ends: str, zone: str, reason: str, rule: str) -> QuietPeriod:
    """A quiet period as it is kept. Raises `BadTime` for times that are none, one that ends before it begins, one of more than a
    year, and a rule that is none or never lets anything go."""
    timeline.zone(zone)
    first, last = (timeline.wall_time(one) for one in (begins, ends))
    if last <= first:
        raise BadTime("quiet.ends_first")
    if last - first > LONGEST:
        raise BadTime("quiet.too_long")
    begins, ends = map(timeline.wall_text, (first, last))
    made = QuietPeriod(begins, ends, zone, reason, recurrence.canonical(rule))
    if made.rule:
        recurrence.read(made.rule, first)
        begun, _ = next(made.spans(0, 1 << 62))
        if free_from([made], begun) is None:
            raise BadTime("quiet.always")
    return made


def covering(periods: Iterable[QuietPeriod], instant: int) -> tuple[QuietPeriod, int] | None:
    """The period that an instant is in, and when it is over; of several the one that is over last."""
    found = [(over, n, one) for n, one in enumerate(periods) for _, over in one.spans(instant, instant + 1)]
    if not found:
        return None
    over, _, one = max(found)
    return one, over


def free_from(periods: Iterable[QuietPeriod], instant: int) -> int | None:
    """The first instant from one on that is in none of them; None where there is none for a long time."""
    known = [*periods]
    for _ in range(_TRIES):
        found = covering(known, instant)
        if found is None:
            return instant
        instant = found[1]
    return None
