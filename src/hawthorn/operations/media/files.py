"""Taking in files: known for what they are by their content, bounded, and freed of what tells where they were made."""

from __future__ import annotations

import hashlib
import io
import warnings
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import filetype
import webvtt
from PIL import Image, UnidentifiedImageError

from hawthorn.core import access, naming
from hawthorn.core.access import Identity
from hawthorn.core.errors import BadFile, FileStoreFails, NotFound
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.media import metadata, recordings, svg
from hawthorn.operations.runtime.act import Act, Desk, View
from hawthorn.store import file_store
from hawthorn.store import files as store
from hawthorn.store.file_store import FileStore
from hawthorn.store.files import File, FileValue, New

LARGEST = 20_000_000
"""Bytes that a picture may have."""
SIDE = 30_000
"""Pixels that a side of a picture may have: what is one pixel wide and millions high is no picture to show."""
PIXELS = 60_000_000
"""Pixels that a picture may have when it is decoded."""
SVG_LARGEST = 2_000_000
"""Bytes that a drawing (SVG) may have."""
TEXT_LARGEST = 2_000_000
"""Bytes that captions (WebVTT) may have."""
_TYPES = {
    "PNG": "image/png",
    "JPEG": "image/jpeg",
    "MPO": "image/jpeg",
    "WEBP": "image/webp",
    "GIF": "image/gif",
}
"""MPO is what a JPEG with a second picture after its end is called (CIPA DC-007); the second goes."""
_START = 8192
"""So many bytes show what a file is."""
_MEDIA = {
    "application/pdf": "application/pdf",
    "audio/mpeg": "audio/mpeg",
    "audio/ogg": "audio/ogg",
    "audio/x-wav": "audio/wav",
    "audio/wav": "audio/wav",
    "audio/x-flac": "audio/flac",
    "audio/flac": "audio/flac",
    "audio/mp4": "audio/mp4",
    "audio/m4a": "audio/mp4",
    "audio/aac": "audio/aac",
    "video/mp4": "video/mp4",
    "video/x-m4v": "video/mp4",
    "video/webm": "video/webm",
    "video/ogg": "video/ogg",
}
"""Documents, sound and film that are taken, by what their content shows, and the type under which they are kept."""
_CALLED = {
    "png": {"image/png"},
    "jpg": {"image/jpeg"},
    "jpeg": {"image/jpeg"},
    "webp": {"image/webp"},
    "gif": {"image/gif"},
    "svg": {"image/svg+xml"},
    "pdf": {"application/pdf"},
    "mp3": {"audio/mpeg"},
    "ogg": {"audio/ogg", "video/ogg"},
    "oga": {"audio/ogg"},
    "ogv": {"video/ogg", "audio/ogg"},
    "wav": {"audio/wav"},
    "flac": {"audio/flac"},
    "m4a": {"audio/mp4", "video/mp4"},
    "aac": {"audio/aac"},
    "mp4": {"video/mp4", "audio/mp4"},
    "m4v": {"video/mp4"},
    "webm": {"video/webm"},
    "vtt": {"text/vtt"},
}
"""What the ending of a name promises."""


@dataclass(frozen=True, slots=True)
class Stored:
    """A file that was looked through: its bytes, or where they lie."""

    sha256: str
    media_type: str
    name: str
    width: int | None
    height: int | None
    data: bytes | Path
    bytes: int
    laid: bool = False
    """Whether its bytes lie in the file store already."""


def inspect(name: str, data: bytes) -> Stored:
    """Look through a file to see what it is; raises `BadFile` with the reason when it cannot be taken."""
    safe = _safe(name)
    played = _played(data[:_START])
    if played is not None:
        _called(safe, played)
        whole = io.BytesIO(data)
        recordings.clean(safe, played, whole)
        clean, media_type = whole.getvalue(), played
        width: int | None = None
        height: int | None = None
    else:
        if not data:
            raise BadFile("files.empty", name=safe)
        media_type, look = _known_by(safe, data)
        _called(safe, media_type)
        clean, width, height = look(safe, data)
    return Stored(hashlib.sha256(clean).hexdigest(), media_type, safe, width, height, clean, len(clean))


