"""Sheets: a list as a table for spreadsheets, in CSV (RFC 4180) or Office Open XML (ISO/IEC 29500). No cell is a formula, whatever stands in it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import BinaryIO

from hawthorn.core.errors import InTheWay
from hawthorn.core.exchange.rows.csv_table import line_of

Cells = Sequence[str | float]
FORMATS = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}
"""The media type of each format."""
LONGEST = 32_767
"""The characters that a cell of XLSX may have."""
MOST_LINES = 1_048_576
"""The lines that a sheet of XLSX may have."""
_BOM = "\ufeff"
"""Without it, spreadsheets take the file for one of another encoding."""
_AT_ONCE = 1 << 16


def csv(lines: Iterable[Cells]) -> Iterator[bytes]:
    """A table as CSV, some lines at once."""
    waiting, length = [_BOM], 0
    for cells in lines:
        waiting.append(line_of([one if isinstance(one, str) else format(one, ".15g") for one in cells]))
        length += len(waiting[-1])
        if length > _AT_ONCE:
            yield "".join(waiting).encode()
            waiting, length = [], 0
    yield "".join(waiting).encode()


def xlsx(lines: Iterable[Cells], file: BinaryIO) -> None:
    """Write a table as a workbook; its first line stays in sight. Raises `InTheWay` for what it cannot hold."""
    # It takes long to load, and few ask for it.
    import openpyxl
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE

    book = openpyxl.Workbook(write_only=True)
    page = book.create_sheet("Entries")
    page.freeze_panes = "A2"
    try:
        for n, cells in enumerate(lines, 1):
            if n > MOST_LINES:
                raise InTheWay("sheets.too_many_lines", most=MOST_LINES)
            row = []
            for one in cells:
                if isinstance(one, str) and len(one) > LONGEST:
                    raise InTheWay("sheets.cell_too_long", line=n, most=LONGEST)
                text = ILLEGAL_CHARACTERS_RE.sub("", one) if isinstance(one, str) else one
                cell = WriteOnlyCell(page, value=text)
                if isinstance(one, str):
                    # Whatever it begins with, it is text.
                    cell.data_type = "s"
                row.append(cell)
            page.append(row)
    except BaseException:
        # What was begun is brought to an end, and its file on the disk taken away.
        page.close()
        page._writer.cleanup()
        raise
    book.save(file)
