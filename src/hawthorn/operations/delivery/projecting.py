"""What somebody reads who reads as if a dispatch had gone: the revisions that it brings, the addresses and places that follow, and
what it adds to lists. Everything else is as it is now."""

from __future__ import annotations

from collections.abc import Iterator

from hawthorn.core import contenttypes, moves
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.dispatch import COMING
from hawthorn.core.outline import natural
from hawthorn.core.quick import dataclass
from hawthorn.operations.release import bringing
from hawthorn.operations.runtime.act import View
from hawthorn.store import dispatches, entries, outline, revisions, standings, strands
from hawthorn.store import moves as move_store
from hawthorn.store.entries import Entry
from hawthorn.store.outline import Place
from hawthorn.store.standings import DRAFT, RELEASE


@dataclass(frozen=True, slots=True)
class Brought:
    """What a dispatch makes of an edition: the revision that readers see then, None for one that is out no longer."""

    revision: int | None


def revision(view: View, dispatch: int, edition: int) -> Brought | None:
    """What a dispatch makes of an edition that it moves; None for one that it leaves as it is."""
    move = move_store.of_edition(view.conn, dispatch, edition)
    if move is not None and move.state not in COMING:
        return None
    if move is not None and moves.of(move.verb).leaves_with(move.revision):
        return Brought(None)
    if move is not None and move.stage != RELEASE:
        return None
    row = entries.edition_by_id(view.conn, edition)
    if move is None and row.locale != COMMON:
        return None
    if move is not None and move.revision is not None:
        return Brought(move.revision)
    written = strands.inside(view.conn, dispatch, edition)
    if written is not None:
        return Brought(written)
    if move is None and not move_store.brings_any(view.conn, dispatch, row.entry, moves.OUT):
        return None
    return Brought(bringing.approved_of(view, row)) if row.head is not None else None


def place(view: View, dispatch: int, entry: Entry) -> Place | None:
    """Where a dispatch puts an entry in the outline; None for one whose place it leaves as it is, or that it takes away whole."""
    kind = view.setup.types[entry.type]
    common = entries.edition(view.conn, entry.id, COMMON)
    found = revision(view, dispatch, common.id) if common is not None and kind.page else None
    if found is None or found.revision is None:
        return None
    uuid, rank = contenttypes.placement(kind, revisions.content(view.conn, found.revision).fields)
    above = entries.entry(view.conn, uuid) if uuid else None
    return Place(entry.id, RELEASE, above.id if above else 0, rank or natural(entry.id))


def leaves_whole(view: View, dispatch: int, entry: int) -> bool:
    """Whether nothing of an entry is out any more once a dispatch has gone."""
    out = False
    touched = False
    stand = standings.editions_out(view.conn, [entry])
    for edition in entries.editions(view.conn, entry):
        if edition.locale == COMMON:
            continue
        found = revision(view, dispatch, edition.id)
        touched = touched or found is not None
        out = out or (found.revision is not None if found is not None else (entry, edition.id) in stand)
    return touched and not out


def address(view: View, dispatch: int, entry: int, locale: str) -> tuple[int, str] | bool | None:
    """The parent and the slug that an entry has once a dispatch has gone, None for none; False for one that it does not touch."""
    row = entries.entry_by_id(view.conn, entry)
    kind = view.setup.types[row.type]
    edition = entries.edition(view.conn, entry, locale)
    if kind.slug is None or edition is None:
        return False
    own = revision(view, dispatch, edition.id)
    put = place(view, dispatch, row)
    now = standings.address_of(view.conn, entry, RELEASE, locale)
    if own is None:
        return False if put is None or now is None else (put.parent, now[1])
    if own.revision is None:
        return None
    slug = revisions.content(view.conn, own.revision).fields.get(kind.slug.name)
    if not slug:
        return None
    if put is not None:
        return put.parent, str(slug).casefold()
    here = outline.of(view.conn, entry, [RELEASE])
    return (here.parent if here is not None else 0), str(slug).casefold()


def at_address(view: View, dispatch: int, locale: str, parent: int, slug: str, now: int | None) -> int | None:
    """The entry that has an address once a dispatch has gone: the one that has it `now`, unless the dispatch takes it away, else one
    that the dispatch gives it to."""
    wanted = (parent, slug)
    if now is not None and address(view, dispatch, now, locale) in (False, wanted):
        return now
    drafted = standings.taken(view.conn, DRAFT, locale, parent, slug)
    there = move_store.entries(view.conn, dispatch)
    # What is drafted with the address is the likeliest to get it.
    for entry in sorted(there, key=lambda one: one != drafted):
        if address(view, dispatch, entry, locale) == wanted:
            return entry
    return None


def places(view: View, dispatch: int) -> dict[int, Place | None]:
    """The places in the outline that a dispatch gives, or takes (None), by entry."""
    out: dict[int, Place | None] = {}
    for row in _pages(view, dispatch):
        put = place(view, dispatch, row)
        if put is not None:
            out[row.id] = put
        elif leaves_whole(view, dispatch, row.id):
            out[row.id] = None
    return out


def _pages(view: View, dispatch: int) -> Iterator[Entry]:
    for row in entries.by_ids(view.conn, move_store.entries(view.conn, dispatch)).values():
        if view.setup.types[row.type].page:
            yield row


def instant_of(view: View, dispatch: int) -> int:
    """When what a dispatch brings counts as having come out, where it has no time yet: now."""
    row = dispatches.by_id(view.conn, dispatch)
    return row.instant if row.instant is not None and row.instant > view.now else view.now
