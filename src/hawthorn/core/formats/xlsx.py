"""Office Open XML sheets (ISO/IEC 29500) with both languages side by side, a row for each sentence (`core.translation.sheets`).

Written and read by openpyxl. A file from outside is an archive: how large it would be and what lies in it is looked at before.
"""

from __future__ import annotations

import io
import re
import zipfile
from datetime import datetime
from typing import TYPE_CHECKING, BinaryIO

from hawthorn.core.errors import BadFile
from hawthorn.core.formats.base import LARGEST, MOST_UNITS, Format, InDocument, OutDocument
from hawthorn.core.translation import sheets

if TYPE_CHECKING:
    from openpyxl.cell import Cell

_SIGN = b"PK\x03\x04"
_WIDTHS = {"source": 60, "target": 60, "title": 24, "field": 16, "note": 30}
_MODIFIED = re.compile(rb"(<dcterms:modified[^>]*>)[^<]*(</dcterms:modified>)")
_WHEN = datetime(2000, 1, 1)
"""When a sheet says that it was made, so that equal jobs give equal bytes."""


class Xlsx(Format):
    """XLSX; cells are text, and no formula is written or run."""

    name = "xlsx"
    label = "XLSX"
    media_type = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    ending = "xlsx"

    def write(self, document: OutDocument) -> bytes:
        # It takes long to load, and few ask for it.
        import openpyxl

        book = openpyxl.Workbook(write_only=True)
        book.properties.created = book.properties.modified = _WHEN
        sheet = book.create_sheet(document.target_locale[:31] or "job")
        for n, name in enumerate(sheets.HEAD):
            sheet.column_dimensions[chr(ord("A") + n)].width = _WIDTHS.get(name, 12)
        sheet.freeze_panes = "A2"
        files = ((f.original, f.title, f.units) for f in document.files)
        rows = sheets.rows(document.job, document.source_locale, document.target_locale, files)
        for n, row in enumerate(rows):
            sheet.append([_cell(sheet, value, head=n == 0) for value in row])
        out = io.BytesIO()
        book.save(out)
        return _same(out.getvalue())

    def knows(self, head: bytes) -> bool:
        return head.startswith(_SIGN)

    def read(self, file: BinaryIO, most: int = MOST_UNITS) -> InDocument:
        import openpyxl
        from openpyxl.utils.exceptions import InvalidFileException

        looked_at(file)
        found = sheets.Reading(most)
        try:
            book = openpyxl.load_workbook(file, read_only=True, data_only=True)
            rows = book.worksheets[0].iter_rows(values_only=True)
            for n, row in enumerate(rows):
                values = ["" if value is None else str(value) for value in row]
                found.row(values) if n else found.head(values)
        except (
            InvalidFileException,
            KeyError,
            ValueError,
            IndexError,
            TypeError,
            zipfile.BadZipFile,
            OSError,
        ) as error:
            raise BadFile("formats.not_xlsx", error=str(error)[:200]) from None
        if not found.target:
            raise BadFile("formats.no_columns", columns=["target"])
        return InDocument(found.job, found.source, found.target, found.files())


def _cell(sheet: object, value: str, *, head: bool) -> Cell:
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.styles import Alignment, Font

    cell = WriteOnlyCell(sheet, value=value)  # type: ignore[arg-type]
    # Whatever it begins with, it is text.
    cell.data_type = "s"
    cell.font = Font(bold=head)
    cell.alignment = Alignment(wrap_text=True, vertical="top")
    return cell


def _same(data: bytes) -> bytes:
    """The archive with every date in it set to one."""
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(data)) as before,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as after,
    ):
        for one in before.infolist():
            # What is saved says when, whatever it was told.
            part = _MODIFIED.sub(rb"\g<1>2000-01-01T00:00:00Z\g<2>", before.read(one))
            after.writestr(zipfile.ZipInfo(one.filename), part, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def looked_at(file: BinaryIO) -> None:
    """Refuse what would grow beyond what a file may have, and XML that declares a document type."""
    try:
        with zipfile.ZipFile(file) as packed:
            if sum(one.file_size for one in packed.infolist()) > LARGEST:
                raise BadFile("formats.too_large", most=LARGEST // 1_000_000)
            for one in packed.infolist():
                if one.filename.endswith((".xml", ".rels")):
                    with packed.open(one) as part:
                        if b"<!DOCTYPE" in part.read(2_000):
                            raise BadFile("formats.document_type")
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError) as error:
        raise BadFile("formats.not_xlsx", error=str(error)[:200]) from None
    file.seek(0)


FORMAT = Xlsx()
