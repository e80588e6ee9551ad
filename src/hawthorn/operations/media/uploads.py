"""Long uploads: taken in parts, so that one that was broken off goes on where it stopped."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, TypedDict

from hawthorn.core import naming
from hawthorn.core.access import Identity
from hawthorn.core.errors import BadFile, InTheWay, NotFound, TooMany
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.media import files
from hawthorn.operations.runtime.act import Act, Desk, View, new_uuid
from hawthorn.store import uploads
from hawthorn.store.files import FileValue
from hawthorn.store.uploads import Upload

LASTS = 24 * 3600 * SECOND
"""For so long an upload may lie before it goes on."""
MOST_UNFINISHED = 100
"""So many uploads of one person may be unfinished."""


def folder(desk: Desk) -> Path:
    """Where parts lie until all are there: beside the record file."""
    return desk.db.path.with_name(desk.db.path.name + ".uploads")


@dataclass(frozen=True, slots=True)
class Room:
    """The most bytes of one upload, and of all that one person has not finished."""

    one: int
    unfinished: int


def begin(act: Act, place: Path, name: str, length: int, room: Room) -> str:
    """Begin an upload of so many bytes; returns its UUID."""
    files.require_giver(act)
    if not 0 < length <= room.one:
        raise BadFile("uploads.too_large", name=name, size=length, most=room.one)
    _sweep(act, place)
    count, lies = uploads.unfinished(act.conn, act.identity.id)
    if lies + length > room.unfinished or count >= MOST_UNFINISHED:
        raise TooMany(
            "uploads.too_many", count=count, size=lies, most_unfinished=MOST_UNFINISHED, room=room.unfinished
        )
    uuid = new_uuid(act.now)
    place.mkdir(mode=0o700, exist_ok=True)
    (place / uuid).touch(mode=0o600)
    uploads.add(
        act.conn,
        uuid,
        act.identity.id,
        naming.visible(name)[:200] or "file",
        length,
        act.now,
        act.now + LASTS,
    )
    return uuid


def _sweep(act: Act, place: Path) -> None:
    """Uploads that nobody went on with are forgotten."""
    for uuid in uploads.over(act.conn, act.now):
        forget(place, uuid)
    uploads.forget_over(act.conn, act.now)


def find(view: View, uuid: str) -> Upload:
    """An upload of whoever asks; others have none."""
    row: Upload | None = uploads.by_uuid(view.conn, uuid, view.identity.id, view.now)
    if row is None:
        raise NotFound("uploads.not_there")
    return row


class UploadStanding(TypedDict):
    """How far an upload is, in bytes, until when it may lie, and the SHA-256 of one that is done."""

    id: str
    name: str
    length: int
    offset: int
    expires_at: str
    sha256: str | None


def mine(view: View, place: Path) -> list[UploadStanding]:
    """The uploads of whoever asks that are not done, newest first."""
    rows = uploads.of_actor(view.conn, view.identity.id, view.now)
    return [state(row, place) for row in rows]


def state(row: Upload, place: Path) -> UploadStanding:
    """How far an upload is."""
    return {
        "id": row.uuid,
        "name": row.name,
        "length": row.length,
        "offset": row.length if row.sha256 else offset(place, row),
        "expires_at": iso(row.expires_at),
        "sha256": row.sha256,
    }


def offset(place: Path, row: Upload) -> int:
    """How many bytes of an upload that is not done need not be sent again. With the last one it is looked through: where that broke off, it is sent again."""
    try:
        return min((place / row.uuid).stat().st_size, row.length - 1)
    except FileNotFoundError:
        return 0


def append(row: Upload, place: Path, at: int, data: bytes) -> int:
    """Add bytes where the upload stopped; returns how many are there then."""
    path = place / row.uuid
    path.touch(mode=0o600)
    with path.open("ab") as file:
        have = os.fstat(file.fileno()).st_size
        if have == row.length and at == offset(place, row):
            os.truncate(file.fileno(), at)
            have = at
        if at != have:
            raise InTheWay("uploads.at_another_byte", have=have, at=at, offset=have)
        if have + len(data) > row.length:
            raise BadFile("uploads.more_than_announced", length=row.length)
        file.write(data)
        file.flush()
        os.fsync(file.fileno())
        return have + len(data)


@contextmanager
def aside(place: Path, source: IO[bytes]) -> Iterator[Path]:
    """A copy of what is sent in one piece, where other uploads lie, for as long as it is looked through."""
    place.mkdir(mode=0o700, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=place, prefix="whole-") as copy:
        shutil.copyfileobj(source, copy, 1 << 20)
        copy.flush()
        yield Path(copy.name)


def look_through(desk: Desk, giver: Identity, row: Upload, place: Path) -> files.Stored:
    """See what an upload that is whole holds, and lay it where files lie. It stays as it was sent, so that it can go on where it cannot be told, or laid,
    just now."""
    looked = _looked(place, row.uuid)
    looked.touch(mode=0o600)
    shutil.copyfile(place / row.uuid, looked)
    try:
        return files.laid(desk, files.looked_through(desk, giver, row.name, looked))
    except BaseException:
        looked.unlink(missing_ok=True)
        raise


def finish(act: Act, row: Upload, place: Path, file: files.Stored) -> FileValue:
    """Keep what came; returns the value for a file field."""
    value = files.keep(act, file)
    uploads.finish(act.conn, file.sha256, row.uuid)
    return value


def value(view: View, row: Upload) -> FileValue | None:
    """The value for a file field of an upload that is done."""
    if not row.sha256:
        return None
    return files.fetch(view, row.sha256).value()


def drop(act: Act, row: Upload, place: Path) -> None:
    """Break an upload off for good."""
    uploads.drop(act.conn, row.uuid)
    forget(place, row.uuid)


def forget(place: Path, uuid: str) -> None:
    """Remove what came of an upload from where parts lie."""
    (place / uuid).unlink(missing_ok=True)
    _looked(place, uuid).unlink(missing_ok=True)


def _looked(place: Path, uuid: str) -> Path:
    """Where a copy of an upload lies while it is looked through, and cleaned."""
    return place / f"{uuid}.looked"
