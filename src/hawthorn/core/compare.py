"""What differs between two contents, as data: drawing it is the business of whoever shows it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from hawthorn.core import fields, likeness, richtext, slots
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.fields import Field, Reading
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content, paragraphs_of
from hawthorn.core.wordmerge import alike, tokens


@dataclass(frozen=True, slots=True)
class Run:
    """A stretch of words: "same", "gone" or "new"; and whether an assistant wrote it and nobody has signed it off since."""

    how: str
    text: str
    assistant: bool = False


@dataclass(frozen=True, slots=True)
class Part:
    """One paragraph, or a whole plain value: "same", "changed", "gone", "new" or "moved", with its words.

    `label` names the place inside a group or block; a part with a label and the tag "block" tells of the block itself. `path` is where it stands in the
    values.
    """

    how: str
    runs: tuple[Run, ...]
    tag: str = ""
    paragraph: str = ""
    label: str = ""
    path: str = ""

    @property
    def place(self) -> str:
        """The key of its text among the places of `core.authorship`."""
        return f"{self.path}.{self.paragraph}" if self.paragraph else self.path


@dataclass(frozen=True, slots=True)
class FieldDifference:
    """One field on both sides and how it got from the one to the other."""

    field: str
    label: str
    before: str
    after: str
    parts: tuple[Part, ...]


def words(before: str, after: str) -> tuple[Run, ...]:
    """The words of two texts, marked; characters of Japanese and Chinese count as words."""
    old, new = tokens(before), tokens(after)
    runs: list[Run] = []
    i = j = 0
    for a, b, size in [*alike(old, new), (len(old), len(new), 0)]:
        for how, text in (("gone", old[i:a]), ("new", new[j:b]), ("same", old[a : a + size])):
            if text:
                runs.append(Run(how, "".join(text)))
        i, j = a + size, b + size
    return tuple(runs)


def compare(
    kind: ContentType, before: Content, after: Content, reading: Reading | None = None
) -> list[FieldDifference]:
    """Every field that differs, in the order of the type."""
    read = reading or Reading()
    out: list[FieldDifference] = []
    for spec in kind.fields:
        old, new = before.fields.get(spec.name), after.fields.get(spec.name)
        if old == new:
            continue
        if fields.kind_of(spec).parts:
            out.append(_compare_parts(spec, before, after, read))
            continue
        was, now = fields.readable(spec, old, read), fields.readable(spec, new, read)
        if fields.kind_of(spec).rich:
            parts = tuple(_compare_rich(before, after, spec.name, old, new))
        else:
            parts = (_compare_plain(was, now, spec.name),)
        out.append(FieldDifference(spec.name, spec.label, was, now, parts))
    return out


def _compare_plain(was: str, now: str, path: str, label: str = "") -> Part:
    how = "changed" if was and now else ("new" if now else "gone")
    return Part(how, words(was, now), label=label, path=path)


def _compare_parts(spec: Field, before: Content, after: Content, reading: Reading) -> FieldDifference:
    """A group or blocks: which blocks came, went and moved, and what changed inside each."""
    sides = [c.fields.get(spec.name) for c in (before, after)]
    old, new = ({s.path: s for s in slots.walk([spec], {spec.name: side})} for side in sides)
    was, now = (slots.blocks(spec, side) for side in sides)
    moved = _moved([k for k in was if k in now], [k for k in now if k in was])
    moved |= {k for k in now if k in was and was[k].home != now[k].home}
    parts: list[Part] = []
    for path, slot in new.items():
        if slot.block and slot.block in now:
            block = now.pop(slot.block)
            if block.id not in was:
                parts.append(Part("new", (Run("new", block.label),), "block", block.id))
            elif block.id in moved:
                parts.append(Part("moved", (Run("same", block.label),), "block", block.id))
        parts += _compare_slot(path, old.get(path), slot, before, after, reading)
    there = {s.block for s in new.values()}
    for path, slot in old.items():
        if slot.block and slot.block not in there and slot.block in was:
            parts.append(Part("gone", (Run("gone", was.pop(slot.block).label),), "block", slot.block))
        if path not in new:
            parts += _compare_slot(path, slot, None, before, after, reading)
    said = [
        "\n".join(fields.readable(s.spec, s.value, reading) for s in side.values() if s.value)
        for side in (old, new)
    ]
    return FieldDifference(spec.name, spec.label, said[0], said[1], tuple(parts))


def _compare_slot(
    path: str,
    old: slots.Slot | None,
    new: slots.Slot | None,
    before: Content,
    after: Content,
    reading: Reading,
) -> list[Part]:
    slot = new or old
    was, now = old.value if old else None, new.value if new else None
    if slot is None or was == now:
        return []
    if fields.kind_of(slot.spec).rich:
        found = _compare_rich(before, after, path, was, now)
        return [replace(p, label=slot.label) for p in found]
    return [
        _compare_plain(
            fields.readable(slot.spec, was, reading),
            fields.readable(slot.spec, now, reading),
            path,
            slot.label,
        )
    ]


def _compare_rich(before: Content, after: Content, path: str, was: str | None, now: str | None) -> list[Part]:
    old = paragraphs_of(before, path, was)
    new = paragraphs_of(after, path, now)
    shared_old = [k for k in old if k in new]
    shared_new = [k for k in new if k in old]
    moved = _moved(shared_old, shared_new)
    parts: list[Part] = []
    olds, news = list(old), list(new)
    i = j = 0
    for a, b, size in [*likeness.blocks(olds, news), (len(olds), len(news), 0)]:
        for key in olds[i:a]:
            if key not in new:
                parts.append(Part("gone", (Run("gone", _plain(old[key])),), old[key].tag, key, path=path))
        for key in news[j : b + size]:
            paragraph = new[key]
            if key not in old:
                parts.append(Part("new", (Run("new", _plain(paragraph)),), paragraph.tag, key, path=path))
                continue
            runs = words(_plain(old[key]), _plain(paragraph))
            how = "moved" if key in moved else ("same" if old[key] == paragraph else "changed")
            parts.append(Part(how, runs, paragraph.tag, key, path=path))
        i, j = a + size, b + size
    return parts


def _plain(paragraph: richtext.Paragraph) -> str:
    return richtext.plain(paragraph.inner) or f"[{paragraph.tag}]"


def _moved(old: Sequence[str], new: Sequence[str]) -> set[str]:
    kept: set[str] = set()
    for _, start, size in likeness.blocks(old, new):
        kept.update(new[start : start + size])
    return set(new) - kept
