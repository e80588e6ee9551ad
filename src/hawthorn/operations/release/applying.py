"""Putting a plan into the records: standings, and the rows for lists, addresses and bodies that follow."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from hawthorn.core import contenttypes
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.dispatch import Opening, Plan
from hawthorn.core.outline import natural
from hawthorn.core.revision import EMPTY, Content, together
from hawthorn.core.timeline import Standing, day_or_instant
from hawthorn.operations.release import filters, placing
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.search import indexing
from hawthorn.store import entries as entry_store
from hawthorn.store import moves as move_store
from hawthorn.store import outline, standings
from hawthorn.store.standings import DRAFT, RELEASE, There, Values


def apply(act: Act, plan: Plan, since: int, dispatch: int | None) -> None:
    """Close and open standings at an instant; closings come first, so that moves may swap."""
    standings.close(act.conn, [s.id for s in plan.closings], since, dispatch)
    standings.open_all(
        act.conn, ((o.edition, o.stage, o.revision) for o in plan.openings), since, act.now, dispatch
    )
    act.stood += [(s.edition, s.stage, None) for s in plan.closings]
    act.stood += [(o.edition, o.stage, o.revision) for o in plan.openings]
    act.released |= {o.edition for o in plan.openings if o.stage == RELEASE}
    move_store.follow(act.conn, ((o.edition, o.revision) for o in plan.openings if o.stage != RELEASE))
    changing: list[Standing | Opening] = [*plan.closings, *plan.openings]
    editions = {one.edition for one in changing}
    entries = entry_store.of_editions(act.conn, editions)
    by_stage: dict[int, set[int]] = {}
    for one in changing:
        by_stage.setdefault(one.stage, set()).add(entries[one.edition][0])
    for stage, changed in sorted(by_stage.items()):
        settle_stage(act, sorted(changed), stage, since)
    moved = entry_store.behind(act.conn, {e for changed in by_stage.values() for e in changed})
    moved |= entry_store.not_heads(act.conn, ((o.edition, o.revision) for o in plan.openings))
    entry_store.flag(act.conn, moved)
    indexing.follow_release(act, editions, moved)


def shown_anew(act: Act, some: Iterable[tuple[int, str]]) -> None:
    """Note for whoever reads that entries (number and type) are others now: their own bodies, those that refer to them, and lists of their types."""
    there = [*some]
    changes = [(RELEASE, entry, facet) for entry, _ in there for facet in ("out", "address")]
    changes += [(RELEASE, 0, f"list:{name}") for name in sorted({type for _, type in there})]
    standings.note_changes(act.conn, changes, act.next_seq, act.now)


def settle_stage(act: Act, entries: Sequence[int], stage: int, since: int) -> None:
    """Bring lists, addresses and placements at a stage in line with what stands there, and note the change."""
    standings.relist(act.conn, entries, stage, since)
    standings.list_as(act.conn, stage, _shown_as(act, entries, stage), since)
    if stage == RELEASE:
        filters.keep(act, entries, stage)
    changes = [(stage, entry, "out") for entry in entries]
    slugs = {name: kind.slug.name for name, kind in act.setup.types.items() if kind.slug}
    there = standings.there(act.conn, entries, stage, slugs)
    shared = ((row.entry, row.type, row.fields) for row in there if row.fields is not None)
    places = placing.placed(act, shared)
    _settle_places(act, entries, there, places, stage, since)
    if stage == RELEASE:
        moved = _settle_addresses(act, entries, there, places, since)
        moved |= {*outline.namesakes(act.conn, moved, stage, act.setup.locales)}
        changes += [(stage, entry, "address") for entry in sorted(moved)]
        changes += [(stage, 0, f"list:{type}") for type in entry_store.types_of(act.conn, entries)]
    standings.note_changes(act.conn, changes, act.next_seq, since)


def _shown_as(act: Act, entries: Sequence[int], stage: int) -> list[tuple[int, bool, int | None]]:
    """For entries of types that say so: whether each is pinned, and the date that is shown, as an instant."""
    kinds = _saying(act.setup.types)
    if not kinds:
        return []
    rows = standings.values_at(act.conn, entries, kinds, stage)
    return _shown_of(kinds, rows)


def list_drafts(act: Act, entries: Sequence[int]) -> None:
    """Let the lists of drafts say of entries whether they are pinned and which date is shown."""
    kinds = _saying(act.setup.types)
    if kinds:
        shown = _shown_of(kinds, standings.values_in_draft(act.conn, entries, kinds))
        entry_store.list_as(act.conn, shown)


def _saying(types: Mapping[str, ContentType]) -> dict[str, ContentType]:
    return {n: k for n, k in types.items() if k.pinned or k.dated}


def list_anew(act: Act, kind: ContentType, entries: Sequence[int]) -> None:
    """The same in every list, as their type says something else of it now."""
    plain: dict[int, tuple[int, bool, int | None]] = {one: (one, False, None) for one in entries}
    kinds = _saying({kind.name: kind})
    in_draft = _shown_of(kinds, standings.values_in_draft(act.conn, entries, kinds))
    entry_store.list_as(act.conn, (plain | {one[0]: one for one in in_draft}).values())
    for stage in act.setup.stage_names:
        if stage != DRAFT:
            standing = _shown_of(kinds, standings.values_at(act.conn, entries, kinds, stage))
            said = plain | {one[0]: one for one in standing}
            standings.list_as(act.conn, stage, said.values(), act.now)


def _shown_of(kinds: Mapping[str, ContentType], rows: Iterable[Values]) -> list[tuple[int, bool, int | None]]:
    shared: dict[int, Content] = {}
    own: dict[int, Content] = {}
    types: dict[int, str] = {}
    for row in rows:
        types[row.entry] = row.type
        if row.locale in (COMMON, row.source_locale):
            (shared if row.locale == COMMON else own)[row.entry] = filters.written(row)
    out: list[tuple[int, bool, int | None]] = []
    for entry, type in types.items():
        kind = kinds[type]
        mine = together(kind, shared.get(entry, EMPTY), own.get(entry, EMPTY))
        shown = contenttypes.shown_date(kind, mine)
        pinned = bool(kind.pinned and mine.get(kind.pinned))
        out.append((entry, pinned, day_or_instant(shown) if shown else None))
    return out


def _settle_places(
    act: Act,
    entries: Sequence[int],
    there: Sequence[There],
    places: dict[int, tuple[int, str]],
    stage: int,
    since: int,
) -> None:
    """Placements at a stage: of entries of which an edition stands there, where the common edition there puts them."""
    kinds = act.setup.types
    # Before release, an entry whose shared fields stand higher up is placed as they are there.
    wanted = {
        row.entry: places.get(row.entry, (0, natural(row.entry)))
        for row in there
        if row.locale != COMMON
        and (kinds[row.type].parent or kinds[row.type].site)
        and (stage == RELEASE or row.entry in places)
    }
    standings.replace_places(act.conn, wanted, entries, stage, since)


def _settle_addresses(
    act: Act,
    entries: Sequence[int],
    there: Sequence[There],
    places: dict[int, tuple[int, str]],
    since: int,
) -> set[int]:
    wanted = {
        (row.entry, row.locale): (places.get(row.entry, (0, ""))[0], row.slug) for row in there if row.slug
    }
    return standings.readdress(act.conn, wanted, entries, RELEASE, since)


def draft_address(act: Act, entry: int, locales: dict[str, str | None], parent: int) -> None:
    """Keep where a draft would be found; drafts may share an address."""
    wanted = {(entry, locale): (parent, slug) for locale, slug in locales.items() if slug}
    standings.readdress(act.conn, wanted, [entry], DRAFT, act.now)
