"""What crosses HTTP between Hawthorn and a machine that suggests translations: `POST {address}/v1/suggestions`.

A sentence is plain text in which a tag is its number in angle brackets: `It <1>burned</1> oil.<2/>`.
"""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from hawthorn import wire

MOST = 50
"""So many sentences are asked for at once."""


class Asked(BaseModel):
    """Sentences to suggest a translation of."""

    model_config = ConfigDict(extra="ignore", defer_build=wire.DEFER)
    source: str = Field(description="The language that they are in (BCP 47).")
    target: str = Field(description="The language that is wanted.")
    sentences: list[str] = Field(max_length=MOST, description="The sentences.")


class Suggested(BaseModel):
    """What is suggested, in the order of what was asked."""

    model_config = ConfigDict(extra="ignore", defer_build=wire.DEFER)
    sentences: list[str | None] = Field(
        max_length=MOST, description="A suggestion for each sentence; null where there is none."
    )
