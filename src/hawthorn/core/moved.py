"""Words that a side moved from one paragraph into another: joined to a neighbour, or split off.

Paragraphs merge one by one. Where a side moved words between two of them, each alone says too little: the words would stand
twice, or come back after they were deleted. So paragraphs that words moved between are looked at together.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence

from hawthorn.core import likeness, richtext
from hawthorn.core.richtext import Paragraph
from hawthorn.core.wordmerge import tokens

ENOUGH = 0.6
"""The part of the words that one lost, or another gained, which has to be the same."""
_MOST = 40

Links = dict[str, set[str]]
"""By the name of a paragraph of the base, the paragraphs of a side that hold words of it now."""


def links(base: Mapping[str, Paragraph], side: Mapping[str, Paragraph]) -> Links:
    """From which paragraphs of the base a side moved words into which others of its own."""
    changed = [name for name in {**base, **side} if base.get(name) != side.get(name)]
    if len(changed) < 2:
        return {}
    lost: list[tuple[str, list[str]]] = []
    gained: list[tuple[str, list[str]]] = []
    for name in changed:
        old, new = (_split(x[name]) if name in x else [] for x in (base, side))
        edits = likeness.edits(old, new)
        lost.append((name, [w for a, b, _, _ in edits for w in old[a:b]]))
        gained.append((name, [w for _, _, a, b in edits for w in new[a:b]]))
    out: Links = {}
    for one, gone in [pair for pair in lost if pair[1]][:_MOST]:
        for other, came in [pair for pair in gained if pair[1]][:_MOST]:
            if one != other and _same(gone, came):
                out.setdefault(one, set()).add(other)
    return out


def _split(paragraph: Paragraph) -> list[str]:
    return [w for w in tokens(richtext.plain(paragraph.inner)) if not w.isspace()]


def _same(gone: Sequence[str], new: Sequence[str]) -> bool:
    fewer = min(len(gone), len(new))
    # What cannot be is found at once: by the words, and by how many of them could stand in one order.
    if (Counter(gone) & Counter(new)).total() < ENOUGH * fewer or likeness.most(gone, new) < ENOUGH * fewer:
        return False
    runs = [size for _, _, size in likeness.blocks(gone, new) if size > 1 or size == fewer]
    return sum(runs) >= max(1, ENOUGH * fewer)


def groups(ours: Links, theirs: Links) -> list[set[str]]:
    """Paragraphs between which words moved on either side, those that hang together in one set."""
    sets: list[set[str]] = []
    for side in (ours, theirs):
        for one, others in side.items():
            made = {one, *others}
            apart = []
            for other in sets:
                if other & made:
                    made |= other
                else:
                    apart.append(other)
            sets = [*apart, made]
    return sets


def contested(
    group: Iterable[str],
    ours: Links,
    theirs: Links,
    base: Mapping[str, Paragraph],
    mine: Mapping[str, Paragraph],
    their: Mapping[str, Paragraph],
) -> bool:
    """Whether both sides did something else with words that moved: joined them elsewhere, or deleted what the other joined."""
    for one in group:
        o, t = ours.get(one, set()), theirs.get(one, set())
        if o and t and (o != t or any(mine.get(x) != their.get(x) for x in o)):
            return True
        if one not in base:
            continue
        if (o and not t and one not in their) or (t and not o and one not in mine):
            return True
    return False


def counted(paragraphs: Iterable[Paragraph]) -> Counter[str]:
    """How often each word stands in some paragraphs."""
    out: Counter[str] = Counter()
    for paragraph in paragraphs:
        out.update(_split(paragraph))
    return out


def conserved(
    base: Counter[str], ours: Counter[str], theirs: Counter[str], made: Counter[str], *, exact: bool
) -> bool:
    """Whether a merged text holds each word as often as the changes of both sides together say.

    What both changed alike may count once. Where something is left to a person (not `exact`), either side's count will do.
    """
    for word in {*base, *ours, *theirs, *made}:
        b, o, t = base[word], ours[word], theirs[word]
        both = o + t - b
        fitting = [both]
        if (o - b) * (t - b) > 0:
            fitting.append(o if abs(o - b) > abs(t - b) else t)
        if not exact:
            fitting += [o, t]
        if not min(fitting) <= made[word] <= max(fitting):
            return False
    return True
