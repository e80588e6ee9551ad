"""Packages out: entries with their history or as they stand, the files that they hold, and whoever wrote them."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import field, replace
from typing import Any, BinaryIO

from hawthorn.core.access import Subject
from hawthorn.core.compact import names, read, texts, written
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.exchange.package import ENTRIES, FILES, PEOPLE, SETUP, Writing
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import paragraph_ids_to_json
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.exchange import comments, dispatches, language, set_up
from hawthorn.operations.runtime import as_now
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries as entry_store
from hawthorn.store import files as file_rows
from hawthorn.store import packages as store
from hawthorn.store.entries import DRAFT_STRAND
from hawthorn.store.files import File
from hawthorn.store.packages import RevisionKept

AT_ONCE = 200
"""So many entries are read at once."""
Bytes = Callable[[File], Iterable[bytes]]
Told = Callable[[int], None]


@dataclass(frozen=True, slots=True)
class Choice:
    """What goes into a package: entries of some types, in some sections, or named; all where nothing is. With what they refer to (`linked`), and
    with all that ever was of them (`history`), or what stands."""

    types: tuple[str, ...] = ()
    sections: tuple[str, ...] = ()
    entries: tuple[str, ...] = ()
    linked: bool = True
    history: bool = True

    @property
    def whole(self) -> bool:
        """Whether it is all of a house."""
        return not (self.types or self.sections or self.entries)


def chosen(view: View, choice: Choice) -> list[str]:
    """The entries (UUIDs, in order) that are chosen. Raises `Invalid` for what names nothing."""
    permission.require(view, "configure", Subject())
    problems = [
        FieldProblem("types", said("common.value_none_of", value=name, known=[*view.setup.types]))
        for name in choice.types
        if name not in view.setup.types
    ]
    sections: list[int] = []
    for uuid in choice.sections:
        row = entry_store.entry(view.conn, uuid)
        if row is None or not view.setup.type(row.type).section:
            problems.append(FieldProblem("sections", said("common.no_section", id=uuid)))
        else:
            sections.append(row.id)
    there = entry_store.there(view.conn, choice.entries)
    problems += [
        FieldProblem("entries", said("exporting.no_entry", id=uuid))
        for uuid in choice.entries
        if uuid not in there
    ]
    if problems:
        raise Invalid(problems)
    return store.chosen(view.conn, choice.types, sections, choice.entries, linked=choice.linked)


def write(
    view: View, uuids: Sequence[str], choice: Choice, file: BinaryIO, bytes_of: Bytes, told: Told
) -> None:
    """Write a package of entries, of all of a house with its memories and glossaries and, with their history, the dispatches that are still to go; `told` is
    called with how many entries are done."""
    out = Writing(file, choice.history)
    export = _Export(view, choice.history)
    out.lines(ENTRIES, export.entries(uuids, told))
    if choice.whole:
        export.locales |= language.locales(view)
    out.lines(SETUP, [written(_setup(view, export))])
    files = [file_rows.find(view.conn, one) for one in sorted(export.files)]
    kept = [one for one in files if one is not None]
    out.lines(FILES, [texts(export.file(one)) for one in kept])
    if choice.whole:
        language.write(view, out, export.handle)
        if choice.history:
            dispatches.write(view, out, export.handle)
    out.lines(PEOPLE, export.people())
    for one in kept:
        out.file(one.sha256, bytes_of(one))
    out.close()


def _setup(view: View, export: _Export) -> dict[str, Any]:
    """The definitions that the entries need: their types with the sets and layouts of these, the workflows that they follow with the roles at their gates, and
    the locales that they are written in."""
    types = {name: view.setup.types[name] for name in export.types}
    types |= {kind.layout: view.setup.types[kind.layout] for kind in types.values() if kind.layout}
    flows = {kind.workflow for kind in types.values()} | export.workflows
    gates = [
        s.gate for name in flows if name in view.setup.workflows for s in view.setup.workflows[name].stages
    ]
    wanted: Mapping[str, set[str]] = {
        "locales": {tag for tag in export.locales if tag != "*"},
        "field_sets": {name for kind in types.values() for name in kind.sets},
        "types": set(types),
        "roles": {name for gate in gates for name in (*gate.roles, *gate.override_roles)},
        "workflows": flows,
    }
    out: dict[str, Any] = {"version": set_up.VERSION}
    for part, some in wanted.items():
        have = set_up.PARTS[part].have(view)
        out[part] = [one for name, one in sorted(have.items()) if name in some]
    return out


class _Export:
    """Entries as lines, and what they were found to need."""

    def __init__(self, view: View, history: bool) -> None:
        self._conn = view.conn
        self._stages = view.setup.stage_names
        self._kinds = view.setup.types
        self._history = history
        self._actors = store.everybody(view.conn)
        self._folders = store.folders(view.conn)
        self._met: set[int] = set()
        self.files: set[str] = set()
        self.types: set[str] = set()
        self.locales: set[str] = set()
        self.workflows: set[str] = set()

    def entries(self, uuids: Sequence[str], told: Told) -> Iterator[str]:
        """The lines of entries."""
        for start in range(0, len(uuids), AT_ONCE):
            some = _Some(self._conn, uuids[start : start + AT_ONCE])
            if not self._history:
                some.keep_what_stands()
            some.bring_up(self._kinds)
            self.files |= store.files_of(self._conn, [r.id for rows in some.revisions.values() for r in rows])
            for entry in some.entries:
                yield self._entry(some, entry)
            told(start + len(some.entries))

    def people(self) -> list[str]:
        """The lines of whoever the entries tell of."""
        met = sorted((self._actors[id] for id in self._met), key=lambda one: one.handle)
        return [texts({"handle": one.handle, "name": one.name, "kind": one.kind}) for one in met]

    def file(self, one: File) -> dict[str, Any]:
        """The line of a file."""
        return {
            "sha256": one.sha256,
            "media_type": one.media_type,
            "name": one.name,
            "bytes": one.bytes,
            "width": one.width,
            "height": one.height,
            "at": iso(one.at),
            "by": self._by(one.actor),
        }

    def handle(self, actor: int) -> str:
        """Somebody's handle, who is among the people from here on."""
        self._met.add(actor)
        return self._actors[actor].handle

    def _by(self, actor: int | None) -> str | None:
        return None if actor is None else self.handle(actor)

    def _entry(self, some: _Some, entry: store.EntryKept) -> str:
        self.types.add(entry.type)
        self.locales.add(entry.source_locale)
        head = {
            "id": entry.uuid,
            "type": entry.type,
            "source_locale": entry.source_locale,
            "at": iso(entry.created_at),
            "by": self._by(entry.actor),
            "archived_at": _instant(entry.archived_at),
            "limited": entry.limited,
            "audiences": some.audiences.get(entry.id, []),
            "folder": self._folder(entry.folder),
        }
        editions = ",".join(self._edition(some, one) for one in some.editions.get(entry.id, []))
        said = texts([self._comment(some, one) for one in some.comments.get(entry.id, [])])
        assigned = texts([self._assignment(one) for one in some.assignments.get(entry.id, [])])
        rest = f'"comments":{said},"assignments":{assigned}'
        return f'{texts(head)[:-1]},"editions":[{editions}],{rest}}}'

    def _folder(self, folder: int | None) -> list[str]:
        out: list[str] = []
        while folder and folder in self._folders and len(out) < 100:
            name, folder = self._folders[folder]
            out.insert(0, name)
        return out

    def _edition(self, some: _Some, one: store.EditionKept) -> str:
        self.locales.add(one.locale)
        strands = some.strands.get(one.id, [])
        places = {strand.id: n for n, strand in enumerate(strands)}
        rows = some.revisions.get(one.id, [])
        number = {row.id: row.number for row in rows}
        told_strands = [
            {
                "name": s.name,
                "head": number.get(s.head) if s.head else None,
                "forked_from": number.get(s.forked_from) if s.forked_from else None,
                "by": self._by(s.actor),
                "at": _instant(s.created_at),
                "note": s.note,
                "ended": s.ended,
                "closed_at": _instant(s.closed_at),
            }
            for s in strands
        ]
        revisions = ",".join(self._revision(some, row, number, places) for row in rows)
        self.workflows |= {s.workflow for s in some.sign_offs.get(one.id, [])}
        rest = {
            "standings": [
                {
                    "stage": self._stages[s.stage],
                    "revision": number[s.revision],
                    "since": iso(s.since),
                    "until": _instant(s.until),
                    "committed_at": iso(s.committed_at),
                }
                for s in some.standings.get(one.id, [])
            ],
            "sign_offs": [
                {
                    "revision": number[s.revision],
                    "stage": self._stages[s.stage],
                    "workflow": s.workflow,
                    "by": self._by(s.actor),
                    "roles": read(s.roles),
                    "at": iso(s.at),
                    "note": s.note,
                    "seen": some.seen(s.seen),
                }
                for s in some.sign_offs.get(one.id, [])
            ],
            "submissions": [
                {
                    "revision": number[s.revision],
                    "stage": self._stages[s.stage],
                    "by": self._by(s.actor),
                    "at": iso(s.at),
                    "note": s.note,
                    "outcome": s.outcome,
                    "decided_by": self._by(s.decided_by),
                    "decided_at": _instant(s.decided_at),
                    "reason": s.reason,
                }
                for s in some.submissions.get(one.id, [])
            ],
        }
        overrides = [
            {
                "revision": number[o.revision],
                "stage": self._stages[o.stage],
                "by": self._by(o.actor),
                "at": iso(o.at),
                "reason": o.reason,
                "conditions": read(o.conditions),
            }
            for o in some.overrides.get(one.id, [])
        ]
        begin = texts({"locale": one.locale, "strands": told_strands})[:-1]
        return f'{begin},"revisions":[{revisions}],{texts(rest)[1:-1]},"overrides":{written(overrides)}}}'

    def _revision(
        self, some: _Some, row: RevisionKept, number: Mapping[int, int], places: Mapping[int, int]
    ) -> str:
        head = {
            "n": row.number,
            "strand": places.get(row.strand) if row.strand is not None else None,
            "parents": [number[p] for p in some.parents.get(row.id, ()) if p in number],
            "picks": [
                {"revision": number[p], "path": path} for p, path in some.picks.get(row.id, ()) if p in number
            ],
            "by": self._by(row.actor),
            "kind": row.actor_kind,
            "at": iso(row.at),
            "note": row.note,
            "origin": row.origin,
        }
        # What is kept as JSON goes out as it is kept.
        return (
            f'{texts(head)[:-1]},"fields":{row.fields},"paragraph_ids":{row.paragraph_ids},'
            f'"unit_map":{row.unit_map}}}'
        )

    def _assignment(self, one: store.AssignmentKept) -> dict[str, Any]:
        return {
            "id": one.uuid,
            "locale": one.locale,
            "to": self._by(one.holder),
            "by": self._by(one.actor),
            "at": iso(one.at),
            "due": one.due,
            "note": one.note,
            "told": one.told,
        }

    def _comment(self, some: _Some, one: store.CommentKept) -> dict[str, Any]:
        return {
            "id": one.uuid,
            "locale": one.locale,
            "field": one.field,
            "block": one.block,
            "first": one.first,
            "past": one.past,
            "quote": one.quote,
            "revision": one.number if one.revision in some.known else None,
            **comments.told(one, some.replies.get(one.id, ()), self.handle),
        }


