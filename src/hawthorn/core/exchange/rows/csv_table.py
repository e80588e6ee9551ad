"""CSV (RFC 4180): a table whose first line names its columns. In UTF-8 or, where it begins so, in UTF-16; semicolons and tabs are read too.

A cell that a spreadsheet would take for a formula is text here, and is written with an apostrophe before it, which is taken off again.
"""

from __future__ import annotations

import codecs
import csv
import re
from collections.abc import Iterable, Iterator, Sequence
from io import StringIO, TextIOBase, TextIOWrapper
from typing import BinaryIO

from hawthorn.core.errors import BadFile
from hawthorn.core.exchange.rows.base import MOST_ROWS, Row, RowFormat, column_names
from hawthorn.core.formats.csv_rows import mark

LONGEST = 2_000_000
"""The characters that a line may have, with all that stands within quotation marks."""
_FORMULA = re.compile(r"'*[=+\-@\t\r]")
_FIGURES = re.compile(r"[+-]?[0-9]+([.,][0-9]+)*")
_BOM = "\ufeff"


def guarded(text: str) -> str:
    """A cell as it is written: with an apostrophe where a spreadsheet would take it for a formula."""
    return f"'{text}" if _FORMULA.match(text) and not _FIGURES.fullmatch(text) else text


def unguarded(text: str) -> str:
    """A cell as it was before `guarded`."""
    return text[1:] if text.startswith("'") and _FORMULA.match(text) else text


def line_of(cells: Sequence[str]) -> str:
    """A line of a table, with its end."""
    out = StringIO(newline="")
    csv.writer(out).writerow([guarded(one) for one in cells])
    return out.getvalue()


class Csv(RowFormat):
    """A table in a text file."""

    name = "csv"
    endings = ("csv", "tsv")

    def knows(self, ending: str, head: bytes) -> bool:
        return ending in self.endings and not head.startswith(b"PK")

    def rows(self, file: BinaryIO) -> Iterator[Row]:
        wide = file.read(2) in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)
        file.seek(0)
        text = TextIOWrapper(file, "utf-16" if wide else "utf-8", newline="")
        try:
            yield from self._read(text)
        except UnicodeDecodeError as error:
            raise BadFile("rows.not_utf8", at=error.start) from None
        finally:
            if not file.closed:
                text.detach()

    def _read(self, file: TextIOBase) -> Iterator[Row]:
        first = file.readline(LONGEST).lstrip(_BOM)
        table = csv.reader(_Lines(first, file), delimiter=mark(first), strict=True)
        names: list[str] = []
        count = 0
        try:
            for cells in table:
                if not any(cells):
                    continue
                if not names:
                    names = column_names(cells)
                    continue
                count += 1
                if count > MOST_ROWS:
                    raise BadFile("rows.too_many", most=MOST_ROWS)
                if len(cells) > len(names):
                    raise BadFile(
                        "rows.too_many_cells", line=table.line_num, count=len(cells), most=len(names)
                    )
                told = zip(names, cells, strict=False)
                yield Row(str(table.line_num), {name: unguarded(cell) for name, cell in told if name})
        except csv.Error as error:
            raise BadFile("rows.not_csv", line=table.line_num, error=error) from None
        if not names:
            raise BadFile("rows.empty")


class _Lines(Iterable[str]):
    """The lines of a file, none longer than there is room for, and what a quotation mark holds open neither."""

    def __init__(self, first: str, file: TextIOBase) -> None:
        self._first = first
        self._file = file

    def __iter__(self) -> Iterator[str]:
        line, number = self._first, 1
        while line:
            if len(line) >= LONGEST:
                raise BadFile("rows.line_too_long", line=number, most=LONGEST)
            yield line
            line = self._file.readline(LONGEST)
            number += 1


FORMAT = Csv()
