"""Requests as those who run the service see them: each with a number that its answer and every line of the log about it have, and how long those of
each route take, told by `/metrics`; traced where that is switched on."""

from __future__ import annotations

import re
import secrets
import time
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext
from typing import Any

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send
from structlog.contextvars import bound_contextvars

from hawthorn.service.shared import Shared

log = structlog.get_logger(__name__)
NOWHERE = "(nowhere)"
"""What stands for all that leads to no route: of made-up paths there is no end."""
NUMBER = b"x-request-id"
"""The header with the number of a request: of whoever asks, where it has one, else ours."""
_SOUND = re.compile(r"[A-Za-z0-9._-]{4,64}")
Span = Callable[[Scope], AbstractContextManager[Callable[[str, int], None]]]
"""What traces a request: it is told of the route and the status before it ends."""


class Timed:
    """Numbers requests, counts them by method, route and the hundred of their status, and writes a line about each where `lines` says so."""

    def __init__(
        self,
        app: ASGIApp,
        shared: Shared,
        lines: bool = False,
        span: Span | None = None,
    ) -> None:
        self.app = app
        self.shared = shared
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
                    self.shared.add((scope["method"], path, f"{status // 100}xx"), took)


def number_of(scope: Scope) -> str:
    """The number that whoever asks gave a request; empty for none, or for one that cannot stand in a log."""
    given: Any = next((value for name, value in scope["headers"] if name == NUMBER), b"")
    text = given.decode("latin-1")
    return text if _SOUND.fullmatch(text) else ""
