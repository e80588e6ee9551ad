"""Packages in: looked through before anything is written, then brought in steps that may be broken off and go on, and undone.

What is not here is added as it was, with its history, and stands where it stood. What is here is merged with, as one strand with another: where both
changed the same place, the package's text waits in a strand beside the draft for somebody to decide.
"""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import asdict, field, replace
from itertools import islice
from typing import IO, Any
from uuid import UUID

from hawthorn.core import contenttypes, revision, slots
from hawthorn.core.access import Subject
from hawthorn.core.bounds import Bounds
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import BadFile, HawthornError
from hawthorn.core.exchange.differing import differing
from hawthorn.core.exchange.lines import EditionLine, EntryLine, FileLine, RevisionLine, written
from hawthorn.core.exchange.package import ENTRIES, FILES, PEOPLE, SETUP, Package
from hawthorn.core.exchange.soundness import Keeping, instant, wrong
from hawthorn.core.kinds.file import focus_of
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.operations.access import permission
from hawthorn.operations.content import strands
from hawthorn.operations.exchange import set_up
from hawthorn.operations.media import library
from hawthorn.operations.media.files import Stored
from hawthorn.operations.release import drafts, inside
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.views import unfolding
from hawthorn.store import entries as entry_store
from hawthorn.store import exchange as progress
from hawthorn.store import files as file_rows
from hawthorn.store import packages as store
from hawthorn.store import people, revisions
from hawthorn.store import strands as strand_store
from hawthorn.store.entries import DRAFT_STRAND, Edition, Entry

_ID = re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}")
AT_ONCE = 200
"""So many entries are brought in one transaction, between which others have their turn."""
NAMED = 100
"""So many entries are named in a report."""
TRIED = 500
"""Of so many entries that are here already it is tried out what merging comes to; of the others it is only said that they are."""


@dataclass(frozen=True, slots=True)
class Wish:
    """How a package is brought: with its ids, or with new ones (`new_ids`); to the stages where it stood, or as drafts; merged with what is here
    already, or leaving that alone (`leave`). `definitions` also puts types, workflows and the like in place that are otherwise here."""

    new_ids: bool = False
    as_drafts: bool = False
    leave: bool = False
    definitions: bool = False


@dataclass(slots=True)
class Seen:
    """What is to be known of one entry of a package."""

    id: str
    title: str
    why: str


@dataclass(slots=True)
class Report:
    """What bringing a package would do, or did. `left` are entries that cannot be brought, `asked` those where both changed the same place. `as_is` says that all
    contents are kept as they are, by definitions of types that `types` stands for."""

    sha256: str = ""
    history: bool = True
    entries: int = 0
    added: int = 0
    same: int = 0
    merged: int = 0
    asked: int = 0
    there: int = 0
    left: int = 0
    out: int = 0
    cleaned: int = 0
    as_is: bool = True
    types: str = ""
    files: int = 0
    new_files: int = 0
    people: int = 0
    new_people: list[str] = field(default_factory=list)
    definitions: list[dict[str, Any]] = field(default_factory=list)
    named: list[Seen] = field(default_factory=list)

    def name(self, line: EntryLine, why: str) -> None:
        """Name an entry, as long as there is room."""
        if len(self.named) < NAMED:
            self.named.append(Seen(line.id, title_of(line), why))


def require(view: View, wish: Wish) -> None:
    """Refuse whoever may not bring packages: that takes setting up, writing everywhere, and releasing where something is out at once."""
    for verb in ("configure", "write", *(() if wish.as_drafts else ("release",))):
        permission.require(view, verb, Subject())


def title_of(line: EntryLine) -> str:
    """What an entry is called, as far as its newest draft says."""
    for edition in sorted(line.editions, key=lambda one: one.locale != line.source_locale):
        head = next((s.head for s in edition.strands if s.name == DRAFT_STRAND), None)
        fields = next((r.fields for r in edition.revisions if r.n == head), {})
        named = fields.get("title") or next((v for v in fields.values() if isinstance(v, str)), "")
        if isinstance(named, str) and named and edition.locale != COMMON:
            return named[:200]
    return ""


