"""Which paragraph of a newer text is which of an older: their ids, carried on."""

from __future__ import annotations

import hashlib
import re
from collections import Counter
from collections.abc import Iterable, Sequence

from rapidfuzz.distance import Indel

from hawthorn.core import likeness
from hawthorn.core.richtext import Paragraph, ParagraphId, ParagraphIds, canonical, join, paragraphs, plain

NEAR = 0.5
"""Likeness from which a changed paragraph is taken to be the same paragraph."""


_WORDS = re.compile(r"\w+")


def rejoin(named: Iterable[tuple[str, Paragraph]]) -> tuple[str, ParagraphIds]:
    """Named paragraphs as canonical text, with the names of what then stands there: items that lost the list around them, or
    the item that they lay in, stand as they can."""
    pairs = list(named)
    parts = [paragraph for _, paragraph in pairs]
    ids = tuple(ParagraphId(name, paragraph.hash) for name, paragraph in pairs)
    text = join(parts)
    again = paragraphs(text)
    if again == parts:
        return text, ids
    text = canonical(text)
    again = paragraphs(text)
    if len(again) == len(parts):
        return text, tuple(ParagraphId(v.id, paragraph.hash) for v, paragraph in zip(ids, again, strict=True))
    return text, align(again, parts, ids)


def align(new: Sequence[Paragraph], old: Sequence[Paragraph], old_ids: ParagraphIds) -> ParagraphIds:
    """Carry identities from an older text to a newer one: the same paragraph, a moved one, a near one, else new.

    New identities follow from the content and the paragraph before, so that the same insertion made on two
    sides is the same paragraph.
    """
    hashes = [paragraph.hash for paragraph in new]
    found: dict[int, str] = {}
    used: set[int] = set()
    old_hashes = [v.hash for v in old_ids]
    if hashes == old_hashes:
        return old_ids
    same = likeness.blocks(old_hashes, hashes)
    for a, b, size in same:
        for offset in range(size):
            found[b + offset] = old_ids[a + offset].id
            used.add(a + offset)
    gaps = likeness.between(same, len(old_hashes), len(hashes))
    _match_moved(hashes, old_hashes, old_ids, found, used)
    for a0, a1, b0, b1 in gaps:
        _match_near(range(a0, a1), range(b0, b1), new, old, old_ids, found, used)
    _match_near(range(len(old_ids)), range(len(new)), new, old, old_ids, found, used)
    return _named(hashes, found, {v.id for v in old_ids})


def _match_moved(
    hashes: Sequence[str], old_hashes: Sequence[str], ids: ParagraphIds, found: dict[int, str], used: set[int]
) -> None:
    spare: dict[str, list[int]] = {}
    for index, value in enumerate(old_hashes):
        if index not in used:
            spare.setdefault(value, []).append(index)
    for index, value in enumerate(hashes):
        if index not in found and spare.get(value):
            source = spare[value].pop(0)
            found[index] = ids[source].id
            used.add(source)


def _match_near(
    olds: Iterable[int],
    news: Iterable[int],
    new: Sequence[Paragraph],
    old: Sequence[Paragraph],
    ids: ParagraphIds,
    found: dict[int, str],
    used: set[int],
) -> None:
    free_old = [i for i in olds if i not in used and i < len(old)]
    free_new = [i for i in news if i not in found]
    if len(free_old) * len(free_new) > 40_000:
        free_old, free_new = free_old[:200], free_new[:200]
    scored = []
    before = {i: plain(old[i].inner) for i in free_old}
    now = {j: plain(new[j].inner) for j in free_new}
    counts: dict[str, Counter[str]] = {}
    for i in free_old:
        for j in free_new:
            score = _likeness(before[i], now[j], counts)
            if old[i].tag == "figure" and old[i].src == new[j].src and old[i].src:
                score = 1.0
            if score >= NEAR and (old[i].inner or old[i].src):
                scored.append((-score, i, j))
    for _, i, j in sorted(scored):
        if i not in used and j not in found:
            used.add(i)
            found[j] = ids[i].id


_QUICK = 4_000_000
"""Up to so many pairs of letters are compared as they stand."""


def _likeness(a: str, b: str, counts: dict[str, Counter[str]]) -> float:
    """How like two texts are, from 0 to 1: letter by letter in their order, of long ones by how often each word stands, which
    is counted once for each."""
    if len(a) * len(b) <= _QUICK:
        return Indel.normalized_similarity(a, b)
    if min(len(a), len(b)) * 3 < max(len(a), len(b)):
        # With so much more on one side they cannot be near.
        return 0.0
    for text in (a, b):
        if text not in counts:
            counts[text] = Counter(found[0] for found in _WORDS.finditer(text))
    ours, theirs = counts[a], counts[b]
    return 2 * (ours & theirs).total() / max(1, ours.total() + theirs.total())


def new_name(before: str, value: str, taken: set[str]) -> str:
    """A name for a new paragraph that none in `taken` has, following from the paragraph before and its hash."""
    turn = 0
    while True:
        seed = f"{before}\x1f{value}\x1f{turn}"
        name = "p" + hashlib.sha256(seed.encode()).hexdigest()[:9]
        if name not in taken:
            return name
        turn += 1


def _named(hashes: Sequence[str], found: dict[int, str], taken: set[str]) -> ParagraphIds:
    """Names for all paragraphs. New ones that follow one another share the start of their names, so that two runs put
    into one place by different people keep together when names decide the order."""
    ids: list[ParagraphId] = []
    before, run, turn = "", "", 0
    taken = taken | set(found.values())
    for index, value in enumerate(hashes):
        name = found.get(index)
        if name is not None:
            run = ""
        elif not run:
            name, turn = new_name(before, value, taken), 0
            run = name
        while name is None:
            turn += 1
            longer = f"{run}-{turn:03d}"
            name = longer if longer not in taken else None
        taken.add(name)
        ids.append(ParagraphId(name, value))
        before = name
    return tuple(ids)
