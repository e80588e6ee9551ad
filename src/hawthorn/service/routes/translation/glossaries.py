"""Glossaries: their concepts, and files in and out."""

from __future__ import annotations

import asyncio
from dataclasses import asdict
from typing import Annotated

from fastapi import Query, Request, Response
from fastapi.responses import StreamingResponse

from hawthorn import wire
from hawthorn.operations.runtime.act import View
from hawthorn.operations.translation import glossaries, glossary_files
from hawthorn.operations.translation.glossaries import TermShown
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged
from hawthorn.service.received import body_of
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "translation")
TBX = "application/x-tbx+xml"
_FILE = (
    '<tbx type="TBX-Basic" style="dca" xml:lang="en" xmlns="urn:iso:std:iso:30042:ed-2"><tbxHeader/><text><body><conceptEntry id="c1">'
    '<langSec xml:lang="en"><termSec><term>quay</term></termSec></langSec><langSec xml:lang="fr"><termSec><term>quai</term></termSec>'
    "</langSec></conceptEntry></body></text></tbx>"
)


def _terms(body: wire.glossaries.ConceptAsk) -> list[TermShown]:
    return [TermShown(one.locale, one.text, one.status) for one in body.terms]


@router.get(
    "/glossaries",
    response_model=wire.glossaries.Glossaries,
    operation_id="list_glossaries",
    responses=REFUSALS,
)
def listing(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The glossaries that whoever asks may use, by name."""
    return paged.of(desk.read(me, glossaries.listing), lambda one: one.id)


@router.post(
    "/glossaries",
    status_code=201,
    response_model=wire.glossaries.Glossary,
    operation_id="add_glossary",
    responses=REFUSALS,
)
def add(body: wire.glossaries.GlossaryAsk, me: Who, desk: AtDesk) -> Answer:
    """Add a glossary."""
    return desk.write(me, lambda act: glossaries.add(act, body.name, body.note, body.section))


@router.patch(
    "/glossaries/{id}",
    response_model=wire.glossaries.Glossary,
    operation_id="change_glossary",
    responses=REFUSALS,
)
def change(id: str, body: wire.glossaries.GlossaryChange, me: Who, desk: AtDesk) -> Answer:
    """Change what is given of a glossary."""
    given = body.model_dump(exclude_none=True)
    return desk.write(me, lambda act: glossaries.change(act, id, given))


@router.delete("/glossaries/{id}", status_code=204, operation_id="end_glossary", responses=REFUSALS)
def end(id: str, me: Who, desk: AtDesk) -> None:
    """Remove a glossary with all that is in it."""
    desk.write(me, lambda act: glossaries.end(act, id))


@router.post(
    "/glossaries/{id}/merge",
    response_model=wire.glossaries.Glossary,
    operation_id="merge_glossaries",
    responses=REFUSALS,
)
def merge(id: str, body: wire.glossaries.GlossaryMerge, me: Who, desk: AtDesk) -> Answer:
    """Put all of another glossary into this one, and end the other; what both call the same is there once."""
    return desk.write(me, lambda act: glossaries.merge(act, id, body.other))


@router.get(
    "/glossaries/{id}/concepts",
    response_model=wire.glossaries.Concepts,
    operation_id="glossary_concepts",
    responses=REFUSALS,
)
def concepts(
    id: str,
    me: Who,
    desk: AtDesk,
    paged: Paged,
    words: Annotated[str, Query(description="In a term, in any language.")] = "",
    locale: Annotated[str, Query(description="Only concepts that are called something in it.")] = "",
) -> Answer:
    """The concepts of a glossary, in the order in which they came."""

    def look(view: View) -> Answer:
        found, more = glossaries.concepts(view, id, words, locale, paged.limit, paged.cursor)
        return paged.answer(found, more)

    return desk.read(me, look)


@router.post(
    "/glossaries/{id}/concepts",
    status_code=201,
    response_model=wire.glossaries.Concept,
    operation_id="add_concept",
    responses=REFUSALS,
)
def put(id: str, body: wire.glossaries.ConceptAsk, me: Who, desk: AtDesk) -> Answer:
    """Add a concept to a glossary."""
    return desk.write(me, lambda act: glossaries.put(act, id, body.note, _terms(body)))


@router.put(
    "/glossaries/{id}/concepts/{number}",
    response_model=wire.glossaries.Concept,
    operation_id="write_concept",
    responses=REFUSALS,
)
def write(id: str, number: int, body: wire.glossaries.ConceptAsk, me: Who, desk: AtDesk) -> Answer:
    """Write a concept of a glossary anew."""
    return desk.write(me, lambda act: glossaries.write(act, id, number, body.note, _terms(body)))


@router.post(
    "/glossaries/{id}/concepts/remove",
    status_code=204,
    operation_id="remove_concepts",
    responses=REFUSALS,
)
def remove(id: str, body: wire.glossaries.ConceptsRemove, me: Who, desk: AtDesk) -> None:
    """Remove concepts of a glossary."""
    desk.write(me, lambda act: glossaries.drop(act, id, body.ids))


@router.get(
    "/glossaries/{id}/file",
    operation_id="export_glossary",
    response_class=Response,
    responses={200: {"content": {TBX: {"schema": {"type": "string", "format": "binary"}}}}, **REFUSALS},
)
def export(id: str, me: Who, desk: AtDesk) -> Response:
    """A glossary as TBX (ISO 30042)."""
    data = desk.read(me, lambda view: glossary_files.export(view, id))
    return StreamingResponse(
        data, media_type=TBX, headers={"Content-Disposition": 'attachment; filename="hawthorn-glossary.tbx"'}
    )


@router.put(
    "/glossaries/{id}/file",
    response_model=wire.imports.FileImport,
    operation_id="import_glossary",
    responses=REFUSALS,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {TBX: {"schema": {"type": "string"}, "example": _FILE}},
        }
    },
)
async def import_file(
    id: str,
    me: Who,
    desk: AtDesk,
    request: Request,
    name: Annotated[str, Query(description="What the file is called.")] = "glossary.tbx",
) -> Answer:
    """Import a TBX file into a glossary. How far it is stands in the list of imports meanwhile; what cannot be used is named, and a file
    that cannot be read to its end leaves nothing behind."""
    await asyncio.to_thread(desk.read, me, lambda view: glossaries.get(view, id, manage=True))
    async with body_of(request) as file:
        return asdict(await asyncio.to_thread(glossary_files.import_file, desk, me, id, name, file))


@router.get(
    "/glossaries/{id}/imports",
    response_model=wire.imports.FileImports,
    operation_id="glossary_imports",
    responses=REFUSALS,
)
def imports(id: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The imports into a glossary, the newest first."""

    def look(view: View) -> Answer:
        found, more = glossaries.imports_into(view, id, paged.limit, paged.cursor)
        return paged.answer(found, more)

    return desk.read(me, look)


@router.post(
    "/glossaries/{id}/imports/{number}/undo",
    response_model=wire.imports.Removed,
    operation_id="undo_glossary_import",
    responses=REFUSALS,
)
def undo_import(id: str, number: int, me: Who, desk: AtDesk) -> Answer:
    """Remove what an import brought, but for what somebody wrote anew since; a large one goes a part at a time."""
    return {"more": desk.write(me, lambda act: glossaries.undo_import(act, id, number))}
