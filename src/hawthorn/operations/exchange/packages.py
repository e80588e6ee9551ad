"""Packages on their way: asked for, looked through, brought, broken off, gone on with, undone and forgotten.

What takes long is done by a follower (`followers/packer.py`), a part at a time, so that others have their turn; how far it is is kept with it, and a
service that was killed goes on where it was.
"""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from dataclasses import asdict
from functools import partial
from itertools import islice
from pathlib import Path
from typing import IO, Any

from hawthorn.core import naming, numbers
from hawthorn.core.access import Identity, Subject
from hawthorn.core.errors import BadFile, HawthornError, InTheWay, NotFound
from hawthorn.core.exchange.lines import EntryLine, FileLine
from hawthorn.core.exchange.package import ENTRIES, FILES, Package
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries, strands
from hawthorn.operations.exchange import exporting, importing
from hawthorn.operations.exchange.exporting import Choice
from hawthorn.operations.exchange.importing import Names, Report, Wish
from hawthorn.operations.media import files, uploads
from hawthorn.operations.release import applying
from hawthorn.operations.runtime.act import Act, Desk, View, new_uuid
from hawthorn.store import bodies, standings
from hawthorn.store import entries as entry_store
from hawthorn.store import exchange as store
from hawthorn.store.exchange import Exchange
from hawthorn.store.files import File

LASTS = 24 * 3600 * SECOND
"""For so long a package that was made lies there to be fetched."""
KEPT = 7 * LASTS
"""For so long one that was brought lies there, so that bringing it can go on."""
TELLS = SECOND // 2
"""How far something is is noted no more often than this."""
_UNDOING = 50
GoesOn = Callable[[], bool]


class _Stopped(Exception):
    """Somebody stopped it, or the service stops."""


@dataclass(frozen=True, slots=True)
class PackageShown:
    """A package on its way, and what was found in it or came of it."""

    id: str
    way: str
    name: str
    state: str
    asked: dict[str, Any]
    step: str
    done: int
    total: int
    report: dict[str, Any]
    trouble: str
    bytes: int
    by: str
    at: str
    ended_at: str


def folder(desk: Desk) -> Path:
    """Where packages lie: beside the record file."""
    return desk.db.path.with_name(desk.db.path.name + ".packages")


def file_of(desk: Desk, uuid: str) -> Path:
    """Where a package lies."""
    return folder(desk) / f"{uuid}.zip"


# -- what people ask for ---------------------------------------------------------------------------------------------------


def start_export(act: Act, choice: Choice, name: str) -> str:
    """Ask for a package of entries; returns its id. Raises `Invalid` for a choice of what is not there."""
    found = exporting.chosen(act, choice)
    if not found:
        raise InTheWay("packages.nothing_chosen")
    uuid = new_uuid(act.now)
    called = naming.line("name", name) or "hawthorn-package.zip"
    store.add(
        act.conn, uuid, "out", called, "running", json.dumps(asdict(choice)), 0, act.identity.id, act.now
    )
    act.event("export.asked", [], {"package": uuid, "name": called, "entries": len(found)})
    return uuid


def start_import(act: Act, uuid: str, name: str, size: int, wish: Wish) -> None:
    """Begin with a package that lies there: it is looked through first."""
    importing.require(act, wish)
    called = naming.visible(name)[:200] or "package.zip"
    asked = json.dumps(asdict(wish))
    store.add(act.conn, uuid, "in", called, "looking", asked, size, act.identity.id, act.now)
    act.event("import.asked", [], {"package": uuid, "name": called, "bytes": size})


def get(view: View, uuid: str) -> Exchange:
    """A package on its way. Raises `NotFound`."""
    permission.require(view, "configure", Subject())
    row = store.by_uuid(view.conn, uuid)
    if row is None:
        raise NotFound("packages.not_there", id=uuid)
    return row


def listing(view: View, limit: int, cursor: str) -> tuple[list[PackageShown], str]:
    """The packages there were, the newest first, and where the next page begins."""
    permission.require(view, "configure", Subject())
    found = store.listing(view.conn, numbers.cursor(cursor), limit + 1)
    more = str(found[limit - 1].id) if len(found) > limit else ""
    return [shown(row) for row in found[:limit]], more


