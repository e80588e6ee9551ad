"""Three-way merge: base, ours and theirs in; one content and a list of conflicts out.

Three callers use it: two people who save at once, a strand that is brought in, and translated work that
comes home. Conflicts are values, never markers in text; where there is one, the merged content holds what
theirs has (the side that stands there already), so that it can be shown but nobody takes it for settled.
The result does not depend on which side is called ours, but for those places and for the naming.

A content merges as its slots (`core.slots`): plain values by their kind, rich text by leaf and then by word,
blocks as a flat map of where each stands and what it holds.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from hawthorn.core import moved, picking, revision, richtext, slots
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import Invalid
from hawthorn.core.fields import Field, Wrong, canonical_value, is_many, kind_of, problem
from hawthorn.core.order import merge_order
from hawthorn.core.revision import EMPTY, Content
from hawthorn.core.richtext import Leaf, Spine
from hawthorn.core.slots import Block
from hawthorn.core.wordmerge import Piece, merge_words


@dataclass(frozen=True, slots=True)
class Settlement:
    """How a person settled one conflict: "ours", "theirs", "both", or "own" with a `value` of their own."""

    take: str
    value: Any = None


@dataclass(frozen=True, slots=True)
class Conflict:
    """Two sides changed one place. `leaf` is set when the place is a leaf of a rich text.

    `field` is the path of the slot or block. `why`: "both changed it", "changed and removed", "ordered differently",
    "moved to different places", "moved into each other". `pieces` say word by word what is contested.
    """

    field: str
    why: str
    base: Any
    ours: Any
    theirs: Any
    leaf: str = ""
    label: str = ""
    kind: str = ""
    pieces: tuple[Piece, ...] = ()

    @property
    def place(self) -> str:
        """A name for the place, unique within a merge: a path, or path and leaf."""
        return f"{self.field}.{self.leaf}" if self.leaf else self.field


def _met(place: str, why: str, sides: Sequence[Any], *, label: str, kind: str) -> Conflict:
    base, ours, theirs = sides
    return Conflict(place, why, base, ours, theirs, label=label, kind=kind)


@dataclass(frozen=True, slots=True)
class Merged:
    """A merged content, what met in it, what is still open, and the fields taken from each side alone."""

    content: Content
    conflicts: tuple[Conflict, ...] = ()
    from_ours: tuple[str, ...] = ()
    from_theirs: tuple[str, ...] = ()
    still_open: tuple[str, ...] = ()
    again: Callable[[Mapping[str, Settlement]], Merged] | None = field(
        default=None, compare=False, repr=False
    )


class _Unsettled:
    """Stands in a virtual base for what its own merge could not settle: nothing equals it."""

    def __repr__(self) -> str:
        return "UNSETTLED"


UNSETTLED = _Unsettled()


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


class _Side:
    """One content as slots and blocks."""

    def __init__(self, kind: ContentType, content: Content, lost: Iterable[str]) -> None:
        self.content = content
        self.values: dict[str, Any] = {}
        self.within: dict[str, dict[str, Any]] = {}
        self.known: dict[str, slots.Slot] = {}
        self.blocks: dict[str, Block] = {}
        self.below: dict[str, list[str]] = {}
        specs = (*kind.fields, *(Field(name, "json", name) for name in lost))
        for slot in slots.walk(specs, content.fields):
            self.known[slot.path] = slot
            if slot.value is not None:
                self.values[slot.path] = slot.value
                if slot.block:
                    self.within.setdefault(slot.block, {})[slot.path] = slot.value
        for spec in kind.fields:
            if kind_of(spec).parts and content.fields.get(spec.name):
                for id, block in slots.blocks(spec, content.fields[spec.name]).items():
                    self.blocks[f"{spec.name}:{id}"] = block
        for key, block in self.blocks.items():
            if block.parent:
                self.below.setdefault(f"{key.split(':')[0]}:{block.parent}", []).append(key)

    def holds(self, key: str) -> dict[str, Any]:
        """What a block holds by itself."""
        return self.within.get(key.split(":")[1], {})

    def shown(self, key: str) -> Any:
        """A block as a person may be shown it: its kind, its values, and what lies in it."""
        if key not in self.blocks:
            return None
        members = {path.split(":", 2)[2]: value for path, value in self.holds(key).items()}
        inner = [self.shown(child) for child in self.below.get(key, ())]
        return {"kind": self.blocks[key].kind, "fields": members, **({"blocks": inner} if inner else {})}


class _Run:
    """One merge: walks every place once, takes what one side alone changed, and asks about the rest."""

    def __init__(
        self,
        kind: ContentType,
        base: Content,
        ours: Content,
        theirs: Content,
        unsettled: frozenset[str],
        decisions: Mapping[str, Settlement],
    ) -> None:
        self.kind, self.unsettled, self.decisions = kind, unsettled, decisions
        names = {*base.fields, *ours.fields, *theirs.fields}
        self.lost = sorted(names - {f.name for f in kind.fields})
        self.base, self.ours, self.theirs = (_Side(kind, c, self.lost) for c in (base, ours, theirs))
        # The block around each list that holds any; base first, so that the sides have the last word.
        self.above = {
            b.home: f"{key.split(':')[0]}:{b.parent}"
            for s in reversed(self._sides())
            for key, b in s.blocks.items()
            if b.parent
        }
        self.values: dict[str, Any] = {}
        self.spines: dict[str, Spine] = {}
        self.conflicts: list[Conflict] = []
        self.still_open: list[str] = []
        self.taken: dict[str, dict[str, None]] = {"ours": {}, "theirs": {}}

    def merged(self) -> Merged:
        fields: dict[str, Any] = {}
        for spec in sorted(
            (*self.kind.fields, *(Field(n, "json", n) for n in self.lost)), key=lambda f: f.name
        ):
            value = self._parts(spec) if kind_of(spec).parts else self._value(spec.name)
            if value not in (None, [], {}):
                fields[spec.name] = value
        sides = (self.base.content, self.ours.content, self.theirs.content)
        made = revision.snapshot(self.kind, fields, Content(fields, self.spines))
        return Merged(
            _claims(self.kind, made, *sides),
            tuple(self.conflicts),
            tuple(self.taken["ours"]),
            tuple(self.taken["theirs"]),
            tuple(self.still_open),
            lambda decisions: _merge(self.kind, *sides, self.unsettled, decisions),
        )

    def _ask(self, conflict: Conflict) -> tuple[bool, Any]:
        """Note a conflict; whether it is decided, and what stands there."""
        self.conflicts.append(conflict)
        decision = self.decisions.get(conflict.place)
        if decision is None:
            self.still_open.append(conflict.place)
            return False, conflict.theirs
        return True, _decided(conflict, decision)

    def _value(self, path: str) -> Any:
        """Merge one plain place; the value is also kept by its path."""
        slot = next(s.known[path] for s in (self.theirs, self.ours, self.base) if path in s.known)
        b: Any = UNSETTLED if path in self.unsettled else self.base.values.get(path)
        o, t = self.ours.values.get(path), self.theirs.values.get(path)
        side = _one_sided(b, o, t)
        how = kind_of(slot.spec).merges_as
        if side:
            value, source = (o, self.ours) if side == "ours" else (t, self.theirs)
            if b != value and o != t:
                self.taken[side][slot.top] = None
            if path in source.content.spines:
                self.spines[path] = source.content.spines[path]
        elif how == "rich" and o and t:
            value = self._rich(path, slot)
        elif how == "set":
            value = _merge_set([] if b is UNSETTLED else b or [], o or [], t or [])
        else:
            value = self._asked_value(path, slot, b, o, t)
        if value in (None, [], ""):
            self.spines.pop(path, None)
            return None
        self.values[path] = value
        return value

    def _asked_value(self, path: str, slot: slots.Slot, b: Any, o: Any, t: Any) -> Any:
        spec = slot.spec
        pieces: tuple[Piece, ...] = ()
        why = _why(o, t)
        if is_many(spec) and b is not UNSETTLED:
            value, ordered = merge_order(b or [], o or [], t or [])
            if ordered:
                return value
            why = "ordered differently"
        elif kind_of(spec).merges_as in ("words", "scalar") and all(isinstance(x, str) for x in (b, o, t)):
            text, pieces = merge_words(b, o, t)
            if text is not None and kind_of(spec).merges_as == "words":
                return text
        shown = None if b is UNSETTLED else b
        settled, value = self._ask(
            Conflict(path, why, shown, o, t, label=slot.label, kind=spec.kind, pieces=pieces)
        )
        if settled:
            return self._fitting(spec, value)
        if path in self.theirs.content.spines:
            self.spines[path] = self.theirs.content.spines[path]
        return value

    def _fitting(self, spec: Field, value: Any) -> Any:
        try:
            return canonical_value(spec, value)
        except Wrong as wrong:
            raise Invalid([problem(spec, wrong)]) from None

    # -- rich text -------------------------------------------------------------------------------------------

    def _rich(self, path: str, slot: slots.Slot) -> Any:
        b, o, t = (_rich(side.content, path, side.values) for side in (self.base, self.ours, self.theirs))
        if path in self.unsettled:
            b = _Rich()
        chosen: dict[str, list[Leaf]] = {}
        gone: set[str] = set()
        found: list[tuple[Conflict, str]] = []
        for key in {*b.order, *o.order, *t.order}:
            leaf, conflict = self._leaf(path, slot, key, b, o, t)
            if conflict is not None:
                found.append((conflict, key))
            if leaf is None:
                gone.add(key)
            else:
                chosen[key] = [leaf]
        together, found = self._together(path, slot, (b, o, t), found)
        apart = set().union(*(group for group, _ in together))
        for key in apart:
            chosen.pop(key, None)
        lists = [[k for k in side.order if k not in apart] for side in (b, o, t)]
        order, ordered = merge_order(*lists, keep=set(chosen), drop=gone - apart)
        for group, _ in together:
            order = self._stand(group, t, chosen, order)
        at = {key: n for n, key in enumerate(order)}
        found.sort(key=lambda pair: (at[pair[1]] if pair[1] in chosen else -1, pair[0].place))
        if not self._sound((b, o, t), together, found, chosen, order):
            return self._whole(path, slot)
        if not ordered:
            whole, text = self._reordered(path, slot)
            if whole:
                return text
        for group, conflict in together:
            settled, value = self._ask(conflict)
            if settled:
                order = self._settle_together(group, str(value or ""), (b, o, t), chosen, order)
        for conflict, key in found:
            settled, value = self._ask(conflict)
            if settled:
                chosen[key] = richtext.leaves(richtext.canonical(str(value or "")))
        return self._rejoin(path, chosen, order)

    def _leaf(
        self, path: str, slot: slots.Slot, key: str, b: _Rich, o: _Rich, t: _Rich
    ) -> tuple[Leaf | None, Conflict | None]:
        """One paragraph by itself: what stands there, and the conflict when both sides did something else with it."""
        bl: Any = UNSETTLED if f"{path}.{key}" in self.unsettled else b.leaves.get(key)
        ol, tl = o.leaves.get(key), t.leaves.get(key)
        side = _one_sided(bl, ol, tl)
        if side:
            return (ol if side == "ours" else tl), None
        pieces: tuple[Piece, ...] = ()
        if isinstance(bl, Leaf) and ol and tl:
            leaf, pieces = _merge_leaf(bl, ol, tl)
            if leaf:
                return leaf, None
        shown = [x if x is None else _html(x) for x in (b.leaves.get(key), ol, tl)]
        conflict = _met(path, _why(ol, tl), shown, label=slot.label, kind="rich")
        return tl or ol, replace(conflict, leaf=key, pieces=pieces)

    def _together(
        self,
        path: str,
        slot: slots.Slot,
        sides: tuple[_Rich, _Rich, _Rich],
        found: list[tuple[Conflict, str]],
    ) -> tuple[list[tuple[set[str], Conflict]], list[tuple[Conflict, str]]]:
        """Paragraphs between which words moved and that cannot be merged one by one: each group is one conflict, in the stead
        of those of its paragraphs."""
        b, o, t = sides
        if b.leaves == o.leaves or b.leaves == t.leaves or o.leaves == t.leaves:
            return [], found
        ours, theirs = moved.links(b.leaves, o.leaves), moved.links(b.leaves, t.leaves)
        out: list[tuple[set[str], Conflict]] = []
        for group in moved.groups(ours, theirs):
            open_there = [pair for pair in found if pair[1] in group]
            if not open_there and not moved.contested(group, ours, theirs, b.leaves, o.leaves, t.leaves):
                continue
            found = [pair for pair in found if pair[1] not in group]
            shown = [richtext.join(s.leaves[k] for k in s.order if k in group) or None for s in sides]
            conflict = _met(path, "both changed it", shown, label=slot.label, kind="rich")
            out.append((group, replace(conflict, leaf=min(group))))
        return sorted(out, key=lambda pair: pair[1].leaf), found

    @staticmethod
    def _stand(
        group: set[str], side: _Rich, chosen: dict[str, list[Leaf]], order: Sequence[str]
    ) -> list[str]:
        """Let a group of paragraphs stand as one side has it, each after what it follows there; returns the order."""
        for key in group:
            chosen.pop(key, None)
        stay = {k for k in order if k not in group}
        # By what each follows that stays; what several of the group follow keeps their order.
        following: dict[str, list[str]] = {}
        before = ""
        for key in side.order:
            if key in group:
                following.setdefault(before, []).append(key)
                chosen[key] = [side.leaves[key]]
            elif key in stay:
                before = key
        out = following.get("", [])
        for key in order:
            if key in stay:
                out += [key, *following.get(key, ())]
        return out

    def _settle_together(
        self,
        group: set[str],
        value: str,
        sides: tuple[_Rich, _Rich, _Rich],
        chosen: dict[str, list[Leaf]],
        order: list[str],
    ) -> list[str]:
        """Put a decision about a group of paragraphs in; returns the order with what then stands of it."""
        wanted = richtext.leaves(richtext.canonical(value))
        _, ours, theirs = sides
        for side in (theirs, ours):
            if [side.leaves[k] for k in side.order if k in group] == wanted:
                return self._stand(group, side, chosen, order)
        shown = theirs if any(k in group for k in theirs.order) else ours
        order = self._stand(group, shown, chosen, order)
        first, *others = [k for k in order if k in group] or [min(group)]
        for key in others:
            chosen.pop(key)
        chosen[first] = wanted
        return [k for k in order if k not in others]

    def _sound(
        self,
        sides: tuple[_Rich, _Rich, _Rich],
        together: Sequence[tuple[set[str], Conflict]],
        found: Sequence[tuple[Conflict, str]],
        chosen: Mapping[str, list[Leaf]],
        order: list[str],
    ) -> bool:
        """Whether no word would stand too often or be lost, whichever side's words are taken where both met."""
        if any(sides[0].leaves == s.leaves for s in sides[1:]) or sides[1].leaves == sides[2].leaves:
            return True
        base, ours, theirs = (moved.counted(side.leaves.values()) for side in sides)
        for side in sides[1:]:
            stands, at = dict(chosen), list(order)
            for group, _ in together:
                at = self._stand(group, side, stands, at)
            for _, key in found:
                stands.pop(key, None)
                if key in side.leaves:
                    stands[key] = [side.leaves[key]]
            made = moved.counted(leaf for some in stands.values() for leaf in some)
            if not moved.conserved(base, ours, theirs, made, exact=not together and not found):
                return False
        return True

    def _whole(self, path: str, slot: slots.Slot) -> Any:
        """Ask about a text as a whole, as its parts cannot be told apart."""
        values = [side.values.get(path) for side in (self.base, self.ours, self.theirs)]
        _, value = self._ask(_met(path, "both changed it", values, label=slot.label, kind="rich"))
        for side in (self.theirs, self.ours):
            if value == side.values.get(path) and path in side.content.spines:
                self.spines[path] = side.content.spines[path]
                return value
        kept = str(self._fitting(slot.spec, value) or "")
        old = richtext.leaves(str(values[2] or ""))
        self.spines[path] = richtext.align(
            richtext.leaves(kept), old, self.theirs.content.spines.get(path, ())
        )
        return kept

    def _reordered(self, path: str, slot: slots.Slot) -> tuple[bool, Any]:
        """Ask about paragraphs that both sides ordered anew. Theirs may stand with all other edits in it; any other decision
        is one for the text as a whole: whether it is, and that text."""
        values = [side.values.get(path) for side in (self.base, self.ours, self.theirs)]
        settled, value = self._ask(_met(path, "ordered differently", values, label=slot.label, kind="rich"))
        if not settled or self.decisions[path].take == "theirs":
            return False, None
        if value == self.ours.values.get(path):
            self.spines[path] = self.ours.content.spines[path]
        return True, self._fitting(slot.spec, value)

    def _rejoin(self, path: str, chosen: Mapping[str, list[Leaf]], order: Sequence[str]) -> str:
        named: list[tuple[str, Leaf]] = []
        taken = set(order)
        for key in order:
            for index, leaf in enumerate(chosen[key]):
                # The first keeps the name; what stands beside it needs one that nothing else has.
                name = key if index == 0 else richtext.new_name(key, leaf.hash, taken)
                taken.add(name)
                named.append((name, leaf))
        text, self.spines[path] = richtext.rejoin(named)
        return text

    # -- blocks ----------------------------------------------------------------------------------------------

    def _parts(self, spec: Field) -> Any:
        """Merge a group or blocks: which blocks stay, where each stands, in what order, and what they hold."""
        top = spec.name
        keep = self._kept(top)
        kinds = {key: self._kind(key) for key in keep}
        homes = self._homes(spec, keep, kinds)
        for path in self._paths(top):
            block = next(s.known[path].block for s in self._sides() if path in s.known)
            key = f"{top}:{block}"
            if not block or keep.get(key) == "both":
                self._value(path)
            elif key in keep:
                side = self.ours if keep[key] == "ours" else self.theirs
                if path in side.values:
                    self.values[path] = side.values[path]
                    if path in side.content.spines:
                        self.spines[path] = side.content.spines[path]
        ordered = self._ordered(top, homes)
        return slots.build(
            spec,
            ordered,
            {key.split(":")[1]: kind for key, kind in kinds.items()},
            {p: v for p, v in self.values.items() if p.split(":")[0] == top},
        )

    def _sides(self) -> tuple[_Side, _Side, _Side]:
        return self.theirs, self.ours, self.base

    def _paths(self, top: str) -> list[str]:
        return list(dict.fromkeys(p for s in self._sides() for p in s.known if p.split(":")[0] == top))

    def _kept(self, top: str) -> dict[str, str]:
        """The blocks that stay, each with the sides that have it: "both", "ours" or "theirs"."""
        keys = dict.fromkeys(k for s in self._sides() for k in s.blocks if k.split(":")[0] == top)
        keep: dict[str, str] = {}
        fought: dict[str, str] = {}
        for key in keys:
            o, t = key in self.ours.blocks, key in self.theirs.blocks
            if o and t:
                keep[key] = "both"
            elif o or t:
                side, other, name = (
                    (self.ours, self.theirs, "ours") if o else (self.theirs, self.ours, "theirs")
                )
                if key not in self.base.blocks:
                    keep[key] = name
                elif self._touched(side, other, key):
                    fought[key] = name
        for key, name in fought.items():
            side = self.ours if name == "ours" else self.theirs
            above = side.blocks[key].parent
            if f"{top}:{above}" not in fought:
                self._fight(key, name, side, keep)
        return keep

    def _fight(self, key: str, name: str, side: _Side, keep: dict[str, str]) -> None:
        """A block that one side changed and the other removed, with all that lies in it."""
        shown = [s.shown(key) for s in (self.base, self.ours, self.theirs)]
        settled, _ = self._ask(
            _met(key, "changed and removed", shown, label=side.blocks[key].label, kind="block")
        )
        take = self.decisions[key].take if settled else "theirs"
        stays = take in (name, "both", "own")
        waiting = [key]
        while waiting:
            one = waiting.pop()
            if keep.get(one) != "both":
                keep.pop(one, None)
                if stays:
                    keep[one] = name
            waiting += [k for k in side.below.get(one, ()) if keep.get(k) != "both"]

    def _touched(self, side: _Side, other: _Side, key: str) -> bool:
        """Whether a side changed a block that the other removed, or anything that went with it."""
        was = self.base.blocks.get(key)
        if was is None or side.holds(key) != self.base.holds(key) or side.blocks[key].kind != was.kind:
            return True
        had = set(self.base.below.get(key, ()))
        return any(
            child not in had or (child not in other.blocks and self._touched(side, other, child))
            for child in side.below.get(key, ())
        )

    def _kind(self, key: str) -> str:
        kinds = [s.blocks[key].kind if key in s.blocks else None for s in (self.base, self.ours, self.theirs)]
        if kinds[1] is None or kinds[2] is None:
            return kinds[1] or kinds[2] or ""
        side = _one_sided(*kinds)
        if side:
            return (kinds[1] if side == "ours" else kinds[2]) or ""
        label = self.theirs.blocks[key].label
        return str(self._ask(_met(f"{key}:@kind", "both changed it", kinds, label=label, kind="choice"))[1])

    def _homes(self, spec: Field, keep: Mapping[str, str], kinds: dict[str, str]) -> dict[str, str]:
        """The list in which each block stands: one that there is, and that takes its kind."""
        top = spec.name
        homes: dict[str, str] = {}
        for key in keep:
            b, o, t = (
                s.blocks[key].home if key in s.blocks else None for s in (self.base, self.ours, self.theirs)
            )
            if o is None or t is None:
                homes[key] = o or t or top
                continue
            side = _one_sided(b, o, t)
            homes[key] = (o if side == "ours" else t) if side else self._asked_home(key, b, o, t)
        self._ground(top, homes)
        if self._allow(spec, homes, kinds):
            self._ground(top, homes)
            self._allow(spec, homes, kinds)
        return homes

    def _allow(self, spec: Field, homes: dict[str, str], kinds: dict[str, str]) -> bool:
        """Put blocks that stand where their kind is not taken at a place of their own that takes it; whether any was put.

        It comes of one side moving a block and the other making it, or what it lay in, another kind: a person is asked.
        """
        put = False
        known = {kind for kind, _ in slots.forms(spec)}
        for key in sorted(homes):
            named = {k.split(":")[1]: kind for k, kind in kinds.items()}
            if kinds[key] not in known or kinds[key] in slots.takes(spec, homes[key], named):
                # What is of a kind that the type has no more stays where it is.
                continue
            put = True
            sides = [s.blocks.get(key) for s in (self.base, self.ours, self.theirs)]
            said = [self._home_label(s.home) if s else None for s in sides]
            if not self._disputed(spec.name):
                settled, value = self._ask(
                    _met(
                        f"{key}:@home",
                        "moved to different places",
                        said,
                        label=next(s.label for s in reversed(sides) if s),
                        kind="line",
                    )
                )
                if settled and value == said[1] != said[2]:
                    sides = [sides[0], sides[2], sides[1]]
            for side in reversed(sides):
                if side is None or (self._parent(side.home) and self._parent(side.home) not in homes):
                    continue
                if side.kind in slots.takes(spec, side.home, named):
                    homes[key], kinds[key] = side.home, side.kind
                    break
            else:
                lists = (
                    home
                    for home in sorted(set(homes.values()) | {spec.name})
                    if kinds[key] in slots.takes(spec, home, named)
                )
                homes[key] = next(lists, homes[key])
        return put

    def _asked_home(self, key: str, b: str | None, o: str, t: str) -> str:
        label = self.theirs.blocks[key].label
        said = [self._home_label(home) for home in (b, o, t)]
        settled, value = self._ask(
            _met(f"{key}:@home", "moved to different places", said, label=label, kind="line")
        )
        return o if settled and value == said[1] else t

    def _home_label(self, home: str | None) -> str:
        above = self._parent(home or "")
        side = next((s for s in self._sides() if above in s.blocks), None)
        return f"in {side.blocks[above].label} ({above.split(':')[1]})" if side else "at the top"

    def _parent(self, home: str) -> str:
        return self.above.get(home, "")

    def _ground(self, top: str, homes: dict[str, str]) -> None:
        """Bring back to their other place blocks whose place is gone, and those that moved into each other."""
        above = {home: self._parent(home) for home in set(homes.values())}
        for key in sorted(homes):
            parent = above[homes[key]]
            if parent and parent not in homes:
                other = self.theirs.blocks.get(key) or self.ours.blocks.get(key)
                home = other.home if other else top
                homes[key] = home if above.setdefault(home, self._parent(home)) in ("", *homes) else top
                above.setdefault(top, "")
        for key in sorted(homes):
            circle = self._circle(key, homes, above)
            if not circle:
                continue
            first = min(circle)
            if self._disputed(top):
                self._put_back(circle, self.theirs, homes, above)
                continue
            values = [None, "as typed", "as saved meanwhile"]
            label = " and ".join(
                sorted({self.theirs.blocks[k].label for k in circle if k in self.theirs.blocks})
            )
            settled, value = self._ask(
                _met(f"{first}:@home", "moved into each other", values, label=label, kind="line")
            )
            side = self.ours if settled and value == values[1] else self.theirs
            self._put_back(circle, side, homes, above)

    def _put_back(
        self, circle: Sequence[str], side: _Side, homes: dict[str, str], above: dict[str, str]
    ) -> None:
        for one in circle:
            if one in side.blocks:
                homes[one] = side.blocks[one].home
                above.setdefault(homes[one], self._parent(homes[one]))

    def _disputed(self, top: str) -> bool:
        """Whether it is asked which blocks stay or where they stand: what follows from that is not asked as well."""
        why = {"changed and removed", "moved to different places", "moved into each other"}
        return any(
            c.why in why and c.field.split(":")[0] == top and (c.kind == "block" or c.field.endswith("@home"))
            for c in self.conflicts
        )

    @staticmethod
    def _circle(key: str, homes: Mapping[str, str], above: Mapping[str, str]) -> list[str]:
        walked: list[str] = []
        at = key
        while at and at not in walked:
            walked.append(at)
            at = above.get(homes.get(at, ""), "")
        return walked[walked.index(at) :] if at else []

    def _ordered(self, top: str, homes: Mapping[str, str]) -> dict[str, list[str]]:
        out: dict[str, list[str]] = {}
        disputed = self._disputed(top)
        for home in sorted(set(homes.values())):
            mine = {key for key, at in homes.items() if at == home}
            lists = [
                [k for k, b in s.blocks.items() if b.home == home and k.split(":")[0] == top]
                for s in (self.base, self.ours, self.theirs)
            ]
            astray = sorted(mine - {*lists[1], *lists[2]})
            order, ordered = merge_order(*lists, keep=mine - set(astray))
            if not ordered and not disputed:
                place = f"{home}:@order"
                labels = [", ".join(self._named(k) for k in side if k in mine) for side in lists]
                settled, value = self._ask(
                    _met(place, "ordered differently", labels, label=self._label_of(top), kind="line")
                )
                if settled and value == labels[1]:
                    order, _ = merge_order(lists[1], lists[1], lists[2], keep=mine - set(astray))
                    order = [*[k for k in lists[1] if k in mine], *[k for k in order if k not in lists[1]]]
            out[home] = [key.split(":")[1] for key in (*order, *astray)]
        return out

    def _label_of(self, top: str) -> str:
        spec = self.kind.field(top)
        return spec.label if spec else top

    def _named(self, key: str) -> str:
        side = next(s for s in self._sides() if key in s.blocks)
        return f"{side.blocks[key].label} {key.split(':')[1]}"


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


