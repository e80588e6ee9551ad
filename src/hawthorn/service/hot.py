"""The hot read: a released entry by its id, answered from its kept body by one SELECT.

It stands in front of the application. Whatever it cannot answer from that one SELECT (a key, a stage, an
instant, a body that is not fresh) goes on to the route of the same path, which renders in a thread.
"""

from __future__ import annotations

import sqlite3
from typing import Any
from urllib.parse import unquote_plus

from starlette.types import ASGIApp, Receive, Scope, Send

from hawthorn.operations.act import Clock
from hawthorn.store.bodies import FRESH
from hawthorn.store.database import Database

_PREFIX = "/read/entries/"
_HEADERS = [
    (b"content-type", b"application/json"),
    (b"cache-control", b"public, max-age=0, must-revalidate"),
    (b"vary", b"Accept-Language, Authorization"),
]


class HotReads:
    """An ASGI application in front of another."""

    def __init__(self, app: ASGIApp, db: Database, clock: Clock) -> None:
        self.app = app
        self.db = db
        self.clock = clock
        self._conn: sqlite3.Connection | None = None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and scope["method"] == "GET" and scope["path"].startswith(_PREFIX):
            found = self._find(scope)
            if found is not None:
                await _answer(found, send)
                return
        await self.app(scope, receive, send)

    def _find(self, scope: Scope) -> tuple[int, str, bytes] | None:
        query: bytes = scope["query_string"]
        if not query.startswith(b"locale=") or b"&" in query:
            return None
        wanted = b""
        for name, value in scope["headers"]:
            if name == b"authorization":
                return None
            if name == b"if-none-match":
                wanted = value
        if self._conn is None:
            # The event loop's own connection: it holds no transaction between two SELECTs.
            self._conn = self.db.reader()
        locale = unquote_plus(query[7:].decode("latin-1"))
        row: Any = self._conn.execute(
            FRESH, (locale, scope["path"][len(_PREFIX) :], self.clock.now())
        ).fetchone()
        if row is None:
            return None
        etag: str = row[0]
        if wanted and etag in wanted.decode("latin-1"):
            return 304, etag, b""
        return 200, etag, row[1]


async def _answer(found: tuple[int, str, bytes], send: Send) -> None:
    status, etag, data = found
    headers = [*_HEADERS, (b"etag", etag.encode())]
    if status == 200:
        headers.append((b"content-length", b"%d" % len(data)))
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": data})
