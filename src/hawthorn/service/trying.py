"""What is only tried: with `Hawthorn-Try: yes` a change is checked and worked out to its end, answered as if it were done, and taken back."""

from __future__ import annotations

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hawthorn.core.errors import Invalid
from hawthorn.operations.runtime.act import TRYING
from hawthorn.service import problems
from hawthorn.wire.base import TRY

_PARTS = (
    "/api/entries", "/api/dispatches", "/api/commissions", "/api/jobs", "/api/comments", "/api/preview-links",
)  # fmt: skip
"""Where something can be tried: what changes nothing but records. Who logs in, for one, is counted as it happens."""


class Trying:
    """An ASGI application around another, in which what is only tried leaves nothing behind."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or TRY not in Headers(scope=scope):
            await self.app(scope, receive, send)
            return
        if not scope["path"].startswith(_PARTS):
            # Whoever only wants to try something must not have it done.
            await problems.answer(Invalid("service.not_to_be_tried"))(scope, receive, send)
            return

        async def told(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(raw=message["headers"])["Hawthorn-Tried"] = "yes"
            await send(message)

        token = TRYING.set(True)
        try:
            await self.app(scope, receive, told)
        finally:
            TRYING.reset(token)
