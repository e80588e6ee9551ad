"""A date of the Gregorian calendar."""

from __future__ import annotations

import re
from datetime import date
from typing import Any

from hawthorn.core import timeline
from hawthorn.core.kinds.base import Field, Filtered, Kind, Wrong
from hawthorn.core.messages import Message, said


class Day(Kind):
    """A date of the Gregorian calendar as ISO 8601 writes it."""

    name = "date"
    filters = ("is", "before", "after", "from", "last")
    schema = {"type": "string", "format": "date"}

    def canonical(self, value: Any, spec: Field) -> Any:
        if value == "":
            return None
        try:
            return date.fromisoformat(value).isoformat()
        except (TypeError, ValueError):
            raise Wrong("kinds.wants_date") from None

    def from_cell(self, text: str, spec: Field) -> Any:
        """A day, of an instant too."""
        return text[:10] if re.match(r"\d{4}-\d\d-\d\d[T ]\d\d:", text) else text

    def text(self, value: Any) -> str | Message:
        return said("reads.day", day=value) if value else ""

    def filtered(self, value: Any) -> Filtered:
        return Filtered(str(value), timeline.day_or_instant(str(value)))


KIND = Day()
