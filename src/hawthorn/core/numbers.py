"""Numbers that come from outside as text: read in one way, with a bound."""

from __future__ import annotations

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
