"""Holding a file of SQLite as it is, against a program of its own that would change it.

A lock for reading on the bytes that SQLite locks (sqlite3 source, os.h: `PENDING_BYTE`, `SHARED_FIRST`, `SHARED_SIZE`), owned by the open file
and not by the process (fcntl(2), "open file description locks"). What SQLite itself would hold is not enough: whether it holds anything between
two questions depends on how the file is written, which the other program may change.
"""

from __future__ import annotations

import fcntl
import os
import struct
from pathlib import Path

from hawthorn.core.errors import BadStore

_PENDING = (0x40000000, 1)
_SHARED = (0x40000002, 510)
_FLOCK = "hhqqi4x"
"""`struct flock`: kind, from where, start, length, process."""


def _told(kind: int, part: tuple[int, int]) -> bytes:
    return struct.pack(_FLOCK, kind, os.SEEK_SET, *part, 0)


_LOOK = _told(fcntl.F_RDLCK, _PENDING)


class Hold:
    """A lock on a file for reading, taken and let go of as often as need be."""

    def __init__(self, path: Path) -> None:
        if not hasattr(fcntl, "F_OFD_SETLK"):
            raise BadStore("copies.no_locks")
        self._fd = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
        self.taken = False

    def take(self) -> bool:
        """Take it, unless somebody changes the file or waits to."""
        if not self.taken and self._lock(_PENDING):
            self.taken = self._lock(_SHARED)
            self._unlock(_PENDING)
        return self.taken

    def release(self) -> None:
        """Let go of it."""
        if self.taken:
            self._unlock(_SHARED)
            self.taken = False

    def asked(self) -> bool:
        """Whether somebody changes the file or waits to."""
        found = fcntl.fcntl(self._fd, fcntl.F_OFD_GETLK, _LOOK)
        return bool(struct.unpack(_FLOCK, found)[0] != fcntl.F_UNLCK)

    def close(self) -> None:
        """Let go of it for good."""
        if self._fd >= 0:
            os.close(self._fd)
        # Whoever closes a number twice closes what somebody else opened meanwhile.
        self._fd = -1
        self.taken = False

    def _lock(self, part: tuple[int, int]) -> bool:
        try:
            fcntl.fcntl(self._fd, fcntl.F_OFD_SETLK, _told(fcntl.F_RDLCK, part))
        except BlockingIOError:
            return False
        return True

    def _unlock(self, part: tuple[int, int]) -> None:
        fcntl.fcntl(self._fd, fcntl.F_OFD_SETLK, _told(fcntl.F_UNLCK, part))
