"""The service on a copy: it answers those who read, says how far the copy has come, and passes everything else on to whoever writes.

`Hawthorn-Position` in an answer is how far the records had come of which it tells, at most. Whoever sends it back as `Hawthorn-Least` is never
answered from less: a copy waits a moment, and then passes the question on.
"""

from __future__ import annotations

import asyncio
import ssl
import time
from collections.abc import Callable
from functools import lru_cache
from urllib.parse import quote

import httpx
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hawthorn.core import positions, timeline
from hawthorn.core.errors import Busy, HawthornError, Invalid, OnlyReads
from hawthorn.core.positions import Position
from hawthorn.service import origins, problems
from hawthorn.service.context import LEAST
from hawthorn.store import events
from hawthorn.store.copies import Copy

POSITION = "Hawthorn-Position"
BEHIND, WRITER = "Hawthorn-Behind", "Hawthorn-Writer"
WAITS = 2.0
"""Seconds for which a copy waits until it has come so far."""
_STEP = 0.03
_ASKED_AGAIN = 2.0
_READS = (*origins.READS, "/api/health", "/metrics")
_TELLS_OF_ITSELF = ("/api/health", "/metrics")
"""What says how far behind it is, as of now."""
_NOT_HERE = ("/read/changes",)


class Positions:
    """In front of the service that writes: to whoever asks for it, or changes something, it says how far the records have come."""

    def __init__(self, app: ASGIApp, position: Callable[[], Position]) -> None:
        self._app = app
        self._position = position

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not self._tells(scope):
            await self._app(scope, receive, send)
            return
        await self._app(scope, receive, _telling(send, self._position))

    def _tells(self, scope: Scope) -> bool:
        if scope["method"] not in ("GET", "HEAD", "OPTIONS"):
            return True
        return any(name == _LEAST for name, _ in scope["headers"])


class _Asking:
    """Asks whoever writes how far they have come: while somebody reads, every two seconds at most."""

    def __init__(self, copy: Copy) -> None:
        self._copy = copy
        self._asked = 0.0
        self._running: asyncio.Task[None] | None = None
        self._trusted: ssl.SSLContext | None = None

    def begin(self) -> None:
        """Ask anew, behind the answer that is being given, where that is some time ago."""
        if self._copy.writer and time.monotonic() - self._asked > _ASKED_AGAIN and self._running is None:
            self._running = asyncio.create_task(self.ask())

    async def ask(self) -> None:
        """Note by how much the copy is behind; nothing while nobody can say."""
        self._asked = time.monotonic()
        try:
            self._copy.behind = await self._found() if self._copy.writer else None
        except (httpx.HTTPError, HawthornError, ValueError, KeyError, TypeError):
            self._copy.behind = None
        finally:
            self._running = None

    async def _found(self) -> float:
        if self._trusted is None:
            # Read once, and not on the loop: that takes a while.
            self._trusted = await asyncio.to_thread(httpx.create_ssl_context)
        async with httpx.AsyncClient(base_url=self._copy.writer, timeout=2, verify=self._trusted) as http:
            theirs = (await http.get("/api/health")).json()
        if self._copy.position() >= positions.parse(theirs["position"]):
            return 0.0
        with self._copy.read() as conn:
            mine = events.last(conn)[1]
        return max(0.0, round((timeline.parse_instant(theirs["newest"]) - mine) / timeline.SECOND, 1))


class Copying:
    """In front of the service on a copy."""

    def __init__(self, app: ASGIApp, copy: Copy) -> None:
        self._app = app
        self._copy = copy
        self._asking = _Asking(copy)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        try:
            if not self._is_for_copies(scope):
                raise OnlyReads("copies.only_reads", writer=self._copy.writer)
            sending = _telling(send, self._copy.position, self._copy)
            if self._copy.is_lost:
                raise Busy("copies.not_there")
            if not self._copy.is_held:
                # Not on the loop: others are answered meanwhile.
                await asyncio.to_thread(self._copy.hold)
            for name, value in scope["headers"]:
                if name == _LEAST:
                    await self._wait(positions.parse(value.decode("latin-1")))
        except HawthornError as error:
            await self._elsewhere(error, scope, receive, send)
            return
        if scope["path"] in _TELLS_OF_ITSELF:
            await self._asking.ask()
        else:
            self._asking.begin()
        await self._app(scope, receive, sending)

    def _is_for_copies(self, scope: Scope) -> bool:
        method, path = scope["method"], scope["path"]
        if path.startswith(_NOT_HERE):
            return False
        if method == "POST":
            return bool(path == "/read/questions")
        return method in ("GET", "HEAD", "OPTIONS") and path.startswith(_READS)

    async def _wait(self, least: Position) -> None:
        until = time.monotonic() + WAITS
        while (now := self._copy.position()) < least:
            if time.monotonic() > until:
                raise Busy("copies.behind", position=positions.told(now), least=positions.told(least))
            await asyncio.sleep(_STEP)

    async def _elsewhere(self, error: HawthornError, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on to whoever writes, where that is known; a problem else, and for what was asked wrongly."""
        answer = problems.answer(error)
        if self._copy.writer and not isinstance(error, Invalid):
            answer.status_code = 307
            query = scope["query_string"].decode("latin-1")
            path = quote(scope["path"], safe="/~:@!$&'()*+,;=")
            answer.headers["Location"] = f"{self._copy.writer.rstrip('/')}{path}{'?' if query else ''}{query}"
            answer.headers[WRITER] = self._copy.writer
            answer.headers["Cache-Control"] = "no-store"
        await answer(scope, receive, send)


_LEAST, _POSITION, _BEHIND = (name.lower().encode() for name in (LEAST, POSITION, BEHIND))


@lru_cache(maxsize=64)
def _said(term: int, event: int) -> bytes:
    return positions.told((term, event)).encode()


def _telling(send: Send, position: Callable[[], Position], copy: Copy | None = None) -> Send:
    """Say how far the records have come, once the answer is there: what it tells of is no newer; and by how much a copy is behind."""

    refused = False
    moves = copy.moves if copy is not None else 0

    async def sending(message: Message) -> None:
        nonlocal refused
        if message["type"] == "http.response.start":
            try:
                if copy is not None and copy.moves != moves:
                    # It was made anew meanwhile: what was looked at before the question may not hold for the answer.
                    raise Busy("copies.not_there")
                message["headers"] = [*message["headers"], (_POSITION, _said(*position()))]
            except Busy as error:
                # What cannot be told from when it is, is not told: whoever asks might go back with it.
                refused = True
                answer = problems.answer(error)
                await send(
                    {
                        "type": "http.response.start",
                        "status": answer.status_code,
                        "headers": answer.raw_headers,
                    }
                )
                await send({"type": "http.response.body", "body": answer.body})
                return
            if copy is not None and copy.behind is not None:
                message["headers"].append((_BEHIND, b"%.1f" % copy.behind))
        if not refused:
            await send(message)

    return sending
