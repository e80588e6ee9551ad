"""CSV (RFC 4180) with both languages side by side, a row for each sentence (`core.translation.sheets`)."""

from __future__ import annotations

import codecs
import csv
import io
from typing import BinaryIO

from hawthorn.core.errors import BadFile
from hawthorn.core.formats.base import MOST_UNITS, Format, InDocument, OutDocument, whole
from hawthorn.core.translation import sheets

_BOM = "\ufeff"
"""Without it, spreadsheets take the file for one of another encoding."""


def _text(data: bytes, errors: str = "strict") -> str:
    """What a file says, in UTF-8 or, where it begins so, in UTF-16."""
    wide = data.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE))
    return data.decode("utf-16" if wide else "utf-8", errors).lstrip(_BOM)


def mark(first: str) -> str:
    """What stands between the columns of a file whose first line this is."""
    return max(",;\t", key=first.count)


class Csv(Format):
    """CSV in UTF-8; UTF-16, and other separators than the comma, are read too."""

    name = "csv"
    label = "CSV"
    media_type = "text/csv"
    ending = "csv"

    def write(self, document: OutDocument) -> bytes:
        out = io.StringIO()
        rows = csv.writer(out)
        files = ((f.original, f.title, f.units) for f in document.files)
        rows.writerows(sheets.rows(document.job, document.source_locale, document.target_locale, files))
        return (_BOM + out.getvalue()).encode()

    def knows(self, head: bytes) -> bool:
        first = _text(head, "ignore").split("\n")[0].lower()
        return {name.strip('\r" ') for name in first.split(mark(first))} >= sheets.NEEDED

    def read(self, file: BinaryIO, most: int = MOST_UNITS) -> InDocument:
        try:
            text = _text(whole(file))
        except UnicodeDecodeError as error:
            raise BadFile("formats.not_utf8", at=error.start) from None
        found = sheets.Reading(most)
        between = mark(text.split("\n")[0])
        rows = csv.reader(io.StringIO(text, newline=""), delimiter=between, strict=True)
        try:
            for n, row in enumerate(rows):
                found.row(row) if n else found.head(row)
        except csv.Error as error:
            raise BadFile("formats.not_csv", line=rows.line_num, error=error) from None
        if not found.target:
            raise BadFile("formats.no_columns", columns=["target"])
        return InDocument(found.job, found.source, found.target, found.files())


FORMAT = Csv()
