"""Backups over time: what they are called, when the next is due, and which of them are kept."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from datetime import timedelta
from itertools import islice

from hawthorn.core import timeline
from hawthorn.core.quick import dataclass

_NAME = re.compile(r"hawthorn-(\d{8}T\d{6}Z)\.sqlite\.zst(\.age)?")
_TIME = re.compile(r"([01]\d|2[0-3]):[0-5]\d")


@dataclass(frozen=True, slots=True)
class Keep:
    """Of so many days, weeks and months the newest backup of each is kept, and the newest of all in any case."""

    days: int = 7
    weeks: int = 4
    months: int = 12


def named(instant: int, *, sealed: bool) -> str:
    """What a backup of an instant is called."""
    at = timeline.to_datetime(instant)
    return f"hawthorn-{at:%Y%m%dT%H%M%SZ}.sqlite.zst{'.age' if sealed else ''}"


def instant_of(name: str) -> int | None:
    """The instant of a backup, by what it is called; None for what is none."""
    found = _NAME.fullmatch(name)
    if found is None:
        return None
    digits = found[1]
    text = f"{digits[:4]}-{digits[4:6]}-{digits[6:8]}T{digits[9:11]}:{digits[11:13]}:{digits[13:15]}Z"
    return timeline.parse_instant(text)


def kept(instants: Iterable[int], keep: Keep) -> set[int]:
    """Those of some backups that are kept."""
    newest = sorted(instants, reverse=True)
    out = set(newest[:1])
    spans: list[tuple[int, Callable[[int], object]]] = [
        (keep.days, lambda at: timeline.to_datetime(at).date()),
        (keep.weeks, lambda at: timeline.to_datetime(at).isocalendar()[:2]),
        (keep.months, lambda at: (timeline.to_datetime(at).year, timeline.to_datetime(at).month)),
    ]
    for most, span in spans:
        first: dict[object, int] = {}
        for at in newest:
            first.setdefault(span(at), at)
        out |= set(islice(first.values(), most))
    return out


def is_time(text: str) -> bool:
    """Whether a text is a time of the day."""
    return _TIME.fullmatch(text) is not None


def due(times: Sequence[str], zone: str, now: int) -> tuple[int, int]:
    """The last instant up to now at which a backup was due by a timetable of times of the day, and the next."""
    today = timeline.wall_at(now, zone).date()
    found = sorted(
        timeline.resolve_wall(f"{today + timedelta(days=day)}T{time}", zone, "earlier").instant
        for day in (-1, 0, 1, 2)
        for time in times
    )
    return max(at for at in found if at <= now), min(at for at in found if at > now)
