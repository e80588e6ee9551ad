"""What differs between two contents, as data: drawing it is the business of whoever shows it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher

from hawthorn.core import fields, richtext
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.revision import Content

_WORD = re.compile(r"\s+|[\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af]|\w+|[^\w\s]")


@dataclass(frozen=True, slots=True)
class Run:
    """A stretch of words: "same", "gone" or "new"."""

    how: str
    text: str


@dataclass(frozen=True, slots=True)
class Part:
    """One leaf, or a whole plain field: "same", "changed", "gone", "new" or "moved", with its words."""

    how: str
    runs: tuple[Run, ...]
    tag: str = ""
    leaf: str = ""


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
    old, new = _WORD.findall(before), _WORD.findall(after)
    runs: list[Run] = []
    for op, a0, a1, b0, b1 in SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if op == "equal":
            runs.append(Run("same", "".join(old[a0:a1])))
            continue
        if a1 > a0:
            runs.append(Run("gone", "".join(old[a0:a1])))
        if b1 > b0:
            runs.append(Run("new", "".join(new[b0:b1])))
    return tuple(runs)


def compare(kind: ContentType, before: Content, after: Content) -> list[FieldDifference]:
    """Every field that differs, in the order of the type."""
    out: list[FieldDifference] = []
    for spec in kind.fields:
        old, new = before.fields.get(spec.name), after.fields.get(spec.name)
        if old == new:
            continue
        was, now = fields.readable(spec, old), fields.readable(spec, new)
        if fields.kind_of(spec).rich:
            parts = tuple(_compare_rich(before, after, spec.name))
        else:
            how = "changed" if was and now else ("new" if now else "gone")
            parts = (Part(how, words(was, now)),)
        out.append(FieldDifference(spec.name, spec.label, was, now, parts))
    return out


def _compare_rich(before: Content, after: Content, name: str) -> list[Part]:
    old = _by_id(before, name)
    new = _by_id(after, name)
    shared_old = [k for k in old if k in new]
    shared_new = [k for k in new if k in old]
    moved = _moved(shared_old, shared_new)
    parts: list[Part] = []
    for op, a0, a1, b0, b1 in SequenceMatcher(None, list(old), list(new), autojunk=False).get_opcodes():
        olds, news = list(old)[a0:a1], list(new)[b0:b1]
        if op != "equal":
            for key in olds:
                if key not in new:
                    leaf = old[key]
                    parts.append(Part("gone", (Run("gone", _plain(leaf)),), leaf.tag, key))
        for key in news:
            leaf = new[key]
            if key not in old:
                parts.append(Part("new", (Run("new", _plain(leaf)),), leaf.tag, key))
                continue
            runs = words(_plain(old[key]), _plain(leaf))
            how = "moved" if key in moved else ("same" if old[key] == leaf else "changed")
            parts.append(Part(how, runs, leaf.tag, key))
    return parts


def _plain(leaf: richtext.Leaf) -> str:
    return richtext.plain(leaf.inner) or f"[{leaf.tag}]"


def _by_id(content: Content, name: str) -> dict[str, richtext.Leaf]:
    spine = content.spines.get(name, ())
    return {
        v.id: leaf for v, leaf in zip(spine, richtext.leaves(content.fields.get(name) or ""), strict=True)
    }


def _moved(old: Sequence[str], new: Sequence[str]) -> set[str]:
    kept: set[str] = set()
    for block in SequenceMatcher(None, old, new, autojunk=False).get_matching_blocks():
        kept.update(new[block.b : block.b + block.size])
    return set(new) - kept
