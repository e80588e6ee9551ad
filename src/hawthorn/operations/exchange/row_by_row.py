"""One row made into an entry, or merged with the one that is here: from what came last where anything did, as two people's changes are."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from typing import Any

from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import BadFile
from hawthorn.core.exchange.mapping import Told
from hawthorn.core.fields import Field, Wrong
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.content.entries import Base, Saved
from hawthorn.operations.exchange import renaming
from hawthorn.operations.release import inside
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import entries as entry_store
from hawthorn.store import exchange as progress
from hawthorn.store import rows as store
from hawthorn.store import strands as strand_store
from hawthorn.store.entries import DRAFT_STRAND, Entry

Wrote = list[tuple[str, int | None, int]]
"""The editions that were written: locale, revision before (None where there was none) and after."""


@dataclass(frozen=True, slots=True)
class Became:
    """What came of a row: `added`, `same` where the entry has all of it, `merged`, or `beside` where somebody has to decide, in a strand."""

    entry: int
    how: str
    strand: str = ""


def found(view: View, spec: Field, text: str) -> str:
    """The entry (UUID) that a cell names by its address or title. Raises `Wrong` where it names none, or several."""
    some = store.named(view.conn, permission.readable_sql(view), text, spec.types)
    if len(some) == 1:
        return some[0]
    raise Wrong("rows.names_several" if some else "rows.names_none", text=text[:80])


def here(view: View, type: str, told: Told) -> str:
    """The entry (UUID) that a row is about, where it is here; empty for one that it begins. Raises `BadFile` for an id that none here has."""
    if told.id:
        row = entry_store.entry(view.conn, told.id)
        if row is None or not permission.readable(view, row):
            raise BadFile("rows.no_entry", id=told.id)
        return told.id
    return (store.entry_of(view.conn, type, told.key) or "") if told.key else ""


def uuid_of(conn: sqlite3.Connection, type: str, path: str, seed: str) -> str:
    """The entry (UUID) that a file of an archive is: the one that it was the last time, or the one that it begins."""
    return store.entry_of(conn, type, path) or renaming.derived(path, seed)


def bring(act: Act, id: int, type: str, told: Told, name: str, uuid: str | None) -> Became:
    """Make a row an entry, under a UUID where one is given, or merge it with the one that is here. Raises what saving it raises."""
    there = here(act, type, told)
    wrote: Wrote = []
    note = act.keep("rows.note", name=name, place=told.place)
    if not there:
        values = {k: v for k, v in told.values.items() if v is not None}
        made = entries.start(act, type, told.locale, values, note, uuid)
        entry = _entry(act, made)
        became, bases = Became(entry.id, "added"), _heads(act, entry.id, told.locale)
    else:
        became, wrote, bases = _merge(act, _entry(act, there), type, told, name, note)
    store.set_bases(act.conn, became.entry, bases)
    if told.key:
        store.know(act.conn, type, told.key, became.entry)
    if became.how != "same":
        _note(act, id, became, wrote, told)
    return became


def _entry(view: View, uuid: str) -> Entry:
    row = entry_store.entry(view.conn, uuid)
    assert row is not None
    return row


def _heads(view: View, entry: int, locale: str, strand: str = DRAFT_STRAND) -> dict[str, int]:
    """The heads of an edition and of the common one, by locale, on the draft or another strand."""
    base = entries.current_base(view, entry, locale, strand)
    return {where: head for where, head in ((COMMON, base.common), (locale, base.own)) if head is not None}


def _merge(
    act: Act, entry: Entry, type: str, told: Told, name: str, note: str
) -> tuple[Became, Wrote, dict[str, int]]:
    if entry.type != type:
        raise BadFile("rows.is_another_type", type=act.setup.type(entry.type).label)
    before = _heads(act, entry.id, told.locale)
    base = _base(act, entry, told, before)
    saved = None
    with act.trying() as trial:
        saved = entries.save(act, entry.uuid, told.locale, told.values, base, note)
        if saved.conflicts:
            trial.keep(False)
    if saved.conflicts:
        strand, heads = _beside(act, entry, told, base, name, note)
        return Became(entry.id, "beside", strand), [], heads
    if not saved.revisions:
        return Became(entry.id, "same"), [], {}
    wrote = [(where, before.get(where), made) for where, made in saved.revisions.items()]
    return Became(entry.id, "merged"), wrote, _last(saved)


def _last(saved: Saved) -> dict[str, int]:
    """The revisions that hold what came: as it was typed, where it was merged with something."""
    return saved.revisions | saved.typed


def _base(view: View, entry: Entry, told: Told, heads: Mapping[str, int]) -> Base:
    """What a row was made from: what it says itself, or what came last, or what stands now."""
    if told.revision:
        return entries.parse_etag(told.revision.removeprefix("r"))
    last = store.bases(view.conn, entry.id)
    common, own = (last.get(where, heads.get(where)) for where in (COMMON, told.locale))
    return Base(own, common)


def _beside(
    act: Act, entry: Entry, told: Told, base: Base, name: str, note: str
) -> tuple[str, dict[str, int]]:
    """Put what a row says into a strand beside the draft, from what it was made from; returns the strand's name and
    its heads."""
    strand = inside.free_name(act, entry.id, act.keep("importing.strand", name=name))
    for where, seen in ((COMMON, base.common), (told.locale, base.own)):
        edition = entry_store.edition(act.conn, entry.id, where)
        if edition is not None and edition.head is not None:
            strand_store.add(
                act.conn, edition.id, strand, seen or edition.tip, act.identity.id, act.now, note
            )
    heads = entries.current_base(act, entry.id, told.locale, strand)
    entries.save(act, entry.uuid, told.locale, told.values, heads, note, strand)
    return strand, _heads(act, entry.id, told.locale, strand)


def _note(act: Act, id: int, became: Became, wrote: Wrote, told: Told) -> None:
    """Note what was done to an entry, so that it can be undone; what is written after that is somebody else's."""
    before: dict[str, Any] = json.loads(progress.done_to(act.conn, id, became.entry) or "{}")
    did = {
        "strand": became.strand or before.get("strand", ""),
        "wrote": _joined(before.get("wrote", []), wrote),
        "upto": act.next_seq - 1,
    }
    why = act.keep("importing.beside", strand=became.strand) if became.how == "beside" else ""
    note = " ".join(filter(None, (why, *(act.keep(one) for one in told.lost))))
    progress.wrote(act.conn, id, became.entry, became.how, note, json.dumps(did))


def _joined(before: Wrote, now: Wrote) -> Wrote:
    """What several rows wrote to an entry, each edition from before the first to after the last."""
    first = {where: was for where, was, _ in reversed(before)}
    kept = [one for one in before if one[0] not in {where for where, _, _ in now}]
    return kept + [(where, first.get(where, was), made) for where, was, made in now]
