"""Files that nobody else on the machine reads."""

from __future__ import annotations

import os
from pathlib import Path
from typing import IO


def created(path: Path) -> IO[bytes]:
    """A new file that only its owner reads and writes. Raises `FileExistsError` where there is one."""
    return os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb")


def settled(file: IO[bytes]) -> None:
    """See to it that what was written lies on the disk."""
    file.flush()
    os.fsync(file.fileno())
