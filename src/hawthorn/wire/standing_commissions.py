"""What crosses HTTP about standing commissions: what changes in a section goes out by itself."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Page, Wire
from hawthorn.wire.commissions import CommissionTarget, CommissionTargetShown, Returns, Translator

Sends = Literal["out", "draft"]
"""What is sent: a source as soon as it is out, or its draft as it is saved."""


class StandingCommission(Wire):
    """A standing commission, how much waits for it, and when that goes."""

    id: str = Field(description="Its id.")
    name: str = Field(description="What it is called; what it sends is called that, with the day.")
    section: str = Field(description="The entry that heads the section of which it sends; empty for all.")
    section_title: str = Field(description="What that is called.")
    state: Literal["on", "off", "stopped"] = Field(
        description="On; switched off; or stopped, because it could not send."
    )
    trouble: str = Field(description="Why it stopped; empty where it did not.")
    sends: Sends = Field(description="What it sends.")
    pause: int = Field(description="After so many minutes without a change something goes.")
    days: int = Field(description="After so many days it is due; 0 for no day.")
    note: str = Field(description="What whoever translates should know.")
    linked: bool = Field(
        description="Whether what the entries refer to goes along: pictures with their alt text, linked entries."
    )
    fill: bool = Field(description="Whether open sentences are filled from the memories.")
    machine: bool = Field(description="Whether a machine drafts first what no memory knows.")
    returns: Returns = Field(description="How what returns lands.")
    memories: list[str] = Field(description="The memories that are looked into; all where none is named.")
    glossaries: list[str] = Field(description="The glossaries that are looked into; all where none is named.")
    targets: list[CommissionTargetShown] = Field(description="Into which locales, and who does each.")
    by: str = Field(description="Who set it up; it acts with their rights.")
    since: str = Field(description="When.")
    waiting: int = Field(description="So many entries wait.")
    next: str = Field(description="When they go, unless they change again; empty while nothing waits.")
    sent: int = Field(description="So many commissions it has sent.")
    may_change: bool = Field(description="Whether whoever asks may change it.")


class StandingCommissions(Page):
    """Standing commissions, by name."""

    items: list[StandingCommission] = Field(description="The standing commissions.")
    translators: list[Translator] = Field(
        description="Who could be named for each locale, those who write few before others."
    )


class StandingAsk(Wire):
    """A standing commission to set up."""

    name: str = Field(description="What to call it.", examples=["Visit, into French"])
    targets: list[CommissionTarget] = Field(description="Into which locales, and who does each.")
    section: str = Field(default="", description="The entry that heads the section; empty for all.")
    sends: Sends = Field(default="out", description="What it sends.")
    pause: int = Field(default=30, description="After so many minutes without a change something goes.")
    days: int = Field(default=0, description="After so many days it is due; 0 for no day.")
    note: str = Field(default="", description="What whoever translates should know.")
    linked: bool = Field(default=True, description="Whether what the entries refer to goes along.")
    fill: bool = Field(default=True, description="Whether open sentences are filled from the memories.")
    machine: bool = Field(default=False, description="Whether a machine drafts first what no memory knows.")
    returns: Returns = Field(default="draft", description="How what returns lands.")
    memories: list[str] = Field(default_factory=list, description="The memories that are looked into.")
    glossaries: list[str] = Field(default_factory=list, description="The glossaries that are looked into.")


class StandingChange(Wire):
    """What changes of a standing commission (RFC 7396): what is not given stays."""

    name: str | None = Field(default=None, description="What it is called.")
    targets: list[CommissionTarget] | None = Field(default=None, description="All its locales.")
    section: str | None = Field(default=None, description="The entry that heads the section; empty for all.")
    sends: Sends | None = Field(default=None, description="What it sends.")
    pause: int | None = Field(default=None, description="The pause, in minutes.")
    days: int | None = Field(default=None, description="After so many days it is due; 0 for no day.")
    note: str | None = Field(default=None, description="What whoever translates should know.")
    linked: bool | None = Field(default=None, description="Whether what the entries refer to goes along.")
    fill: bool | None = Field(
        default=None, description="Whether open sentences are filled from the memories."
    )
    machine: bool | None = Field(
        default=None, description="Whether a machine drafts first what no memory knows."
    )
    returns: Returns | None = Field(default=None, description="How what returns lands.")
    memories: list[str] | None = Field(default=None, description="The memories, all of them.")
    glossaries: list[str] | None = Field(default=None, description="The glossaries, all of them.")
    on: bool | None = Field(default=None, description="Switch it on, also after it stopped, or off.")


class StandingSent(Wire):
    """What was sent at once."""

    entries: int = Field(description="So many entries went.")
    commission: StandingCommission = Field(description="The standing commission.")
