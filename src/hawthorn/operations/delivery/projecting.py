"""What somebody reads who reads what is to come: at an instant, once what is planned until then has gone, or as if one dispatch had; the
revisions that stand then, and the addresses and places that follow. Everything else is as it is now."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Protocol

from hawthorn.core import contenttypes
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.outline import natural
from hawthorn.core.timeline import Standing
from hawthorn.operations.release import foreseen
from hawthorn.operations.release.foreseen import Stand
from hawthorn.operations.runtime.act import View
from hawthorn.store import dispatches, entries, moves_ahead, revisions, standings
from hawthorn.store import moves as move_store
from hawthorn.store.entries import Edition, Entry
from hawthorn.store.outline import Place
from hawthorn.store.standings import DRAFT, RELEASE


class Ahead(Protocol):
    """Where somebody reads: at a stage, at an instant, as if a dispatch had gone."""

    @property
    def stage(self) -> int: ...
    @property
    def at(self) -> int | None: ...
    @property
    def dispatch(self) -> int: ...


_LOOKED_AT = 200
"""So many entries are looked at for an address that nothing has yet."""


def ahead(view: View, where: Ahead) -> bool:
    """Whether what is read somewhere is still to come."""
    return bool(where.dispatch) or (where.at is not None and where.at > view.now)


def stand(view: View, edition: int, where: Ahead) -> Mapping[int, Standing] | None:
    """What stands of an edition, by stage, where somebody reads what is to come; None where nothing moves its entry until then."""
    if not ahead(view, where):
        return None
    found = _stand(view, where, entries.edition_by_id(view.conn, edition).entry)
    return None if found is None else found.get(edition, {})


def _stand(view: View, where: Ahead, entry: int) -> Stand | None:
    if where.dispatch:
        return foreseen.after(view, where.dispatch, instant_of(view, where.dispatch), entry)
    return foreseen.by(view, [entry], where.at or view.now)


def _placed(
    view: View, entry: Entry, editions: Sequence[Edition], found: Stand | None, stage: int
) -> Place | None:
    """Where an entry is read at a stage: at the first from there of which a text of it stands, by the shared fields there. What is out
    without any is at the top."""
    kind = view.setup.types[entry.type]
    if found is None or not kind.page:
        return None
    common = next((found.get(one.id, {}) for one in editions if one.locale == COMMON), {})
    texts = {s for one in editions if one.locale != COMMON for s in found.get(one.id, {})}
    orders = view.setup.orders
    for there in sorted((s for s in texts if orders[s] >= orders[stage]), key=orders.__getitem__):
        held = common.get(there)
        if held is not None or there == RELEASE:
            values = revisions.content(view.conn, held.revision).fields if held is not None else {}
            uuid, rank = contenttypes.placement(kind, values)
            above = entries.entry(view.conn, uuid) if uuid else None
            return Place(entry.id, RELEASE, above.id if above else 0, rank or natural(entry.id))
    return None


def address(view: View, where: Ahead, entry: int, locale: str) -> tuple[int, str] | bool | None:
    """The parent and the slug that an entry has by then, None for none; False for one that nothing touches."""
    row = entries.entry_by_id(view.conn, entry)
    kind = view.setup.types[row.type]
    edition = entries.edition(view.conn, entry, locale)
    if kind.slug is None or edition is None:
        return False
    found = _stand(view, where, entry)
    if found is None:
        return False
    own = found.get(edition.id, {}).get(RELEASE)
    slug = revisions.content(view.conn, own.revision).fields.get(kind.slug.name) if own is not None else None
    if not slug:
        return None
    put = _placed(view, row, entries.editions(view.conn, entry), found, RELEASE)
    return (put.parent if put is not None else 0), str(slug).casefold()


def at_address(view: View, where: Ahead, locale: str, parent: int, slug: str, now: int | None) -> int | None:
    """The entry that has an address by then: the one that has it `now`, unless that is taken away, else one to which it is given."""
    wanted = (parent, slug)
    if now is not None and address(view, where, now, locale) in (False, wanted):
        return now
    drafted = standings.taken(view.conn, DRAFT, locale, parent, slug)
    # What is drafted with the address is the likeliest to get it; of thousands no others are looked at.
    for entry in sorted(_moved(view, where), key=lambda one: one != drafted)[:_LOOKED_AT]:
        if address(view, where, entry, locale) == wanted:
            return entry
    return None


def places(view: View, where: Ahead) -> dict[int, Place | None]:
    """The places in the outline that what is to come gives, or takes (None), by entry."""
    rows = entries.by_ids(view.conn, [*_moved(view, where)])
    pages = [row for row in rows.values() if view.setup.types[row.type].page]
    if where.dispatch:
        found = foreseen.after(view, where.dispatch, instant_of(view, where.dispatch))
    else:
        found = foreseen.by(view, [row.id for row in pages], where.at or view.now)
    if found is None:
        return {}
    out: dict[int, Place | None] = {}
    for row in pages:
        editions = entries.editions(view.conn, row.id)
        if any(one.id in found for one in editions):
            out[row.id] = _placed(view, row, editions, found, where.stage)
    return out


def _moved(view: View, where: Ahead) -> Iterable[int]:
    """The entries that what is to come moves."""
    if where.dispatch:
        return move_store.entries(view.conn, where.dispatch)
    return dict.fromkeys(m.entry for m in moves_ahead.planned_by(view.conn, where.at or view.now))


def instant_of(view: View, dispatch: int) -> int:
    """When what a dispatch brings counts as having come out, where it has no time yet: now."""
    row = dispatches.by_id(view.conn, dispatch)
    return row.instant if row.instant is not None and row.instant > view.now else view.now
