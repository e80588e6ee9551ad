"""How a tool reaches the service as the assistant that calls it."""

from __future__ import annotations

from collections.abc import AsyncIterator, Callable
from contextlib import AbstractAsyncContextManager, asynccontextmanager
from dataclasses import dataclass
from typing import Any

from mcp.server.mcpserver import Context, MCPServer
from mcp.server.mcpserver.exceptions import ToolError

from hawthorn.client import AsyncClient
from hawthorn.client.errors import Refusal, Unreachable
from hawthorn.wire.base import TRY

Ctx = Context[Any, Any]
"""What the library knows of a call."""


@dataclass(frozen=True, slots=True)
class Way:
    """A client that acts as the assistant, and the address of the console for people."""

    hawthorn: AsyncClient
    console: str

    def address(self, id: str, locale: str, strand: str = "") -> str:
        """Where a person looks at an entry in the console."""
        beside = f"/strands/{strand}" if strand and strand != "draft" else ""
        return f"{self.console}/entries/{id}/{locale}{beside}"


TRIES = {TRY: "yes"}
"""The headers of a call of which only is asked what would come of it."""
Opener = Callable[[Ctx, bool], AbstractAsyncContextManager[Way]]
"""Opens a way for a call; `tries` asks only what would come of what is done by it."""


class Server(MCPServer[Any]):
    """A server of the protocol whose tools reach the service by an opener."""

    def __init__(self, opener: Opener, **given: Any) -> None:
        super().__init__("hawthorn", **given)
        self.opener = opener


@asynccontextmanager
async def opened(ctx: Ctx, tries: bool = False) -> AsyncIterator[Way]:
    """The service for one call of a tool. What it refuses is told with what to do about it."""
    server = ctx.mcp_server
    assert isinstance(server, Server)
    try:
        async with server.opener(ctx, tries) as way:
            yield way
    except Refusal as error:
        raise ToolError(_told(error)) from error
    except Unreachable as error:
        raise ToolError(f"{error} Try again in a moment; nothing was changed by this call.") from error


def _told(error: Refusal) -> str:
    problem = error.problem
    lines = [f"{problem.title}: {problem.detail}".rstrip(": ")]
    for one in error.conflicts:
        lines.append(f"Both changed {one.label or one.field}: yours {one.ours!r}, theirs {one.theirs!r}.")
    lines += [f"{found.where}: {found.what}" for found in problem.problems]
    if problem.remedy:
        lines.append(f"What to do: {problem.remedy}")
    if error.conflicts:
        lines.append("Read the entry again and save over what is there now; nobody's words were lost.")
    return "\n".join(lines)
