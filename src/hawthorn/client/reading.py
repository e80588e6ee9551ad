"""The calls of those who read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, into


def _alone(fallback: bool) -> dict[str, str]:
    return {} if fallback else {"fallback": "false"}


def _in_form(texts: wire.reading.TextForm) -> dict[str, str]:
    return {} if texts == "html" else {"texts": texts}


def _grouped(groups: bool) -> dict[str, str]:
    return {"groups": "true"} if groups else {}


def _unlocked(tokens: Sequence[str]) -> dict[str, str]:
    return {"Hawthorn-Unlocked": ", ".join(tokens)} if tokens else {}


def _entry(path: str, params: Mapping[str, Any], unlocked: Sequence[str]) -> Request[wire.reading.ReadEntry]:
    return Request("GET", path, into(wire.reading.ReadEntry), params=params, headers=_unlocked(unlocked))


def _where(where: Mapping[str, str | Sequence[str]]) -> dict[str, Any]:
    return {
        f"where.{name}": value if isinstance(value, str) else list(value) for name, value in where.items()
    }


def _given(params: Mapping[str, Any]) -> dict[str, Any]:
    """Without what asks for nothing."""
    return {name: value for name, value in params.items() if value not in ("", [], [""])}


def _feed(
    site: str,
    format: str,
    type: str | Sequence[str],
    locale: str,
    where: Mapping[str, str | Sequence[str]],
    limit: int,
    cursor: str,
) -> Request[bytes]:
    params = {
        "type": [type] if isinstance(type, str) else list(type),
        "locale": locale,
        "limit": limit,
        "cursor": cursor,
    }
    return Request(
        "GET", f"/feeds/{quote(site)}/{format}", lambda r: r.content, params=_given(params | _where(where))
    )


class ReadingCalls:
    """The calls of those who read, without a way to send them."""

    @call
    def read(
        self,
        id: str,
        *,
        locale: str = "",
        stage: str = "",
        at: str = "",
        dispatch: str = "",
        strand: str = "",
        preview: str = "",
        fallback: bool = True,
        texts: wire.reading.TextForm = "html",
        unlocked: Sequence[str] = (),
        groups: bool = False,
    ) -> Request[wire.reading.ReadEntry]:
        """An entry as those who read see it; `dispatch` (an id) is read as if it had gone, `strand` are drafts with the work of that name beside them, `preview` is what the address of a previewed
        page carries. Without `fallback` no other locale stands in. `texts` is the form of rich texts; `unlocked` is what phrases gave (`unlock`),
        and with `groups` it says what it depends on."""
        where = {"stage": stage, "at": at, "dispatch": dispatch, "strand": strand, "preview": preview}
        params = {"locale": locale, **where, **_alone(fallback), **_in_form(texts), **_grouped(groups)}
        return _entry(f"/read/entries/{quote(id)}", params, unlocked)

    @call
    def read_page(
        self,
        path: str,
        *,
        stage: str = "",
        at: str = "",
        dispatch: str = "",
        strand: str = "",
        preview: str = "",
        texts: wire.reading.TextForm = "html",
        unlocked: Sequence[str] = (),
        groups: bool = False,
    ) -> Request[wire.reading.ReadEntry]:
        """An entry by the path of its page, locale first."""
        where = {"stage": stage, "at": at, "dispatch": dispatch, "strand": strand, "preview": preview}
        params = {**where, **_in_form(texts), **_grouped(groups)}
        return _entry(f"/read/pages/{quote(path.lstrip('/'))}", params, unlocked)

    @call
    def read_head(
        self,
        id: str,
        *,
        locale: str = "",
        site: str = "",
        stage: str = "",
        strand: str = "",
        preview: str = "",
        unlocked: Sequence[str] = (),
    ) -> Request[wire.reading.ReadHead]:
        """What the page of an entry says of itself: its addresses, Open Graph, and JSON-LD. `site` is named where there are several."""
        params = {"locale": locale, "site": site, "stage": stage, "strand": strand, "preview": preview}
        return Request(
            "GET",
            f"/read/entries/{quote(id)}/head",
            into(wire.reading.ReadHead),
            params=params,
            headers=_unlocked(unlocked),
        )

    @call
    def unlock(self, id: str, phrase: str, *, visitor: str = "") -> Request[wire.limiting.Unlocked]:
        """Give the phrase of a locked entry; `visitor` is by what a site tells its visitors apart, and is taken with a key."""
        body = {"phrase": phrase, "visitor": visitor}
        return Request("POST", f"/read/entries/{quote(id)}/unlock", into(wire.limiting.Unlocked), json=body)

    @call
    def read_entries(
        self,
        *,
        type: str | Sequence[str] = "",
        locale: str = "",
        stage: str = "",
        at: str = "",
        dispatch: str = "",
        strand: str = "",
        limit: int = 20,
        cursor: str = "",
        fallback: bool = True,
        where: Mapping[str, str | Sequence[str]] = {},
        sort: str = "",
        ids: Sequence[str] = (),
        fields: Sequence[str] = (),
        include: Sequence[str] = (),
        referring: Sequence[str] = (),
        texts: wire.reading.TextForm = "html",
        unlocked: Sequence[str] = (),
        groups: bool = False,
    ) -> Request[wire.reading.ReadPage]:
        """Entries that stand somewhere: by type, by conditions on fields (`{"begins.from": "2027-03-01"}`) or by ids, the latest first or sorted by a
        field; with what they relate to. Without `fallback` no other locale stands in."""
        params = {
            "type": [type] if isinstance(type, str) else list(type),
            "locale": locale,
            "stage": stage,
            "at": at,
            "dispatch": dispatch,
            "strand": strand,
            "limit": limit,
            "cursor": cursor,
            "sort": sort,
            "id": list(ids),
            "fields": ",".join(fields),
            "include": ",".join(include),
            "referring": ",".join(referring),
            **_alone(fallback),
            **_in_form(texts),
            **_grouped(groups),
            **_where(where),
        }
        return Request(
            "GET",
            "/read/entries",
            into(wire.reading.ReadPage),
            params=_given(params),
            headers=_unlocked(unlocked),
        )

    @call
    def read_changed(self, since: str = "") -> Request[wire.reading.ReadChanged]:
        """What changed of what is out since a position that an earlier answer gave; everything without one."""
        return Request("GET", "/read/changed", into(wire.reading.ReadChanged), params={"since": since})

    @call
    def read_counts(
        self,
        by: str,
        *,
        type: str | Sequence[str] = "",
        locale: str = "",
        stage: str = "",
        at: str = "",
        dispatch: str = "",
        strand: str = "",
        fallback: bool = True,
        where: Mapping[str, str | Sequence[str]] = {},
    ) -> Request[wire.reading.ReadCounts]:
        """How many entries there are by a field, or by month."""
        params = {
            "by": by,
            "type": [type] if isinstance(type, str) else list(type),
            "locale": locale,
            "stage": stage,
            "at": at,
            "dispatch": dispatch,
            "strand": strand,
            **_alone(fallback),
        }
        return Request(
            "GET", "/read/counts", into(wire.reading.ReadCounts), params=_given(params | _where(where))
        )

    @call
    def read_questions(self, questions: Mapping[str, Mapping[str, Any]]) -> Request[wire.reading.ReadAnswers]:
        """Several lists in one call, each under a name of its own."""
        body = {"questions": {name: dict(one) for name, one in questions.items()}}
        return Request("POST", "/read/questions", into(wire.reading.ReadAnswers), json=body)

    @call
    def read_atom(
        self,
        site: str,
        *,
        type: str | Sequence[str] = "",
        locale: str = "",
        where: Mapping[str, str | Sequence[str]] = {},
        limit: int = 20,
        cursor: str = "",
    ) -> Request[bytes]:
        """What is out as an Atom feed of a site."""
        return _feed(site, "atom", type, locale, where, limit, cursor)

    @call
    def read_json_feed(
        self,
        site: str,
        *,
        type: str | Sequence[str] = "",
        locale: str = "",
        where: Mapping[str, str | Sequence[str]] = {},
        limit: int = 20,
        cursor: str = "",
    ) -> Request[bytes]:
        """What is out as a JSON Feed of a site."""
        return _feed(site, "json", type, locale, where, limit, cursor)

    @call
    def read_site_map(self, site: str) -> Request[bytes]:
        """The map of a site: an index of its parts."""
        return Request("GET", f"/feeds/{quote(site)}/sitemap.xml", lambda r: r.content)

    @call
    def read_site_map_part(self, site: str, number: int) -> Request[bytes]:
        """A part of the map of a site."""
        return Request("GET", f"/feeds/{quote(site)}/sitemap-{number}.xml", lambda r: r.content)

    @call
    def read_robots(self, site: str) -> Request[bytes]:
        """What programs that walk a site are told."""
        return Request("GET", f"/feeds/{quote(site)}/robots.txt", lambda r: r.content)

    @call
    def read_redirects(self, site: str) -> Request[bytes]:
        """The old addresses of a site's pages with those that they have now, as CSV."""
        return Request("GET", f"/feeds/{quote(site)}/redirects.csv", lambda r: r.content)

    @call
    def read_types(self, language: str) -> Request[str]:
        """Types of what is read, as a file: for `typescript` or `python`."""
        return Request("GET", f"/read/types/{quote(language)}", lambda r: r.text)

    @call
    def read_openapi(self) -> Request[dict[str, Any]]:
        """The document of reading (OpenAPI 3.1) for this set-up."""
        return Request("GET", "/read/openapi.json", lambda r: r.json())

    @call
    def read_outline(
        self,
        *,
        below: str = "",
        depth: int = 2,
        locale: str = "",
        stage: str = "",
        at: str = "",
        dispatch: str = "",
        strand: str = "",
        preview: str = "",
    ) -> Request[wire.reading.ReadOutline]:
        """Pages in the order of the outline, nested, as those who read get them."""
        params = {
            "below": below,
            "depth": depth,
            "locale": locale,
            "stage": stage,
            "at": at,
            "dispatch": dispatch,
            "strand": strand,
            "preview": preview,
        }
        return Request("GET", "/read/outline", into(wire.reading.ReadOutline), params=params)

    @call
    def last_change(self, preview: str, since: int = 0) -> Request[wire.delivery.LastChange]:
        """Whether what a preview shows has changed since a number that an earlier answer gave."""
        return Request(
            "GET",
            "/read/changes/last",
            into(wire.delivery.LastChange),
            params={"preview": preview, "since": since},
        )
