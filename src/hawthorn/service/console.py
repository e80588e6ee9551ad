"""The built console, served by the service itself, and the headers that guard it."""

from __future__ import annotations

import re
from functools import cache
from importlib import resources
from mimetypes import guess_type
from os import PathLike, stat_result
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hawthorn.core import etags
from hawthorn.core.errors import NotFound
from hawthorn.operations.delivery import page_addresses
from hawthorn.operations.runtime.act import Desk
from hawthorn.service import origins
from hawthorn.service.conditional import status_of
from hawthorn.service.routing import allowed

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "font-src 'self'; connect-src 'self'; media-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
_MISSING = (
    "<!doctype html><title>Hawthorn</title><p>The console has not been built. Run <code>make console</code>; it needs "
    "npm. The API works without it: its description is at <a href='/api/openapi.json'>/api/openapi.json</a>."
)


def folder() -> Path:
    """Where the built console is."""
    return Path(str(resources.files("hawthorn") / "console_dist"))


PAGES = (
    "",
    "invitation",
    "log-in",
    "welcome",
    "entries",
    "entries/import",
    "entries/:id/:locale",
    "entries/:id/:locale/strands/:name",
    "entries/:id/:locale/strands/:name/proposal",
    "entries/:id/:locale/compare",
    "preview/:id/:locale",
    "outline",
    "library",
    "search-and-sharing",
    "timetable",
    "figures",
    "timetable/:id",
    "translation",
    "translation/commissions/:id",
    "translation/:id",
    "translation/:id/table",
    "account",
    "set-up",
    "set-up/types/:name",
    "set-up/field-sets/:name",
    "set-up/workflows",
    "set-up/quiet-periods",
    "differences",
    "set-up/webhooks",
    "set-up/in-and-out",
    "set-up/people",
    "set-up/keys",
    "set-up/bureaus",
    "set-up/log",
    "set-up/log-ins",
    "set-up/sites",
    "set-up/languages",
)
"""The addresses of the console's pages, as its router has them."""


_HASHED = re.compile(r"assets/[\w.-]+-[\w-]{8}\.(?:js|css|woff2?)$")


class Assets(StaticFiles):
    """What the console is made of. Whoever has a file whose name holds the hash of what is in it need never ask again; of the others, such as guides, it
    is asked whether they are still the same."""

    def file_response(
        self, full_path: str | PathLike[str], stat_result: stat_result, scope: Scope, status_code: int = 200
    ) -> Response:
        """A file, whole in one part, so that it can be sent in a coding; those of which none is made are sent from the disk."""
        path = Path(full_path)
        if _HASHED.search(path.as_posix()):
            headers = {"Cache-Control": "public, max-age=31536000, immutable", "ETag": f'"{path.name}"'}
        else:
            headers = {"Cache-Control": "no-cache", "ETag": etags.of(path.read_bytes())}
        kind = guess_type(path.name)[0] or "application/octet-stream"
        if kind.startswith(("font/", "image/")) or "range" in Headers(scope=scope):
            return FileResponse(path, status_code, headers, stat_result=stat_result)
        if status_of(Headers(scope=scope), headers["ETag"]) == 304:
            return Response(status_code=304, headers=headers, media_type=kind)
        return Response(path.read_bytes(), status_code, headers, media_type=kind)


def install(app: FastAPI) -> None:
    """Serve the console at `/` and at the addresses of its pages."""
    built = folder()
    if (built / "assets").is_dir():
        app.mount("/assets", Assets(directory=built / "assets"), name="assets")

    @app.get(page_addresses.SCRIPT, include_in_schema=False)
    def marks() -> Response:
        """The script that joins a previewed page to the console."""
        script = built / "preview" / "marks.js"
        if not script.is_file():
            raise NotFound("service.no_console")
        return FileResponse(script, media_type="text/javascript", headers={"Cache-Control": "no-cache"})

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str, request: Request) -> Response:
        if path == "favicon.svg" and (built / path).is_file():
            return FileResponse(built / path)
        known = is_page(path)
        if not known and (
            path.startswith(("api/", "read/", "assets/")) or "text/html" not in _accepts(request)
        ):
            if allowed(request.app.routes, request.scope):
                raise HTTPException(405)
            raise NotFound("service.nothing_at", path=f"/{path}")
        index = built / "index.html"
        if not index.is_file():
            return HTMLResponse(_MISSING, 503)
        # A person who mistyped an address sees the console's own page for that, and still a 404.
        headers = {"Cache-Control": "no-cache", "Content-Security-Policy": _framing(app)}
        return FileResponse(index, 200 if known else 404, headers=headers)


def is_page(path: str) -> bool:
    """Whether the console has a page at an address (without its first slash)."""
    return _pages().fullmatch(path.rstrip("/")) is not None


@cache
def _pages() -> re.Pattern[str]:
    # Made when a page is first asked for: a service that starts has none to show yet.
    return re.compile("|".join(re.sub(r":\w+", "[^/]+", page) for page in PAGES))


def _accepts(request: Request) -> str:
    return request.headers.get("accept", "")


def _framing(app: FastAPI) -> str:
    """The policy of the console's pages: they may frame the sites that are set up, and no others."""
    desk: Desk = app.state.desk
    with desk.db.read() as conn:
        sites = sorted({o for site in desk.setup(conn).sites.values() for o in site.origins})
    return f"{POLICY}; frame-src {' '.join(sites)}" if sites else POLICY


_READ = [*origins.ANY, *origins.GUARDED]
_STRICT = [
    ("X-Content-Type-Options", "nosniff"),
    ("Referrer-Policy", "same-origin"),
    ("Content-Security-Policy", POLICY),
]
_KEPT_NOWHERE = ("/api/", "/read/", "/feeds/")


class Guard:
    """Adds the headers that a browser needs to be strict; cached reads, in front of it, have theirs."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _READ if scope["path"].startswith(origins.READS) else _STRICT:
                    headers.setdefault(name, value)
                if not scope["path"].startswith("/api/files/") and scope["path"].startswith(_KEPT_NOWHERE):
                    # What one person or program is answered is kept nowhere on the way; nor is what says of itself not how long it
                    # may be kept: that something is not there, above all, which caches would hold for as long as they see fit.
                    headers.setdefault("Cache-Control", "no-store")
            await send(message)

        if origins.is_asked_ahead(scope):
            await origins.ASKED_AHEAD(scope, receive, guarded)
            return
        await self.app(scope, receive, guarded)
