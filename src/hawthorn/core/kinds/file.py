"""A stored file, by the SHA-256 of its bytes."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong

SHA256 = re.compile(r"^[0-9a-f]{64}$")


class File(Kind):
    """A stored file, by the SHA-256 of its bytes, with its name, media type and size in pixels."""

    name = "file"
    label = "File"
    schema = {
        "type": "object",
        "properties": {"sha256": {"type": "string", "pattern": SHA256.pattern}},
        "required": ["sha256"],
    }

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, Mapping) or not SHA256.match(str(value.get("sha256", ""))):
            raise Wrong("takes a file that was uploaded before, by its sha256")
        known = {"sha256": str, "name": str, "media_type": str, "width": int, "height": int, "bytes": int}
        out = {}
        for key, cast in known.items():
            if value.get(key) is not None:
                if not isinstance(value[key], cast):
                    raise Wrong(f"has a {key} that is not {cast.__name__}")
                out[key] = value[key]
        return out

    def text(self, value: Any) -> str:
        return str(value.get("name", "")) if isinstance(value, Mapping) else ""

    def words(self, value: Any) -> str:
        return self.text(value)


KIND = File()
