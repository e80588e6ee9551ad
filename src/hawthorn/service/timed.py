"""How long requests take, by route: counted as they end, and told by `/metrics`."""

from __future__ import annotations

import time
from bisect import bisect_left
from dataclasses import field

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hawthorn.core.quick import dataclass

EDGES = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 10.0)
"""Seconds up to which requests are counted together."""
NOWHERE = "(nowhere)"
"""What stands for all that leads to no route: of made-up paths there is no end."""


@dataclass(slots=True)
class Times:
    """How often something was asked, how long that took altogether, and how often it took no longer than each of `EDGES`, or longer than all."""

    count: int = 0
    seconds: float = 0.0
    within: list[int] = field(default_factory=lambda: [0] * (len(EDGES) + 1))

    def add(self, seconds: float) -> None:
        """Count one request."""
        self.count += 1
        self.seconds += seconds
        self.within[bisect_left(EDGES, seconds)] += 1


class Timed:
    """Counts requests by method, route and the hundred of their status."""

    def __init__(self, app: ASGIApp, times: dict[tuple[str, str, str], Times]) -> None:
        self.app = app
        self.times = times

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer, and count how long that took; the live stream, which stays open, is not counted."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        begun = time.perf_counter()
        status = 500

        async def told(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
            await send(message)

        try:
            await self.app(scope, receive, told)
        finally:
            path = getattr(scope.get("route"), "path", "") or NOWHERE
            if path != "/events":
                key = (scope["method"], path, f"{status // 100}xx")
                found = self.times.get(key)
                if found is None:
                    found = self.times.setdefault(key, Times())
                found.add(time.perf_counter() - begun)
