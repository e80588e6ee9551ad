"""What only some gates look at, beside what `facts` gathers for all of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from hawthorn.core import fields, moves, richtext, slots
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.messages import Message, said
from hawthorn.core.revision import Content, together
from hawthorn.core.translation import units
from hawthorn.operations.release.items import EditionFacts, ReleaseItem
from hawthorn.operations.runtime import as_now
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries as store
from hawthorn.store import gates, standings
from hawthorn.store.standings import RELEASE


class Checked:
    """What only some gates ask: looked up for all that go, but only if a workflow here asks it."""

    def __init__(
        self,
        view: View,
        going: Sequence[ReleaseItem],
        facts: Mapping[int, EditionFacts],
        referred: Mapping[int, set[str]],
        instant: int,
    ) -> None:
        self.view, self.facts, self.referred = view, facts, referred
        asking = [s.gate for w in view.setup.workflows.values() for s in w.stages]
        self.asked = {name for gate in asking for name in gate.checks}
        self.custom = any(gate.custom for gate in asking)
        self.going = {(facts[g.edition].entry, facts[g.edition].locale): g for g in going}
        ids = [g.edition for g in going]
        self.asks_end = "end" in self.asked or any(self.must_end(g) for g in going)
        self.ending = gates.moved_after(view.conn, ids, moves.LEAVING, instant) if self.asks_end else set()
        every = set[str]().union(*referred.values())
        self.there = store.there(view.conn, every) if "links" in self.asked else set()

    def broken(self, g: ReleaseItem) -> tuple[tuple[str, str], ...]:
        """The entries that a text refers to and that are not there any more, with the field's label."""
        lost = self.referred[g.edition] - self.there if "links" in self.asked else set()
        if not lost:
            return ()
        f = self.facts[g.edition]
        return tuple(
            (uuid, slot.label)
            for slot in slots.filled(f.kind.fields, f.values)
            for uuid in sorted(fields.references(slot.spec, slot.value) & lost)
        )

    def too_long(self, g: ReleaseItem) -> tuple[tuple[str, Message], ...]:
        """Texts that are longer than their fields allow by now."""
        if "length" not in self.asked:
            return ()
        f = self.facts[g.edition]
        out = []
        for slot in slots.filled(f.kind.fields, f.values):
            spec, value = slot.spec, slot.value
            if spec.limit and isinstance(value, str):
                size = len(richtext.text_of(value)) if fields.kind_of(spec).rich else len(value)
                if size > spec.limit:
                    out.append(
                        (
                            slot.path,
                            said("unmet.too_long", label=slot.label, count=size, most=spec.limit),
                        )
                    )
        return tuple(out)

    def ends(self, g: ReleaseItem) -> bool:
        """Whether an edition that goes out has an end; shared fields go with what does."""
        f = self.facts[g.edition]
        return not self.asks_end or f.locale == COMMON or g.edition in self.ending

    def must_end(self, g: ReleaseItem) -> bool:
        """Whether the policy of its type asks for an end of what goes out."""
        f = self.facts[g.edition]
        return f.kind.policy.needs_end and f.locale != COMMON and g.stage == RELEASE

    def behind(self, g: ReleaseItem) -> tuple[str, int]:
        """For a translation: its source's locale, and how many parts are missing or behind what goes or stands of it."""
        f = self.facts[g.edition]
        if "translated" not in self.asked or f.locale in (COMMON, f.source_locale):
            return "", 0
        source = self._revision_of(f, f.source_locale, g.stage)
        if source is None:
            return "", 0
        theirs, mine = (as_now.content(self.view.conn, f.kind, one) for one in (source, g.revision))
        lost = len(units.gone(f.kind, theirs, mine))
        return f.source_locale, lost + len(units.needing(f.kind, theirs, mine, f.locale))

    def _revision_of(self, f: EditionFacts, locale: str, stage: int) -> int | None:
        """The revision of another edition of the entry that goes along, else stands there, else is drafted."""
        along = self.going.get((f.entry, locale))
        if along is not None:
            return along.revision
        other = store.edition(self.view.conn, f.entry, locale)
        if other is None:
            return None
        stand = standings.now_at(self.view.conn, [other.id]).get(other.id, {})
        found = stand.get(stage) or stand.get(RELEASE)
        head: int | None = other.head
        return found.revision if found else head

    def values(self, g: ReleaseItem) -> Mapping[str, Any]:
        """An edition's values with the shared ones, for a team's custom checks."""
        if not self.custom:
            return {}
        f = self.facts[g.edition]
        mine = Content(f.values)
        if f.locale == COMMON:
            return together(f.kind, mine, self._held(f, f.source_locale, g.stage))
        return together(f.kind, self._held(f, COMMON, g.stage), mine)

    def _held(self, f: EditionFacts, locale: str, stage: int) -> Content:
        """What another edition of the entry holds; nothing where there is none."""
        revision = self._revision_of(f, locale, stage)
        return as_now.content(self.view.conn, f.kind, revision) if revision else Content({})
