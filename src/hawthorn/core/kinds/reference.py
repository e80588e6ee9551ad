"""Another entry, by its UUID; with `many`, several in order."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any
from uuid import UUID

from hawthorn.core.kinds.base import Field, Kind, Wrong


class Reference(Kind):
    """Another entry, by its UUID; with `many`, several in order."""

    name = "reference"
    filters = ("is",)
    schema = {"type": "string", "format": "uuid"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if value == "":
            return None
        try:
            return str(UUID(str(value).removeprefix("urn:uuid:")))
        except ValueError:
            raise Wrong("kinds.wants_entry") from None

    def linked(self, value: Any, spec: Field, entry: Callable[[str], Any]) -> Any:
        return entry(value)

    def refers_to(self, value: Any) -> set[str]:
        return {value} if isinstance(value, str) else set()


KIND = Reference()
