"""The library: files, long uploads, folders, crops."""

from __future__ import annotations

import asyncio
import base64
import binascii
import contextlib
from typing import Annotated

from fastapi import Header, Request, Response, UploadFile
from starlette.requests import ClientDisconnect

from hawthorn import wire
from hawthorn.core import pictures
from hawthorn.core.errors import BadFile, Invalid
from hawthorn.operations.media import files, library, recordings, renditions, uploads
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.search import finding
from hawthorn.operations.views import show, show_lines
from hawthorn.service import serving
from hawthorn.service.context import Answer, Asked, AtDesk, Once, Who, fingerprint, settings_of
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area
from hawthorn.store import files as file_store

router = area("/api", "library")
TUS = "1.0.0"
"""The version of the protocol for resumable uploads (tus.io, protocol 1.0.x: core, creation, termination, expiration)."""
_PART = 32 * 1024 * 1024


@router.get(
    "/library", response_model=wire.media.LibraryPage, operation_id="list_library", responses=REFUSALS
)
def listing(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    asked: Asked,
) -> Answer:
    """Entries that hold files, those changed last first, narrowed as any list of entries."""

    def look(view: View) -> Answer:
        query = finding.Query(**{**asked.given(), "library": True})
        found, more = library.listing(view, query, limit=paged.limit, cursor=paged.cursor)
        lines = show_lines.lines(view, [row for row, _ in found])
        return paged.answer([{**line, **about} for line, (_, about) in zip(lines, found, strict=True)], more)

    return desk.read(me, look)