def looked_through(desk: Desk, giver: Identity, name: str, what: Path | bytes) -> Stored:
    """Look through a file that somebody gives, by the scanner for malware, too, where there is one; what that finds is in the log.

    Raises `BadFile` for what cannot be taken, and `ScannerFails` where the scanner cannot tell.
    """
    if desk.scanner is not None and (found := desk.scanner.look(what)):
        told = {"name": _safe(name), "sha256": _digest(what), "found": found}
        desk.write(giver, lambda act: act.event("file.refused", [], told))
        raise BadFile("files.malware", name=_safe(name), found=found)
    return inspect(name, what) if isinstance(what, bytes) else inspect_path(name, what)


def _digest(what: Path | bytes) -> str:
    with io.BytesIO(what) if isinstance(what, bytes) else what.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def inspect_path(name: str, path: Path) -> Stored:
    """Look through a file that lies on disk, where it is cleaned; what may be long is not read into memory whole."""
    safe = _safe(name)
    with path.open("r+b") as file:
        played = _played(file.read(_START))
        if played is not None:
            _called(safe, played)
            recordings.clean(safe, played, file)
            file.seek(0)
            digest = hashlib.file_digest(file, "sha256").hexdigest()
            return Stored(digest, played, safe, None, None, path, path.stat().st_size)
    size = path.stat().st_size
    if size > LARGEST:
        raise _too_long("file", safe, size, LARGEST)
    return inspect(name, path.read_bytes())


def _safe(name: str) -> str:
    """A name without folders and signs that cannot be seen, as long as it needs to be."""
    return naming.visible(name.replace("\\", "/").rsplit("/", 1)[-1])[:120].strip() or "file"


def _called(name: str, media_type: str) -> None:
    promised = _CALLED.get(name.rsplit(".", 1)[-1].lower()) if "." in name else None
    if promised and media_type not in promised:
        raise BadFile(
            "files.called_otherwise", name=name, called=name.rsplit(".", 1)[-1].upper(), media_type=media_type
        )


def _played(start: bytes) -> str | None:
    """The media type of a document, a sound or a film, by how it starts."""
    kind = filetype.guess(start)
    return _MEDIA.get(kind.mime) if kind is not None else None


def _too_long(what: str, name: str, size: int, most: int) -> BadFile:
    return BadFile("files.too_long", remedy=said(f"files.shorten.{what}"), name=name, size=size, most=most)


_Look = Callable[[str, bytes], tuple[bytes, int | None, int | None]]


def _known_by(name: str, data: bytes) -> tuple[str, _Look]:
    """The media type that the content shows, and what looks through such content."""
    start = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if start.startswith(b"WEBVTT"):
        return "text/vtt", _captions
    if start.startswith(b"<") and b"<svg" in data[:65536]:
        return svg.MEDIA_TYPE, _drawing
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(io.BytesIO(data), formats=list(metadata.CLEANERS)) as picture:
                return _TYPES[picture.format or ""], _picture
    except Image.DecompressionBombError:
        raise _bomb(name) from None
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, KeyError):
        kind = filetype.guess(data[:_START])
        if kind is not None:
            raise BadFile("files.of_no_use", name=name, media_type=kind.mime) from None
        raise BadFile("files.unknown", name=name) from None


def _bomb(name: str) -> BadFile:
    return BadFile("files.unpacks_too_large", name=name)


def _picture(name: str, data: bytes) -> tuple[bytes, int, int]:
    if len(data) > LARGEST:
        raise _too_long("picture", name, len(data), LARGEST)
    try:
        with warnings.catch_warnings():
            # What is wrong with metadata does not matter: it goes.
            warnings.simplefilter("ignore", UserWarning)
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=list(metadata.CLEANERS)) as picture:
                width, height, kind = picture.width, picture.height, picture.format or ""
                kind = "JPEG" if kind == "MPO" else kind
                frames = getattr(picture, "n_frames", 1)
                if max(width, height) > SIDE:
                    raise BadFile("files.side_too_long", name=name, width=width, height=height, most=SIDE)
                if width * height * min(frames, 1000) > PIXELS * (1 if frames == 1 else 4):
                    code = "files.too_many_pixels_in_frames" if frames > 1 else "files.too_many_pixels"
                    raise BadFile(code, name=name, width=width, height=height, frames=frames, most=PIXELS)
                picture.load()
                turned = picture.getexif().get(metadata.ORIENTATION, 1)
            clean = metadata.without(kind, data, turned)
            if clean != data:
                # What cannot be taken apart and read again was no sound picture to begin with.
                with Image.open(io.BytesIO(clean), formats=[kind]) as again:
                    again.load()
                    if again.size != (width, height):
                        raise ValueError("its parts do not fit together")
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise _bomb(name) from None
    except metadata.BROKEN as error:
        raise BadFile("files.damaged", name=name, error=error) from None
    return (clean, height, width) if turned in (5, 6, 7, 8) else (clean, width, height)


