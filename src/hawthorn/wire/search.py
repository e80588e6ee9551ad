"""What crosses HTTP about finding: matches, tags, topics and saved lists."""

from __future__ import annotations

from typing import Any

from hawthorn.wire.base import Named, Page, Shortened, Wire


class Match(Named, Shortened):
    """An entry that a name may mean."""


class Matches(Page):
    """Entries that a name may mean."""

    items: list[Match]


class Count(Wire):
    """How many a list has."""

    count: int
    more: bool


class TagLine(Wire):
    """A tag and how many entries have it."""

    tag: str
    entries: int


class Tags(Page):
    """Tags in use."""

    items: list[TagLine]


class TopicLine(Wire):
    """An entry of a type that others refer to, with the one above it and how many refer to it."""

    id: str
    title: str
    parent: str | None
    entries: int


class Topics(Page):
    """Topics as a tree, by title."""

    items: list[TopicLine]


class ListAsk(Wire):
    """A list to keep: the members of its query are those of the list of entries."""

    name: str
    query: dict[str, Any]
    shared: bool = False


class SavedList(Wire):
    """A list that somebody keeps."""

    id: str
    name: str
    shared: bool
    by: str
    own: bool
    query: dict[str, Any]


class SavedLists(Page):
    """One's own lists and the shared ones."""

    items: list[SavedList]
