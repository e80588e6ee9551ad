"""One of the words that the field lists."""

from __future__ import annotations

from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong


class Choice(Kind):
    """One of the words that the field lists."""

    name = "choice"
    filters = ("is",)

    def canonical(self, value: Any, spec: Field) -> Any:
        if value == "":
            return None
        if value not in spec.choices:
            raise Wrong("kinds.wants_choice", choices=list(spec.choices))
        return value

    def schema_of(self, spec: Field) -> dict[str, Any]:
        return {"type": "string", "enum": list(spec.choices)}

    def from_cell(self, text: str, spec: Field) -> Any:
        same = [one for one in spec.choices if one.casefold() == text.casefold()]
        return same[0] if len(same) == 1 else text

    def words(self, value: Any) -> str:
        return str(value)


KIND = Choice()
