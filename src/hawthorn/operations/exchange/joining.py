"""Merging an entry of a package with the one that is here, as one strand with another: where both changed the same place, the package's text waits in a
strand beside the draft for somebody to decide."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import field

from msgspec import structs

from hawthorn.core import compact
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.exchange.lines import EditionLine, EntryLine
from hawthorn.core.exchange.soundness import as_it_came, stored
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.operations.access import permission
from hawthorn.operations.content import strands
from hawthorn.operations.release import drafts, inside
from hawthorn.operations.runtime.act import Act
from hawthorn.store import entries as entry_store
from hawthorn.store import revisions
from hawthorn.store import strands as strand_store
from hawthorn.store.entries import DRAFT_STRAND, Edition, Entry


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
        drafts.revive(act, [entry.uuid])
        entry = entry_store.entry_by_id(act.conn, entry.id)
    kind = act.setup.type(entry.type)
    strand = inside.free_name(act, entry.id, act.keep("importing.strand", name=name))
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
        if proposal.still_open or any(
            drafts.newly_misplaced(act, kind, side.draft, side.outcome) for side in proposal.sides
        ):
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
    kept = stored(kind, act.setup.bounds, structs.replace(line, editions=[told])).contents
    contents = {r.n: kept.get((told.locale, r.n)) or as_it_came(r) for r in told.revisions}
    head = next((s.head for s in told.strands if s.name == DRAFT_STRAND), None)
    if head is None or (told.locale != COMMON and told.locale not in act.setup.locales):
        return ""
    wanted = contents[head]
    here = entry_store.edition(act.conn, entry.id, told.locale)
    if here is None or here.head is None:
        _new_edition(act, kind, entry, told.locale, wanted, here)
        return "new"
    known = _digests(act, here)
    if _digest(wanted) in known:
        return ""
    base = _shared(told, head, contents, known)
    fork_beside(act, entry, here, name, base)
    beside = entry_store.edition(act.conn, entry.id, told.locale, name)
    assert beside is not None
    newest = next(r for r in told.revisions if r.n == head)
    note = act.keep("importing.revision", number=head, by=newest.by, note=newest.note)
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
    drafts.append(act, kind, entry, here, content, [], act.keep("importing.new_edition"), "import")


def fork_beside(act: Act, entry: Entry, here: Edition, name: str, base: int | None) -> None:
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
    return hashlib.sha256(compact.sorted_bytes(content.fields)).hexdigest()


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
