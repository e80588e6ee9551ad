"""What is worked out of texts again and again, kept for a while in bounded room."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache, wraps
from typing import TypeVar

T = TypeVar("T")
LONG = 10_000
"""Characters from which a text is a long one."""


def kept_by_length(short: int, long: int) -> Callable[[Callable[[str], T]], Callable[[str], T]]:
    """Keep what was made of so many short texts, and of so many long ones: of those only the ones that are worked on just now, so that what was worked
    out before a lock was taken is not worked out again under it."""

    def of_both(make: Callable[[str], T]) -> Callable[[str], T]:
        many, few = lru_cache(maxsize=short)(make), lru_cache(maxsize=long)(make)

        @wraps(make)
        def made(text: str) -> T:
            return many(text) if len(text) < LONG else few(text)

        return made

    return of_both
