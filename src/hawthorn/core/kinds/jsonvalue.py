"""Any JSON value, for what only programs read."""

from __future__ import annotations

import json
from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong


class JsonValue(Kind):
    """Any JSON value (RFC 8259), kept as it is."""

    name = "json"
    structured = True
    described = False

    def canonical(self, value: Any, spec: Field) -> Any:
        try:
            text = json.dumps(value, ensure_ascii=False, allow_nan=False, sort_keys=True)
            text.encode()
        except (TypeError, ValueError, RecursionError):
            raise Wrong("kinds.wants_json") from None
        if len(text) > (spec.limit or 50_000):
            raise Wrong("kinds.too_long", count=len(text), most=spec.limit or 50000)
        return None if value in ("", {}, []) else json.loads(text)

    def text(self, value: Any) -> str:
        return "" if value is None else json.dumps(value, ensure_ascii=False, sort_keys=True)


KIND = JsonValue()
