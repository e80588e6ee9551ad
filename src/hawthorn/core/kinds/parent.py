"""Where the entry stands in the outline."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from hawthorn.core.kinds.base import Field, Wrong, name_of
from hawthorn.core.kinds.reference import Reference

_RANK = re.compile(r"^[0-9a-z]{0,200}[1-9a-z]$")


class Parent(Reference):
    """Where the entry stands in the outline: the id of the entry that it is placed below. Somebody who moves it also gives
    it a rank among those beside it: then an object with `entry` (left out at the top) and `rank`."""

    name = "parent"
    described = False
    schema = {
        "anyOf": [
            {"type": "string", "format": "uuid"},
            {
                "type": "object",
                "properties": {
                    "entry": {"type": "string", "format": "uuid"},
                    "rank": {"type": "string", "pattern": _RANK.pattern},
                },
                "required": ["rank"],
                "additionalProperties": False,
            },
        ]
    }

    celled = True

    def canonical(self, value: Any, spec: Field) -> Any:
        if not isinstance(value, Mapping):
            return super().canonical(value, spec)
        unknown = set(value) - {"entry", "rank"}
        if unknown:
            raise Wrong("kinds.parent_member", name=sorted(map(str, unknown))[0])
        above = super().canonical(value["entry"], spec) if value.get("entry") else None
        rank = value.get("rank") or ""
        if not isinstance(rank, str):
            raise Wrong("kinds.wants_rank", value=name_of(rank))
        if not rank:
            return above
        if not _RANK.match(rank):
            raise Wrong("kinds.rank_ends_in_0")
        return {"entry": above, "rank": rank} if above else {"rank": rank}

    def text(self, value: Any) -> str:
        return parent_of(value) or ""

    def refers_to(self, value: Any) -> set[str]:
        above = parent_of(value)
        return {above} if above else set()


def parent_of(value: Any) -> str | None:
    """The entry (UUID) that a placement names, or None at the top."""
    return (value.get("entry") if isinstance(value, Mapping) else value) or None


def rank_of(value: Any) -> str:
    """The rank that a placement names; empty where nobody moved the entry."""
    return str(value.get("rank") or "") if isinstance(value, Mapping) else ""


KIND = Parent()
