"""The service while it starts: it listens as soon as the record file is open, and loads the rest meanwhile.

What is asked until then waits for it, but for the question whether the service is up, which is answered from the file.
"""

from __future__ import annotations

import asyncio
import gc
import json
import sys
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import structlog
from starlette.types import ASGIApp, Receive, Scope, Send

from hawthorn import __version__
from hawthorn.core.messages import said
from hawthorn.messages import WORDS
from hawthorn.service import alongside
from hawthorn.store import checks

if TYPE_CHECKING:
    from hawthorn.service.cached import CachedReads
    from hawthorn.service.settings import Settings
    from hawthorn.service.shared import Shared
    from hawthorn.service.stopping import Server

log = structlog.get_logger(__name__)


class Front:
    """An ASGI application in front of the service, which it loads in a thread when it starts.

    Raises `BadStore` at once for a record file that cannot be used.
    """

    def __init__(
        self,
        settings: Settings,
        beside: alongside.Alongside | None = None,
        shared: Shared | None = None,
        ready: Callable[[], object] = lambda: None,
    ) -> None:
        """Of several workers, each is given what is `beside` it, what all of them count, and whom to tell when it is `ready`."""
        self.settings = settings
        self._alongside = beside or alongside.begin(settings)
        self._shared = shared
        self._ready = ready
        self.db = self._alongside.db
        self.server: Server | None = None
        self.begun = False
        self._app: CachedReads | None = None
        self._outer: ASGIApp | None = None
        self._loaded = asyncio.Event()
        self._life: Any = None

    def begin(self) -> None:
        """Begin to stop."""
        self.begun = True
        if self._app is not None:
            self._app.stopping.begin()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if self._outer is not None and scope["type"] == "http":
            await self._outer(scope, receive, send)
            return
        if scope["type"] == "lifespan":
            await self._live(receive, send)
            return
        if self._app is None and scope["type"] == "http" and scope["path"] == "/api/health":
            await self._health(send)
            return
        if self._app is None:
            await self._loaded.wait()
        if self._app is None:
            from hawthorn.service.stopping import refused

            await refused(send, 503, "not-started", said("service.not_started"))
            return
        assert self._outer is not None
        await self._outer(scope, receive, send)

    async def _live(self, receive: Receive, send: Send) -> None:
        await receive()
        loading = asyncio.create_task(self._load())
        await send({"type": "lifespan.startup.complete"})
        await receive()
        await asyncio.gather(loading, return_exceptions=True)
        if self._life is not None:
            await self._life.__aexit__(None, None, None)
        await asyncio.to_thread(self.db.close)
        await asyncio.to_thread(self._alongside.stop)
        await send({"type": "lifespan.shutdown.complete"})

    async def _load(self) -> None:
        # What is loaded stays: there is nothing to collect meanwhile, and nobody need walk through it later while all wait.
        gc.disable()
        try:
            app = await asyncio.to_thread(self._made)
            inner = app.whole
            self._life = inner.router.lifespan_context(inner)
            await self._life.__aenter__()
            if self.begun:
                app.stopping.begin()
            self._outer = self._alongside.in_front(app)
            self._app = app
            self._ready()
            gc.freeze()
        except Exception:
            log.exception("the service could not start")
            if self.server is not None:
                self.server.failed = True
                self.server.stop()
        finally:
            gc.enable()
            self._loaded.set()

    def _made(self) -> CachedReads:
        from hawthorn.operations.content import first_run
        from hawthorn.service.app import create_asgi, open_desk

        first = self._shared is None or self._shared.mine == 0
        desk = open_desk(self.settings, db=self.db)
        token = first_run.begin(desk) if self.db.writes and first else ""
        if token:
            base = self.settings.public or f"http://{self.settings.host}:{self.settings.port}"
            # For whoever started it, at the terminal, and nowhere else: it makes a person who may do everything.
            begin = WORDS.text(said("service.begin_at", base=base, token=token))
            print(f"\n{begin}\n", file=sys.stderr, flush=True)
        return create_asgi(self.settings, desk, self._shared)

    async def _health(self, send: Send) -> None:
        def look() -> None:
            with self.db.read() as conn:
                checks.answers(conn)

        await asyncio.to_thread(look)
        await _answer(send, 200, {"ok": True, "version": __version__, "trouble": []})


async def _answer(send: Send, status: int, body: dict[str, object]) -> None:
    data = json.dumps(body).encode()
    headers = [(b"content-type", b"application/json"), (b"content-length", b"%d" % len(data))]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": data})