# -- looking ---------------------------------------------------------------------------------------------------------------


def check_beside(package: Package, check_file: Callable[[FileLine, IO[bytes]], None]) -> None:
    """Look at what lies beside the entries: definitions, people and files. Raises `BadFile` with the first thing that cannot be."""
    for part in (SETUP, PEOPLE, FILES):
        package.check(part)
    handles = {one.handle for one in package.people()}
    for n, file in enumerate(package.files(), 1):
        if file.by is not None and file.by not in handles:
            raise BadFile("package.nobody", part=FILES, number=n, handle=file.by)
        with package.bytes_of(file.sha256) as member:
            check_file(file, member)


def sound_entries(package: Package) -> Iterator[EntryLine]:
    """The entries of a package, each once it is clear that it hangs together. Raises `BadFile` for the first that does not: nothing of such a package
    is brought."""
    handles = {one.handle for one in package.people()}
    ids: set[bytes] = set()
    for number, line in enumerate(package.entries(), 1):
        found = wrong(line)
        if found is None and not _people_of(line) <= handles:
            found = said("package.unknown_person", handle=sorted(_people_of(line) - handles)[0])
        if found is not None:
            raise BadFile("package.unsound", part=ENTRIES, number=number, id=line.id[:80], why=found)
        mine = [line.id, *(c.id for c in line.comments), *(r.id for c in line.comments for r in c.replies)]
        short = {UUID(one).bytes for one in mine}
        if len(short) != len(mine) or ids & short:
            raise BadFile("package.id_twice", part=ENTRIES, number=number, id=line.id)
        ids |= short
        yield line


def _people_of(line: EntryLine) -> set[str]:
    out: set[str | None] = {line.by}
    for edition in line.editions:
        out |= {r.by for r in edition.revisions} | {s.by for s in edition.strands}
        out |= {s.by for s in edition.sign_offs} | {s.by for s in edition.submissions}
        out |= {o.by for o in edition.overrides}
        out |= {s.decided_by for s in edition.submissions}
    for comment in line.comments:
        out |= {comment.by, comment.resolved_by, *(r.by for r in comment.replies)}
    return {handle for handle in out if handle is not None}


def missing_definitions(
    view: View, package: Package, wish: Wish
) -> tuple[dict[str, Any], list[dict[str, Any]]]:
    """The definitions of a package that are to be put in place, as a document of set-up; and what of its definitions is not here, or is otherwise here."""
    given = package.setup()
    document: dict[str, Any] = {"version": set_up.VERSION}
    told: list[dict[str, Any]] = []
    for part, have in ((name, set_up.PARTS[name].have(view)) for name in set_up.PARTS if name in given):
        for one in given[part] if isinstance(given[part], list) else []:
            name = set_up.name_of(part, one)
            if name not in have:
                document.setdefault(part, []).append(one)
                told.append({"part": part, "name": name, "how": "added", "members": []})
            elif members := [d.path for d in differing(have[name], one)]:
                told.append({"part": part, "name": name, "how": "otherwise here", "members": members[:20]})
                if wish.definitions:
                    document.setdefault(part, []).append(one)
    return document, told


def look(
    view: View,
    package: Package,
    wish: Wish,
    types: Mapping[str, ContentType],
    some: Sequence[EntryLine],
    report: Report,
) -> list[EntryLine]:
    """Add to a report what bringing some entries comes to. Returns those that are here already."""
    names = Names(view, wish, package.sha256)
    there = store.there(view.conn, [names.entry(line) for line in some])
    here: list[EntryLine] = []
    for line in some:
        report.entries += 1
        why = _in_the_way(view, line, types, names.entry(line) in there)
        if why is not None:
            report.left += 1
            report.name(line, view.say(why))
            continue
        found = stored(view, types[line.type], line)
        report.cleaned += found.cleaned
        report.as_is &= found.as_is and not found.misfits
        if found.misfits:
            report.left += 1
            report.name(line, view.say(found.misfits[0]))
        elif names.entry(line) in there:
            here.append(line)
        else:
            report.added += 1
            if not wish.as_drafts and _is_out(line):
                report.out += 1
    return here


