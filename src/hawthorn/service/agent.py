"""`/agent`: the Model Context Protocol over streamable HTTP, for assistants with a key of their own.

Each request stands for itself, so that several processes answer them alike. The protocol's library is loaded when the first assistant comes.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import TYPE_CHECKING, Any

import httpx
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.types import ASGIApp, Receive, Scope, Send

from hawthorn.client import AsyncClient
from hawthorn.core.errors import HawthornError, Refused
from hawthorn.service import problems
from hawthorn.service.context import check_origin, settings_of, token_of, who

if TYPE_CHECKING:
    from mcp.server.mcpserver import Context

    from hawthorn.agent.opening import Server, Way

PATH = "/agent"


class Agent:
    """The endpoint, as an ASGI application. What assistants do goes through the service's own routes, in this process."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._beginning = asyncio.Lock()
        self._server: Server | None = None
        self._ended = asyncio.Event()
        self._running: asyncio.Task[None] | None = None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        request = Request(scope, receive)
        try:
            await run_in_threadpool(_assistant, request)
        except HawthornError as error:
            await problems.answer(error)(scope, receive, send)
            return
        server = await self._begun()
        await server.session_manager.handle_request(scope, receive, send)

    async def end(self) -> None:
        """End what runs."""
        if self._running is not None:
            self._ended.set()
            await self._running
            self._running = self._server = None

    async def _begun(self) -> Server:
        async with self._beginning:
            if self._server is None:
                server = await asyncio.to_thread(_build, self._app)
                begun = asyncio.Event()
                # In a task of its own, as what it begins has to be ended where it was begun.
                self._running = asyncio.create_task(self._run(server, begun))
                await begun.wait()
                self._server = server
            return self._server

    async def _run(self, server: Server, begun: asyncio.Event) -> None:
        async with server.session_manager.run():
            self._ended.clear()
            begun.set()
            await self._ended.wait()


def _assistant(request: Request) -> None:
    """Let assistants pass; raises what says why somebody else may not."""
    if "origin" in request.headers:
        check_origin(request)
    found = who(request)
    if found.kind != "assistant":
        raise Refused("service.no_assistant", name=found.name, missing="assistant", who=[])


def _build(app: ASGIApp) -> Server:
    from mcp.server.transport_security import TransportSecuritySettings

    from hawthorn.agent.opening import TRIES, Way
    from hawthorn.agent.server import build

    carrier = httpx.ASGITransport(app=app, raise_app_exceptions=False)

    @asynccontextmanager
    async def opener(ctx: Context[Any, Any], tries: bool) -> AsyncIterator[Way]:
        request = ctx.request_context.request
        assert isinstance(request, Request)
        key, _ = token_of(request)
        public = (settings_of(request).public or str(request.base_url)).rstrip("/")
        async with AsyncClient(public, key, headers=TRIES if tries else {}, transport=carrier) as hawthorn:
            yield Way(hawthorn, public)

    server = build(opener)
    server.streamable_http_app(
        streamable_http_path=PATH,
        json_response=True,
        stateless_http=True,
        # Who may come is said by the key, and from which pages by the service.
        transport_security=TransportSecuritySettings(enable_dns_rebinding_protection=False),
    )
    return server
