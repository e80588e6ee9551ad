"""Cached reads: a released entry by its id, answered from its kept body by one SELECT, and a rendition that was made
before, of a picture that is out.

They stand in front of the application. Whatever they cannot answer so (a key, a stage, an instant, a body that is not fresh,
a rendition to make) goes on to the route of the same path, which works in a thread.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache
from typing import Any, NamedTuple
from urllib.parse import unquote_plus

from fastapi import FastAPI
from starlette.types import Message, Receive, Scope, Send

from hawthorn.core import groups
from hawthorn.core.timeline import SECOND
from hawthorn.operations.media import renditions
from hawthorn.operations.runtime.act import Clock
from hawthorn.service import caching, conditional, encoding, origins, serving
from hawthorn.service.context import UNLOCKED, VARY
from hawthorn.service.encoding import Coded
from hawthorn.service.settings import Settings
from hawthorn.service.stopping import Stopping
from hawthorn.store.bodies import FRESH
from hawthorn.store.database import Database
from hawthorn.store.files import SHOWN_BY
from hawthorn.store.pool import Own
from hawthorn.store.renditions import Renditions
from hawthorn.store.standings import RELEASE

_PREFIX = "/read/entries/"
_FILES = "/read/files/"
_JSON = (b"content-type", b"application/json")
_START, _BODY = "http.response.start", "http.response.body"
_ELSEWHERE = (
    b"authorization",
    UNLOCKED.lower().encode(),
    b"if-match",
    b"if-modified-since",
    b"if-unmodified-since",
)
"""With these the route of the same path answers."""
_NOT_PICTURES = (b"authorization", UNLOCKED.lower().encode(), b"if-none-match")


def _raw(headers: Iterable[tuple[str, str]]) -> list[tuple[bytes, bytes]]:
    return [(name.lower().encode(), value.encode()) for name, value in headers]


_READ = _raw([*origins.ANY, *origins.GUARDED])
_PICTURE = _raw([*origins.ANY, *{**dict(origins.GUARDED), **serving.SAFE}.items()])


class Picture(NamedTuple):
    """A rendition that is kept: its entity tag, the entry that shows it, its media type and its bytes."""

    etag: str
    by: str
    media_type: str
    data: bytes


class CachedReads:
    """An ASGI application in front of another."""

    def __init__(
        self,
        whole: FastAPI,
        stopping: Stopping,
        db: Database,
        clock: Clock,
        kept: Renditions,
        coded: Coded,
        settings: Settings,
    ) -> None:
        self.whole = whole
        self.app = stopping
        self.stopping = stopping
        self.db = db
        self.clock = clock
        self.kept = kept
        self.coded = coded
        self.settings = settings
        self._headers = [
            (b"cache-control", caching.control(settings, plain=True).encode()),
            (b"vary", f"{VARY}, Accept-Encoding".encode()),
            *_READ,
        ]
        self._pictures = [
            *_PICTURE,
            (b"cache-control", caching.for_ever(settings).encode()),
        ]
        self._own: Own | None = None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and scope["method"] == "GET" and not self.stopping.begun:
            if scope["path"].startswith(_PREFIX):
                found = self._find(scope)
                if found is not None:
                    head, body = found
                    await send(head)
                    await send(body)
                    return
            elif scope["path"].startswith(_FILES) and not scope["query_string"]:
                picture = self._rendition(scope)
                if picture is not None:
                    await self._send_picture(picture, send)
                    return
        await self.app(scope, receive, send)

    def _one(self, sql: str, given: tuple[Any, ...]) -> Any:
        if self._own is None:
            # The event loop's own connection: it holds no transaction between two SELECTs.
            self._own = self.db.own()
        return self._own.one(sql, given)

    def _rendition(self, scope: Scope) -> Picture | None:
        """A kept rendition of a picture that something that is out shows around this focus."""
        sha256, _, name = scope["path"][len(_FILES) :].partition("/")
        found = renditions.NAME.match(name)
        # By the name of a crop alone it may be another one at any time.
        if found is None or not found["shape"] or any(h[0] in _NOT_PICTURES for h in scope["headers"]):
            return None
        wish = renditions.parse(sha256, name)
        by = self._one(SHOWN_BY, (RELEASE, sha256, wish.focus))
        kept = self.kept.find(wish.key, self.clock.now()) if by is not None else None
        return Picture(wish.etag, by[0], *kept) if kept is not None else None

    async def _send_picture(self, found: Picture, send: Send) -> None:
        headers = [
            *self._pictures,
            (b"etag", b'"%s"' % found.etag.encode()),
            (b"content-type", found.media_type.encode()),
            (b"content-length", b"%d" % len(found.data)),
        ]
        if self.settings.shared_age:
            headers += _groups(self.settings.shared_age, groups.entry(found.by))
        await send({"type": _START, "status": 200, "headers": headers})
        await send({"type": _BODY, "body": found.data})

    def _find(self, scope: Scope) -> tuple[Message, Message] | None:
        """The answer to a plain read, where it is kept and still true: its head and its body."""
        query: bytes = scope["query_string"]
        if not query.startswith(b"locale=") or b"&" in query:
            return None
        has = accepted = b""
        for name, value in scope["headers"]:
            if name in _ELSEWHERE:
                return None
            if name == b"if-none-match":
                has = has + b", " + value if has else value
            elif name == b"accept-encoding":
                accepted = value
        locale = query[7:].decode("latin-1")
        if not locale.isalpha():
            locale = unquote_plus(locale)
        row = self._one(FRESH, (locale, scope["path"][len(_PREFIX) :], self.clock.now()))
        if row is None or has == b"*":
            return None
        etag, data = row[0], row[1]
        headers = [*self._headers, (b"last-modified", _date(row[2] // SECOND))]
        if row[3] and self.settings.shared_age:
            headers += _groups(self.settings.shared_age, row[3])
        coding = (
            encoding.wanted(accepted.decode("latin-1")) if accepted and len(data) >= encoding.SHORTEST else ""
        )
        # What somebody has in one coding they have: the tags differ by their ends.
        if has and (tag := conditional.held(etag, has.decode("latin-1"), coding)):
            headers.append((b"etag", tag.encode()))
            return {"type": _START, "status": 304, "headers": headers}, {"type": _BODY}
        headers.append(_JSON)
        if coding:
            made = self.coded.find(etag, coding)
            if made is None:
                # Made once, in a thread, by the route of the same path.
                return None
            etag, data = f'{etag[:-1]}-{coding}"', made
            headers.append((b"content-encoding", coding.encode()))
        headers += [(b"etag", etag.encode()), (b"content-length", b"%d" % len(data))]
        return {"type": _START, "status": 200, "headers": headers}, {"type": _BODY, "body": data}


@lru_cache(maxsize=4096)
def _date(seconds: int) -> bytes:
    return conditional.http_date(seconds * SECOND).encode()


@lru_cache(maxsize=4096)
def _groups(age: int, names: str) -> list[tuple[bytes, bytes]]:
    told = caching.groups(Settings.model_construct(shared_age=age), names.split())
    return [(name.lower().encode(), value.encode()) for name, value in told.items()]
