"""A link: out, to mail, or to an entry, with the words to show."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any
from urllib.parse import urlsplit
from uuid import UUID

from hawthorn.core.kinds.base import Field, Kind, Wrong

SCHEMES = {"http", "https", "mailto", "tel"}


class Link(Kind):
    """An address with the words to show; `urn:uuid:…` leads to an entry wherever its page is."""

    name = "link"
    schema = {
        "type": "object",
        "properties": {"href": {"type": "string", "format": "uri"}, "text": {"type": "string"}},
        "required": ["href"],
    }
    read_schema = {
        "type": "object",
        "properties": {"href": {"type": ["string", "null"]}, "text": {"type": "string"}},
        "required": ["href"],
    }

    def canonical(self, value: Any, spec: Field) -> Any:
        if isinstance(value, str):
            value = {"href": value}
        if not isinstance(value, Mapping) or not isinstance(value.get("href", ""), str):
            raise Wrong("kinds.wants_link")
        href, text = value.get("href", "").strip(), str(value.get("text") or "").strip()
        if not href:
            return None
        if href.startswith("urn:uuid:"):
            try:
                href = f"urn:uuid:{UUID(href.removeprefix('urn:uuid:'))}"
            except ValueError:
                raise Wrong("kinds.link_without_uuid") from None
        else:
            _check(href)
        if len(href) > 2000 or len(text) > 500:
            raise Wrong("kinds.link_too_long")
        return {"href": href, **({"text": text} if text else {})}

    celled = True

    def cell(self, value: Any) -> str:
        return f"{value['text']} <{value['href']}>" if value.get("text") else str(value["href"])

    def from_cell(self, text: str, spec: Field) -> Any:
        words, mark, href = text.rpartition(" <")
        return {"href": href[:-1], "text": words} if mark and href.endswith(">") else text

    def linked(self, value: Any, spec: Field, entry: Callable[[str], Any]) -> Any:
        # What leads to a page of ours has its path alone, which the entry itself would have to say.
        return value["href"] if str(value["href"] or "").startswith(("http:", "https:")) else None

    def text(self, value: Any) -> str:
        if not isinstance(value, Mapping):
            return ""
        return f"{value['text']} ({value['href']})" if value.get("text") else str(value["href"])

    def words(self, value: Any) -> str:
        return str(value.get("text", ""))

    def refers_to(self, value: Any) -> set[str]:
        href = value["href"] if isinstance(value, Mapping) else ""
        return {href.removeprefix("urn:uuid:")} if href.startswith("urn:uuid:") else set()


def _check(href: str) -> None:
    try:
        parts = urlsplit(href)
    except ValueError:
        parts = urlsplit("")
    if parts.scheme.lower() not in SCHEMES or not (parts.netloc or parts.path) or " " in href:
        raise Wrong("kinds.wants_whole_address")


KIND = Link()
