"""JSON as it is kept and hashed: no spaces, and all letters as they are.

The same content is the same bytes in whichever house. The quicker of two writers takes what both write alike: a number with a fraction is not.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from pydantic_core import to_json

_ALIKE = frozenset({str, int, bool, type(None)})
_escaped = json.JSONEncoder(separators=(",", ":")).encode
_in_turn = json.JSONEncoder(ensure_ascii=False, separators=(",", ":")).encode
in_order = json.JSONEncoder(ensure_ascii=False, separators=(",", ":"), sort_keys=True).encode
"""A value, with its members sorted at every depth."""


def texts(value: Any) -> str:
    """A value that holds texts and whole numbers alone, in whatever lists and members."""
    return to_json(value).decode()


def names(value: Any) -> str:
    """A value that holds texts alone, nearly all of them names: what is not ASCII is escaped."""
    found = texts(value)
    return found if found.isascii() and "\x7f" not in found else _escaped(value)


def written(value: Any) -> str:
    """A value, with its members in their order."""
    if type(value) is dict and _ALIKE.issuperset(map(type, value.values())):
        return texts(value)
    return _in_turn(value)


def sorted_bytes(values: Mapping[str, Any]) -> bytes:
    """Values by their names, sorted at every depth, as UTF-8."""
    if _ALIKE.issuperset(map(type, values.values())):
        return to_json(dict(sorted(values.items())))
    return in_order(values).encode()
