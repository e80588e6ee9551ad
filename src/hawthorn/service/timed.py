"""Requests as those who run the service see them: each with a number that its answer and every line of the log about it have, and how long those of
each route take, told by `/metrics`; traced where that is switched on."""

from __future__ import annotations

import re
import secrets
import time
from bisect import bisect_left
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext
from dataclasses import field
from typing import Any

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send
from structlog.contextvars import bound_contextvars

from hawthorn.core.quick import dataclass

log = structlog.get_logger(__name__)
EDGES = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 10.0)
"""Seconds up to which requests are counted together."""
NOWHERE = "(nowhere)"
"""What stands for all that leads to no route: of made-up paths there is no end."""
NUMBER = b"x-request-id"
"""The header with the number of a request: of whoever asks, where it has one, else ours."""
_SOUND = re.compile(r"[A-Za-z0-9._-]{4,64}")
Span = Callable[[Scope], AbstractContextManager[Callable[[str, int], None]]]
"""What traces a request: it is told of the route and the status before it ends."""


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
    """Numbers requests, counts them by method, route and the hundred of their status, and writes a line about each where `lines` says so."""

    def __init__(
        self,
        app: ASGIApp,
        times: dict[tuple[str, str, str], Times],
        lines: bool = False,
        span: Span | None = None,
    ) -> None:
        self.app = app
        self.times = times
        self.lines = lines
        self.span = span or (lambda _: nullcontext(lambda route, status: None))

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer, and count how long that took; the live stream, which stays open, is not counted."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        begun = time.perf_counter()
        status = 500
        given = number_of(scope)
        number = given or secrets.token_hex(8)
        # Answers to those who read are alike to the byte, kept or not, for what is hidden and for what is not there.
        silent = not given and scope["path"].startswith("/read/")
        scope.setdefault("state", {})["number"] = number

        async def told(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                if not silent or status >= 500:
                    message = {**message, "headers": [*message["headers"], (NUMBER, number.encode())]}
            await send(message)

        with bound_contextvars(request=number), self.span(scope) as ends:
            try:
                await self.app(scope, receive, told)
            finally:
                took = time.perf_counter() - begun
                path = getattr(scope.get("route"), "path", "") or NOWHERE
                ends(path, status)
                if self.lines:
                    log.info(
                        "answered",
                        method=scope["method"],
                        route=path,
                        status=status,
                        ms=round(took * 1000, 1),
                    )
                if path != "/events":
                    key = (scope["method"], path, f"{status // 100}xx")
                    found = self.times.get(key)
                    if found is None:
                        found = self.times.setdefault(key, Times())
                    found.add(took)


def number_of(scope: Scope) -> str:
    """The number that whoever asks gave a request; empty for none, or for one that cannot stand in a log."""
    given: Any = next((value for name, value in scope["headers"] if name == NUMBER), b"")
    text = given.decode("latin-1")
    return text if _SOUND.fullmatch(text) else ""
