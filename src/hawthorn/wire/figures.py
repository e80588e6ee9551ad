"""What figures look like on the wire. Lengths of time are in seconds; weeks are in the order of `Figures.weeks`."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Page, Wire

FigureKind = Literal["stay", "reviewed", "sent-back", "release", "following", "waiting"]


class Spread(Wire):
    """How long something took."""

    count: int = Field(description="Of so many.")
    median: float | None = Field(
        description="The middle one, in seconds; nothing where there are none.", examples=[86400.0]
    )
    ninetieth: float | None = Field(
        description="The one that nine of ten do not exceed (90th percentile, nearest rank), in seconds.",
        examples=[259200.0],
    )


class StageFigure(Wire):
    """How long the work stayed at a stage."""

    stage: str = Field(
        description="`draft` while it is written, a stage while it waits there, `signed off` until it goes out."
    )
    label: str
    whole: Spread = Field(description="Over all weeks.")
    weeks: list[Spread] = Field(description="By the week in which it went on.")


class Waits(Wire):
    """What waits at a stage, or signed off."""

    id: str
    title: str
    type: str
    locale: str
    stage: str
    label: str
    since: str = Field(description="Since when (RFC 3339, UTC).")
    seconds: float = Field(description="For how long, in seconds.")
    assigned: str = Field(description="Who has it to do, by name; empty where nobody has.")
    whom: list[str] = Field(
        description="Who could let it go on, with the role that lets them; the first four.",
        examples=[["Tomas Lind (Editor)"]],
    )


class CameBack(Wire):
    """Something that was sent back."""

    id: str
    title: str
    type: str
    locale: str
    label: str = Field(description="What the stage is called from which it came back.")
    at: str
    by: str
    reason: str = Field(description="Why, as whoever sent it back said.")


class Returns(Wire):
    """What came back from review."""

    decided: list[int] = Field(description="How many reviews ended in each week, signed off or sent back.")
    sent_back: list[int] = Field(description="How many of those sent the text back.")
    latest: list[CameBack] = Field(description="The latest that were sent back, 20 at most.")


class LateOne(Wire):
    """A dispatch that went late."""

    id: str
    name: str
    due: str = Field(description="When it was to go (RFC 3339, UTC).")
    at: str = Field(description="When it went (RFC 3339, UTC).")
    seconds: float = Field(description="How late that was, in seconds.")


class Releases(Wire):
    """What went out."""

    editions: list[int] = Field(description="How many editions went out in each week.")
    dispatches: list[int] = Field(description="With how many dispatches that may be seen.")
    late: list[int] = Field(description="How many of those went more than a minute late.")
    latest: list[LateOne] = Field(description="The latest of the late ones, 20 at most.")


class Share(Wire):
    """A locale, and how much of what there is to translate into it is up to date."""

    locale: str
    name: str
    words: int = Field(description="So many words there are to translate into it now.")
    current: int = Field(description="So many of them are translated from the source as it is.")
    weeks: list[float | None] = Field(
        description="The share that was up to date at the end of each week, of a hundred; nothing where it was not kept yet."
    )


class ByWhom(Wire):
    """What a bureau, or the house's own translators, did of the jobs that returned."""

    name: str = Field(description="The bureau, by name; empty for the house's own translators.")
    jobs: int
    units: int
    words: int
    took: Spread = Field(description="From the sending of a job until its first return.")
    sent_back: int = Field(description="How many of its units were sent back.")


class Machine(Wire):
    """What became of a machine's drafts of sentences once somebody looked at them."""

    kept: int = Field(description="So many were kept as they were.")
    changed: int = Field(description="So many were changed.")


class Following(Wire):
    """How long the other languages took to follow a change of their source that went out."""

    whole: Spread = Field(description="Over all weeks.")
    weeks: list[Spread] = Field(description="By the week in which the last language followed.")
    open: int = Field(description="So many changes are not followed yet.")


class Figures(Wire):
    """All figures of some weeks."""

    weeks: list[str] = Field(
        description="Each week by its Monday, the oldest first; the last is this one.",
        examples=[["2027-03-22", "2027-03-29"]],
    )
    counted: str = Field(description="Up to when the log is counted (RFC 3339, UTC).")
    by_person: bool = Field(description="Whether the caller may ask about one person.")
    stages: list[StageFigure] = Field(description="How long the work stays at each stage.")
    waiting: list[Waits] = Field(
        description="What waits the longest, at a stage, or signed off and neither out nor planned; 20 at most."
    )
    returns: Returns = Field(description="What came back from review, and why.")
    releases: Releases = Field(description="What went out, and how late.")
    translated: list[Share] = Field(description="How far translations keep up, by locale.")
    bureaus: list[ByWhom] = Field(description="What was done of the jobs that returned in these weeks.")
    machine: Machine = Field(description="What became of a machine's drafts in those jobs.")
    following: Following = Field(description="How long the other languages took to follow their source.")


class FigureLine(Wire):
    """One of the entries that a number stands for."""

    id: str
    title: str
    type: str
    locale: str
    stage: str
    label: str
    came: str = Field(description="When it came there (RFC 3339, UTC).")
    went: str | None = Field(description="When it went on (RFC 3339, UTC); nothing while it stays.")
    seconds: float = Field(description="How long it stayed, in seconds.")
    how: str = Field(description="How it went on: submitted, signed off, sent back, taken back, out.")
    by: str = Field(description="Who let it go on, by name.")
    reason: str = Field(description="Why it was sent back, where it was.")


class FigureLines(Page):
    """The entries that a number stands for."""

    items: list[FigureLine]
