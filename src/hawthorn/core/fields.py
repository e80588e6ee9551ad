"""Fields and their values: what the rest of the core asks of them, whatever their kind.

To add a kind: put a module beside those in `core/kinds` and an editor component of the same name as the kind in
the console's `fields` folder.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Mapping
from dataclasses import field
from typing import Any

from hawthorn.core import kinds as kinds
from hawthorn.core.errors import FieldProblem
from hawthorn.core.kinds.base import (
    KINDS,
    BlockKind,
    Field,
    Filtered,
    Kind,
    Wrong,
    canonical_value,
    cell_of,
    is_many,
    kind_of,
    members_schema,
    read_cell,
    schema_of,
)
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass

__all__ = [
    "KINDS",
    "BlockKind",
    "Field",
    "Filtered",
    "Kind",
    "Wrong",
    "canonical_value",
    "cell_of",
    "is_many",
    "kind_of",
    "members_schema",
    "pictures",
    "problem",
    "read_cell",
    "readable",
    "references",
    "schema_of",
    "searched",
    "slug_from",
    "to_translate",
]


def _each(spec: Field, value: Any) -> list[Any]:
    if value is None:
        return []
    return value if is_many(spec) and isinstance(value, list) else [value]


def to_translate(spec: Field) -> bool:
    """Whether the words of a field are translated."""
    return kind_of(spec).translatable and spec.translate


def references(spec: Field, value: Any) -> set[str]:
    """The entries that a plain field's value refers to."""
    return set().union(*(kind_of(spec).refers_to(v) for v in _each(spec, value)))


def pictures(spec: Field, value: Any) -> set[str]:
    """The entries whose pictures a plain field's value shows in its text."""
    return set().union(*(kind_of(spec).pictures(v) for v in _each(spec, value)))


@dataclass(frozen=True, slots=True)
class Reading:
    """How values are read: what entries (UUIDs) are called, and how a message is put into words."""

    names: Mapping[str, str] = field(default_factory=dict)
    say: Callable[[Message], str] = str


def readable(spec: Field, value: Any, reading: Reading) -> str:
    """A plain field's value as text for comparing and listing."""
    kind = kind_of(spec)
    texts: list[str] = []
    for one in _each(spec, value):
        told = kind.text(one)
        text = reading.say(told) if isinstance(told, Message) else told
        for entry in kind.refers_to(one) if reading.names else ():
            text = text.replace(entry, reading.names.get(entry, entry))
        texts.append(text)
    return ", ".join(texts)


def searched(spec: Field, value: Any) -> str:
    """What of a plain field's value can be searched for."""
    return " ".join(kind_of(spec).words(v) for v in _each(spec, value))


def slug_from(text: str, slugify: Callable[[str], str]) -> str:
    """A slug that follows a title: ASCII words where the script allows it, else the letters themselves."""
    plain = slugify(text)
    letters = sum(1 for c in text if c.isalnum())
    if letters and (not plain or (not text.isascii() and any(ord(c) > 0x24F for c in text))):
        plain = re.sub(r"[^\w]+", "-", unicodedata.normalize("NFC", text).casefold()).strip("-")
    return plain[:100].strip("-")


def problem(spec: Field, wrong: Wrong) -> FieldProblem:
    """A kind's complaint, said of its field."""
    return FieldProblem(spec.name, said("common.field_is_wrong", label=spec.label, wrong=wrong.message))
