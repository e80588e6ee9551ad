"""What one request may bring, looked at before anything is parsed or done: who sends it, how long it is, and how it is nested."""

from __future__ import annotations

import asyncio
import re
from collections.abc import Awaitable, Callable

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hawthorn.core import formats, messages
from hawthorn.core.messages import said
from hawthorn.service.stopping import refused

PATIENCE = 30.0
"""Seconds that the next part of a body may take."""
_SMALL = 16 * 1024
"""Up to so many bytes, a body is read before it is known who sends it."""
_OPEN = ("/api/session", "/api/invitation", "/api/first-run")
"""Paths at which nobody is known yet: a small body, and no more."""
_FILES = ("/api/files", "/api/uploads", "/api/job-files")
"""Paths that take files."""
_JOBS = "/api/jobs/"
"""Where translated files are imported."""
_IMPORTS = re.compile(r"/api/(memories|glossaries)/[^/]+/file|/api/packages/rows")
"""Where memories, glossaries and rows are imported, a little at a time."""
_PACKAGE = "/api/packages/file"
"""Where packages are given."""
_STRING = re.compile(rb'"(?:[^"\\]|\\.)*"', re.DOTALL)
_BRACKET = re.compile(rb"[\[\]{}]")


class Limits:
    """An ASGI application in front of another. `known` says whether a token is one, and may take a moment."""

    def __init__(
        self,
        app: ASGIApp,
        known: Callable[[str], Awaitable[bool]],
        body: int,
        file: int,
        imported: int,
        package: int,
        depth: int = 64,
        members: int = 60_000,
    ) -> None:
        self.app = app
        self.known = known
        self.body = body
        self.file = file
        self.imported = imported
        self.package = package
        self.depth = depth
        self.members = members

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS", "DELETE"):
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        path: str = scope["path"]
        # A JSON text is short everywhere, whatever it is sent to.
        json = "json" in headers.get("content-type", "")
        file = None if json else self._most_of_file(path)
        most = file or (_SMALL if path.startswith(_OPEN) else self.body)
        length = headers.get("content-length", "")
        counted = length.isascii() and length.isdigit()
        long = not counted or len(length) > 15 or int(length) > _SMALL
        if counted and long and (len(length) > 15 or int(length) > most):
            await _refused(send, 413, "too-large", said("service.said_too_long", length=length, most=most))
            return
        if (
            long
            and (length or headers.get("transfer-encoding"))
            and path.startswith("/api/")
            and not path.startswith(_OPEN)
            and not await self.known(_token(headers))
        ):
            await _refused(send, 401, "not-logged-in", said("service.log_in_first"))
            return
        if file:
            await self.app(scope, self._counted(receive, most, send), send)
            return
        data = await self._read(receive, most, send)
        if data is None:
            return
        wrong = self._nested(data) if json else None
        if wrong is not None:
            await _refused(send, 422, "invalid", wrong)
            return
        await self.app(scope, _again(data, receive), send)

    def _most_of_file(self, path: str) -> int | None:
        """The most bytes of a file that is sent to a path; None where it takes none."""
        if path.startswith(_JOBS):
            return min(self.file, formats.LARGEST)
        if path.startswith(_FILES):
            return self.file
        if path == _PACKAGE:
            return self.package
        return self.imported if _IMPORTS.fullmatch(path) else None

    async def _read(self, receive: Receive, most: int, send: Send) -> bytes | None:
        """The whole body; None when it was refused, or nobody sends it any more."""
        parts: list[bytes] = []
        length = 0
        while True:
            try:
                message = await asyncio.wait_for(receive(), PATIENCE)
            except TimeoutError:
                await _refused(send, 408, "too-slow", said("service.too_slow"))
                return None
            if message["type"] != "http.request":
                return None
            parts.append(message.get("body", b""))
            length += len(parts[-1])
            if length > most:
                await _refused(send, 413, "too-large", said("service.too_long", most=most))
                return None
            if not message.get("more_body"):
                return b"".join(parts)

    def _counted(self, receive: Receive, most: int, send: Send) -> Receive:
        """The body part by part; whoever sends too much, or nothing for long, is taken to have gone."""
        length = 0

        async def counted() -> Message:
            nonlocal length
            try:
                message = await asyncio.wait_for(receive(), PATIENCE)
            except TimeoutError:
                return {"type": "http.disconnect"}
            length += len(message.get("body", b""))
            return message if length <= most else {"type": "http.disconnect"}

        return counted

    def _nested(self, data: bytes) -> messages.Message | None:
        """What is wrong with a JSON text: its letters, or how it is nested; found without building anything of it."""
        try:
            data.decode()
        except UnicodeDecodeError as error:
            return said("service.not_utf8", at=error.start)
        bare = _STRING.sub(b"", data)
        members = bare.count(b",") + bare.count(b"[") + bare.count(b"{")
        if members > self.members:
            return said("service.too_many_values", count=members, most=self.members)
        depth = deepest = 0
        for found in _BRACKET.finditer(bare):
            depth += 1 if found[0] in b"[{" else -1
            deepest = max(deepest, depth)
        return said("service.too_deep", depth=deepest, most=self.depth) if deepest > self.depth else None


def _token(headers: Headers) -> str:
    given = headers.get("authorization", "")
    if given.lower().startswith("bearer "):
        return given[7:].strip()
    for part in headers.get("cookie", "").split(";"):
        name, _, value = part.strip().partition("=")
        if name.endswith("hawthorn_session"):
            return value
    return ""


def _again(data: bytes, receive: Receive) -> Receive:
    """A body that was read, once more."""
    given = False

    async def again() -> Message:
        nonlocal given
        if given:
            return await receive()
        given = True
        return {"type": "http.request", "body": data, "more_body": False}

    return again


async def _refused(send: Send, status: int, slug: str, what: messages.Message) -> None:
    more = [(b"x-content-type-options", b"nosniff"), (b"connection", b"close")]
    if status == 401:
        more.append((b"www-authenticate", b"Bearer"))
    await refused(send, status, slug, what, more)
