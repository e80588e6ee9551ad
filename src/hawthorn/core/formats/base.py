"""What a file of translations holds, whatever its format, and what every format answers."""

from __future__ import annotations

from collections.abc import Sequence
from typing import BinaryIO, ClassVar

from lxml import etree

from hawthorn.core.errors import BadFile
from hawthorn.core.quick import dataclass
from hawthorn.core.translation.returns import Returned
from hawthorn.core.translation.units import Unit

_LANG = "{http://www.w3.org/XML/1998/namespace}lang"
LARGEST = 50_000_000
"""Bytes that a file may have."""
MOST_UNITS = 100_000
"""So many units of a file are read."""
MOST_NOTES = 500
"""So many notes a unit may have."""
HEAD = 4_096
"""So many bytes from its start tell the format of a file."""


@dataclass(frozen=True, slots=True)
class OwnFile:
    """A file of an entry that differs by locale: the field that holds it, what people call that, the file's name and digest (SHA-256), and
    where it is fetched while the job lasts, where that is known."""

    field: str
    label: str
    name: str
    sha256: str
    address: str = ""

    @property
    def note(self) -> str:
        """What a translator is told of it."""
        return f"{self.label}: {self.name}" + (f" – {self.address}" if self.address else "")


@dataclass(frozen=True, slots=True)
class OutFile:
    """One entry of a job: its `urn:uuid:` address, its title as a note, its units, where its page is seen, and its own files."""

    original: str
    title: str
    units: tuple[Unit, ...]
    context: str = ""
    """Where its page can be seen while the job lasts."""
    own: tuple[OwnFile, ...] = ()
    """Files of it that differ by locale."""


@dataclass(frozen=True, slots=True)
class OutDocument:
    """A job as it goes out."""

    job: str
    source_locale: str
    target_locale: str
    files: tuple[OutFile, ...]
    note: str = ""
    """What whoever commissioned it asks for."""
    due: str = ""
    """The day that it is due; empty for none."""


@dataclass(frozen=True, slots=True)
class InDocument:
    """A file that came back; `job` is empty when the tool dropped the metadata."""

    job: str
    source_locale: str
    target_locale: str
    files: tuple[tuple[str, tuple[Returned, ...]], ...]


class Format:
    """A format of files. Each is a module of this package that holds its own as `FORMAT`."""

    name: ClassVar[str]
    label: ClassVar[str]
    media_type: ClassVar[str]
    ending: ClassVar[str]

    def write(self, document: OutDocument) -> bytes:
        """The document as a file; equal documents give equal bytes."""
        raise NotImplementedError

    def knows(self, head: bytes) -> bool:
        """Whether a file that begins like this is written in it."""
        raise NotImplementedError

    def read(self, file: BinaryIO, most: int = MOST_UNITS) -> InDocument:
        """Read a file from outside, with at most so many units. Raises `BadFile`, which says what is wrong and where."""
        raise NotImplementedError


def noted(key: str, notes: Sequence[str]) -> tuple[str, ...]:
    """The notes on a unit. Raises `BadFile` where there are more than anybody wrote."""
    if len(notes) > MOST_NOTES:
        raise BadFile("formats.too_many_notes", unit=key[:80], most=MOST_NOTES)
    return tuple(notes)


def whole(file: BinaryIO) -> bytes:
    """All of a file. Raises `BadFile` for one that is larger than a file may be."""
    data = file.read(LARGEST + 1)
    if len(data) > LARGEST:
        raise BadFile("formats.too_large", most=LARGEST // 1_000_000)
    return data


def other_language(node: etree._Element, language: str) -> str:
    """What a target says that it is in, where that is another language than the file is for."""
    said = str(node.get(_LANG, ""))
    if not said:
        return ""
    return "" if said.split("-")[0].lower() == language.split("-")[0].lower() else said[:35]


FORMATS: dict[str, Format] = {}
"""All of them by name."""
