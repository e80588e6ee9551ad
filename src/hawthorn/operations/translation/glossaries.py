"""Glossaries: what things are called in which language, looked up beside a sentence, and looked after."""

from __future__ import annotations

import json
import sqlite3
from collections import OrderedDict
from collections.abc import Iterator, Mapping, Sequence
from threading import Lock
from typing import Any

from hawthorn.core import naming, numbers
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.core.translation import tbx
from hawthorn.core.translation.terms import STATUSES
from hawthorn.core.translation.wording import Called, Wording
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.operations.translation import imports, owning
from hawthorn.operations.translation.imports import ImportShown
from hawthorn.store import entries as entry_store
from hawthorn.store import glossaries as store
from hawthorn.store.glossaries import Concept, Glossary, Term
from hawthorn.store.jobs import Job

MOST = 50_000
"""So many concepts a glossary may hold."""
MOST_TERMS = 50
"""So many names a concept may have."""
_PAIRS = 24
"""So many pairs of languages are held ready."""


@dataclass(frozen=True, slots=True)
class GlossaryShown:
    """A glossary, and what whoever looks may do with it."""

    id: str
    name: str
    note: str
    section: str
    concepts: int
    by: str
    at: str
    may_manage: bool


@dataclass(frozen=True, slots=True)
class TermShown:
    """What a concept is called in a language."""

    locale: str
    text: str
    status: str = "preferred"


@dataclass(frozen=True, slots=True)
class ConceptShown:
    """A concept with what it is called, and who wrote it last."""

    id: int
    note: str
    terms: list[TermShown]
    by: str
    at: str


def listing(view: View) -> list[GlossaryShown]:
    """The glossaries that whoever looks may use, by name."""
    return [_shown(view, row) for row in store.every(view.conn) if owning.usable(view, row.section)]


def _shown(view: View, row: Glossary) -> GlossaryShown:
    return GlossaryShown(
        id=row.uuid,
        name=row.name,
        note=row.note,
        section=entry_store.entry_by_id(view.conn, row.section).uuid if row.section is not None else "",
        concepts=row.concepts,
        by=row.by_name,
        at=iso(row.at),
        may_manage=owning.manages(view, row.section),
    )


def get(view: View, uuid: str, *, manage: bool = False) -> Glossary:
    """A glossary that may be used, or looked after; raises `Refused`, which names who may, else."""
    row = store.by_uuid(view.conn, uuid)
    if row is None:
        raise NotFound("glossaries.not_there", id=uuid)
    if manage or not owning.usable(view, row.section):
        owning.require(view, row.section)
    return row


def add(act: Act, name: str, note: str = "", section: str = "") -> GlossaryShown:
    """Add a glossary; with a section, those who may commission there look after it."""
    home = owning.section_of(act, section)
    owning.require(act, home)
    name, note = _named(act, name), naming.note("note", note)
    uuid = new_uuid(act.now)
    store.add(act.conn, uuid, name, note, home, act.identity.id, act.now)
    act.event("glossary.added", [], {"glossary": uuid, "name": name})
    return _shown(act, get(act, uuid))


def change(act: Act, uuid: str, given: Mapping[str, Any]) -> GlossaryShown:
    """Change what is given of a glossary: name, note, section."""
    row = get(act, uuid, manage=True)
    name = _named(act, given["name"], row.id) if "name" in given else row.name
    note = naming.note("note", given["note"]) if "note" in given else row.note
    section = owning.section_of(act, given["section"]) if "section" in given else row.section
    owning.require(act, section)
    store.change(act.conn, row.id, name, note, section)
    act.event("glossary.changed", [], {"glossary": uuid, "name": name})
    return _shown(act, get(act, uuid))


def _named(view: View, given: str, mine: int | None = None) -> str:
    other = store.named(view.conn, naming.line("name", given))
    return owning.named(given, other.id if other is not None else None, mine)


def end(act: Act, uuid: str) -> None:
    """Remove a glossary with all that is in it."""
    row = get(act, uuid, manage=True)
    store.end(act.conn, row.id)
    act.event("glossary.ended", [], {"glossary": uuid, "name": row.name, "concepts": row.concepts})


