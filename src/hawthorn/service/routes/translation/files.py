"""Files of jobs: out in any format, one or many, and in again."""

from __future__ import annotations

import asyncio
from dataclasses import asdict
from typing import Annotated, Any, BinaryIO

from fastapi import Query, Request, Response

from hawthorn import wire
from hawthorn.core import formats
from hawthorn.core.errors import HawthornError
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import archives, exporting, importing, translation
from hawthorn.operations.views import show_jobs
from hawthorn.service.context import Answer, AtDesk, Who, settings_of
from hawthorn.service.received import body_of
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "translation")
_FINISHED = (
    '<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.1" srcLang="en" trgLang="fr"><file id="f1" '
    'original="urn:uuid:01a1f5b2-4c1d-7a41-9d40-1de0b42efb6a"><unit id="title"><segment><source>Winter</source>'
    "<target>Hiver</target></segment></unit></file></xliff>"
)
_ANY = {f.media_type: {"schema": {"type": "string", "format": "binary"}} for f in formats.FORMATS.values()}
FormatAsked = Annotated[
    str,
    Query(
        alias="format",
        description="The format of the file.",
        json_schema_extra={"enum": list(formats.FORMATS), "default": formats.USUAL.name},
    ),
]


def _public(request: Request) -> str:
    """Where whoever gets a file reaches this service."""
    return settings_of(request).public or str(request.base_url)


@router.get(
    "/job-files",
    operation_id="export_jobs",
    response_class=Response,
    responses={
        200: {"content": {"application/zip": {"schema": {"type": "string", "format": "binary"}}}},
        **REFUSALS,
    },
)
def export_many(
    me: Who,
    desk: AtDesk,
    request: Request,
    job: Annotated[list[str], Query(description="A job, by its id; may be given several times.")],
    written: FormatAsked = formats.USUAL.name,
) -> Response:
    """Several jobs as a ZIP archive of their files, to be carried by hand."""
    data = desk.read(me, lambda view: exporting.archive(view, job, formats.of(written), _public(request)))
    return Response(
        data,
        media_type="application/zip",
        headers={"Content-Disposition": 'attachment; filename="hawthorn-jobs.zip"'},
    )


@router.put(
    "/job-files",
    response_model=wire.translation.ArchiveResult,
    operation_id="import_jobs",
    responses=REFUSALS,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {
                "application/zip": {
                    "schema": {"type": "string", "format": "binary"},
                    "example": "an archive with french.xlf and german.xlf",
                }
            },
        }
    },
)
async def import_many(me: Who, desk: AtDesk, request: Request, whole: bool = False) -> Answer:
    """Import several translated files in one ZIP archive, each for the job that it names, one after the other: what becomes of each is said."""

    def each(file: BinaryIO) -> Answer:
        return {"files": [_imported(me, desk, one, whole) for one in archives.read(file)]}

    async with body_of(request) as file:
        return await asyncio.to_thread(each, file)


def _imported(me: Who, desk: AtDesk, packed: archives.Packed, whole: bool) -> dict[str, Any]:
    def do(act: Act) -> dict[str, Any]:
        assert packed.document is not None
        found = importing.import_file(act, packed.document.job, packed.document, whole=whole)
        return {**asdict(found), "job": show_jobs.job_line(act, translation.find(act, packed.document.job))}

    refused = packed.refused
    try:
        if refused is None:
            return {"name": packed.name, "result": desk.write(me, do), "problem": ""}
    except HawthornError as error:
        refused = error
    return {"name": packed.name, "result": None, "problem": desk.words.text(refused.message)}


@router.get(
    "/jobs/{id}/file",
    operation_id="export_job",
    response_class=Response,
    responses={200: {"content": _ANY}, **REFUSALS},
)
def export(
    id: str, me: Who, desk: AtDesk, request: Request, written: FormatAsked = formats.USUAL.name
) -> Response:
    """The job as a file, to be carried by hand: XLIFF for programs of translators, or a sheet with both languages side by side."""
    kind = formats.of(written)
    name, data = desk.read(me, lambda view: exporting.export(view, id, kind, _public(request)))
    return Response(
        data,
        media_type=kind.media_type,
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@router.put(
    "/jobs/{id}/file",
    response_model=wire.translation.ImportResult,
    operation_id="bring_job_returned",
    responses=REFUSALS,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {formats.USUAL.media_type: {"schema": {"type": "string"}, "example": _FINISHED}},
        }
    },
)
async def import_job(
    id: str,
    me: Who,
    desk: AtDesk,
    request: Request,
    whole: bool = False,
    check: Annotated[bool, Query(description="Only say what importing it would do.")] = False,
) -> Answer:
    """Import the translated file, in whichever format it is: what fits is taken, what does not is named and stays open; with `whole`, all is taken or
    nothing, with `check` nothing is kept. A file may come many times."""

    def may(view: View) -> int:
        job = translation.find(view, id)
        translation.require_carry(view, job)
        return importing.most_units(job)

    # May it be imported at all? Then it is read, before others have to wait.
    most = await asyncio.to_thread(desk.read, me, may)
    async with body_of(request) as file:
        document = await asyncio.to_thread(formats.read, file, most)

    def do(act: Act) -> Answer:
        bring = importing.check if check else importing.import_file
        found = bring(act, id, document, whole=whole)
        return {**asdict(found), "job": show_jobs.job_line(act, translation.find(act, id))}

    return await asyncio.to_thread(desk.write, me, do)
