"""What somebody may send before it is known what they ask for: the head of a request has its time and its length, so that
connections that are half open, or endless, end by themselves."""

from __future__ import annotations

import asyncio
import math
from typing import Any, cast

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

PATIENCE = 20.0
"""Seconds from a connection, or from the first byte of a further request, until its head is whole."""
LONGEST = 64 * 1024
"""Bytes that a head may have."""
TOGETHER = 16 * 1024
"""Bytes that wait at most for what is written after them."""


class Gathered:
    """A transport that sends what is written in one turn of the loop together: an answer's head goes with its body."""

    __slots__ = ("_loop", "_parts", "_size", "_transport", "get_extra_info", "is_closing")

    def __init__(self, transport: asyncio.Transport, loop: asyncio.AbstractEventLoop) -> None:
        self._transport = transport
        self._loop = loop
        self._parts: list[bytes] = []
        self._size = 0
        self.is_closing = transport.is_closing
        self.get_extra_info = transport.get_extra_info

    def write(self, data: bytes) -> None:
        """Send with what else this turn writes; when that is much it goes at once, so that whoever writes it is held back."""
        if not self._parts:
            self._loop.call_soon(self._send)
        self._parts.append(data)
        self._size += len(data)
        if self._size > TOGETHER:
            self._send()

    def _send(self) -> None:
        if self._parts:
            parts, self._parts, self._size = self._parts, [], 0
            # Not joined: a long body would be copied for it.
            self._transport.writelines(parts)

    def close(self) -> None:
        """Close when all is sent."""
        self._send()
        self._transport.close()

    def __getattr__(self, name: str) -> Any:
        self._send()
        return getattr(self._transport, name)


class Bounded(HttpToolsProtocol):
    """HTTP/1.1 as the server speaks it, with bounds on heads."""

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        self._timer: asyncio.TimerHandle | None = None
        self._bytes = self._heads = 0
        self._beginning = self._inside = False
        """Whether a head has begun and is not whole; whether a head is whole and its body is not."""
        self._let_in = 0.0

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Wait for a first head."""
        super().connection_made(cast(asyncio.Transport, Gathered(transport, self.loop)))
        self._let_in = self.loop.time()
        self._wait()

    def idle(self) -> float:
        """Seconds since the connection was let in, or since the last answer, with nothing asked; infinite with something under way."""
        if (closing := self.timeout_keep_alive_task) is not None:
            return self.loop.time() - (closing.when() - self.timeout_keep_alive)
        return math.inf if self._heads else self.loop.time() - self._let_in

    def connection_lost(self, exc: Exception | None) -> None:
        """Wait no more."""
        self._found()
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        """Count what comes before a head is whole. Most come whole, and need no timer."""
        before, inside = self._heads, self._inside
        super().data_received(data)
        if self._beginning:
            self._wait()
        if self._heads == before and not inside:
            self._bytes += len(data)
            if self._bytes > LONGEST:
                self._refuse("431 Request Header Fields Too Large")

    def on_message_begin(self) -> None:
        """A head begins."""
        self._beginning = True
        super().on_message_begin()

    def on_headers_complete(self) -> None:
        """A head is whole."""
        self._beginning, self._inside = False, True
        self._heads += 1
        self._found()
        super().on_headers_complete()

    def on_message_complete(self) -> None:
        """A body is whole; what comes next is another head."""
        self._inside = False
        super().on_message_complete()

    def _wait(self) -> None:
        if self._timer is None:
            self._timer = self.loop.call_later(PATIENCE, self._refuse, "408 Request Timeout")

    def _found(self) -> None:
        self._bytes = 0
        if self._timer is not None:
            self._timer.cancel()
            self._timer = None

    def _refuse(self, why: str) -> None:
        self._found()
        self._beginning = False
        if not self.transport.is_closing():
            self.transport.write(f"HTTP/1.1 {why}\r\ncontent-length: 0\r\nconnection: close\r\n\r\n".encode())
            self.transport.close()
