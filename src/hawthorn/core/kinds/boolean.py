"""True or false."""

from __future__ import annotations

from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong, name_of


class Boolean(Kind):
    """True or false."""

    name = "boolean"
    label = "Yes or no"
    schema = {"type": "boolean"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, bool):
            raise Wrong(f"takes yes or no (true or false), not {name_of(value)}")
        return value

    def text(self, value: Any) -> str:
        return {True: "yes", False: "no"}.get(value, "")


KIND = Boolean()
