"""Merging rich text: by paragraph, and then by word."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from typing import Any

from hawthorn.core import aligning, moved, richtext, slots
from hawthorn.core.merge.conflicts import UNSETTLED, Conflict, met, one_sided, why
from hawthorn.core.merge.sides import Run
from hawthorn.core.order import merge_order
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.core.richtext import Paragraph
from hawthorn.core.wordmerge import Piece, merge_words


class Texts(Run):
    """A merge that knows rich text."""

    def _rich(self, path: str, slot: slots.Slot) -> Any:
        b, o, t = (rich_of(side.content, path, side.values) for side in (self.base, self.ours, self.theirs))
        if path in self.unsettled:
            b = Rich()
        chosen: dict[str, list[Paragraph]] = {}
        gone: set[str] = set()
        found: list[tuple[Conflict, str]] = []
        for key in {*b.order, *o.order, *t.order}:
            paragraph, conflict = self._paragraph(path, slot, key, b, o, t)
            if conflict is not None:
                found.append((conflict, key))
            if paragraph is None:
                gone.add(key)
            else:
                chosen[key] = [paragraph]
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
                chosen[key] = richtext.paragraphs(richtext.canonical(str(value or "")))
        return self._rejoin(path, chosen, order)

    def _paragraph(
        self, path: str, slot: slots.Slot, key: str, b: Rich, o: Rich, t: Rich
    ) -> tuple[Paragraph | None, Conflict | None]:
        """One paragraph by itself: what stands there, and the conflict when both sides did something else with it."""
        bl: Any = UNSETTLED if f"{path}.{key}" in self.unsettled else b.paragraphs.get(key)
        ol, tl = o.paragraphs.get(key), t.paragraphs.get(key)
        side = one_sided(bl, ol, tl)
        if side:
            return (ol if side == "ours" else tl), None
        pieces: tuple[Piece, ...] = ()
        if isinstance(bl, Paragraph) and ol and tl:
            paragraph, pieces = merge_paragraph(bl, ol, tl)
            if paragraph:
                return paragraph, None
        shown = [x if x is None else html_of(x) for x in (b.paragraphs.get(key), ol, tl)]
        conflict = met(path, why(ol, tl), shown, label=slot.label, kind="rich")
        return tl or ol, replace(conflict, paragraph=key, pieces=pieces)

    def _together(
        self,
        path: str,
        slot: slots.Slot,
        sides: tuple[Rich, Rich, Rich],
        found: list[tuple[Conflict, str]],
    ) -> tuple[list[tuple[set[str], Conflict]], list[tuple[Conflict, str]]]:
        """Paragraphs between which words moved and that cannot be merged one by one: each group is one conflict, in the stead
        of those of its paragraphs."""
        b, o, t = sides
        if b.paragraphs == o.paragraphs or b.paragraphs == t.paragraphs or o.paragraphs == t.paragraphs:
            return [], found
        ours, theirs = moved.links(b.paragraphs, o.paragraphs), moved.links(b.paragraphs, t.paragraphs)
        out: list[tuple[set[str], Conflict]] = []
        for group in moved.groups(ours, theirs):
            open_there = [pair for pair in found if pair[1] in group]
            if not open_there and not moved.contested(
                group, ours, theirs, b.paragraphs, o.paragraphs, t.paragraphs
            ):
                continue
            found = [pair for pair in found if pair[1] not in group]
            shown = [richtext.join(s.paragraphs[k] for k in s.order if k in group) or None for s in sides]
            conflict = met(path, "both changed it", shown, label=slot.label, kind="rich")
            out.append((group, replace(conflict, paragraph=min(group))))
        return sorted(out, key=lambda pair: pair[1].paragraph), found

    @staticmethod
    def _stand(
        group: set[str], side: Rich, chosen: dict[str, list[Paragraph]], order: Sequence[str]
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
                chosen[key] = [side.paragraphs[key]]
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
        sides: tuple[Rich, Rich, Rich],
        chosen: dict[str, list[Paragraph]],
        order: list[str],
    ) -> list[str]:
        """Put a decision about a group of paragraphs in; returns the order with what then stands of it."""
        wanted = richtext.paragraphs(richtext.canonical(value))
        _, ours, theirs = sides
        for side in (theirs, ours):
            if [side.paragraphs[k] for k in side.order if k in group] == wanted:
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
        sides: tuple[Rich, Rich, Rich],
        together: Sequence[tuple[set[str], Conflict]],
        found: Sequence[tuple[Conflict, str]],
        chosen: Mapping[str, list[Paragraph]],
        order: list[str],
    ) -> bool:
        """Whether no word would stand too often or be lost, whichever side's words are taken where both met."""
        if (
            any(sides[0].paragraphs == s.paragraphs for s in sides[1:])
            or sides[1].paragraphs == sides[2].paragraphs
        ):
            return True
        base, ours, theirs = (moved.counted(side.paragraphs.values()) for side in sides)
        for side in sides[1:]:
            stands, at = dict(chosen), list(order)
            for group, _ in together:
                at = self._stand(group, side, stands, at)
            for _, key in found:
                stands.pop(key, None)
                if key in side.paragraphs:
                    stands[key] = [side.paragraphs[key]]
            made = moved.counted(paragraph for some in stands.values() for paragraph in some)
            if not moved.conserved(base, ours, theirs, made, exact=not together and not found):
                return False
        return True

    def _whole(self, path: str, slot: slots.Slot) -> Any:
        """Ask about a text as a whole, as its parts cannot be told apart."""
        values = [side.values.get(path) for side in (self.base, self.ours, self.theirs)]
        _, value = self._ask(met(path, "both changed it", values, label=slot.label, kind="rich"))
        for side in (self.theirs, self.ours):
            if value == side.values.get(path) and path in side.content.paragraph_ids:
                self.paragraph_ids[path] = side.content.paragraph_ids[path]
                return value
        kept = str(self._fitting(slot.spec, value) or "")
        old = richtext.paragraphs(str(values[2] or ""))
        self.paragraph_ids[path] = aligning.align(
            richtext.paragraphs(kept), old, self.theirs.content.paragraph_ids.get(path, ())
        )
        return kept

    def _reordered(self, path: str, slot: slots.Slot) -> tuple[bool, Any]:
        """Ask about paragraphs that both sides ordered anew. Theirs may stand with all other edits in it; any other decision
        is one for the text as a whole: whether it is, and that text."""
        values = [side.values.get(path) for side in (self.base, self.ours, self.theirs)]
        settled, value = self._ask(met(path, "ordered differently", values, label=slot.label, kind="rich"))
        if not settled or self.decisions[path].take == "theirs":
            return False, None
        if value == self.ours.values.get(path):
            self.paragraph_ids[path] = self.ours.content.paragraph_ids[path]
        return True, self._fitting(slot.spec, value)

    def _rejoin(self, path: str, chosen: Mapping[str, list[Paragraph]], order: Sequence[str]) -> str:
        named: list[tuple[str, Paragraph]] = []
        taken = set(order)
        for key in order:
            for index, paragraph in enumerate(chosen[key]):
                # The first keeps the name; what stands beside it needs one that nothing else has.
                name = key if index == 0 else aligning.new_name(key, paragraph.hash, taken)
                taken.add(name)
                named.append((name, paragraph))
        text, self.paragraph_ids[path] = aligning.rejoin(named)
        return text

    # -- blocks ----------------------------------------------------------------------------------------------


