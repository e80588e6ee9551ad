"""A package: a ZIP archive (APPNOTE 6.3) of JSON Lines and files, the same bytes for the same contents.

`setup.json` (the definitions that its entries need), `entries.jsonl`, `files.jsonl`, `people.jsonl`, the bytes of files under `files/`, where there are any
`memories.jsonl` with `sentences.jsonl`, `glossaries.jsonl` with `concepts.jsonl` and `dispatches.jsonl`, and `hawthorn.json`, which
says of each part how long it is and what its bytes hash to. Nothing in it says when or where it was made.
"""

from __future__ import annotations

import hashlib
import re
import zipfile
import zlib
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from itertools import chain
from typing import IO, Any, BinaryIO, TypeVar

from hawthorn.core.errors import BadFile
from hawthorn.core.exchange import lines
from hawthorn.core.exchange.lines import (
    CollectionLine,
    ConceptLine,
    DispatchLine,
    EntryLine,
    FileLine,
    Manifest,
    Part,
    PersonLine,
    SentenceLine,
)

T = TypeVar("T")
VERSION = 1
"""The version of packages that is written, and the newest that is read."""
MANIFEST, SETUP, ENTRIES, FILES, PEOPLE = (
    "hawthorn.json", "setup.json", "entries.jsonl", "files.jsonl", "people.jsonl",
)  # fmt: skip
MEMORIES, SENTENCES, GLOSSARIES, CONCEPTS, DISPATCHES = (
    "memories.jsonl", "sentences.jsonl", "glossaries.jsonl", "concepts.jsonl", "dispatches.jsonl",
)  # fmt: skip
_PARTS = (SETUP, ENTRIES, FILES, PEOPLE)
_SOMETIMES = (MEMORIES, SENTENCES, GLOSSARIES, CONCEPTS, DISPATCHES)
"""Parts that are there where something is in them."""
_FILE = re.compile(r"files/[0-9a-f]{64}")
_PIECE = 1 << 18
_PACKED = 1 << 20
"""So much is packed at once: each time whoever packs waits for its turn."""
LONGEST = 64_000_000
"""The bytes that a line may have: an entry with all its revisions."""
_MOST_SETUP = 16_000_000
_BEGINNING = (1980, 1, 1, 0, 0, 0)
"""The instant of every member: the first that the format can say."""


class Writing:
    """A package that is being written, part by part."""

    def __init__(self, file: BinaryIO, history: bool) -> None:
        self._zip = zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=1)
        self._history = history
        self._parts: dict[str, Part] = {}

    def lines_if_any(self, part: str, some: Iterable[str]) -> None:
        """Write a part of lines, where there is one."""
        rest = iter(some)
        first = next(rest, None)
        if first is not None:
            self.lines(part, chain((first,), rest))

    def lines(self, part: str, some: Iterable[str]) -> None:
        """Write a part of lines."""
        count, digest = 0, hashlib.sha256()

        def write(waiting: list[str]) -> None:
            data = "\n".join((*waiting, "")).encode()
            digest.update(data)
            member.write(data)

        # What is packed needs no interpreter: the next lines are made meanwhile.
        with self._member(part) as member, ThreadPoolExecutor(1) as packing:
            waiting: list[str] = []
            length, packed = 0, packing.submit(write, [])
            for line in some:
                waiting.append(line)
                length += len(line)
                count += 1
                if length > _PACKED:
                    packed.result()
                    packed = packing.submit(write, waiting)
                    waiting, length = [], 0
            packed.result()
            write(waiting)
        self._parts[part] = Part(count, digest.hexdigest())

    def file(self, sha256: str, data: Iterable[bytes]) -> None:
        """Write the bytes of a file, as they are: what is packed already gains nothing."""
        with self._member(f"files/{sha256}", zipfile.ZIP_STORED) as member:
            for some in data:
                member.write(some)

    def close(self) -> None:
        """Write what the package holds, and end it."""
        made = Manifest("hawthorn-package", VERSION, self._history, self._parts)
        with self._member(MANIFEST) as member:
            member.write(lines.told(made).encode() + b"\n")
        self._zip.close()

    @contextmanager
    def _member(self, name: str, how: int = zipfile.ZIP_DEFLATED) -> Iterator[IO[bytes]]:
        about = zipfile.ZipInfo(name, _BEGINNING)
        about.compress_type = how
        about.create_system = 3
        about.external_attr = 0o600 << 16
        with self._zip.open(about, "w", force_zip64=True) as member:
            yield member


