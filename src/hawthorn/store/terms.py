"""Who writes: of all services that ever did, the one whose term is the last where replicas lie.

Each term has a marker in the folder or bucket, made once by whoever begins it, and a part of its own for the replica. A service looks before each write, and
again before it is kept: one whose term is over, or who cannot reach the place and so cannot know, writes no more.
"""

from __future__ import annotations

import json
import os
import re
import socket
import sqlite3
import time
from collections.abc import Callable, Iterable
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Protocol
from urllib.parse import parse_qsl, unquote, urlsplit, urlunsplit

from hawthorn.core.errors import Fenced, FileStoreFails, Invalid
from hawthorn.store import buckets, connection, definitions, failing

if TYPE_CHECKING:
    from obstore.store import S3Store

_MARKER = re.compile(r"term-(\d{6})\.json")
_PATIENCE = 5.0
"""Seconds after which a bucket that does not answer counts as one that cannot be reached."""
_TRUSTED = 1.0
"""Seconds for which a service goes on writing after it has looked into a bucket."""
SETTING = "term"
"""The setting of the record file that has its own term."""


class Place(Protocol):
    """Where replicas of a record file lie, each term's in a part of its own, with a marker for each term."""

    settles: float
    """Seconds without anything new after which all has come that was written before a term began."""
    apart: float
    """Seconds by which the clock there may differ."""

    def latest(self) -> int:
        """The last term that was begun; 0 for none."""

    def begin(self, term: int) -> None:
        """Begin a term, if nobody else has; raises `Fenced`."""

    def part(self, term: int) -> str:
        """The address of a term's replica."""

    def holds(self, term: int) -> int:
        """How many files or objects a term's replica has."""

    def newest(self, term: int) -> float:
        """When the newest of a term's replica came, in seconds since 1970; 0 for none. Raises `FileStoreFails` or `OSError` while nobody can say."""

    def fence(self, term: int) -> Callable[[], None]:
        """What raises `Fenced` once another term than this has begun, or while nobody can say."""


def place_of(url: str) -> Place | None:
    """The place that an address names: a folder, or a bucket; None for one where terms cannot be marked."""
    parts = urlsplit(url)
    if parts.scheme == "file" and parts.netloc in ("", "localhost") and parts.path:
        return Folder(Path(unquote(parts.path)))
    if parts.scheme == "s3" and parts.netloc:
        return Bucket(url)
    return None


def required(url: str) -> Place:
    """The same; raises `Invalid` for one that names none."""
    place = place_of(url)
    if place is None:
        raise Invalid("copies.no_folder", url=url)
    return place


def _marker(term: int) -> str:
    return f"term-{term:06d}.json"


def _said(term: int) -> str:
    """Who begins a term, and when, for whoever looks there."""
    at = time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime())
    return json.dumps({"term": term, "host": socket.gethostname(), "at": at}) + "\n"


def _last(names: Iterable[str]) -> int:
    found = (_MARKER.fullmatch(name) for name in names)
    return max((int(one[1]) for one in found if one), default=0)


class Folder:
    """A folder of this machine, or of a disk that several share."""

    settles = 1.2
    apart = 0.0

    def __init__(self, path: Path) -> None:
        self.path = path

    def latest(self) -> int:
        """By the names in the folder."""
        return _last(os.listdir(self.path)) if self.path.exists() else 0

    def begin(self, term: int) -> None:
        """A link is made whole or not at all, and by one alone."""
        self.path.mkdir(mode=0o700, parents=True, exist_ok=True)
        made = self.path / f".term-{term:06d}-{os.getpid()}"
        with made.open("w") as file:
            file.write(_said(term))
            file.flush()
            os.fsync(file.fileno())
        try:
            os.link(made, self.path / _marker(term))
        except FileExistsError:
            raise Fenced("copies.taken_meanwhile", term=term) from None
        finally:
            made.unlink()

    def part(self, term: int) -> str:
        """A folder in the folder."""
        return (self.path / f"{term:06d}").resolve().as_uri()

    def holds(self, term: int) -> int:
        """The files below it."""
        return sum(1 for _ in (self.path / f"{term:06d}").rglob("*"))

    def newest(self, term: int) -> float:
        """By the times of the files below it."""
        newest = 0.0
        for folder, _, names in os.walk(self.path / f"{term:06d}"):
            for name in names:
                # One may be put together with others, and be gone, meanwhile.
                with suppress(FileNotFoundError):
                    newest = max(newest, os.stat(os.path.join(folder, name)).st_mtime)
        return newest

    def fence(self, term: int) -> Callable[[], None]:
        """One look a write, and a list only after the folder changed."""
        seen = -1

        def check() -> None:
            nonlocal seen
            try:
                changed = os.stat(self.path).st_mtime_ns
                if changed == seen:
                    return
                last = self.latest()
            except OSError as error:
                raise Fenced("copies.cannot_know", folder=str(self.path), error=error) from None
            if last > term:
                raise Fenced("copies.taken_over", term=last)
            seen = changed

        return check