def _is_out(line: EntryLine) -> bool:
    return any(
        s.stage == "release" and s.until is None
        for e in line.editions
        if e.locale != COMMON
        for s in e.standings
    )


def _in_the_way(view: View, line: EntryLine, types: Mapping[str, ContentType], there: bool) -> Message | None:
    """Why an entry cannot be brought; None for one that can."""
    kind = types.get(line.type)
    if kind is None:
        return said("importing.no_type", type=line.type)
    if kind.single and not there and entry_store.single(view.conn, kind.name) is not None:
        return said("importing.one_already", type=kind.label)
    return None


@dataclass(slots=True)
class Kept:
    """What the revisions of an entry hold, by locale and number, as this house keeps it (what is not there is as it came); in how many of them something had to be made so, whether all of it
    is as it came, and what does not fit its field in a revision that counts: the newest of a draft, or one that stands."""

    contents: dict[tuple[str, int], Content]
    cleaned: int = 0
    as_is: bool = True
    misfits: list[Message] = field(default_factory=list)


def stored(view: View, kind: ContentType, line: EntryLine) -> Kept:
    """An entry as this house would keep it."""
    keeping = Keeping(kind, view.setup.bounds)
    out = Kept({})
    for edition in line.editions:
        counts = {s.head for s in edition.strands}
        counts |= {s.revision for s in edition.standings if s.until is None}
        for one in edition.revisions:
            values, wrongly = keeping.kept(one.fields)
            content, as_is = keeping.content(one, values)
            out.cleaned += not as_is and values != one.fields
            out.as_is &= as_is
            if one.n in counts:
                out.misfits += wrongly
            out.contents[edition.locale, one.n] = content
    return out


def fingerprint(types: Mapping[str, ContentType], package: Package, bounds: Bounds) -> str:
    """What stands for the definitions of the types of a package, and for what they let in."""
    names = sorted(set_up.name_of("types", one) for one in package.setup().get("types", []))
    told = [repr(replace(types[name], version=0)) for name in names if name in types]
    return hashlib.sha256("\n".join([repr(bounds), *told]).encode()).hexdigest()


# -- names -----------------------------------------------------------------------------------------------------------------


class Names:
    """What the ids of a package are here: the same, or others, each always the same for the same package. Of a type of which there may be one alone it
    is the one here."""

    def __init__(self, view: View, wish: Wish, seed: str) -> None:
        self._new = wish.new_ids
        self._seed = seed
        kinds = [kind for kind in view.setup.types.values() if kind.single] if wish.new_ids else []
        self._single = {
            kind.name: row.uuid for kind in kinds if (row := entry_store.single(view.conn, kind.name))
        }

    def entry(self, line: EntryLine) -> str:
        """The id that an entry has here."""
        return self._single.get(line.type) or self.of(line.id)

    def of(self, uuid: str) -> str:
        """The id that a comment has here, or any other entry."""
        return self.renamed(uuid) if self._new else uuid

    def renamed(self, uuid: str) -> str:
        """Another UUID of version 7 (RFC 9562, section 5.7) for the same instant."""
        digest = hashlib.sha256(f"{self._seed}\n{uuid}".encode()).digest()
        kept = UUID(uuid).int >> 80 << 80
        made = kept | 7 << 76 | (int.from_bytes(digest[:2]) & 0xFFF) << 64
        return str(UUID(int=made | 2 << 62 | int.from_bytes(digest[2:10]) & (2**62 - 1)))


