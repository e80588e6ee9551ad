"""Translation memories: fed by what is accepted, looked up beside a sentence, and looked after."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import Any

from hawthorn.core import compare, naming, numbers
from hawthorn.core.compare import Run
from hawthorn.core.errors import FieldProblem, Invalid, NotFound
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.core.translation import keeping, matching, tags
from hawthorn.core.translation.units import Segment, Unit
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.operations.translation import at_hand, imports, owning
from hawthorn.operations.translation.imports import ImportShown
from hawthorn.operations.translation.translation import sent_of
from hawthorn.store import entries as entry_store
from hawthorn.store import memories as store
from hawthorn.store.jobs import Job, JobEntry, JobUnit
from hawthorn.store.memories import Finder, Known, Memory, New

SHOWN = 5
"""So many matches are shown beside a sentence."""
_AT_ONCE = 2_000
"""So many sentences are removed at once."""


@dataclass(frozen=True, slots=True)
class Match:
    """A sentence of a memory that is like one at hand."""

    id: int
    memory: str
    percent: int
    band: str
    penalties: list[str]
    source: str
    target: str
    runs: list[Run]
    by: str
    at: str
    origin: str


@dataclass(frozen=True, slots=True)
class MemoryShown:
    """A memory, and what whoever looks may do with it."""

    id: str
    name: str
    note: str
    section: str
    units: int
    by: str
    at: str
    may_manage: bool


def listing(view: View) -> list[MemoryShown]:
    """The memories that whoever looks may use, by name."""
    return [_shown(view, row) for row in store.every(view.conn) if owning.usable(view, row.section)]


def _shown(view: View, row: Memory) -> MemoryShown:
    return MemoryShown(
        id=row.uuid,
        name=row.name,
        note=row.note,
        section=entry_store.entry_by_id(view.conn, row.section).uuid if row.section is not None else "",
        units=store.count(view.conn, row.id),
        by=row.by_name,
        at=iso(row.at),
        may_manage=owning.manages(view, row.section),
    )


def get(view: View, uuid: str, *, manage: bool = False) -> Memory:
    """A memory that may be used, or looked after; raises `Refused`, which names who may, else."""
    row = store.by_uuid(view.conn, uuid)
    if row is None:
        raise NotFound("memories.not_there", id=uuid)
    if manage or not owning.usable(view, row.section):
        owning.require(view, row.section)
    return row


def add(act: Act, name: str, note: str = "", section: str = "") -> MemoryShown:
    """Add a memory; with a section, those who may commission there look after it."""
    home = owning.section_of(act, section)
    owning.require(act, home)
    name, note = _named(act, name), naming.note("note", note)
    uuid = new_uuid(act.now)
    store.add(act.conn, uuid, name, note, home, act.identity.id, act.now)
    act.event("memory.added", [], {"memory": uuid, "name": name})
    return _shown(act, get(act, uuid))


def change(act: Act, uuid: str, given: Mapping[str, Any]) -> MemoryShown:
    """Change what is given of a memory: name, note, section."""
    row = get(act, uuid, manage=True)
    name = _named(act, given["name"], row.id) if "name" in given else row.name
    note = naming.note("note", given["note"]) if "note" in given else row.note
    section = owning.section_of(act, given["section"]) if "section" in given else row.section
    owning.require(act, section)
    store.change(act.conn, row.id, name, note, section)
    act.event("memory.changed", [], {"memory": uuid, "name": name})
    return _shown(act, get(act, uuid))


def _named(view: View, given: str, mine: int | None = None) -> str:
    other = store.named(view.conn, naming.line("name", given))
    return owning.named(given, other.id if other is not None else None, mine)


def end(act: Act, uuid: str) -> bool:
    """Remove a memory with all that is in it, so many sentences at a time; says whether more is left to remove."""
    row = get(act, uuid, manage=True)
    some = store.of_memory(act.conn, row.id, _AT_ONCE)
    store.drop(act.conn, some)
    if len(some) == _AT_ONCE:
        return True
    store.end(act.conn, row.id)
    act.event("memory.ended", [], {"memory": uuid, "name": row.name})
    return False


def merge(act: Act, uuid: str, other: str) -> MemoryShown:
    """Put all of another memory into one, and end the other; what both have is kept once."""
    into, gone = get(act, uuid, manage=True), get(act, other, manage=True)
    if into.id == gone.id:
        raise Invalid([FieldProblem("other", said("memories.the_same"))])
    moved = store.move(act.conn, gone.id, into.id)
    store.end(act.conn, gone.id)
    act.event("memory.merged", [], {"memory": uuid, "name": into.name, "other": gone.name, "moved": moved})
    return _shown(act, get(act, uuid))


def sentences(
    view: View, uuid: str, asked: tuple[str, str, str], limit: int, cursor: str
) -> tuple[list[Known], str]:
    """The sentences of a memory, the newest first: by words in either language, by the source's locale and the target's."""
    row = get(view, uuid)
    found = store.listing(view.conn, row.id, asked, limit + 1, numbers.cursor(cursor))
    return found[:limit], str(found[limit - 1].id) if len(found) > limit else ""


def edit(act: Act, uuid: str, id: int, target: str) -> Known:
    """Write another translation for a sentence of a memory."""
    row = get(act, uuid, manage=True)
    known = _known(act, row, id)
    if not matching.plain(target).strip():
        raise Invalid([FieldProblem("target", said("memories.without_words"))])
    text = tags.written(tags.read(target))
    store.edit(act.conn, id, text, act.identity.id, act.now)
    act.event(
        "memory.edited",
        [],
        {"memory": uuid, "name": row.name, "source": known.source_text, "was": known.text, "now": text},
    )
    return _known(act, row, id)


def remove(act: Act, uuid: str, ids: Sequence[int]) -> int:
    """Remove sentences of a memory; returns how many there were."""
    row = get(act, uuid, manage=True)
    some = [known for id in dict.fromkeys(ids) if (known := store.get(act.conn, row.id, id)) is not None]
    if not some:
        raise NotFound("memories.no_sentence", id=next(iter(ids), 0))
    store.drop(act.conn, [one.id for one in some])
    told = [{"source": one.source_text, "target": one.text, "locale": one.locale} for one in some[:100]]
    act.event("memory.removed", [], {"memory": uuid, "name": row.name, "count": len(some), "sentences": told})
    return len(some)


def _known(view: View, row: Memory, id: int) -> Known:
    known = store.get(view.conn, row.id, id)
    if known is None:
        raise NotFound("memories.no_sentence", id=id)
    return known


class Looking:
    """Looks sentences up in the memories that somebody may use, or in those `only` that are named by their numbers."""

    def __init__(
        self, view: View, finder: Finder, source: str, target: str, only: Collection[int] = ()
    ) -> None:
        self._view, self._finder = view, finder
        self._source, self._target = source, target
        self.memories = [
            row.id
            for row in store.every(view.conn)
            if owning.usable(view, row.section) and (not only or row.id in only)
        ]

    def percent(self, unit: Unit, segment: Segment) -> int:
        """How alike the best match of a sentence is (101 in its context), 0 where there is none."""
        found = self.matches(segment, contexts(unit).get(segment.id, ""), 1)
        return found[0].percent if found else 0

    def exact(self, segment: Segment, context: str) -> Known | None:
        """The best translation of the same words: one in the same context before others, then the newest with the same tags."""
        words = tags.words_of(segment.source)
        have = store.exact(
            self._view.conn, matching.hash_of(words), self._source, self._target, self.memories
        )
        written = tags.written(segment.source)
        have.sort(key=lambda one: (one.context != context or not context, one.source_text != written))
        return have[0] if have else None

    def matches(self, segment: Segment, context: str, most: int = SHOWN) -> list[Match]:
        """What the memories have that is like a sentence, the most alike first."""
        if not self.memories or not store.has_any(self._view.conn):
            return []
        words, written = tags.words_of(segment.source), tags.written(segment.source)
        near = self._finder.near(self._view.conn, matching.marks(words, self._source), self._source)
        plain = [(id, matching.plain(text)) for id, text in near]
        alike = dict(matching.best(words, plain, 4 * most))
        found: list[Match] = []
        for known in store.translated(self._view.conn, list(alike), self._target, self.memories):
            likeness = matching.judged(
                alike[known.source], written, known.source_text, self._view.now - known.at
            )
            inside = likeness.percent == 100 and bool(context) and known.context == context
            percent = 101 if inside else likeness.percent
            if percent >= matching.LEAST:
                found.append(self._match(known, percent, likeness.penalties, segment))
        found.sort(key=lambda one: (-one.percent, -one.id))
        by_target: dict[str, Match] = {}
        for match in found:
            by_target.setdefault(match.target, match)
        return list(by_target.values())[:most]

    def _match(self, known: Known, percent: int, penalties: Sequence[str], segment: Segment) -> Match:
        own = [p.id for p in segment.source if not isinstance(p, str)]
        return Match(
            id=known.id,
            memory=known.memory_name,
            percent=percent,
            band=matching.band(percent),
            penalties=list(penalties),
            source=matching.plain(known.source_text),
            target=matching.fitting_tags(known.text, own),
            runs=list(compare.words(matching.plain(known.source_text), tags.words_of(segment.source))),
            by=known.by_name,
            at=iso(known.at),
            origin=known.origin,
        )


def contexts(unit: Unit) -> dict[str, str]:
    """By what the surroundings of each sentence of a unit are known, by the segments' ids."""
    some = keeping.speaking(unit.segments)
    words = ["", *(tags.words_of(s.source) for s in some), ""]
    place = unit.key.split(".", 1)[0]
    return {s.id: matching.context_of(place, words[n], words[n + 2]) for n, s in enumerate(some)}


