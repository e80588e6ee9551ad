"""The outline: ranks that always leave room between two, and a forest that stays one.

A rank is a word over digits and small letters; words compare as text, so a page moves between two others without
either of them changing. A page that nobody moved has a natural rank, which follows from its number.
"""

from __future__ import annotations

from collections.abc import Callable

_DIGITS = "0123456789abcdefghijklmnopqrstuvwxyz"


def natural(entry: int) -> str:
    """The rank of an entry that nobody moved: later ones come later."""
    return f"n{entry:08x}i"


def between(before: str, after: str) -> str:
    """A rank after `before` and before `after`; an empty word stands for the start or the end.

    Raises `ValueError` when `before` does not come before `after`. Ranks never end in the lowest digit, so there is
    always room.
    """
    if after and before >= after:
        raise ValueError(f"{before!r} does not come before {after!r}")
    out = ""
    at = 0
    bounded = bool(after)
    while True:
        low = _DIGITS.index(before[at]) if at < len(before) else 0
        high = _DIGITS.index(after[at]) if bounded and at < len(after) else len(_DIGITS)
        if high - low > 1:
            return out + _DIGITS[(low + high) // 2]
        out += _DIGITS[low]
        # Once below `after` in a digit, what follows is no longer bounded by it.
        bounded = bounded and low == high
        at += 1


def loop(entry: int, parent_of: Callable[[int], int]) -> list[int]:
    """The entries that lie below one another in a cycle through `entry`, in order upwards; empty when there is none."""
    seen: list[int] = []
    at = entry
    while at:
        if at == entry and seen:
            return seen
        if at in seen:
            return []
        seen.append(at)
        at = parent_of(at)
    return []
