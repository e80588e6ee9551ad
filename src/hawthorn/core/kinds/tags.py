"""A set of words, typed freely."""

from __future__ import annotations

import re
import unicodedata
from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong


class Tags(Kind):
    """A set of words, typed freely."""

    name = "tags"
    label = "Tags"
    listed = True
    merges_as = "set"
    schema = {"type": "string"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, str) or not value.strip():
            raise Wrong("takes a list of words")
        value = unicodedata.normalize("NFC", re.sub(r"\s+", " ", value.strip()))
        if len(value) > 80:
            raise Wrong("has a word of more than 80 characters")
        return value

    def words(self, value: Any) -> str:
        return str(value)


KIND = Tags()