class Bucket:
    """A bucket of a store that speaks the protocol of S3, as Litestream names it: `s3://bucket/prefix?endpoint=…&region=…`."""

    settles = 3.0
    """What is trusted for a second may be written a second after a term began, and is sent a second later at most."""
    apart = 3.0
    """It counts whole seconds, by a clock of its own."""

    def __init__(self, url: str) -> None:
        self._parts = urlsplit(url)
        asked = dict(parse_qsl(self._parts.query))
        names = {"endpoint": "aws_endpoint", "region": "aws_region"}
        self._asked = {names[name]: value for name, value in asked.items() if name in names}
        if (endpoint := self._asked.get("aws_endpoint")) and "://" not in endpoint:
            self._asked["aws_endpoint"] = f"https://{endpoint}"
        self._with: S3Store | None = None

    @property
    def _store(self) -> S3Store:
        if self._with is None:
            prefix = self._parts.path.strip("/")
            self._with = buckets.opened(self._parts.netloc, prefix, self._asked, _PATIENCE)
        return self._with

    def latest(self) -> int:
        """By the names of the objects at the top."""
        store = self._store
        import obstore

        with buckets.failing(self._parts.netloc):
            found = obstore.list_with_delimiter(store)["objects"]
        return _last(one["path"] for one in found)

    def begin(self, term: int) -> None:
        """An object that is put only where there is none (RFC 9110, section 13.1.2), and so by one alone."""
        store = self._store
        import obstore
        from obstore.exceptions import AlreadyExistsError

        with buckets.failing(self._parts.netloc, reading=False):
            try:
                obstore.put(store, _marker(term), _said(term).encode(), mode="create")
            except AlreadyExistsError:
                raise Fenced("copies.taken_meanwhile", term=term) from None

    def part(self, term: int) -> str:
        """A prefix below the prefix."""
        path = f"{self._parts.path.rstrip('/')}/{term:06d}"
        return urlunsplit(self._parts._replace(path=path))

    def holds(self, term: int) -> int:
        """The objects below it."""
        store = self._store
        import obstore

        with buckets.failing(self._parts.netloc):
            return sum(len(some) for some in obstore.list(store, f"{term:06d}/"))

    def newest(self, term: int) -> float:
        """By the times of the objects below it."""
        store = self._store
        import obstore

        with buckets.failing(self._parts.netloc):
            some = (one for part in obstore.list(store, f"{term:06d}/") for one in part)
            return max((one["last_modified"].timestamp() for one in some), default=0.0)

    def fence(self, term: int) -> Callable[[], None]:
        """One look a second at most, while somebody writes."""
        looked = 0.0

        def check() -> None:
            nonlocal looked
            if looked and time.monotonic() - looked < _TRUSTED:
                return
            now = time.monotonic()
            try:
                last = self.latest()
            except FileStoreFails as error:
                raise Fenced("copies.cannot_know", folder=self._parts.netloc, error=error.message) from None
            if last > term:
                raise Fenced("copies.taken_over", term=last)
            looked = now

        return check


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
