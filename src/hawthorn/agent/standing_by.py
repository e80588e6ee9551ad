"""The same tools over standard input and output, for an assistant on a person's own machine."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from hawthorn.agent.opening import TRIES, Ctx, Way
from hawthorn.agent.server import build
from hawthorn.client import AsyncClient


def serve(url: str, key: str) -> None:
    """Answer until standard input ends."""
    console = url.rstrip("/")

    @asynccontextmanager
    async def opener(ctx: Ctx, tries: bool) -> AsyncIterator[Way]:
        async with AsyncClient(console, key, headers=TRIES if tries else {}) as hawthorn:
            yield Way(hawthorn, console)

    build(opener).run("stdio")
