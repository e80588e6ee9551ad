"""A number, whole or not."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from hawthorn.core import numbers
from hawthorn.core.kinds.base import Field, Filtered, Kind, Wrong, name_of

_NUMBER = re.compile(r"-?[0-9]{1,18}(\.[0-9]{1,25})?(e[+-]?[0-9]{1,3})?")
_DATES = re.compile(r"^date(?=[A-Z]|$)|Date$")
"""Properties of schema.org that take dates: birthDate, dateCreated, startDate; not `isUpdated`."""


class Number(Kind):
    """A number, whole or not, within the bounds that the field sets."""

    name = "number"
    filters = ("is", "before", "after", "from")

    def canonical(self, value: Any, spec: Field) -> Any:
        if isinstance(value, bool) or not isinstance(value, int | float) or value != value:
            raise Wrong("kinds.wants_number", value=name_of(value))
        if abs(value) > 1e15:
            raise Wrong("kinds.number_too_large")
        if spec.minimum is not None and value < spec.minimum:
            raise Wrong("kinds.under_the_minimum", minimum=format(spec.minimum, "g"))
        if spec.maximum is not None and value > spec.maximum:
            raise Wrong("kinds.over_the_maximum", maximum=format(spec.maximum, "g"))
        return int(value) if float(value).is_integer() else value

    def schema_of(self, spec: Field) -> dict[str, Any]:
        bounds = {"minimum": spec.minimum, "maximum": spec.maximum}
        return {"type": "number", **{k: v for k, v in bounds.items() if v is not None}}

    def linked(self, value: Any, spec: Field, entry: Callable[[str], Any]) -> Any:
        # A year stands for a date, and dates are text there (schema.org Date, ISO 8601).
        return str(value) if _DATES.search(spec.schema_property) and isinstance(value, int) else value

    def from_cell(self, text: str, spec: Field) -> Any:
        if not _NUMBER.fullmatch(text):
            raise Wrong("kinds.wants_number_in_figures", value=text[:40])
        return float(text) if set(text) & set(".e") else int(text)

    def filtered(self, value: Any) -> Filtered:
        return Filtered(number=float(value))

    def asked(self, text: str, spec: Field) -> Filtered:
        found = numbers.decimal(text)
        if found is None:
            raise Wrong("kinds.wants_number", value=text[:40])
        return Filtered(number=found)


KIND = Number()
