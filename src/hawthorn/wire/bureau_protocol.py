"""What crosses HTTP between Hawthorn and a bureau (`docs/bureaus.md`, `docs/bureau-protocol.json`): what a bureau answers, and what it is sent.

Members that are not known are left aside, so that a bureau may say more than this version asks.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from hawthorn import wire

VERSION = "1"
"""The version of the protocol; it is the first part of each path."""
State = Literal["expected", "offered", "accepted", "refused", "in work", "finished", "cancelled", "failed"]
_ID = r"^[A-Za-z0-9._~-]+$"
_TAG = r"^[A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*$"
_AMOUNT = r"^\d{1,3}(\.\d{1,6})?$"
_SHARE = r"^(0(\.\d{1,6})?|1(\.0{1,6})?)$"


class Said(BaseModel):
    """A message of this protocol."""

    model_config = ConfigDict(extra="ignore", defer_build=wire.DEFER)


class Pair(Said):
    """One language into another."""

    source: str = Field(
        max_length=35, pattern=_TAG, description="The source language (BCP 47).", examples=["en"]
    )
    target: str = Field(
        max_length=35, pattern=_TAG, description="The target language (BCP 47).", examples=["fr-FR"]
    )
    word: str = Field(
        default="",
        pattern=rf"{_AMOUNT}|^$",
        description="What a word costs where that differs.",
        examples=["0.19"],
    )


class Offer(Said):
    """What a bureau offers to whoever calls with this key."""

    protocol: Literal["1"] = Field(description="The version of this protocol.")
    name: str = Field(
        max_length=200, description="What the bureau calls itself.", examples=["Saltmarsh Translations"]
    )
    pairs: list[Pair] = Field(max_length=2_000, description="Which languages it translates into which.")
    currency: str = Field(
        default="",
        pattern=r"^([A-Z]{3})?$",
        description="The currency of its rates (ISO 4217); empty for no rates.",
    )
    word: str = Field(default="0", pattern=_AMOUNT, description="What a word costs.", examples=["0.14"])
    shares: dict[str, Annotated[str, Field(pattern=_SHARE)]] = Field(
        default_factory=dict,
        description="Which share of it for words that are known, by how much: `repeated`, `in context`, `exact`, `95–99`, `85–94`, `75–84`.",
        examples=[{"repeated": "0.1"}],
    )


class Order(Said):
    """A job, before its file: all that a bureau needs to know to accept or refuse it."""

    name: str = Field(description="What the job is called.")
    source: str = Field(description="The source language, as the bureau calls it.", examples=["en"])
    target: str = Field(description="The target language, as the bureau calls it.", examples=["fr-FR"])
    due: str = Field(
        default="", description="The day by which it is wanted (RFC 3339 full-date); empty for none."
    )
    note: str = Field(default="", description="Instructions.")
    units: int = Field(description="How many units it has.")
    words: int = Field(description="How many words their sources have.")
    media_type: str = Field(
        description="Of the file that follows.", examples=["application/xliff+xml;version=2.1"]
    )
    sha256: str = Field(description="The digest of the file that follows, in hexadecimal digits.")
    notify: str = Field(
        default="",
        description="Where the bureau may call when something changes, signed (Standard Webhooks); what has changed is then asked for.",
        examples=["https://cms.example/api/bureaus/1/call"],
    )


class NewDay(Said):
    """What changes of a job that a bureau has (RFC 7396)."""

    due: str = Field(description="The day by which it is wanted now (RFC 3339 full-date); empty for none.")


class OwnFile(Said):
    """A file in the target language, in the place of one that the job's file names (metadata of the category `own-file-…`)."""

    file: str = Field(max_length=500, description="The `original` of the file in which it is named.")
    field: str = Field(max_length=200, description="The field that it is for.", examples=["file"])
    name: str = Field(
        min_length=1, max_length=200, description="What it is called.", examples=["leaflet-fr.pdf"]
    )


class Part(Said):
    """A part of a job that is translated: an XLIFF file with the units that it holds, or a file in the target language. The last part is
    like any other."""

    id: str = Field(min_length=1, max_length=200, pattern=_ID, description="What the bureau calls it.")
    sha256: str = Field(
        pattern=r"^[0-9a-f]{64}$", description="The digest of its file, in hexadecimal digits."
    )
    own_file: OwnFile | None = Field(
        default=None,
        description="Which file this is, where it is one that differs by language, and no XLIFF.",
    )


class Question(Said):
    """A question about a segment."""

    id: str = Field(min_length=1, max_length=200, pattern=_ID, description="What the bureau calls it.")
    file: str = Field(max_length=500, description="The `original` of the file in which the unit is.")
    unit: str = Field(max_length=500, description="The id of the unit.")
    segment: str = Field(
        default="", max_length=200, description="The id of the segment; empty for the unit as a whole."
    )
    text: str = Field(min_length=1, max_length=2_000, description="What is asked.")
    context: str = Field(
        default="",
        max_length=2_000,
        description="An address where whoever answers sees what the translator sees.",
    )


class Standing(Said):
    """How a job stands."""

    state: State = Field(
        description="expected: its file has not come. offered: nobody has decided. accepted, refused. in work. finished: all of it is in its parts. "
        "cancelled, failed: nothing more comes."
    )
    done: int | None = Field(
        default=None,
        ge=0,
        le=1_000_000_000,
        description="How many units are translated; left out where nobody counts.",
    )
    total: int | None = Field(
        default=None, ge=0, le=1_000_000_000, description="How many units it has by the bureau's count."
    )
    reason: str = Field(default="", max_length=10_000, description="Why it was refused, cancelled or failed.")
    parts: list[Part] = Field(default_factory=list, max_length=10_000, description="What is translated.")
    questions: list[Question] = Field(default_factory=list, max_length=1_000, description="What was asked.")


class Answered(Said):
    """The answer to a question."""

    text: str = Field(description="The answer.")
    by: str = Field(default="", description="Who answered.")


class Changed(Said):
    """What a bureau calls with: one of its jobs has changed. It is asked about at once."""

    type: Literal["job.changed"] = Field(description="What happened.")
    job: str = Field(
        min_length=1, max_length=200, pattern=_ID, description="The job, by the id under which it was sent."
    )
