"""Translation memories: their sentences, matches, and files in and out."""

from __future__ import annotations

import asyncio
from dataclasses import asdict
from typing import Annotated, Any

from fastapi import Query, Request, Response
from fastapi.responses import StreamingResponse

from hawthorn import wire
from hawthorn.core.timeline import iso
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import memories, memory_files, table
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged
from hawthorn.service.received import body_of
from hawthorn.service.routing import REFUSALS, area
from hawthorn.store.memories import Known

router = area("/api", "translation")
TMX = "application/x-tmx+xml"
_FILE = (
    '<tmx version="1.4"><header srclang="en" creationtool="x" creationtoolversion="1" segtype="sentence" o-tmf="x" adminlang="en" '
    'datatype="xml"/><body><tu><tuv xml:lang="en"><seg>Winter</seg></tuv><tuv xml:lang="fr"><seg>Hiver</seg></tuv></tu></body></tmx>'
)


def _known(one: Known) -> dict[str, Any]:
    return {
        "id": one.id,
        "source_locale": one.source_locale,
        "source_text": one.source_text,
        "locale": one.locale,
        "text": one.text,
        "origin": one.origin,
        "by": one.by_name,
        "at": iso(one.at),
    }


@router.get(
    "/memories", response_model=wire.memories.Memories, operation_id="list_memories", responses=REFUSALS
)
def listing(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The translation memories that whoever asks may use, by name."""
    return paged.of(desk.read(me, memories.listing), lambda one: one.id)


@router.post(
    "/memories",
    status_code=201,
    response_model=wire.memories.Memory,
    operation_id="add_memory",
    responses=REFUSALS,
)
def add(body: wire.memories.MemoryAsk, me: Who, desk: AtDesk) -> Answer:
    """Add a translation memory."""
    return desk.write(me, lambda act: memories.add(act, body.name, body.note, body.section))


@router.patch(
    "/memories/{id}",
    response_model=wire.memories.Memory,
    operation_id="change_memory",
    responses=REFUSALS,
)
def change(id: str, body: wire.memories.MemoryChange, me: Who, desk: AtDesk) -> Answer:
    """Change what is given of a memory."""
    return desk.write(me, lambda act: memories.change(act, id, body.model_dump(exclude_none=True)))


@router.delete(
    "/memories/{id}",
    response_model=wire.imports.Removed,
    operation_id="end_memory",
    responses=REFUSALS,
)
def end(id: str, me: Who, desk: AtDesk) -> Answer:
    """Remove a memory with all that is in it; a large one goes a part at a time."""
    return {"more": desk.write(me, lambda act: memories.end(act, id))}


@router.post(
    "/memories/{id}/merge",
    response_model=wire.memories.Memory,
    operation_id="merge_memories",
    responses=REFUSALS,
)
def merge(id: str, body: wire.memories.MemoryMerge, me: Who, desk: AtDesk) -> Answer:
    """Put all of another memory into this one, and end the other; what both have is kept once."""
    return desk.write(me, lambda act: memories.merge(act, id, body.other))


@router.get(
    "/memories/{id}/sentences",
    response_model=wire.memories.KnownList,
    operation_id="memory_sentences",
    responses=REFUSALS,
)
def sentences(
    id: str,
    me: Who,
    desk: AtDesk,
    paged: Paged,
    words: Annotated[str, Query(description="Words in either language.")] = "",
    source: Annotated[str, Query(description="The locale of the source.")] = "",
    target: Annotated[str, Query(description="The locale of the translation.")] = "",
) -> Answer:
    """The sentences of a memory, the newest first."""

    def look(view: View) -> Answer:
        found, more = memories.sentences(view, id, (words, source, target), paged.limit, paged.cursor)
        return paged.answer([_known(one) for one in found], more)

    return desk.read(me, look)


@router.patch(
    "/memories/{id}/sentences/{number}",
    response_model=wire.memories.Known,
    operation_id="edit_memory_sentence",
    responses=REFUSALS,
)
def edit(id: str, number: int, body: wire.memories.KnownChange, me: Who, desk: AtDesk) -> Answer:
    """Write another translation for a sentence of a memory."""
    return desk.write(me, lambda act: _known(memories.edit(act, id, number, body.target)))


@router.post(
    "/memories/{id}/sentences/remove",
    status_code=204,
    operation_id="remove_memory_sentences",
    responses=REFUSALS,
)
def remove(id: str, body: wire.memories.KnownRemove, me: Who, desk: AtDesk) -> None:
    """Remove sentences of a memory."""
    desk.write(me, lambda act: memories.remove(act, id, body.ids))


@router.get(
    "/memories/{id}/file",
    operation_id="export_memory",
    response_class=Response,
    responses={200: {"content": {TMX: {"schema": {"type": "string", "format": "binary"}}}}, **REFUSALS},
)
def export(
    id: str,
    me: Who,
    desk: AtDesk,
    source: Annotated[str, Query(description="The locale of the source.")] = "",
    target: Annotated[str, Query(description="The locale of the translation.")] = "",
) -> Response:
    """A memory as TMX 1.4b, whole or of one pair of languages."""
    data = memory_files.export(desk, me, id, source, target)
    return StreamingResponse(
        data, media_type=TMX, headers={"Content-Disposition": 'attachment; filename="hawthorn-memory.tmx"'}
    )


@router.put(
    "/memories/{id}/file",
    response_model=wire.imports.FileImport,
    operation_id="import_memory",
    responses=REFUSALS,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {TMX: {"schema": {"type": "string"}, "example": _FILE}},
        }
    },
)
async def import_file(
    id: str,
    me: Who,
    desk: AtDesk,
    request: Request,
    name: Annotated[str, Query(description="What the file is called.")] = "memory.tmx",
) -> Answer:
    """Import a TMX file into a memory. How far it is stands in the list of imports meanwhile; what cannot be used is named, and a file
    that cannot be read to its end leaves nothing behind."""
    await asyncio.to_thread(desk.read, me, lambda view: memories.get(view, id, manage=True))
    async with body_of(request) as file:
        return asdict(await asyncio.to_thread(memory_files.import_file, desk, me, id, name, file))


@router.get(
    "/memories/{id}/imports",
    response_model=wire.imports.FileImports,
    operation_id="memory_imports",
    responses=REFUSALS,
)
def imports(id: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The imports into a memory, the newest first."""

    def look(view: View) -> Answer:
        found, more = memories.imports_into(view, id, paged.limit, paged.cursor)
        return paged.answer(found, more)

    return desk.read(me, look)


@router.post(
    "/memories/{id}/imports/{number}/undo",
    response_model=wire.imports.Removed,
    operation_id="undo_memory_import",
    responses=REFUSALS,
)
def undo_import(id: str, number: int, me: Who, desk: AtDesk) -> Answer:
    """Remove what an import brought, but for what was changed or accepted since; a large one goes a part at a time."""
    return {"more": desk.write(me, lambda act: memories.undo_import(act, id, number))}


@router.post(
    "/jobs/{id}/segments/matches",
    response_model=wire.memories.Matches,
    operation_id="segment_matches",
    responses=REFUSALS,
)
def matches(id: str, body: wire.translation.SegmentName, me: Who, desk: AtDesk) -> Answer:
    """What the memories have that is like a sentence of a job."""
    place = (body.entry, body.key, body.segment)
    return {"matches": desk.read(me, lambda view: memories.beside(view, id, place))}


@router.post(
    "/jobs/{id}/fill",
    response_model=wire.memories.Filled,
    operation_id="fill_job",
    responses=REFUSALS,
)
def fill(id: str, me: Who, desk: AtDesk) -> Answer:
    """Put what the memories have of the same words into sentences that nobody has translated; they stay open."""

    def do(act: Act) -> Answer:
        return {"filled": table.fill(act, id)}

    return desk.write(me, do)
