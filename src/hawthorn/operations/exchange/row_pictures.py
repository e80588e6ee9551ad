"""Pictures of pages that come in: kept as files, and shown by entries of their own, which the pages refer to."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path, PurePosixPath

from hawthorn.core.access import Identity
from hawthorn.core.errors import HawthornError
from hawthorn.core.exchange.mapping import RowMapping, Told
from hawthorn.core.exchange.rows import RowFormat
from hawthorn.core.messages import Message, said
from hawthorn.operations.exchange import renaming, row_by_row
from hawthorn.operations.media import files, uploads
from hawthorn.operations.media.files import Stored
from hawthorn.operations.runtime.act import Act, Desk, View
from hawthorn.store import failing
from hawthorn.store import rows as store


class Pictures:
    """The pictures that some pages show: which of them can be kept, and which entry each is."""

    def __init__(
        self, desk: Desk, me: Identity, path: Path, format: RowFormat, made: RowMapping, seed: str
    ) -> None:
        self._desk = desk
        self._me = me
        self._path = path
        self._format = format
        self._made = made
        self._seed = seed
        self.entries: dict[str, str] = {}
        """The entry (UUID) that each picture is, or will be, by its path."""
        self.wrong: dict[str, Message] = {}
        """Why a picture cannot be kept."""

    def entry(self, path: str) -> str:
        """The entry that shows a picture; empty for none."""
        return self.entries.get(path, "")

    def why_not(self, path: str) -> Message:
        """Why a picture is left out."""
        why = self.wrong.get(path)
        return said("rows.picture_left", name=path[:200], why=why or said("rows.picture_nowhere"))

    def each(self, shown: Mapping[str, str], do: Callable[[str, Stored], None]) -> None:
        """Look through each picture that is shown, and do something with it."""
        if not self._made.pictures:
            return
        with self._path.open("rb") as file:
            there = self._format.pictures(file)
            for path in shown:
                if path not in there:
                    continue
                try:
                    with (
                        self._format.picture(file, path) as member,
                        uploads.aside(uploads.folder(self._desk), member) as copy,
                    ):
                        name = PurePosixPath(path).name
                        do(path, files.looked_through(self._desk, self._me, name, copy))
                except HawthornError as error:
                    if failing.of_file(error):
                        # It comes again once that is well, and is not left out.
                        raise
                    self.wrong[path] = error.message
                else:
                    with self._desk.db.read() as conn:
                        known = row_by_row.uuid_of(conn, self._made.pictures, path, self._seed)
                    self.entries[path] = known

    def is_new(self, view: View, path: str) -> bool:
        """Whether a picture has no entry here yet."""
        return store.entry_of(view.conn, self._made.pictures, path) is None

    def bring(self, act: Act, id: int, name: str, path: str, alt: str, file: Stored) -> None:
        """Keep a picture, and begin the entry that shows it; where there is one it shows the new bytes."""
        kind = act.setup.type(self._made.pictures)
        assert kind.file is not None
        told = Told(path, key=path, locale=self._made.locale)
        told.values[kind.file.name] = files.keep(act, file)
        if self.is_new(act, path):
            told.values[kind.title] = PurePosixPath(path).stem.replace("-", " ").replace("_", " ")
            told.values |= {f.name: alt for f in kind.fields if f.counts_as_alt and alt}
        row_by_row.bring(act, id, kind.name, told, name, renaming.derived(path, self._seed))
