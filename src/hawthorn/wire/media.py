"""What crosses HTTP about the library: files, folders, crops and uploads."""

from __future__ import annotations

from pydantic import Field

from hawthorn.wire.base import Page, Wire
from hawthorn.wire.content import EntryLine


class FileValue(Wire):
    """A stored file, as a value for a file field."""

    sha256: str
    name: str
    media_type: str
    width: int | None = None
    height: int | None = None
    bytes: int
    focus: list[int] | None = None


class CropSpec(Wire):
    """A size in pixels in which the site shows pictures, and where; a height of 0 keeps the whole picture."""

    name: str
    label: str = ""
    width: int
    height: int = 0
    use: str = ""


class Folder(Wire):
    """A folder of the library."""

    id: str
    name: str
    parent: str | None
    entries: int


class Folders(Page):
    """The folders of the library."""

    items: list[Folder]


class FolderAsk(Wire):
    """A folder to make: in another one, or at the top."""

    name: str
    parent: str = ""


class FolderChange(Wire):
    """Another name for a folder, or another place (empty for the top)."""

    name: str | None = None
    parent: str | None = None


class FileInto(Wire):
    """Entries to put into a folder; none for no folder."""

    entries: list[str] = Field(min_length=1, max_length=500)
    folder: str = ""


class Filed(Wire):
    """Where each entry lay before, by id."""

    was: dict[str, str]


class LibraryLine(EntryLine):
    """An entry that holds a file."""

    file: FileValue | None
    alt: str | None = Field(description="The alt text; null where the type has none.")
    folder: str
    uses: int = Field(description="How many entries refer to it.")


class LibraryPage(Page):
    """Entries that hold files."""

    items: list[LibraryLine]


class Upload(Wire):
    """How far an upload is."""

    id: str
    name: str
    length: int
    offset: int
    expires_at: str
    sha256: str | None
    file: FileValue | None = None
    note: str = Field(default="", description="What to know of such a file, once it is there.")


class Uploads(Page):
    """Uploads that are not done."""

    items: list[Upload]


class Crops(Wire):
    """The crops in which the site shows pictures."""

    crops: list[CropSpec]
