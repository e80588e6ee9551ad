"""Rich texts of what readers get in other forms than HTML: as Markdown, and as their paragraphs."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from hawthorn.core import markdown, richtext, slots
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.fields import Field

HTML = "html"


def _paragraphs(fragment: str) -> list[dict[str, Any]]:
    pictures = markdown.pictures_in(fragment)
    return [
        {
            "tag": part.tag,
            "within": list(part.path),
            "html": part.inner,
            "text": richtext.plain(part.inner),
            **({"picture": {"href": part.src, **pictures.get(part.src, {})}} if part.tag == "figure" else {}),
        }
        for part in richtext.paragraphs(fragment)
    ]


FORMS: dict[str, Callable[[str], Any]] = {"markdown": markdown.markdown, "paragraphs": _paragraphs}
"""What makes of a rich text, in HTML with its links resolved, what is sent in a form."""


def in_form(types: Mapping[str, ContentType], data: bytes, form: str) -> bytes:
    """A body with each of its rich texts in a form."""
    made = FORMS[form]
    body: dict[str, Any] = json.loads(data)
    body["fields"] = _fields(types[body["type"]].fields, body["fields"], made)
    body["openings"] = {path: made(one) for path, one in body["openings"].items()}
    for one in body["references"].values():
        if "fields" in one:
            one["fields"] = _fields(types[one["type"]].fields, one["fields"], made)
    return json.dumps(body, ensure_ascii=False, separators=(",", ":")).encode()


def _fields(specs: Sequence[Field], values: Mapping[str, Any], made: Callable[[str], Any]) -> dict[str, Any]:
    known = {spec.name: spec for spec in specs}
    return {
        name: _value(known[name], value, made) if name in known else value for name, value in values.items()
    }


def _value(spec: Field, value: Any, made: Callable[[str], Any]) -> Any:
    if value is None:
        return None
    if spec.kind == "blocks" or (spec.kind == "group" and spec.many):
        return [
            {**item, "fields": _fields(slots.form_of(spec, item), item["fields"], made)} for item in value
        ]
    if spec.kind == "group":
        return _fields(spec.fields, value, made)
    if spec.kind != "rich":
        return value
    return [made(one) for one in value] if isinstance(value, list) else made(value)
