"""Taking out of pictures what tells where, when and by whom they were made, without touching the picture itself.

Only parts that are known to be needed are kept, so nothing is encoded again and nothing unknown comes along. What is kept
beside the picture: how it is turned, and its colour profile. Sound and film: `recordings`.
"""

from __future__ import annotations

import re
import struct
import zlib
from collections.abc import Callable, Iterator

from PIL import Image

ORIENTATION = 0x0112
"""The EXIF tag that says how a picture is turned (Exif 2.32, section 4.6.4)."""
BROKEN = (OSError, SyntaxError, ValueError, EOFError, struct.error, IndexError, TypeError, KeyError)
"""What may be raised when a picture is taken apart that is none."""


def without(kind: str, data: bytes, turned: int = 1) -> bytes:
    """A PNG, JPEG, WebP or GIF picture without its metadata, turned as before."""
    return CLEANERS[kind](data, _exif(turned) if turned not in (0, 1) else b"")


def _exif(turned: int) -> bytes:
    made = Image.Exif()
    made[ORIENTATION] = turned
    return made.tobytes()


_JPEG_KEPT = frozenset([*range(0xC0, 0xD0), 0xDA, 0xDB, 0xDC, 0xDD, 0xDE, 0xDF]) - {0xC8}
"""Frames, tables, restarts and scans (ISO/IEC 10918-1, table B.1)."""
_JPEG_MARK = re.compile(rb"\xff[\x01-\xcf\xd8-\xfe]")
"""What ends the coded data of a scan: a marker that is neither a stuffed byte nor a restart."""


def _jpeg(data: bytes, exif: bytes) -> bytes:
    """ISO/IEC 10918-1, Annex B: segments and scans up to the first end. Of the application's own, JFIF, ICC and Adobe's stay."""
    out = bytearray(b"\xff\xd8")
    at = 2
    put = not exif
    while found := _JPEG_MARK.search(data, at):
        at, mark = found.start(), data[found.start() + 1]
        if mark == 0xD9:
            break
        if mark in (0x01, 0xD8):
            at += 2
            continue
        length = struct.unpack(">H", data[at + 2 : at + 4])[0] + 2
        segment = _jpeg_segment(mark, data[at + 4 : at + length])
        if mark != 0xE0 and not put:
            out += b"\xff\xe1" + struct.pack(">H", len(exif) + 2) + exif
            put = True
        if segment is not None:
            out += data[at : at + 2] + struct.pack(">H", len(segment) + 2) + segment
        at += length
        if mark == 0xDA:
            end = _JPEG_MARK.search(data, at)
            out += data[at : end.start() if end else len(data)]
            at = end.start() if end else len(data)
    return bytes(out) + b"\xff\xd9"


def _jpeg_segment(mark: int, body: bytes) -> bytes | None:
    """What is kept of a segment."""
    if mark in _JPEG_KEPT:
        return body
    if mark == 0xE0 and body.startswith(b"JFIF\x00"):
        # A small picture may follow, which shows what the large one showed before it was cut.
        return body[:12] + b"\x00\x00"
    if (mark == 0xE2 and body.startswith(b"ICC_PROFILE\x00")) or (mark == 0xEE and body.startswith(b"Adobe")):
        return body
    return None


_PNG_KEPT = frozenset(
    b"IHDR PLTE IDAT IEND tRNS gAMA cHRM sRGB iCCP cICP mDCV cLLI sBIT bKGD pHYs acTL fcTL fdAT".split()
)


def _png(data: bytes, exif: bytes) -> bytes:
    """PNG (third edition), section 11: chunks. Those stay that say how the picture looks."""
    out = bytearray(data[:8])
    at = 8
    while at + 12 <= len(data):
        length, name = struct.unpack(">I4s", data[at : at + 8])
        if name in _PNG_KEPT:
            out += data[at : at + 12 + length]
        if name == b"IHDR" and exif:
            body = exif.removeprefix(b"Exif\x00\x00")
            out += (
                struct.pack(">I4s", len(body), b"eXIf") + body + struct.pack(">I", zlib.crc32(b"eXIf" + body))
            )
        at += 12 + length
        if name == b"IEND":
            break
    return bytes(out)


_WEBP_FRAME = frozenset([b"VP8 ", b"VP8L", b"ALPH"])
_WEBP_KEPT = _WEBP_FRAME | {b"VP8X", b"ANIM", b"ANMF", b"ICCP"}


def _webp(data: bytes, exif: bytes) -> bytes:
    """RFC 9649, section 2.7: chunks of a RIFF file. Those stay that hold the picture, its frames and its colours."""
    kept = [(name, body) for name, body in _chunks(data[12:]) if name in _WEBP_KEPT]
    if exif and any(name == b"VP8X" for name, _ in kept):
        kept.append((b"EXIF", exif.removeprefix(b"Exif\x00\x00")))
    out = bytearray()
    for name, body in kept:
        if name == b"VP8X":
            flags = body[0] & ~0x0C | (0x08 if kept[-1][0] == b"EXIF" else 0)
            body = bytes([flags]) + body[1:]
        elif name == b"ANMF":
            body = body[:16] + b"".join(_chunk(n, b) for n, b in _chunks(body[16:]) if n in _WEBP_FRAME)
        out += _chunk(name, body)
    return b"RIFF" + struct.pack("<I", len(out) + 4) + b"WEBP" + bytes(out)


def _chunks(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    at = 0
    while at + 8 <= len(data):
        name, length = struct.unpack("<4sI", data[at : at + 8])
        yield name, data[at + 8 : at + 8 + length]
        at += 8 + length + (length & 1)


def _chunk(name: bytes, body: bytes) -> bytes:
    return struct.pack("<4sI", name, len(body)) + body + (b"\x00" if len(body) & 1 else b"")


def _gif(data: bytes, exif: bytes) -> bytes:
    """GIF89a, sections 24 and 26: comments go, and what programs added, but for how often it repeats."""
    at = 13 + (3 << ((data[10] & 7) + 1) if data[10] & 0x80 else 0)
    out = bytearray(data[:at])
    while at < len(data):
        start = at
        if data[at] == 0x3B:
            out += b";"
            break
        if data[at] == 0x21:
            label, at = data[at + 1], at + 2
            named = data[at + 1 : at + 12] if label == 0xFF else b""
            at = _past_blocks(data, at)
            if label == 0xF9 or named in (b"NETSCAPE2.0", b"ANIMEXTS1.0"):
                out += data[start:at]
        elif data[at] == 0x2C:
            flags = data[at + 9]
            at += 10 + (3 << ((flags & 7) + 1) if flags & 0x80 else 0) + 1
            at = _past_blocks(data, at)
            out += data[start:at]
        else:
            break
    return bytes(out)


def _past_blocks(data: bytes, at: int) -> int:
    while at < len(data) and data[at]:
        at += data[at] + 1
    return at + 1


CLEANERS: dict[str, Callable[[bytes, bytes], bytes]] = {
    "JPEG": _jpeg,
    "PNG": _png,
    "WEBP": _webp,
    "GIF": _gif,
}
"""By the format of a picture, what makes it anew without its metadata."""
