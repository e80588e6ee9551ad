"""Translation units: the parts of an edition that are translated one by one, with their tags kept.

A unit is a plain place's text, one paragraph of a rich text or one cell of its tables. Its key is the path of the place
(`core.slots`), and for a paragraph its id, for a cell its number in the row as well, joined by full stops: an NMTOKEN, as XLIFF 2.1 (section 4.3.1.17) asks of a unit's id. What
may become of its tags is in `core.translation.tags`.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from functools import lru_cache
from typing import Any

from hawthorn.core import aligning, fields, richtext, slots, tables
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.fields import Field
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content, left_over, paragraphs_of
from hawthorn.core.richtext import Paragraph
from hawthorn.core.translation.segmentation import boundaries
from hawthorn.core.translation.tags import Markup, Part, Parts, Tag, tokens, words_of

STATES = ("initial", "translated", "reviewed", "final")


@dataclass(frozen=True, slots=True)
class Segment:
    """One sentence of a unit; `ignorable` is the white space between two of them. What is translated at our table says who did it
    (by handle), when (RFC 3339), and what they remarked. `origin` is "memory" or "machine" where nobody has looked at a target yet that came out
    of one."""

    id: str
    source: Parts
    target: Parts | None = None
    ignorable: bool = False
    state: str = "initial"
    remark: str = ""
    by: str = ""
    at: str = ""
    origin: str = ""


@dataclass(frozen=True, slots=True)
class Unit:
    """One unit: its key, its segments, and the markup behind each tag number."""

    key: str
    segments: tuple[Segment, ...]
    tags: Markup
    hash: str
    rich: bool = False
    label: str = ""
    notes: tuple[str, ...] = ()
    """What translators noted on it."""
    beside: str = ""
    """What other programs put beside its sentences, as XML: it goes out again as it came."""
    limit: int | None = None
    """So many characters its target may have."""
    confidential: bool = False
    """Whether its type marks it as confidential: a machine is never asked about it."""
    then: tuple[str, str] | None = None
    """What the source said when it was translated last, and how that was translated, where it was."""

    @property
    def text(self) -> str:
        """The source words without tags."""
        return words_of(p for s in self.segments for p in s.source)

    @property
    def words(self) -> int:
        """How many words it has; characters where the language writes none apart."""
        return count_words(self.text)


def count_words(text: str) -> int:
    """Words as bureaus count them: runs of letters, and each character of Japanese and Chinese."""
    return len(
        re.findall(r"[\u3040-\u30ff\u3400-\u9fff]|[^\W\u3040-\u30ff\u3400-\u9fff]+(?:['’-]\w+)*", text)
    )


def hash_of(text: str) -> str:
    """What a unit's source is known by: sixteen hexadecimal digits."""
    return _hash_of_short(text) if len(text) < _SHORT else _digest(text)


