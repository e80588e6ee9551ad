"""JSON as it is kept and hashed: no spaces, and all letters as they are.

The same content is the same bytes in whichever house. The quicker of two writers takes what both write alike: a number with a fraction is not, and one
of more than 64 bits it does not take at all.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from contextlib import suppress
from typing import Any

import msgspec

_read = msgspec.json.Decoder().decode
_quick = msgspec.json.Encoder().encode
_ALIKE = frozenset({str, int, bool, type(None)})
_escaped = json.JSONEncoder(separators=(",", ":")).encode
_in_turn = json.JSONEncoder(ensure_ascii=False, separators=(",", ":")).encode
in_order = json.JSONEncoder(ensure_ascii=False, separators=(",", ":"), sort_keys=True).encode
"""A value, with its members sorted at every depth."""


def read(text: str) -> Any:
    """What was kept. Python writes numbers that are none in JSON; whatever was kept so is read as Python does."""
    try:
        return _read(text)
    except msgspec.DecodeError:
        return json.loads(text)


def texts(value: Any) -> str:
    """A value that holds texts and whole numbers alone, in whatever lists and members."""
    return _quick(value).decode()


def names(value: Any) -> str:
    """A value that holds texts alone, nearly all of them names: what is not ASCII is escaped."""
    found = texts(value)
    return found if found.isascii() else _escaped(value)


def written(value: Any) -> str:
    """A value, with its members in their order."""
    held = value.values() if type(value) is dict else value if type(value) is list else (value,)
    if _ALIKE.issuperset(map(type, held)):
        with suppress(OverflowError):
            return texts(value)
    return _in_turn(value)


def sorted_bytes(values: Mapping[str, Any]) -> bytes:
    """Values by their names, sorted at every depth, as UTF-8."""
    if _ALIKE.issuperset(map(type, values.values())):
        with suppress(OverflowError):
            return _quick(dict(sorted(values.items())))
    return in_order(values).encode()