def shown(row: Exchange) -> PackageShown:
    """A package as people see it."""
    return PackageShown(
        id=row.uuid,
        way=row.way,
        name=row.name,
        state=row.state,
        asked=json.loads(row.asked),
        step=row.step,
        done=row.done,
        total=row.total,
        report=json.loads(row.report),
        trouble=row.trouble,
        bytes=row.bytes,
        by=row.by_name,
        at=iso(row.at),
        ended_at=iso(row.ended_at) if row.ended_at else "",
    )


def _require(row: Exchange, *, now: bool) -> None:
    """Raise `InTheWay` where something cannot be done with a package as it is now."""
    if not now:
        raise InTheWay("packages.not_now", state=said(f"packages.state.{row.state}"))


def _move(act: Act, uuid: str, allowed: tuple[str, ...], state: str) -> Exchange:
    """Let a package that was given be in another state."""
    row = get(act, uuid)
    _require(row, now=row.way == "in" and row.state in allowed)
    store.set_state(act.conn, row.id, state, act.now)
    return row


def look_again(act: Act, uuid: str, wish: Wish) -> None:
    """Look through a package again, as it is to be brought in another way."""
    importing.require(act, wish)
    row = _move(act, uuid, ("looked", "cancelled", "failed", "undone"), "looking")
    store.set_asked(act.conn, row.id, json.dumps(asdict(wish)))


def run(act: Act, uuid: str) -> None:
    """Bring a package that was looked through; what was begun and broken off goes on."""
    importing.require(act, wish_of(get(act, uuid)))
    row = _move(act, uuid, ("looked", "cancelled", "failed"), "running")
    act.event("import.begun", [], {"package": uuid, "name": row.name})


def cancel(act: Act, uuid: str) -> None:
    """Break off what goes on with a package. What was brought stays until it is undone."""
    row = get(act, uuid)
    _require(row, now=row.state in store.AT_WORK)
    store.set_state(act.conn, row.id, "cancelled", act.now)
    act.event(
        "import.cancelled" if row.way == "in" else "export.cancelled", [], {"package": uuid, "name": row.name}
    )


def undo(act: Act, uuid: str) -> None:
    """Undo what a package brought, but for what somebody wrote since."""
    row = _move(act, uuid, ("done", "cancelled", "failed"), "undoing")
    importing.require(act, wish_of(row))


def drop(act: Act, uuid: str, place: Path) -> None:
    """Forget a package that nothing is done with, and its file."""
    row = get(act, uuid)
    _require(row, now=row.state not in store.AT_WORK)
    store.drop(act.conn, row.id)
    (place / f"{uuid}.zip").unlink(missing_ok=True)


def sweep(desk: Desk) -> None:
    """Take away files of packages that lay there long enough, or that nobody knows of."""
    place, now = folder(desk), desk.clock.now()
    with desk.db.read() as conn:
        old = {*store.old_ones(conn, "out", now - LASTS), *store.old_ones(conn, "in", now - KEPT)}
        known = store.names(conn)
    if not place.is_dir():
        return
    for path in place.glob("*.zip"):
        stale = now - int(path.stat().st_mtime * SECOND) > LASTS
        if path.stem in old or (path.stem not in known and stale):
            path.unlink(missing_ok=True)


def choice_of(asked: Mapping[str, Any]) -> Choice:
    """What goes into a package, as it is kept with it."""
    types, sections, some = (tuple(asked[k]) for k in ("types", "sections", "entries"))
    return Choice(types, sections, some, asked["linked"], asked["history"])


def wish_of(row: Exchange) -> Wish:
    """How a package that was given is to be brought."""
    return Wish(**json.loads(row.asked))


# -- the work ---------------------------------------------------------------------------------------------------------------


