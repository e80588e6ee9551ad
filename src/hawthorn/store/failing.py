"""What goes wrong with the record file itself, named so that whoever reads it knows what to do."""

from __future__ import annotations

import errno
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from hawthorn.core.errors import (
    BadStore,
    Busy,
    DiskFull,
    FileStoreFails,
    HawthornError,
    ReadOnly,
    ScannerFails,
)

_FULL = {"SQLITE_FULL", "SQLITE_IOERR_WRITE", "SQLITE_IOERR_SHMSIZE"}
_SHUT = {"SQLITE_READONLY", "SQLITE_CANTOPEN", "SQLITE_PERM", "SQLITE_AUTH"}
_DAMAGED = {"SQLITE_CORRUPT", "SQLITE_NOTADB", "SQLITE_IOERR", "SQLITE_FORMAT"}


@contextmanager
def named(
    path: Path, kinds: type[Exception] | tuple[type[Exception], ...] = sqlite3.DatabaseError
) -> Iterator[None]:
    """Say what a failure of SQLite (or of the system, where it is asked for) means for the record file."""
    try:
        yield
    except kinds as error:
        found = meaning(error, path)
        if found is None:
            raise
        raise found from error


def of_file(error: BaseException) -> bool:
    """Whether a failure is one of the record file, its disk, where files lie or what looks for malware in them, rather than of what was being done with it."""
    if isinstance(error, BadStore | Busy | FileStoreFails | ScannerFails):
        return True
    return isinstance(error, sqlite3.DatabaseError | OSError) and meaning(error, Path()) is not None


def meaning(error: Exception, path: Path) -> HawthornError | None:
    """What a failure means: the disk is full, the file cannot be written or is damaged, it is busy; None for a fault of ours."""
    if isinstance(error, OSError):
        return _of_system(error, path)
    code = str(getattr(error, "sqlite_errorname", ""))
    if code in _FULL:
        return _full(path)
    if code.startswith(tuple(_SHUT)):
        return _shut(path)
    if code == "SQLITE_INTERRUPT":
        return Busy("failing.reading_ended")
    if code.startswith(("SQLITE_BUSY", "SQLITE_LOCKED")):
        return Busy("failing.busy")
    if code == "SQLITE_NOTADB":
        return BadStore("failing.no_record_file", file=path.name, error=error)
    if code.startswith(tuple(_DAMAGED)):
        return BadStore("failing.damaged", file=path.name, error=error)
    return None


def _of_system(error: OSError, path: Path) -> HawthornError | None:
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return _full(path)
    if error.errno in (errno.EROFS, errno.EACCES, errno.EPERM):
        return _shut(path)
    return None


def _full(path: Path) -> DiskFull:
    return DiskFull("failing.disk_full", file=path.name)


def _shut(path: Path) -> ReadOnly:
    return ReadOnly("failing.cannot_be_written", file=path.name)
