"""Putting a plan into the records: standings, and the rows for lists, addresses and bodies that follow."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from hawthorn.core import contenttypes
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.dispatch import Plan
from hawthorn.core.outline import natural
from hawthorn.core.timeline import day_or_instant
from hawthorn.operations.release import placing
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.search import indexing
from hawthorn.store import entries as entry_store
from hawthorn.store import moves as move_store
from hawthorn.store import standings
from hawthorn.store.standings import DRAFT, RELEASE, Values


def apply(act: Act, plan: Plan, since: int, dispatch: int | None) -> None:
    """Close and open standings at an instant; closings come first, so that moves may swap."""
    closing = standings.where(act.conn, plan.closings)
    standings.close(act.conn, plan.closings, since, dispatch)
    standings.open_all(
        act.conn, ((o.edition, o.stage, o.revision) for o in plan.openings), since, act.now, dispatch
    )
    act.stood += [(edition, stage, None) for stage, _, edition in closing]
    act.stood += [(o.edition, o.stage, o.revision) for o in plan.openings]
    if act.setup.plans_by_fields:
        act.released |= {o.edition for o in plan.openings if o.stage == RELEASE}
    by_stage: dict[int, set[int]] = {}
    for stage, entry, _ in closing:
        by_stage.setdefault(stage, set()).add(entry)
    move_store.follow(act.conn, ((o.edition, o.revision) for o in plan.openings if o.stage != RELEASE))
    entries = entry_store.of_editions(act.conn, {o.edition for o in plan.openings})
    for opening in plan.openings:
        by_stage.setdefault(opening.stage, set()).add(entries[opening.edition][0])
    for stage, changed in sorted(by_stage.items()):
        settle_stage(act, sorted(changed), stage, since)
    moved = entry_store.behind(act.conn, {e for changed in by_stage.values() for e in changed})
    moved |= entry_store.not_heads(act.conn, ((o.edition, o.revision) for o in plan.openings))
    entry_store.flag(act.conn, moved)
    indexing.follow_release(act, {o.edition for o in plan.openings} | {c[2] for c in closing}, moved)


def settle_stage(act: Act, entries: Sequence[int], stage: int, since: int) -> None:
    """Bring lists, addresses and placements at a stage in line with what stands there, and note the change."""
    standings.relist(act.conn, entries, stage, since)
    standings.list_as(act.conn, stage, _shown_as(act, entries, stage), since)
    changes = [(stage, entry, "out") for entry in entries]
    places = placing.places_of(act, set(entries), stage, {}, [])
    _settle_places(act, entries, places, stage, since)
    if stage == RELEASE:
        moved = _settle_addresses(act, entries, places, stage, since)
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
    values: dict[int, dict[str, Any]] = {}
    types: dict[int, str] = {}
    for row in rows:
        types[row.entry] = row.type
        if row.locale in (COMMON, row.source_locale):
            values.setdefault(row.entry, {}).update(json.loads(row.fields))
    out: list[tuple[int, bool, int | None]] = []
    for entry, type in types.items():
        kind, mine = kinds[type], values.get(entry, {})
        shown = contenttypes.shown_date(kind, mine)
        pinned = bool(kind.pinned and mine.get(kind.pinned))
        out.append((entry, pinned, day_or_instant(shown) if shown else None))
    return out


def _settle_places(
    act: Act, entries: Sequence[int], places: dict[int, tuple[int, str]], stage: int, since: int
) -> None:
    """Placements at a stage: of entries of which an edition stands there, where the common edition there puts them."""
    rows = standings.entries_at(act.conn, entries, stage)
    kinds = act.setup.types
    # Before release, an entry whose shared fields stand higher up is placed as they are there.
    wanted = {
        row.id: places.get(row.id, (0, natural(row.id)))
        for row in rows
        if (kinds[row.type].parent or kinds[row.type].site) and (stage == RELEASE or row.id in places)
    }
    standings.replace_places(act.conn, wanted, entries, stage, since)


def _settle_addresses(
    act: Act, entries: Sequence[int], places: dict[int, tuple[int, str]], stage: int, since: int
) -> set[int]:
    wanted: dict[tuple[int, str], tuple[int, str]] = {}
    for row in standings.texts_at(act.conn, entries, stage):
        slug = act.setup.types[row.type].slug
        if slug:
            value = json.loads(row.fields).get(slug.name)
            if value:
                wanted[(row.entry, row.locale)] = (places.get(row.entry, (0, ""))[0], value)
    return standings.readdress(act.conn, wanted, entries, stage, since)


def draft_address(act: Act, entry: int, locales: dict[str, str | None], parent: int) -> None:
    """Keep where a draft would be found; drafts may share an address."""
    wanted = {(entry, locale): (parent, slug) for locale, slug in locales.items() if slug}
    standings.readdress(act.conn, wanted, [entry], DRAFT, act.now)