@dataclass(slots=True)
class Rich:
    paragraphs: dict[str, Paragraph] = field(default_factory=dict)
    order: list[str] = field(default_factory=list)


def rich_of(content: Content, path: str, values: Mapping[str, Any]) -> Rich:
    ids = content.paragraph_ids.get(path, ())
    parts = richtext.paragraphs(values.get(path) or "")
    return Rich({v.id: paragraph for v, paragraph in zip(ids, parts, strict=True)}, [v.id for v in ids])


def merge_paragraph(
    base: Paragraph, ours: Paragraph, theirs: Paragraph
) -> tuple[Paragraph | None, tuple[Piece, ...]]:
    """A paragraph that both sides changed: its shape from whoever changed it, its words together where they do not touch."""
    shape: list[Any] = []
    for b, o, t in (
        (base.path, ours.path, theirs.path),
        (base.tag, ours.tag, theirs.tag),
        (base.src, ours.src, theirs.src),
    ):
        side = one_sided(b, o, t)
        if not side:
            return None, ()
        shape.append(o if side == "ours" else t)
    side = one_sided(base.inner, ours.inner, theirs.inner)
    if side:
        inner: str | None = ours.inner if side == "ours" else theirs.inner
        pieces: tuple[Piece, ...] = ()
    else:
        inner, pieces = merge_words(base.inner, ours.inner, theirs.inner, markup=True)
    if inner is None or (not inner and shape[1] not in ("figure", "hr")):
        return None, pieces
    made = Paragraph(shape[0], shape[1], inner, shape[2])
    return (made, ()) if richtext.paragraphs(richtext.join([made])) == [made] else (None, pieces)


def html_of(paragraph: Paragraph) -> str:
    return richtext.join([paragraph])
