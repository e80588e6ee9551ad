"""What crosses HTTP about translation: coverage, commissions, jobs and their units."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Named, Shortened, Wire


class JobLine(Shortened):
    """A translation job as a list shows it."""

    commission: str
    name: str
    locale: str
    locale_name: str
    source_locale: str
    state: str
    bureau: str
    percent: int
    units: int
    words: int
    due: str
    by: str
    created_at: str
    changed_at: str
    trouble: str
    entries: list[Named]


class CommissionAsk(Wire):
    """An order for translation; without a bureau its files are carried by hand."""

    entries: list[str]
    locales: list[str]
    name: str = ""
    due: str = ""
    note: str = ""
    bureau: str = ""
    again: bool = Field(
        default=False, description="Send what is on its way already once more; else it is left out."
    )


class Estimate(Wire):
    """What one locale of an order would hold."""

    locale: str
    entries: int
    units: int
    words: int
    away: int = Field(default=0, description="Units that are left out, as they are on their way already.")


class Estimates(Wire):
    """An order before it is sent."""

    items: list[Estimate]


class Commission(Wire):
    """A commission with its jobs."""

    id: str
    name: str
    jobs: list[JobLine]
    left_out: int = Field(
        default=0, description="Units that were not sent, as they are on their way already."
    )


class JobUnit(Wire):
    """A unit: its source, what came home, and what the edition holds now."""

    entry: str
    title: str
    key: str
    label: str
    source: str
    returned: str
    current: str
    state: str
    outcome: str
    words: int


class Job(JobLine):
    """A job with its units."""

    units_shown: list[JobUnit]
    may_accept: bool
    may_carry: bool


class JobList(Wire):
    """Jobs, newest first."""

    items: list[JobLine]


class GridCell(Wire):
    """One locale of one entry."""

    locale: str
    state: str


class GridLine(Wire):
    """An entry against the locales."""

    id: str
    title: str
    type: str
    source_locale: str
    cells: list[GridCell]


class Grid(Wire):
    """Entries against locales."""

    items: list[GridLine]


class HomeResult(Wire):
    """What became of the units that came home."""

    applied: int
    drifted: int
    conflict: int
    gone: int
    job: JobLine


class Choose(Wire):
    """A unit in conflict, and which side stands: ours is the edition's, theirs what came home."""

    entry: str
    key: str
    take: Literal["ours", "theirs"]


class Accept(Wire):
    """One unit, or all that is left when no key is given."""

    entry: str = ""
    key: str = ""
    note: str = ""


class AcceptResult(Wire):
    """How many were accepted, how many are left, and what is worth knowing."""

    accepted: int
    left: int
    notes: list[str]
