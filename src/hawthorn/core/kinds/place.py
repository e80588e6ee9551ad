"""A place on a map, as numbers."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from hawthorn.core import numbers
from hawthorn.core.kinds.base import Field, Filtered, Kind, Wrong


class Place(Kind):
    """A place on a map: degrees of latitude and longitude (WGS 84, as RFC 7946 section 4 has them)."""

    name = "place"
    filters = ("near",)
    schema = {
        "type": "object",
        "properties": {
            "latitude": {"type": "number", "minimum": -90, "maximum": 90},
            "longitude": {"type": "number", "minimum": -180, "maximum": 180},
        },
        "required": ["latitude", "longitude"],
        "additionalProperties": False,
    }

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, Mapping) or set(value) - {"latitude", "longitude"}:
            raise Wrong("kinds.wants_place")
        out: dict[str, float] = {}
        for name, most in (("latitude", 90), ("longitude", 180)):
            one = value.get(name)
            if isinstance(one, bool) or not isinstance(one, int | float) or not -most <= one <= most:
                raise Wrong("kinds.degrees", name=name, most=most)
            out[name] = round(float(one), 7)
        return out

    celled = True

    def cell(self, value: Any) -> str:
        return f"{value['latitude']}, {value['longitude']}"

    def from_cell(self, text: str, spec: Field) -> Any:
        found = [numbers.decimal(one.strip()) for one in text.split(",")]
        if len(found) != 2 or None in found:
            raise Wrong("kinds.wants_place_in_figures")
        return {"latitude": found[0], "longitude": found[1]}

    def linked(self, value: Any, spec: Field, entry: Callable[[str], Any]) -> Any:
        return {"@type": "Place", "geo": {"@type": "GeoCoordinates", **value}}

    def text(self, value: Any) -> str:
        return f"{value['latitude']:g}, {value['longitude']:g}" if isinstance(value, Mapping) else ""

    def filtered(self, value: Any) -> Filtered:
        return Filtered("", value["latitude"], value["longitude"])


KIND = Place()
