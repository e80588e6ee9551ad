"""Revisions: immutable snapshots of an edition's fields, and the graph that they form."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Mapping
from dataclasses import field, replace
from typing import Any

from hawthorn.core import aligning, compact, richtext, slots, tables
from hawthorn.core.contenttypes import ContentType, former
from hawthorn.core.fields import Field, kind_of
from hawthorn.core.quick import dataclass
from hawthorn.core.richtext import Paragraph, ParagraphId, ParagraphIds

Fields = Mapping[str, Any]
ParagraphIdsByPath = Mapping[str, ParagraphIds]
UnitMap = Mapping[str, tuple[tuple[str, str], ...]]
Parents = Callable[[int], Iterable[int]]


@dataclass(frozen=True, slots=True)
class Content:
    """What a revision holds: values, the paragraph ids of each rich text, and where translated parts came from.

    `unit_map` says, by the key of each translated text (its path, and for a paragraph its id after a full stop), the key
    and hash of the source that it was made from. It is a claim about exactly the text that stands there. `id` is the revision's, 0
    for what is not written yet.
    """

    fields: Fields
    paragraph_ids: ParagraphIdsByPath = field(default_factory=dict)
    unit_map: UnitMap = field(default_factory=dict)
    id: int = field(default=0, compare=False)


EMPTY = Content({}, id=-1)
"""What no revision says anything of: older than all."""


def together(kind: ContentType, common: Content, own: Content) -> dict[str, Any]:
    """The values of an edition and of the common one, each field from where it belongs. What a field that is another by now held is found
    where it lived when those two were written, and brought into what it is now."""
    out: dict[str, Any] = {}
    for spec in kind.fields:
        here, other = (common, own) if spec.shared else (own, common)
        if spec.name in kind.marks:
            here = home(kind, spec, here, other)
            value = former.kept(_then(kind, spec, here), spec, here.fields.get(spec.name))
        else:
            value = here.fields.get(spec.name)
        if value is not None:
            out[spec.name] = value
    return out


def _then(kind: ContentType, spec: Field, content: Content) -> Field:
    return former.then(kind.marks[spec.name], spec, content.id)


def home(kind: ContentType, spec: Field, here: Content, other: Content) -> Content:
    """Which of two editions says what a field holds that is another by now: the one in which it lived, newest first, that was written since
    then, or in which it began."""
    shared = spec.shared
    for mark in reversed(kind.marks[spec.name]):
        if here.id == 0 or here.id > mark.revision:
            break
        if mark.field.shared != shared:
            here, other, shared = other, here, mark.field.shared
    return here


def as_then(kind: ContentType, content: Content) -> ContentType:
    """The type with its fields as they were when a content was written."""
    if content.id <= 0 or content.id > kind.marked:
        return kind
    fields = (_then(kind, one, content) if one.name in kind.marks else one for one in kind.fields)
    return replace(kind, fields=tuple(fields))


def brought(kind: ContentType, content: Content) -> Content:
    """Content with what its fields hold as these are now, wherever they live."""
    if content.id <= 0 or content.id > kind.marked:
        return content
    known = {spec.name: spec for spec in kind.fields if spec.name in kind.marks}
    values = {
        name: former.kept(_then(kind, known[name], content), known[name], value) if name in known else value
        for name, value in content.fields.items()
    }
    filled = {name: value for name, value in values.items() if value is not None}
    if filled == content.fields:
        return content
    return snapshot(kind, filled, content)


def taking(content: Content, name: str, whence: Content) -> Content:
    """Content with what another holds in a field, the ids of its paragraphs too; without it where that is nothing."""
    fields = {k: v for k, v in content.fields.items() if k != name}
    ids = {k: v for k, v in content.paragraph_ids.items() if slots.top(k) != name}
    if whence.fields.get(name) is not None:
        fields[name] = whence.fields[name]
        ids |= {k: v for k, v in whence.paragraph_ids.items() if slots.top(k) == name}
    return replace(content, fields=fields, paragraph_ids=ids)


def content_hash(edition: int, type_version: int, fields: Fields) -> str:
    """What a sign-off approves, as a hash: the edition, its values and the version of its type."""
    return hashlib.sha256(b"[%d,%d,%b]" % (edition, type_version, compact.sorted_bytes(fields))).hexdigest()


def snapshot(kind: ContentType, fields: Fields, base: Content = EMPTY) -> Content:
    """Content for typed values, with the paragraph ids carried on from the base."""
    paragraph_ids: dict[str, ParagraphIds] = {}
    before = {s.path: s.value for s in slots.filled(kind.fields, base.fields)} if base.paragraph_ids else {}
    alive: set[str] = set()
    for slot in slots.filled(kind.fields, fields):
        alive.add(slot.path)
        if not kind_of(slot.spec).rich:
            continue
        if before.get(slot.path) == slot.value and slot.path in base.paragraph_ids:
            paragraph_ids[slot.path] = base.paragraph_ids[slot.path]
        else:
            ids = base.paragraph_ids.get(slot.path, ())
            old = richtext.paragraphs(before.get(slot.path) or "") if ids else []
            paragraph_ids[slot.path] = aligning.align(richtext.paragraphs(slot.value), old, ids)
    alive |= {f"{path}.{v.id}" for path, ids in paragraph_ids.items() for v in ids}
    gone = left_over(kind, fields)
    if gone:
        # What a type has no more is kept, and all that is known of it, for when it is taken up again.
        same = {name for name in gone if base.fields.get(name) == fields[name]}
        paragraph_ids |= {path: ids for path, ids in base.paragraph_ids.items() if slots.top(path) in same}
        alive |= {_paragraph_of(key) for key in base.unit_map if slots.top(key) in same}
    unit_map = {key: value for key, value in base.unit_map.items() if _paragraph_of(key) in alive}
    return Content(dict(fields), paragraph_ids, unit_map)


def left_over(kind: ContentType, fields: Iterable[str]) -> set[str]:
    """Those of the fields that hold something that a type has no more."""
    return {name for name in fields if kind.field(name) is None}


def paragraphs_of(content: Content, path: str, value: str | None) -> dict[str, Paragraph]:
    """The paragraphs of a text by their ids, in order: those that it was written with, else those that its words give."""
    paragraphs = richtext.paragraphs(value or "")
    if not paragraphs:
        return {}
    ids = content.paragraph_ids.get(path) or aligning.align(paragraphs, [], ())
    return {v.id: paragraph for v, paragraph in zip(ids, paragraphs, strict=True)}


def _paragraph_of(key: str) -> str:
    """The key of the paragraph that a text is, or lies in as a cell of its row."""
    return ".".join(key.split(".", 2)[:2])


def paragraph_ids_to_json(paragraph_ids: ParagraphIdsByPath) -> str:
    """The stored form of paragraph ids."""
    return compact.names({k: [[v.id, v.hash] for v in s] for k, s in paragraph_ids.items()})


def paragraph_ids_from_json(text: str) -> ParagraphIdsByPath:
    """Paragraph ids from their stored form."""
    return {k: tuple(ParagraphId(i, h) for i, h in s) for k, s in compact.read(text).items()}


def unit_map_from_json(text: str) -> UnitMap:
    """A unit map from its stored form. Keys of paragraphs were once stored without their path, which their source has too."""
    return {_whole_key(k, v): tuple((a, b) for a, b in v) for k, v in compact.read(text).items()}


def _whole_key(key: str, claims: list[list[str]]) -> str:
    source = claims[0][0] if claims else ""
    return source if "." not in key and source.endswith(f".{key}") else key


def texts(kind: ContentType, content: Content) -> dict[str, str]:
    """What stands at each place that can hold words: plain text by its path, a paragraph's inner HTML by path and id."""
    out: dict[str, str] = {}
    for slot in slots.filled(kind.fields, content.fields):
        if not isinstance(slot.value, str) or not slot.value:
            continue
        if kind_of(slot.spec).rich:
            paragraphs = richtext.paragraphs(slot.value)
            ids = content.paragraph_ids.get(slot.path, ())
            named = tables.divided((v.id, paragraph) for v, paragraph in zip(ids, paragraphs, strict=True))
            out |= {f"{slot.path}.{name}": paragraph.inner for name, paragraph in named.items()}
        else:
            out[slot.path] = slot.value
    return out