def _instant(at: int | None) -> str | None:
    return None if at is None else iso(at)


@dataclass(slots=True)
class _Some:
    """Some entries with all that belongs to them, each kind read once."""

    conn: sqlite3.Connection
    uuids: Sequence[str]
    entries: list[store.EntryKept] = field(init=False)
    editions: dict[int, list[store.EditionKept]] = field(init=False)
    strands: dict[int, list[store.StrandKept]] = field(init=False)
    revisions: dict[int, list[RevisionKept]] = field(init=False)
    standings: dict[int, list[store.StandingKept]] = field(init=False)
    sign_offs: dict[int, list[store.SignOffKept]] = field(init=False)
    submissions: dict[int, list[store.SubmissionKept]] = field(init=False)
    overrides: dict[int, list[store.OverrideKept]] = field(init=False)
    comments: dict[int, list[store.CommentKept]] = field(init=False)
    replies: dict[int, list[store.ReplyKept]] = field(init=False)
    assignments: dict[int, list[store.AssignmentKept]] = field(init=False)
    audiences: dict[int, list[str]] = field(init=False)
    parents: dict[int, list[int]] = field(init=False)
    picks: dict[int, list[tuple[int, str]]] = field(init=False)
    known: set[int] = field(init=False)
    _seen: dict[int, tuple[str, str, int]] = field(init=False)

    def __post_init__(self) -> None:
        conn = self.conn
        self.entries = store.entries(conn, self.uuids)
        ids = [one.id for one in self.entries]
        self.editions = _grouped(store.editions(conn, ids), lambda one: one.entry)
        self.strands = _grouped(store.strands(conn, ids), lambda one: one.edition)
        self.revisions = _grouped(store.revisions(conn, ids), lambda one: one.edition)
        self.standings = _grouped(store.standings(conn, ids), lambda one: one.edition)
        self.sign_offs = _grouped(store.sign_offs(conn, ids), lambda one: one.edition)
        self.submissions = _grouped(store.submissions(conn, ids), lambda one: one.edition)
        self.overrides = _grouped(store.overrides(conn, ids), lambda one: one.edition)
        self.comments = _grouped(store.comments(conn, ids), lambda one: one.entry)
        self.replies = _grouped(store.replies(conn, ids), lambda one: one.comment)
        self.assignments = _grouped(store.assignments(conn, ids), lambda one: one.entry)
        self.audiences, self.parents, self.picks = {}, {}, {}
        for entry, audience in store.audiences(conn, ids):
            self.audiences.setdefault(entry, []).append(audience)
        for revision, parent in store.parents(conn, ids):
            self.parents.setdefault(revision, []).append(parent)
        for revision, source, path in store.picks(conn, ids):
            self.picks.setdefault(revision, []).append((source, path))
        self.known = {row.id for rows in self.revisions.values() for row in rows}
        seen = (read(s.seen) for rows in self.sign_offs.values() for s in rows)
        self._seen = store.named(conn, {revision for one in seen for revision in one.values()})

    def seen(self, kept: str) -> list[dict[str, Any]]:
        """What was shown with a text that was signed off."""
        found = sorted(self._seen[r] for r in read(kept).values() if r in self._seen)
        return [{"entry": uuid, "locale": locale, "revision": number} for uuid, locale, number in found]

    def keep_what_stands(self) -> None:
        """Leave out what was: revisions that stand nowhere and end no draft, and what was said of them."""
        for edition, rows in self.revisions.items():
            strands = [s for s in self.strands.get(edition, []) if s.name == DRAFT_STRAND]
            standing = [s for s in self.standings.get(edition, []) if s.until is None]
            kept = {s.head for s in strands} | {s.revision for s in standing}
            for id in sorted(one for one in kept if one is not None):
                self.parents[id] = self._nearest(id, kept)
                self.picks.pop(id, None)
            self.strands[edition] = strands
            self.standings[edition] = standing
            self.revisions[edition] = [row for row in rows if row.id in kept]
            self.sign_offs[edition] = [s for s in self.sign_offs.get(edition, []) if s.revision in kept]
            self.overrides[edition] = [o for o in self.overrides.get(edition, []) if o.revision in kept]
            self.submissions[edition] = [
                s for s in self.submissions.get(edition, []) if s.revision in kept and s.outcome is None
            ]
        self.known = {row.id for rows in self.revisions.values() for row in rows}

    def bring_up(self, kinds: Mapping[str, ContentType]) -> None:
        """Let each revision hold what its fields are now: another house knows nothing of what those were before."""
        for entry in self.entries:
            kind = kinds[entry.type]
            for edition in self.editions.get(entry.id, []) if kind.marked else ():
                rows = self.revisions.get(edition.id, [])
                self.revisions[edition.id] = [self._brought_up(kind, row) for row in rows]

    def _brought_up(self, kind: ContentType, row: RevisionKept) -> RevisionKept:
        if row.id > kind.marked:
            return row
        now = as_now.content(self.conn, kind, row.id)
        ids, claims = paragraph_ids_to_json(now.paragraph_ids), names(now.unit_map)
        return replace(row, fields=written(now.fields), paragraph_ids=ids, unit_map=claims)

    def _nearest(self, revision: int, kept: set[int | None]) -> list[int]:
        """The nearest of those that are kept among what a revision came from."""
        found: set[int] = set()
        seen: set[int] = set()
        waiting = [*self.parents.get(revision, ())]
        while waiting:
            one = waiting.pop()
            if one in kept:
                found.add(one)
            elif one not in seen:
                seen.add(one)
                waiting += self.parents.get(one, ())
        return sorted(found)


def _grouped(rows: Iterable[Any], by: Callable[[Any], int]) -> dict[int, list[Any]]:
    out: dict[int, list[Any]] = {}
    for row in rows:
        out.setdefault(by(row), []).append(row)
    return out
