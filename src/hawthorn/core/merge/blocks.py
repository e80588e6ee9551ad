"""Merging plain values, groups and blocks: a flat map of where each stands and what it holds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from hawthorn.core import slots
from hawthorn.core.fields import Field, is_many, kind_of
from hawthorn.core.merge.conflicts import UNSETTLED, Conflict, met, one_sided, why
from hawthorn.core.merge.sides import Side
from hawthorn.core.merge.texts import Texts
from hawthorn.core.messages import Message, said
from hawthorn.core.order import merge_order
from hawthorn.core.wordmerge import Piece, merge_words


class Blocks(Texts):
    """A merge that knows all there is."""

    def _value(self, path: str) -> Any:
        """Merge one plain place; the value is also kept by its path."""
        slot = next(s.known[path] for s in (self.theirs, self.ours, self.base) if path in s.known)
        b: Any = UNSETTLED if path in self.unsettled else self.base.values.get(path)
        o, t = self.ours.values.get(path), self.theirs.values.get(path)
        side = one_sided(b, o, t)
        how = kind_of(slot.spec).merges_as
        if side:
            value, source = (o, self.ours) if side == "ours" else (t, self.theirs)
            if b != value and o != t:
                self.taken[side][slot.top] = None
            if path in source.content.paragraph_ids:
                self.paragraph_ids[path] = source.content.paragraph_ids[path]
        elif how == "rich" and o and t:
            value = self._rich(path, slot)
        elif how == "set":
            value = merge_set([] if b is UNSETTLED else b or [], o or [], t or [])
        else:
            value = self._asked_value(path, slot, b, o, t)
        if value in (None, [], ""):
            self.paragraph_ids.pop(path, None)
            return None
        self.values[path] = value
        return value

    def _asked_value(self, path: str, slot: slots.Slot, b: Any, o: Any, t: Any) -> Any:
        spec = slot.spec
        pieces: tuple[Piece, ...] = ()
        reason = why(o, t)
        if is_many(spec) and b is not UNSETTLED:
            value, ordered = merge_order(b or [], o or [], t or [])
            if ordered:
                return value
            reason = "ordered differently"
        elif kind_of(spec).merges_as in ("words", "scalar") and all(isinstance(x, str) for x in (b, o, t)):
            text, pieces = merge_words(b, o, t)
            if text is not None and kind_of(spec).merges_as == "words":
                return text
        shown = None if b is UNSETTLED else b
        settled, value = self._ask(
            Conflict(path, reason, shown, o, t, label=slot.label, kind=spec.kind, pieces=pieces)
        )
        if settled:
            return self._fitting(spec, value)
        if path in self.theirs.content.paragraph_ids:
            self.paragraph_ids[path] = self.theirs.content.paragraph_ids[path]
        return value

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
                    if path in side.content.paragraph_ids:
                        self.paragraph_ids[path] = side.content.paragraph_ids[path]
        ordered = self._ordered(top, homes)
        return slots.build(
            spec,
            ordered,
            {key.split(":")[1]: kind for key, kind in kinds.items()},
            {p: v for p, v in self.values.items() if p.split(":")[0] == top},
        )

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

    def _fight(self, key: str, name: str, side: Side, keep: dict[str, str]) -> None:
        """A block that one side changed and the other removed, with all that lies in it."""
        shown = [s.shown(key) for s in (self.base, self.ours, self.theirs)]
        settled, _ = self._ask(
            met(key, "changed and removed", shown, label=side.blocks[key].label, kind="block")
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

    def _touched(self, side: Side, other: Side, key: str) -> bool:
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
        side = one_sided(*kinds)
        if side:
            return (kinds[1] if side == "ours" else kinds[2]) or ""
        label = self.theirs.blocks[key].label
        return str(self._ask(met(f"{key}:@kind", "both changed it", kinds, label=label, kind="choice"))[1])

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
            side = one_sided(b, o, t)
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
                    met(
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
        homes = [self._home_label(home) for home in (b, o, t)]
        settled, value = self._ask(
            met(f"{key}:@home", "moved to different places", homes, label=label, kind="line")
        )
        return o if settled and value == homes[1] else t

    def _home_label(self, home: str | None) -> Message:
        above = self._parent(home or "")
        side = next((s for s in self._sides() if above in s.blocks), None)
        if side is None:
            return said("merge.at_the_top")
        return said("merge.within", block=side.blocks[above].label, id=above.split(":")[1])

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
            cycle = self._cycle(key, homes, above)
            if not cycle:
                continue
            first = min(cycle)
            if self._disputed(top):
                self._put_back(cycle, self.theirs, homes, above)
                continue
            values = [None, said("merge.as_typed"), said("merge.as_saved")]
            label = ", ".join(sorted({self.theirs.blocks[k].label for k in cycle if k in self.theirs.blocks}))
            settled, value = self._ask(
                met(f"{first}:@home", "moved into each other", values, label=label, kind="line")
            )
            side = self.ours if settled and value == values[1] else self.theirs
            self._put_back(cycle, side, homes, above)

    def _put_back(
        self, cycle: Sequence[str], side: Side, homes: dict[str, str], above: dict[str, str]
    ) -> None:
        for one in cycle:
            if one in side.blocks:
                homes[one] = side.blocks[one].home
                above.setdefault(homes[one], self._parent(homes[one]))

    def _disputed(self, top: str) -> bool:
        """Whether it is asked which blocks stay or where they stand: what follows from that is not asked as well."""
        torn = {"changed and removed", "moved to different places", "moved into each other"}
        return any(
            c.why in torn
            and c.field.split(":")[0] == top
            and (c.kind == "block" or c.field.endswith("@home"))
            for c in self.conflicts
        )

    @staticmethod
    def _cycle(key: str, homes: Mapping[str, str], above: Mapping[str, str]) -> list[str]:
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
                    met(place, "ordered differently", labels, label=self._label_of(top), kind="line")
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


def merge_set(base: Sequence[Any], ours: Sequence[Any], theirs: Sequence[Any]) -> list[Any]:
    """What either side added is in, what either side removed is out; sorted, so that sides do not matter."""
    keep = [x for x in {*base, *ours, *theirs} if (x in ours and x in theirs) or x not in base]
    return sorted(keep)