def rename(line: EntryLine, names: Names, ids: Mapping[str, str]) -> EntryLine:
    """An entry under its new ids, and with those of what it refers to in the package."""
    revised = [
        replace(
            edition,
            revisions=[replace(r, fields=_replaced(r.fields, ids)) for r in edition.revisions],
            sign_offs=[
                replace(s, seen=[replace(x, entry=ids.get(x.entry, x.entry)) for x in s.seen])
                for s in edition.sign_offs
            ],
        )
        for edition in line.editions
    ]
    comments = [
        replace(c, id=names.of(c.id), replies=[replace(r, id=names.of(r.id)) for r in c.replies])
        for c in line.comments
    ]
    return replace(line, id=ids[line.id], editions=revised, comments=comments)


def _replaced(value: Any, ids: Mapping[str, str]) -> Any:
    """A value with other ids in the place of those of a package, wherever they stand in its texts."""
    if isinstance(value, str):
        return _ID.sub(lambda found: ids.get(found[0], found[0]), value) if "-" in value else value
    if isinstance(value, Mapping):
        return {k: _replaced(v, ids) for k, v in value.items()}
    return [_replaced(one, ids) for one in value] if isinstance(value, list) else value


# -- bringing --------------------------------------------------------------------------------------------------------------


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
    there = store.there(act.conn, [line.id for line in some])
    new = [
        line
        for line in some
        if line.id not in there and _in_the_way(act, line, act.setup.types, there=False) is None
    ]
    bringing = _Bringing(act, wish, as_is=as_is)
    kept = [line for line in new if bringing.entry(line)]
    bringing.write()
    progress.brought(act.conn, id, [(bringing.entries[line.id], "added", "", "[]") for line in kept])
    act.event("import.taken", bringing.entries.values(), {"entries": len(kept)})
    return [line for line in some if line.id in there]


