"""Which pages show a picture, a common block or a layout, and so change when it moves on."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from hawthorn.core import compact, slots
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.fields import Field
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.release.lines import Line
from hawthorn.operations.runtime.act import View
from hawthorn.store import bodies, entries, gates, revisions, standings
from hawthorn.store.entries import Entry
from hawthorn.store.standings import RELEASE

MOST = 2000
"""So many pages are looked at."""
_SHOWN = 100
"""So many are named of those that change with a dispatch."""


@dataclass(frozen=True, slots=True)
class Affected:
    """The pages that show an entry and change with it."""

    items: list[AffectedPage]
    total: int
    out: int
    more: bool
    shown_whole: bool


@dataclass(frozen=True, slots=True)
class AffectedPage:
    """A page that shows an entry, or a block or layout through which pages do; and the locales in which it is out."""

    id: str
    type: str
    title: str
    locale: str
    out: list[str]
    page: bool


def pages(view: View, uuid: str) -> Affected:
    """The pages that show an entry, through common blocks too: each with the locales in which it is out. `out` counts those
    that readers see, `total` all of them; `more` says that there are more than were looked at."""
    row = permission.find(view, uuid)
    kind = view.setup.type(row.type)
    found = _showing(view, row)
    for holder in [row, *found.values()]:
        found |= {e.id: e for e in _following(view, _followers(view, holder.type))}
    found.pop(row.id, None)
    readable = [e for e in found.values() if permission.readable(view, e)]
    out = _locales_out(view, [e.id for e in readable])
    lines = [
        AffectedPage(
            id=e.uuid,
            type=e.type,
            title=permission.title(view, e.id) or view.say("common.untitled"),
            locale=e.source_locale,
            out=out.get(e.id, []),
            page=view.setup.types[e.type].addressed,
        )
        for e in readable
    ]
    lines.sort(key=lambda line: (not line.out, not line.page, line.title.casefold()))
    return Affected(
        items=lines,
        total=len(lines),
        out=sum(1 for line in lines if line.out and line.page),
        more=len(found) >= MOST,
        shown_whole=kind.common or kind.file is not None or bool(_followers(view, kind.name)),
    )


@dataclass(frozen=True, slots=True)
class ChangingPage:
    """A page that readers see otherwise once something has gone, and what it shows of that."""

    id: str
    locale: str
    type: str
    title: str
    shows: list[str]


@dataclass(frozen=True, slots=True)
class Changing:
    """The pages that change with what goes and do not go themselves: the first of them, and how many there are."""

    items: list[ChangingPage]
    total: int


def changing(view: View, lines: Sequence[Line]) -> Changing:
    """The pages that are out and show what goes or leaves, through common blocks, layouts and lists too: as far as their drafts
    refer to it, or what was last read of them shows it."""
    moving = [x for x in lines if x.stage == RELEASE and (x.patch is not None or x.before != x.after)]
    ids = gates.ids(view.conn, {x.uuid for x in moving})
    titles = {ids[x.uuid]: x.title or view.say("common.untitled") for x in moving}
    shows = _shown_by(view, moving)
    out = _locales_out(view, [*shows])
    found = {(entry, tag): set(of) for entry, of in shows.items() for tag in out.get(entry, ())}
    for target, entry, tag in bodies.depending_by(view.conn, titles, MOST):
        found.setdefault((entry, tag), set()).add(titles[target])
    for pair, type in _listing(view, {x.type for x in moving}):
        label = view.say("affected.list", type=view.setup.types[type].label)
        found.setdefault(pair, set()).add(label)
    going = {(ids[x.uuid], x.locale) for x in moving}
    rows = entries.by_ids(view.conn, {entry for entry, _ in found})
    seen = permission.readable_among(view, rows)
    there = [
        pair
        for pair in found
        if pair in seen and pair not in going and view.setup.types[rows[pair[0]].type].addressed
    ]
    pages = [
        ChangingPage(
            rows[entry].uuid,
            tag,
            rows[entry].type,
            permission.title(view, entry, tag) or view.say("common.untitled"),
            sorted(found[entry, tag]),
        )
        for entry, tag in sorted(there)[:_SHOWN]
    ]
    return Changing(sorted(pages, key=lambda page: (page.title.casefold(), page.locale)), len(there))


def _shown_by(view: View, moving: Sequence[Line]) -> dict[int, set[str]]:
    """The entries that show any of what moves, and the titles of what they show of it."""
    shows: dict[int, set[str]] = {}
    wave: dict[str, set[str]] = {}
    of_types: dict[str, set[str]] = {}
    for line in moving:
        wave.setdefault(line.uuid, set()).add(line.title or view.say("common.untitled"))
        of_types.setdefault(line.type, set()).update(wave[line.uuid])
    seen: set[str] = set()
    while wave and len(shows) < MOST:
        seen |= set(wave)
        referring = gates.referring_to_any(view.conn, wave, MOST)
        rows = entries.by_ids(view.conn, {entry for _, entry in referring})
        above: dict[str, set[str]] = {}
        for target, entry in referring:
            row, titles = rows[entry], wave[target]
            shows.setdefault(entry, set()).update(titles)
            of_types.setdefault(row.type, set()).update(titles)
            if view.setup.types[row.type].common and row.uuid not in seen:
                above.setdefault(row.uuid, set()).update(titles)
        wave = above
    for type, titles in of_types.items():
        for row in _following(view, _followers(view, type)):
            shows.setdefault(row.id, set()).update(titles)
    return shows


def _listing(view: View, types: set[str]) -> Iterator[tuple[tuple[int, str], str]]:
    """The editions that are out and list entries of some types by a rule, with the type."""
    listing = [name for name, kind in view.setup.types.items() if _holds_rules(kind.fields)]
    rows = entries.newest_of_types(view.conn, listing, MOST) if listing else []
    there = standings.values_at(view.conn, [row.id for row in rows], listing, RELEASE)
    locales: dict[int, list[str]] = {}
    for one in there:
        if one.locale != COMMON:
            locales.setdefault(one.entry, []).append(one.locale)
    for one in there:
        listed = {
            type
            for slot in slots.filled(view.setup.types[one.type].fields, compact.read(one.fields))
            if slot.spec.kind == "query" and slot.value
            for type in types & set(slot.value["types"])
        }
        # What a shared field lists is on the page in every locale.
        tags = locales.get(one.entry, []) if one.locale == COMMON else [one.locale]
        yield from (((one.entry, tag), type) for tag in tags for type in listed)


def _holds_rules(specs: Iterable[Field]) -> bool:
    """Whether a rule that lists entries can stand in any of some fields."""
    return any(
        spec.kind == "query"
        or _holds_rules(spec.fields)
        or any(_holds_rules(block.fields) for block in spec.blocks)
        for spec in specs
    )


def _showing(view: View, row: Entry) -> dict[int, Entry]:
    """The entries that refer to one in their drafts or in what is out, and those that show these where they are common."""
    found: dict[int, Entry] = {}
    waiting = [row.uuid]
    seen: set[str] = set()
    while waiting and len(found) < MOST:
        uuid = waiting.pop()
        if uuid in seen:
            continue
        seen.add(uuid)
        for one in entries.referring(view.conn, uuid):
            other = entries.entry_by_id(view.conn, one.entry)
            if view.setup.types[other.type].common:
                waiting.append(other.uuid)
            found[other.id] = other
    return found


def _followers(view: View, type: str) -> list[str]:
    """The types whose entries follow the layout that is of a type."""
    return [k.name for k in view.setup.types.values() if k.layout == type and k.regions]


def _following(view: View, types: list[str]) -> list[Entry]:
    """The entries of some types that leave a region to their layout."""
    if not types:
        return []
    rows = entries.newest_of_types(view.conn, types, MOST)
    out = []
    for row in rows:
        regions = [f.name for f in view.setup.types[row.type].regions]
        editions = entries.editions(view.conn, row.id)
        stand = standings.now_at(view.conn, [e.id for e in editions])
        for edition in editions:
            if edition.locale == COMMON and len(editions) > 1:
                continue
            standing = stand.get(edition.id, {}).get(RELEASE)
            revision = standing.revision if standing else edition.head
            values = revisions.content(view.conn, revision).fields if revision else {}
            if any(not values.get(name) for name in regions):
                out.append(row)
                break
    return out


def _locales_out(view: View, ids: list[int]) -> dict[int, list[str]]:
    rows = standings.locales_out(view.conn, ids)
    out: dict[int, list[str]] = {}
    for row in rows:
        out.setdefault(row.entry, []).append(row.locale)
    return out