def _digest(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()[:16]


_SHORT = 1_000
_hash_of_short = lru_cache(maxsize=4096)(_digest)
"""An act asks for those of one text several times: of its units, its claims, and what covers what."""


def kept_hash(text: str, rich: bool) -> str:
    """The hash of a target text as it is kept: a paragraph's is made canonical first."""
    if not rich or not text:
        return hash_of(text)
    return hash_of(richtext.inner(text))


def units_of(kind: ContentType, content: Content, locale: str, *, split: bool = True) -> list[Unit]:
    """The units of an edition, in the order of its type's fields; nothing without words is one. Without `split`, each is one segment, for
    those who look at the whole alone."""
    out: list[Unit] = []
    for slot in _translatable(kind, content):
        secret = kind.confidential or slot.spec.confidential
        if not fields.kind_of(slot.spec).rich:
            text = str(slot.value)
            made = Unit(slot.path, _of((text,), locale, split), {}, hash_of(text), False, slot.label)
            out.append(replace(made, limit=slot.spec.limit, confidential=secret))
            continue
        for id, paragraph in by_id(content, slot).items():
            if paragraph.inner:
                parts, tags = tokens(paragraph.inner)
                key, digest = f"{slot.path}.{id}", hash_of(paragraph.inner)
                made = Unit(key, _of(parts, locale, split), tags, digest, True, slot.label)
                out.append(replace(made, confidential=secret) if secret else made)
    return [u for u in out if u.text.strip()]


def _translatable(kind: ContentType, content: Content) -> Iterable[slots.Slot]:
    own = [f for f in kind.fields if not f.shared]
    for slot in slots.filled(own, content.fields):
        if slot.value and fields.to_translate(slot.spec) and not fields.is_many(slot.spec):
            yield slot


def counted(kind: ContentType, content: Content) -> dict[str, tuple[str, int]]:
    """The hash and the words of each unit, by key: what `units_of` gives, without taking the texts apart."""
    return {key: (hash_of(kept), count_words(text)) for key, kept, text in _texts(kind, content)}


def source_hashes(kind: ContentType, content: Content) -> dict[str, str]:
    """Every unit's key and source hash."""
    return {key: hash_of(kept) for key, kept, _ in _texts(kind, content)}


def _texts(kind: ContentType, content: Content) -> Iterable[tuple[str, str, str]]:
    """Each unit's key, its text as it is kept, and its words; nothing without words is one."""
    for slot in _translatable(kind, content):
        if not fields.kind_of(slot.spec).rich:
            text = str(slot.value)
            if text.strip():
                yield slot.path, text, text
            continue
        for id, paragraph in by_id(content, slot).items():
            inner = paragraph.inner
            text = inner if "<" not in inner and "&" not in inner else words_of(tokens(inner)[0])
            if text.strip():
                yield f"{slot.path}.{id}", inner, text


def _of(parts: Parts, locale: str, split: bool) -> tuple[Segment, ...]:
    return segmented(parts, locale) if split else (Segment("s1", parts),)


def segmented(parts: Parts, locale: str) -> tuple[Segment, ...]:
    """Split at sentence ends that no tag spans. Tags are looked past: what closes goes with the sentence before, what opens with the one
    after."""
    flat: list[tuple[int, Part]] = []
    marks: dict[int, Tag] = {}
    places: list[int] = []
    position = 0
    for part in parts:
        flat.append((position, part))
        if isinstance(part, str):
            places += range(position, position + len(part))
            position += len(part)
        else:
            marks[position] = part
            position += 1
    places.append(position)
    cuts = [
        cut for a, b in boundaries(words_of(parts), locale) if (cut := _cut(marks, places, a, b)) is not None
    ]
    out: list[Segment] = []
    start, number = 0, 1
    for a, b in [*cuts, (position, position)]:
        if a > start:
            out.append(Segment(f"s{number}", _slice(flat, start, a)))
            number += 1
        if b > a:
            out.append(Segment(f"i{number}", _slice(flat, a, b), ignorable=True))
        start = b
    return tuple(out)


def _cut(marks: Mapping[int, Tag], places: Sequence[int], a: int, b: int) -> tuple[int, int] | None:
    """Where a gap between characters lies among the tags; None where a tag spans it, or stands within."""
    start, end = places[a - 1] + 1, places[b]
    while start < end and start in marks and marks[start].how != "open":
        start += 1
    while end > start and end - 1 in marks and marks[end - 1].how == "open":
        end -= 1
    if any(at in marks for at in range(start, end)):
        return None
    depth = sum({"open": 1, "close": -1, "empty": 0}[tag.how] for at, tag in marks.items() if at < start)
    return None if depth else (start, end)


def _slice(flat: Sequence[tuple[int, Part]], start: int, end: int) -> Parts:
    out: list[Part] = []
    for position, part in flat:
        if isinstance(part, str):
            piece = part[max(start - position, 0) : max(end - position, 0)]
            if piece:
                out.append(piece)
        elif start <= position < end:
            out.append(part)
    return tuple(out)


def by_id(content: Content, slot: slots.Slot) -> dict[str, Paragraph]:
    """The paragraphs of a rich text by their ids, rows by their cells; `tables.gathered` is the way back."""
    return tables.divided(paragraphs_of(content, slot.path, slot.value).items())


def target_hashes(kind: ContentType, target: Content) -> dict[str, str]:
    """What each unit of a target holds now, by key, as a hash; keys that hold nothing are left out."""
    out: dict[str, str] = {}
    for slot in _translatable(kind, target):
        if fields.kind_of(slot.spec).rich:
            out |= {
                f"{slot.path}.{k}": hash_of(paragraph.inner)
                for k, paragraph in by_id(target, slot).items()
                if paragraph.inner
            }
        else:
            out[slot.path] = hash_of(str(slot.value))
    return out


def rivals(kind: ContentType, source: Content, target: Content) -> dict[str, tuple[str, ...]]:
    """By the key of a unit, the texts of the target that stand where its translation would, and that nobody claims to be one:
    somebody wrote them. Units without any are left out.

    Where a paragraph is not in the target, those that stand between its neighbours are meant, each for one of the missing in
    order, and the last of them for all that are left.
    """
    have = target_hashes(kind, target)
    if not have:
        return {}
    claimed = {key for key, pairs in target.unit_map.items() if pairs}
    mine = {s.path: s for s in _translatable(kind, target)}
    out: dict[str, tuple[str, ...]] = {}
    for slot in _translatable(kind, source):
        if not fields.kind_of(slot.spec).rich:
            if slot.path in have and slot.path not in claimed:
                out[slot.path] = (slot.path,)
            continue
        origin = [i for i, paragraph in by_id(source, slot).items() if paragraph.inner]
        paragraphs = by_id(target, mine[slot.path]) if slot.path in mine else {}
        standing: list[tuple[str, set[str]]] = []
        for paragraph_id in (i for i, paragraph in paragraphs.items() if paragraph.inner):
            key = f"{slot.path}.{paragraph_id}"
            if paragraph_id in origin and key not in claimed:
                out[key] = (key,)
            sources = {source_key for source_key, _ in target.unit_map.get(key, ())}
            standing.append(
                (paragraph_id, {i for i in origin if i == paragraph_id or f"{slot.path}.{i}" in sources})
            )
        for missing, written in _gaps(origin, standing):
            own = [key for i in written if (key := f"{slot.path}.{i}") not in claimed]
            for n, paragraph_id in enumerate(missing if own else ()):
                start = min(n, len(own) - 1)
                end = len(own) if n == len(missing) - 1 else start + 1
                out[f"{slot.path}.{paragraph_id}"] = tuple(own[start:end])
    return out


def _gaps(
    origin: Sequence[str], standing: Sequence[tuple[str, set[str]]]
) -> list[tuple[list[str], list[str]]]:
    """Between paragraphs that both have, in the order of the source: what only the source has there, and what only the
    target has after the same paragraph. `standing` says of each paragraph of the target which of the source it stands for."""
    place = {paragraph_id: n for n, paragraph_id in enumerate(origin)}
    there: set[str] = set()
    after: dict[str | None, list[str]] = {}
    anchor: str | None = None
    for paragraph_id, sources in standing:
        if sources:
            anchor = max(sources, key=lambda i: place[i])
            there |= sources
        else:
            after.setdefault(anchor, []).append(paragraph_id)
    out: list[tuple[list[str], list[str]]] = []
    missing: list[str] = []
    anchor = None
    for paragraph_id in origin:
        if paragraph_id not in there:
            missing.append(paragraph_id)
            continue
        if missing:
            out.append((missing, after.get(anchor, [])))
        missing, anchor = [], paragraph_id
    if missing:
        out.append((missing, after.get(anchor, [])))
    return out


def needing(kind: ContentType, source: Content, target: Content, locale: str) -> list[Unit]:
    """The units that are missing in the target or whose source changed since: only these go out."""
    have = target_hashes(kind, target)
    known = made_from(target, have)
    return [u for u in units_of(kind, source, locale) if known.get(u.key) != {u.hash}]


def made_from(target: Content, have: Mapping[str, str]) -> dict[str, set[str]]:
    """The source hashes that each source key was translated from, by what still stands in the target: several where two who
    merged knew different ones, and then it is current only if all of them are."""
    return by_source(pairs for mine, pairs in target.unit_map.items() if mine in have)


def by_source(claims: Iterable[Sequence[tuple[str, str]]]) -> dict[str, set[str]]:
    """What some texts say that they were made from: the source hashes, by the keys of the units."""
    out: dict[str, set[str]] = {}
    for pairs in claims:
        for key, digest in pairs:
            out.setdefault(key, set()).add(digest)
    return out


def drift(kind: ContentType, source: Content, target: Content) -> list[str]:
    """The keys of units whose source changed since they were translated, and of texts whose source is gone."""
    current = source_hashes(kind, source)
    known = made_from(target, target_hashes(kind, target))
    changed = [key for key, digest in current.items() if key in known and known[key] != {digest}]
    return changed + gone(kind, source, target)


def gone(kind: ContentType, source: Content, target: Content) -> list[str]:
    """The keys of texts in the target whose source is not there any more."""
    current = source_hashes(kind, source)
    have = target_hashes(kind, target)
    return [
        mine
        for mine, pairs in target.unit_map.items()
        if pairs and mine in have and not any(key in current for key, _ in pairs)
    ]


def without(kind: ContentType, source: Content, target: Content, keys: Iterable[str]) -> Content:
    """The target without some texts, and without the blocks that hold nothing to read once those are gone and that the
    source does not have."""
    dropped = set(keys)
    if not dropped:
        return target
    paragraph_ids, values = dict(target.paragraph_ids), dict(target.fields)
    texts: dict[str, Any] = {}
    for slot in _translatable(kind, target):
        if fields.kind_of(slot.spec).rich:
            kept = {
                k: paragraph
                for k, paragraph in by_id(target, slot).items()
                if f"{slot.path}.{k}" not in dropped
            }
            text, paragraph_ids[slot.path] = aligning.rejoin(tables.gathered(kept.items()))
            texts[slot.path] = text or None
        elif slot.path in dropped:
            texts[slot.path] = None
    for spec in kind.fields:
        if spec.shared or not any(path.split(":")[0] == spec.name for path in texts):
            continue
        if fields.kind_of(spec).parts:
            values[spec.name] = _parts_without(spec, source, target, texts, dropped)
        elif spec.name in texts:
            values[spec.name] = texts[spec.name]
    values = {k: v for k, v in values.items() if v not in (None, "", [], {})}
    alive = {s.path: s.value for s in slots.filled(kind.fields, values)}
    gone = left_over(kind, values)
    left = {k: v for k, v in paragraph_ids.items() if (k in alive and v) or slots.top(k) in gone}
    unit_map = {
        k: v
        for k, v in target.unit_map.items()
        if (k not in dropped and k.split(".", 1)[0] in alive) or slots.top(k) in gone
    }
    return Content(values, left, unit_map)


def _parts_without(
    spec: Field, source: Content, target: Content, texts: Mapping[str, Any], dropped: set[str]
) -> Any:
    mine = slots.blocks(spec, target.fields.get(spec.name))
    theirs = slots.blocks(spec, source.fields.get(spec.name))
    held = [*slots.filled([spec], target.fields)]
    values = {s.path: texts.get(s.path, s.value) for s in held}
    values = {path: value for path, value in values.items() if value is not None}
    touched = {path.split(":")[1] for path in (k.split(".", 1)[0] for k in dropped) if path.count(":") > 1}
    speaking = {s.block for s in held if s.path in values and fields.to_translate(s.spec)}
    empty: set[str] = set()
    waiting = sorted(touched)
    while waiting:
        here = waiting.pop()
        holds = any(b.parent == here and b.id not in empty for b in mine.values())
        if here in mine and here not in theirs and here not in speaking and not holds:
            empty.add(here)
            # What held nothing else goes with it.
            waiting.append(mine[here].parent)
    homes: dict[str, list[str]] = {}
    for block in mine.values():
        if block.id not in empty:
            homes.setdefault(block.home, []).append(block.id)
    kept = {
        path: value
        for path, value in values.items()
        if path.count(":") < 2 or path.split(":")[1] not in empty
    }
    return slots.build(spec, homes, {b.id: b.kind for b in mine.values()}, kept)
