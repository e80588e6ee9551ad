"""The calls of search: finding, tags, topics and saved lists."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, into, nothing, once, page


class SearchCalls:
    """The calls of search, without a way to send them."""

    @call
    def entries(
        self,
        *,
        type: str = "",
        locale: str = "",
        stage: str = "",
        person: str = "",
        words: str = "",
        section: str = "",
        topic: str = "",
        tag: str = "",
        since: str = "",
        until: str = "",
        validity: str = "",
        archived: str = "",
        at: str = "",
        incomplete: bool = False,
        behind: bool = False,
        planned: bool = False,
        sort: str = "",
        limit: int = 50,
        cursor: str = "",
    ) -> Request[wire.content.EntryPage]:
        """A page of entries, the last changed first or as `sort` says; with words, those whose text has all of them."""
        params = {
            "type": type,
            "locale": locale,
            "stage": stage,
            "person": person,
            "words": words,
            "section": section,
            "topic": topic,
            "tag": tag,
            "since": since,
            "until": until,
            "validity": validity,
            "archived": archived,
            "at": at,
            "incomplete": incomplete,
            "behind": behind,
            "planned": planned,
            "sort": sort,
            "limit": limit,
            "cursor": cursor,
        }
        return Request("GET", "/api/entries", into(wire.content.EntryPage), params=params)

    @call
    def count_entries(self, query: Mapping[str, Any] | None = None) -> Request[wire.search.Count]:
        """How many the list of entries has that is asked for by the members of `query`, counted up to a thousand."""
        return Request("GET", "/api/entries/count", into(wire.search.Count), params=dict(query or {}))

    @call
    def look_up(self, text: str) -> Request[wire.search.Matches]:
        """Entries by address, by the start of their id, or by a part of the title."""
        return Request("GET", "/api/entries/lookup", into(wire.search.Matches), params={"text": text})

    @call
    def tags(self, start: str = "", *, limit: int = 0, cursor: str = "") -> Request[wire.search.Tags]:
        """Tags in use that begin so, with how many entries have each."""
        params = {"start": start} | page(limit, cursor)
        return Request("GET", "/api/tags", into(wire.search.Tags), params=params)

    @call
    def topics(self, type: str, *, limit: int = 0, cursor: str = "") -> Request[wire.search.Topics]:
        """The entries of a type as a tree, each with how many entries refer to it."""
        return Request(
            "GET", f"/api/topics/{quote(type)}", into(wire.search.Topics), params=page(limit, cursor)
        )

    @call
    def lists(self, *, limit: int = 0, cursor: str = "") -> Request[wire.search.SavedLists]:
        """One's own lists and the shared ones."""
        return Request("GET", "/api/lists", into(wire.search.SavedLists), params=page(limit, cursor))

    @call
    def save_list(
        self, name: str, query: Mapping[str, Any], *, shared: bool = False, key: str | None = None
    ) -> Request[wire.search.SavedList]:
        """Keep a query of entries under a name."""
        body = {"name": name, "query": dict(query), "shared": shared}
        return Request("POST", "/api/lists", into(wire.search.SavedList), json=body, headers=once(key))

    @call
    def change_list(
        self, id: str, name: str, query: Mapping[str, Any], *, shared: bool = False
    ) -> Request[wire.search.SavedList]:
        """Change a list of one's own."""
        body = {"name": name, "query": dict(query), "shared": shared}
        return Request("PUT", f"/api/lists/{quote(id)}", into(wire.search.SavedList), json=body)

    @call
    def drop_list(self, id: str) -> Request[None]:
        """Drop a list of one's own."""
        return Request("DELETE", f"/api/lists/{quote(id)}", nothing)
