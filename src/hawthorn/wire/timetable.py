"""What crosses HTTP about the timetable: quiet periods, what is due, and calendars."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Page, Wire


class QuietPeriodAsk(Wire):
    """When nothing is to be released, and why."""

    begins: str
    ends: str
    zone: str = ""
    rule: str = ""
    reason: str


class QuietPeriod(Wire):
    """A time in which nothing is released, once or by a rule."""

    id: str
    reason: str
    begins: str
    ends: str
    zone: str
    rule: str
    by: str
    at: str
    since: str | None = Field(
        description="When the one that is now, or comes next, begins; null when none does."
    )
    until: str | None = Field(description="When that one ends.")


class QuietSpan(Wire):
    """One time that a quiet period takes."""

    id: str
    reason: str
    since: str
    until: str


class QuietPeriods(Page):
    """The quiet periods."""

    items: list[QuietPeriod]


class QuietSpans(Page):
    """The times that quiet periods take, in order."""

    items: list[QuietSpan]


class NamedDispatch(Wire):
    """A dispatch by name."""

    id: str
    name: str
    instant: str


class QuietEffect(Wire):
    """What a quiet period would do: when it begins and ends next, and what is planned in that time."""

    since: str | None
    until: str | None
    dispatches: list[NamedDispatch]


class Due(Wire):
    """Something that is due on a day: an assignment or a translation job."""

    kind: Literal["assignment", "job"]
    id: str
    title: str
    day: str
    locale: str
    type: str
    person: str
    path: str
    state: str


class Dues(Page):
    """What is due, in order of days."""

    items: list[Due]


class CalendarShows(Wire):
    """What a calendar shows; what is empty narrows nothing."""

    kinds: list[str] = ["dispatches", "assignments", "jobs", "quiet periods"]
    person: str = ""
    type: str = ""
    locale: str = ""
    section: str = ""
    states: list[str] = []


class CalendarAsk(Wire):
    """A calendar to make."""

    name: str
    shows: CalendarShows = CalendarShows()


class Calendar(Wire):
    """A calendar that somebody subscribes to."""

    id: str
    name: str
    at: str
    shows: CalendarShows


class CalendarMade(Calendar):
    """A calendar with its secret address, which is shown this once."""

    address: str


class Calendars(Page):
    """The calendars that somebody subscribes to."""

    items: list[Calendar]


class Difference(Wire):
    """An edition that readers see differently at two instants."""

    id: str
    locale: str
    source_locale: str
    type: str
    title: str
    how: Literal["new", "changed", "gone"]
    before: int | None
    after: int | None
    path_before: str
    path_after: str
    dispatches: list[str]


class Differences(Page):
    """What differs for readers between two instants."""

    items: list[Difference]
