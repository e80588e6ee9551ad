"""Where the bytes of files lie when they do not lie in the record file: a folder, or a store that speaks the protocol of S3.

Names come from what is kept (the SHA-256 of the bytes), so that nothing is ever put in place of something else: putting twice is
putting once, and what was read may be kept for ever.
"""

from __future__ import annotations

import errno
import os
import secrets
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING, Protocol
from urllib.parse import parse_qs, urlsplit

from hawthorn.core.errors import BadSetting, FileStoreFails
from hawthorn.core.messages import said
from hawthorn.store import buckets, private

if TYPE_CHECKING:
    from obstore.store import S3Store

_PATIENCE = 30.0
"""For so many seconds a store that does not answer is asked again before whoever waits is told."""
_LEFT = 86_400
"""Seconds after which what is still being written is not written any more."""
_ASKED = {"endpoint": "aws_endpoint", "region": "aws_region", "virtual-hosts": "virtual_hosted_style_request"}
"""What the address of a bucket may say besides, by the names that its client has for it."""


class FileStore(Protocol):
    """Bytes by name. All raise `FileStoreFails` when the store does not answer or refuses."""

    def put(self, name: str, data: bytes | Path) -> None:
        """Keep bytes, or those that lie somewhere, unless they are kept; they are on a disk when this returns."""

    def size(self, name: str) -> int | None:
        """How many bytes are kept; None for nothing."""

    def part(self, name: str, start: int, length: int) -> bytes:
        """Some of the bytes."""

    def kept(self, prefix: str) -> Iterator[tuple[str, int]]:
        """All that is kept whose name begins so, with its bytes."""


def named(sha256: str) -> str:
    """The name of a file's bytes."""
    return f"files/{sha256[:2]}/{sha256}"


def opened(place: str) -> FileStore | None:
    """The store at a place: a folder's path or `s3://bucket/prefix`; None for none. Raises `BadSetting` for what is no place."""
    if not place:
        return None
    if "://" not in place:
        return Folder(Path(place))
    if place.startswith("s3://") and urlsplit(place).netloc:
        return Bucket(place)
    raise BadSetting(said("wrong_setting.file_store", place=place))


class Folder:
    """Files in a folder of this machine, or of a disk that several machines share."""

    def __init__(self, root: Path) -> None:
        self.root = root.resolve()
        self._aside = self.root / ".unfinished"

    def _sweep(self) -> None:
        """What a process left that ended while it wrote."""
        for one in self._aside.iterdir():
            with suppress(OSError):
                if one.stat().st_mtime < time.time() - _LEFT:
                    one.unlink()

    def put(self, name: str, data: bytes | Path) -> None:
        """Keep bytes under a name of their own first, so that whoever reads meanwhile sees all of them or none."""
        to = self.root / name
        with self._failing():
            size = len(data) if isinstance(data, bytes) else data.stat().st_size
            if to.is_file() and to.stat().st_size == size:
                return
            self.root.parent.mkdir(parents=True, exist_ok=True)
            folders = [self.root / one for one in reversed(Path(name).parents)]
            for folder in (*folders, self._aside):
                folder.mkdir(mode=0o700, exist_ok=True)
            self._sweep()
            made = self._aside / secrets.token_hex(8)
            try:
                _written(made, data)
                made.replace(to)
            finally:
                made.unlink(missing_ok=True)
            # The names of a folder are on the disk only when it is told.
            for folder in reversed(folders):
                _synced(folder)

    def size(self, name: str) -> int | None:
        """The size of the file."""
        with self._failing():
            try:
                return (self.root / name).stat().st_size
            except FileNotFoundError:
                return None

    def part(self, name: str, start: int, length: int) -> bytes:
        """Some of the file."""
        with self._failing(), (self.root / name).open("rb") as file:
            file.seek(start)
            return file.read(length)

    def kept(self, prefix: str) -> Iterator[tuple[str, int]]:
        """The files; what is being written lies elsewhere."""
        with self._failing():
            self.root.stat()
            for path in (self.root / prefix).rglob("*"):
                if path.is_file():
                    yield path.relative_to(self.root).as_posix(), path.stat().st_size

    @contextmanager
    def _failing(self) -> Iterator[None]:
        try:
            yield
        except OSError as error:
            code = "full" if error.errno in (errno.ENOSPC, errno.EDQUOT) else "folder"
            raise FileStoreFails(
                f"file_store_fails.{code}", place=self.root.name, error=error.strerror
            ) from error


def _written(path: Path, data: bytes | Path) -> None:
    # As with the record file: nobody else on the machine reads it.
    with private.created(path) as file:
        if isinstance(data, bytes):
            file.write(data)
        else:
            with data.open("rb") as source:
                while part := source.read(1 << 20):
                    file.write(part)
        private.settled(file)


def _synced(folder: Path) -> None:
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


class Bucket:
    """Objects in a bucket, by the protocol of S3."""

    def __init__(self, url: str) -> None:
        parts = urlsplit(url)
        self.bucket, self._prefix = parts.netloc, parts.path.strip("/")
        asked = {name: values[0] for name, values in parse_qs(parts.query).items()}
        if strange := sorted(set(asked) - set(_ASKED)):
            raise BadSetting(said("wrong_setting.bucket", name=strange[0], known=[*_ASKED]))
        self._config = {_ASKED[name]: value for name, value in asked.items()}
        self._with: S3Store | None = None

    @property
    def _store(self) -> S3Store:
        if self._with is None:
            self._with = buckets.opened(self.bucket, self._prefix, self._config, _PATIENCE)
        return self._with

    def put(self, name: str, data: bytes | Path) -> None:
        """Put an object, in parts where it is long; the store is sent a sum of each to hold it against."""
        import obstore

        size = len(data) if isinstance(data, bytes) else data.stat().st_size
        if self.size(name) == size:
            return
        with buckets.failing(self.bucket, reading=False):
            obstore.put(self._store, name, data)

    def size(self, name: str) -> int | None:
        """The size of the object."""
        with buckets.failing(self.bucket):
            return self._size(name)

    def _size(self, name: str) -> int | None:
        store = self._store
        import obstore

        try:
            return int(obstore.head(store, name)["size"])
        except FileNotFoundError:
            return None

    def part(self, name: str, start: int, length: int) -> bytes:
        """Some of the object, asked for by `Range`."""
        store = self._store
        import obstore

        if not length:
            return b""
        with buckets.failing(self.bucket):
            return bytes(obstore.get_range(store, name, start=start, length=length))

    def kept(self, prefix: str) -> Iterator[tuple[str, int]]:
        """The objects, a thousand at a time."""
        store = self._store
        import obstore

        with buckets.failing(self.bucket):
            for some in obstore.list(store, prefix, chunk_size=1000):
                for one in some:
                    yield one["path"], one["size"]
