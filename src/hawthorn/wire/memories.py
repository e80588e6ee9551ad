"""What crosses HTTP about translation memories: their sentences, matches and imports."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Page, Wire
from hawthorn.wire.content import Run


class Memory(Wire):
    """A translation memory, and what whoever looks may do with it."""

    id: str = Field(description="Its id.")
    name: str = Field(description="What it is called.")
    note: str = Field(description="What it is for.")
    section: str = Field(description="The entry that heads the section whose memory it is; empty for all.")
    units: int = Field(description="So many sentences with a translation are in it.")
    by: str = Field(description="Who added it.")
    at: str = Field(description="When.")
    may_manage: bool = Field(description="Whether whoever looks may change it, and import into it.")


class Memories(Page):
    """The memories that whoever asks may use, by name."""

    items: list[Memory] = Field(description="The memories.")


class MemoryAsk(Wire):
    """A memory to add."""

    name: str = Field(description="What it is called.", examples=["Lights and signals"])
    note: str = Field(default="", description="What it is for.")
    section: str = Field(default="", description="The entry that heads its section; empty for all.")


class MemoryChange(Wire):
    """What changes of a memory (RFC 7396): what is not given stays."""

    name: str | None = Field(default=None, description="What it is called.")
    note: str | None = Field(default=None, description="What it is for.")
    section: str | None = Field(default=None, description="The entry that heads its section; empty for all.")


class MemoryMerge(Wire):
    """Another memory that is put into this one."""

    other: str = Field(description="The memory that ends, by its id.")


class Known(Wire):
    """A sentence of a memory with one translation; tags stand by their numbers in angle brackets."""

    id: int = Field(description="Its number.")
    source_locale: str = Field(description="The language of the source.")
    source_text: str = Field(description="The source.")
    locale: str = Field(description="The language of the translation.")
    text: str = Field(description="The translation.")
    origin: Literal["accepted", "imported", "edited"] = Field(description="Where it came from.")
    by: str = Field(description="Who brought it, or wrote it last.")
    at: str = Field(description="When.")


class KnownList(Page):
    """Sentences of a memory, the newest first."""

    items: list[Known] = Field(description="The sentences.")


class KnownChange(Wire):
    """Another translation for a sentence."""

    target: str = Field(description="The translation.", examples=["La lampe du port"])


class KnownRemove(Wire):
    """Sentences to remove."""

    ids: list[int] = Field(description="Their numbers.", examples=[[17, 18]])


class MemoryMatch(Wire):
    """A sentence of a memory that is like one at hand."""

    id: int = Field(description="Its number.")
    memory: str = Field(description="The memory that it is in.")
    percent: int = Field(
        description="How alike the sources are, in percent; 101 for the same words in the same context."
    )
    band: str = Field(description="The band in which it is counted.", examples=["95–99"])
    penalties: list[Literal["tags", "old"]] = Field(description="What a percent was taken off for.")
    source: str = Field(description="The words of its source.")
    target: str = Field(description="Its translation, with the tags that the sentence at hand has.")
    runs: list[Run] = Field(description="Both sources, with what differs marked.")
    by: str = Field(description="Who translated it.")
    at: str = Field(description="When.")
    origin: str = Field(description="Where it came from: accepted, imported, edited.")


class Matches(Wire):
    """What the memories have for a sentence."""

    matches: list[MemoryMatch] = Field(description="At most five, the most alike first.")


class Suggestion(Wire):
    """What a machine suggests for a sentence."""

    text: str = Field(
        description="The suggestion, with tags by their numbers; empty where it has none.",
        examples=["La lampe <1>brûlait</1> de l’huile."],
    )


class Filled(Wire):
    """What was filled from the memories."""

    filled: int = Field(description="So many sentences; they stay open until somebody has looked at them.")
