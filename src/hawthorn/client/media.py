"""The calls of media: files, uploads, the library and crops."""

from __future__ import annotations

import base64
from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote

import httpx

from hawthorn import wire
from hawthorn.client.requests import Request, call, check, into, nothing, once, page


def _location(response: httpx.Response) -> str:
    """The id at the end of where something was made."""
    return check(response).headers["location"].rsplit("/", 1)[-1]


def _offset(response: httpx.Response) -> int:
    return int(check(response).headers["upload-offset"])


class MediaCalls:
    """The calls of media, without a way to send them."""

    @call
    def upload(self, name: str, data: bytes) -> Request[wire.media.FileValue]:
        """Upload a picture; the answer is the value for a file field."""
        return Request("POST", "/api/files", into(wire.media.FileValue), files={"file": (name, data)})

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
        return Request("GET", "/api/folders", into(wire.media.Folders), params=page(limit, cursor))

    @call
    def make_folder(
        self, name: str, parent: str = "", *, key: str | None = None
    ) -> Request[wire.media.Folder]:
        """Make a folder."""
        body = {"name": name, "parent": parent}
        return Request("POST", "/api/folders", into(wire.media.Folder), json=body, headers=once(key))

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
        return Request("GET", "/api/uploads", into(wire.media.Uploads), params=page(limit, cursor))

    @call
    def drop_upload(self, id: str) -> Request[None]:
        """Break an upload off for good."""
        return Request("DELETE", f"/api/uploads/{quote(id)}", nothing)

    @call
    def define_crops(self, crops: Sequence[Mapping[str, Any]]) -> Request[wire.media.Crops]:
        """Put crops in place of those there are."""
        return Request("PUT", "/api/crops", into(wire.media.Crops), json={"crops": [dict(c) for c in crops]})