def work(desk: Desk, row: Exchange, goes_on: GoesOn) -> None:
    """Do what there is to do with a package, until it is done or `goes_on` says that it shall not go on here."""
    if row.state not in store.AT_WORK:
        return
    with desk.db.read() as conn:
        me = permission.identity_of(conn, row.actor)
    working = _Working(desk, me, row, goes_on)
    try:
        {"out": working.export, "in": working.bring}[row.way]()
    except _Stopped:
        return
    except HawthornError as error:
        _failed(desk, row, error.message)
    except Exception:
        # Whoever waits is told, and it is not tried again and again.
        _failed(desk, row, said("packages.fault"))
        raise


def _failed(desk: Desk, row: Exchange, why: Message) -> None:
    trouble = desk.words.text(why)
    desk.db.write(lambda conn: store.set_state(conn, row.id, "failed", desk.clock.now(), trouble=trouble))


class _Working:
    """The work on one package, in steps; how far it is is noted as it goes."""

    def __init__(self, desk: Desk, me: Identity, row: Exchange, goes_on: GoesOn) -> None:
        self.desk = desk
        self.me = me
        self.row = row
        self._goes_on = goes_on
        self._told_at = 0
        self.path = file_of(desk, row.uuid)

    def tell(self, step: str, done: int, total: int, *, now: bool = False) -> None:
        """Note how far it is; raises `_Stopped` where somebody stopped it."""
        at = self.desk.clock.now()
        if not now and 0 <= at - self._told_at < TELLS:
            return
        self._told_at = at
        if not self._goes_on() or not self.desk.db.write(
            lambda conn: self._note(conn, step, done, total, at)
        ):
            raise _Stopped

    def _note(self, conn: Any, step: str, done: int, total: int, at: int) -> bool:
        found = store.by_uuid(conn, self.row.uuid)
        if found is None or found.state != self.row.state:
            return False
        store.went_on(conn, self.row.id, step, done, total, at)
        return True

    # -- out

    def export(self) -> None:
        """Write the package, beside where it will lie until it is whole."""
        choice = choice_of(json.loads(self.row.asked))
        folder(self.desk).mkdir(mode=0o700, exist_ok=True)
        begun = self.path.with_suffix(".begun")

        def write(view: View) -> int:
            uuids = exporting.chosen(view, choice)
            self.tell("entries", 0, len(uuids), now=True)
            with begun.open("wb") as file:
                exporting.write(
                    view,
                    uuids,
                    choice.history,
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

    # -- in

    def bring(self) -> None:
        """Look through it, bring it, or undo it, as its state says."""
        if self.row.state == "undoing":
            self._undo()
            return
        if not self.path.is_file():
            raise BadFile("packages.file_gone")
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
        return wish_of(self.row)

    def _look(self, package: Package) -> None:
        total, wish = package.count(ENTRIES), self.wish
        self.tell("reading", 0, total, now=True)
        importing.check_beside(package, self._check_file)
        report = Report(sha256=package.sha256, history=package.manifest.history)

        def begin(view: View) -> dict[str, Any]:
            importing.require(view, wish)
            known = {one.handle for one in exporting.store.everybody(view.conn).values()}
            told = [*package.people()]
            report.people = len(told)
            report.new_people = [one.handle for one in told if one.handle not in known][: importing.NAMED]
            lines = [*package.files()]
            report.files = len(lines)
            report.new_files = sum(not importing.files_ready(view, one) for one in lines)
            _, report.definitions = importing.missing_definitions(view, package, wish)
            types = importing.known_types(view, package, wish)
            report.types = importing.fingerprint(types, package, view.setup.bounds)
            return types

        types = self.desk.read(self.me, begin)
        here: list[str] = []
        for some in importing.in_batches(importing.sound_entries(package)):
            looked_at = partial(
                importing.look, package=package, wish=wish, types=types, some=some, report=report
            )
            here += [line.id for line in self.desk.read(self.me, looked_at)]
            self.tell("reading", report.entries, total)
        report.there = len(here)
        if not wish.leave:
            self._try_merging(package, here, report)
        body = json.dumps(asdict(report), ensure_ascii=False)

        def looked(act: Act) -> None:
            store.went_on(act.conn, self.row.id, "", 0, total, act.now)
            store.set_report(act.conn, self.row.id, body)
            store.set_state(act.conn, self.row.id, "looked", act.now)

        self.desk.write(self.me, looked)

    def _try_merging(self, package: Package, here: list[str], report: Report) -> None:
        """Try out what merging comes to, for as many as there is time for."""
        names, ids = self._ids(package)
        wanted = set(islice(here, importing.TRIED))
        done = 0
        for line in package.entries() if wanted else ():
            if line.id not in wanted:
                continue
            mine = self._named(line, names, ids)
            try:
                joined = self.desk.tried(self.me, partial(importing.merge, line=mine, name=self.row.name))
            except HawthornError as error:
                report.left += 1
                report.there -= 1
                report.name(line, self.desk.words.text(error.message))
                continue
            _count(report, joined.how)
            if joined.how == "beside":
                report.name(line, self.desk.words.text(said("importing.asks")))
            done += 1
            self.tell("trying", done, len(wanted))

    def _ids(self, package: Package) -> tuple[Names, dict[str, str]]:
        """What the ids of the package are here, as far as they are others."""
        names = self.desk.read(self.me, lambda view: Names(view, self.wish, package.sha256))
        return names, {line.id: names.entry(line) for line in package.entries()} if self.wish.new_ids else {}

    def _named(self, line: EntryLine, names: Names, ids: dict[str, str]) -> EntryLine:
        return importing.rename(line, names, ids) if ids else line

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
            found = files.inspect_path(line.name, path)
            importing.require_as_it_is(line, found)
            yield found

    def _run(self, package: Package) -> None:
        wish, id = self.wish, self.row.id
        names, ids = self._ids(package)
        step, past, total = self.row.step, self.row.done, package.count(ENTRIES)
        steps = ("definitions", "files", "entries", "settling", "sections", "merging")
        at = steps.index(step) if step in steps else 0
        if at <= steps.index("definitions"):
            self.tell("definitions", 0, 0, now=True)
            self.desk.write(self.me, lambda act: importing.bring_definitions(act, package, wish))
            self.desk.write(self.me, lambda act: importing.bring_people(act, package))
        if at <= steps.index("files"):
            self._bring_files(package)
        if at <= steps.index("entries"):
            self._bring_entries(package, names, ids, past if step == "entries" else 0, total)
        if at <= steps.index("settling"):
            self._settle(total)
        if at <= steps.index("sections"):
            self.tell("sections", 0, 0, now=True)
            self.desk.write(self.me, lambda act: importing.follow_sections(act, id))
        if not wish.leave and self._some_are_here(total):
            self._merge(package, names, ids, past if step == "merging" else 0, total)
        self.desk.write(self.me, self._ended)

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
            self._step("entries", done, total, bring)

    def _as_is(self, package: Package) -> bool:
        """Whether it was seen, when it was looked through, that all contents are kept just as they are, by the very definitions that there are now."""
        report = json.loads(self.row.report)
        now = self.desk.read(
            self.me, lambda view: importing.fingerprint(view.setup.types, package, view.setup.bounds)
        )
        return not self.wish.new_ids and bool(report.get("as_is")) and report.get("types") == now

    def _settle(self, total: int) -> None:
        done = 0
        while some := self._step("settling", done, total, lambda act: importing.settle(act, self.row.id)):
            done += some

    def _merge(self, package: Package, names: Names, ids: dict[str, str], past: int, total: int) -> None:
        done = past
        for batch in importing.in_batches(package.entries(past), 20):
            some = [self._named(line, names, ids) for line in batch]
            done += len(some)
            self._step("merging", done, total, partial(self._merge_some, some=some))

    def _merge_some(self, act: Act, some: Iterable[EntryLine]) -> None:
        for line in some:
            row = entry_store.even_removed(act.conn, line.id)
            if row is None or store.has(act.conn, self.row.id, row.id) or row.type != line.type:
                continue
            with suppress(HawthornError), act.trying():
                joined = importing.merge(act, line, self.row.name)
                if joined.how != "same":
                    note = act.say("importing.beside", strand=joined.strand) if joined.how == "beside" else ""
                    did = json.dumps({"strand": joined.strand, "wrote": joined.wrote})
                    store.brought(act.conn, self.row.id, [(row.id, joined.how, note, did)])

    def _step(self, step: str, done: int, total: int, do: Callable[[Act], Any]) -> Any:
        """Do one part of a step, with how far it is noted in the same transaction: what was killed goes on exactly there."""

        def one(act: Act) -> Any:
            if not self._note(act.conn, step, done, total, act.now):
                raise _Stopped
            return do(act)

        if not self._goes_on():
            raise _Stopped
        return self.desk.write(self.me, one)

    def _ended(self, act: Act) -> None:
        counts = store.counts(act.conn, self.row.id)
        report = json.loads(self.row.report)
        report |= {
            "added": counts.get("added", 0),
            "merged": counts.get("merged", 0),
            "asked": counts.get("beside", 0),
        }
        report["named"] = [
            {"id": one.uuid, "title": permission.title(act, one.entry), "why": one.note}
            for one in store.noted(act.conn, self.row.id, importing.NAMED)
        ]
        store.set_report(act.conn, self.row.id, json.dumps(report, ensure_ascii=False))
        store.set_state(act.conn, self.row.id, "done", act.now)
        facts = {k: report[k] for k in ("added", "merged", "asked")}
        act.event(
            "import.done",
            [],
            {"package": self.row.uuid, "name": self.row.name, **facts, "sha256": report.get("sha256", "")},
        )

    # -- back

    def _undo(self) -> None:
        with self.desk.db.read() as conn:
            total = sum(store.counts(conn, self.row.id).values())
        left: list[dict[str, str]] = []
        done = 0
        while some := self._step("undoing", done, total, lambda act: self._undo_some(act, left)):
            done += some

        def undone(act: Act) -> None:
            store.set_report(
                act.conn,
                self.row.id,
                json.dumps({**json.loads(self.row.report), "named": left[: importing.NAMED]}),
            )
            store.set_state(act.conn, self.row.id, "undone", act.now)
            act.event(
                "import.undone", [], {"package": self.row.uuid, "name": self.row.name, "left": len(left)}
            )

        self.desk.write(self.me, undone)

    def _undo_some(self, act: Act, left: list[dict[str, str]]) -> int:
        some = store.to_undo(act.conn, self.row.id, _UNDOING)
        touched = store.touched_since(act.conn, [one.entry for one in some if one.how == "added"])
        for one in some:
            entry = entry_store.entry_by_id(act.conn, one.entry)
            title = permission.title(act, one.entry)
            why = ""
            if one.how != "added":
                why = self._undo_merge(act, one)
            elif one.entry in touched:
                why = act.say("importing.written_since")
            else:
                _tell_readers(act, entry)
                if not store.erase(act.conn, one.entry):
                    why = act.say("importing.needed")
            if why:
                left.append({"id": one.uuid, "title": title, "why": why})
        store.forget(act.conn, self.row.id, [one.entry for one in some])
        return len(some)

    def _undo_merge(self, act: Act, one: store.Brought) -> str:
        entry = entry_store.entry_by_id(act.conn, one.entry)
        did = json.loads(one.did)
        note = act.say("importing.taken_back", name=self.row.name)
        try:
            with act.trying() as trial:
                for edition in entry_store.editions(act.conn, entry.id):
                    if edition.locale != "*" and entry_store.edition(
                        act.conn, entry.id, edition.locale, did["strand"]
                    ):
                        strands.drop(act, entry.uuid, edition.locale, did["strand"])
                for locale, before, after in did["wrote"]:
                    saved = entries.take_back(act, entry, locale, (before, after), note)
                    if saved is not None and saved.conflicts:
                        trial.keep(False)
                        return act.say("importing.to_be_decided")
        except HawthornError as error:
            return act.say(error.message)
        return ""


def _count(report: Report, how: str) -> None:
    if how == "same":
        report.same += 1
    elif how == "merged":
        report.merged += 1
    else:
        report.asked += 1


def _tell_readers(act: Act, entry: entry_store.Entry) -> None:
    """Note for whoever reads that an entry is not there any more."""
    if standings.is_out(act.conn, entry.id):
        applying.shown_anew(act, [(entry.id, entry.type)])
        bodies.forget_entry(act.conn, entry.id)
