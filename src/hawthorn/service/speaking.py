"""In which language whoever asks is spoken to: the one that they accept most of those there are, else that of the house."""

from __future__ import annotations

from starlette.types import ASGIApp, Receive, Scope, Send

from hawthorn.messages import accepted, speaking

_ACCEPT = b"accept-language"


class Speaking:
    """An ASGI application around another, within which the language of the request is spoken (RFC 9110, section 12.5.4)."""

    def __init__(self, app: ASGIApp, house: str) -> None:
        self.app = app
        self.house = house

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer in the language of the request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        given = next((value for name, value in scope["headers"] if name == _ACCEPT), b"")
        with speaking(accepted(given.decode("latin-1")) or self.house if given else self.house):
            await self.app(scope, receive, send)
