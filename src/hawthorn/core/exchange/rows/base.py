"""What a format of rows answers."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import AbstractContextManager
from typing import IO, Any, BinaryIO, ClassVar

from hawthorn.core.errors import BadFile
from hawthorn.core.messages import Message
from hawthorn.core.quick import dataclass

HEAD = 4_096
"""So many bytes at the start say what a file is."""
MOST_ROWS = 200_000
"""So many rows are read from a file."""
MOST_COLUMNS = 500
FILE = "file"
"""The column with the name of a page's file."""


class Html(str):
    """A cell that holds markup, whatever it looks like."""


@dataclass(frozen=True, slots=True)
class Row:
    """A row: where it stands in its file (a line, or the name of a page's file) and what its columns say; a column that is not there says nothing."""

    place: str
    cells: Mapping[str, Any]
    lost: tuple[Message, ...] = ()
    """What is left out of it."""


FORMATS: dict[str, RowFormat] = {}
"""Every format of rows by name."""


class RowFormat:
    """A format of rows."""

    name: ClassVar[str]
    endings: ClassVar[tuple[str, ...]]

    def knows(self, ending: str, head: bytes) -> bool:
        """Whether a file is of this format, by the ending of its name and how it begins."""
        raise NotImplementedError

    def names(self, file: BinaryIO) -> list[str]:
        """The files of the pages in it, which may lead to one another."""
        return []

    def pictures(self, file: BinaryIO) -> frozenset[str]:
        """The files of the pictures in it."""
        return frozenset()

    def picture(self, file: BinaryIO, name: str) -> AbstractContextManager[IO[bytes]]:
        """The bytes of one of them."""
        raise NotImplementedError

    def rows(self, file: BinaryIO) -> Iterator[Row]:
        """The rows of a file in their order. Raises `BadFile` at the first that cannot be read."""
        raise NotImplementedError


def column_names(cells: Sequence[str]) -> list[str]:
    """The names of columns, as the first line of a table has them. Raises `BadFile` for two of one name, and for too many."""
    names = [" ".join(one.split())[:200] for one in cells]
    if len(names) > MOST_COLUMNS:
        raise BadFile("rows.too_many_columns", most=MOST_COLUMNS)
    twice = [one for one in names if one and names.count(one) > 1]
    if twice:
        raise BadFile("rows.column_twice", name=twice[0])
    return names
