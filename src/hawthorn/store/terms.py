"""Who writes: of all services that ever did, the one whose term is the last in the folder of the replica.

Each term has a marker in the folder, made once by whoever begins it, and a part of its own for the replica. A service looks before each write: one whose
term is over, or who cannot reach the folder and so cannot know, writes no more.
"""

from __future__ import annotations

import json
import os
import re
import socket
import sqlite3
import time
from pathlib import Path
from urllib.parse import unquote, urlsplit

from hawthorn.core.errors import Fenced, Invalid
from hawthorn.store import connection, definitions, failing

_MARKER = re.compile(r"term-(\d{6})\.json")
SETTING = "term"
"""The setting of the record file that has its own term."""


def folder_of(url: str) -> Path | None:
    """The folder that an address names; None for one that names none."""
    parts = urlsplit(url)
    if parts.scheme != "file" or parts.netloc not in ("", "localhost") or not parts.path:
        return None
    return Path(unquote(parts.path))


def required_folder(url: str) -> Path:
    """The same; raises `Invalid` for one that names none."""
    folder = folder_of(url)
    if folder is None:
        raise Invalid("copies.no_folder", url=url)
    return folder


def latest(folder: Path) -> int:
    """The last term that was begun; 0 for none."""
    names = (_MARKER.fullmatch(name) for name in os.listdir(folder)) if folder.exists() else ()
    return max((int(found[1]) for found in names if found), default=0)


def part(folder: Path, term: int) -> Path:
    """Where the replica of a term lies."""
    return folder / f"{term:06d}"


def begin(folder: Path, term: int) -> None:
    """Begin a term, if nobody else has; raises `Fenced`."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    said = json.dumps(
        {"term": term, "host": socket.gethostname(), "at": time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime())}
    )
    made = folder / f".term-{term:06d}-{os.getpid()}"
    with made.open("w") as file:
        file.write(said + "\n")
        file.flush()
        os.fsync(file.fileno())
    try:
        # A link is made whole or not at all, and by one alone.
        os.link(made, folder / f"term-{term:06d}.json")
    except FileExistsError:
        raise Fenced("copies.taken_meanwhile", term=term) from None
    finally:
        made.unlink()


def own(conn: sqlite3.Connection) -> int:
    """The term of a record file; 0 before it had any."""
    return int(definitions.setting(conn, SETTING) or 0)


def of_file(file: Path) -> int:
    """The term of a record file that may not be there yet, which is left as it is."""
    if not file.exists():
        return 0
    with failing.named(file):
        conn = connection.open_still(file)
        try:
            has = conn.execute("SELECT 1 FROM sqlite_master WHERE name = 'setting'").fetchone()
            return own(conn) if has else 0
        finally:
            conn.close()


class Fence:
    """Looks whether this service's term is the last; one look a write, and a list only after the folder changed."""

    def __init__(self, folder: Path, term: int) -> None:
        self.folder = folder
        self.term = term
        self._seen = -1

    def check(self) -> None:
        """Raises `Fenced` once another term has begun, or while nobody can say."""
        try:
            changed = os.stat(self.folder).st_mtime_ns
            if changed == self._seen:
                return
            last = latest(self.folder)
        except OSError as error:
            raise Fenced("copies.cannot_know", folder=str(self.folder), error=error) from None
        if last > self.term:
            raise Fenced("copies.taken_over", term=last)
        self._seen = changed
