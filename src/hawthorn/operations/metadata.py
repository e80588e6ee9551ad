"""Taking out of files what tells where, when and by whom they were made, without touching the picture itself.

Only the segments that hold it are left out, so nothing is encoded again. What is kept: how a picture is turned, and its
colour profile.
"""

from __future__ import annotations

import re
import struct
import zlib
from pathlib import Path

from PIL import Image

ORIENTATION = 0x0112
"""The EXIF tag that says how a picture is turned (Exif 2.32, section 4.6.4)."""
_PLACE = re.compile(rb"[+-]\d{2}(?:\.\d{1,8})[+-]\d{3}(?:\.\d{1,8})(?:[+-]\d{1,6}(?:\.\d{1,6})?)?/")
"""A place on earth as sound and film carry it (ISO 6709, Annex H)."""


def without(kind: str, data: bytes, turned: int = 1) -> bytes:
    """A PNG, JPEG, WebP or GIF picture without its metadata, turned as before."""
    exif = _exif(turned) if turned not in (0, 1) else b""
    return {"JPEG": _jpeg, "PNG": _png, "WEBP": _webp, "GIF": _gif}[kind](data, exif)


def _exif(turned: int) -> bytes:
    made = Image.Exif()
    made[ORIENTATION] = turned
    return made.tobytes()


def _jpeg(data: bytes, exif: bytes) -> bytes:
    """ISO/IEC 10918-1, Annex B: segments until the first scan. Of the application's own, JFIF, ICC and Adobe's stay."""
    out = bytearray(data[:2])
    at = 2
    put = False
    while at + 4 <= len(data) and data[at] == 0xFF:
        mark = data[at + 1]
        if mark == 0xFF:
            at += 1
            continue
        if mark == 0xDA:
            break
        length = struct.unpack(">H", data[at + 2 : at + 4])[0] + 2
        body = data[at + 4 : at + length]
        keeps = not (0xE0 <= mark <= 0xEF or mark == 0xFE)
        keeps = keeps or mark in (0xE0, 0xEE) or (mark == 0xE2 and body.startswith(b"ICC_PROFILE"))
        if mark != 0xE0 and exif and not put:
            out += b"\xff\xe1" + struct.pack(">H", len(exif) + 2) + exif
            put = True
        if keeps:
            out += data[at : at + length]
        at += length
    return bytes(out) + _up_to_the_end(data[at:])


def _up_to_the_end(scans: bytes) -> bytes:
    """What follows the end of the picture may be anything; it goes."""
    end = scans.rfind(b"\xff\xd9")
    return scans[: end + 2] if end >= 0 else scans


def _png(data: bytes, exif: bytes) -> bytes:
    """PNG (third edition), section 11: chunks. Those with text, time or EXIF go."""
    out = bytearray(data[:8])
    at = 8
    while at + 12 <= len(data):
        length, name = struct.unpack(">I4s", data[at : at + 8])
        if name not in (b"tEXt", b"zTXt", b"iTXt", b"eXIf", b"tIME"):
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


def _webp(data: bytes, exif: bytes) -> bytes:
    """RFC 9649, section 2.7: chunks of a RIFF file. Those for EXIF and XMP go, with their flags."""
    chunks: list[tuple[bytes, bytes]] = []
    at = 12
    while at + 8 <= len(data):
        name, length = struct.unpack("<4sI", data[at : at + 8])
        chunks.append((name, data[at + 8 : at + 8 + length]))
        at += 8 + length + (length & 1)
    kept = [(n, b) for n, b in chunks if n not in (b"EXIF", b"XMP ")]
    if exif and any(n == b"VP8X" for n, _ in kept):
        kept.append((b"EXIF", exif.removeprefix(b"Exif\x00\x00")))
    out = bytearray()
    for name, body in kept:
        if name == b"VP8X":
            flags = body[0] & ~0x0C | (0x08 if kept[-1][0] == b"EXIF" else 0)
            body = bytes([flags]) + body[1:]
        out += struct.pack("<4sI", name, len(body)) + body + (b"\x00" if len(body) & 1 else b"")
    return b"RIFF" + struct.pack("<I", len(out) + 4) + b"WEBP" + bytes(out)


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
            if label == 0xF9 or named == b"NETSCAPE2.0" or label == 0x01:
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


def without_places(data: bytes) -> bytes:
    """Sound or film with the place where it was recorded overwritten by as many noughts."""
    return _PLACE.sub(_noughts, data)


def _noughts(found: re.Match[bytes]) -> bytes:
    return re.sub(rb"\d", b"0", found[0])


def blank_places(path: Path) -> None:
    """The same for a file on disk, in its place."""
    step, overlap = 1 << 22, 64
    with path.open("r+b") as file:
        at = 0
        while True:
            file.seek(at)
            data = file.read(step + overlap)
            if not data:
                return
            clean = without_places(data)
            if clean != data:
                file.seek(at)
                file.write(clean)
            at += step
