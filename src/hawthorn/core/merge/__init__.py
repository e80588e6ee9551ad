"""Three-way merge: base, ours and theirs in; one content and a list of conflicts out.

Three callers use it: two people who save at once, a strand that is merged, and translated work that
returns. Conflicts are values, never markers in text; where there is one, the merged content holds what
theirs has (the side that stands there already), so that it can be shown but nobody takes it for settled.
The result does not depend on which side is called ours, but for those places and for the naming.

A content merges as its slots (`core.slots`): plain values by their kind, rich text by paragraph and then by word,
blocks as a flat map of where each stands and what it holds.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from hawthorn.core import picking, revision, slots
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.fields import Field, kind_of
from hawthorn.core.merge.blocks import Blocks
from hawthorn.core.merge.claims import claims
from hawthorn.core.merge.conflicts import UNSETTLED, Conflict, Merged, Settlement
from hawthorn.core.revision import EMPTY, Content

__all__ = [
    "UNSETTLED",
    "Conflict",
    "Merged",
    "Pick",
    "Settlement",
    "common_base",
    "merge",
    "merge_revisions",
    "picked_base",
    "settle",
]


def merge(kind: ContentType, base: Content, ours: Content, theirs: Content) -> Merged:
    """Merge two contents that came from one base."""
    return _merge(kind, base, ours, theirs, frozenset(), {})


def merge_revisions(
    kind: ContentType,
    parents: revision.Parents,
    content: Callable[[int], Content],
    ours: int,
    theirs: int,
    picks: Iterable[Pick] = (),
) -> Merged:
    """Merge two revisions, finding the base in the graph; several bases are merged to a virtual one first.

    What theirs picked from the line of ours came from there: at those places the revision that it was picked from is the base.
    """
    base, unsettled = common_base(kind, parents, content, ours, theirs)
    base = picked_base(kind, content, base, picks)
    return _merge(kind, base, content(ours), content(theirs), unsettled, {})


Pick = tuple[int, tuple[str, ...]]
"""A revision that places were picked from, and the places."""


def picked_base(
    kind: ContentType, content: Callable[[int], Content], base: Content, picks: Iterable[Pick]
) -> Content:
    """A base with what was picked, the oldest first."""
    for source, paths in picks:
        base = picking.pick(kind, base, content(source), paths)
    return base


def common_base(
    kind: ContentType,
    parents: revision.Parents,
    content: Callable[[int], Content],
    ours: int,
    theirs: int,
) -> tuple[Content, frozenset[str]]:
    """The content that two revisions came from, and the places in it that stay unsettled."""
    bases = revision.merge_bases(parents, ours, theirs)
    if not bases:
        return EMPTY, frozenset()
    virtual, unsettled, tip = content(bases[0]), frozenset[str](), bases[0]
    for other in bases[1:]:
        under, deeper = common_base(kind, parents, content, tip, other)
        merged = _merge(kind, under, virtual, content(other), deeper, {})
        virtual = merged.content
        unsettled |= frozenset(c.place for c in merged.conflicts)
        tip = other
    return virtual, unsettled


def settle(merged: Merged, settlements: Mapping[str, Settlement]) -> tuple[Content, list[str]]:
    """Put decisions into a merge; returns the content and the places that are still open.

    Raises `Invalid` for a value of somebody's own that its field cannot take.
    """
    done = merged.again(settlements) if merged.again and settlements else merged
    return done.content, list(done.still_open)


def _merge(
    kind: ContentType,
    base: Content,
    ours: Content,
    theirs: Content,
    unsettled: frozenset[str],
    decisions: Mapping[str, Settlement],
) -> Merged:
    return _Run(kind, base, ours, theirs, unsettled, decisions).merged()


class _Run(Blocks):
    """Walks every place once, takes what one side alone changed, and asks about the rest."""

    def merged(self) -> Merged:
        fields: dict[str, Any] = {}
        for spec in sorted(
            (*self.kind.fields, *(Field(n, "json", n) for n in self.lost)), key=lambda f: f.name
        ):
            value = self._parts(spec) if kind_of(spec).parts else self._value(spec.name)
            if value not in (None, [], {}):
                fields[spec.name] = value
        sides = (self.base.content, self.ours.content, self.theirs.content)
        made = revision.snapshot(self.kind, fields, self._with_lost(fields))
        return Merged(
            claims(self.kind, made, *sides),
            tuple(self.conflicts),
            tuple(self.taken["ours"]),
            tuple(self.taken["theirs"]),
            tuple(self.still_open),
            lambda decisions: _merge(self.kind, *sides, self.unsettled, decisions),
        )

    def _with_lost(self, fields: Mapping[str, Any]) -> Content:
        """What came of it, with the ids and the claims of fields that the type has no more, from the side that each is from."""
        ids, claims = dict(self.paragraph_ids), dict[str, Any]()
        for name in self.lost:
            sides = (self.theirs.content, self.ours.content, self.base.content)
            whence = next((one for one in sides if one.fields.get(name) == fields.get(name)), None)
            if whence is not None:
                ids |= {k: v for k, v in whence.paragraph_ids.items() if slots.top(k) == name}
                claims |= {k: v for k, v in whence.unit_map.items() if slots.top(k) == name}
        return Content(fields, ids, claims)