_Claim = tuple[tuple[str, str], ...]


def _claims(kind: ContentType, made: Content, base: Content, ours: Content, theirs: Content) -> Content:
    """The merged content with the claims of the side that each text came from.

    Where a text came from both, what is known of both is kept: it counts as current only if both say so (`units.needing`).
    What one of them says nothing of has none.
    """
    if not ours.unit_map and not theirs.unit_map:
        return replace(made, unit_map={})
    o, t = revision.texts(kind, ours), revision.texts(kind, theirs)
    out: dict[str, _Claim] = {}
    for key, text in revision.texts(kind, made).items():
        was, mine, their = (c.unit_map.get(key) for c in (base, ours, theirs))
        from_ours, from_theirs = text == o.get(key), text == t.get(key)
        if from_ours and from_theirs:
            side = _one_sided(was, mine, their)
            claim = their if side == "theirs" else mine if side else _of_both(mine, their)
        elif from_ours or from_theirs:
            claim = mine if from_ours else their
        else:
            # Joined by words.
            claim = _of_both(mine, their)
        if claim is not None:
            out[key] = claim
    return replace(made, unit_map=out)


def _of_both(mine: _Claim | None, their: _Claim | None) -> _Claim | None:
    """What two sides say together of which source a text follows, in an order of its own, so that sides do not matter."""
    return None if mine is None or their is None else tuple(sorted({*mine, *their}))


