"""A small HTTP load of its own process: keep-alive connections on loopback, for a bounded time."""

from __future__ import annotations

import asyncio
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import cast


@dataclass(frozen=True, slots=True)
class Answered:
    """When an answer was whole (seconds of the clock), how long it took, and whether it was right."""

    at: float
    took: float
    right: bool


class Connection(asyncio.Protocol):
    """Sends the same request again as soon as the answer is whole."""

    def __init__(self, request: bytes, answers: list[Answered]) -> None:
        self.request = request
        self.answers = answers
        self.buffer = b""
        self.on = True

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        """Send the first request."""
        self.transport = cast(asyncio.Transport, transport)
        self._ask()

    def _ask(self) -> None:
        self.asked = time.perf_counter()
        self.transport.write(self.request)

    def data_received(self, data: bytes) -> None:
        """Note whole answers."""
        self.buffer += data
        end = self.buffer.find(b"\r\n\r\n")
        if end < 0:
            return
        head = self.buffer[:end].lower()
        at = head.find(b"content-length:")
        length = int(head[at + 15 :].split(b"\r\n", 1)[0]) if at >= 0 else 0
        if len(self.buffer) < end + 4 + length:
            return
        self.buffer = b""
        right = head[9:12] in (b"200", b"304")
        self.answers.append(Answered(time.time(), time.perf_counter() - self.asked, right))
        if self.on:
            self._ask()


async def run(
    port: int, path: str, headers: dict[str, str], connections: int, done: Callable[[], bool]
) -> list[Answered]:
    """Everything that was answered until it is done."""
    lines = "".join(f"{name}: {value}\r\n" for name, value in headers.items())
    request = f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1\r\n{lines}\r\n".encode()
    answers: list[Answered] = []
    loop = asyncio.get_running_loop()
    made = [
        (await loop.create_connection(lambda: Connection(request, answers), "127.0.0.1", port))
        for _ in range(connections)
    ]
    while not done():
        await asyncio.sleep(0.02)
    for transport, protocol in made:
        protocol.on = False
        transport.close()
    return answers


if __name__ == "__main__":
    import json

    import uvloop

    port, path, headers, seconds, connections = sys.argv[1:6]
    start = time.perf_counter()
    until = start + float(seconds)
    found = uvloop.run(
        run(int(port), path, json.loads(headers), int(connections), lambda: time.perf_counter() >= until)
    )
    wrong = sum(1 for one in found if not one.right)
    print((len(found) - wrong) / (time.perf_counter() - start), wrong)
