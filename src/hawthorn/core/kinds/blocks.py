"""Blocks of different kinds, nested and in order."""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Mapping, Sequence
from typing import Any

from hawthorn.core.kinds.base import Field, Kind, Wrong, canonical_members, members_schema, name_of
from hawthorn.core.messages import said

_ID = re.compile(r"^[A-Za-z][A-Za-z0-9_-]{0,40}$")


class Blocks(Kind):
    """A list of blocks: each an object with `id`, `kind` and `fields`. What has no id is given one."""

    name = "blocks"
    structured = True
    described = False
    listed = True
    parts = True

    def canonical(self, value: Any, spec: Field) -> Any:
        made = items(value, spec)
        seen: set[str] = set()
        for one in _all_ids(made):
            if one in seen:
                raise Wrong("kinds.two_blocks", id=one)
            seen.add(one)
        return made

    def schema_of(self, spec: Field) -> dict[str, Any]:
        one = {
            "type": "object",
            "properties": {
                "id": {"type": "string", "pattern": _ID.pattern},
                "kind": {"enum": [k.name for k in spec.blocks]},
                "fields": {"type": "object"},
            },
            "required": ["kind"],
        }
        forms = [
            {"properties": {"kind": {"const": k.name}, "fields": members_schema(k.fields)}}
            for k in spec.blocks
        ]
        return {**one, "anyOf": forms} if forms else one

    def text(self, value: Any) -> str:
        return str(value.get("kind", "")) if isinstance(value, Mapping) else ""


def items(value: Sequence[Any], spec: Field) -> list[dict[str, Any]]:
    """Blocks, or the repeated members of a group, in their stored form."""
    forms = {k.name: k for k in spec.blocks}
    out: list[dict[str, Any]] = []
    taken = {str(b["id"]) for b in value if isinstance(b, Mapping) and b.get("id")}
    before, run, turn = "", "", 0
    for number, raw in enumerate(value, 1):
        if not isinstance(raw, Mapping):
            raise Wrong("kinds.block_wants_members", number=number, value=name_of(raw))
        if spec.kind == "blocks":
            form = forms.get(str(raw.get("kind")))
            if form is None:
                raise Wrong("kinds.block_unknown_kind", number=number, known=list(forms))
            label, specs, head = form.label or form.name, form.fields, {"kind": form.name}
        else:
            label, specs, head = spec.label or spec.name, spec.fields, {}
        unknown = set(raw) - {"id", "kind", "fields"}
        if unknown:
            raise Wrong("kinds.block_unknown_member", number=number, name=sorted(unknown)[0])
        members = canonical_members(
            specs, raw.get("fields", {}), said("kinds.block", number=number, label=label)
        )
        id = str(raw.get("id") or "")
        if id:
            run = ""
        elif not run:
            id, turn = _new_id(before, head, members, taken), 0
            run = id
        else:
            # Blocks that come one after the other share the start of their ids; see `core.order`.
            turn += 1
            id = f"{run}-{turn:03d}"
        if not _ID.match(id):
            raise Wrong("kinds.block_odd_id", number=number)
        taken.add(id)
        before = id
        out.append({"id": id, **head, "fields": members})
    return out


def _new_id(before: str, head: Mapping[str, str], members: Mapping[str, Any], taken: set[str]) -> str:
    """An id that follows from the content and the block before: the same insertion on two sides is one block."""
    turn = 0
    while True:
        seed = json.dumps([before, head, members, turn], sort_keys=True, ensure_ascii=False)
        name = "b" + hashlib.sha256(seed.encode()).hexdigest()[:9]
        if name not in taken:
            return name
        turn += 1


def _all_ids(value: Any) -> list[str]:
    out: list[str] = []
    if isinstance(value, list):
        for one in value:
            if isinstance(one, dict) and "id" in one and "fields" in one:
                out.append(one["id"])
                for inner in one["fields"].values():
                    out += _all_ids(inner)
    elif isinstance(value, dict):
        for inner in value.values():
            out += _all_ids(inner)
    return out


KIND = Blocks()
