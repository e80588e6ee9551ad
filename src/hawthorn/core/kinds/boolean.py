"""True or false."""

from __future__ import annotations

from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong, name_of


class Boolean(Kind):
    """True or false."""

    name = "boolean"
    schema = {"type": "boolean"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, bool):
            raise Wrong("kinds.wants_yes_or_no", value=name_of(value))
        return value

    def text(self, value: Any) -> str:
        return {True: "yes", False: "no"}.get(value, "")


KIND = Boolean()