def _drawing(name: str, data: bytes) -> tuple[bytes, int | None, int | None]:
    if len(data) > SVG_LARGEST:
        raise _too_long("drawing", name, len(data), SVG_LARGEST)
    return svg.clean(name, data)


def _captions(name: str, data: bytes) -> tuple[bytes, None, None]:
    if len(data) > TEXT_LARGEST:
        raise _too_long("captions", name, len(data), TEXT_LARGEST)
    try:
        cues = webvtt.from_string(data.decode("utf-8-sig"))
    except UnicodeDecodeError:
        raise BadFile("files.not_utf_8", name=name) from None
    except webvtt.errors.MalformedFileError as error:
        raise BadFile("files.no_webvtt", name=name, error=error) from None
    if not len(cues):
        raise BadFile("files.no_captions", name=name)
    return data, None, None


def keep(act: Act, file: Stored) -> FileValue:
    """Keep a file, for whoever may give one; returns the value for a file field."""
    require_giver(act)
    return put(act, file)


def put(act: Act, file: Stored) -> FileValue:
    """Keep a file that somebody may give; returns the value for a file field."""
    if not store.known(act.conn, file.sha256):
        outside = file.laid or _lay(act.file_store, file)
        new = New(file.sha256, file.media_type, file.name, file.width, file.height, file.bytes)
        store.add(act.conn, new, act.now, act.identity.id, None if outside else file.data)
        act.event("file.added", [], {"sha256": file.sha256, "name": file.name, "bytes": file.bytes})
    return store.value(file.sha256, file.name, file.media_type, file.width, file.height, file.bytes)


def laid(desk: Desk, file: Stored) -> Stored:
    """A file whose bytes lie in the file store, where there is one: put there before anything waits for what is written of it."""
    with desk.db.read() as conn:
        known = store.known(conn, file.sha256)
    return replace(file, laid=not known and _lay(desk.file_store, file))


def _lay(at: FileStore | None, file: Stored) -> bool:
    if at is None:
        return False
    at.put(file_store.named(file.sha256), file.data)
    return True


def part(desk: Desk, file: File, start: int, length: int) -> bytes:
    """Some of the bytes of a file, from where it lies."""
    if not file.outside:
        # In a read of its own, so that a slow reader holds no transaction.
        with desk.db.read() as conn:
            found = store.part(conn, file.sha256, start, length)
        if found or not length:
            return found
        # It was moved out while it was being read.
    return outside(desk.file_store).part(file_store.named(file.sha256), start, length)


def whole(desk: Desk, file: File) -> bytes:
    """All bytes of a file, from where it lies."""
    return part(desk, file, 0, file.bytes)


def outside(at: FileStore | None) -> FileStore:
    """The file store, where files lie in one; raises `FileStoreFails` where the service was not told which."""
    if at is None:
        raise FileStoreFails("file_store.not_named")
    return at


def require_giver(view: View) -> None:
    """Refuse whoever may not keep a file at all: those may who write somewhere, and those who take in what is translated."""
    if not any(permission.may_somewhere(view, verb) for verb in ("accept", "commission")):
        permission.require_somewhere(view, "write")


def fetch(view: View, sha256: str) -> File:
    """What is known of a stored file, for those who work here."""
    row = store.find(view.conn, sha256)
    seen = access.reads_all(view.identity) or (
        row is not None
        and (
            row.actor == view.identity.id
            or any(permission.readable(view, holder) for holder in store.holders(view.conn, sha256))
        )
    )
    if row is None or not seen:
        raise NotFound("files.not_there")
    return row
