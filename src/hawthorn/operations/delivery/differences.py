"""What readers see differently at two instants: of the past from what stood, of the future from what is planned."""

from __future__ import annotations

from hawthorn.core import numbers, timeline
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.delivery import reading
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, revisions
from hawthorn.store import moves as move_store
from hawthorn.store.moves import MovedBetween
from hawthorn.store.standings import RELEASE

WEEK = 7 * 24 * 3600 * timeline.SECOND
_LOOKED = 2_000
"""So many editions are looked at for a page: some stand at both instants as they did."""


@dataclass(frozen=True, slots=True)
class Difference:
    """An edition that readers see differently: revision numbers and paths at both instants, and what made it so, or will. The common
    edition (`*`) stands for the fields that all locales share."""

    id: str
    locale: str
    source_locale: str
    type: str
    title: str
    how: str
    before: int | None
    after: int | None
    path_before: str
    path_after: str
    dispatches: tuple[str, ...]


def listing(view: View, since: int, until: int, limit: int, cursor: str = "") -> tuple[list[Difference], str]:
    """What differs between two instants of what may be read, in the order in which editions came to be; and where the next page
    begins. Raises `Invalid` where the second is not after the first."""
    if until <= since:
        raise Invalid([FieldProblem("until", said("differences.until_first"))])
    after = numbers.whole(cursor) if cursor else 0
    if after is None:
        raise Invalid("paging.cursor")
    out: list[Difference] = []
    rows = move_store.moved_between(view.conn, since, until, after, _LOOKED + 1)
    first, last = Place(RELEASE, since), Place(RELEASE, until)
    for row in rows[:_LOOKED]:
        found = _difference(view, row, first, last)
        if found is not None:
            out.append(found)
        if len(out) == limit:
            rest = row.edition != rows[-1].edition
            return out, str(row.edition) if rest else ""
    return out, str(rows[_LOOKED - 1].edition) if len(rows) > _LOOKED else ""


def _difference(view: View, row: MovedBetween, first: Place, last: Place) -> Difference | None:
    entry = entries.entry_by_id(view.conn, row.entry)
    tag = None if row.locale == COMMON else row.locale
    if not permission.readable(view, entry, tag):
        return None
    was, will = (reading.revision_at(view, row.edition, where) for where in (first, last))
    if (was and was[0]) == (will and will[0]):
        return None
    numbered = revisions.numbers(view.conn, {found[0] for found in (was, will) if found})
    paths = ["", ""]
    if tag is not None:
        found = (reading.path_at(view, entry.id, tag, where) for where in (first, last))
        paths = [path or "" for path in found]
    return Difference(
        entry.uuid,
        row.locale,
        entry.source_locale,
        entry.type,
        permission.title(view, entry.id, tag or entry.source_locale),
        "changed" if was and will else "new" if will else "gone",
        numbered[was[0]] if was else None,
        numbered[will[0]] if will else None,
        paths[0] if was else "",
        paths[1] if will else "",
        tuple(row.dispatches.split(",")),
    )
