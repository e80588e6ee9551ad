"""Messages about entries that not everybody may read while they are out."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Page, Wire

LimitWay = Literal["", "hidden", "locked"]
"""How an entry is limited: not at all, hidden from others, or listed and locked."""


class Limit(Wire):
    """Who may read an entry while it is out."""

    way: LimitWay = Field(
        description="Empty: everybody. `hidden`: for others nothing is there. `locked`: it is listed, and asks for a phrase."
    )
    audiences: list[str] = Field(
        default=[], description="The audiences for whom it is there all the same; reading keys list them."
    )
    has_phrase: bool = Field(
        default=False, description="Whether it has a phrase, which is kept hashed and never shown."
    )


class LimitAsk(Wire):
    """Who is to read an entry while it is out."""

    way: LimitWay = Field(description="Empty for everybody, `hidden` or `locked`.")
    audiences: list[str] = Field(default=[], description="The audiences for whom it is there all the same.")
    phrase: str = Field(
        default="",
        max_length=1000,
        description="A new phrase for a locked entry, from 8 to 200 characters; it ends what the one before it opened. Empty keeps that one.",
    )


class Limited(Wire):
    """Who may read an entry from now on, and how it was before."""

    limit: Limit
    was: Limit


class Audience(Wire):
    """Some of those who read."""

    name: str = Field(description="By what keys and entries name them.")


class Audiences(Page):
    """The audiences that keys read for, or that entries name."""

    items: list[Audience]


class UnlockAsk(Wire):
    """A phrase that somebody gave for a locked entry."""

    phrase: str = Field(
        max_length=1000, description="What was given; capitals and spaces make no difference."
    )
    visitor: str = Field(
        default="",
        max_length=100,
        description="By what a site tells its visitors apart, such as their address, so that one who guesses keeps none of the others waiting. Only taken with a key.",
    )


class Unlocked(Wire):
    """What a phrase opened."""

    token: str = Field(description="Stands for the phrase; sent as `Hawthorn-Unlocked` with what is read.")
    until: str = Field(description="Until when it does (RFC 3339, UTC), unless the phrase is changed before.")
