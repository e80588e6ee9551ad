"""What crosses HTTP about commissions: open ones, what is in them, and what they hold and cost before they are sent."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Page, Wire
from hawthorn.wire.translation import JobLine, Translator

CommissionState = Literal["open", "sent", "closed", "cancelled"]
"""Open until it is sent; sent, while a job of it is at work; closed, when none is any more; or cancelled."""
CommissionAsked = Literal["", "open", "sent", "closed", "cancelled"]
"""The same, or any."""
CommissionAct = Literal["send", "cancel", "reopen"]
Returns = Literal["draft", "review"]
"""How what returns lands: as a draft, or submitted for review as soon as all of an entry is there."""


class CommissionLine(Wire):
    """A commission as a list shows it."""

    id: str = Field(description="Its id.")
    name: str = Field(description="What it is called.")
    state: CommissionState = Field(description="What it is.")
    shared: bool = Field(
        description="Whether everybody who may commission sees it and puts entries into it before it is sent."
    )
    by: str = Field(description="Who began it.")
    at: str = Field(description="When.")
    sent_at: str = Field(description="When it was sent; empty while it was not.")
    due: str = Field(description="The day that it is due; empty for none.")
    entries: int = Field(description="So many entries are in it.")
    locales: list[str] = Field(description="The locales into which it is translated.")
    jobs: int = Field(description="So many jobs it has.")
    percent: int = Field(description="How far those are.")
    mine: bool = Field(description="Whether whoever asks began it.")


class Commissions(Page):
    """Commissions, the newest first."""

    items: list[CommissionLine] = Field(description="The commissions.")


class CommissionTarget(Wire):
    """A locale of a commission, and who translates it: a bureau, a person, or, where neither is named, whoever writes that locale."""

    locale: str = Field(description="The locale.", examples=["fr"])
    bureau: str = Field(default="", description="A bureau, by its name.")
    person: str = Field(default="", description="A person, by handle.")


class CommissionTargetShown(CommissionTarget):
    """The same, with the person's name."""

    person_name: str = Field(description="The person's name; empty for none.")


class CommissionEntry(Wire):
    """An entry in a commission."""

    id: str = Field(description="The entry.")
    title: str = Field(description="Its title.")
    type: str = Field(description="Its content type.")
    source_locale: str = Field(description="The locale that it is written in.")
    goes: bool = Field(
        description="Whether it goes out with the commission; what was removed since does not."
    )
    by: str = Field(description="Who put it there.")
    at: str = Field(description="When.")


class CommissionDetails(CommissionLine):
    """A commission with what is in it and how it goes out."""

    note: str = Field(description="What whoever translates should know.")
    again: bool = Field(description="Whether units go that another job has already.")
    current: bool = Field(description="Whether units go whose translation is up to date.")
    fill: bool = Field(description="Whether open sentences are filled from the memories when it is sent.")
    machine: bool = Field(
        description="Whether a machine drafts first what no memory knows, for people to look at; nothing confidential."
    )
    returns: Returns = Field(description="How what returns lands.")
    memories: list[str] = Field(
        description="The memories that are looked into, by their ids; all where none is named."
    )
    glossaries: list[str] = Field(
        description="The glossaries that are looked into, by their ids; all where none is named."
    )
    targets: list[CommissionTargetShown] = Field(description="Into which locales, and who does each.")
    content: list[CommissionEntry] = Field(
        description="The entries, in the order in which they were put there."
    )
    job_lines: list[JobLine] = Field(description="Its jobs that may be seen; none while it is open.")
    translators: list[Translator] = Field(
        description="Who could be named for each locale, those who write few before others; none where nothing can be changed."
    )
    may_change: bool = Field(description="Whether whoever asks may change it as an open one.")
    acts: list[CommissionAct] = Field(
        description="What whoever asks may do with it as a whole now. What may be in the way of one that is sent, its estimate says for each locale."
    )


class CommissionStart(Wire):
    """An open commission to begin."""

    name: str = Field(
        default="", description="What it is called; the day where that is empty.", examples=["Spring pages"]
    )
    shared: bool = Field(
        default=False, description="Whether everybody who may commission sees it and puts entries into it."
    )


class CommissionChange(Wire):
    """What changes of an open commission (RFC 7396): what is not given stays."""

    name: str | None = Field(default=None, description="What it is called.")
    due: str | None = Field(default=None, description="The day that it is due; empty for none.")
    note: str | None = Field(default=None, description="What whoever translates should know.")
    shared: bool | None = Field(default=None, description="Whether it is everybody's who may commission.")
    again: bool | None = Field(default=None, description="Send units that another job has already.")
    current: bool | None = Field(default=None, description="Send units whose translation is up to date.")
    fill: bool | None = Field(
        default=None, description="Fill open sentences from the memories when it is sent."
    )
    machine: bool | None = Field(default=None, description="Let a machine draft first what no memory knows.")
    returns: Returns | None = Field(default=None, description="How what returns lands.")
    memories: list[str] | None = Field(
        default=None, description="The memories that are looked into; none named for all."
    )
    glossaries: list[str] | None = Field(
        default=None, description="The glossaries that are looked into; none named for all."
    )
    targets: list[CommissionTarget] | None = Field(
        default=None, description="All its locales, and who does each."
    )


class CommissionPut(Wire):
    """Entries for an open commission."""

    entries: list[str] = Field(description="The entries, by their ids.", min_length=1, max_length=2_000)
    below: bool = Field(default=False, description="With all pages below them.")
    linked: bool = Field(
        default=False, description="With what their sources refer to: pictures, common blocks, links."
    )


class CommissionTaken(Wire):
    """Entries to take out of an open commission."""

    entries: list[str] = Field(description="The entries, by their ids.", min_length=1, max_length=2_000)


class LeftOut(Wire):
    """An entry that could not be put in."""

    id: str = Field(description="The entry.")
    title: str = Field(description="Its title.")
    why: str = Field(description="Why not, in words.")


class CommissionPutResult(Wire):
    """What became of entries that were put into a commission."""

    added: int = Field(description="So many are in it now that were not.")
    there: int = Field(description="So many were in it already.")
    left_out: list[LeftOut] = Field(description="What could not go along.")
    commission: CommissionLine = Field(description="The commission.")


class EntryCount(Wire):
    """What an entry of a commission holds in one locale."""

    entry: str = Field(description="The entry.")
    title: str = Field(description="Its title.")
    units: int = Field(description="So many units go.")
    new: int = Field(description="So many of them were never translated.")
    changed: int = Field(description="So many of them have another source than when they were translated.")
    away: int = Field(description="So many are left out, as another job has them already.")
    words: dict[str, int] = Field(
        description="Words by how much of them is known: no match, by band of likeness, repeated in the same commission; of what is "
        "without words, how many sentences.",
        examples=[
            {"no match": 120, "75–84": 0, "85–94": 14, "95–99": 0, "exact": 9, "in context": 0, "repeated": 6}
        ],
    )
    cost: str = Field(
        description="What it costs by the bureau's rates, to a hundredth; empty where there are none."
    )


class EstimateOfCommission(Page):
    """What a commission holds in one locale, entry by entry: a page of it."""

    items: list[EntryCount] = Field(description="The entries that have something to translate.")
    currency: str = Field(description="The currency of the costs (ISO 4217); empty where there are none.")
    trouble: str = Field(
        description="Why whoever asks could not send what is on this page as it is, and what to do about it: a right that is missing, a day that is over, somebody who left, may not translate that or does not offer it. Empty where nothing is in the way."
    )