def merge(act: Act, uuid: str, other: str) -> GlossaryShown:
    """Put all of another glossary into one, and end the other; a concept all of whose names one has already is there once."""
    into, gone = get(act, uuid, manage=True), get(act, other, manage=True)
    if into.id == gone.id:
        raise Invalid([FieldProblem("other", said("glossaries.the_same"))])
    by_concept: dict[int, list[Term]] = {}
    ids = store.ids(act.conn, gone.id)
    for term in store.terms(act.conn, ids):
        by_concept.setdefault(term.concept, []).append(term)
    moved = [
        id
        for id in ids
        if not there(act, into.id, [(t.locale, t.text, t.folded, t.status) for t in by_concept.get(id, ())])
    ]
    if into.concepts + len(moved) > MOST:
        raise InTheWay("glossaries.full", most=MOST)
    store.move(act.conn, moved, into.id)
    store.end(act.conn, gone.id)
    store.changed(act.conn, into.id)
    facts = {"glossary": uuid, "name": into.name, "other": gone.name, "moved": len(moved)}
    act.event("glossary.merged", [], facts)
    return _shown(act, get(act, uuid))


def concepts(
    view: View, uuid: str, words: str, locale: str, limit: int, cursor: str
) -> tuple[list[ConceptShown], str]:
    """The concepts of a glossary in the order in which they came: with words in a term, and with a term in a locale."""
    row = get(view, uuid)
    tag = view.setup.locale(locale) if locale else ""
    after = numbers.cursor(cursor) if cursor else 0
    found = store.listing(view.conn, row.id, folded(words), tag, after, limit + 1)
    shown = _concepts(view, found[:limit])
    return shown, str(found[limit - 1].id) if len(found) > limit else ""


def _concepts(view: View, rows: Sequence[Concept]) -> list[ConceptShown]:
    by_concept: dict[int, list[Term]] = {}
    for term in store.terms(view.conn, [row.id for row in rows]):
        by_concept.setdefault(term.concept, []).append(term)
    return [
        ConceptShown(
            id=row.id,
            note=row.note,
            terms=[TermShown(t.locale, t.text, t.status) for t in by_concept.get(row.id, ())],
            by=row.by_name,
            at=iso(row.at),
        )
        for row in rows
    ]


def wrong(conn: sqlite3.Connection) -> Iterator[Message]:
    """Terms that a glossary would not find, as they are kept in another form than the one that is looked for."""
    for concept, text, kept in store.folded_terms(conn):
        if kept != folded(text):
            yield said("health.not_found", sentence=text, concept=concept)


def mend(act: Act) -> int:
    """Let every term be looked for in the form of its words; returns of how many that was not so."""
    lost = [(concept, text) for concept, text, kept in store.folded_terms(act.conn) if kept != folded(text)]
    for concept, text in lost:
        store.fold_anew(act.conn, concept, text, folded(text))
    return len(lost)


def folded(text: str) -> str:
    """A term as it is looked for."""
    return " ".join(text.split()).casefold()


def put(act: Act, uuid: str, note: str, terms: Sequence[TermShown]) -> ConceptShown:
    """Add a concept to a glossary."""
    row = get(act, uuid, manage=True)
    if row.concepts >= MOST:
        raise InTheWay("glossaries.full", most=MOST)
    note, checked = naming.note("note", note), _checked(act, terms)
    id = store.put(act.conn, row.id, note, checked, act.identity.id, act.now)
    return _written(act, row, id, None)


def write(act: Act, uuid: str, id: int, note: str, terms: Sequence[TermShown]) -> ConceptShown:
    """Write a concept of a glossary anew."""
    row = get(act, uuid, manage=True)
    before = _concept(act, row, id)
    store.write(act.conn, id, naming.note("note", note), _checked(act, terms), act.identity.id, act.now)
    return _written(act, row, id, before)


def _written(act: Act, row: Glossary, id: int, before: ConceptShown | None) -> ConceptShown:
    store.changed(act.conn, row.id)
    now = _concept(act, row, id)
    was = [_told(t) for t in before.terms] if before is not None else []
    facts = {"glossary": row.uuid, "name": row.name, "was": was, "now": [_told(t) for t in now.terms]}
    act.event("glossary.edited", [], facts)
    return now


def _told(term: TermShown) -> str:
    return f"{term.locale}: {term.text}"


def _concept(view: View, row: Glossary, id: int) -> ConceptShown:
    found = store.concept(view.conn, row.id, id)
    if found is None:
        raise NotFound("glossaries.no_concept", id=id)
    return _concepts(view, [found])[0]