def ancestors(parents: Parents, *tips: int, oldest: int = 0) -> set[int]:
    """Every revision from which the tips came, the tips included, as far back as an id."""
    seen: set[int] = set()
    waiting = list(tips)
    while waiting:
        one = waiting.pop()
        if one not in seen and one >= oldest:
            seen.add(one)
            waiting.extend(parents(one))
    return seen


def descends(parents: Parents, younger: int, older: int) -> bool:
    """Whether `older` is `younger` or one of its ancestors. Ids grow, so nothing below `older` is walked."""
    if younger <= older:
        return younger == older
    seen: set[int] = set()
    waiting = [younger]
    while waiting:
        one = waiting.pop()
        if one == older:
            return True
        if one > older and one not in seen:
            seen.add(one)
            waiting.extend(parents(one))
    return False


def merge_bases(parents: Parents, ours: int, theirs: int) -> list[int]:
    """The youngest common ancestors: those that are no other common ancestor's ancestor. Several when
    lines criss-cross; none when they share nothing. Walks from the youngest down, ids being in order of age.
    """
    if ours == theirs:
        return [ours]
    marks: dict[int, int] = {}
    waiting = {ours: 1}
    waiting[theirs] = waiting.get(theirs, 0) | 2
    bases: list[int] = []
    while waiting and any(mark != 7 for mark in waiting.values()):
        one = max(waiting)
        mark = marks[one] = waiting.pop(one)
        if mark == 3:
            bases.append(one)
            mark = 7
        for parent in parents(one):
            waiting[parent] = waiting.get(parent, 0) | mark
    return sorted(bases)
