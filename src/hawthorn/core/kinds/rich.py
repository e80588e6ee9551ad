"""Rich text: canonical HTML, see `core.richtext`."""

from __future__ import annotations

import html
import re
import unicodedata
from collections.abc import Callable
from typing import Any

from hawthorn.core import richtext
from hawthorn.core.kinds.base import Field, Kind, Wrong, name_of

_BETWEEN_WORDS = re.compile(r"<(?!/?(?:strong|em|s|code|sub|sup|a|span)[ >])[^>]*>")
_INSIDE_WORDS = re.compile(r"<[^>]*>")
_TAG = re.compile(r"</?[a-zA-Z][^<>]*>")


class RichText(Kind):
    """Canonical HTML; see `core.richtext`."""

    name = "rich"
    translatable = True
    rich = True
    merges_as = "rich"
    schema = {"type": "string", "contentMediaType": "text/html"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, str):
            raise Wrong("kinds.wants_rich_text", value=name_of(value))
        limit = spec.limit or 500_000
        if len(value) > limit * 4:
            raise Wrong("kinds.markup_over", most=limit)
        value = richtext.canonical(unicodedata.normalize("NFC", value))
        if len(value) > limit:
            raise Wrong("kinds.markup_too_long", count=len(value), most=limit)
        return value or None

    def from_cell(self, text: str, spec: Field) -> Any:
        """Markup where there is any, else plain words: a paragraph after each empty line."""
        return text if _TAG.search(text) else richtext.from_plain(text)

    def linked(self, value: Any, spec: Field, entry: Callable[[str], Any]) -> Any:
        return richtext.text_of(value)

    def text(self, value: Any) -> str:
        return richtext.text_of(value) if value else ""

    def words(self, value: Any) -> str:
        # Quicker than `text`: how much white space stands between words says nothing to a search.
        apart = _BETWEEN_WORDS.sub(" ", value)
        together = _INSIDE_WORDS.sub("", apart) if "<" in apart else apart
        return html.unescape(together) if "&" in together else together

    def refers_to(self, value: Any) -> set[str]:
        return richtext.links_of(value) if value else set()

    def pictures(self, value: Any) -> set[str]:
        return richtext.pictures_of(value) if value else set()


KIND = RichText()
