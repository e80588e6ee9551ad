"""Addresses that clash: with what is out by then, with what is planned, and between entries that go together."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from hawthorn.core import moves
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.messages import Message, said
from hawthorn.operations.access import permission
from hawthorn.operations.release import placing
from hawthorn.operations.release.items import EditionFacts, ReleaseItem
from hawthorn.operations.runtime.act import View
from hawthorn.store import gates
from hawthorn.store.gates import PlannedAddress
from hawthorn.store.standings import RELEASE


def _planned_there(
    view: View, locale: str, parent: int, slug: str, own: set[int], leaving: Collection[tuple[int, str]]
) -> PlannedAddress | None:
    """Another entry that is drafted with an address and planned to be released, and not to have left it by then."""
    rows = gates.planned_at(view.conn, moves.OUT, locale, parent, slug)
    return next((row for row in rows if row.entry not in own and (row.entry, locale) not in leaving), None)


def taken(
    view: View,
    going: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    places: Mapping[int, tuple[int, str]],
    at: int,
    planning: bool,
    away: Collection[tuple[int, str]],
) -> dict[int, Message]:
    """For editions whose address would clash with what is out by then, or (when planning) planned: with whom. What goes `away` along with
    them frees its own."""
    wanted: dict[tuple[int, str, int, str], list[int]] = {}
    parents = {entry: parent for entry, (parent, _) in places.items()}
    coming = [g for g in going if g.stage == RELEASE and not _stands(g, facts[g.edition])]
    for g in coming:
        f = facts[g.edition]
        slug = f.kind.slug
        if slug and f.locale != COMMON and f.values.get(slug.name):
            key = (g.stage, f.locale, parents.get(f.entry, 0), f.values[slug.name])
            wanted.setdefault(key, []).append(g.edition)
    leaving = {(facts[g.edition].entry, facts[g.edition].locale) for g in coming}
    leaving |= placing.withdrawn_by(view, at) | {*away}
    for edition, locale, wish in _out_and_moving(view, coming, facts, places):
        entry = facts[edition].entry
        if (entry, locale) in leaving:
            continue
        wanted.setdefault((RELEASE, locale, parents.get(entry, 0), wish), []).append(edition)
        leaving.add((entry, locale))
    out: dict[int, Message] = {}
    for row in gates.holders(view.conn, wanted):
        for edition in wanted[(row.stage, row.locale, row.parent, row.slug)]:
            if row.entry != facts[edition].entry and (row.entry, row.locale) not in leaving:
                out[edition] = said("unmet.address_taken", slug=row.slug)
    for (_, locale, parent, wish), editions in wanted.items() if planning else ():
        own = {facts[e].entry for e in editions}
        rival = _planned_there(view, locale, parent, wish, own, leaving)
        if rival and not any(e in out for e in editions):
            seen = permission.readable_id(view, rival.entry, locale)
            title = rival.title or said("common.untitled")
            code = "unmet.address_planned" if seen else "unmet.address_planned_by_hidden"
            what = said(code, slug=wish, **({"entry": title, "dispatch": rival.name} if seen else {}))
            out |= dict.fromkeys(editions, what)
    for key, editions in wanted.items():
        if len({facts[e].entry for e in editions}) > 1:
            out |= dict.fromkeys(editions, said("unmet.address_wanted_twice", slug=key[3]))
    return out


def _stands(item: ReleaseItem, facts: EditionFacts) -> bool:
    """Whether the very revision stands there already: where its address is another, that is for the place above it."""
    there = facts.standings.get(item.stage)
    return there is not None and there.revision == item.revision and item.patch is None


def _out_and_moving(
    view: View,
    coming: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    places: Mapping[int, tuple[int, str]],
) -> list[tuple[int, str, str]]:
    """The addresses that entries have where the place above them changes: each with the common edition that moves it."""
    moving = {
        facts[g.edition].entry: g.edition
        for g in coming
        if facts[g.edition].locale == COMMON and facts[g.edition].kind.parent
    }
    if not moving:
        return []
    return [
        (moving[row.entry], row.locale, row.slug)
        for row in gates.addresses(view.conn, set(moving), RELEASE)
        if places.get(row.entry, (0, ""))[0] != row.parent
    ]
