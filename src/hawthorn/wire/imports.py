"""What crosses HTTP about files that are imported into memories and glossaries."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Page, Wire


class FileImport(Wire):
    """An import of a file: how far it is, or what became of it."""

    id: int = Field(description="Its number, by which it can be undone.")
    name: str = Field(description="The name of the file.")
    state: Literal["running", "done", "failed", "undone", "interrupted"] = Field(
        description="Where it stands; interrupted when it has said nothing of itself for a minute."
    )
    read: int = Field(description="So many units of the file were read.")
    added: int = Field(description="So many were new.")
    known: int = Field(description="So many were there already.")
    refused: int = Field(description="So many could not be used.")
    problems: list[str] = Field(description="Which and why, the first fifty.")
    by: str = Field(description="Who imported it.")
    at: str = Field(description="When it began.")
    ended_at: str = Field(description="When it ended; empty while it runs.")


class FileImports(Page):
    """Imports of files, the newest first."""

    items: list[FileImport] = Field(description="The imports.")


class Removed(Wire):
    """Whether all of it has gone."""

    more: bool = Field(description="Whether to ask once more: what is large goes a part at a time.")
