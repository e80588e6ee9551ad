"""Packages: made, fetched, given, looked through, brought and undone."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from dataclasses import asdict
from typing import Annotated, Any

from fastapi import Query, Request, Response
from fastapi.responses import FileResponse

from hawthorn import wire
from hawthorn.core.errors import InTheWay
from hawthorn.operations.exchange import mappings, packages, report
from hawthorn.operations.exchange.exporting import Choice
from hawthorn.operations.exchange.report import RowsWish, Wish
from hawthorn.operations.runtime.act import Act, Desk, View, new_uuid
from hawthorn.service.context import Answer, AtDesk, Once, Who, fingerprint
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area
from hawthorn.store import private

router = area("/api/packages", "exchange")
ZIP, CSV = "application/zip", "text/csv"
_NewIds = Annotated[bool, Query(description="Under new ids, beside what is here.")]
_AsDrafts = Annotated[bool, Query(description="As drafts, whatever stood elsewhere.")]
_Leave = Annotated[bool, Query(description="Leave alone what is here already, rather than merge.")]
_Definitions = Annotated[bool, Query(description="Also put definitions in place that are otherwise here.")]


@router.get("", response_model=wire.exchange.Packages, operation_id="list_packages", responses=REFUSALS)
def listing(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The packages there were, made and given, the newest first, with how far each is."""

    def look(view: View) -> Answer:
        found, more = packages.listing(view, paged.limit, paged.cursor)
        return paged.answer([asdict(one) for one in found], more)

    return desk.read(me, look)


