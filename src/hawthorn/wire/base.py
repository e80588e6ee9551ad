"""What every message shares. Instants are RFC 3339 in UTC."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from hawthorn import wire

TRY = "Hawthorn-Try"
"""The header of a change that is only tried: answered as if it were done, and taken back."""


class Wire(BaseModel):
    """A message; unknown members are refused, so that a typing mistake is not silently dropped."""

    model_config = ConfigDict(extra="forbid", defer_build=wire.DEFER)


class Page(Wire):
    """A page of a list: its items, and where the next page begins."""

    next: str = Field(
        default="", description="Where the next page begins, as `cursor` takes it; empty on the last."
    )


class Shortened(Wire):
    """Something with an id of its own."""

    id: str
    short: str = Field(
        default="",
        description="The shortest start of the id that no other of its kind has; commands take it.",
    )


class Named(Wire):
    """An entry by name."""

    id: str
    type: str
    title: str
    file: str = ""


class LocaleAsk(Wire):
    """A locale to have; without a name it is called by its tag."""

    tag: str = Field(description="A language tag (BCP 47), such as fr or pt-BR.")
    name: str = ""
    direction: str = ""
    fallback: list[str] = Field(default_factory=list)
