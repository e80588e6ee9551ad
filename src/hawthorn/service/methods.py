"""HEAD wherever GET is: the same answer without its content (RFC 9110, section 9.3.2)."""

from __future__ import annotations

from starlette.types import ASGIApp, Message, Receive, Scope, Send

_OWN = ("/api/uploads/", "/events", "/read/changes")
"""What answers HEAD itself, and what would never end."""


class Heads:
    """An ASGI application around another, which is asked with GET."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] != "HEAD" or scope["path"].startswith(_OWN):
            await self.app(scope, receive, send)
            return

        async def bare(message: Message) -> None:
            if message["type"] == "http.response.body":
                message = {**message, "body": b""}
            await send(message)

        # A range is asked for of a content, and of nothing else (section 14.2).
        headers = [one for one in scope["headers"] if one[0] not in (b"range", b"if-range")]
        await self.app({**scope, "method": "GET", "headers": headers}, receive, bare)
