"""Stored files, known by the SHA-256 of their bytes: the same bytes are kept once."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped
from hawthorn.store.entries import Entry


@dataclass(frozen=True, slots=True)
class File:
    """A stored file, without its bytes."""

    sha256: str
    name: str
    media_type: str
    bytes: int
    width: int | None
    height: int | None
    at: int
    actor: int | None

    def value(self) -> dict[str, Any]:
        """What a field that holds it says of it."""
        said = {
            "sha256": self.sha256,
            "name": self.name,
            "media_type": self.media_type,
            "width": self.width,
            "height": self.height,
            "bytes": self.bytes,
        }
        return {name: one for name, one in said.items() if one is not None}


_CHUNK = 1 << 20
_COLUMNS = "sha256, name, media_type, bytes, width, height, at, actor"


def add(
    conn: sqlite3.Connection,
    sha256: str,
    media_type: str,
    name: str,
    width: int | None,
    height: int | None,
    data: bytes | Path,
    at: int,
    actor: int,
) -> None:
    """Keep a file, from its bytes or from where they lie, unless its bytes are kept already."""
    if known(conn, sha256):
        return
    size = len(data) if isinstance(data, bytes) else data.stat().st_size
    made = conn.execute(
        "INSERT INTO file (sha256, media_type, name, bytes, width, height, data, at, actor) "
        "VALUES (?, ?, ?, ?, ?, ?, zeroblob(?), ?, ?)",
        (sha256, media_type, name, size, width, height, size, at, actor),
    )
    with conn.blobopen("file", "data", int(made.lastrowid or 0)) as blob:
        for part in _parts(data):
            blob.write(part)


def _parts(data: bytes | Path) -> Iterator[bytes]:
    if isinstance(data, bytes):
        yield data
        return
    with data.open("rb") as source:
        while part := source.read(_CHUNK):
            yield part


def find(conn: sqlite3.Connection, sha256: str) -> File | None:
    """What is known of a file, without its bytes."""
    return shaped.one(File, conn.execute(f"SELECT {_COLUMNS} FROM file WHERE sha256 = ?", (sha256,)))


def data(conn: sqlite3.Connection, sha256: str) -> bytes:
    """The bytes of a file that is kept."""
    found: bytes = conn.execute("SELECT data FROM file WHERE sha256 = ?", (sha256,)).fetchone()[0]
    return found


def part(conn: sqlite3.Connection, sha256: str, start: int, length: int) -> bytes:
    """Some of the bytes of a file that is kept."""
    row = conn.execute("SELECT rowid FROM file WHERE sha256 = ?", (sha256,)).fetchone()
    with conn.blobopen("file", "data", row[0], readonly=True) as blob:
        blob.seek(start)
        return blob.read(length)


def known(conn: sqlite3.Connection, sha256: str) -> bool:
    """Whether a file is kept."""
    return conn.execute("SELECT 1 FROM file WHERE sha256 = ?", (sha256,)).fetchone() is not None


IS_OUT = (
    "SELECT 1 FROM file_use u JOIN revision r ON r.id = u.revision JOIN standing s ON s.edition = r.edition "
    "AND s.stage = ?1 AND s.until IS NULL AND s.revision = u.revision JOIN edition d ON d.id = r.edition JOIN entry e ON e.id = d.entry AND e.limited = '' "
    "WHERE u.sha256 = ?2 AND (?3 = '' OR u.focus = ?3) LIMIT 1"
)
"""Whether something that stands at a stage, and that is for everybody, holds a file, with a focus where one is given."""


def is_out(conn: sqlite3.Connection, sha256: str, stage: int, focus: str = "") -> bool:
    """The same, once."""
    return conn.execute(IS_OUT, (stage, sha256, focus)).fetchone() is not None


def holders_out(conn: sqlite3.Connection, sha256: str, stage: int, focus: str = "") -> list[Entry]:
    """The limited entries that stand at a stage and hold a file there, with a focus where one is given."""
    cursor = conn.execute(
        "SELECT DISTINCT e.* FROM file_use u JOIN revision r ON r.id = u.revision JOIN standing s ON s.edition = r.edition "
        "AND s.stage = ?1 AND s.until IS NULL AND s.revision = u.revision JOIN edition d ON d.id = r.edition "
        "JOIN entry e ON e.id = d.entry AND e.limited <> '' AND e.removed_at IS NULL WHERE u.sha256 = ?2 AND (?3 = '' OR u.focus = ?3)",
        (stage, sha256, focus),
    )
    return shaped.every(Entry, cursor)


def heads_holding(conn: sqlite3.Connection, sha256: str) -> list[Entry]:
    """The entries whose drafts hold a file."""
    cursor = conn.execute(
        "SELECT DISTINCT e.* FROM file_use u JOIN strand x ON x.head = u.revision AND x.name = 'draft' "
        "AND x.closed_at IS NULL JOIN edition d ON d.id = x.edition JOIN entry e ON e.id = d.entry "
        "WHERE u.sha256 = ? AND e.removed_at IS NULL ORDER BY e.id",
        (sha256,),
    )
    return shaped.every(Entry, cursor)


def holders(conn: sqlite3.Connection, sha256: str) -> list[Entry]:
    """The entries of which a revision holds a stored file."""
    cursor = conn.execute(
        "SELECT DISTINCT e.* FROM file_use u JOIN revision r ON r.id = u.revision JOIN edition d ON d.id = r.edition "
        "JOIN entry e ON e.id = d.entry WHERE u.sha256 = ? AND e.removed_at IS NULL",
        (sha256,),
    )
    return shaped.every(Entry, cursor)
