"""Taking in pictures: decoded, bounded and named for what they are before anything is kept."""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass
from typing import Any

from PIL import Image, UnidentifiedImageError

from hawthorn.core.access import Subject
from hawthorn.core.errors import BadFile, NotFound
from hawthorn.operations import permission
from hawthorn.operations.act import Act, View
from hawthorn.store import files as store

LARGEST = 20_000_000
"""Bytes that a picture may have."""
PIXELS = 60_000_000
"""Pixels that a picture may have when it is decoded."""
_TYPES = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp", "GIF": "image/gif"}


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture that was decoded whole."""

    sha256: str
    media_type: str
    name: str
    width: int
    height: int
    data: bytes


def inspect(name: str, data: bytes) -> Picture:
    """Decode a picture to see that it is one; raises `BadFile` with the reason."""
    if not data:
        raise BadFile(f"“{name}” is empty.", remedy="Choose another file.")
    if len(data) > LARGEST:
        raise BadFile(
            f"“{name}” has {len(data):,} bytes; at most {LARGEST:,} are taken.",
            remedy="Make the picture smaller.",
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=list(_TYPES)) as picture:
                width, height, kind = picture.width, picture.height, picture.format or ""
                if width * height > PIXELS:
                    raise BadFile(
                        f"“{name}” has {width:,} × {height:,} pixels; at most {PIXELS:,} in all are taken.",
                        remedy="Make the picture smaller.",
                    )
                picture.load()
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise BadFile(f"“{name}” unpacks to far too many pixels.", remedy="Choose another file.") from None
    except UnidentifiedImageError:
        raise BadFile(
            f"“{name}” is not a picture that can be used.", remedy="Upload a PNG, JPEG, WebP or GIF file."
        ) from None
    except (OSError, SyntaxError, ValueError) as error:
        raise BadFile(
            f"“{name}” is damaged ({error}).",
            remedy="Open it in a picture program, save it again and upload that.",
        ) from None
    safe = name.replace("\\", "/").rsplit("/", 1)[-1][:120] or "picture"
    return Picture(hashlib.sha256(data).hexdigest(), _TYPES[kind], safe, width, height, data)


def keep(act: Act, picture: Picture) -> dict[str, Any]:
    """Keep a picture; returns the value for a file field."""
    permission.require(act, "write", Subject())
    new = not store.known(act.conn, picture.sha256)
    store.add(
        act.conn,
        picture.sha256,
        picture.media_type,
        picture.name,
        picture.width,
        picture.height,
        picture.data,
        act.now,
        act.identity.id,
    )
    if new:
        act.event(
            "file.added", [], {"sha256": picture.sha256, "name": picture.name, "bytes": len(picture.data)}
        )
    return {
        "sha256": picture.sha256,
        "name": picture.name,
        "media_type": picture.media_type,
        "width": picture.width,
        "height": picture.height,
        "bytes": len(picture.data),
    }


def fetch(view: View, sha256: str) -> tuple[str, bytes]:
    """A stored file for those who work here: its media type and bytes."""
    permission.require(view, "read", Subject())
    row = store.find(view.conn, sha256)
    if row is None:
        raise NotFound("There is no such file.", remedy="Upload it again.")
    return row["media_type"], row["data"]
