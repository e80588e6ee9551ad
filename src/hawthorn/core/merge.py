"""Three-way merge: base, ours and theirs in; one content and a list of conflicts out.

Three callers use it: two people who save at once, a strand that is brought in, and translated work that
comes home. Conflicts are values, never markers in text; where there is one, the merged content holds what
theirs has (the side that stands there already), so that it can be shown but nobody takes it for settled.
The result does not depend on which side is called ours, but for those places and for the naming.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from hawthorn.core import revision, richtext
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.fields import is_many, kind_of
from hawthorn.core.revision import EMPTY, Content
from hawthorn.core.richtext import Leaf, Spine, Vertebra


@dataclass(frozen=True, slots=True)
class Conflict:
    """Two sides changed one place. `leaf` is set when the place is a leaf of a rich text.

    `why`: "both changed it", "changed and removed", "ordered differently".
    """

    field: str
    why: str
    base: Any
    ours: Any
    theirs: Any
    leaf: str = ""

    @property
    def place(self) -> str:
        """A name for the place, unique within a merge: a field, or field and leaf."""
        return f"{self.field}.{self.leaf}" if self.leaf else self.field


@dataclass(frozen=True, slots=True)
class Merged:
    """A merged content, what is unsettled in it, and which fields were taken from each side alone."""

    content: Content
    conflicts: tuple[Conflict, ...] = ()
    from_ours: tuple[str, ...] = ()
    from_theirs: tuple[str, ...] = ()


class _Unsettled:
    """Stands in a virtual base for what its own merge could not settle: nothing equals it."""

    def __repr__(self) -> str:
        return "UNSETTLED"


UNSETTLED = _Unsettled()


def merge(kind: ContentType, base: Content, ours: Content, theirs: Content) -> Merged:
    """Merge two contents that came from one base."""
    return _merge(kind, base, ours, theirs, frozenset())


def merge_revisions(
    kind: ContentType,
    parents: revision.Parents,
    content: Callable[[int], Content],
    ours: int,
    theirs: int,
) -> Merged:
    """Merge two revisions, finding the base in the graph; several bases are merged to a virtual one first."""
    base, unsettled = _base(kind, parents, content, ours, theirs)
    return _merge(kind, base, content(ours), content(theirs), unsettled)


def _base(
    kind: ContentType,
    parents: revision.Parents,
    content: Callable[[int], Content],
    ours: int,
    theirs: int,
) -> tuple[Content, frozenset[str]]:
    bases = revision.merge_bases(parents, ours, theirs)
    if not bases:
        return EMPTY, frozenset()
    virtual, unsettled, tip = content(bases[0]), frozenset[str](), bases[0]
    for other in bases[1:]:
        under, deeper = _base(kind, parents, content, tip, other)
        merged = _merge(kind, under, virtual, content(other), deeper)
        virtual = merged.content
        unsettled |= frozenset(c.place for c in merged.conflicts)
        tip = other
    return virtual, unsettled


def _merge(
    kind: ContentType, base: Content, ours: Content, theirs: Content, unsettled: frozenset[str]
) -> Merged:
    fields: dict[str, Any] = {}
    spines: dict[str, Spine] = {}
    conflicts: list[Conflict] = []
    taken: dict[str, list[str]] = {"ours": [], "theirs": []}
    names = sorted({*base.fields, *ours.fields, *theirs.fields})
    for name in names:
        spec = kind.field(name)
        b: Any = UNSETTLED if name in unsettled else base.fields.get(name)
        o, t = ours.fields.get(name), theirs.fields.get(name)
        side = _one_sided(b, o, t)
        if side:
            value, source = (o, ours) if side == "ours" else (t, theirs)
            if b != value and o != t:
                taken[side].append(name)
            if name in source.spines:
                spines[name] = source.spines[name]
        elif spec is not None and kind_of(spec).rich and o and t:
            value, spine, found = _merge_rich(name, base, ours, theirs, unsettled)
            conflicts += found
            spines[name] = spine
        elif spec is not None and kind_of(spec).merges_as == "set":
            value = _merge_set([] if b is UNSETTLED else b or [], o or [], t or [])
        elif spec is not None and is_many(spec) and b is not UNSETTLED:
            value, ordered = merge_order(b or [], o or [], t or [])
            if not ordered:
                conflicts.append(Conflict(name, "ordered differently", b, o, t))
                value = t
        else:
            conflicts.append(Conflict(name, _why(o, t), None if b is UNSETTLED else b, o, t))
            value = t
            if name in theirs.spines:
                spines[name] = theirs.spines[name]
        if value not in (None, []):
            fields[name] = value
    spines = {name: spine for name, spine in spines.items() if name in fields}
    return Merged(
        Content(fields, spines, _merge_unit_maps(base, ours, theirs)),
        tuple(conflicts),
        tuple(taken["ours"]),
        tuple(taken["theirs"]),
    )


def _one_sided(base: Any, ours: Any, theirs: Any) -> str:
    if ours == theirs or base == ours:
        return "theirs"
    return "ours" if base == theirs else ""


def _why(ours: Any, theirs: Any) -> str:
    return "changed and removed" if ours is None or theirs is None else "both changed it"


def _merge_set(base: Sequence[Any], ours: Sequence[Any], theirs: Sequence[Any]) -> list[Any]:
    """What either side added is in, what either side removed is out; sorted, so that sides do not matter."""
    keep = [x for x in {*base, *ours, *theirs} if (x in ours and x in theirs) or x not in base]
    return sorted(keep)


def _merge_unit_maps(base: Content, ours: Content, theirs: Content) -> dict[str, tuple[tuple[str, str], ...]]:
    out: dict[str, tuple[tuple[str, str], ...]] = {}
    for key in sorted({*ours.unit_map, *theirs.unit_map}):
        b, o, t = (m.unit_map.get(key) for m in (base, ours, theirs))
        value = t if o == t or b == o else o
        if b not in (o, t) and o is not None and t is not None:
            # Both were brought up to different sources: the older claim is the safe one, and min names it.
            value = min(o, t)
        if value is not None:
            out[key] = value
    return out


@dataclass(slots=True)
class _Rich:
    leaves: dict[str, Leaf] = field(default_factory=dict)
    order: list[str] = field(default_factory=list)


def _rich(content: Content, name: str) -> _Rich:
    spine = content.spines.get(name, ())
    parts = richtext.leaves(content.fields.get(name) or "")
    return _Rich({v.id: leaf for v, leaf in zip(spine, parts, strict=True)}, [v.id for v in spine])


def _merge_rich(
    name: str, base: Content, ours: Content, theirs: Content, unsettled: frozenset[str]
) -> tuple[str, Spine, list[Conflict]]:
    b, o, t = (_rich(content, name) for content in (base, ours, theirs))
    if name in unsettled:
        b = _Rich()
    conflicts: list[Conflict] = []
    chosen: dict[str, Leaf] = {}
    gone: set[str] = set()
    for key in {*b.order, *o.order, *t.order}:
        bl: Any = UNSETTLED if f"{name}.{key}" in unsettled else b.leaves.get(key)
        ol, tl = o.leaves.get(key), t.leaves.get(key)
        side = _one_sided(bl, ol, tl)
        leaf = ol if side == "ours" else tl
        if not side:
            shown = [x if x is None else _html(x) for x in (b.leaves.get(key), ol, tl)]
            conflicts.append(Conflict(name, _why(ol, tl), shown[0], shown[1], shown[2], key))
            leaf = tl or ol
        if leaf is None:
            gone.add(key)
        else:
            chosen[key] = leaf
    order, ordered = merge_order(b.order, o.order, t.order, keep=set(chosen), drop=gone)
    if not ordered:
        conflicts.append(
            Conflict(
                name,
                "ordered differently",
                base.fields.get(name),
                ours.fields.get(name),
                theirs.fields.get(name),
            )
        )
    conflicts.sort(key=lambda c: (order.index(c.leaf) if c.leaf in chosen else -1, c.place))
    return _rejoin([chosen[k] for k in order], order, conflicts)


def _html(leaf: Leaf) -> str:
    return richtext.join([leaf])


def _rejoin(
    parts: list[Leaf], order: list[str], conflicts: list[Conflict]
) -> tuple[str, Spine, list[Conflict]]:
    text = richtext.join(parts)
    spine = tuple(Vertebra(i, leaf.hash) for i, leaf in zip(order, parts, strict=True))
    return text, spine, conflicts


def merge_order(
    base: Sequence[Any],
    ours: Sequence[Any],
    theirs: Sequence[Any],
    *,
    keep: set[Any] | None = None,
    drop: Iterable[Hashable] = (),
) -> tuple[list[Any], bool]:
    """Merge three orders of distinct things; False when both sides reordered differently.

    Without `keep`, a thing that either side removed is removed. Things inserted at one place by both sides
    stand as whole runs, the run with the smaller first id first: a tie is broken by id, never by side.
    """
    if keep is None:
        survivors = {x for x in {*ours, *theirs} if (x in ours and x in theirs) or x not in base}
    else:
        survivors = set(keep)
    survivors -= set(drop)
    both = {x for x in survivors if x in set(ours) and x in set(theirs)}
    mine, their, was = (
        [x for x in side if x in both] for side in (ours, theirs, [x for x in base if x in both])
    )
    known = set(was)
    mine_known, their_known = [x for x in mine if x in known], [x for x in their if x in known]
    ordered = True
    if mine_known == was == their_known:
        # The same insertion on both sides, perhaps at different places: neither side may decide.
        skeleton = min(mine, their, key=lambda side: [str(x) for x in side])
    elif mine == their or mine_known == was:
        skeleton = their
    elif their_known == was:
        skeleton = mine
    else:
        skeleton, ordered = their, False
    runs: dict[Any, list[list[Any]]] = {}
    for side in (ours, theirs):
        _collect_runs(side, survivors - both, both, runs)
    out: list[Any] = []
    for anchor in (None, *skeleton):
        if anchor is not None:
            out.append(anchor)
        for run in sorted(runs.get(anchor, ()), key=lambda r: str(r[0])):
            out += run
    return out, ordered


def _collect_runs(
    side: Sequence[Any], single: set[Any], both: set[Any], runs: dict[Any, list[list[Any]]]
) -> None:
    anchor: Any = None
    run: list[Any] = []
    for item in side:
        if item in both:
            if run:
                runs.setdefault(anchor, []).append(run)
                run = []
            anchor = item
        elif item in single:
            run.append(item)
    if run:
        runs.setdefault(anchor, []).append(run)


@dataclass(frozen=True, slots=True)
class Settlement:
    """How a person settled one conflict: "ours", "theirs", "both", or a `value` of their own."""

    take: str
    value: Any = None


def settle(
    kind: ContentType, merged: Merged, settlements: Mapping[str, Settlement]
) -> tuple[Content, list[str]]:
    """Put decisions into a merge; returns the content and the places that are still open."""
    fields = dict(merged.content.fields)
    spines = dict(merged.content.spines)
    still_open: list[str] = []
    for conflict in merged.conflicts:
        decision = settlements.get(conflict.place)
        if decision is None:
            still_open.append(conflict.place)
        elif conflict.leaf:
            _settle_leaf(fields, spines, conflict, decision)
        else:
            value = _decided(conflict, decision)
            if value in (None, []):
                fields.pop(conflict.field, None)
            else:
                fields[conflict.field] = value
    content = Content(fields, spines, merged.content.unit_map)
    return revision.snapshot(kind, fields, content), still_open


def _decided(conflict: Conflict, decision: Settlement) -> Any:
    if decision.take == "ours":
        return conflict.ours
    if decision.take == "theirs":
        return conflict.theirs
    if decision.take == "both":
        ours, theirs = conflict.ours, conflict.theirs
        if isinstance(ours, list) and isinstance(theirs, list):
            return [*theirs, *(x for x in ours if x not in theirs)]
        parts = [x for x in (theirs, ours) if x]
        joined = "" if any(str(p).startswith("<") for p in parts) else " "
        return joined.join(str(p) for p in parts)
    return decision.value


def _settle_leaf(
    fields: dict[str, Any], spines: dict[str, Spine], conflict: Conflict, decision: Settlement
) -> None:
    name = conflict.field
    parts = richtext.leaves(fields.get(name) or "")
    replacement = richtext.leaves(richtext.canonical(str(_decided(conflict, decision) or "")))
    out: list[Leaf] = []
    spine: list[Vertebra] = []
    taken = {v.id for v in spines.get(name, ())}
    for vertebra, leaf in zip(spines.get(name, ()), parts, strict=True):
        if vertebra.id != conflict.leaf:
            out.append(leaf)
            spine.append(vertebra)
            continue
        for index, new in enumerate(replacement):
            out.append(new)
            # The first keeps the name; what stands beside it needs one that nothing else has.
            name_of = vertebra.id if index == 0 else richtext.new_name(vertebra.id, new.hash, taken)
            taken.add(name_of)
            spine.append(Vertebra(name_of, new.hash))
    if out:
        fields[name], spines[name] = richtext.join(out), tuple(spine)
    else:
        fields.pop(name, None)
        spines.pop(name, None)
