"""How far records have come: the term of whoever wrote, and the newest event of the log. Later positions are greater."""

from __future__ import annotations

import re

from hawthorn.core.errors import Invalid

_POSITION = re.compile(r"(\d{1,6})\.(\d{1,15})")
Position = tuple[int, int]


def parse(text: str) -> Position:
    """A position as it is sent, such as 1.204; raises `Invalid`."""
    found = _POSITION.fullmatch(text.strip())
    if found is None:
        raise Invalid("copies.no_position", value=text[:80])
    return int(found[1]), int(found[2])


def told(position: Position) -> str:
    """A position as it is sent."""
    return f"{position[0]}.{position[1]}"
