"""A stored file, by the SHA-256 of its bytes, with the point of a picture that no crop may cut off."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong

SHA256 = re.compile(r"^[0-9a-f]{64}$")


class File(Kind):
    """A stored file, by the SHA-256 of its bytes, with its name, media type and size in pixels. `focus` is the point of a
    picture that every crop keeps, as [x, y] in hundredths of its width and height from its start (left, top)."""

    name = "file"
    structured = True
    described = False
    schema = {
        "type": "object",
        "properties": {
            "sha256": {"type": "string", "pattern": SHA256.pattern},
            "focus": {
                "type": "array",
                "items": {"type": "integer", "minimum": 0, "maximum": 100},
                "minItems": 2,
                "maxItems": 2,
            },
        },
        "required": ["sha256"],
    }
    read_schema = {
        "type": "object",
        "properties": {
            "sha256": {"type": "string"},
            "name": {"type": "string"},
            "media_type": {"type": "string"},
            "width": {"type": "integer"},
            "height": {"type": "integer"},
            "bytes": {"type": "integer"},
            "focus": {"type": "array", "items": {"type": "integer"}},
        },
        "required": ["sha256"],
    }

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, Mapping) or not SHA256.match(str(value.get("sha256", ""))):
            raise Wrong("kinds.wants_upload")
        known = {"sha256": str, "name": str, "media_type": str, "width": int, "height": int, "bytes": int}
        out = {}
        for key, cast in known.items():
            if value.get(key) is not None:
                if not isinstance(value[key], cast):
                    raise Wrong("kinds.file_member", name=key, wanted=cast.__name__)
                out[key] = value[key]
        if value.get("focus") is not None:
            out["focus"] = _point(value["focus"])
        return out

    def text(self, value: Any) -> str:
        return str(value.get("name", "")) if isinstance(value, Mapping) else ""

    def words(self, value: Any) -> str:
        return self.text(value)


def _point(value: Any) -> list[int]:
    right = isinstance(value, list | tuple) and len(value) == 2
    if not right or not all(isinstance(n, int | float) and 0 <= n <= 100 for n in value):
        raise Wrong("kinds.wants_focus")
    return [round(n) for n in value]


def focus_of(value: Mapping[str, Any]) -> str:
    """The focus of a stored file as it stands in addresses: "x,y", the middle when nobody set one."""
    x, y = value.get("focus") or (50, 50)
    return f"{x},{y}"


KIND = File()
