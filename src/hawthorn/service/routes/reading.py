"""Reading what stands, for sites and programs. The common case never comes here: see `service.hot`."""

from __future__ import annotations

import json
import re
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import RedirectResponse

from hawthorn.core.access import Identity
from hawthorn.core.errors import NotFound
from hawthorn.operations import reading, rendering
from hawthorn.operations.act import Desk, View
from hawthorn.operations.rendering import Rendered
from hawthorn.service.context import Answer, AtDesk, Reader, next_page
from hawthorn.service.routes.entries import REFUSALS
from hawthorn.store import bodies, entries, events
from hawthorn.wire import models as wire

router = APIRouter(prefix="/read", tags=["reading"])
Standing = Annotated[str, Query(description="The stage to read at; released when not given.")]
At = Annotated[str, Query(description="The instant to read at, past or planned; now when not given.")]
Locale = Annotated[
    str, Query(description="The wanted locale; the entry's source stands in for one that is not there.")
]


def languages(request: Request) -> list[tuple[str, float]]:
    """The languages that a request accepts, with their weights (RFC 9110 section 12.5.4)."""
    out: list[tuple[str, float]] = []
    for part in request.headers.get("accept-language", "").split(","):
        found = re.match(r"\s*([A-Za-z0-9-]+)\s*(?:;\s*q=([0-9.]+))?", part)
        if found:
            out.append((found[1], float(found[2] or 1)))
    return out


@router.get("/entries", response_model=wire.ReadPage, operation_id="read_entries", responses=REFUSALS)
def listing(
    reader: Reader,
    desk: AtDesk,
    request: Request,
    response: Response,
    type: str = "",
    locale: Locale = "",
    standing: Standing = "",
    at: At = "",
    limit: Annotated[int, Query(ge=1, le=100)] = 20,
    cursor: str = "",
) -> Answer:
    """Entries that stand somewhere, those that came out last first."""

    def look(view: View) -> tuple[list[Any], str]:
        where = reading.place(view, standing, at)
        wanted = reading.best_locale(view, locale, languages(request))
        pairs, more = reading.listed(view, where, type=type, locale=wanted, limit=limit, cursor=cursor)
        return [_body(view, uuid, tag, where) for uuid, tag in pairs], more

    items, more = desk.read(reader, look)
    if more:
        response.headers["Link"] = next_page(request, more)
    return {"items": [i for i in items if i], "next": more}


def _body(view: View, uuid: str, locale: str, where: reading.Place) -> Any:
    try:
        return json.loads(rendering.render(view, uuid, locale, where).data)
    except NotFound:
        return None


@router.get("/entries/{id}", response_model=wire.ReadEntry, operation_id="read_entry", responses=REFUSALS)
def entry(
    id: str,
    reader: Reader,
    desk: AtDesk,
    request: Request,
    locale: Locale = "",
    standing: Standing = "",
    at: At = "",
) -> Response:
    """An entry by its id."""
    return _answer(request, *_rendered(desk, reader, request, id, locale, standing, at))


@router.get("/pages/{path:path}", response_model=wire.ReadEntry, operation_id="read_page", responses=REFUSALS)
def page(
    path: str, reader: Reader, desk: AtDesk, request: Request, standing: Standing = "", at: At = ""
) -> Response:
    """An entry by the path of its page, locale first; an old path leads to the new one (301)."""

    def look(view: View) -> tuple[str, str, str | None]:
        return reading.find_path(view, path, reading.place(view, standing, at))

    uuid, locale, elsewhere = desk.read(reader, look)
    if elsewhere:
        return RedirectResponse(f"/read/pages{elsewhere}", 301)
    return _answer(request, *_rendered(desk, reader, request, uuid, locale, standing, at))


def _rendered(
    desk: Desk, reader: Identity, request: Request, id: str, locale: str, standing: str, at: str
) -> tuple[str, bytes, bool]:
    def look(view: View) -> tuple[str, bytes, Rendered | None, str, int, bool]:
        where = reading.place(view, standing, at)
        wanted = reading.best_locale(view, locale, languages(request))
        row = entries.entry(view.conn, id)
        tag = view.setup.locale(wanted) if wanted else (row["source_locale"] if row else "")
        if where.plain and row is not None:
            kept = bodies.fresh(view.conn, id, tag, view.now)
            if kept:
                return kept[0], kept[1], None, tag, 0, True
        made = rendering.render(view, id, tag, where)
        return made.etag, made.data, made, tag, events.last(view.conn)[0], where.plain

    etag, data, made, tag, seq, plain = desk.read(reader, look)
    if made is not None and plain:
        desk.db.write(
            lambda conn: bodies.keep(
                conn, made.entry, tag, seq, desk.clock.now(), made.etag, made.data, made.deps, made.ends
            )
        )
    return etag, data, plain


def _answer(request: Request, etag: str, data: bytes, plain: bool) -> Response:
    cache = "public, max-age=0, must-revalidate" if plain else "private, no-store"
    headers = {"ETag": etag, "Cache-Control": cache, "Vary": "Accept-Language, Authorization"}
    if etag in [t.strip() for t in request.headers.get("if-none-match", "").split(",")]:
        return Response(status_code=304, headers=headers)
    return Response(data, media_type="application/json", headers=headers)


@router.get("/files/{sha256}", operation_id="read_file", response_class=Response, responses=REFUSALS)
def file(sha256: str, reader: Reader, desk: AtDesk, standing: Standing = "") -> Response:
    """A picture that something that stands there shows."""
    row = desk.read(reader, lambda view: reading.file(view, sha256, reading.place(view, standing)))
    headers = {
        "Cache-Control": "public, max-age=86400",
        "X-Content-Type-Options": "nosniff",
        "ETag": f'"{sha256[:24]}"',
    }
    return Response(row["data"], media_type=row["media_type"], headers=headers)
