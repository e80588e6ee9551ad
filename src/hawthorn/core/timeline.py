"""Time: instants, wall times in zones, standings over time, and the future laid over them.

Instants are integer microseconds since 1970-01-01 in UTC. Intervals are half-open.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from hawthorn.core.errors import BadTime
from hawthorn.core.quick import dataclass

SECOND = 1_000_000
SHOWN = 4096
"""So many instants are kept as they were written last: lists show the same ones again and again."""
_WALL = re.compile(r"^\d{4}-\d\d-\d\d[T ]\d\d:\d\d(:\d\d)?$")
_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)
_UTC_EPOCH = _EPOCH.replace(tzinfo=None)


@dataclass(frozen=True, slots=True)
class PlannedTime:
    """A planned instant with the wall time, zone and choice (at a clock change) that it came from."""

    instant: int
    wall: str
    zone: str
    fold: str = ""


@dataclass(frozen=True, slots=True)
class Standing:
    """The fact that a revision stands at a stage of an edition over [since, until)."""

    id: int
    edition: int
    stage: int
    revision: int
    since: int
    until: int | None = None


def from_datetime(moment: datetime) -> int:
    """An aware datetime as an instant."""
    return (moment - _EPOCH) // timedelta(microseconds=1)


def to_datetime(instant: int) -> datetime:
    """An instant as a datetime in UTC."""
    return _EPOCH + timedelta(microseconds=instant)


@lru_cache(SHOWN)
def iso(instant: int) -> str:
    """An instant as RFC 3339 writes it, in UTC."""
    return (_UTC_EPOCH + timedelta(0, 0, instant)).isoformat() + "Z"


@lru_cache(SHOWN)
def spoken(instant: int, zone_name: str) -> str:
    """An instant as a person in a zone reads and hears it: "12 November 2026, 16:19"."""
    at = to_datetime(instant).astimezone(zone_or_utc(zone_name))
    return f"{at.day} {at:%B %Y, %H:%M}"


def wall_at(instant: int, zone_name: str) -> datetime:
    """What the clock on the wall shows in a zone at an instant."""
    return to_datetime(instant).astimezone(zone_or_utc(zone_name)).replace(tzinfo=None)


def zone(name: str) -> ZoneInfo:
    """A zone of the IANA database; raises `BadTime` for a name it does not have."""
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise BadTime("timeline.no_zone", name=name) from None


def zone_or_utc(name: str) -> ZoneInfo:
    """A zone, or UTC for a name that the database of this machine has not, or no more."""
    try:
        return zone(name)
    except BadTime:
        return ZoneInfo("UTC")


def parse_instant(text: str) -> int:
    """An RFC 3339 time with its offset, as an instant."""
    try:
        moment = datetime.fromisoformat(text.strip())
    except ValueError:
        raise BadTime("timeline.no_time", text=text) from None
    if moment.tzinfo is None:
        raise BadTime("timeline.without_zone", text=text)
    try:
        instant = from_datetime(moment)
        to_datetime(instant)
    except OverflowError:
        raise BadTime("timeline.beyond_calendar", text=text) from None
    return instant


def day_or_instant(text: str) -> int:
    """An instant from RFC 3339, or from a day alone: its first moment in UTC."""
    return parse_instant(f"{text}T00:00:00Z" if len(text) == 10 else text)


def wall_time(wall: str) -> datetime:
    """A wall time without its zone; raises `BadTime` for what is none."""
    if not _WALL.match(wall.strip()):
        raise BadTime("timeline.no_wall_time", wall=wall)
    try:
        return datetime.fromisoformat(wall.strip())
    except ValueError:
        raise BadTime("timeline.not_in_calendar", wall=wall) from None


def wall_text(wall: datetime) -> str:
    """A wall time as it is kept and said: to the minute, and to the second where it has some, so that it stays the same time."""
    return wall.isoformat(timespec="seconds" if wall.second else "minutes")


def resolve_wall(wall: str, zone_name: str, fold: str = "") -> PlannedTime:
    """The instant of a wall time in a zone.

    A wall time that a clock change skips is refused, with the nearest ones that exist; one that happens
    twice is refused until `fold` says "earlier" or "later".
    """
    naive = wall_time(wall)
    place = zone(zone_name)
    first, second = (from_datetime(naive.replace(tzinfo=place, fold=n)) for n in (0, 1))
    try:
        back = to_datetime(first).astimezone(place).replace(tzinfo=None)
    except OverflowError:
        raise BadTime("timeline.wall_beyond_calendar", wall=wall) from None
    if back != naive:
        nearest = sorted(to_datetime(i).astimezone(place).strftime("%H:%M") for i in (first, second))
        raise BadTime(
            "timeline.does_not_exist",
            wall=wall,
            zone=zone_name,
            before=nearest[0],
            after=nearest[1],
            choices=nearest,
        )
    if first != second and fold not in ("earlier", "later"):
        raise BadTime(
            "timeline.happens_twice",
            wall=wall,
            zone=zone_name,
            choices=[{"fold": "earlier", "instant": iso(first)}, {"fold": "later", "instant": iso(second)}],
        )
    twice = first != second
    instant = second if twice and fold == "later" else first
    return PlannedTime(instant, wall_text(naive), zone_name, fold if twice else "")


def instants_of(value: Mapping[str, str]) -> set[int]:
    """The instants that a planned time (`wall`, `zone`, `fold`, `instant`) may stand for: as it was typed, and as its wall time is by
    the rules of its zone now."""
    found = {parse_instant(value["instant"])}
    with suppress(BadTime):
        found.add(resolve_wall(value["wall"], value["zone"], value.get("fold", "")).instant)
    return found


def not_past(planned: int, now: int, *, slack: int = 0) -> None:
    """Refuse an instant that is over; a past date is never guessed about."""
    if planned < now - slack:
        raise BadTime("timeline.past", planned=iso(planned), now=iso(now))


def at(standings: Iterable[Standing], instant: int) -> Standing | None:
    """What stood at an instant: the latest since, ties by id, if it had not ended by then."""
    begun = [s for s in standings if s.since <= instant]
    if not begun:
        return None
    latest = max(begun, key=lambda s: (s.since, s.id))
    return latest if latest.until is None or latest.until > instant else None
