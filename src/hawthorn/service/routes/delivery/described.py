"""What readers get of this set-up, described for programs that are made from it."""

from __future__ import annotations

import json
from dataclasses import asdict
from functools import cache
from typing import Annotated, Any

from fastapi import Path, Query, Response

from hawthorn import wire
from hawthorn.core import type_files
from hawthorn.operations.delivery import changed, described
from hawthorn.service import openapi
from hawthorn.service.context import Answer, AtDesk, Reader
from hawthorn.service.routing import REFUSALS, area

router = area("/read", "reading")
_TEXT: dict[int | str, dict[str, Any]] = {
    200: {"content": {"text/plain": {"schema": {"type": "string"}}}},
    **REFUSALS,
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
) -> Response:
    """Types of what whoever reads gets, as a file for a program in another language."""
    text = desk.read(reader, lambda view: described.types(view, language))
    return Response(text, media_type=type_files.of(language).media_type)


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


@router.get("/openapi.json", operation_id="read_openapi", responses=REFUSALS)
def document(reader: Reader, desk: AtDesk) -> Response:
    """The document of reading (OpenAPI 3.1) for this set-up: what each type holds as JSON Schema, and by what it can be chosen."""
    found = desk.read(reader, lambda view: described.document(view, _of_every_set_up()))
    return Response(json.dumps(found, ensure_ascii=False), media_type="application/json")
