"""What readers get of this set-up, described for programs that are made from it."""

from __future__ import annotations

import json
from dataclasses import asdict
from functools import cache
from typing import Annotated, Any

from fastapi import Path, Query, Request, Response

from hawthorn import wire
from hawthorn.core import etags, type_files
from hawthorn.operations.delivery import changed, described
from hawthorn.service import openapi, serving
from hawthorn.service.context import VARY, Answer, AtDesk, Reader
from hawthorn.service.routing import REFUSALS, area

router = area("/read", "reading")
_TEXT: dict[int | str, dict[str, Any]] = {
    200: {"content": {"text/plain": {"schema": {"type": "string"}}}},
    **REFUSALS,
    **serving.UNCHANGED,
}


@cache
def _of_every_set_up() -> dict[str, Any]:
    return described.reading_alone(json.loads(openapi.FILE.read_text("utf-8")))


@router.get("/types/{language}", operation_id="read_types", response_class=Response, responses=_TEXT)
def types(
    language: Annotated[
        str,
        Path(description="The language.", json_schema_extra={"enum": list(type_files.LANGUAGES)}),
    ],
    reader: Reader,
    desk: AtDesk,
    request: Request,
) -> Response:
    """Types of what whoever reads gets, as a file for a program in another language."""
    text = desk.read(reader, lambda view: described.types(view, language))
    return _sent(request, text.encode(), type_files.of(language).media_type)


@router.get(
    "/changed", response_model=wire.reading.ReadChanged, operation_id="read_changed", responses=REFUSALS
)
def changes(
    reader: Reader,
    desk: AtDesk,
    response: Response,
    since: Annotated[
        str,
        Query(description="The position that an earlier answer gave; everything has changed without one."),
    ] = "",
) -> Answer:
    """What changed of what is out since a site last asked, so that it reads only that anew."""
    response.headers["Cache-Control"] = "no-store"
    return asdict(desk.read(reader, lambda view: changed.since(view, since)))


@router.get("/openapi.json", operation_id="read_openapi", responses={**REFUSALS, **serving.UNCHANGED})
def document(reader: Reader, desk: AtDesk, request: Request) -> Response:
    """The document of reading (OpenAPI 3.1) for this set-up: what each type holds as JSON Schema, and by what it can be chosen."""
    found = desk.read(reader, lambda view: described.document(view, _of_every_set_up()))
    return _sent(request, json.dumps(found, ensure_ascii=False).encode(), "application/json")


def _sent(request: Request, data: bytes, media_type: str) -> Response:
    # It follows the set-up, of which caches are not told: they ask each time whether it is the same.
    headers = {"Cache-Control": "no-cache", "Vary": VARY}
    return serving.tagged(request, data, etags.of(data), headers, media_type)
