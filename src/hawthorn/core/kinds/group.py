"""Fields that belong together; with `many`, repeated."""

from __future__ import annotations

from typing import Any

from hawthorn.core.kinds import blocks
from hawthorn.core.kinds.base import Field, Kind, canonical_members, members_schema


class Group(Kind):
    """Fields that belong together. With `many`, a list of objects with `id` and `fields`."""

    name = "group"
    structured = True
    described = False
    parts = True

    def canonical(self, value: Any, spec: Field) -> Any:
        if spec.many:
            return blocks.items(value, spec)
        return canonical_members(spec.fields, value, spec.label or spec.name) or None

    def schema_of(self, spec: Field) -> dict[str, Any]:
        inner = members_schema(spec.fields)
        if not spec.many:
            return inner
        return {"type": "object", "properties": {"id": {"type": "string"}, "fields": inner}}


KIND = Group()
