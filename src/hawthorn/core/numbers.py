"""Numbers that come from outside as text: read in one way, with a bound."""

from __future__ import annotations

import re

from hawthorn.core.errors import Invalid

LARGEST = (1 << 63) - 1
"""The largest that a record can hold."""


def whole(text: str, most: int = LARGEST) -> int | None:
    """A whole number in plain digits, without sign or leading zeros, of at most so much; None for anything else.

    Python reads more than that: other scripts' digits, white space, signs, underscores, and numbers of any length.
    """
    if not text.isascii() or not text.isdigit() or len(text) > 19 or (len(text) > 1 and text[0] == "0"):
        return None
    value = int(text)
    return value if value <= most else None


_DECIMAL = re.compile(r"-?[0-9]{1,15}(\.[0-9]{1,9})?")


def decimal(text: str) -> float | None:
    """A number with a sign and a fraction, as somebody outside wrote it; None for anything else."""
    return float(text) if _DECIMAL.fullmatch(text) else None


def cursor(text: str) -> int:
    """A place in a list that goes down by number, as its cursor says it; raises `Invalid` for what is none."""
    found = whole(text) if text else LARGEST
    if found is None:
        raise _not_ours()
    return found


def pair(text: str) -> tuple[int, int]:
    """A place in a list that goes up by two numbers, as its cursor says it; raises `Invalid` for what is none."""
    if not text:
        return (-1, 0)
    found = [n for part in text.split(".") if (n := whole(part)) is not None]
    if len(found) != 2 or text.count(".") != 1:
        raise _not_ours()
    return (found[0], found[1])


def _not_ours() -> Invalid:
    return Invalid("common.cursor_of_another_list")