class _Bringing:
    """The rows of entries that come in whole."""

    def __init__(self, act: Act, wish: Wish, *, as_is: bool) -> None:
        self.act = act
        self.wish = wish
        self.as_is = as_is
        self.entries: dict[str, int] = {}
        self.actors = {one.handle: one.id for one in store.everybody(act.conn).values()}
        self._next = store.next_ids(act.conn)
        self._rows: dict[Callable[..., None], list[tuple[Any, ...]]] = {}
        self._comments: list[tuple[EntryLine, Mapping[tuple[str, int], int]]] = []
        self._folders: list[tuple[int, tuple[str, ...]]] = []

    def entry(self, line: EntryLine) -> bool:
        """Take an entry; False for one that does not fit its type."""
        kind = self.act.setup.type(line.type)
        taken = Kept({}) if self.as_is else stored(self.act, kind, line)
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
        self._add(store.add_entries, row)
        for audience in line.audiences:
            self._add(store.add_audiences, (id, audience))
        if line.folder:
            self._folders.append((id, tuple(line.folder)))
        numbers: dict[tuple[str, int], int] = {}
        for edition in line.editions:
            made = self._number("edition")
            self._add(store.add_editions, (made, id, edition.locale))
            found = self.edition(
                kind, made, edition, {n: c for (loc, n), c in taken.contents.items() if loc == edition.locale}
            )
            numbers |= {(edition.locale, n): revision for n, revision in found.items()}
        self._comments.append((line, numbers))
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
            self._add(store.add_strands, (strand, made, told.name, closed, by, at, told.note, told.ended))
            head = ids[told.head] if told.head is not None else None
            forked = ids[told.forked_from] if told.forked_from is not None else None
            self._add(store.set_heads, (head, forked, strand))
        hashes: dict[int, str] = {}
        for one in edition.revisions:
            content = contents.get(one.n)
            fields = one.fields if content is None else content.fields
            hashes[one.n] = revision.content_hash(made, kind.version, fields)
            row = self._revision(kind, made, one, content, strands, hashes[one.n])
            self._add(store.add_revisions, (ids[one.n], *row))
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
            told = (written(one.fields), _compact(one.paragraph_ids), _compact(one.unit_map))
        else:
            ids = revision.paragraph_ids_to_json(content.paragraph_ids)
            told = (written(content.fields), ids, _compact(content.unit_map))
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
            self._add(store.add_parents, (id, n, ids[parent]))
        for pick in one.picks:
            self._add(store.add_picks, (id, ids[pick.revision], pick.path))
        for slot in slots.walk(kind.fields, fields) if kind.holds_files else ():
            if slot.spec.kind == "file" and slot.value:
                for value in slot.value if isinstance(slot.value, list) else [slot.value]:
                    if isinstance(value, Mapping) and "sha256" in value:
                        self._add(store.add_file_uses, (value["sha256"], id, focus_of(value)))

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
                self._add(store.add_standings, row)

    def _reviews(
        self, edition: EditionLine, made: int, ids: Mapping[int, int], hashes: Mapping[int, str]
    ) -> None:
        stages, flows = self.act.setup.stages, self.act.setup.workflows
        for one in edition.sign_offs:
            if one.stage in stages:
                version = flows[one.workflow].version if one.workflow in flows else 0
                seen = json.dumps([asdict(s) for s in one.seen]) if one.seen else "{}"
                by, at = self.actors[one.by], instant(one.at)
                row = (
                    ids[one.revision], hashes[one.revision], stages[one.stage], one.workflow, version, by,
                    json.dumps(one.roles), at, seen, one.note,
                )  # fmt: skip
                self._add(store.add_sign_offs, row)
        for sub in edition.submissions:
            if sub.stage in stages and (sub.outcome is not None or not self.wish.as_drafts):
                decided = self.actors[sub.decided_by] if sub.decided_by else None
                decided_at = instant(sub.decided_at) if sub.decided_at else None
                waits = (
                    made, stages[sub.stage], ids[sub.revision], self.actors[sub.by], instant(sub.at), sub.note,
                    sub.outcome, decided, decided_at, sub.reason,
                )  # fmt: skip
                self._add(store.add_submissions, waits)
        for over in edition.overrides:
            if over.stage in stages:
                by, at = self.actors[over.by], instant(over.at)
                lifted = (
                    ids[over.revision], hashes[over.revision], stages[over.stage], by, at, over.reason,
                    json.dumps(over.conditions, ensure_ascii=False),
                )  # fmt: skip
                self._add(store.add_overrides, lifted)

    def write(self) -> None:
        """Write what was taken, in the order in which rows refer to one another."""
        for put in _ORDER:
            put(self.act.conn, self._rows.get(put, ()))
        for line, numbers in self._comments:
            self._write_comments(line, numbers)
        for entry, path in self._folders:
            store.add_filed(self.act.conn, [(entry, library.folder_at(self.act, path))])

    def _write_comments(self, line: EntryLine, numbers: Mapping[tuple[str, int], int]) -> None:
        conn, entry = self.act.conn, self.entries[line.id]
        ids = [c.id for c in line.comments] + [r.id for c in line.comments for r in c.replies]
        have = store.comments_there(conn, ids) if ids else set()
        for one in line.comments:
            if one.id in have or any(r.id in have for r in one.replies):
                continue
            locale = one.locale or line.source_locale
            about = numbers.get((locale, one.revision or 0), numbers.get((COMMON, one.revision or 0)))
            by = self.actors[one.resolved_by] if one.resolved_by else None
            row = (
                one.id, entry, one.locale, one.field, one.block, one.first, one.past, one.quote, about,
                self.actors[one.by], one.kind, instant(one.at), one.text,
                instant(one.resolved_at) if one.resolved_at else None, by,
            )  # fmt: skip
            made = store.add_comment(conn, row)
            replies = [(r.id, made, self.actors[r.by], r.kind, instant(r.at), r.text) for r in one.replies]
            store.add_replies(conn, replies)

    def _number(self, table: str) -> int:
        self._next[table] += 1
        return self._next[table] - 1

    def _add(self, put: Callable[..., None], row: tuple[Any, ...]) -> None:
        self._rows.setdefault(put, []).append(row)


