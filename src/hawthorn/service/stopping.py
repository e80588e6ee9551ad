"""Stopping without leaving anybody in the dark: streams end first, what is under way is answered, and what is not known is said so."""

from __future__ import annotations

import asyncio
import contextlib
import ctypes
import fcntl
import json
import select
import socket
import struct
import sys
import termios
import time
from collections.abc import Callable, Sequence
from typing import Protocol

import structlog
import uvicorn
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hawthorn.core import messages
from hawthorn.core.messages import said
from hawthorn.messages import WORDS
from hawthorn.service import heads
from hawthorn.service.quiet import Quiet
from hawthorn.wire import problems

log = structlog.get_logger(__name__)
PATIENCE = 30
"""Seconds that requests under way have to end before they are broken off."""
KEPT = 75
"""Seconds that a connection is kept while nothing is asked over it: longer than clients and proxies keep theirs, so that none is
closed just as they ask again."""
LAST_CALL = 0.3
"""Seconds in which those who are connected are still served, and told to come back by another connection."""
SOON = 1.0
"""Seconds since its last answer, or since it was let in, in which a connection is likely to be asked over."""
LONGEST_CALL = 5.0
"""Seconds that it may take until all who were let in before have been heard."""
_ATTACH_FILTER = 26
"""SO_ATTACH_FILTER of Linux (socket(7)): which packets a socket takes."""
_NO_SYN = struct.pack(
    "HBBI" * 4,
    *(0x30, 0, 0, 13),  # load the flags (RFC 9293, section 3.1)
    *(0x45, 0, 1, 0x02),  # without SYN leave out the next
    *(0x06, 0, 0, 0),  # take nothing of it
    *(0x06, 0, 0, 0xFFFFFFFF),  # take all of it
)
"""A filter that takes no packet that asks for a connection: a queue of no length would cut off who is half in."""
SAFE = ("GET", "HEAD", "OPTIONS")


class Stopping:
    """An ASGI application around another, which answers for it while the service stops.

    `ends` are called first, for what would never end by itself.
    """

    def __init__(self, app: ASGIApp, *ends: Callable[[], None]) -> None:
        self.app = app
        self.ends = ends
        self.begun = False

    def begin(self) -> None:
        """Begin to stop: from now on every answer ends its connection."""
        self.begun = True
        for end in self.ends:
            end()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        started = ended = False

        async def sending(message: Message) -> None:
            nonlocal started, ended
            ended = message["type"] == "http.response.body" and not message.get("more_body")
            if message["type"] == "http.response.start":
                started = True
                if self.begun:
                    kept = [h for h in message["headers"] if h[0].lower() != b"connection"]
                    message = {**message, "headers": [*kept, (b"connection", b"close")]}
            await send(message)

        try:
            await self.app(scope, receive, sending)
        except asyncio.CancelledError:
            if started:
                raise
            await _broken_off(scope["method"], sending)
        except Exception:
            # Whoever asked was answered, and the fault is in the log: their connection has nothing to do with it.
            if not ended:
                raise


async def _broken_off(method: str, send: Send) -> None:
    """Say that a request was broken off, and that nobody knows whether it was done."""
    code = "service.stopped" if method in SAFE else "service.stopped_changing"
    await refused(send, 503, "stopped", said(code), [(b"retry-after", b"5")])


def details(slug: str, status: int, what: messages.Message, remedy: str = "") -> dict[str, object]:
    """Problem details (RFC 9457, section 3.1) of a message, with a remedy of its own or the message's."""
    return {
        "type": f"{problems.TYPE_BASE}{slug}",
        "title": WORDS.text(said(f"titles.{slug}")),
        "status": status,
        "detail": WORDS.text(what),
        "remedy": remedy or WORDS.remedy(what),
        "code": what.code,
    }


async def refused(
    send: Send,
    status: int,
    slug: str,
    what: messages.Message,
    more: Sequence[tuple[bytes, bytes]] = (),
) -> None:
    """Answer with problem details (RFC 9457) where no application does: it stops, or shall not be asked at all."""
    data = json.dumps(details(slug, status, what)).encode()
    headers = [
        (b"content-type", problems.MEDIA_TYPE.encode()),
        (b"content-length", b"%d" % len(data)),
        *more,
    ]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": data})


class Begins(Protocol):
    """What is told that the service begins to stop."""

    def begin(self) -> None:
        """Begin to stop."""


class Server(Quiet):
    """A server that stops in order: streams end, connections are asked to close, nobody new is let in, the rest is answered."""

    def __init__(self, config: uvicorn.Config, stopping: Begins) -> None:
        super().__init__(config)
        self.stopping = stopping
        self.failed = False
        """Whether it stops because it could not start."""

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        """Stop as said above; what is not answered after some patience is broken off."""
        self.stopping.begin()
        self._let_nobody_in()
        if self.server_state.connections or self._knocking():
            await asyncio.sleep(LAST_CALL)
        until = time.monotonic() + LONGEST_CALL
        while self._knocking() and time.monotonic() < until:
            await asyncio.sleep(0)
        # In the same turn in which nobody knocks: whoever was let in and not taken up would be cut off.
        for server in self.servers:
            server.close()
        while self._asked() and time.monotonic() < until:
            await asyncio.sleep(0.02)
        await super().shutdown(sockets)
        # Those who were broken off are told so before the loop ends.
        await asyncio.sleep(0)

    def _knocking(self) -> bool:
        """Whether somebody waits at the door."""
        doors = [s.fileno() for server in self.servers for s in server.sockets]
        return any(select.select([door], [], [], 0)[0] for door in doors if 0 <= door < 1024)

    def _asked(self) -> bool:
        """Whether somebody has asked something that was not read yet, or is about to ask: closing would cut them off."""
        for connection in list(self.server_state.connections):
            if isinstance(connection, heads.Bounded) and connection.idle() < SOON:
                return True
            transport = getattr(connection, "transport", None)
            line = transport.get_extra_info("socket") if transport is not None else None
            with contextlib.suppress(OSError, ValueError):
                if line is not None and fcntl.ioctl(line.fileno(), termios.FIONREAD, b"\0" * 4) != b"\0" * 4:
                    return True
        return False

    def _let_nobody_in(self) -> None:
        """Those who knock from now on are not heard, rather than being let in and then cut off; who is half in comes in."""
        if sys.platform != "linux":
            return
        filters = ctypes.create_string_buffer(_NO_SYN)
        program = struct.pack("HP", len(_NO_SYN) // 8, ctypes.addressof(filters))
        for server in self.servers:
            for listening in server.sockets:
                with contextlib.suppress(OSError):
                    listening.setsockopt(socket.SOL_SOCKET, _ATTACH_FILTER, program)


def server_for(
    stopping: Begins,
    app: ASGIApp,
    host: str,
    port: int,
    level: str = "warning",
    headers: Sequence[tuple[str, str]] = (),
) -> Server:
    """A server for an application that is ready to run; `headers` are on each of its answers."""
    config = uvicorn.Config(
        app,
        host=host,
        port=port,
        log_level=level,
        access_log=False,
        lifespan="on",
        http=heads.Bounded,
        timeout_graceful_shutdown=PATIENCE,
        timeout_keep_alive=KEPT,
        # What a proxy says is looked at behind the cached reads, which do not ask who reads (see `app.create_asgi`).
        proxy_headers=False,
        server_header=False,
        headers=list(headers),
    )
    return Server(config, stopping)