@dataclass(slots=True)
class _Rich:
    leaves: dict[str, Leaf] = field(default_factory=dict)
    order: list[str] = field(default_factory=list)


def _rich(content: Content, path: str, values: Mapping[str, Any]) -> _Rich:
    spine = content.spines.get(path, ())
    parts = richtext.leaves(values.get(path) or "")
    return _Rich({v.id: leaf for v, leaf in zip(spine, parts, strict=True)}, [v.id for v in spine])


def _merge_leaf(base: Leaf, ours: Leaf, theirs: Leaf) -> tuple[Leaf | None, tuple[Piece, ...]]:
    """A leaf that both sides changed: its shape from whoever changed it, its words together where they do not touch."""
    shape: list[Any] = []
    for b, o, t in (
        (base.path, ours.path, theirs.path),
        (base.tag, ours.tag, theirs.tag),
        (base.src, ours.src, theirs.src),
    ):
        side = _one_sided(b, o, t)
        if not side:
            return None, ()
        shape.append(o if side == "ours" else t)
    side = _one_sided(base.inner, ours.inner, theirs.inner)
    if side:
        inner: str | None = ours.inner if side == "ours" else theirs.inner
        pieces: tuple[Piece, ...] = ()
    else:
        inner, pieces = merge_words(base.inner, ours.inner, theirs.inner, markup=True)
    if inner is None or (not inner and shape[1] not in ("figure", "hr")):
        return None, pieces
    made = Leaf(shape[0], shape[1], inner, shape[2])
    return (made, ()) if richtext.leaves(richtext.join([made])) == [made] else (None, pieces)


def _html(leaf: Leaf) -> str:
    return richtext.join([leaf])


def _decided(conflict: Conflict, decision: Settlement) -> Any:
    if decision.take == "ours":
        return conflict.ours
    if decision.take == "theirs":
        return conflict.theirs
    if decision.take == "both":
        ours, theirs = conflict.ours, conflict.theirs
        if isinstance(ours, list) and isinstance(theirs, list):
            return [*theirs, *(x for x in ours if x not in theirs)]
        if not all(isinstance(x, str) for x in (ours, theirs) if x is not None):
            return theirs if theirs is not None else ours
        parts = [x for x in (theirs, ours) if x]
        joined = "" if any(str(p).startswith("<") for p in parts) else " "
        return joined.join(str(p) for p in parts)
    return decision.value
