"""Lists as tables for spreadsheets."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import ExitStack
from itertools import chain, islice
from typing import IO, Annotated, Any, Literal

from fastapi import Path, Query, Response
from fastapi.responses import StreamingResponse

from hawthorn.core.exchange import sheet
from hawthorn.operations.exchange import sheets
from hawthorn.service.context import Asked, AtDesk, Who
from hawthorn.service.routing import REFUSALS, area

router = area("/api/sheets", "exchange")
_PART = 1 << 18
_KINDS: dict[str, Any] = {
    media.split(";")[0]: {"schema": {"type": "string", "format": "binary"}}
    for media in sheet.FORMATS.values()
}


@router.get(
    "/entries.{format}",
    operation_id="entries_sheet",
    response_class=Response,
    responses={200: {"content": _KINDS}, **REFUSALS},
)
def entries(
    format: Annotated[Literal["csv", "xlsx"], Path(description="The format of the table.")],
    me: Who,
    desk: AtDesk,
    asked: Asked,
    field: Annotated[
        list[str] | None,
        Query(
            description="The fields that are wanted; those of the type that is asked for where none is named."
        ),
    ] = None,
) -> Response:
    """The list of entries that is asked for, all of it, as a table: a line for each edition, as its draft is. No cell is a formula. Its columns are those that
    rows have when they come in (`PUT /api/packages/rows`), so that it comes in again as it was changed."""
    names = desk.read(me, lambda view: sheets.columns(view, asked, field or []))
    lines = sheets.lines(lambda look: desk.read(me, look), asked, names)
    # What cannot be asked for is said in place of a table, not by one that breaks off: its first lines are looked for before anything is sent.
    lines = chain(list(islice(lines, 2)), lines)
    headers = {
        "Content-Disposition": f'attachment; filename="entries.{format}"',
        "Cache-Control": "private, no-store",
    }
    if format == "csv":
        return StreamingResponse(sheet.csv(lines), media_type=sheet.FORMATS[format], headers=headers)
    # It is whole before anything is sent, as what it cannot hold is known only then.
    with ExitStack() as held:
        file = held.enter_context(tempfile.TemporaryFile())
        sheet.xlsx(lines, file)
        headers["Content-Length"] = str(file.tell())
        held.pop_all()
    return StreamingResponse(_sent(file), media_type=sheet.FORMATS[format], headers=headers)


def _sent(file: IO[bytes]) -> Iterator[bytes]:
    with file:
        file.seek(0)
        while part := file.read(_PART):
            yield part
