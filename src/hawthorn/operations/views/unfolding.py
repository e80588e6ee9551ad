"""What is derived from entries: how lists show them, where they stood and stand, what they refer to, and their words; worked out anew from their sources.

An act on one entry works out what it changed; this is the other way to the same rows, for many entries at once: those that were brought whole, and those
that `hawthorn check` holds against their sources, and mends.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import field
from typing import Any

from hawthorn.core import compact, contenttypes, searching
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.messages import Message, said
from hawthorn.core.outline import natural
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import EMPTY, Content, together
from hawthorn.core.timeline import day_or_instant
from hawthorn.operations.release import applying, filters
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.search import indexing
from hawthorn.operations.translation import coverage
from hawthorn.store import bringing, definitions, derived
from hawthorn.store import entries as entry_store
from hawthorn.store import packages as store
from hawthorn.store import standings as standing_store
from hawthorn.store.packages import RevisionKept, StandingKept
from hawthorn.store.standings import DRAFT, RELEASE

Values = Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Clash:
    """An edition whose address another entry has already: it cannot stand there."""

    entry: int
    edition: int
    slug: str
    holder: int


@dataclass(slots=True)
class _Of:
    """An entry with its editions, the values that any of its rows need, and what stood."""

    id: int
    uuid: str
    kind: ContentType
    source_locale: str
    archived: bool
    editions: dict[str, int]
    heads: dict[str, RevisionKept]
    contents: dict[int, Content]
    standings: list[tuple[str, StandingKept]]
    places: dict[int, tuple[int, str]] = field(default_factory=dict)
    """Where each of its common revisions places it: the entry above (0 for the top), and its rank."""
    place: tuple[int, str] = (0, "")
    """Where it is drafted: as the newest of these says, and at the top as long as what is above is put away."""

    def moved(self) -> set[str]:
        """The locales in which a stage holds an older revision than the draft."""
        return {
            locale
            for locale, standing in self.standings
            if standing.until is None and locale in self.heads and standing.revision != self.heads[locale].id
        }

    def values(self, revision: int) -> Values:
        """What one of its revisions holds."""
        return self.contents[revision].fields

    def together(self, common: int | None, own: int | None) -> dict[str, Any]:
        """The values of a revision with those of one of the shared fields, none being nothing."""
        shared, mine = (EMPTY if id is None else self.contents[id] for id in (common, own))
        return together(self.kind, shared, mine)

    def drafted(self, locale: str) -> int | None:
        """The head of its draft in a locale."""
        head = self.heads.get(locale)
        return head.id if head is not None else None


@dataclass(slots=True)
class _Rows:
    """The rows of what is derived, by table."""

    by_table: dict[str, list[tuple[Any, ...]]] = field(
        default_factory=lambda: {name: [] for name in derived.DERIVED}
    )
    index: list[tuple[int, int, str, str, str]] = field(default_factory=list)
    words: set[str] = field(default_factory=set)

    def terms(self) -> list[str]:
        """Those of the words that can be begun, in order."""
        return sorted(searching.terms(self.words))


def settle(act: Act, entries: Sequence[int]) -> list[Clash]:
    """Derive all that follows from entries that have only what was brought. Returns those whose address is taken: they are not out any more."""
    some = _read(act.conn, act.setup.types, entries)
    _place(act.conn, some)
    clashes = _clashes(act, some)
    for clash in clashes:
        one = next(o for o in some if o.id == clash.entry)
        _take_back(act, one, clash.edition)
    bringing.seen_by_name(act.conn, [edition for one in some for edition in one.editions.values()])
    rows = _unfolded(some)
    for table, found in rows.by_table.items():
        derived.derive(act.conn, table, found)
    derived.index(act.conn, rows.index, rows.terms())
    ids = [one.id for one in some]
    for stage in (DRAFT, RELEASE):
        filters.keep(act, ids, stage)
    _tell_readers(act, some)
    coverage.count(act, ids)
    return clashes


def _unfolded(some: Iterable[_Of]) -> _Rows:
    rows = _Rows()
    for one in some:
        _draft(one, rows)
        for stage in sorted({s.stage for _, s in one.standings}):
            _stood(one, stage, rows)
        _words(one, rows)
    return rows


# -- held against its sources ------------------------------------------------------------------------------------------------


def wrong(conn: sqlite3.Connection) -> Iterator[Message]:
    """Entries of which something else is kept than follows from their sources, each with what it is."""
    types = definitions.types(conn)
    for some in _batches(conn):
        for entry, tables in _differing(conn, types, some).items():
            yield said("health.derived_wrongly", entry=entry, tables=sorted(tables))


def mend(act: Act) -> int:
    """Derive anew what of entries is kept otherwise than it follows from their sources; what stood before stays as it was. Returns how many entries
    that were."""
    count = 0
    for some in _batches(act.conn):
        found = _differing(act.conn, act.setup.types, some)
        if found:
            _mend(act, sorted(found))
        count += len(found)
    return count


def follow(act: Act) -> None:
    """Derive anew what of entries follows otherwise from their type, as that was changed: what they are called, where they are, what they refer to."""
    for name in sorted(act.reshaped):
        ids = [row.id for row in entry_store.of_type(act.conn, name)]
        for some in _in_batches(ids):
            found = _differing(act.conn, act.setup.types, some)
            if found:
                _mend(act, sorted(found))


def _batches(conn: sqlite3.Connection) -> Iterator[list[int]]:
    return _in_batches([row.id for row in entry_store.every(conn)])


def _in_batches(ids: Sequence[int]) -> Iterator[list[int]]:
    for start in range(0, len(ids), _AT_ONCE):
        yield list(ids[start : start + _AT_ONCE])


def _differing(
    conn: sqlite3.Connection, types: Mapping[str, ContentType], entries: Sequence[int]
) -> dict[int, set[str]]:
    """Of entries that differ, the tables in which they do."""
    some = _read(conn, types, entries)
    _place(conn, some)
    wanted = _compared(some, _unfolded(some))
    kept = derived.derived(conn, entries)
    out: dict[int, set[str]] = {}
    for table, rows in wanted.items():
        for row in rows.symmetric_difference(kept[table]):
            out.setdefault(row[0], set()).add(table)
    return out


def _compared(some: Sequence[_Of], rows: _Rows) -> dict[str, set[tuple[Any, ...]]]:
    """Rows as `store.derived.derived` gives those that are kept: of each table what stands now, the entry first."""
    entry = {edition: one.id for one in some for edition in one.editions.values()}
    by = rows.by_table
    return {
        "summary": {(r[1], r[0], *r[2:]) for r in by["summary"]},
        "reference": {(entry[r[0]], *r) for r in by["reference"]},
        "tag_use": {(entry[r[1]], *r) for r in by["tag_use"]},
        "listed": {(r[6], r[5], r[1], r[2], r[3], r[4], r[9]) for r in by["listed"] if r[8] is None},
        "placed": {(r[0], *r[1:4]) for r in by["placed"] if r[5] is None},
        "address": {(r[4], *r[:4]) for r in by["address"] if r[6] is None},
        "search_said": {(entry[r[0]], *r) for r in by["search_said"]},
        "search": {(entry[r[0]], *r) for r in rows.index if r[2] or r[3]},
    }


def _mend(act: Act, entries: Sequence[int]) -> None:
    some = _read(act.conn, act.setup.types, entries)
    _place(act.conn, some)
    rows = _unfolded(some)
    derived.forget_derived(act.conn, entries)
    for table, found in rows.by_table.items():
        now = _NOW.get(table)
        derived.derive(act.conn, table, [row for row in found if now is None or row[now] is None])
    derived.index(act.conn, rows.index, rows.terms())
    for stage in (DRAFT, RELEASE):
        filters.keep(act, entries, stage)
    coverage.count(act, entries)
    _tell_readers(act, some)


_AT_ONCE = 500
_NOW = {"listed": 8, "placed": 5, "address": 6}
"""Of the tables that keep what was, the place of the instant at which a row ended."""


# -- reading what was brought --------------------------------------------------------------------------------------------


def _read(conn: sqlite3.Connection, types: Mapping[str, ContentType], entries: Sequence[int]) -> list[_Of]:
    found = entry_store.by_ids(conn, entries)
    editions = store.editions(conn, entries)
    by_edition = {one.id: one for one in editions}
    heads = {s.edition: s.head for s in store.strands(conn, entries) if s.name == entry_store.DRAFT_STRAND}
    standings = store.standings(conn, entries)
    wanted = {id for id in (*heads.values(), *(s.revision for s in standings)) if id is not None}
    revisions = {r.id: r for r in store.holding(conn, wanted)}
    out: dict[int, _Of] = {}
    for id, row in found.items():
        kind = types[row.type]
        out[id] = _Of(id, row.uuid, kind, row.source_locale, row.archived_at is not None, {}, {}, {}, [])
    for edition in editions:
        one = out[edition.entry]
        one.editions[edition.locale] = edition.id
        head = heads.get(edition.id)
        if head is not None:
            one.heads[edition.locale] = revisions[head]
    for revision in revisions.values():
        content = Content(compact.read(revision.fields), id=revision.id)
        out[by_edition[revision.edition].entry].contents[revision.id] = content
    for standing in standings:
        edition = by_edition[standing.edition]
        out[edition.entry].standings.append((edition.locale, standing))
    return [out[id] for id in entries if id in out]


def _place(conn: sqlite3.Connection, some: Sequence[_Of]) -> None:
    """Find where each is, and was, placed."""
    wanted: dict[int, dict[int, tuple[str | None, str]]] = {}
    for one in some:
        common = {s.revision for locale, s in one.standings if locale == COMMON}
        common |= {one.heads[COMMON].id} if COMMON in one.heads else set()
        wanted[one.id] = {id: contenttypes.placement(one.kind, one.values(id)) for id in common}
    there = bringing.there(conn, {uuid for by in wanted.values() for uuid, _ in by.values() if uuid})
    for one in some:
        for id, (uuid, rank) in wanted[one.id].items():
            above = there.get(uuid or "")
            parent = above.id if above is not None and not above.removed else 0
            one.places[id] = (parent, rank or natural(one.id))
            if COMMON in one.heads and one.heads[COMMON].id == id:
                one.place = (0 if above is not None and above.archived else parent, one.places[id][1])


# -- drafts --------------------------------------------------------------------------------------------------------------


def _draft(one: _Of, rows: _Rows) -> None:
    kind = one.kind
    both = one.together(one.drafted(COMMON), one.drafted(one.source_locale))
    shown, pinned = _shown(kind, both)
    if not kind.dated and not kind.pinned:
        shown, pinned = None, False
    missing = {loc: contenttypes.missing(kind, loc, one.values(head.id)) for loc, head in one.heads.items()}
    moved = one.moved()
    for locale, head in one.heads.items():
        values = one.values(head.id)
        edition = one.editions[locale]
        own_text = locale != COMMON
        internal = kind.internal if kind.internal and kind.field(kind.internal) else ""
        rows.by_table["summary"].append(
            (
                edition,
                one.id,
                kind.name,
                locale,
                str(values.get(kind.title) or ""),
                json.dumps(list(missing[locale])),
                head.at,
                head.actor,
                str(values.get(internal) or "") if internal else "",
                int(own_text and bool(missing[locale] or missing.get(COMMON))),
                int(own_text and bool({locale, COMMON} & moved)),
                shown,
                int(pinned),
                int(locale == one.source_locale),
            )
        )
        rows.by_table["reference"] += [
            (edition, target) for target in sorted(contenttypes.referred(kind, values))
        ]
        rows.by_table["tag_use"] += [(tag, edition) for tag in sorted(contenttypes.tags(kind, values))]
        if locale == COMMON:
            if (kind.parent or kind.site) and not one.archived:
                rows.by_table["placed"].append((one.id, DRAFT, *one.place, head.at, None))
        elif not one.archived and kind.slug and values.get(kind.slug.name):
            slug = values[kind.slug.name]
            rows.by_table["address"].append((DRAFT, locale, one.place[0], slug, one.id, head.at, None))


def _shown(kind: ContentType, values: Values) -> tuple[int | None, bool]:
    """The date that is shown, as an instant, and whether it is pinned."""
    day = contenttypes.shown_date(kind, values)
    return day_or_instant(day) if day else None, bool(kind.pinned and values.get(kind.pinned))


def _words(one: _Of, rows: _Rows) -> None:
    kind = one.kind
    out = {s.edition: s.revision for _, s in one.standings if s.stage == RELEASE and s.until is None}
    for locale, head in one.heads.items():
        if locale == COMMON:
            continue
        edition, own = one.editions[locale], one.values(head.id)
        facets = indexing.facets(kind.name, locale)
        texts: list[tuple[int, Values]] = [(DRAFT, one.together(one.drafted(COMMON), head.id))]
        if out.get(edition, head.id) != head.id:
            texts.append((RELEASE, one.values(out[edition])))
        for stage, values in texts:
            title, text = indexing.words(kind, values)
            rows.index.append((edition, stage, " ".join(title), " ".join(text), facets))
            rows.words.update(title, text)
        if kind.addressed:
            rows.by_table["search_said"].append((edition, locale, *indexing.said(kind, own)))


# -- what stood, and stands ----------------------------------------------------------------------------------------------


def _stood(one: _Of, stage: int, rows: _Rows) -> None:
    """The rows of lists, places and addresses at a stage, for each span in which they say the same."""
    mine = [(locale, s) for locale, s in one.standings if s.stage == stage]
    edges = sorted({at for _, s in mine for at in (s.since, s.until) if at is not None})
    first: dict[str, int] = {}
    for locale, standing in mine:
        first[locale] = min(first.get(locale, standing.since), standing.since)
    spans: dict[tuple[str, str], list[tuple[tuple[Any, ...], int, int | None]]] = {}
    for n, since in enumerate(edges):
        until = edges[n + 1] if n + 1 < len(edges) else None
        there = {loc: s for loc, s in mine if s.since <= since and (s.until is None or s.until > since)}
        for key, row in _rows_at(one, stage, there, first).items():
            known = spans.setdefault(key, [])
            if known and known[-1][0] == row and known[-1][2] == since:
                known[-1] = (row, known[-1][1], until)
            else:
                known.append((row, since, until))
    for (table, _), found in spans.items():
        for row, since, until in found:
            full = (*row[:-1], since, until, row[-1]) if table == "listed" else (*row, since, until)
            rows.by_table[table].append(full)


def _rows_at(
    one: _Of, stage: int, there: Mapping[str, StandingKept], first: Mapping[str, int]
) -> dict[tuple[str, str], tuple[Any, ...]]:
    kind = one.kind
    common = there.get(COMMON)
    source = there.get(one.source_locale)
    both = one.together(
        common.revision if common is not None else None, source.revision if source is not None else None
    )
    shown, pinned = _shown(kind, both) if kind.dated or kind.pinned else (None, False)
    out: dict[tuple[str, str], tuple[Any, ...]] = {}
    place = (0, natural(one.id))
    if common is not None and one.values(common.revision):
        place = one.places[common.revision]
    for locale, standing in there.items():
        if locale == COMMON:
            continue
        edition = one.editions[locale]
        sort = shown if shown is not None else first[locale]
        out["listed", locale] = (None, stage, kind.name, locale, sort, edition, one.id, int(pinned))
        slug = one.values(standing.revision).get(kind.slug.name) if kind.slug else None
        if stage == RELEASE and slug:
            out["address", locale] = (stage, locale, place[0] if common is not None else 0, slug, one.id)
        if (kind.parent or kind.site) and (stage == RELEASE or common is not None):
            out["placed", ""] = (one.id, stage, *place)
    return out


def _clashes(view: View, some: Sequence[_Of]) -> list[Clash]:
    """The editions that are out at an address which another entry has: one that was here before, or comes first here."""
    taken: dict[tuple[str, int, str], int] = {}
    out: list[Clash] = []
    for one in some:
        common = next((s for loc, s in one.standings if _stands(loc == COMMON, s)), None)
        parent = one.places[common.revision][0] if common is not None else 0
        for locale, standing in one.standings:
            slug = one.values(standing.revision).get(one.kind.slug.name) if one.kind.slug else None
            if not _stands(locale != COMMON, standing) or not slug:
                continue
            key = (locale, parent, slug)
            holder = taken.get(key) or standing_store.taken(view.conn, RELEASE, *key)
            if holder is not None and holder != one.id:
                out.append(Clash(one.id, one.editions[locale], slug, holder))
            else:
                taken[key] = one.id
    return out


def _stands(wanted: bool, standing: StandingKept) -> bool:
    """Whether a standing is one of those that are out now, where it is one of those that are looked for."""
    return wanted and standing.stage == RELEASE and standing.until is None


def _take_back(act: Act, one: _Of, edition: int) -> None:
    """Let an edition not be out."""
    held = standing_store.now_at(act.conn, [edition])[edition][RELEASE]
    standing_store.close(act.conn, [held.id], act.now, None)
    ended = max(held.since, act.now)
    one.standings = [
        (loc, StandingKept(s.edition, s.stage, s.revision, s.since, ended, s.committed_at))
        if s.edition == edition and s.stage == RELEASE and s.until is None
        else (loc, s)
        for loc, s in one.standings
    ]


def _tell_readers(act: Act, some: Sequence[_Of]) -> None:
    """Note what changed for whoever reads, as a release does."""
    out = [one for one in some if any(s.stage == RELEASE and s.until is None for _, s in one.standings)]
    applying.shown_anew(act, [(one.id, one.kind.name) for one in out])


# -- sections ------------------------------------------------------------------------------------------------------------


def follow_sections(act: Act, entries: Sequence[int]) -> None:
    """Let entries lie in the sections that their drafts are placed in, once all of them are there."""
    rows: dict[int, entry_store.Entry] = {}
    above: dict[int, int] = {}

    def look(some: Sequence[int]) -> None:
        rows.update(entry_store.by_ids(act.conn, some))
        # What belongs to a type without places is at the top, wherever it lay when its type had some.
        placed = [id for id in some if act.setup.type(rows[id].type).parent]
        above.update(standing_store.parents_in_draft(act.conn, placed))

    def chain(id: int) -> list[int]:
        """The sections at or above an entry, the nearest first."""
        out: list[int] = []
        seen: set[int] = set()
        at = id
        while at and at not in seen:
            seen.add(at)
            if at not in rows:
                look([at])
            if act.setup.type(rows[at].type).section:
                out.append(at)
            at = above.get(at, 0)
        return out

    look(entries)
    found = {id: chain(id) for id in entries}
    for id, sections in found.items():
        if sections[:1] == [id]:
            bringing.sections_within(act.conn, id, sections[1:])
    nearest = {id: sections[0] if sections else None for id, sections in found.items()}
    bringing.set_sections(
        act.conn, [(section, id) for id, section in nearest.items() if rows[id].section != section]
    )