FINDER = Finder()
"""What this process knows of common marks."""


def of_job(view: View, job: Job) -> Looking:
    """Looks sentences of a job up, in the memories that its commission names."""
    return Looking(view, FINDER, job.source_locale, job.locale, json.loads(job.memories))


def beside(view: View, uuid: str, place: tuple[str, str, str]) -> list[Match]:
    """What the memories have for one sentence of a job (its entry, unit and segment)."""
    entry, key, segment = place
    at = at_hand.unit(view, uuid, entry, key)
    mine = at_hand.segment(at, segment)
    return of_job(view, at.job).matches(mine, contexts(at.unit)[segment])


HOUSE = "House memory"


def feed(act: Act, job: Job, part: JobEntry, rows: Sequence[JobUnit]) -> None:
    """Keep the sentences of accepted units in the memory of the house, with their context."""
    sent = sent_of(act, job, part)
    some: list[New] = []
    for row in rows:
        if row.key not in sent or row.outcome not in ("applied", "kept") or not row.text:
            continue
        unit = at_hand.as_kept(sent[row.key].unit, row)
        around = contexts(unit)
        for segment in keeping.speaking(unit.segments):
            if tags.words_of(segment.target or ()).strip():
                some.append(new(job.source_locale, segment, job.locale, around.get(segment.id, "")))
    if not some:
        return
    house = store.named(act.conn, HOUSE)
    id = (
        house.id
        if house is not None
        else store.add(act.conn, new_uuid(act.now), HOUSE, "", None, act.identity.id, act.now)
    )
    store.keep(act.conn, id, some, "accepted", act.identity.id, act.now)


