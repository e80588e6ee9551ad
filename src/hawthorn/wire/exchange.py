"""Messages of what goes out of a house and comes in: set-up as a document, packages, receipts."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from hawthorn.wire.base import Wire

Definitions = list[dict[str, Any]]


class SetupDocument(Wire):
    """What a house is set up with, as one document. A part that is left out is not touched, and so is what a part does not name."""

    version: int = Field(description="The version of the document; 1.")
    locales: Definitions | None = Field(default=None, description="The locales, in order.")
    field_sets: Definitions | None = Field(default=None, description="The field sets that types share.")
    types: Definitions | None = Field(
        default=None, description="The content types, as their own files have them."
    )
    roles: Definitions | None = Field(default=None, description="The roles with their grants.")
    workflows: Definitions | None = Field(
        default=None, description="The workflows with their stages and gates."
    )
    choices: Definitions | None = Field(
        default=None, description="Which workflow is followed where, in order."
    )
    crops: Definitions | None = Field(default=None, description="The crops in which pictures are shown.")
    sites: Definitions | None = Field(
        default=None, description="The sites with the addresses of their pages."
    )
    bureaus: Definitions | None = Field(
        default=None, description="The bureaus, without their keys and secrets."
    )


class SetupMember(Wire):
    """A member of a definition that differs."""

    path: str = Field(description="Where it is in the definition; things in lists by their names.")
    before: Any = Field(description="What stands there here; null for nothing.")
    after: Any = Field(description="What the document says; null for nothing.")


class SetupDifference(Wire):
    """What a document says of one thing."""

    part: str = Field(description="The part of the document.")
    name: str = Field(description="The name of the thing; * for the order of all of them.")
    how: Literal["added", "changed", "in the way", "only here"] = Field(
        description="Added or changed here; not possible, and then nothing is done; or left alone, as the document does not name it."
    )
    members: list[SetupMember] = Field(description="The members that differ.")
    effects: list[str] = Field(description="What it does to what is there, in words.")
    why: str = Field(description="Why it is not possible.")


class SetupDifferences(Wire):
    """What a document changes here; things that are the same already are left out."""

    items: list[SetupDifference]
