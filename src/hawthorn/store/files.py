"""Stored files, known by the SHA-256 of their bytes: the same bytes are kept once."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import NotRequired, TypedDict

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped
from hawthorn.store.entries import Entry


class FileValue(TypedDict):
    """What a field that holds a file says of it: its SHA-256 (in hex), name and media type, its size in bytes, and for what is seen in
    pixels; `focus` is the point that a crop keeps, in hundredths of both sides."""

    sha256: str
    name: str
    media_type: str
    width: NotRequired[int]
    height: NotRequired[int]
    bytes: int
    focus: NotRequired[list[int]]


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
    outside: int
    """Whether its bytes lie in the file store, not in the record file."""

    def value(self) -> FileValue:
        """What a field that holds it says of it."""
        return value(self.sha256, self.name, self.media_type, self.width, self.height, self.bytes)


def value(
    sha256: str, name: str, media_type: str, width: int | None, height: int | None, bytes: int
) -> FileValue:
    """What a field that holds a file says of it."""
    if not width or not height:
        return {"sha256": sha256, "name": name, "media_type": media_type, "bytes": bytes}
    return {
        "sha256": sha256,
        "name": name,
        "media_type": media_type,
        "width": width,
        "height": height,
        "bytes": bytes,
    }


_PART = 1 << 20
"""The bytes of one part of a file that is kept in the record file."""
_COLUMNS = "sha256, name, media_type, bytes, width, height, at, actor, outside"


@dataclass(frozen=True, slots=True)
class New:
    """What is known of a file that is to be kept."""

    sha256: str
    media_type: str
    name: str
    width: int | None
    height: int | None
    bytes: int


def add(conn: sqlite3.Connection, new: New, at: int, actor: int, data: bytes | Path | None) -> None:
    """Keep a file, from its bytes or from where they lie, unless its bytes are kept already; `None` for bytes that lie in the file store."""
    if known(conn, new.sha256):
        return
    conn.execute(
        "INSERT INTO file (sha256, media_type, name, bytes, width, height, at, actor, outside) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            new.sha256,
            new.media_type,
            new.name,
            new.bytes,
            new.width,
            new.height,
            at,
            actor,
            int(data is None),
        ),
    )
    if data is not None:
        put_parts(conn, new.sha256, data)


def put_parts(conn: sqlite3.Connection, sha256: str, data: bytes | Path) -> None:
    """Keep the bytes of a file in the record file."""
    for n, one in enumerate(_parts(data)):
        conn.execute("INSERT INTO file_part (sha256, start, data) VALUES (?, ?, ?)", (sha256, n * _PART, one))


def _parts(data: bytes | Path) -> Iterator[bytes]:
    if isinstance(data, bytes):
        yield from (data[at : at + _PART] for at in range(0, len(data), _PART))
        return
    with data.open("rb") as source:
        while part := source.read(_PART):
            yield part


def find(conn: sqlite3.Connection, sha256: str) -> File | None:
    """What is known of a file, without its bytes."""
    return shaped.one(File, conn.execute(f"SELECT {_COLUMNS} FROM file WHERE sha256 = ?", (sha256,)))


def part(conn: sqlite3.Connection, sha256: str, start: int, length: int) -> bytes:
    """Some of the bytes of a file that lies in the record file."""
    rows = conn.execute(
        "SELECT rowid, start, length(data) FROM file_part WHERE sha256 = ?1 AND start < ?3 AND start >= "
        "(SELECT max(start) FROM file_part WHERE sha256 = ?1 AND start <= ?2) ORDER BY start",
        (sha256, start, start + length),
    ).fetchall()
    return b"".join(_some(conn, row, start, start + length) for row in rows)


def _some(conn: sqlite3.Connection, row: tuple[int, int, int], start: int, end: int) -> bytes:
    """Of one part what lies within a range of the file; what was kept before there were parts may be long."""
    rowid, begins, length = row
    first, last = max(0, start - begins), min(length, end - begins)
    if first >= last:
        return b""
    with conn.blobopen("file_part", "data", rowid, readonly=True) as blob:
        blob.seek(first)
        return blob.read(last - first)


def next_to_move(conn: sqlite3.Connection, outside: bool, after: str) -> File | None:
    """The next file whose bytes lie in the file store, or in the record file, by its SHA-256."""
    cursor = conn.execute(
        f"SELECT {_COLUMNS} FROM file WHERE outside = ? AND sha256 > ? ORDER BY sha256 LIMIT 1",
        (int(outside), after),
    )
    return shaped.one(File, cursor)


def lying(conn: sqlite3.Connection, outside: bool) -> tuple[int, int]:
    """How many files lie in the file store, or in the record file, and how many bytes they have."""
    row = conn.execute(
        "SELECT count(*), coalesce(sum(bytes), 0) FROM file WHERE outside = ?", (int(outside),)
    ).fetchone()
    return row[0], row[1]


def moved_outside(conn: sqlite3.Connection, sha256: str) -> None:
    """From now on the bytes of a file are those in the file store."""
    conn.execute("UPDATE file SET outside = 1 WHERE sha256 = ?", (sha256,))
    conn.execute("DELETE FROM file_part WHERE sha256 = ?", (sha256,))


def moved_inside(conn: sqlite3.Connection, sha256: str, data: Path) -> None:
    """From now on the bytes of a file are those in the record file."""
    if conn.execute("UPDATE file SET outside = 0 WHERE sha256 = ? AND outside = 1", (sha256,)).rowcount:
        put_parts(conn, sha256, data)


def known(conn: sqlite3.Connection, sha256: str) -> bool:
    """Whether a file is kept."""
    return conn.execute("SELECT 1 FROM file WHERE sha256 = ?", (sha256,)).fetchone() is not None


SHOWN_BY = (
    "SELECT e.uuid FROM file_use u JOIN revision r ON r.id = u.revision JOIN standing s ON s.edition = r.edition "
    "AND s.stage = ?1 AND s.until IS NULL AND s.revision = u.revision JOIN edition d ON d.id = r.edition JOIN entry e ON e.id = d.entry AND e.limited = '' "
    "WHERE u.sha256 = ?2 AND (?3 = '' OR u.focus = ?3) LIMIT 1"
)
"""An entry (UUID) that stands at a stage, is for everybody, and holds a file, with a focus where one is given."""


def shown_by(conn: sqlite3.Connection, sha256: str, stage: int, focus: str = "") -> str:
    """The same, once; empty for none."""
    row = conn.execute(SHOWN_BY, (stage, sha256, focus)).fetchone()
    return row[0] if row is not None else ""


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
        "SELECT DISTINCT e.* FROM file_use u CROSS JOIN revision r ON r.id = u.revision CROSS JOIN strand x ON x.edition = r.edition "
        "AND x.name = 'draft' AND x.closed_at IS NULL AND x.head = u.revision JOIN edition d ON d.id = x.edition JOIN entry e ON e.id = d.entry "
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
