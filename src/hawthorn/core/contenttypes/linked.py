"""What programs that read a page are told of an entry: linked data (JSON-LD 1.1) in the words of schema.org."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from hawthorn.core import fields
from hawthorn.core.contenttypes.definition import ContentType

CONTEXT = "https://schema.org"
PAGE = "WebPage"
"""What an entry is taken for whose type says nothing else."""
_DATED = frozenset(
    {
        PAGE,
        "Article",
        "BlogPosting",
        "CreativeWork",
        "NewsArticle",
        "Report",
        "ScholarlyArticle",
        "TechArticle",
    }
)
"""Of what one says when it was published and changed: creative works."""


def linked_data(
    kind: ContentType,
    body: Mapping[str, Any],
    url: str,
    image: str,
    entry: Callable[[str], Any],
) -> dict[str, Any]:
    """An entry as it is read, whose page is at `url` and whose picture is at `image` (empty for none); `entry` says what it refers to, by id."""
    made = kind.schema_type or PAGE
    out: dict[str, Any] = {"@context": CONTEXT, "@type": made, "name": body["title"]}
    if url:
        out |= {"@id": url, "url": url}
    out["inLanguage"] = body["locale"]
    if words := body["search"]["description"]:
        out["description"] = words
    if image:
        out["image"] = image
    if made in _DATED:
        out |= {"datePublished": body["date"], "dateModified": body["since"]} if body["date"] else {}
    if body.get("locked"):
        return out | {"isAccessibleForFree": False}
    for spec in kind.fields:
        value = body["fields"].get(spec.name)
        if spec.schema_property and spec.public and value is not None:
            said = _said(spec, value, entry)
            if said not in (None, "", []):
                out[spec.schema_property] = said
    return out


def _said(spec: fields.Field, value: Any, entry: Callable[[str], Any]) -> Any:
    kind = fields.kind_of(spec)
    if not isinstance(value, list):
        return kind.linked(value, spec, entry)
    told = [kind.linked(one, spec, entry) for one in value]
    return [one for one in told if one not in (None, "")]
