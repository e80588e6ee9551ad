"""A set of words, typed freely."""

from __future__ import annotations

import re
import unicodedata
from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong


def one_form(tag: str) -> str:
    """A tag as it is kept and looked for: composed (UAX 15, form C), without white space around and doubled inside."""
    return unicodedata.normalize("NFC", re.sub(r"\s+", " ", tag.strip()))


class Tags(Kind):
    """A set of words, typed freely."""

    name = "tags"
    filters = ("is",)
    listed = True
    merges_as = "set"
    schema = {"type": "string"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, str) or not value.strip():
            raise Wrong("kinds.wants_words")
        value = one_form(value)
        if len(value) > 80:
            raise Wrong("kinds.word_too_long")
        return value

    def words(self, value: Any) -> str:
        return str(value)


KIND = Tags()
