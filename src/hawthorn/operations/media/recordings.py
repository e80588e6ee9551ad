"""Taking out of sound and film what tells where, when and by whom they were made, in the place where they lie.

Parts that are known to be needed stay; all others are overwritten with noughts and marked as free, so that nothing moves and
nothing is read into memory. What cannot be cleaned is said (`UNCLEANED`).
"""

from __future__ import annotations

import re
import struct
from collections.abc import Callable, Iterator
from typing import BinaryIO

from hawthorn.core.errors import BadFile
from hawthorn.core.messages import Message, said

UNCLEANED = {
    "application/pdf": "PDF",
    "audio/mpeg": "MP3",
    "audio/ogg": "Ogg",
    "video/ogg": "Ogg",
    "audio/aac": "AAC",
}
"""Kinds that are kept with what they say about themselves, and what they are called."""
_PLACE = re.compile(rb"[+-]\d{2}(?:\.\d{1,8})[+-]\d{3}(?:\.\d{1,8})(?:[+-]\d{1,6}(?:\.\d{1,6})?)?/")
"""A place on earth as sound and film carry it (ISO 6709, Annex H)."""
_STEP = 1 << 20
Part = tuple[bytes, int, int, int]
"""The name of a part of a file, where it starts, where its content starts, and where it ends."""


def note(media_type: str) -> Message | None:
    """What whoever uploads such a file should know; nothing when there is nothing."""
    kind = UNCLEANED.get(media_type)
    return said("recordings.kept_as_they_are", kind=kind) if kind else None


def clean(name: str, media_type: str, file: BinaryIO) -> None:
    """Clean a file that is open for reading and writing. Raises `BadFile` for what cannot be told apart from its content."""
    cleaner = _CLEANERS.get(media_type)
    if cleaner is not None:
        cleaner(name, file, _length(file))
    if media_type != "application/pdf":
        _blank_places(file)


def _length(file: BinaryIO) -> int:
    return file.seek(0, 2)


def _read(file: BinaryIO, at: int, size: int) -> bytes:
    file.seek(at)
    return file.read(size)


def _write(file: BinaryIO, at: int, data: bytes) -> None:
    file.seek(at)
    file.write(data)


def _wipe(file: BinaryIO, start: int, end: int) -> None:
    file.seek(start)
    while start < end:
        size = min(_STEP, end - start)
        file.write(bytes(size))
        start += size


def _blank_places(file: BinaryIO) -> None:
    """Places anywhere else are overwritten by as many noughts."""
    overlap, at = 64, 0
    while data := _read(file, at, _STEP + overlap):
        clean = _PLACE.sub(lambda found: re.sub(rb"\d", b"0", found[0]), data)
        if clean != data:
            _write(file, at, clean)
        at += _STEP


# -- MP4 (ISO/IEC 14496-12) ----------------------------------------------------------------------------------

_MP4_KEPT: dict[bytes, frozenset[bytes]] = {
    b"": frozenset(b"ftyp styp moov moof mdat mfra sidx ssix pdin".split()),
    b"moov": frozenset(b"mvhd trak mvex iods".split()),
    b"trak": frozenset(b"tkhd edts tref mdia".split()),
    b"mdia": frozenset(b"mdhd hdlr minf elng".split()),
    b"minf": frozenset(b"vmhd smhd hmhd sthd nmhd dinf stbl".split()),
    b"moof": frozenset(b"mfhd traf".split()),
    b"traf": frozenset(b"tfhd tfdt trun sbgp sgpd subs saiz saio senc".split()),
}
"""By what holds them (section 6.2.3), the boxes that are needed to play; what they hold is looked at where it stands here too."""
_PLAYS = frozenset(b"vide soun text sbtl subt clcp auxv pict".split())
"""The kinds of tracks that are seen, heard or read (section 8.4.3); others carry data such as where a camera was."""


def _mp4(name: str, file: BinaryIO, length: int) -> None:
    fragments = dropped = False

    def look(holder: bytes, start: int, end: int) -> None:
        nonlocal fragments, dropped
        for kind, at, content, stop in _boxes(file, start, end):
            fragments = fragments or kind == b"moof"
            data = kind == b"trak" and _handler(file, content, stop) not in _PLAYS
            if data:
                dropped = True
                for first, last in _samples(file, content, stop):
                    _wipe(file, max(first, 0), min(last, length))
            if data or kind not in _MP4_KEPT[holder]:
                _write(file, at + 4, b"free")
                _wipe(file, content, stop)
            elif kind in _MP4_KEPT:
                look(kind, content, stop)
            elif kind in (b"mvhd", b"tkhd", b"mdhd"):
                # When it was made and changed (section 8.2.2), in four or eight bytes each.
                _wipe(file, content + 4, content + (20 if _read(file, content, 1) == b"\x01" else 12))

    look(b"", 0, length)
    if fragments and dropped:
        raise BadFile("recordings.data_track", name=name)


def _boxes(file: BinaryIO, start: int, end: int) -> Iterator[Part]:
    """Section 4.2: boxes one after the other; stops at what is none."""
    while start + 8 <= end:
        head = _read(file, start, 16)
        size, kind = struct.unpack(">I4s", head[:8])
        content = start + 8
        if size == 1 and len(head) == 16:
            size, content = struct.unpack(">Q", head[8:])[0], start + 16
        stop = end if size == 0 else start + size
        if not content <= stop <= end:
            return
        yield kind, start, content, stop
        start = stop


def _inside(file: BinaryIO, start: int, end: int, *path: bytes) -> tuple[int, int] | None:
    """Where the content of a box lies, found by the names of those that hold it."""
    for wanted in path:
        found = next(((c, s) for k, _, c, s in _boxes(file, start, end) if k == wanted), None)
        if found is None:
            return None
        start, end = found
    return start, end


