"""Answers in a coding that whoever asks takes (RFC 9110, section 12.5.3): zstd, Brotli or gzip, made once for each answer and kept while there is room."""

from __future__ import annotations

import asyncio
import gzip
import re
from collections import OrderedDict
from functools import lru_cache
from threading import Lock

import brotli
import zstandard
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hawthorn.service.conditional import CODINGS, held, whole

SHORTEST = 1_000
"""Bytes; what is shorter is sent as it is."""
ROOM = 32_000_000
"""Bytes of coded answers that are kept."""
_TYPES = re.compile(
    r"application/(?:[\w.]+\+)?(?:json|xml)|text/(?:plain|xml|markdown|csv|html|css|javascript)|image/svg\+xml"
)
_PART = re.compile(r"\s*([\w*-]+)\s*(?:;\s*q=([01](?:\.\d{0,3})?))?\s*$")


@lru_cache(maxsize=512)
def wanted(accepted: str) -> str:
    """The coding that is taken best, ours first where several are taken alike; empty for none."""
    weights: dict[str, float] = {}
    for part in accepted.lower().split(",")[:20]:
        found = _PART.match(part)
        if found:
            weights[found[1]] = float(found[2] or 1)
    known = [(weights.get(one, weights.get("*", 0.0)), -n, one) for n, one in enumerate(CODINGS)]
    best, _, name = max(known)
    return name if best > 0 and best >= weights.get("identity", 0.0) else ""


def coded(data: bytes, coding: str, *, once: bool = False) -> bytes:
    """An answer in a coding; equal answers give equal bytes. What is sent once is made in less time, and a little longer."""
    if coding == "zstd":
        return zstandard.ZstdCompressor(level=3 if once else 9).compress(data)
    if coding == "br":
        return bytes(brotli.compress(data, quality=3 if once else 5))
    return gzip.compress(data, 4 if once else 6, mtime=0)


class Coded:
    """Coded answers by their entity tags and codings, the latest asked for last; the first go where there is no room."""

    def __init__(self, room: int = ROOM) -> None:
        self._room = room
        self._bytes = 0
        self._kept: OrderedDict[tuple[str, str], bytes] = OrderedDict()
        self._lock = Lock()

    def find(self, etag: str, coding: str) -> bytes | None:
        """What was made before."""
        with self._lock:
            found = self._kept.get((etag, coding))
            if found is not None:
                self._kept.move_to_end((etag, coding))
            return found

    def keep(self, etag: str, coding: str, data: bytes) -> None:
        """Keep what was made."""
        with self._lock:
            if (etag, coding) in self._kept or len(data) > self._room // 8:
                return
            self._kept[etag, coding] = data
            self._bytes += len(data)
            while self._bytes > self._room:
                _, gone = self._kept.popitem(last=False)
                self._bytes -= len(gone)


class Encoding:
    """An ASGI application around another: what is asked for comes in a coding that whoever asks takes.

    What the API makes for one person (`no-store`) is made anew each time: two such may come under one entity tag. What
    a call that changes something is answered may hold a secret that is shown once, and is sent as it is.
    """

    def __init__(self, app: ASGIApp, kept: Coded) -> None:
        self.app = app
        self.kept = kept

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not (
            scope["method"] in ("GET", "HEAD") or scope["path"].startswith("/read/")
        ):
            await self.app(scope, receive, send)
            return
        coding = wanted(Headers(scope=scope).get("accept-encoding", ""))
        worked = scope["path"].startswith("/api/")
        head: Message | None = None

        async def sent(message: Message) -> None:
            nonlocal head
            if message["type"] == "http.response.start":
                head = message
                headers = MutableHeaders(raw=message["headers"])
                if _TYPES.match(headers.get("content-type", "")):
                    headers.add_vary_header("Accept-Encoding")
                    if coding and message["status"] == 200:
                        return
                    if message["status"] == 304 and "etag" in headers:
                        given = whole(Headers(scope=scope), "if-none-match")
                        headers["ETag"] = held(headers["etag"], given, coding) or headers["etag"]
                if message["status"] == 304:
                    # There is nothing in it that would have a type (RFC 9110, section 15.4.5).
                    del headers["content-type"]
                head = None
            elif head is not None and message["type"] == "http.response.body":
                begun, head = head, None
                if message.get("more_body"):
                    # Answers that come in parts are sent as they come.
                    await send(begun)
                else:
                    message = {
                        **message,
                        "body": await self._body(begun, message.get("body", b""), coding, worked),
                    }
                    await send(begun)
            await send(message)

        await self.app(scope, receive, sent)

    async def _body(self, head: Message, data: bytes, coding: str, worked: bool) -> bytes:
        if len(data) < SHORTEST:
            return data
        headers = MutableHeaders(raw=head["headers"])
        etag = headers.get("etag", "")
        keeps = bool(etag) and not (worked and "no-store" in headers.get("cache-control", ""))
        made = self.kept.find(etag, coding) if keeps else None
        if made is None:
            made = await asyncio.to_thread(coded, data, coding, once=not keeps)
            if keeps:
                self.kept.keep(etag, coding, made)
        headers["Content-Encoding"] = coding
        headers["Content-Length"] = str(len(made))
        if etag:
            headers["ETag"] = f'{etag[:-1]}-{coding}"'
        return made
