"""Where entries stand among pages once something goes: below whom, never in a cycle, and never below a page that is not there."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from hawthorn.core import compact, contenttypes, moves
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.messages import Message, said
from hawthorn.core.outline import loop, natural
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.release.items import EditionFacts, ReleaseItem
from hawthorn.operations.runtime.act import View
from hawthorn.store import gates
from hawthorn.store.standings import RELEASE


def withdrawn_by(view: View, at: int) -> set[tuple[int, str]]:
    """Editions that a planned dispatch will have withdrawn by an instant."""
    if at <= view.now:
        return set()
    return gates.moved_by(view.conn, moves.LEAVING, at)


def cycles(
    view: View,
    going: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    places: Mapping[int, tuple[int, str]],
) -> dict[int, Message]:
    """For common editions whose release would place entries below one another in a cycle: which. Looked at on the outcome, as releasing one of two moves can make a cycle that neither draft has."""
    moving = {
        facts[g.edition].entry: g.edition
        for g in going
        if g.stage == RELEASE and facts[g.edition].locale == COMMON and facts[g.edition].kind.parent
    }
    if not moving:
        return {}

    def parent(entry: int) -> int:
        if entry in places:
            return places[entry][0]
        return gates.parent(view.conn, entry, RELEASE)

    out: dict[int, Message] = {}
    for entry, edition in moving.items():
        round = loop(entry, parent) if places.get(entry, (0, ""))[0] else []
        if round:
            *below, last = [permission.title(view, e) or view.say("common.untitled") for e in [*round, entry]]
            placed = said("common.quoted", text=last)
            for title in reversed(below):
                placed = said("unmet.below", entry=title, above=placed)
            out[edition] = said("unmet.cycle", round=placed)
    return out


def roofless(
    view: View,
    going: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    places: Mapping[int, tuple[int, str]],
    coming: Mapping[int, set[str]],
    planned: set[int],
    at: int,
) -> dict[int, tuple[str, str]]:
    """For editions that would be out below a page that is not, and so have no address: the page's UUID and title.

    A page above lends its source's address where it has none in a locale; what heads a site adds nothing to an address.
    """
    above = {parent for parent, _ in places.values() if parent}
    if not above:
        return {}
    roofs = _roofs(view, above, leaving=withdrawn_by(view, at), coming=coming)
    addressed = _addressed(view, {entry for entry, (parent, _) in places.items() if parent})
    out: dict[int, tuple[str, str]] = {}
    for g in going:
        f = facts[g.edition]
        roof = roofs.get(places.get(f.entry, (0, ""))[0])
        if g.stage != RELEASE or f.kind.slug is None or roof is None or roof.entry in planned:
            continue
        locales = {f.locale} if f.locale != COMMON else addressed.get(f.entry, set())
        if not all(roof.covers(locale) for locale in locales):
            title = permission.title(view, roof.entry, f.locale if f.locale != COMMON else None)
            out[g.edition] = (roof.uuid, title or view.say("common.untitled"))
    return out


@dataclass(frozen=True, slots=True)
class _Roof:
    """A page with others below it, and the locales in which it has an address for readers, or will have."""

    entry: int
    uuid: str
    site: bool
    source_locale: str
    locales: frozenset[str]

    def covers(self, locale: str) -> bool:
        """Whether a page below it has an address in a locale, as far as this one goes."""
        return self.site or bool({locale, self.source_locale} & self.locales)


def _roofs(
    view: View, entries: set[int], *, leaving: set[tuple[int, str]], coming: Mapping[int, set[str]]
) -> dict[int, _Roof]:
    have = _addressed(view, entries)
    out: dict[int, _Roof] = {}
    for row in gates.entries(view.conn, entries):
        kind = view.setup.types[row.type]
        if kind.slug is None and not kind.site:
            continue
        stay = {locale for locale in have.get(row.id, ()) if (row.id, locale) not in leaving}
        locales = frozenset(stay | coming.get(row.id, set()))
        out[row.id] = _Roof(row.id, row.uuid, bool(kind.site), row.source_locale, locales)
    return out


def _addressed(view: View, entries: set[int]) -> dict[int, set[str]]:
    """The locales in which entries have an address for readers."""
    out: dict[int, set[str]] = {}
    for row in gates.addresses(view.conn, entries, RELEASE):
        out.setdefault(row.entry, set()).add(row.locale)
    return out


def left_below(
    view: View, leaving: set[tuple[int, str]], coming: Mapping[int, set[str]], moved: set[int]
) -> dict[int, list[tuple[int, str]]]:
    """What would be out below pages that leave, and have no address any more: by page the entries and locales.

    `coming` goes out with it, in these locales; `moved` are entries that are placed elsewhere with it.
    """
    above = {entry for entry, _ in leaving}
    rows = gates.addresses_below(view.conn, above, [*view.setup.locales], RELEASE)
    if not rows:
        return {}
    roofs = _roofs(view, above, leaving=leaving, coming=coming)
    out: dict[int, list[tuple[int, str]]] = {}
    for row in rows:
        roof = roofs.get(row.parent)
        stays = (row.entry, row.locale) not in leaving and row.entry not in moved
        if roof is not None and stays and not roof.covers(row.locale):
            out.setdefault(row.parent, []).append((row.entry, row.locale))
    return out


def places_of(
    view: View, entries: set[int], stage: int, facts: Mapping[int, EditionFacts], going: Sequence[ReleaseItem]
) -> dict[int, tuple[int, str]]:
    """The entry that each is placed below at a stage, once what goes stands there (0 at the root), and its rank."""
    below = {
        row.entry: _below(view, row.type, row.fields) for row in gates.placements(view.conn, entries, stage)
    }
    for g in going:
        f = facts[g.edition]
        if f.locale == COMMON and g.stage == stage:
            below[f.entry] = contenttypes.placement(f.kind, f.values)
    return _found(view, below)


def placed(view: View, shared: Iterable[tuple[int, str, str]]) -> dict[int, tuple[int, str]]:
    """The entry that each is placed below and its rank, by its shared fields, given as (entry, type, fields as JSON)."""
    return _found(view, {entry: _below(view, type, fields) for entry, type, fields in shared})


def _below(view: View, type: str, fields: str) -> tuple[str | None, str]:
    """The entry (UUID) that shared fields place theirs below, and its rank."""
    return (
        contenttypes.placement(view.setup.types[type], compact.read(fields)) if fields != "{}" else (None, "")
    )


def _found(view: View, below: Mapping[int, tuple[str | None, str]]) -> dict[int, tuple[int, str]]:
    ids = gates.ids(view.conn, {u for u, _ in below.values() if u})
    return {entry: (ids.get(u, 0) if u else 0, rank or natural(entry)) for entry, (u, rank) in below.items()}
