"""Pages: Markdown with front matter, and HTML, one by itself or as many as a ZIP archive (APPNOTE 6.3) holds, each a row."""

from __future__ import annotations

import re
import zipfile
import zlib
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from typing import IO, Any, BinaryIO

from hawthorn.core.errors import BadFile
from hawthorn.core.exchange.rows import html_page, markdown_page
from hawthorn.core.exchange.rows.base import FILE, Row, RowFormat

MOST_PAGES = 20_000
LARGEST = 4_000_000
"""The bytes that a page may have."""
_READ: Mapping[str, Callable[[bytes], dict[str, Any]]] = {
    "md": markdown_page.cells,
    "markdown": markdown_page.cells,
    "html": html_page.cells,
    "htm": html_page.cells,
}
_PICTURES = {"png", "jpg", "jpeg", "gif", "webp", "avif", "svg"}
LARGEST_PICTURE = 50_000_000
"""The bytes that a picture may have."""
_OUT = re.compile(r"(^|[/\\])\.\.([/\\]|$)|^[/\\]|^[A-Za-z]:|\x00")


def _ending(name: str) -> str:
    return name.rpartition(".")[2].lower()


class Pages(RowFormat):
    """Pages, in an archive or one by itself. Folders and files whose names begin with a dot are left out, and so is whatever is no page."""

    name = "pages"
    endings = (*_READ, "zip")

    def knows(self, ending: str, head: bytes) -> bool:
        return ending in self.endings and head.startswith(b"PK") == (ending == "zip")

    def rows(self, file: BinaryIO) -> Iterator[Row]:
        file.seek(0)
        packed = file.read(2) == b"PK"
        if packed:
            yield from self._archive(file)
            return
        file.seek(0)
        data = file.read(LARGEST + 1)
        if len(data) > LARGEST:
            raise BadFile("rows.page_too_large", name="", most=LARGEST)
        # By itself a page has no name that says what it is: one that begins with markup is HTML.
        ending = "html" if data.lstrip(b"\xef\xbb\xbf \t\r\n")[:1] == b"<" else "md"
        yield _row("", _READ[ending], data)

    def names(self, file: BinaryIO) -> list[str]:
        file.seek(0)
        if file.read(2) != b"PK":
            return []
        with _opened(file) as archive:
            return _names(archive)

    def pictures(self, file: BinaryIO) -> frozenset[str]:
        file.seek(0)
        if file.read(2) != b"PK":
            return frozenset()
        with _opened(file) as archive:
            return frozenset(one.filename for one in archive.infolist() if _ending(one.filename) in _PICTURES)

    @contextmanager
    def picture(self, file: BinaryIO, name: str) -> Iterator[IO[bytes]]:
        with _opened(file) as archive, archive.open(name) as member:
            if archive.getinfo(name).file_size > LARGEST_PICTURE:
                raise BadFile("rows.picture_too_large", most=LARGEST_PICTURE)
            yield member

    def _archive(self, file: BinaryIO) -> Iterator[Row]:
        with _opened(file) as archive:
            for name in _names(archive):
                yield _row(name, _READ[_ending(name)], _bytes(archive, name))


@contextmanager
def _opened(file: BinaryIO) -> Iterator[zipfile.ZipFile]:
    try:
        with zipfile.ZipFile(file) as archive:
            yield archive
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, RuntimeError) as error:
        raise BadFile("rows.no_archive", error=error) from None


def _names(archive: zipfile.ZipFile) -> list[str]:
    names = [one.filename for one in archive.infolist() if not one.is_dir()]
    for name in names:
        if _OUT.search(name):
            raise BadFile("rows.leads_out", name=name[:200])
    found = [
        name
        for name in names
        if _ending(name) in _READ and not any(part[:1] in (".", "_") for part in name.split("/"))
    ]
    if len(set(found)) != len(found):
        raise BadFile("rows.page_twice", name=next(one for one in found if found.count(one) > 1)[:200])
    if not found:
        raise BadFile("rows.no_pages", endings=sorted(_READ))
    if len(found) > MOST_PAGES:
        raise BadFile("rows.too_many", most=MOST_PAGES)
    return sorted(found)


def _bytes(archive: zipfile.ZipFile, name: str) -> bytes:
    with archive.open(name) as member:
        data = member.read(LARGEST + 1)
    if len(data) > LARGEST:
        raise BadFile("rows.page_too_large", name=name[:200], most=LARGEST)
    return data


def _row(name: str, read: Callable[[bytes], dict[str, Any]], data: bytes) -> Row:
    try:
        cells = read(data)
    except BadFile as error:
        raise BadFile("rows.bad_page", name=name[:200], why=error.message) from None
    return Row(name, cells | ({FILE: name} if name else {}))


FORMAT = Pages()
