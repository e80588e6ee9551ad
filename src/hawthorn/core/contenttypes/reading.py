"""What those who read get of a type, as JSON Schema (draft 2020-12): its fields as they are answered, which may be missing where nothing is in them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from hawthorn.core import fields
from hawthorn.core.contenttypes.definition import ContentType
from hawthorn.core.fields import Field


def read_schema(kind: ContentType, *, whole: bool = False) -> dict[str, Any]:
    """The fields that readers get of a type; the `whole` of them is for those who may read drafts."""
    return _members(f for f in kind.fields if whole or (f.public and f.name != kind.internal))


def _members(specs: Iterable[Field]) -> dict[str, Any]:
    return {
        "type": "object",
        "properties": {f.name: {**_field(f), "description": f.label or f.name} for f in specs},
        "additionalProperties": False,
    }


def _field(spec: Field) -> dict[str, Any]:
    one = _one(spec)
    return {"type": "array", "items": one} if fields.is_many(spec) else one


def _one(spec: Field) -> dict[str, Any]:
    match spec.kind:
        case "group":
            inner = _members(spec.fields)
            return _item(inner) if spec.many else inner
        case "blocks":
            forms = [_item(_members(form.fields), form.name) for form in spec.blocks]
            return {"anyOf": forms} if forms else _item({"type": "object"})
        case _:
            kind = fields.kind_of(spec)
            return dict(kind.read_schema) or _loose(kind.schema_of(spec))


def _item(inner: dict[str, Any], kind: str = "") -> dict[str, Any]:
    """A block, or one of several groups."""
    named = {"kind": {"const": kind}} if kind else {}
    return {
        "type": "object",
        "properties": {"id": {"type": "string"}, **named, "fields": inner},
        "required": ["id", *named, "fields"],
    }


_BOUNDS = {
    "maxLength",
    "minLength",
    "pattern",
    "minItems",
    "maxItems",
    "minimum",
    "maximum",
    "additionalProperties",
}


def _loose(schema: Any) -> Any:
    """Without bounds: what was written before they were drawn is answered all the same."""
    if isinstance(schema, dict):
        return {name: _loose(one) for name, one in schema.items() if name not in _BOUNDS}
    return [_loose(one) for one in schema] if isinstance(schema, list) else schema
