"""A package brought: looked through first, then its definitions, people, files and entries, then merged with what is here."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from functools import partial
from itertools import islice
from typing import IO, Any

from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import BadFile, HawthornError
from hawthorn.core.exchange.lines import EntryLine, FileLine
from hawthorn.core.exchange.looked import Looked, Looker, sound, title_of
from hawthorn.core.exchange.package import DISPATCHES, ENTRIES, FILES, Package
from hawthorn.core.messages import said
from hawthorn.operations.exchange import (
    dispatches,
    exporting,
    helping,
    importing,
    joining,
    language,
    looking,
    packages,
    renaming,
)
from hawthorn.operations.exchange.language import Collections
from hawthorn.operations.exchange.renaming import Came, Names
from hawthorn.operations.exchange.report import NAMED, TRIED, Report, Wish, require
from hawthorn.operations.exchange.working import Working
from hawthorn.operations.media import files, uploads
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.views import unfolding
from hawthorn.store import entries as entry_store
from hawthorn.store import exchange as store

_STEPS = (
    "definitions", "files", "entries", "settling", "sections", "memory", "glossary", "merging", "dispatches",
)  # fmt: skip
"""What bringing one does, one after another: what was broken off goes on with the step that it was at."""


LOOKED_AT_ONCE = 50
"""So many entries are looked at together, here or by a helper."""
_PLACED = 2_000
"""The sections of so many entries are found in one transaction, between which others have their turn."""


class Bringing(Working):
    """The work on a package that was given."""

    def work(self) -> None:
        """Look through it, or bring it, as its state says."""
        packages.require_file(self.path)
        with self.path.open("rb") as file:
            package = Package(file)
            try:
                if self.row.state == "looking":
                    self._look(package)
                else:
                    self._run(package)
            finally:
                package.close()

    @property
    def wish(self) -> Wish:
        """How it is to be brought."""
        return packages.wish_of(self.row)

    def _look(self, package: Package) -> None:
        total, wish = package.count(ENTRIES), self.wish
        self.tell("reading", 0, total, now=True)
        looking.check_beside(package, self._check_file)
        report = Report(sha256=package.sha256, history=package.manifest.history)

        def begin(view: View) -> dict[str, ContentType]:
            require(view, wish)
            known = {one.handle for one in exporting.store.everybody(view.conn).values()}
            told = [*package.people()]
            report.people = len(told)
            report.new_people = [one.handle for one in told if one.handle not in known][:NAMED]
            lines = [*package.files()]
            report.files = len(lines)
            report.new_files = sum(not importing.files_ready(view, one) for one in lines)
            _, report.definitions = looking.missing_definitions(view, package, wish)
            types = looking.known_types(view, package, wish)
            report.types = looking.fingerprint(types, package, view.setup.bounds)
            return types

        types = self.desk.read(self.me, begin)
        here: list[str] = []
        named = dispatches.Named(package)
        for some in self._looked(package, types, named):
            look = partial(looking.look, package=package, wish=wish, types=types, some=some, report=report)
            here += self.desk.read(self.me, look)
            named.see(some)
            self.tell("reading", report.entries, total)
        report.there = len(here)
        for kind in language.KINDS:
            self._look_at_language(kind, package, report)
        self.desk.read(
            self.me, partial(dispatches.look, package=package, named=named, wish=wish, report=report)
        )
        if not wish.leave:
            self._try_merging(package, here, report)
        self.looked(report, total)

    def _looked(
        self, package: Package, types: Mapping[str, ContentType], named: dispatches.Named
    ) -> Iterator[list[Looked]]:
        """What the entries are found to be, some at once."""
        handles = frozenset(one.handle for one in package.people())
        bounds = self.desk.read(self.me, lambda view: view.setup.bounds)
        looker = Looker(types, bounds, handles, frozenset(named.entries))
        batches = importing.in_batches(package.raw(ENTRIES), LOOKED_AT_ONCE)
        return sound(helping.looked(looker, batches, package.count(ENTRIES)))

    def _try_merging(self, package: Package, here: list[str], report: Report) -> None:
        """Try out what merging comes to, for as many as there is time for."""
        names, ids = self._ids(package)
        wanted = set(islice(here, TRIED))
        done = 0
        for line in package.entries() if wanted else ():
            if line.id not in wanted:
                continue
            mine = self._named(line, names, ids)
            try:
                joined = self.desk.tried(self.me, partial(joining.merge, line=mine, name=self.row.name))
            except HawthornError as error:
                report.left += 1
                report.there -= 1
                report.name(line.id, title_of(line), self.desk.words.kept.text(error.message))
                continue
            report.count(joined.how)
            if joined.how == "beside":
                report.name(line.id, title_of(line), self.desk.words.kept.text(said("importing.asks")))
            done += 1
            self.tell("trying", done, len(wanted))

    def _ids(self, package: Package) -> tuple[Names, dict[str, str]]:
        """What the ids of the package are here, as far as they are others."""
        names = self.desk.read(self.me, lambda view: Names(view, self.wish, package.sha256))
        return names, self._new_ids(package, names) if self.wish.new_ids else {}

    def _new_ids(self, package: Package, names: Names) -> dict[str, str]:
        return {line.id: names.entry(line.id, line.type) for line in package.entries()}

    def _named(self, line: EntryLine, names: Names, ids: dict[str, str]) -> EntryLine:
        return renaming.rename(line, names, ids) if ids else line

    def _check_file(self, line: FileLine, member: IO[bytes]) -> None:
        with self._looked_through(line, member):
            pass

    @contextmanager
    def _looked_through(self, line: FileLine, member: IO[bytes]) -> Iterator[files.Stored]:
        """A file of the package, looked through as one that somebody uploads."""
        with uploads.aside(uploads.folder(self.desk), member) as path:
            with path.open("rb") as raw:
                if hashlib.file_digest(raw, "sha256").hexdigest() != line.sha256:
                    raise BadFile("package.other_bytes", sha256=line.sha256)
            found = files.looked_through(self.desk, self.me, line.name, path)
            importing.require_as_it_is(line, found)
            yield found

    def _run(self, package: Package) -> None:
        wish, id = self.wish, self.row.id
        names, ids = self._ids(package)
        step, past, total = self.row.step, self.row.done, package.count(ENTRIES)
        at = _STEPS.index(step) if step in _STEPS else 0
        if at <= _STEPS.index("definitions"):
            self.tell("definitions", 0, 0, now=True)
            self.desk.write(self.me, lambda act: importing.bring_definitions(act, package, wish))
            self.desk.write(self.me, lambda act: importing.bring_people(act, package))
        if at <= _STEPS.index("files"):
            self._bring_files(package)
        if at <= _STEPS.index("entries"):
            self._bring_entries(package, names, ids, past if step == "entries" else 0, total)
        if at <= _STEPS.index("settling"):
            self._settle(total)
        if at <= _STEPS.index("sections"):
            self._follow_sections()
        came = self._came(names, ids)
        for kind in language.KINDS:
            if at <= _STEPS.index(kind.into):
                self._bring_language(kind, package, came, past if step == kind.into else 0)
        if at <= _STEPS.index("merging") and not wish.leave and self._some_are_here(total):
            self._merge(package, names, ids, past if step == "merging" else 0, total)
        self._bring_dispatches(package, came, past if step == "dispatches" else 0)
        more = {
            f"new_{kind.counted}": self.desk.write(self.me, partial(kind.done, came=came))
            for kind in language.KINDS
        }
        more["new_dispatches"], left = self.desk.read(self.me, partial(dispatches.came_of, package=id))
        self.desk.write(self.me, partial(self.ended, more=more, named=left))

    def _look_at_language(self, kind: Collections[Any], package: Package, report: Report) -> None:
        total, done, rest = package.count(kind.part), 0, kind.sound(package)
        homes = self.desk.read(self.me, partial(kind.homes, package=package))
        locales = self.desk.read(self.me, partial(language.locales_then, package=package))
        while some := list(islice(rest, language.AT_ONCE)):
            look = partial(
                kind.look, homes=homes, locales=locales, some=some, report=report, leave=self.wish.leave
            )
            self.desk.read(self.me, look)
            done += len(some)
            self.tell(kind.into, done, total)

    def _came(self, names: Names, ids: dict[str, str]) -> Came:
        with self.desk.db.read() as conn:
            actors = {one.handle: one.id for one in exporting.store.everybody(conn).values()}
        return Came(self.row.id, self.row.name, self.wish.leave, actors, names, ids)

    def _bring_language(self, kind: Collections[Any], package: Package, came: Came, past: int) -> None:
        total = package.count(kind.part)
        if not package.count(kind.heads):
            return
        if not past:
            self.step(kind.into, 0, total, partial(kind.begin, package=package, came=came))
        done, rest = past, kind.lines(package, past)
        while some := list(islice(rest, language.AT_ONCE)):
            done += len(some)
            self.step(kind.into, done, total, partial(kind.bring, package=package, came=came, some=some))

    def _bring_dispatches(self, package: Package, came: Came, past: int) -> None:
        done, total, rest = past, package.count(DISPATCHES), package.dispatches(past)
        while some := list(islice(rest, dispatches.AT_ONCE)):
            bring = partial(dispatches.bring, came=came, some=some, past=done)
            done += len(some)
            self.step("dispatches", done, total, bring)

    def _some_are_here(self, total: int) -> bool:
        """Whether anything is left to be merged: not where all of it was added."""
        with self.desk.db.read() as conn:
            return store.counts(conn, self.row.id).get("added", 0) < total

    def _bring_files(self, package: Package) -> None:
        total = package.count(FILES)
        with self.desk.db.read() as conn:
            actors = {one.handle: one.id for one in exporting.store.everybody(conn).values()}
        for n, line in enumerate(package.files(), 1):
            self.tell("files", n, total, now=n == 1)
            if self.desk.read(self.me, partial(importing.files_ready, line=line)):
                continue
            with package.bytes_of(line.sha256) as member, self._looked_through(line, member) as found:
                ready = files.laid(self.desk, found)
                self.desk.write(self.me, partial(importing.bring_file, line=line, file=ready, actors=actors))

    def _bring_entries(
        self, package: Package, names: Names, ids: dict[str, str], past: int, total: int
    ) -> None:
        done, as_is = past, self._as_is(package)
        for batch in importing.in_batches(package.entries(past)):
            some = [self._named(line, names, ids) for line in batch]
            done += len(some)
            bring = partial(importing.bring, id=self.row.id, wish=self.wish, some=some, as_is=as_is)
            self.step("entries", done, total, bring)

    def _as_is(self, package: Package) -> bool:
        """Whether it was seen, when it was looked through, that all contents are kept just as they are, by the very definitions that there are now."""
        report = json.loads(self.row.report)
        now = self.desk.read(
            self.me, lambda view: looking.fingerprint(view.setup.types, package, view.setup.bounds)
        )
        return not self.wish.new_ids and bool(report.get("as_is")) and report.get("types") == now

    def _settle(self, total: int) -> None:
        done = 0
        while some := self.step("settling", done, total, lambda act: importing.settle(act, self.row.id)):
            done += some

    def _follow_sections(self) -> None:
        """Let all that was brought lie in its sections: from the first on where it was broken off, since what lies there already stays."""
        with self.desk.db.read() as conn:
            added = store.added(conn, self.row.id)
        for start in range(0, len(added), _PLACED):
            some = added[start : start + _PLACED]
            follow = partial(unfolding.follow_sections, entries=some)
            self.step("sections", start + len(some), len(added), follow)

    def _merge(self, package: Package, names: Names, ids: dict[str, str], past: int, total: int) -> None:
        done = past
        for batch in importing.in_batches(package.entries(past), 20):
            some = [self._named(line, names, ids) for line in batch]
            done += len(some)
            self.step("merging", done, total, partial(self._merge_some, some=some))

    def _merge_some(self, act: Act, some: Iterable[EntryLine]) -> None:
        for line in some:
            row = entry_store.even_removed(act.conn, line.id)
            if row is None or store.has(act.conn, self.row.id, row.id) or row.type != line.type:
                continue
            with suppress(HawthornError), act.trying():
                joined = joining.merge(act, line, self.row.name)
                if joined.how != "same":
                    note = (
                        act.keep("importing.beside", strand=joined.strand) if joined.how == "beside" else ""
                    )
                    did = json.dumps({"strand": joined.strand, "wrote": joined.wrote})
                    store.brought(act.conn, self.row.id, [(row.id, joined.how, note, did)])
