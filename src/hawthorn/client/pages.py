"""The calls about pages: outline, library, sites, previews and search and sharing."""

from __future__ import annotations

import base64
from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote
from uuid import uuid4

import httpx

from hawthorn import wire
from hawthorn.client.requests import Request, call, check, into, nothing
from hawthorn.client.requests import page as _page


def _once(key: str | None) -> dict[str, str]:
    return {"Idempotency-Key": key or uuid4().hex}


def _location(response: httpx.Response) -> str:
    """The id at the end of where something was made."""
    return check(response).headers["location"].rsplit("/", 1)[-1]


def _offset(response: httpx.Response) -> int:
    return int(check(response).headers["upload-offset"])


class PageCalls:
    """The calls, without a way to send them."""

    @call
    def outline(
        self,
        below: str = "",
        *,
        locale: str = "",
        stage: str = "",
        at: str = "",
        limit: int = 100,
        cursor: str = "",
    ) -> Request[wire.delivery.OutlineLevel]:
        """The entries below one in the outline (the top without one), in order."""
        params = {
            "below": below,
            "locale": locale,
            "stage": stage,
            "at": at,
            "limit": limit,
            "cursor": cursor,
        }
        return Request("GET", "/api/outline", into(wire.delivery.OutlineLevel), params=params)

    @call
    def trail(
        self, id: str, *, locale: str = "", stage: str = "", at: str = ""
    ) -> Request[wire.delivery.OutlineTrail]:
        """An entry and all above it in the outline, the topmost first."""
        params = {"locale": locale, "stage": stage, "at": at}
        return Request(
            "GET", f"/api/outline/{quote(id)}/trail", into(wire.delivery.OutlineTrail), params=params
        )

    @call
    def search_outline(self, words: str, *, locale: str = "") -> Request[wire.delivery.OutlineMatches]:
        """Pages by words, each with what is above it."""
        params = {"words": words, "locale": locale}
        return Request("GET", "/api/outline/search", into(wire.delivery.OutlineMatches), params=params)

    @call
    def move(
        self, id: str, below: str | None = None, *, before: str = "", after: str = ""
    ) -> Request[wire.delivery.OutlineMoved]:
        """Place an entry elsewhere in the outline of the drafts; without `below` beside the one before or after which it stands."""
        body = {"below": below, "before": before, "after": after}
        return Request("POST", f"/api/outline/{quote(id)}/move", into(wire.delivery.OutlineMoved), json=body)

    @call
    def put_back(self, id: str, placement: Any) -> Request[wire.delivery.OutlineMoved]:
        """Undo a move: `placement` is what the move answered as `was`."""
        body = {"undo": True, "placement": placement}
        return Request("POST", f"/api/outline/{quote(id)}/move", into(wire.delivery.OutlineMoved), json=body)

    @call
    def copy_tree(
        self, id: str, below: str | None = None, *, key: str | None = None
    ) -> Request[wire.delivery.OutlineCopied]:
        """Copy an entry with all that is placed below it."""
        return Request(
            "POST",
            f"/api/outline/{quote(id)}/copy",
            into(wire.delivery.OutlineCopied),
            json={"below": below},
            headers=_once(key),
        )

    @call
    def library(
        self,
        *,
        words: str = "",
        folder: str = "",
        type: str = "",
        locale: str = "",
        limit: int = 60,
        cursor: str = "",
    ) -> Request[wire.media.LibraryPage]:
        """Entries that hold files, those changed last first; `folder` "none" is for those in no folder."""
        params = {
            "words": words,
            "folder": folder,
            "type": type,
            "locale": locale,
            "limit": limit,
            "cursor": cursor,
        }
        return Request("GET", "/api/library", into(wire.media.LibraryPage), params=params)

    @call
    def folders(self, *, limit: int = 0, cursor: str = "") -> Request[wire.media.Folders]:
        """The folders of the library."""
        return Request("GET", "/api/folders", into(wire.media.Folders), params=_page(limit, cursor))

    @call
    def make_folder(
        self, name: str, parent: str = "", *, key: str | None = None
    ) -> Request[wire.media.Folder]:
        """Make a folder."""
        body = {"name": name, "parent": parent}
        return Request("POST", "/api/folders", into(wire.media.Folder), json=body, headers=_once(key))

    @call
    def change_folder(
        self, id: str, *, name: str | None = None, parent: str | None = None
    ) -> Request[wire.media.Folder]:
        """Give a folder another name or put it elsewhere (empty for the top)."""
        body = {"name": name, "parent": parent}
        return Request("PATCH", f"/api/folders/{quote(id)}", into(wire.media.Folder), json=body)

    @call
    def remove_folder(self, id: str) -> Request[None]:
        """Remove a folder; what lies in it comes to lie where it lay."""
        return Request("DELETE", f"/api/folders/{quote(id)}", nothing)

    @call
    def file_into(self, entries: Sequence[str], folder: str = "") -> Request[wire.media.Filed]:
        """Put entries into a folder, or into none."""
        body = {"entries": list(entries), "folder": folder}
        return Request("POST", "/api/library/file", into(wire.media.Filed), json=body)

    @call
    def file_used(self, sha256: str) -> Request[wire.search.Matches]:
        """The entries whose drafts hold a file."""
        return Request("GET", f"/api/files/{quote(sha256)}/used", into(wire.search.Matches))

    @call
    def begin_upload(self, name: str, length: int) -> Request[str]:
        """Begin an upload that can be gone on with after a break (tus 1.0.0); answers its id."""
        named = base64.b64encode(name.encode()).decode()
        headers = {
            "Upload-Length": str(length),
            "Upload-Metadata": f"filename {named}",
            "Tus-Resumable": "1.0.0",
        }
        return Request("POST", "/api/uploads", _location, headers=headers)

    @call
    def append_upload(self, id: str, offset: int, data: bytes) -> Request[int]:
        """Go on with an upload where it stopped; answers how far it is."""
        headers = {
            "Upload-Offset": str(offset),
            "Content-Type": "application/offset+octet-stream",
            "Tus-Resumable": "1.0.0",
        }
        return Request("PATCH", f"/api/uploads/{quote(id)}", _offset, content=data, headers=headers)

    @call
    def upload_state(self, id: str) -> Request[wire.media.Upload]:
        """How far an upload is; once it is done, the value for a file field."""
        return Request("GET", f"/api/uploads/{quote(id)}", into(wire.media.Upload))

    @call
    def uploads(self, *, limit: int = 0, cursor: str = "") -> Request[wire.media.Uploads]:
        """One's uploads that are not done."""
        return Request("GET", "/api/uploads", into(wire.media.Uploads), params=_page(limit, cursor))

    @call
    def drop_upload(self, id: str) -> Request[None]:
        """Break an upload off for good."""
        return Request("DELETE", f"/api/uploads/{quote(id)}", nothing)

    @call
    def define_crops(self, crops: Sequence[Mapping[str, Any]]) -> Request[wire.media.Crops]:
        """Put crops in place of those there are."""
        return Request("PUT", "/api/crops", into(wire.media.Crops), json={"crops": [dict(c) for c in crops]})

    @call
    def define_locales(self, locales: Sequence[Mapping[str, Any]]) -> Request[wire.content.LocalesDefined]:
        """Put locales in place of those there are, in order."""
        body = {"locales": [dict(one) for one in locales]}
        return Request("PUT", "/api/locales", into(wire.content.LocalesDefined), json=body)

    @call
    def check_locales(self, locales: Sequence[Mapping[str, Any]]) -> Request[wire.content.LocalesDefined]:
        """What a definition of the locales would change."""
        body = {"locales": [dict(one) for one in locales]}
        return Request("POST", "/api/locales/check", into(wire.content.LocalesDefined), json=body)

    @call
    def define_sites(self, sites: Sequence[Mapping[str, Any]]) -> Request[wire.delivery.Sites]:
        """Put sites, with the addresses of their pages, in place of those there are."""
        return Request(
            "PUT", "/api/sites", into(wire.delivery.Sites), json={"sites": [dict(s) for s in sites]}
        )

    @call
    def check_site(
        self, site: Mapping[str, Any], *, entry: str = "", locale: str = ""
    ) -> Request[wire.delivery.SiteTrial]:
        """Try a site, saved or not, on an entry: what is wrong, and how to mend it."""
        body = {"site": dict(site), "entry": entry, "locale": locale}
        return Request("POST", "/api/sites/check", into(wire.delivery.SiteTrial), json=body)

    @call
    def page_addresses(
        self, id: str, locale: str, *, preview: str = ""
    ) -> Request[wire.delivery.PageAddresses]:
        """The addresses of an entry's page at every site."""
        path = f"/api/entries/{quote(id)}/{quote(locale)}/addresses"
        return Request("GET", path, into(wire.delivery.PageAddresses), params={"preview": preview})

    @call
    def open_preview(
        self, *, stage: str = "draft", at: str = "", strand: str = ""
    ) -> Request[wire.delivery.Pane]:
        """Open a preview of everything for oneself, at a stage and instant."""
        body = {"stage": stage, "at": at, "strand": strand}
        return Request("POST", "/api/previews", into(wire.delivery.Pane), json=body)

    @call
    def type_preview(
        self, id: str, entry: str, locale: str, fields: Mapping[str, Any]
    ) -> Request[wire.delivery.TypedResult]:
        """Show what is being typed in one's own preview."""
        body = {"entry": entry, "locale": locale, "fields": dict(fields)}
        return Request("PUT", f"/api/previews/{quote(id)}/typed", into(wire.delivery.TypedResult), json=body)

    @call
    def close_preview(self, id: str) -> Request[None]:
        """Close one's own preview."""
        return Request("DELETE", f"/api/previews/{quote(id)}", nothing)

    @call
    def links(self, *, entry: str = "", limit: int = 0, cursor: str = "") -> Request[wire.delivery.Links]:
        """The links that were given out, newest first."""
        return Request(
            "GET",
            "/api/preview-links",
            into(wire.delivery.Links),
            params={"entry": entry} | _page(limit, cursor),
        )

    @call
    def give_link(
        self,
        entry: str,
        *,
        scope: str = "entry",
        stage: str = "draft",
        at: str = "",
        strand: str = "",
        lasts: int = 7 * 86_400,
        name: str = "",
        key: str | None = None,
    ) -> Request[wire.delivery.Link]:
        """Give out a link for somebody without an account; `lasts` is in seconds."""
        body = {
            "scope": scope,
            "entry": entry,
            "stage": stage,
            "at": at,
            "strand": strand,
            "lasts": lasts,
            "name": name,
        }
        return Request("POST", "/api/preview-links", into(wire.delivery.Link), json=body, headers=_once(key))

    @call
    def take_link_back(self, id: str) -> Request[None]:
        """Take a link back: it opens nothing from now on."""
        return Request("DELETE", f"/api/preview-links/{quote(id)}", nothing)

    @call
    def shown_in(self, id: str, *, limit: int = 100) -> Request[wire.delivery.Showing]:
        """The pages that show an entry, and so change when it moves on."""
        return Request(
            "GET", f"/api/entries/{quote(id)}/shown-in", into(wire.delivery.Showing), params={"limit": limit}
        )

    @call
    def search_and_sharing(
        self, *, locale: str = "", limit: int = 50, cursor: str = ""
    ) -> Request[wire.delivery.SearchAndSharingPage]:
        """Pages whose text for searches and sharing is missing, too long, or said twice in the site."""
        params = {"locale": locale, "limit": limit, "cursor": cursor}
        return Request(
            "GET", "/api/search-and-sharing", into(wire.delivery.SearchAndSharingPage), params=params
        )

    @call
    def read_outline(
        self,
        *,
        below: str = "",
        depth: int = 2,
        locale: str = "",
        stage: str = "",
        at: str = "",
        preview: str = "",
    ) -> Request[wire.delivery.ReadOutline]:
        """Pages in the order of the outline, nested, as those who read get them."""
        params = {
            "below": below,
            "depth": depth,
            "locale": locale,
            "stage": stage,
            "at": at,
            "preview": preview,
        }
        return Request("GET", "/read/outline", into(wire.delivery.ReadOutline), params=params)

    @call
    def last_change(self, preview: str, since: int = 0) -> Request[wire.delivery.LastChange]:
        """Whether what a preview shows has changed since a number that an earlier answer gave."""
        return Request(
            "GET",
            "/read/changes/last",
            into(wire.delivery.LastChange),
            params={"preview": preview, "since": since},
        )
