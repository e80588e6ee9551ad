"""What comes again and again: rules of RFC 5545 (section 3.3.10), in wall time and bounded.

Rules are read and followed by `dateutil`; what is ours is what they mean for what goes out: they count walls, not instants, so that
nine o'clock stays nine o'clock over a clock change, and none can keep the service busy.
"""

from __future__ import annotations

import datetime as datetime_module
import re
from collections.abc import Collection, Iterator
from datetime import date, datetime, timedelta
from functools import lru_cache
from itertools import islice
from types import FunctionType, MethodType, SimpleNamespace
from typing import cast

from dateutil.rrule import rrule, rrulestr

from hawthorn.core.errors import BadTime
from hawthorn.core.quick import dataclass

FARTHEST = timedelta(days=366 * 10)
"""How far a rule is followed beyond its beginning."""
_LONGEST = 500


_OFTEN = ("MINUTELY", "SECONDLY")
_UTC = re.compile(r"(UNTIL=\d{8}T\d{6})Z")


@dataclass(frozen=True, slots=True)
class Recurrence:
    """A rule as it counts from a wall time on: so often, or until a wall time, or for good."""

    begins: datetime
    rule: rrule
    until: datetime | None
    count: int | None

    def walls(self, after: datetime | None = None) -> Iterator[datetime]:
        """Its wall times in order, from one on; they end where the rule does, or after ten years."""
        first = max(self.begins, after or self.begins)
        last = min(first + FARTHEST, self.until or datetime.max)
        ended = _bounded(self.rule.replace(until=last), last.year)
        if self.count is None:
            yield from ended.xafter(first, inc=True)
        else:
            yield from (wall for wall in islice(ended, self.count) if wall >= first)


def _bounded(rule: rrule, year: int) -> rrule:
    """The same rule, which looks no further than to the end of a year. By itself it looks for what never comes until the year 9999,
    whatever its end, which takes seconds: so its search is given another last year of the calendar."""
    search = cast(FunctionType, rrule._iter)  # type: ignore[attr-defined]
    calendar = SimpleNamespace(**{**vars(datetime_module), "MAXYEAR": year})
    ours = FunctionType(search.__code__, {**search.__globals__, "datetime": calendar}, search.__name__)
    rule._iter = MethodType(ours, rule)  # type: ignore[attr-defined]
    return rule


def canonical(text: str) -> str:
    """A rule as it is kept. An end in UTC, as calendars write it, is taken as a wall time."""
    return _UTC.sub(r"\1", text.strip().upper().removeprefix("RRULE:").rstrip(";"))


@lru_cache(256)
def read(text: str, begins: datetime) -> Recurrence:
    """A rule such as `FREQ=WEEKLY;BYDAY=MO`, from a wall time on. Raises `BadTime` for what is none, what counts minutes or
    seconds, and what never begins."""
    rule = canonical(text)
    try:
        parts = dict(part.split("=") for part in rule.split(";"))
        if (
            len(rule) > _LONGEST
            or len(rule.split()) != 1
            or len(parts) != rule.count(";") + 1
            or parts["FREQ"] in _OFTEN
        ):
            raise ValueError
        count, until = (parts.pop(one, None) for one in ("COUNT", "UNTIL"))
        if int(parts.get("INTERVAL", 1)) < 1 or (count and (until or int(count) < 1)):
            raise ValueError
        found = cast(rrule, rrulestr(";".join("=".join(part) for part in parts.items()), dtstart=begins))
        ends = datetime.fromisoformat(until) if until else None
        made = Recurrence(begins, found, ends, int(count) if count else None)
    except (ValueError, TypeError, KeyError, IndexError, OverflowError):
        raise BadTime("recurrence.no_rule", text=text[:80]) from None
    if next(made.walls(), None) is None:
        raise BadTime("recurrence.never", text=text[:80])
    return made


def spread(text: str, begins: datetime, count: int, skipping: Collection[date] = ()) -> list[datetime]:
    """The first wall times of a rule, so many of them, without those on some days. Raises `BadTime` where there are not so many."""
    out: list[datetime] = []
    for wall in read(text, begins).walls():
        if wall.date() not in skipping:
            out.append(wall)
        if len(out) == count:
            return out
    raise BadTime("recurrence.too_few", text=text[:80], count=len(out), wanted=count)
