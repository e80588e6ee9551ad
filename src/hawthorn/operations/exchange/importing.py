"""Packages in: what is not here is added as it was, with its history, and stands where it stood; in steps that may be broken off and go on."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from itertools import islice
from typing import Any, TypeVar

from msgspec import structs

from hawthorn.core import compact, revision, slots
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import BadFile
from hawthorn.core.exchange.lines import EditionLine, EntryLine, FileLine, RevisionLine
from hawthorn.core.exchange.package import Package
from hawthorn.core.exchange.soundness import Kept, instant, stored
from hawthorn.core.kinds.file import focus_of
from hawthorn.core.revision import Content
from hawthorn.operations.access import permission
from hawthorn.operations.exchange import comments, set_up
from hawthorn.operations.exchange.looking import in_the_way, missing_definitions
from hawthorn.operations.exchange.report import Wish
from hawthorn.operations.media import library
from hawthorn.operations.media.files import Stored
from hawthorn.operations.release import planned_fields
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.views import unfolding
from hawthorn.store import bringing, people
from hawthorn.store import exchange as progress
from hawthorn.store import files as file_rows
from hawthorn.store import packages as store

T = TypeVar("T")
AT_ONCE = 200
"""So many entries are brought in one transaction, between which others have their turn."""


def bring_definitions(act: Act, package: Package, wish: Wish) -> None:
    """Put what is not here of the package's definitions in place; what is otherwise here only where that is wanted."""
    document, _ = missing_definitions(act, package, wish)
    if len(document) > 1:
        set_up.apply(act, document)


def bring_people(act: Act, package: Package) -> int:
    """Add whoever is not here: by name alone, without any right, and not able to log in. Returns how many."""
    known = {one.handle for one in store.everybody(act.conn).values()}
    new = [one for one in package.people() if one.handle not in known]
    for one in new:
        kind = "program" if one.kind == "scheduler" else one.kind
        made = people.add_actor(act.conn, kind, one.handle[:80], one.name[:200], "", "", "UTC", act.now)
        people.end_actor(act.conn, made, act.now)
    return len(new)


def bring_file(act: Act, line: FileLine, file: Stored, actors: Mapping[str, int]) -> bool:
    """Keep a file that was looked through, as it was given here before; False where it is here."""
    if file_rows.known(act.conn, file.sha256):
        return False
    new = file_rows.New(file.sha256, line.media_type, line.name, line.width, line.height, file.bytes)
    by = actors.get(line.by or "", act.identity.id)
    file_rows.add(act.conn, new, instant(line.at), by, None if file.laid else file.data)
    act.event("file.added", [], {"sha256": file.sha256, "name": line.name, "bytes": file.bytes})
    return True


def require_as_it_is(line: FileLine, found: Stored) -> None:
    """Raise `BadFile` for a file that is not what its line says, or that this house would not keep as it is."""
    if found.sha256 != line.sha256 or found.bytes != line.bytes:
        raise BadFile("package.other_bytes", sha256=line.sha256)
    if (found.media_type, found.width, found.height) != (line.media_type, line.width, line.height):
        raise BadFile("package.other_file", sha256=line.sha256, media_type=found.media_type)


def bring(act: Act, id: int, wish: Wish, some: Sequence[EntryLine], *, as_is: bool) -> list[EntryLine]:
    """Add those of some entries that are not here, as they were. Nothing is derived from them yet: `settle` does that once all are there. `as_is` says
    that it is known of all their contents that they are kept just so. Returns those that are here."""
    there = bringing.there(act.conn, [line.id for line in some])
    new = [
        line
        for line in some
        if line.id not in there and in_the_way(act, line.type, act.setup.types, there=False) is None
    ]
    coming = _Bringing(act, wish, as_is=as_is)
    kept = [line for line in new if coming.entry(line)]
    coming.write()
    progress.brought(act.conn, id, [(coming.entries[line.id], "added", "", "[]") for line in kept])
    act.event("import.taken", coming.entries.values(), {"entries": len(kept)})
    return [line for line in some if line.id in there]


