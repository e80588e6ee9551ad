"""Passages: a few words of a text that something is said about, found again after edits around them.

A passage is asked for as the Web Annotation Data Model's text quote selector has it (W3C, section 4.2.4): the exact words,
with some before and after to tell equal ones apart. It is kept as characters of one paragraph of a rich text, named by its
id, or of a plain text.
"""

from __future__ import annotations

from collections.abc import Mapping

from hawthorn.core import likeness, richtext, slots
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.fields import kind_of
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content, paragraphs_of

KEPT = 0.5
"""The part of a passage's characters that must be left for it to be the same passage."""
AROUND = 8
"""How many characters around a short word must fit for it to be the same word in another paragraph."""
_LONG = 4_000

Texts = Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Passage:
    """Characters [first, past) of a paragraph (its id), or of a plain text (no paragraph)."""

    block: str
    first: int
    past: int


def texts(kind: ContentType, content: Content, path: str) -> dict[str, str]:
    """The plain texts of a place by paragraph; of a plain field under the empty name. Empty when nothing is there."""
    slot = next((s for s in slots.walk(kind.fields, content.fields) if s.path == path), None)
    if slot is None or not isinstance(slot.value, str):
        return {}
    if not kind_of(slot.spec).rich:
        return {"": slot.value}
    there = paragraphs_of(content, path, slot.value)
    return {id: richtext.plain(paragraph.inner) for id, paragraph in there.items()}


def find(there: Texts, exact: str, prefix: str = "", suffix: str = "") -> Passage | None:
    """The passage with these words, the one whose surroundings fit best; None when no paragraph has them."""
    found = _best(there, exact, prefix, suffix)
    return found[1] if found else None


def _best(there: Texts, exact: str, prefix: str, suffix: str) -> tuple[int, Passage] | None:
    """The best passage with these words, with how many characters around it fit."""
    best: tuple[int, Passage] | None = None
    for block, text in there.items():
        at = text.find(exact) if exact else -1
        while at >= 0:
            past = at + len(exact)
            before = text[max(0, at - len(prefix)) : at]
            fit = _alike(before[::-1], prefix[::-1]) + _alike(text[past : past + len(suffix)], suffix)
            if best is None or fit > best[0]:
                best = fit, Passage(block, at, past)
            at = text.find(exact, at + 1)
    return best


def _alike(a: str, b: str) -> int:
    count = 0
    for x, y in zip(a, b, strict=False):
        if x != y:
            break
        count += 1
    return count


def follow(passage: Passage, before: Texts, now: Texts) -> Passage | None:
    """Where a passage is by now, or None when too little of it is left.

    It is looked for in its own paragraph through what changed there; when the paragraph is gone, its words wherever they stand.
    """
    then = before.get(passage.block, "")
    words = then[passage.first : passage.past]
    text = now.get(passage.block)
    if text is not None:
        if text == then:
            return passage
        found = _through(then, text, passage.first, passage.past)
        if found is not None:
            return Passage(passage.block, *found)
    # A short word stands in many places: it is the same one only if what is around it is the same, too.
    best = _best(now, words, then[: passage.first], then[passage.past :])
    sure = len(words.split()) > 1 or len(words) > 12 or (best is not None and best[0] >= AROUND)
    return best[1] if best and sure else None


def _through(then: str, now: str, first: int, past: int) -> tuple[int, int] | None:
    """The range that is left of one when a text changed; ranges that were split keep what lies between."""
    if len(then) > _LONG or len(now) > _LONG:
        at = now.find(then[first:past])
        return (at, at + past - first) if at >= 0 else None
    start = end = -1
    left = 0
    for a, b, size in likeness.blocks(then, now):
        low, high = max(a, first), min(a + size, past)
        if low < high:
            start = b + low - a if start < 0 else start
            end = b + high - a
            left += high - low
    # Letters that fit by chance are no passage: what is left must also be dense where it is now.
    if left < KEPT * (past - first) or ((past - first) and left < KEPT * (end - start)):
        return None
    return start, end
