"""What fields were before: of another kind, or living in the other kind of edition. Revisions never change, so what they hold is brought into
what its field is now whenever it is looked at."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from hawthorn.core import fields, richtext
from hawthorn.core.fields import Field, Wrong
from hawthorn.core.quick import dataclass


@dataclass(frozen=True, slots=True)
class Mark:
    """What a field was in revisions up to one (its id), after which it is another."""

    revision: int
    field: Field


Marks = Mapping[str, Sequence[Mark]]
"""The marks of the fields of a type, by name, the oldest first."""


Each = Callable[[Field, Field, Any], Any]
"""How what lies in a group, or in blocks, is brought along: all of it, or what is taken."""


def form(spec: Field) -> tuple[Any, ...]:
    """What of a field decides how its values are read: its kind, whether there are several, and the same of what lies in it."""
    inner = tuple((one.name, form(one)) for one in spec.fields)
    blocks = tuple(
        (block.name, tuple((one.name, form(one)) for one in block.fields)) for block in spec.blocks
    )
    return spec.kind, fields.is_many(spec), inner, blocks


def then(marks: Sequence[Mark], now: Field, revision: int) -> Field:
    """What a field was when a revision was written, 0 for one that is not yet."""
    return next((one.field for one in marks if 0 < revision <= one.revision), now)


def brought(was: Field, now: Field, value: Any) -> Any:
    """A value of a field as another has it: plain words become a text, of a text the words are left. Raises `Wrong` for what that does not take,
    whatever its bounds."""
    return _brought(was, now, value, brought)


def kept(was: Field, now: Field, value: Any) -> Any:
    """The same without what the field does not take, None for all of it."""
    try:
        return _brought(was, now, value, kept)
    except Wrong:
        return None


def _brought(was: Field, now: Field, value: Any, each: Each) -> Any:
    if value is None or was is now or form(was) == form(now):
        return value
    if (was.kind, fields.is_many(was)) == (now.kind, fields.is_many(now)):
        return _parts(was, now, value, each)
    boundless = replace(now, limit=None, least=None, minimum=None, maximum=None)
    made = fields.canonical_value(boundless, _worded(was, now, value))
    if made is None:
        raise Wrong("kinds.wants_value")
    return made


def _worded(was: Field, now: Field, value: Any) -> Any:
    theirs, ours = fields.kind_of(was), fields.kind_of(now)
    if isinstance(value, list):
        return [_worded(was, now, one) for one in value]
    if isinstance(value, str) and ours.rich and not theirs.rich:
        return richtext.from_plain(value)
    if isinstance(value, str) and theirs.rich and not ours.rich:
        return richtext.text_of(value)
    return value


def _parts(was: Field, now: Field, value: Any, each: Each) -> Any:
    """A group, several, or blocks: what lies in each; what has no place any more stays as it is."""
    if isinstance(value, list):
        return [_part(was, now, one, each) if isinstance(one, Mapping) else one for one in value]
    return _members(was.fields, now.fields, value, each) if isinstance(value, Mapping) else value


def _part(was: Field, now: Field, item: Mapping[str, Any], each: Each) -> dict[str, Any]:
    theirs = next((one.fields for one in was.blocks if one.name == item.get("kind")), was.fields)
    ours = next((one.fields for one in now.blocks if one.name == item.get("kind")), now.fields)
    inner = item.get("fields")
    return (
        {**item, "fields": _members(theirs, ours, inner, each)} if isinstance(inner, Mapping) else dict(item)
    )


def _members(
    was: Sequence[Field], now: Sequence[Field], values: Mapping[str, Any], each: Each
) -> dict[str, Any]:
    known = {one.name: one for one in was}
    out = dict(values)
    for spec in now:
        if spec.name in values and spec.name in known:
            out[spec.name] = each(known[spec.name], spec, values[spec.name])
    return {name: value for name, value in out.items() if value is not None}