def _checked(act: Act, terms: Sequence[TermShown]) -> list[tuple[str, str, str, str]]:
    problems: list[FieldProblem] = []
    out: dict[tuple[str, str], tuple[str, str, str, str]] = {}
    for n, one in enumerate(terms):
        if one.locale not in act.setup.locales:
            known = list(act.setup.locales)
            problems.append(FieldProblem(f"terms.{n}.locale", said("common.none_of", known=known)))
        if one.status not in STATUSES:
            problems.append(FieldProblem(f"terms.{n}.status", said("common.none_of", known=list(STATUSES))))
        text = naming.line(f"terms.{n}.text", one.text, tbx.LONGEST)
        if text:
            out.setdefault((one.locale, text), (one.locale, text, folded(text), one.status))
    if not out:
        problems.append(FieldProblem("terms", said("glossaries.without_terms")))
    if len(out) > MOST_TERMS:
        problems.append(FieldProblem("terms", said("glossaries.many_terms", most=MOST_TERMS)))
    if problems:
        raise Invalid(problems)
    return list(out.values())


def drop(act: Act, uuid: str, ids: Sequence[int]) -> int:
    """Remove concepts of a glossary; returns how many there were."""
    row = get(act, uuid, manage=True)
    some = [_concept(act, row, id) for id in dict.fromkeys(ids)]
    store.drop(act.conn, [one.id for one in some])
    store.changed(act.conn, row.id)
    told = [[_told(t) for t in one.terms] for one in some[:100]]
    act.event("glossary.removed", [], {"glossary": uuid, "name": row.name, "count": len(some), "was": told})
    return len(some)


def there(view: View, glossary: int, terms: Sequence[tuple[str, str, str, str]]) -> bool:
    """Whether a glossary has a concept with all of some names."""
    have: set[int] | None = None
    for locale, _, folded, _ in terms:
        same = set(store.same(view.conn, glossary, locale, folded))
        have = same if have is None else have & same
        if not have:
            return False
    return True


def imports_into(view: View, uuid: str, limit: int, cursor: str) -> tuple[list[ImportShown], str]:
    """The imports into a glossary, the newest first."""
    return imports.listing(view, "glossary", get(view, uuid).id, limit, cursor)


def undo_import(act: Act, uuid: str, id: int) -> bool:
    """Remove what an import brought and nobody wrote anew since, so many at a time; says whether more is left."""
    row = get(act, uuid, manage=True)
    found = imports.undo(act, "glossary", row.id, id, lambda most: store.drop_brought(act.conn, id, most))
    store.changed(act.conn, row.id)
    if found is None:
        return True
    act.event("glossary.import-undone", [], {"glossary": uuid, "name": row.name, "file": found.name})
    return False


class _Ready:
    """What this process holds ready of the glossaries, by their versions and a pair of languages."""

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[object, ...], Wording] = OrderedDict()
        self._lock = Lock()

    def of(self, view: View, rows: Sequence[Glossary], source: str, target: str) -> Wording:
        """What some glossaries say of a pair of languages."""
        key = (*((row.uuid, row.version) for row in rows), source, target)
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        made = _wording(view, rows, source, target)
        with self._lock:
            self._kept[key] = made
            while len(self._kept) > _PAIRS:
                self._kept.popitem(last=False)
        return made


def _wording(view: View, rows: Sequence[Glossary], source: str, target: str) -> Wording:
    terms = [t for row in rows for t in store.in_locales(view.conn, row.id, (source, target))]
    notes = {one.id: one.note for row in rows for one in store.listing(view.conn, row.id, "", "", 0, MOST)}
    by_locale: dict[str, list[Called]] = {source: [], target: []}
    for term in terms:
        by_locale[term.locale].append(
            Called(term.concept, term.text, term.status, notes.get(term.concept, ""))
        )
    return Wording(source, target, by_locale[source], by_locale[target])


READY = _Ready()


def of_job(view: View, job: Job) -> Wording:
    """What the glossaries that whoever looks may use, or those that its commission names, say of a job's languages."""
    only = json.loads(job.glossaries)
    rows = [
        row
        for row in store.every(view.conn)
        if owning.usable(view, row.section) and (not only or row.id in only)
    ]
    return READY.of(view, rows, job.source_locale, job.locale)