@router.post(
    "",
    status_code=202,
    response_model=wire.exchange.Package,
    operation_id="make_package",
    responses=REFUSALS,
)
def make(body: wire.exchange.PackageAsk, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Ask for a package of entries. It is made meanwhile: ask for it again to see how far it is, and fetch its file once it is done."""
    choice = Choice(tuple(body.types), tuple(body.sections), tuple(body.entries), body.linked, body.history)

    def do(act: Act) -> Answer:
        return _shown(act, packages.start_export(act, choice, body.name))

    return desk.once(me, once, "make_package", fingerprint(body), do)


@router.put(
    "/file",
    status_code=202,
    response_model=wire.exchange.Package,
    operation_id="give_package",
    responses=REFUSALS,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {ZIP: {"schema": {"type": "string", "format": "binary"}, "example": "PK…"}},
        }
    },
)
async def give(
    request: Request,
    me: Who,
    desk: AtDesk,
    name: Annotated[str, Query(description="What the file is called.")] = "package.zip",
    new_ids: _NewIds = False,
    as_drafts: _AsDrafts = False,
    leave: _Leave = False,
    definitions: _Definitions = False,
) -> Answer:
    """Give a package. It is looked through first, and nothing is brought before somebody says so (`…/run`): its report says what that does."""
    wish = Wish(new_ids, as_drafts, leave, definitions)
    await asyncio.to_thread(desk.read, me, lambda view: report.require(view, wish))

    def begin(act: Act, uuid: str, size: int) -> None:
        packages.start_import(act, uuid, name, size, wish)

    return await _given(request, me, desk, begin)


async def _given(request: Request, me: Who, desk: Desk, begin: Callable[[Act, str, int], None]) -> Answer:
    """Take what is sent, and begin with it, named by its id and its length; what nothing is begun with does not stay."""
    uuid = new_uuid(desk.clock.now())
    size = await _received(request, desk, uuid)

    def do(act: Act) -> Answer:
        begin(act, uuid, size)
        return _shown(act, uuid)

    try:
        return await asyncio.to_thread(desk.write, me, do)
    except BaseException:
        packages.file_of(desk, uuid).unlink(missing_ok=True)
        raise


async def _received(request: Request, desk: Desk, uuid: str) -> int:
    """Take what is sent into the folder of packages; returns how many bytes that were."""
    place = packages.folder(desk)
    place.mkdir(mode=0o700, exist_ok=True)
    begun = place / f"{uuid}.begun"
    size = 0
    try:
        with private.created(begun) as file:
            async for part in request.stream():
                size += len(part)
                await asyncio.to_thread(file.write, part)
            await asyncio.to_thread(private.settled, file)
        begun.rename(packages.file_of(desk, uuid))
    finally:
        begun.unlink(missing_ok=True)
    return size


@router.put(
    "/rows",
    status_code=202,
    response_model=wire.exchange.Package,
    operation_id="give_rows",
    responses=REFUSALS,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {
                CSV: {"schema": {"type": "string"}, "example": "Title,Tags\nFog bell,harbour; sound\n"},
                ZIP: {"schema": {"type": "string", "format": "binary"}, "example": "PK…"},
            },
        }
    },
)
async def give_rows(
    request: Request,
    me: Who,
    desk: AtDesk,
    name: Annotated[str, Query(description="What the file is called; its ending says what it is.")],
    type: Annotated[
        str, Query(description="As entries of this content type; proposed where none is named.")
    ] = "",
    locale: Annotated[str, Query(description="The locale of rows that say none.")] = "",
    mapping: Annotated[str, Query(description="By the mapping that is kept under this name.")] = "",
) -> Answer:
    """Give rows that become entries: a table (CSV, XLSX), or pages (Markdown with front matter, HTML), one or a ZIP archive of them. They are looked through
    first, with a mapping that is proposed where none is named; nothing is brought before somebody says so (`…/run`)."""

    def allowed(view: View) -> RowsWish:
        packages.require_rows(view)
        kept = mappings.get(view, mapping).mapping if mapping else None
        return RowsWish(type, locale, kept)

    wish = await asyncio.to_thread(desk.read, me, allowed)

    def begin(act: Act, uuid: str, size: int) -> None:
        format = packages.format_of(name, packages.file_of(desk, uuid))
        packages.start_rows(act, uuid, name, size, format, wish)

    return await _given(request, me, desk, begin)


@router.post(
    "/{id}/map",
    status_code=202,
    response_model=wire.exchange.Package,
    operation_id="map_rows",
    responses=REFUSALS,
)
def map_rows(id: str, body: wire.exchange.RowsWish, me: Who, desk: AtDesk) -> Answer:
    """Look through rows again, as they are to become entries in another way."""

    def do(act: Act) -> Answer:
        packages.look_again(act, id, RowsWish(**body.model_dump()))
        return _shown(act, id)

    return desk.write(me, do)


@router.get("/{id}", response_model=wire.exchange.Package, operation_id="package", responses=REFUSALS)
def one(id: str, me: Who, desk: AtDesk) -> Answer:
    """A package: how far it is, what was found in it, and what came of it."""
    return desk.read(me, lambda view: _shown(view, id))


@router.get(
    "/{id}/file",
    operation_id="fetch_package",
    response_class=Response,
    responses={200: {"content": {ZIP: {"schema": {"type": "string", "format": "binary"}}}}, **REFUSALS},
)
def fetch(id: str, me: Who, desk: AtDesk) -> Response:
    """The file of a package that was made; in parts where that is asked for (RFC 9110, section 14), so that a download goes on where it broke off."""
    row = desk.read(me, lambda view: packages.get(view, id))
    path = packages.file_of(desk, id)
    if row.way != "out" or row.state != "done" or not path.is_file():
        raise InTheWay("packages.no_file")
    return FileResponse(
        path, media_type=ZIP, filename=row.name, headers={"Cache-Control": "private, no-store"}
    )


@router.post(
    "/{id}/look",
    status_code=202,
    response_model=wire.exchange.Package,
    operation_id="look_at_package",
    responses=REFUSALS,
)
def look(id: str, body: wire.exchange.PackageWish, me: Who, desk: AtDesk) -> Answer:
    """Look through a package again, as it is to be brought in another way."""

    def do(act: Act) -> Answer:
        packages.look_again(act, id, Wish(**body.model_dump()))
        return _shown(act, id)

    return desk.write(me, do)


@router.post(
    "/{id}/run",
    status_code=202,
    response_model=wire.exchange.Package,
    operation_id="run_package",
    responses=REFUSALS,
)
def run(id: str, me: Who, desk: AtDesk) -> Answer:
    """Bring a package that was looked through; one that was broken off or failed goes on."""
    return desk.write(me, lambda act: _moved(act, id, packages.run))


@router.post(
    "/{id}/cancel", response_model=wire.exchange.Package, operation_id="cancel_package", responses=REFUSALS
)
def cancel(id: str, me: Who, desk: AtDesk) -> Answer:
    """Break off what is being done with a package. What it brought stays until it is undone, or it goes on."""
    return desk.write(me, lambda act: _moved(act, id, packages.cancel))


@router.post(
    "/{id}/undo",
    status_code=202,
    response_model=wire.exchange.Package,
    operation_id="undo_package",
    responses=REFUSALS,
)
def undo(id: str, me: Who, desk: AtDesk) -> Answer:
    """Undo what a package brought, but for what somebody wrote in, or did something with, since; definitions, files and people stay."""
    return desk.write(me, lambda act: _moved(act, id, packages.undo))


@router.delete("/{id}", status_code=204, operation_id="drop_package", responses=REFUSALS)
def drop(id: str, me: Who, desk: AtDesk) -> None:
    """Forget a package that nothing is being done with, and its file; what it brought stays."""
    place = packages.folder(desk)
    desk.write(me, lambda act: packages.drop(act, id, place))


def _moved(act: Act, id: str, do: Any) -> Answer:
    do(act, id)
    return _shown(act, id)


def _shown(view: View, id: str) -> Answer:
    return asdict(packages.shown(packages.get(view, id)))
