"""A package made: written beside where it will lie until it is whole."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator

from hawthorn.operations.exchange import exporting, packages
from hawthorn.operations.exchange.working import Working
from hawthorn.operations.media import files
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import exchange as store
from hawthorn.store.files import File


class Making(Working):
    """The work on a package that is made."""

    def work(self) -> None:
        """Write the package, beside where it will lie until it is whole."""
        choice = packages.choice_of(json.loads(self.row.asked))
        packages.folder(self.desk).mkdir(mode=0o700, exist_ok=True)
        begun = self.path.with_suffix(".begun")

        def write(view: View) -> int:
            uuids = exporting.chosen(view, choice)
            self.tell("entries", 0, len(uuids), now=True)
            with begun.open("wb") as file:
                exporting.write(
                    view,
                    uuids,
                    choice,
                    file,
                    self._bytes_of,
                    lambda n: self.tell("entries", n, len(uuids)),
                )
                file.flush()
                os.fsync(file.fileno())
            return len(uuids)

        try:
            count = self.desk.read(self.me, write)
            begun.chmod(0o600)
            os.replace(begun, self.path)
        except BaseException:
            begun.unlink(missing_ok=True)
            raise
        size = self.path.stat().st_size

        def done(act: Act) -> None:
            store.went_on(act.conn, self.row.id, "entries", count, count, act.now)
            store.set_report(act.conn, self.row.id, json.dumps({"entries": count}))
            store.set_state(act.conn, self.row.id, "done", act.now, size=size)
            act.event("export.done", [], {"package": self.row.uuid, "name": self.row.name, "entries": count})

        self.desk.write(self.me, done)

    def _bytes_of(self, file: File) -> Iterator[bytes]:
        for start in range(0, file.bytes, 1 << 20):
            yield files.part(self.desk, file, start, min(1 << 20, file.bytes - start))