@router.get("/folders", response_model=wire.media.Folders, operation_id="list_folders")
def folders(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The folders of the library."""
    return paged.of(desk.read(me, library.folders), lambda one: one.id)


@router.post(
    "/folders",
    status_code=201,
    response_model=wire.media.Folder,
    operation_id="make_folder",
    responses=REFUSALS,
)
def make_folder(body: wire.media.FolderAsk, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Make a folder."""
    return desk.once(
        me,
        once,
        "make_folder",
        fingerprint(body),
        lambda act: _folder(act, library.make_folder(act, body.name, body.parent)),
    )


def _folder(view: View, uuid: str) -> Answer:
    return next(f for f in library.folders(view) if f.id == uuid)


@router.patch(
    "/folders/{id}", response_model=wire.media.Folder, operation_id="change_folder", responses=REFUSALS
)
def change_folder(id: str, body: wire.media.FolderChange, me: Who, desk: AtDesk) -> Answer:
    """Give a folder another name, or put it elsewhere."""

    def do(act: Act) -> Answer:
        library.change_folder(act, id, body.name, body.parent)
        return _folder(act, id)

    return desk.write(me, do)


@router.delete("/folders/{id}", status_code=204, operation_id="remove_folder", responses=REFUSALS)
def remove_folder(id: str, me: Who, desk: AtDesk) -> None:
    """Remove a folder; what lies in it comes to lie where it lay."""
    desk.write(me, lambda act: library.remove_folder(act, id))


@router.post(
    "/library/file", response_model=wire.media.Filed, operation_id="file_entries", responses=REFUSALS
)
def file_into(body: wire.media.FileInto, me: Who, desk: AtDesk) -> Answer:
    """Put entries into a folder, or into none."""
    return {"was": desk.write(me, lambda act: library.file_into(act, body.entries, body.folder))}


@router.put("/crops", response_model=wire.media.Crops, operation_id="define_crops", responses=REFUSALS)
def define_crops(body: wire.media.Crops, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Put crops in place of those there are. Renditions are made anew when they are asked for."""

    def do(act: Act) -> None:
        renditions.define_crops(act, [c.model_dump() for c in body.crops])

    desk.write(me, do)
    return {"crops": desk.read(me, lambda view: pictures.to_list(view.setup.crops.values()))}


@router.post(
    "/files",
    status_code=201,
    response_model=wire.media.FileValue,
    operation_id="upload_file",
    responses=REFUSALS,
)
def upload(file: UploadFile, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Upload a file at once; the answer is the value for a file field. What cannot be used is refused with the reason.

    Pictures, MP4, WebM, WAV and FLAC lose what tells where, when and by whom they were made; PDF, MP3, Ogg and AAC keep it."""
    # Whoever may not keep anything need not have it looked through first.
    desk.read(me, files.require_giver)
    with uploads.aside(uploads.folder(desk), file.file) as path:
        found = files.laid(desk, files.looked_through(desk, me, file.filename or "file", path))
        return desk.once(me, once, "upload_file", found.sha256, lambda act: files.keep(act, found))


@router.get(
    "/files/{sha256}",
    operation_id="fetch_file",
    response_class=Response,
    responses={**REFUSALS, **serving.IN_PARTS},
)
def fetch(sha256: str, me: Who, desk: AtDesk, request: Request) -> Response:
    """A stored file, for those who work here; in parts too (RFC 9110, section 14)."""
    row = desk.read(me, lambda view: files.fetch(view, sha256))
    return serving.file_response(request, desk, row, {"Cache-Control": "private, max-age=86400, immutable"})


@router.get(
    "/files/{sha256}/used", response_model=wire.search.Matches, operation_id="file_used", responses=REFUSALS
)
def used(sha256: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The entries whose drafts hold a file."""

    def look(view: View) -> Answer:
        rows = file_store.heads_holding(view.conn, sha256)
        return paged.of(
            [show.named(view, row) for row in rows if show.readable(view, row)], lambda one: one["id"]
        )

    return desk.read(me, look)


@router.get("/uploads", response_model=wire.media.Uploads, operation_id="list_uploads")
def unfinished(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The caller's uploads that are not done, to go on with."""
    found = desk.read(me, lambda view: uploads.mine(view, uploads.folder(desk)))
    return paged.of(found, lambda one: one["id"])


@router.post(
    "/uploads", status_code=201, operation_id="begin_upload", response_class=Response, responses=REFUSALS
)
def begin(
    me: Who,
    desk: AtDesk,
    request: Request,
    upload_length: Annotated[int, Header(ge=1)],
    upload_metadata: Annotated[str, Header(max_length=2000)] = "",
) -> Response:
    """Begin an upload that can be gone on with after a break (tus 1.0.0, creation). `Location` names it."""
    name = _metadata(upload_metadata).get("filename", "file")
    place, settings = uploads.folder(desk), settings_of(request)
    room = uploads.Room(settings.largest_upload, settings.unfinished_uploads)
    uuid = desk.write(me, lambda act: uploads.begin(act, place, name, upload_length, room))
    return Response(status_code=201, headers={"Location": f"/api/uploads/{uuid}", **_head(request)})


def _head(request: Request) -> dict[str, str]:
    return {
        "Tus-Resumable": TUS,
        "Tus-Version": TUS,
        "Tus-Extension": "creation,termination,expiration",
        "Tus-Max-Size": str(settings_of(request).largest_upload),
    }


def _metadata(text: str) -> dict[str, str]:
    out: dict[str, str] = {}
    for pair in filter(None, (p.strip() for p in text.split(","))):
        key, _, value = pair.partition(" ")
        try:
            out[key] = base64.b64decode(value, validate=True).decode("utf-8")
        except (binascii.Error, UnicodeDecodeError):
            raise Invalid("library.upload_metadata", name=key) from None
    return out


@router.get(
    "/uploads/{id}", response_model=wire.media.Upload, operation_id="upload_state", responses=REFUSALS
)
def state(id: str, me: Who, desk: AtDesk) -> Answer:
    """How far an upload is; once it is done, the value for a file field."""

    def look(view: View) -> Answer:
        row = uploads.find(view, id)
        found = uploads.value(view, row)
        note = recordings.note(found["media_type"]) if found else None
        return {
            **uploads.state(row, uploads.folder(desk)),
            "file": found,
            "note": view.say(note) if note is not None else "",
        }

    return desk.read(me, look)


@router.head("/uploads/{id}", operation_id="upload_offset", response_class=Response, responses=REFUSALS)
def offset(id: str, me: Who, desk: AtDesk, request: Request) -> Response:
    """How far an upload is (tus 1.0.0, core)."""
    found = desk.read(me, lambda view: uploads.state(uploads.find(view, id), uploads.folder(desk)))
    headers = {"Upload-Offset": str(found["offset"]), "Upload-Length": str(found["length"])}
    return Response(headers={**headers, "Cache-Control": "no-store", **_head(request)})


@router.patch(
    "/uploads/{id}",
    status_code=204,
    operation_id="append_upload",
    response_class=Response,
    responses=REFUSALS,
)
async def append(
    id: str, me: Who, desk: AtDesk, request: Request, upload_offset: Annotated[int, Header(ge=0)]
) -> Response:
    """Go on with an upload where it stopped (tus 1.0.0, core). With the last byte it is looked through and kept, or refused
    with the reason."""
    place = uploads.folder(desk)
    row = await asyncio.to_thread(desk.read, me, lambda view: uploads.find(view, id))
    at, waiting = upload_offset, bytearray()
    # What came before a connection broke is kept: that is what going on is for.
    with contextlib.suppress(ClientDisconnect):
        async for part in request.stream():
            waiting += part
            if len(waiting) >= _PART:
                at = await asyncio.to_thread(uploads.append, row, place, at, bytes(waiting))
                waiting.clear()
    at = await asyncio.to_thread(uploads.append, row, place, at, bytes(waiting))
    if at == row.length and not row.sha256:
        try:
            found = await asyncio.to_thread(uploads.look_through, desk, me, row, place)
        except BadFile:
            # There is nothing to go on with.
            await asyncio.to_thread(desk.write, me, lambda act: uploads.drop(act, row, place))
            raise
        await asyncio.to_thread(desk.write, me, lambda act: uploads.finish(act, row, place, found))
        uploads.forget(place, id)
    return Response(status_code=204, headers={"Upload-Offset": str(at), **_head(request)})


@router.delete("/uploads/{id}", status_code=204, operation_id="drop_upload", responses=REFUSALS)
def drop(id: str, me: Who, desk: AtDesk) -> None:
    """Break an upload off for good (tus 1.0.0, termination)."""
    place = uploads.folder(desk)
    desk.write(me, lambda act: uploads.drop(act, uploads.find(act, id), place))
