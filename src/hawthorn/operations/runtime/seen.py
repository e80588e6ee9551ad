"""Pages of lists whose rows are looked at one by one, as who may see them cannot be asked of the records."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol, TypeVar

from hawthorn.core import numbers


class Numbered(Protocol):
    """A row with its number."""

    @property
    def id(self) -> int:
        """Its number."""


Row = TypeVar("Row", bound=Numbered)


def newest(
    read: Callable[[int, int], list[Row]], seen: Callable[[Row], bool], limit: int, cursor: str
) -> tuple[list[Row], str]:
    """So many of the rows that may be seen, newest first, after a place in them; and where the next page begins. `read` gives so many rows, the newest
    first, from before a number. Raises `Invalid` for a cursor that is none."""
    before = numbers.cursor(cursor)
    found: list[Row] = []
    while len(found) <= limit:
        rows = read(limit + 1, before)
        found += [row for row in rows if seen(row)]
        if len(rows) <= limit:
            break
        before = rows[-1].id
    more = str(found[limit - 1].id) if len(found) > limit else ""
    return found[:limit], more
