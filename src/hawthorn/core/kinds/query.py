"""A list of entries by a rule: which type, topic and period, in which order, and how many."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from uuid import UUID

from hawthorn.core.kinds.base import Field, Kind, Wrong, name_of
from hawthorn.core.kinds.tags import one_form
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass

ORDERS = ("newest", "oldest", "title")
MOST = 50
_DEFAULT = 5


@dataclass(frozen=True, slots=True)
class Rule:
    """Which entries a list shows: of any of `types`, about `topic` (a UUID) or one below it, with a tag, whose date lies
    within the last `days`; the first `limit` in an order."""

    types: tuple[str, ...]
    topic: str = ""
    tag: str = ""
    days: int | None = None
    order: str = "newest"
    limit: int = _DEFAULT


def rule_of(value: Mapping[str, Any]) -> Rule:
    """The rule that a stored value holds."""
    return Rule(**{**value, "types": tuple(value["types"])})


class Query(Kind):
    """A rule that lists entries. The list itself is made when the page is read."""

    name = "query"
    structured = True
    described = False
    schema = {
        "type": "object",
        "properties": {
            "types": {"type": "array", "items": {"type": "string"}, "minItems": 1},
            "topic": {"type": "string", "format": "uuid"},
            "tag": {"type": "string"},
            "days": {"type": "integer", "minimum": 1, "maximum": 3660},
            "order": {"enum": list(ORDERS)},
            "limit": {"type": "integer", "minimum": 1, "maximum": MOST},
        },
        "required": ["types"],
        "additionalProperties": False,
    }
    read_schema = {
        "type": "object",
        "properties": {
            "rule": {"type": "object"},
            "items": {
                "type": "array",
                "items": {
                    "type": "object",
                    "properties": {
                        **{
                            name: {"type": "string"}
                            for name in ("id", "type", "locale", "title", "date", "summary")
                        },
                        "path": {"type": ["string", "null"]},
                    },
                    "required": ["id", "type", "locale", "title", "path", "date", "summary"],
                },
            },
        },
        "required": ["rule", "items"],
    }

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, Mapping):
            raise Wrong("kinds.wants_query", value=name_of(value))
        unknown = set(value) - set(self.schema["properties"])
        if unknown:
            raise Wrong("kinds.query_member", name=sorted(map(str, unknown))[0])
        types = value.get("types") or []
        if not isinstance(types, list) or not all(isinstance(t, str) and t for t in types):
            raise Wrong("kinds.query_wants_types")
        if not types:
            raise Wrong("kinds.query_without_types")
        out: dict[str, Any] = {"types": list(dict.fromkeys(types))}
        if value.get("topic"):
            try:
                out["topic"] = str(UUID(str(value["topic"]).removeprefix("urn:uuid:")))
            except ValueError:
                raise Wrong("kinds.query_wants_topic") from None
        if value.get("tag"):
            out["tag"] = one_form(str(value["tag"]))[:80]
        for name, most in (("days", 3660), ("limit", MOST)):
            number = value.get(name)
            if number is None or number == "":
                continue
            if isinstance(number, bool) or not isinstance(number, int) or not 1 <= number <= most:
                raise Wrong("kinds.query_number", name=name, most=most)
            out[name] = number
        order = value.get("order") or "newest"
        if order not in ORDERS:
            raise Wrong("kinds.query_order", orders=list(ORDERS))
        return {**out, "order": order, "limit": out.get("limit", _DEFAULT)}

    def text(self, value: Any) -> str | Message:
        if not isinstance(value, Mapping):
            return ""
        rule = rule_of(value)
        words = [said(f"reads.list_{rule.order}", limit=rule.limit, types=list(rule.types))]
        words += [said("reads.about", topic=rule.topic)] if rule.topic else []
        words += [said("reads.tagged", tag=rule.tag)] if rule.tag else []
        words += [said("reads.days", count=rule.days)] if rule.days else []
        return said("reads.parts", parts=words)

    def refers_to(self, value: Any) -> set[str]:
        return {value["topic"]} if isinstance(value, Mapping) and value.get("topic") else set()


KIND = Query()
