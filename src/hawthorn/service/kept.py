"""Answers kept as they were sent, for whoever asks the same again while nothing in the record file has changed."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, TypeVar

from fastapi import Request, Response
from starlette.concurrency import run_in_threadpool

from hawthorn.core.access import Identity
from hawthorn.service import serving
from hawthorn.service.context import NOBODY, UNLOCKED, who, who_or_nobody
from hawthorn.store.database import Database

Endpoint = TypeVar("Endpoint", bound=Callable[..., Any])
MOST = 8 * 1024 * 1024
"""Bytes that are kept of answers and questions; when it would be more, all go."""
_EACH = 500
"""Bytes that each takes besides."""


@dataclass(frozen=True, slots=True)
class Answered:
    """An answer of JSON, with its `Link` (RFC 8288) or nothing, and other headers. Whether it may be kept: not where it holds only until a time."""

    body: bytes
    link: str = ""
    headers: Mapping[str, str] = field(default_factory=dict)
    keep: bool = True

    def response(self, request: Request) -> Response:
        """The same, to be sent; without its content to whoever has it (RFC 9110, section 13)."""
        headers = {**self.headers, **({"Link": self.link} if self.link else {})}
        if "ETag" in headers and (had := serving.checked(request, headers["ETag"], headers)) is not None:
            return had
        return Response(self.body, media_type="application/json", headers=headers)


class Kept:
    """What was answered since the last change of the record file, by any process: only for answers that follow from the
    records, the question and whoever asks, and from nothing else (not from the time)."""

    def __init__(self, db: Database) -> None:
        self._db = db
        self._version = -1
        self._bytes = 0
        self._answers: dict[tuple[int, str], tuple[Identity, Answered]] = {}

    def found(self, me: Identity, request: Request) -> Response | None:
        """What `me` was answered to the same question; looked up on the loop itself."""
        self._look()
        found = self._answers.get(_asked(me, request))
        # One actor may ask with keys that differ in what they may see.
        return found[1].response(request) if found is not None and found[0] == me else None

    async def answer(self, me: Identity, request: Request, make: Callable[[], Answered]) -> Response:
        """What `make` says, in a thread; kept for whoever asks it again."""
        version = self._look()
        made = await asyncio.to_thread(make)
        # The version was looked at before the records: what was made is at worst newer than it says, and then forgotten at once.
        if version == self._version and made.keep:
            self._keep(_asked(me, request), me, made)
        return made.response(request)

    def _look(self) -> int:
        """How the file is now; what was kept of it as it was is forgotten."""
        version = self._db.version()
        if version != self._version:
            self._forget(version)
        return version

    def _keep(self, key: tuple[int, str], me: Identity, made: Answered) -> None:
        # A question may be longer than its answer.
        size = len(made.body) + len(key[1]) + _EACH
        if self._bytes + size > MOST:
            self._forget(self._version)
        self._answers[key] = (me, made)
        self._bytes += size

    def _forget(self, version: int) -> None:
        self._version, self._bytes = version, 0
        self._answers.clear()


def _asked(me: Identity, request: Request) -> tuple[int, str]:
    language = request.headers.get("accept-language", "")
    return me.id, f"{request.url.path}?{request.url.query} {language}"


def keeping_for_readers(endpoint: Endpoint) -> Endpoint:
    """The same for a route that needs no key."""
    endpoint.reads = True  # type: ignore[attr-defined]
    return keeping(endpoint)


def keeping(endpoint: Endpoint) -> Endpoint:
    """Mark what answers a route with `Kept.answer`: the same question is then answered before anything of it is looked at."""
    endpoint.keeps = True  # type: ignore[attr-defined]
    return endpoint


async def again(request: Request, reads: bool) -> Response | None:
    """What whoever asks was answered before, if nothing has changed; raises what `who` raises. Whoever `reads` needs no key."""
    if reads and "authorization" not in request.headers and UNLOCKED not in request.headers:
        me = NOBODY
    else:
        me = await run_in_threadpool(who_or_nobody if reads else who, request)
    return kept_of(request).found(me, request)


def kept_of(request: Request) -> Kept:
    """The kept answers of the application."""
    kept: Kept = request.app.state.kept
    return kept
