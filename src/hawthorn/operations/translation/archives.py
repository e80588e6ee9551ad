"""Several translated files in one ZIP archive: read one by one, each for the job that it names."""

from __future__ import annotations

import io
import zipfile
import zlib
from collections.abc import Iterator
from typing import BinaryIO

from hawthorn.core import formats
from hawthorn.core.errors import BadFile, HawthornError
from hawthorn.core.formats import InDocument
from hawthorn.core.quick import dataclass
from hawthorn.operations.translation.exporting import MOST_JOBS

_WHOLE = 4 * formats.LARGEST
"""So many bytes all files of an archive may have, unpacked."""


@dataclass(frozen=True, slots=True)
class Packed:
    """A file of an archive: what it holds, or why it cannot be read."""

    name: str
    document: InDocument | None
    refused: HawthornError | None = None


def read(file: BinaryIO) -> Iterator[Packed]:
    """The files of an archive, one by one. Raises `BadFile` for what is no archive, has none or too many, or is too large unpacked; a file in it
    that cannot be read is named with its reason."""
    try:
        with zipfile.ZipFile(file) as packed:
            some = [one for one in packed.infolist() if not one.is_dir() and not _hidden(one.filename)]
            if not some:
                raise BadFile("archives.empty")
            # A file is never unpacked beyond the size that the archive gives for it.
            if len(some) > MOST_JOBS or sum(one.file_size for one in some) > _WHOLE:
                raise BadFile("archives.too_large", most=MOST_JOBS, size=_WHOLE // 1_000_000)
            for one in some:
                yield _read(packed, one)
    except zipfile.BadZipFile:
        raise BadFile("archives.no_archive") from None


def _hidden(name: str) -> bool:
    """What file managers put into archives beside what was meant."""
    return name.startswith("__MACOSX/") or name.rsplit("/", 1)[-1].startswith(".")


def _read(packed: zipfile.ZipFile, one: zipfile.ZipInfo) -> Packed:
    name = one.filename[:200]
    try:
        if one.file_size > formats.LARGEST:
            raise BadFile("formats.too_large", most=formats.LARGEST // 1_000_000)
        document = formats.read(io.BytesIO(packed.read(one)))
        if not document.job:
            raise BadFile("archives.names_no_job")
    except (zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, EOFError) as error:
        return Packed(name, None, BadFile("archives.not_unpacked", why=str(error)[:200]))
    except HawthornError as error:
        return Packed(name, None, error)
    return Packed(name, document)
