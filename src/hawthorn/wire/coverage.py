"""What crosses HTTP about coverage: what entries are in each locale, and what is due there."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Page, Wire
from hawthorn.wire.content import Run

CoverageState = Literal["none", "in a job", "draft", "out of date", "ready", "out", "out and out of date"]
"""What an entry is in a locale."""
CoverageAsked = Literal["", "none", "in a job", "draft", "out of date", "ready", "out", "out and out of date"]
"""The same, or any."""


class GridCell(Wire):
    """One locale of one entry."""

    locale: str
    state: CoverageState
    units: int = Field(description="So many units its source has.")
    due: int = Field(description="So many of them are changed or missing, or have lost their source.")
    words_due: int = Field(description="The words of those, in the source.")
    out_due: int = Field(description="So many are due of what is out.")
    job: str = Field(description="The job that it is in, by its id; empty for none.")
    percent: int = Field(description="How far that job is.")
    day: str = Field(description="The day that the job is due; empty for none.")


class GridLine(Wire):
    """An entry against the locales."""

    id: str
    title: str
    type: str
    source_locale: str
    units: int = Field(description="So many units there are to translate.")
    words: int = Field(description="So many words those have.")
    cells: list[GridCell]


class DueText(Wire):
    """A text that somebody has to see to: its source was changed, is new, or is gone."""

    key: str = Field(description="The unit, by its key; of a text whose source is gone, its own.")
    label: str = Field(description="The field that it is of.")
    how: Literal["changed", "missing", "gone"] = Field(description="What became of its source.")
    then: str = Field(description="The source's words when it was translated; empty when they are not known.")
    now: str = Field(description="The source's words now.")
    runs: list[Run] = Field(description="Both, with what differs marked.")
    target: str = Field(description="What the translation holds.")
    hash: str = Field(
        description="By what the source is known as it is; sent back to say that the text fits it."
    )


class EntryCoverage(Wire):
    """An entry in the locales, and what is due in one."""

    locale: str
    source_locale: str
    cells: list[GridCell] = Field(description="Each locale but the source's, as far as it may be read.")
    due: list[DueText] = Field(
        description="What is due in the locale that was asked for, in the order of the source."
    )


class StillFits(Wire):
    """Texts of a translation that fit their source as it is."""

    fits: dict[str, str] = Field(
        description="The hash of the source that was looked at, by the key of the text.",
        examples=[{"title": "0f3a5d2c9b1e4f70"}],
    )


class CoverageTotal(Wire):
    """One locale: how many entries are in each state, and how many of their units and words are current."""

    locale: str
    name: str
    entries: int = Field(description="So many entries are written in other locales.")
    states: dict[str, int] = Field(
        description="How many of them are in each state; what is in a job counts as what it is beside that.",
        examples=[{"none": 3, "draft": 1, "out of date": 2, "ready": 0, "out": 9, "out and out of date": 1}],
    )
    units: int = Field(description="So many units they have.")
    current: int = Field(description="So many of those are translated from the source as it is.")
    words: int = Field(description="So many words they have.")
    words_current: int = Field(description="So many of those are in current units.")


class Totals(Wire):
    """The sums of the grid, by locale."""

    locales: list[CoverageTotal] = Field(description="Each locale of the house, in their order.")


class Grid(Page):
    """Entries against locales."""

    items: list[GridLine]