def new(source: str, segment: Segment, target: str, context: str = "") -> New:
    """A sentence with its translation, as it is kept."""
    texts = tags.written(segment.source), tags.written(segment.target or ())
    return new_of((source, texts[0].strip()), (target, texts[1].strip()), context)


def new_of(source: tuple[str, str], target: tuple[str, str], context: str = "", at: int = 0) -> New:
    """A sentence with its translation, each a locale and its text as it is kept."""
    hash, marks = matching.found_by(source[1], source[0])
    return New(*source, hash, marks, *target, context, at)


def wrong(conn: sqlite3.Connection) -> Iterator[Message]:
    """Sentences that a memory would not find, as they are kept under another hash or mark than their words have."""
    for id, locale, digest, text in store.sources(conn):
        hash, marks = matching.found_by(text, locale)
        if digest != hash or (marks and not store.finds(conn, marks[0], id)):
            yield said("health.not_found", sentence=matching.plain(text)[:80])


def mend(act: Act) -> int:
    """Let every sentence be found by the hash and the marks of its words; returns of how many that was not so."""
    count = sum(1 for _ in wrong(act.conn))
    if count:
        all_of = list(store.sources(act.conn))
        store.mark_anew(act.conn, ((id, *matching.found_by(text, locale)) for id, locale, _, text in all_of))
    return count


def imports_into(view: View, uuid: str, limit: int, cursor: str) -> tuple[list[ImportShown], str]:
    """The imports into a memory, the newest first."""
    return imports.listing(view, "memory", get(view, uuid).id, limit, cursor)


def undo_import(act: Act, uuid: str, id: int) -> bool:
    """Remove what an import brought and nobody changed or accepted since, so many at a time; says whether more is left."""
    row = get(act, uuid, manage=True)
    found = imports.undo(act, "memory", row.id, id, lambda most: drop_brought(act, id, most))
    if found is None:
        return True
    act.event("memory.import-undone", [], {"memory": uuid, "name": row.name, "file": found.name})
    return False


def drop_brought(act: Act, id: int, most: int) -> int:
    """Remove so many of what an import brought and nobody changed since; returns how many there were."""
    some = store.of_batch(act.conn, id, most)
    store.drop(act.conn, some)
    return len(some)
