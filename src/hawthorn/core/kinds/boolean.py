"""True or false."""

from __future__ import annotations

from typing import Any

from hawthorn.core.kinds.base import Field, Filtered, Kind, Wrong, name_of

_SAID = {"true": True, "yes": True, "1": True, "false": False, "no": False, "0": False}


class Boolean(Kind):
    """True or false."""

    name = "boolean"
    filters = ("is",)
    schema = {"type": "boolean"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, bool):
            raise Wrong("kinds.wants_yes_or_no", value=name_of(value))
        return value

    def text(self, value: Any) -> str:
        return {True: "yes", False: "no"}.get(value, "")

    def from_cell(self, text: str, spec: Field) -> Any:
        found = _SAID.get(text.casefold())
        if found is None:
            raise Wrong("kinds.wants_true_or_false")
        return found

    def filtered(self, value: Any) -> Filtered:
        return Filtered("true" if value else "false")

    def asked(self, text: str, spec: Field) -> Filtered:
        if text not in ("true", "false"):
            raise Wrong("kinds.wants_true_or_false")
        return Filtered(text)


KIND = Boolean()