_compact = json.JSONEncoder(separators=(",", ":")).encode
_ORDER: tuple[Callable[..., None], ...] = (
    store.add_entries, store.add_audiences, store.add_editions, store.add_strands, store.add_revisions, store.set_heads,
    store.add_parents, store.add_picks, store.add_file_uses, store.add_standings, store.add_sign_offs, store.add_submissions,
    store.add_overrides,
)  # fmt: skip


def settle(act: Act, id: int, most: int = AT_ONCE) -> int:
    """Derive what follows from some of the entries that were brought; returns how many they were."""
    some = progress.unsettled(act.conn, id, most)
    if not some:
        return 0
    for clash in unfolding.settle(act, some):
        who = permission.title(act, clash.holder) or act.say("common.untitled")
        progress.note(
            act.conn, id, clash.entry, act.say("importing.address_taken", slug=clash.slug, entry=who)
        )
    progress.settled(act.conn, id, some)
    act.event("import.settled", some, {"entries": len(some)})
    return len(some)


def follow_sections(act: Act, id: int) -> None:
    """Let all that was brought lie in its sections."""
    unfolding.follow_sections(act, progress.added(act.conn, id))


# -- merging with what is here ---------------------------------------------------------------------------------------------


@dataclass(slots=True)
class Joined:
    """What came of merging an entry with the one that is here: `same` where that has all of it already, `merged`, or `beside` where somebody has to
    decide; the strand with what came, and the drafts that were written: locale, revision before and after."""

    entry: int
    how: str
    strand: str = ""
    wrote: list[tuple[str, int, int]] = field(default_factory=list)


def merge(act: Act, line: EntryLine, name: str) -> Joined:
    """Merge an entry with the one that is here."""
    entry = entry_store.even_removed(act.conn, line.id)
    assert entry is not None
    away = entry.removed_at is not None or (entry.archived_at is not None and line.archived_at is None)
    if away:
        # Somebody took it away here, and it is there where the package comes from.
        drafts.revive(act, entry.uuid)
        entry = entry_store.entry_by_id(act.conn, entry.id)
    kind = act.setup.type(entry.type)
    strand = inside.free_name(act, entry.id, act.say("importing.strand", name=name))
    sorted_ones = sorted(line.editions, key=lambda one: one.locale != COMMON)
    came = {told.locale: _into_strand(act, kind, entry, told, strand, line) for told in sorted_ones}
    if not away and not any(came.values()):
        return Joined(entry.id, "same")
    changed = [locale for locale, how in came.items() if how == "beside"]
    before = {one.locale: one.head for one in entry_store.editions(act.conn, entry.id)}
    act.event(
        "import.merged",
        [entry.id],
        {"entry": entry.uuid, "title": permission.title(act, entry.id), "file": name},
    )
    beside = False
    locales = [loc for loc in changed if loc != COMMON] or ([entry.source_locale] if changed else [])
    for locale in locales:
        if entry_store.edition(act.conn, entry.id, locale, strand) is None:
            continue
        proposal = strands.propose(act, entry.uuid, locale, strand)
        if proposal.still_open:
            beside = True
        else:
            strands.accept(act, entry.uuid, locale, strand, proposal.etag)
    wrote = [
        (one.locale, was, one.head)
        for one in entry_store.editions(act.conn, entry.id)
        if one.head is not None and (was := before.get(one.locale)) is not None and was != one.head
    ]
    return Joined(entry.id, "beside" if beside else "merged", strand, wrote)


