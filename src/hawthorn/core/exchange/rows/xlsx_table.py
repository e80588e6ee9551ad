"""The first sheet of a workbook (Office Open XML, ISO/IEC 29500): a table whose first line names its columns. Of a formula the value counts that it had when the
workbook was saved; nothing is run."""

from __future__ import annotations

import zipfile
from collections.abc import Iterator
from datetime import date, datetime, time
from typing import Any, BinaryIO

from hawthorn.core.errors import BadFile
from hawthorn.core.exchange.rows.base import MOST_ROWS, Row, RowFormat, column_names
from hawthorn.core.formats.xlsx import looked_at


class Xlsx(RowFormat):
    """A table in a workbook."""

    name = "xlsx"
    endings = ("xlsx",)

    def knows(self, ending: str, head: bytes) -> bool:
        return ending in self.endings and head.startswith(b"PK")

    def rows(self, file: BinaryIO) -> Iterator[Row]:
        # It takes long to load, and few bring such files.
        import openpyxl
        from openpyxl.utils.exceptions import InvalidFileException

        file.seek(0)
        looked_at(file)
        names: list[str] = []
        try:
            book = openpyxl.load_workbook(file, read_only=True, data_only=True)
            lines = book.worksheets[0].iter_rows(max_row=MOST_ROWS + 2, values_only=True)
            for number, line in enumerate(lines, 1):
                cells = [_cell(one) for one in line]
                if not any(one not in ("", None) for one in cells):
                    continue
                if not names:
                    names = column_names([str(one) for one in cells])
                    continue
                if number > MOST_ROWS + 1:
                    raise BadFile("rows.too_many", most=MOST_ROWS)
                told = zip(names, cells, strict=False)
                yield Row(str(number), {name: cell for name, cell in told if name})
        except (
            InvalidFileException, KeyError, ValueError, IndexError, TypeError, AttributeError, zipfile.BadZipFile, OSError,
        ) as error:  # fmt: skip
            raise BadFile("rows.not_xlsx", error=str(error)[:200]) from None
        if not names:
            raise BadFile("rows.empty")


def _cell(value: Any) -> Any:
    """A cell as rows have it: a day where it has no time of day."""
    if value is None:
        return ""
    if isinstance(value, datetime):
        return value.date() if value.time() == time() else value
    if isinstance(value, float) and value.is_integer():
        return int(value)
    return value if isinstance(value, bool | int | float | str | date) else str(value)


FORMAT = Xlsx()
