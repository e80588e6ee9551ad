"""An instant, said as a wall time in a zone."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from hawthorn.core import timeline
from hawthorn.core.errors import BadTime
from hawthorn.core.kinds.base import Field, Filtered, Kind, Wrong
from hawthorn.core.messages import Message, said


class Instant(Kind):
    """An instant: a wall time, its IANA zone, at a clock change which of the two, and what it comes to in UTC."""

    name = "instant"
    filters = ("is", "before", "after", "from", "last")
    schema = {
        "type": "object",
        "properties": {
            "wall": {"type": "string"},
            "zone": {"type": "string"},
            "fold": {"enum": ["", "earlier", "later"]},
            "instant": {"type": "string", "format": "date-time"},
        },
        "required": ["wall", "zone"],
    }

    def canonical(self, value: Any, spec: Field) -> Any:
        if value == "":
            return None
        try:
            if isinstance(value, str):
                wall = timeline.to_datetime(timeline.parse_instant(value)).strftime("%Y-%m-%dT%H:%M:%S")
                value = {"wall": wall, "zone": "UTC"}
            if not isinstance(value, Mapping) or not value.get("wall"):
                raise Wrong("kinds.wants_wall_time")
            fold = str(value.get("fold") or "")
            planned = timeline.resolve_wall(str(value["wall"]), str(value.get("zone") or "UTC"), fold)
        except BadTime as bad:
            raise Wrong("kinds.no_time", why=bad.message) from None
        out = {"wall": planned.wall, "zone": planned.zone, "instant": timeline.iso(planned.instant)}
        return {**out, "fold": fold} if fold else out

    celled = True

    def cell(self, value: Any) -> str:
        return " ".join(filter(None, (value["wall"], value["zone"], value.get("fold"))))

    def from_cell(self, text: str, spec: Field) -> Any:
        parts = text.split()
        if len(parts) > 1 and re.match(r"\d{1,2}:", parts[1]):
            parts[:2] = [f"{parts[0]}T{parts[1]}"]
        if len(parts) == 1:
            return text
        return {"wall": parts[0], "zone": parts[1], "fold": " ".join(parts[2:])}

    def linked(self, value: Any, spec: Field, entry: Callable[[str], Any]) -> Any:
        return value["instant"]

    def text(self, value: Any) -> str | Message:
        if not isinstance(value, Mapping):
            return ""
        return said("reads.moment", wall=value["wall"], zone=value["zone"])

    def filtered(self, value: Any) -> Filtered:
        return Filtered(str(value["instant"]), timeline.parse_instant(str(value["instant"])))

    def asked(self, text: str, spec: Field) -> Filtered:
        try:
            number = timeline.day_or_instant(text)
        except BadTime as bad:
            raise Wrong("kinds.no_time", why=bad.message) from None
        return Filtered(timeline.iso(number), number)


KIND = Instant()
