"""Which pages show a picture, a common block or a layout, and so change when it moves on."""

from __future__ import annotations

from hawthorn.core.contenttypes import COMMON
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, revisions, standings
from hawthorn.store.entries import Entry
from hawthorn.store.standings import RELEASE

MOST = 2000
"""So many pages are looked at."""


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