class Package:
    """A package that is read. Raises `BadFile` for what is none, or is one of a version that nobody here knows."""

    def __init__(self, file: BinaryIO) -> None:
        try:
            self._zip = zipfile.ZipFile(file)
            names = self._zip.namelist()
        except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
            raise BadFile("package.no_archive", error=error) from None
        if len(set(names)) != len(names):
            raise BadFile("package.twice", name=next(n for n in names if names.count(n) > 1))
        if MANIFEST not in names:
            raise BadFile("package.no_manifest", name=MANIFEST)
        self.manifest = self._manifest()
        known = (MANIFEST, *_PARTS, *_SOMETIMES)
        strange = [n for n in names if n not in known and not _FILE.fullmatch(n)]
        if strange:
            raise BadFile("package.strange_member", name=strange[0][:200])
        told = self.manifest.parts
        wanted = (*_PARTS, *(n for n in _SOMETIMES if n in names or n in told))
        missing = [n for n in wanted if n not in names or n not in told]
        if missing:
            raise BadFile("package.part_missing", name=missing[0])
        self.names = frozenset(names)

    def _manifest(self) -> Manifest:
        raw = self._whole(MANIFEST, 1_000_000)
        found = lines.read(dict, raw, MANIFEST, 1)
        if found.get("format") != "hawthorn-package":
            raise BadFile("package.no_manifest", name=MANIFEST)
        if found.get("version") != VERSION:
            raise BadFile("package.version", version=str(found.get("version"))[:20], known=VERSION)
        self.sha256 = hashlib.sha256(raw).hexdigest()
        return lines.read(Manifest, raw, MANIFEST, 1)

    def setup(self) -> dict[str, Any]:
        """The definitions that its entries need."""
        return lines.read(dict, self._whole(SETUP, _MOST_SETUP), SETUP, 1)

    def people(self) -> Iterator[PersonLine]:
        """Who did what the entries tell of."""
        return self._lines(PEOPLE, PersonLine)

    def files(self) -> Iterator[FileLine]:
        """The files that the entries hold."""
        return self._lines(FILES, FileLine)

    def entries(self, past: int = 0) -> Iterator[EntryLine]:
        """The entries, after so many."""
        return self._lines(ENTRIES, EntryLine, past)

    def memories(self) -> Iterator[CollectionLine]:
        """The translation memories."""
        return self._lines(MEMORIES, CollectionLine)

    def sentences(self, past: int = 0) -> Iterator[SentenceLine]:
        """What lies in the memories, after so many."""
        return self._lines(SENTENCES, SentenceLine, past)

    def glossaries(self) -> Iterator[CollectionLine]:
        """The glossaries."""
        return self._lines(GLOSSARIES, CollectionLine)

    def concepts(self, past: int = 0) -> Iterator[ConceptLine]:
        """What lies in the glossaries, after so many."""
        return self._lines(CONCEPTS, ConceptLine, past)

    def dispatches(self, past: int = 0) -> Iterator[DispatchLine]:
        """The dispatches that are still to go, after so many."""
        return self._lines(DISPATCHES, DispatchLine, past)

    def count(self, part: str) -> int:
        """How many lines a part should have; 0 for one that is not there."""
        return self.manifest.parts[part].lines if part in self.manifest.parts else 0

    @contextmanager
    def bytes_of(self, sha256: str) -> Iterator[IO[bytes]]:
        """The bytes of a file."""
        name = f"files/{sha256}"
        if name not in self.names:
            raise BadFile("package.part_missing", name=name)
        with _sound(name), self._zip.open(name) as member:
            yield member

    def check(self, part: str) -> None:
        """Raise `BadFile` where the bytes of a part are not those that the package says."""
        with _sound(part), self._zip.open(part) as member:
            digest = hashlib.sha256()
            while data := member.read(1 << 18):
                digest.update(data)
        if digest.hexdigest() != self.manifest.parts[part].sha256:
            raise BadFile("package.altered", part=part)

    def close(self) -> None:
        """Read no more of it."""
        self._zip.close()

    def _whole(self, name: str, most: int) -> bytes:
        with _sound(name), self._zip.open(name) as member:
            data = member.read(most + 1)
        if len(data) > most:
            raise BadFile("package.too_long", part=name, number=1, most=most)
        return data

    def _lines(self, part: str, kind: type[T], past: int = 0) -> Iterator[T]:
        for number, line in self.raw(part, past):
            yield lines.read(kind, line, part, number)

    def raw(self, part: str, past: int = 0) -> Iterator[tuple[int, bytes]]:
        """The lines of a part with their numbers, after so many, as they are. Read to the last, its bytes are held against what the package says of them."""
        if part not in self.names:
            return
        digest, number = hashlib.sha256(), 0
        with _sound(part), self._zip.open(part) as member:
            for line in _divided(_pieces(member, digest.update), part):
                number += 1
                if number > past:
                    yield number, line
        if digest.hexdigest() != self.manifest.parts[part].sha256 or number != self.count(part):
            raise BadFile("package.altered", part=part)


def _pieces(member: IO[bytes], seen: Callable[[bytes], None]) -> Iterator[bytes]:
    """The bytes of a member, a piece at a time, each of which `seen` is told."""
    while data := member.read(_PIECE):
        seen(data)
        yield data


def _divided(pieces: Iterable[bytes], part: str) -> Iterator[bytes]:
    """The lines of a part with their ends."""
    waiting: list[bytes] = []
    length = number = 0
    for data in pieces:
        *whole, rest = data.split(b"\n")
        for line in whole:
            number += 1
            yield b"".join((*waiting, line, b"\n")) if waiting else line + b"\n"
            waiting, length = [], 0
        if rest:
            waiting.append(rest)
            length += len(rest)
        if length > LONGEST:
            raise BadFile("package.too_long", part=part, number=number + 1, most=LONGEST)
    if waiting:
        yield b"".join(waiting)


@contextmanager
def _sound(part: str) -> Iterator[None]:
    """Say where an archive is damaged."""
    try:
        yield
    except (
        zipfile.BadZipFile,
        EOFError,
        OSError,
        NotImplementedError,
        RuntimeError,
        zlib.error,
    ) as error:
        raise BadFile("package.damaged", part=part, error=error) from None