def _into_strand(
    act: Act, kind: ContentType, entry: Entry, told: EditionLine, name: str, line: EntryLine
) -> str:
    """Put the newest draft of an edition into a strand beside the one here, from the revision that both have; or into a draft, where there is no such
    edition. Says which: `beside`, `new`, or nothing where all of it is here already."""
    contents = stored(act, kind, replace(line, editions=[told])).contents
    head = next((s.head for s in told.strands if s.name == DRAFT_STRAND), None)
    if head is None or (told.locale != COMMON and told.locale not in act.setup.locales):
        return ""
    wanted = contents[told.locale, head]
    here = entry_store.edition(act.conn, entry.id, told.locale)
    if here is None or here.head is None:
        _new_edition(act, kind, entry, told.locale, wanted, here)
        return "new"
    known = _digests(act, here)
    if _digest(wanted) in known:
        return ""
    base = _shared(told, head, {n: c for (_, n), c in contents.items()}, known)
    _fork(act, entry, here, name, base)
    beside = entry_store.edition(act.conn, entry.id, told.locale, name)
    assert beside is not None
    newest = next(r for r in told.revisions if r.n == head)
    note = act.say("importing.revision", number=head, by=newest.by, note=newest.note)
    parents = [base] if base is not None else []
    made = drafts.add_revision(act, kind, here.id, beside.strand, wanted, parents, note, "import")
    entry_store.move_head(act.conn, beside.strand, beside.head, made)
    return "beside"


def _new_edition(
    act: Act, kind: ContentType, entry: Entry, locale: str, content: Content, here: Edition | None
) -> None:
    """An edition that is not here comes in as a draft."""
    if here is None:
        entry_store.add_edition(act.conn, entry.id, locale)
        here = entry_store.edition(act.conn, entry.id, locale)
    assert here is not None
    drafts.append(act, kind, entry, here, content, [], act.say("importing.new_edition"), "import")


def _fork(act: Act, entry: Entry, here: Edition, name: str, base: int | None) -> None:
    """A strand of a name beside an edition, and one beside the common edition with it."""
    strand_store.add(act.conn, here.id, name, base or here.tip, act.identity.id, act.now, "")
    source = entry_store.edition(act.conn, entry.id, entry.source_locale)
    common = entry_store.edition(act.conn, entry.id, COMMON)
    for other in (common, source if here.locale == COMMON else None):
        if other is None or other.head is None or other.id == here.id:
            continue
        if entry_store.edition(act.conn, entry.id, other.locale, name) is None:
            strand_store.add(act.conn, other.id, name, other.tip, act.identity.id, act.now, "")


def _digests(act: Act, here: Edition) -> dict[str, int]:
    """What an edition ever held here, each with its newest revision."""
    ids = sorted(revisions.newest(act.conn, here.id, 100_000))
    return {_digest(content): id for id, content in sorted(revisions.contents(act.conn, ids).items())}


def _digest(content: Content) -> str:
    """What a revision holds, as a hash that is the same in every house."""
    body = json.dumps(content.fields, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(body.encode()).hexdigest()


def _shared(
    told: EditionLine, head: int, stored: Mapping[int, Content], known: Mapping[str, int]
) -> int | None:
    """The youngest revision, of those that a draft came from, that is here, too."""
    parents = {r.n: r.parents for r in told.revisions}
    seen: set[int] = set()
    waiting = [head]
    while waiting:
        one = max(waiting)
        waiting.remove(one)
        found = known.get(_digest(stored[one]))
        if found is not None:
            return found
        seen.add(one)
        waiting += [p for p in parents.get(one, ()) if p not in seen and p not in waiting]
    return None


def in_batches(some: Iterator[EntryLine], most: int = AT_ONCE) -> Iterator[list[EntryLine]]:
    """Entries, so many at once."""
    while found := list(islice(some, most)):
        yield found


def known_types(view: View, package: Package, wish: Wish) -> dict[str, ContentType]:
    """The types there will be once the package's definitions are in place, as far as they can be read by themselves."""
    sets = dict(view.setup.sets)
    given = package.setup()
    for one in given.get("field_sets", []):
        try:
            made = contenttypes.set_from_dict(one)
            sets.setdefault(made.name, made)
        except HawthornError:
            continue
    out: dict[str, ContentType] = {}
    for one in given.get("types", []):
        try:
            kind = contenttypes.from_dict(one, sets)
            out[kind.name] = kind
        except HawthornError:
            continue
    return {**view.setup.types, **out} if wish.definitions else {**out, **view.setup.types}


def files_ready(view: View, line: FileLine) -> bool:
    """Whether a file is here already."""
    return file_rows.known(view.conn, line.sha256)