class _Bringing:
    """The rows of entries that come in whole."""

    def __init__(self, act: Act, wish: Wish, *, as_is: bool) -> None:
        self.act = act
        self.wish = wish
        self.as_is = as_is
        self.entries: dict[str, int] = {}
        self.actors = {one.handle: one.id for one in store.everybody(act.conn).values()}
        self._next = bringing.next_ids(act.conn)
        self._rows: dict[Callable[..., None], list[tuple[Any, ...]]] = {}
        self._comments: list[tuple[EntryLine, Mapping[tuple[str, int], int]]] = []
        self._folders: list[tuple[int, tuple[str, ...]]] = []

    def entry(self, line: EntryLine) -> bool:
        """Take an entry; False for one that does not fit its type."""
        kind = self.act.setup.type(line.type)
        taken = Kept({}) if self.as_is else stored(kind, self.act.setup.bounds, line)
        if taken.misfits:
            return False
        id = self.entries[line.id] = self._number("entry")
        archived = instant(line.archived_at) if line.archived_at else None
        row = (
            id,
            line.id,
            line.type,
            line.source_locale,
            instant(line.at),
            self.actors[line.by],
            archived,
            line.limited,
        )
        self._add(bringing.add_entries, row)
        for audience in line.audiences:
            self._add(bringing.add_audiences, (id, audience))
        if line.folder:
            self._folders.append((id, tuple(line.folder)))
        numbers: dict[tuple[str, int], int] = {}
        for edition in line.editions:
            made = self._number("edition")
            self._add(bringing.add_editions, (made, id, edition.locale))
            found = self.edition(
                kind, made, edition, {n: c for (loc, n), c in taken.contents.items() if loc == edition.locale}
            )
            numbers |= {(edition.locale, n): revision for n, revision in found.items()}
        self._comments.append((line, numbers))
        for one in line.assignments:
            if one.locale in self.act.setup.locales:
                to, by = self.actors[one.to], self.actors[one.by]
                given = (one.id, id, one.locale, to, by, instant(one.at), one.due, one.note, one.told)
                self._add(bringing.add_assignments, given)
        return True

    def edition(
        self, kind: ContentType, made: int, edition: EditionLine, contents: Mapping[int, Content]
    ) -> dict[int, int]:
        """Take an edition that is there without anything; returns its revisions by their numbers."""
        strands = [self._number("strand") for _ in edition.strands]
        ids = {one.n: self._number("revision") for one in edition.revisions}
        for strand, told in zip(strands, edition.strands, strict=True):
            by, at = self.actors[told.by] if told.by else None, instant(told.at) if told.at else None
            closed = instant(told.closed_at) if told.closed_at else None
            self._add(bringing.add_strands, (strand, made, told.name, closed, by, at, told.note, told.ended))
            head = ids[told.head] if told.head is not None else None
            forked = ids[told.forked_from] if told.forked_from is not None else None
            self._add(bringing.set_heads, (head, forked, strand))
        hashes: dict[int, str] = {}
        for one in edition.revisions:
            content = contents.get(one.n)
            fields = one.fields if content is None else content.fields
            hashes[one.n] = revision.content_hash(made, kind.version, fields)
            row = self._revision(kind, made, one, content, strands, hashes[one.n])
            self._add(bringing.add_revisions, (ids[one.n], *row))
            self._follow(kind, one, fields, ids)
        if not self.wish.as_drafts:
            self._standings(edition, made, ids)
        self._reviews(edition, made, ids, hashes)
        return ids

    def _revision(
        self,
        kind: ContentType,
        edition: int,
        one: RevisionLine,
        content: Content | None,
        strands: Sequence[int],
        digest: str,
    ) -> tuple[Any, ...]:
        """The row of a revision, with what it holds as it came where nothing else is given."""
        if content is None:
            told = (
                compact.written(one.fields),
                compact.names(one.paragraph_ids),
                compact.names(one.unit_map),
            )
        else:
            ids = revision.paragraph_ids_to_json(content.paragraph_ids)
            told = (compact.written(content.fields), ids, compact.names(content.unit_map))
        return (
            edition,
            one.n,
            digest,
            kind.version,
            *told,
            strands[one.strand] if one.strand is not None else None,
            self.actors[one.by],
            one.kind,
            instant(one.at),
            one.note,
            one.origin,
        )

    def _follow(
        self, kind: ContentType, one: RevisionLine, fields: Mapping[str, Any], ids: Mapping[int, int]
    ) -> None:
        """Take what a revision came from, and the files that it holds."""
        id = ids[one.n]
        for n, parent in enumerate(one.parents):
            self._add(bringing.add_parents, (id, n, ids[parent]))
        for pick in one.picks:
            self._add(bringing.add_picks, (id, ids[pick.revision], pick.path))
        for slot in slots.filled(kind.fields, fields) if kind.holds_files else ():
            if slot.spec.kind == "file" and slot.value:
                for value in slot.value if isinstance(slot.value, list) else [slot.value]:
                    if isinstance(value, Mapping) and "sha256" in value:
                        self._add(bringing.add_file_uses, (value["sha256"], id, focus_of(value)))

    def _standings(self, edition: EditionLine, made: int, ids: Mapping[int, int]) -> None:
        stages = self.act.setup.stages
        for one in edition.standings:
            if one.stage in stages:
                until = instant(one.until) if one.until is not None else None
                row = (
                    made,
                    stages[one.stage],
                    ids[one.revision],
                    instant(one.since),
                    until,
                    instant(one.committed_at),
                )
                self._add(bringing.add_standings, row)

    def _reviews(
        self, edition: EditionLine, made: int, ids: Mapping[int, int], hashes: Mapping[int, str]
    ) -> None:
        stages, flows = self.act.setup.stages, self.act.setup.workflows
        for one in edition.sign_offs:
            if one.stage in stages:
                version = flows[one.workflow].version if one.workflow in flows else 0
                seen = json.dumps([structs.asdict(s) for s in one.seen]) if one.seen else "{}"
                by, at = self.actors[one.by], instant(one.at)
                row = (
                    ids[one.revision], hashes[one.revision], stages[one.stage], one.workflow, version, by,
                    json.dumps(one.roles), at, seen, one.note,
                )  # fmt: skip
                self._add(bringing.add_sign_offs, row)
        for sub in edition.submissions:
            if sub.stage in stages and (sub.outcome is not None or not self.wish.as_drafts):
                decided = self.actors[sub.decided_by] if sub.decided_by else None
                decided_at = instant(sub.decided_at) if sub.decided_at else None
                waits = (
                    made, stages[sub.stage], ids[sub.revision], self.actors[sub.by], instant(sub.at), sub.note,
                    sub.outcome, decided, decided_at, sub.reason,
                )  # fmt: skip
                self._add(bringing.add_submissions, waits)
        for over in edition.overrides:
            if over.stage in stages:
                by, at = self.actors[over.by], instant(over.at)
                lifted = (
                    ids[over.revision], hashes[over.revision], stages[over.stage], by, at, over.reason,
                    json.dumps(over.conditions, ensure_ascii=False),
                )  # fmt: skip
                self._add(bringing.add_overrides, lifted)

    def write(self) -> None:
        """Write what was taken, in the order in which rows refer to one another."""
        for put in _ORDER:
            put(self.act.conn, self._rows.get(put, ()))
        for line, numbers in self._comments:
            self._write_comments(line, numbers)
        for entry, path in self._folders:
            bringing.add_filed(self.act.conn, [(entry, library.folder_at(self.act, path))])

    def _write_comments(self, line: EntryLine, numbers: Mapping[tuple[str, int], int]) -> None:
        have = comments.there(self.act, line.comments)
        for one in line.comments:
            locale = one.locale or line.source_locale
            about = numbers.get((locale, one.revision or 0), numbers.get((COMMON, one.revision or 0)))
            place = (one.locale, one.field, one.block, one.first, one.past, one.quote, about)
            on = bringing.On(self.entries[line.id], None, *place)
            comments.bring(self.act, one, on, self.actors, have)

    def _number(self, table: str) -> int:
        self._next[table] += 1
        return self._next[table] - 1

    def _add(self, put: Callable[..., None], row: tuple[Any, ...]) -> None:
        self._rows.setdefault(put, []).append(row)


