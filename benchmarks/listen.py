"""Many who listen to the live stream, from a process of its own: prints, for each event, when each of them heard of it."""

from __future__ import annotations

import asyncio
import sys
import time
from typing import cast


class Listener(asyncio.Protocol):
    """One connection that follows `/events`."""

    def __init__(self, request: bytes, heard: dict[bytes, list[float]], ready: list[int]) -> None:
        self.request, self.heard, self.ready = request, heard, ready
        self.begun = False
        self.rest = b""

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        """Ask for the stream."""
        cast(asyncio.Transport, transport).write(self.request)

    def data_received(self, data: bytes) -> None:
        """Note which events came."""
        now = time.time()
        if not self.begun and b"retry:" in data:
            self.begun = True
            self.ready[0] += 1
        lines = (self.rest + data).split(b"\n")
        self.rest = lines.pop()
        for line in lines:
            if line.startswith(b"id: "):
                self.heard.setdefault(line[4:].strip(), []).append(now)


async def run(port: int, tokens: list[str], count: int) -> None:
    """Listen until standard input ends, then print what was heard: the event, and the instants in microseconds."""
    heard: dict[bytes, list[float]] = {}
    ready = [0]
    loop = asyncio.get_running_loop()
    kept = []
    for n in range(count):
        request = (
            f"GET /events HTTP/1.1\r\nHost: 127.0.0.1\r\nAuthorization: Bearer {tokens[n % len(tokens)]}\r\n\r\n"
        ).encode()
        kept.append(
            await loop.create_connection(lambda r=request: Listener(r, heard, ready), "127.0.0.1", port)
        )  # type: ignore[misc]
        if n % 50 == 49:
            await asyncio.sleep(0.02)
    while ready[0] < count:
        await asyncio.sleep(0.05)
    print("ready", flush=True)
    await loop.run_in_executor(None, sys.stdin.read)
    for seq, times in heard.items():
        print(seq.decode(), *(round(at * 1e6) for at in times))
    for transport, _ in kept:
        transport.close()


if __name__ == "__main__":
    import uvloop

    uvloop.run(run(int(sys.argv[1]), sys.argv[2].split(","), int(sys.argv[3])))
