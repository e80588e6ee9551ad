"""Addresses that clash: with what is out by then, with what is planned, and between entries that go together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

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


def _planned_there(view: View, locale: str, parent: int, slug: str, own: set[int]) -> PlannedAddress | None:
    """Another entry that is drafted with an address and planned to be released."""
    rows = gates.planned_at(view.conn, moves.OUT, locale, parent, slug)
    return next((row for row in rows if row.entry not in own), None)


def taken(
    view: View,
    going: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    places: Mapping[int, tuple[int, str]],
    at: int,
    planning: bool,
) -> dict[int, Message]:
    """For editions whose address would clash with what is out by then, or (when planning) planned: with whom."""
    wanted: dict[tuple[int, str, int, str], list[int]] = {}
    parents = {entry: parent for entry, (parent, _) in places.items()}
    for g in going:
        f = facts[g.edition]
        slug = f.kind.slug
        if g.stage == RELEASE and slug and f.locale != COMMON and f.values.get(slug.name):
            key = (g.stage, f.locale, parents.get(f.entry, 0), f.values[slug.name])
            wanted.setdefault(key, []).append(g.edition)
    for edition, locale, wish in _out_and_moving(view, going, facts, places):
        wanted.setdefault((RELEASE, locale, parents.get(facts[edition].entry, 0), wish), []).append(edition)
    leaving = {(facts[g.edition].entry, facts[g.edition].locale) for g in going}
    leaving |= placing.withdrawn_by(view, at)
    out: dict[int, Message] = {}
    for row in gates.holders(view.conn, wanted):
        for edition in wanted[(row.stage, row.locale, row.parent, row.slug)]:
            if row.entry != facts[edition].entry and (row.entry, row.locale) not in leaving:
                out[edition] = said("unmet.address_taken", slug=row.slug)
    for (_, locale, parent, wish), editions in wanted.items() if planning else ():
        rival = _planned_there(view, locale, parent, wish, {facts[e].entry for e in editions})
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


def _out_and_moving(
    view: View,
    going: Sequence[ReleaseItem],
    facts: Mapping[int, EditionFacts],
    places: Mapping[int, tuple[int, str]],
) -> list[tuple[int, str, str]]:
    """The addresses that entries have in locales that do not go themselves, where the place above them changes: each with
    the common edition that moves it."""
    own = {(facts[g.edition].entry, facts[g.edition].locale) for g in going}
    moving = {
        facts[g.edition].entry: g.edition
        for g in going
        if g.stage == RELEASE and facts[g.edition].locale == COMMON and facts[g.edition].kind.parent
    }
    if not moving:
        return []
    return [
        (moving[row.entry], row.locale, row.slug)
        for row in gates.addresses(view.conn, set(moving), RELEASE)
        if (row.entry, row.locale) not in own and places.get(row.entry, (0, ""))[0] != row.parent
    ]
