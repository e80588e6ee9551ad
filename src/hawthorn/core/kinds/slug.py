"""The last part of a web address in one locale."""

from __future__ import annotations

import re
import unicodedata
from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong, name_of


class Slug(Kind):
    """The last part of a web address in one locale."""

    name = "slug"
    described = False
    filters = ("is",)
    schema = {"type": "string", "pattern": r"^[^\s/?#%]+$"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, str):
            raise Wrong("kinds.wants_text", value=name_of(value))
        value = unicodedata.normalize("NFC", value.strip()).casefold()
        if not value:
            return None
        if len(value) > (spec.limit or 120):
            raise Wrong("kinds.too_long", count=len(value), most=spec.limit or 120)
        if re.search(r"[\s/?#%\\<>\"']", value) or value in (".", ".."):
            raise Wrong("kinds.wants_slug")
        return value

    def words(self, value: Any) -> str:
        return str(value).replace("-", " ")


KIND = Slug()