def _handler(file: BinaryIO, start: int, end: int) -> bytes:
    found = _inside(file, start, end, b"mdia", b"hdlr")
    return _read(file, found[0] + 8, 4) if found else b""


def _samples(file: BinaryIO, start: int, end: int) -> Iterator[tuple[int, int]]:
    """Where the samples of a track lie (sections 8.7.3 to 8.7.5): chunk by chunk, from its first byte to its last."""
    tables = {
        kind: _read(file, found[0] + 4, found[1] - found[0] - 4)
        for kind in (b"stsz", b"stsc", b"stco", b"co64")
        if (found := _inside(file, start, end, b"mdia", b"minf", b"stbl", kind))
    }
    if not {b"stsz", b"stsc"} <= set(tables):
        return
    wide = b"co64" in tables
    chunks = _numbers(tables.get(b"co64", tables.get(b"stco", b""))[4:], 8 if wide else 4)
    steps = _numbers(tables[b"stsc"][4:], 4)
    runs = list(zip(steps[0::3], steps[1::3], strict=False))
    alike = struct.unpack(">I", tables[b"stsz"][:4])[0]
    sizes = _numbers(tables[b"stsz"][8:], 4)
    run = done = 0
    for number, offset in enumerate(chunks, 1):
        while run + 1 < len(runs) and runs[run + 1][0] <= number:
            run += 1
        count = runs[run][1] if runs else 0
        yield offset, offset + (alike * count if alike else sum(sizes[done : done + count]))
        done += count


def _numbers(data: bytes, size: int) -> list[int]:
    return [int.from_bytes(data[at : at + size], "big") for at in range(0, len(data) - size + 1, size)]


# -- WebM (RFC 8794, RFC 9559) -------------------------------------------------------------------------------

_SEGMENT, _INFO, _CLUSTER = 0x18538067, 0x1549A966, 0x1F43B675
_IN_SEGMENT = {0x1A45DFA3, 0x114D9B74, 0x1654AE6B, 0x1C53BB6B, 0x1043A770, 0xEC}
"""The head, what helps to seek, tracks, cues, chapters, and what is void."""
_IN_CLUSTER = {0xE7, 0xA7, 0xAB, 0xA3, 0xA0}
"""Time, place, size and blocks."""
_IN_INFO = {0x2AD7B1, 0x4489, 0x4D80, 0x5741}
"""The unit of time, the length, and the programs that wrote it."""
_WEBM_KEPT = _IN_SEGMENT | _IN_CLUSTER | _IN_INFO


def _webm(name: str, file: BinaryIO, length: int) -> None:
    def look(start: int, end: int) -> None:
        while start + 2 <= end:
            found = _element(file, start)
            if found is None:
                return
            kind, content, size = found
            stop = end if size is None else content + size
            if stop > end:
                return
            if kind in (_SEGMENT, _INFO) or (kind == _CLUSTER and size is None):
                look(content, stop)
            elif kind != _CLUSTER and kind not in _WEBM_KEPT:
                whole = stop - start
                # As a void element (RFC 8794, section 11.3.2), its length in one byte or in eight.
                head = (
                    bytes([0xEC, 0x80 | whole - 2])
                    if whole < 129
                    else b"\xec\x01" + (whole - 9).to_bytes(7, "big")
                )
                _write(file, start, head)
                _wipe(file, start + len(head), stop)
            start = stop

    look(0, length)


def _element(file: BinaryIO, at: int) -> tuple[int, int, int | None] | None:
    """RFC 8794, sections 4 and 5: an element's ID, where its content starts, and its size unless it is unknown."""
    head = _read(file, at, 12)
    wide = 9 - head[0].bit_length() if head else 9
    if wide > 4 or len(head) <= wide:
        return None
    more = 9 - head[wide].bit_length()
    if more > 8 or len(head) < wide + more:
        return None
    size = int.from_bytes(head[wide : wide + more], "big") & ((1 << 7 * more) - 1)
    return int.from_bytes(head[:wide], "big"), at + wide + more, None if size == (1 << 7 * more) - 1 else size


# -- WAV and FLAC --------------------------------------------------------------------------------------------

_WAV_KEPT = frozenset([b"fmt ", b"fact", b"data", b"cue ", b"smpl"])


def _wav(name: str, file: BinaryIO, length: int) -> None:
    """Chunks of a RIFF file."""
    at = 12
    while at + 8 <= length:
        kind, size = struct.unpack("<4sI", _read(file, at, 8))
        if kind not in _WAV_KEPT:
            _write(file, at, b"JUNK")
            _wipe(file, at + 8, min(at + 8 + size, length))
        at += 8 + size + (size & 1)


def _flac(name: str, file: BinaryIO, length: int) -> None:
    """RFC 9639, section 8: the blocks before the first frame; what describes the stream, and where to seek, stays."""
    at, last = 4, False
    while not last and at + 4 <= length:
        head = _read(file, at, 4)
        last, kind, size = bool(head[0] & 0x80), head[0] & 0x7F, int.from_bytes(head[1:], "big")
        if kind not in (0, 3):
            _write(file, at, bytes([head[0] & 0x80 | 1]))
            _wipe(file, at + 4, min(at + 4 + size, length))
        at += 4 + size


_CLEANERS: dict[str, Callable[[str, BinaryIO, int], None]] = {
    "video/mp4": _mp4,
    "audio/mp4": _mp4,
    "video/webm": _webm,
    "audio/wav": _wav,
    "audio/flac": _flac,
}
