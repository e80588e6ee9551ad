"""A small HTTP load of its own process: keep-alive connections on loopback, for a bounded time."""

from __future__ import annotations

import asyncio
import sys
import time
from typing import cast


class Connection(asyncio.Protocol):
    """Sends the same request again as soon as the answer is whole."""

    def __init__(self, request: bytes, counts: list[int]) -> None:
        self.request = request
        self.counts = counts
        self.buffer = b""
        self.on = True

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        """Send the first request."""
        self.transport = cast(asyncio.Transport, transport)
        self.transport.write(self.request)

    def data_received(self, data: bytes) -> None:
        """Count whole answers."""
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
        if head[9:12] in (b"200", b"304"):
            self.counts[0] += 1
        else:
            self.counts[1] += 1
        if self.on:
            self.transport.write(self.request)


async def run(port: int, path: str, etag: str, seconds: float, connections: int) -> tuple[int, int]:
    """Good and bad answers within some seconds."""
    condition = f"If-None-Match: {etag}\r\n" if etag else ""
    request = f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1\r\n{condition}\r\n".encode()
    counts = [0, 0]
    loop = asyncio.get_running_loop()
    made = [
        (await loop.create_connection(lambda: Connection(request, counts), "127.0.0.1", port))
        for _ in range(connections)
    ]
    await asyncio.sleep(seconds)
    for transport, protocol in made:
        protocol.on = False
        transport.close()
    return counts[0], counts[1]


if __name__ == "__main__":
    import uvloop

    port, path, etag, seconds, connections = sys.argv[1:6]
    start = time.perf_counter()
    good, bad = uvloop.run(run(int(port), path, etag, float(seconds), int(connections)))
    print(good / (time.perf_counter() - start), bad)