_ORDER: tuple[Callable[..., None], ...] = (
    bringing.add_entries, bringing.add_audiences, bringing.add_editions, bringing.add_strands, bringing.add_revisions, bringing.set_heads,
    bringing.add_parents, bringing.add_picks, bringing.add_file_uses, bringing.add_standings, bringing.add_sign_offs, bringing.add_submissions,
    bringing.add_overrides, bringing.add_assignments,
)  # fmt: skip


def settle(act: Act, id: int, most: int = AT_ONCE) -> int:
    """Derive what follows from some of the entries that were brought; returns how many they were."""
    some = progress.unsettled(act.conn, id, most)
    if not some:
        return 0
    for entry, labels in planned_fields.wish(act, some).items():
        progress.note(act.conn, id, entry, act.keep("importing.not_planned", labels=labels))
    for clash in unfolding.settle(act, some):
        who = permission.title(act, clash.holder) or act.keep("common.untitled")
        progress.note(
            act.conn, id, clash.entry, act.keep("importing.address_taken", slug=clash.slug, entry=who)
        )
    progress.settled(act.conn, id, some)
    act.event("import.settled", some, {"entries": len(some)})
    return len(some)


def in_batches(some: Iterator[T], most: int = AT_ONCE) -> Iterator[list[T]]:
    """So many at once."""
    while found := list(islice(some, most)):
        yield found


def files_ready(view: View, line: FileLine) -> bool:
    """Whether a file is here already."""
    return file_rows.known(view.conn, line.sha256)
