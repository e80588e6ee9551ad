"""Sending stored files and renditions: in parts where asked for, as what they are, and never as a page of ours."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from itertools import chain
from typing import Any
from urllib.parse import quote

from fastapi import Request
from starlette.responses import Response, StreamingResponse

from hawthorn.core.errors import StaleRevision
from hawthorn.operations.media import files
from hawthorn.operations.media.renditions import Maker
from hawthorn.operations.runtime.act import Desk
from hawthorn.service import conditional
from hawthorn.store.files import File

_CHUNK = 1 << 20
_LARGEST = 1 << 62
SAFE = {
    "X-Content-Type-Options": "nosniff",
    # A file is looked at by itself: whatever a drawing holds, it runs nothing and fetches nothing.
    "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; img-src data:; sandbox",
    "Cross-Origin-Resource-Policy": "cross-origin",
}

Described = dict[int | str, dict[str, Any]]
UNCHANGED: Described = {
    304: {"description": "What `If-None-Match` names is still what there is (RFC 9110, section 13.1.2)."}
}
MOVED: Described = {301: {"description": "The page has another address by now: `Location`."}}
_BYTES = {"schema": {"type": "string", "format": "binary"}}
SHAPED: Described = {
    200: {"content": {"image/*": _BYTES}},
    302: {"description": "The crop has another size: `Location`."},
}
IN_PARTS: Described = {
    **UNCHANGED,
    200: {"content": {"*/*": _BYTES}},
    206: {
        "description": "The part that `Range` asked for (RFC 9110, section 14).",
        "content": {"*/*": _BYTES},
    },
    416: {"description": "There is no such part."},
}
STREAMED: Described = {200: {"content": {"text/event-stream": {"schema": {"type": "string"}}}}}
"""Answers besides those of success and refusal, as the document of the API describes them."""


def maker_of(request: Request) -> Maker:
    """What makes and keeps renditions in this process."""
    maker: Maker = request.app.state.maker
    return maker


def checked(
    request: Request,
    etag: str,
    headers: Mapping[str, str],
    modified: int | None = None,
    *,
    media_type: str = "application/json",
) -> Response | None:
    """What is answered in place of something, as whoever asks has it already (304). Raises `StaleRevision` where it is not what they know (412).
    It still says its media type: `encoding` says by it what else the answer would have said."""
    status = conditional.status_of(request.headers, etag, modified)
    if status == 412:
        raise StaleRevision("service.not_as_known")
    return Response(status_code=304, headers=dict(headers), media_type=media_type) if status == 304 else None


def tagged(
    request: Request, data: bytes, etag: str, headers: Mapping[str, str], media_type: str = "application/json"
) -> Response:
    """An answer under its entity tag; without its content to whoever has it."""
    headers = {"ETag": etag, **headers}
    had = checked(request, etag, headers, media_type=media_type)
    return had or Response(data, headers=headers, media_type=media_type)


def file_response(request: Request, desk: Desk, row: File, cache: Mapping[str, str]) -> Response:
    """A stored file, or the part of it that `Range` asks for (RFC 9110, section 14.2; one part at a time)."""
    etag = f'"{row.sha256[:24]}"'
    size = row.bytes
    headers = {**SAFE, **cache, "ETag": etag, "Accept-Ranges": "bytes"}
    headers["Last-Modified"] = conditional.http_date(row.at)
    if not row.media_type.startswith(("image/", "audio/", "video/", "text/vtt")):
        headers["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(row.name)}"
    if (had := checked(request, etag, headers, row.at, media_type=row.media_type)) is not None:
        return had
    wanted = request.headers.get("range", "")
    if wanted and request.headers.get("if-range", etag) in (etag, headers["Last-Modified"]):
        part = _range(wanted, size)
        if part is None:
            return Response(status_code=416, headers={**headers, "Content-Range": f"bytes */{size}"})
        if part != (0, size):
            start, length = part
            headers["Content-Range"] = f"bytes {start}-{start + length - 1}/{size}"
            return _sent(desk, row, start, length, 206, headers)
    return _sent(desk, row, 0, size, 200, headers)


def _range(text: str, size: int) -> tuple[int, int] | None:
    """The start and length of the first range, the whole for what is not understood, None for one outside."""
    found = re.match(r"^bytes=([0-9]*)-([0-9]*)$", text.split(",")[0].strip())
    if found is None or not (found[1] or found[2]):
        return 0, size
    # A number with more digits than any file has bytes is as good as the largest.
    first, last = (_LARGEST if len(text) > 18 else int(text or 0) for text in (found[1], found[2]))
    if not found[1]:
        length = min(last, size)
        return (size - length, length) if length else None
    start = first
    end = min(last if found[2] else size - 1, size - 1)
    return (start, end - start + 1) if start <= end and start < size else None


def _sent(desk: Desk, row: File, start: int, length: int, status: int, headers: dict[str, str]) -> Response:
    media_type = row.media_type
    if length <= _CHUNK:
        return Response(files.part(desk, row, start, length), status, headers, media_type)
    headers["Content-Length"] = str(length)
    parts = _parts(desk, row, start, length)
    # Where it cannot be read that is said in place of it, not by an answer that breaks off.
    first = next(parts)
    return StreamingResponse(chain([first], parts), status, headers, media_type)


def _parts(desk: Desk, row: File, start: int, length: int) -> Iterator[bytes]:
    # What is asked for next ends where a part of what is kept does.
    at, end = start, start + length
    while at < end:
        until = min(end, (at // _CHUNK + 1) * _CHUNK)
        yield files.part(desk, row, at, until - at)
        at = until
