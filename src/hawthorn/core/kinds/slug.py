"""The last part of a web address in one locale."""

from __future__ import annotations

import re
import unicodedata
from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong, name_of


class Slug(Kind):
    """The last part of a web address in one locale."""

    name = "slug"
    label = "Web address"
    schema = {"type": "string", "pattern": r"^[^\s/?#%]+$"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, str):
            raise Wrong(f"takes text, not {name_of(value)}")
        value = unicodedata.normalize("NFC", value.strip()).casefold()
        if not value:
            return None
        if len(value) > (spec.limit or 120):
            raise Wrong(f"has {len(value)} characters and may have at most {spec.limit or 120}")
        if re.search(r"[\s/?#%\\<>\"']", value) or value in (".", ".."):
            raise Wrong("is part of a web address: letters, digits and hyphens, no spaces or slashes")
        return value

    def words(self, value: Any) -> str:
        return str(value).replace("-", " ")


KIND = Slug()
