"""Bureaus that work on files in a folder: what goes out is put into `out`, what is dropped into `in` is taken.

Each has a folder of its own below the setting `bureau_folders`. A file that was taken moves to `taken`; one that cannot be taken moves to
`refused`, with the reason in a text beside it. Files belong to the job that they name, whatever they are called.
"""

from __future__ import annotations

import hashlib
import os
import re
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from hawthorn.core import formats
from hawthorn.core.errors import HawthornError
from hawthorn.core.messages import Message, said
from hawthorn.core.translation.offers import Offer
from hawthorn.followers.connectors import base
from hawthorn.followers.connectors.base import No, NotNow, Parcel, Part, Standing

SETTLED = 2.0
"""Seconds for which a file has to have stood still: it may be on its way still."""
_NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9 ._-]{0,79}")
_UUID = re.compile(r"[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}")
_MOST = 500


class InFolder(base.Connector):
    """A folder that somebody looks after."""

    kind = "folder"

    def __init__(self, reach: base.Reach, tools: base.Tools) -> None:
        super().__init__(reach, tools)
        self._known: dict[tuple[str, int, int], str] = {}

    @staticmethod
    def wrong_address(address: str) -> Message | None:
        """The name of a folder, and no path out of it."""
        fits = _NAME.fullmatch(address) and not address.endswith((".", " ")) and ".." not in address
        return None if fits else said("bureaus.wants_folder")

    def offer(self) -> Offer:
        """Any language; its folders are made, and must be there to write to."""
        with _usable():
            for name in ("out", "in", "taken", "refused"):
                self._at(name).mkdir(parents=True, exist_ok=True)
            trial = self._at("out") / ".trial"
            trial.write_bytes(b"")
            trial.unlink()
        return Offer()

    def send(self, parcel: Parcel) -> None:
        """Put the file down, whole or not at all."""
        self.offer()
        to = self._at("out") / f"{_of(parcel.id)} {parcel.file_name}"
        made = to.with_name(f".{to.name}")
        with _usable():
            with made.open("wb") as file:
                file.write(parcel.data)
                file.flush()
                os.fsync(file.fileno())
            made.replace(to)

    def set_day(self, parcel: Parcel) -> None:
        """Put the file down once more, which says the day, as long as nobody has taken it."""
        with _usable():
            waits = any(self._at("out").glob(f"{_of(parcel.id)} *"))
        if not waits:
            raise No("connector.taken_away")
        self.send(parcel)

    def look(self, id: str) -> Standing:
        """What lies there of a job. Nobody says when it is finished: it is when nothing is open."""
        parts: list[Part] = []
        for path in self._settled():
            if self._job_in(path) == _of(id) and (data := self._read(path)) is not None:
                parts.append(Part(path.name, hashlib.sha256(data).hexdigest()))
        return Standing("in work", parts=tuple(parts))

    def fetch(self, id: str, part: Part) -> bytes:
        """A file that lies there."""
        data = self._read(self._at("in") / part.id)
        if data is None or hashlib.sha256(data).hexdigest() != part.sha256:
            raise NotNow("connector.another_digest", part=part.id)
        return data

    def taken(self, id: str, part: Part, trouble: str) -> None:
        """Out of the way, so that what is dropped under the same name is new."""
        self._away(self._at("in") / part.id, trouble)

    def answer(self, id: str, question: str, text: str, by: str) -> None:
        """Nothing: nobody asks here."""

    def cancel(self, id: str) -> None:
        """What waits for somebody to take it is taken back."""
        with _usable():
            for path in self._at("out").glob(f"{_of(id)} *"):
                path.unlink(missing_ok=True)

    def _at(self, name: str) -> Path:
        root = self.tools.options.bureau_folders
        if not root:
            raise No("connector.no_folders")
        return Path(root) / self.reach.address / name

    def _settled(self) -> list[Path]:
        """The files that have stood still, oldest first."""
        found: list[tuple[int, Path]] = []
        with _usable(), suppress(FileNotFoundError):
            with os.scandir(self._at("in")) as there:
                for one in there:
                    if one.name.startswith(".") or not one.is_file(follow_symlinks=False):
                        continue
                    changed = one.stat(follow_symlinks=False).st_mtime
                    if abs(time.time() - changed) >= SETTLED:
                        found.append((one.stat(follow_symlinks=False).st_mtime_ns, Path(one.path)))
        return [path for _, path in sorted(found)][:_MOST]

    def _read(self, path: Path) -> bytes | None:
        """A file, or None for one that is gone; what is too large is out of the way."""
        with _usable(), suppress(FileNotFoundError):
            if path.stat().st_size <= base.LARGEST:
                return path.read_bytes()
            self._away(path, self.tools.words(said("connector.too_large", most=base.LARGEST)))
        return None

    def _job_in(self, path: Path) -> str:
        """The job that a file names, or, where a tool dropped that, its name; it is read once. What names none is out of the way, with
        the reason beside it."""
        with _usable(), suppress(FileNotFoundError):
            there = path.stat()
            key = (path.name, there.st_mtime_ns, there.st_size)
            if key not in self._known:
                self._known[key] = self._named(path)
            return self._known[key]
        return ""

    def _named(self, path: Path) -> str:
        data = self._read(path)
        if data is None:
            return ""
        try:
            job = formats.read(data).job
        except HawthornError as error:
            self._away(path, self.tools.words(error.message))
            return ""
        by_name = _UUID.search(path.name.lower())
        if not job and by_name is None:
            self._away(path, self.tools.words(said("connector.names_no_job")))
        return job or (by_name[0] if by_name else "")

    def _away(self, path: Path, trouble: str) -> None:
        with _usable(), suppress(FileNotFoundError):
            to = self._at("refused" if trouble else "taken")
            to.mkdir(parents=True, exist_ok=True)
            at = time.strftime("%Y%m%d-%H%M%S")
            # Never over another of the same name.
            name = next(
                n
                for tries in range(1_000_000)
                if not (to / (n := f"{at}-{tries} {path.name}" if tries else f"{at} {path.name}")).exists()
            )
            path.replace(to / name)
            if trouble:
                (to / f"{name}.txt").write_text(f"{trouble}\n", "utf-8")


@contextmanager
def _usable() -> Iterator[None]:
    """What goes wrong with a folder is its bureau's trouble, not the record file's, and holds up no other."""
    try:
        yield
    except OSError as error:
        raise NotNow("connector.folder", why=error.strerror or type(error).__name__) from error


def _of(id: str) -> str:
    """The job's own UUID: files name it, whatever number of sending they are of."""
    return id.rsplit("-", 1)[0]


KIND = InFolder
