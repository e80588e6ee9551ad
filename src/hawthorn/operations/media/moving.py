"""Moving the bytes of files from the record file to the file store, or back: one after another, while the service runs."""

from __future__ import annotations

import hashlib
import tempfile
from collections.abc import Generator
from pathlib import Path

from hawthorn.core.quick import dataclass
from hawthorn.operations.media import files, uploads
from hawthorn.operations.runtime.act import Desk
from hawthorn.store import file_store
from hawthorn.store import files as store
from hawthorn.store.files import File

_PART = 8 << 20


@dataclass(frozen=True, slots=True)
class Moved:
    """A file that was looked at, and whether its bytes were what they should be: only then they were moved."""

    file: File
    sound: bool


def to_move(desk: Desk, *, outside: bool) -> tuple[int, int]:
    """How many files lie in the file store (`outside`) or in the record file, and how many bytes they have."""
    with desk.db.read() as conn:
        return store.lying(conn, outside)


def move(desk: Desk, *, outside: bool) -> Generator[Moved]:
    """Move each file into the file store (`outside`) or into the record file. What is broken off goes on with what is left.

    A file is in its new place, as it should be, before it is said to be there and goes from the old one.
    """
    files.outside(desk.file_store)
    place = uploads.folder(desk)
    place.mkdir(mode=0o700, exist_ok=True)
    after = ""
    while True:
        with desk.db.read() as conn:
            row = store.next_to_move(conn, not outside, after)
        if row is None:
            return
        with tempfile.NamedTemporaryFile(dir=place, prefix="moved-") as aside:
            sound = _copied(desk, row, Path(aside.name))
            if sound:
                _moved(desk, row, Path(aside.name), outside)
        yield Moved(row, sound)
        after = row.sha256


def _copied(desk: Desk, row: File, to: Path) -> bool:
    """Copy a file's bytes; whether they are what its name says."""
    digest = hashlib.sha256()
    with to.open("wb") as copy:
        for at in range(0, row.bytes, _PART):
            some = files.part(desk, row, at, min(_PART, row.bytes - at))
            digest.update(some)
            copy.write(some)
    return digest.hexdigest() == row.sha256


def _moved(desk: Desk, row: File, copy: Path, outside: bool) -> None:
    if outside:
        files.outside(desk.file_store).put(file_store.named(row.sha256), copy)
        desk.db.write(lambda conn: store.moved_outside(conn, row.sha256))
    else:
        desk.db.write(lambda conn: store.moved_inside(conn, row.sha256, copy))
