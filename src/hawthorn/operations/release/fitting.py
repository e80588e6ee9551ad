"""What of a value fits its field by now: what a template, a copy or a translation brings along may be older than the field's definition."""

from __future__ import annotations

from collections.abc import Callable
from copy import deepcopy
from typing import Any

from hawthorn.core import fields, slots
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import FieldProblem
from hawthorn.core.fields import Field
from hawthorn.core.slots import Slot
from hawthorn.operations.release import drafts
from hawthorn.operations.runtime.act import View

Keeps = Callable[[Slot], bool]
"""Whether a part of a group, or of blocks, is kept although it does not fit."""


def left_of(view: View, kind: ContentType, spec: Field, value: Any, keeps: Keeps = lambda slot: False) -> Any:
    """What of a value fits its field: all of it, or what lies in its blocks and groups, or some of several; None for nothing. With parts
    that are kept all the same the rest is for whoever asks to look at."""
    if _fits(view, kind, spec, value):
        return value
    left: Any = None
    kept = False
    if fields.kind_of(spec).parts and isinstance(value, list | dict):
        blocks = slots.blocks(spec, value)
        homes: dict[str, list[str]] = {}
        for block in blocks.values():
            homes.setdefault(block.home, []).append(block.id)
        wrong = {p.where for p in _wrong_targets(view, kind, spec, value)}
        values: dict[str, Any] = {}
        for slot in slots.filled([spec], {spec.name: value}):
            fits = slot.path not in wrong and takes(slot.spec, slot.value)
            if fits or keeps(slot):
                values[slot.path] = slot.value
                kept = kept or not fits
        left = slots.build(spec, homes, {id: block.kind for id, block in blocks.items()}, values)
    elif isinstance(value, list):
        left = [one for one in value if _fits(view, kind, spec, [one])] or None
    return left if left is not None and (kept or _fits(view, kind, spec, left)) else None


def takes(spec: Field, value: Any) -> bool:
    """Whether a field takes a value, wherever that leads."""
    try:
        fields.canonical_value(spec, value)
    except fields.Wrong:
        return False
    return True


def _fits(view: View, kind: ContentType, spec: Field, value: Any) -> bool:
    return takes(spec, value) and not _wrong_targets(view, kind, spec, value)


def _wrong_targets(view: View, kind: ContentType, spec: Field, value: Any) -> list[FieldProblem]:
    # Files that are looked at are brought up to date in place, and the content of a revision is nobody's to change.
    values = {spec.name: deepcopy(value)}
    return drafts.wrong_targets(view, kind, 0, values, values)
