"""The same tools over standard input and output, for an assistant on a person's own machine."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any

from mcp.server.mcpserver import Context

from hawthorn.agent.opening import TRY, Way
from hawthorn.agent.server import build
from hawthorn.client import AsyncClient


def serve(url: str, key: str) -> None:
    """Answer until standard input ends."""
    console = url.rstrip("/")

    @asynccontextmanager
    async def opener(ctx: Context[Any, Any], tries: bool) -> AsyncIterator[Way]:
        async with AsyncClient(console, key, headers=TRY if tries else {}) as hawthorn:
            yield Way(hawthorn, console)

    build(opener).run("stdio")
