"""Any JSON value, for what only programs read."""

from __future__ import annotations

import json
from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong


class JsonValue(Kind):
    """Any JSON value (RFC 8259), kept as it is."""

    name = "json"
    label = "JSON"

    def canonical(self, value: Any, spec: Field) -> Any:
        try:
            text = json.dumps(value, ensure_ascii=False, allow_nan=False, sort_keys=True)
            text.encode()
        except (TypeError, ValueError, RecursionError):
            raise Wrong("takes a value that JSON can hold") from None
        if len(text) > (spec.limit or 50_000):
            raise Wrong(f"has {len(text):,} characters and may have at most {spec.limit or 50_000:,}")
        return None if value in ("", {}, []) else json.loads(text)

    def text(self, value: Any) -> str:
        return "" if value is None else json.dumps(value, ensure_ascii=False, sort_keys=True)


KIND = JsonValue()
