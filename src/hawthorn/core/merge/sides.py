"""A content as slots and blocks, and what both sides have in common while a merge goes on."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from hawthorn.core import slots
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import Invalid
from hawthorn.core.fields import Field, Wrong, canonical_value, kind_of, problem
from hawthorn.core.merge.conflicts import Conflict, Settlement, decided
from hawthorn.core.revision import Content, left_over
from hawthorn.core.richtext import ParagraphIds
from hawthorn.core.slots import Block


class Side:
    """One content as slots and blocks."""

    def __init__(self, kind: ContentType, content: Content, lost: Iterable[str]) -> None:
        self.content = content
        self.values: dict[str, Any] = {}
        self.within: dict[str, dict[str, Any]] = {}
        self.known: dict[str, slots.Slot] = {}
        self.blocks: dict[str, Block] = {}
        self.below: dict[str, list[str]] = {}
        specs = (*kind.fields, *(Field(name, "json", name) for name in lost))
        for slot in slots.walk(specs, content.fields):
            self.known[slot.path] = slot
            if slot.value is not None:
                self.values[slot.path] = slot.value
                if slot.block:
                    self.within.setdefault(slot.block, {})[slot.path] = slot.value
        for spec in kind.fields:
            if kind_of(spec).parts and content.fields.get(spec.name):
                for id, block in slots.blocks(spec, content.fields[spec.name]).items():
                    self.blocks[f"{spec.name}:{id}"] = block
        for key, block in self.blocks.items():
            if block.parent:
                self.below.setdefault(f"{key.split(':')[0]}:{block.parent}", []).append(key)

    def holds(self, key: str) -> dict[str, Any]:
        """What a block holds by itself."""
        return self.within.get(key.split(":")[1], {})

    def shown(self, key: str) -> Any:
        """A block as a person may be shown it: its kind, its values, and what lies in it."""
        if key not in self.blocks:
            return None
        members = {path.split(":", 2)[2]: value for path, value in self.holds(key).items()}
        inner = [self.shown(child) for child in self.below.get(key, ())]
        return {"kind": self.blocks[key].kind, "fields": members, **({"blocks": inner} if inner else {})}


class Run:
    """One merge: what it looks at, what it has made so far, and how it asks."""

    def __init__(
        self,
        kind: ContentType,
        base: Content,
        ours: Content,
        theirs: Content,
        unsettled: frozenset[str],
        decisions: Mapping[str, Settlement],
    ) -> None:
        self.kind, self.unsettled, self.decisions = kind, unsettled, decisions
        names = {*base.fields, *ours.fields, *theirs.fields}
        self.lost = sorted(left_over(kind, names))
        self.base, self.ours, self.theirs = (Side(kind, c, self.lost) for c in (base, ours, theirs))
        # The block around each list that holds any; base first, so that the sides have the last word.
        self.above = {
            b.home: f"{key.split(':')[0]}:{b.parent}"
            for s in reversed(self._sides())
            for key, b in s.blocks.items()
            if b.parent
        }
        self.values: dict[str, Any] = {}
        self.paragraph_ids: dict[str, ParagraphIds] = {}
        self.conflicts: list[Conflict] = []
        self.still_open: list[str] = []
        self.taken: dict[str, dict[str, None]] = {"ours": {}, "theirs": {}}

    def _ask(self, conflict: Conflict) -> tuple[bool, Any]:
        """Note a conflict; whether it is decided, and what stands there."""
        self.conflicts.append(conflict)
        decision = self.decisions.get(conflict.place)
        if decision is None:
            self.still_open.append(conflict.place)
            return False, conflict.theirs
        return True, decided(conflict, decision)

    def _fitting(self, spec: Field, value: Any) -> Any:
        try:
            return canonical_value(spec, value)
        except Wrong as wrong:
            raise Invalid([problem(spec, wrong)]) from None

    # -- rich text -------------------------------------------------------------------------------------------

    def _sides(self) -> tuple[Side, Side, Side]:
        return self.theirs, self.ours, self.base

    def _paths(self, top: str) -> list[str]:
        return list(dict.fromkeys(p for s in self._sides() for p in s.known if p.split(":")[0] == top))
