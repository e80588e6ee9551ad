"""What two sequences have in common: a longest common subsequence, found in time that no input can stretch.

The common start and end are left aside. What remains is compared whole, by a compiled library that looks at 64 places at once,
up to a bound; beyond that it is divided at runs that stand once on either side, in the same order on both. A part that is
still over the bound, and has none of those, has nothing in common: it is one replacement.
"""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Hashable, Sequence

from rapidfuzz.distance import LCSseq

BOUND = 30_000_000
"""The most pairs of places that are compared at once: some milliseconds, and 4 MB."""
_RUNS = (2, 4, 1)
"""The lengths of the runs at which is divided, each tried when the one before finds nothing; pairs are seldom there twice."""
_NUMBERS = 1 << 24
"""More than a text has words."""
_DEEPEST = 8
"""How often a part is divided again."""
Blocks = list[tuple[int, int, int]]
Edits = list[tuple[int, int, int, int]]


def blocks(old: Sequence[Hashable], new: Sequence[Hashable]) -> Blocks:
    """Stretches that both have, in order and as long as they go: start in either, and length."""
    numbers: dict[Hashable, int] = {}
    a = [numbers.setdefault(x, len(numbers)) for x in old]
    b = [numbers.setdefault(x, len(numbers)) for x in new]
    made = between(_common(a, b, 0, len(a), 0, len(b), 0), len(a), len(b))
    return _rest(_first_places(a, b, made), len(a), len(b))


def most(old: Sequence[Hashable], new: Sequence[Hashable]) -> int:
    """How many places two sequences have in common at most, without saying which."""
    if len(old) * len(new) > BOUND:
        return min(len(old), len(new))
    return LCSseq.similarity(old, new)


def edits(old: Sequence[Hashable], new: Sequence[Hashable]) -> Edits:
    """What differs: from where to where in the older, and what stands there in the newer."""
    return between(blocks(old, new), len(old), len(new))


def between(found: Blocks, old: int, new: int) -> Edits:
    """What lies between stretches that two sequences of these lengths have in common."""
    out: Edits = []
    i = j = 0
    for a, b, size in [*found, (old, new, 0)]:
        if a > i or b > j:
            out.append((i, a, j, b))
        i, j = a + size, b + size
    return out


def _rest(some: Edits, old: int, new: int) -> Blocks:
    """What is the same, of two sequences of these lengths that differ so."""
    out: Blocks = []
    i = j = 0
    for a0, a1, _, b1 in [*some, (old, old, new, new)]:
        if a0 > i:
            out.append((i, j, a0 - i))
        i, j = a1, b1
    return out


def _first_places(a: list[int], b: list[int], some: Edits) -> Edits:
    """The same edits, each at the first of the places where the same could have been put in or taken away.

    What is put in beside something that is taken away replaces it. So one change is found alike whatever else changed.
    """
    steps = 4 * (len(a) + len(b))
    out: Edits = []
    for edit in some:
        done = out[-1][1] if out else 0
        by = min(_slides(a, b, edit, -1, steps), edit[0] - done)
        steps -= by
        out = _joined(out, (edit[0] - by, edit[1] - by, edit[2] - by, edit[3] - by))
    late: Edits = []
    for edit in reversed(out):
        ahead = late[-1][0] - edit[1] if late else 0
        if ahead and _slides(a, b, edit, 1, min(steps, ahead)) == ahead:
            steps -= ahead
            after = late.pop()
            edit = (edit[0] + ahead, after[1], edit[2] + ahead, after[3])
        late.append(edit)
    return late[::-1]


def _slides(a: list[int], b: list[int], edit: tuple[int, int, int, int], way: int, most: int) -> int:
    """By how many places an edit that only puts in, or only takes away, can stand earlier (-1) or later (1)."""
    a0, a1, b0, b1 = edit
    if a0 < a1 and b0 < b1:
        return 0
    items, start, end = (b, b0, b1) if a0 == a1 else (a, a0, a1)
    count = 0
    if way < 0:
        while count < min(most, start) and items[start - 1 - count] == items[end - 1 - count]:
            count += 1
    else:
        most = min(most, len(items) - end)
        while count < most and items[start + count] == items[end + count]:
            count += 1
    return count


def _joined(some: Edits, edit: tuple[int, int, int, int]) -> Edits:
    if some and some[-1][1] == edit[0] and some[-1][3] == edit[2]:
        last = some.pop()
        edit = (last[0], edit[1], last[2], edit[3])
    some.append(edit)
    return some


def _common(a: list[int], b: list[int], a0: int, a1: int, b0: int, b1: int, deep: int) -> Blocks:
    start = _same(a, b, a0, a1, b0, b1)
    end = _same_end(a, b, a0 + start, a1, b0 + start, b1)
    out: Blocks = [(a0, b0, start)] if start else []
    if a0 + start < a1 - end and b0 + start < b1 - end:
        out += _inner(a, b, a0 + start, a1 - end, b0 + start, b1 - end, deep)
    if end:
        out.append((a1 - end, b1 - end, end))
    return out


def _same(a: list[int], b: list[int], a0: int, a1: int, b0: int, b1: int) -> int:
    most = min(a1 - a0, b1 - b0)
    return next((n for n in range(most) if a[a0 + n] != b[b0 + n]), most)


def _same_end(a: list[int], b: list[int], a0: int, a1: int, b0: int, b1: int) -> int:
    most = min(a1 - a0, b1 - b0)
    return next((n for n in range(most) if a[a1 - 1 - n] != b[b1 - 1 - n]), most)


def _inner(a: list[int], b: list[int], a0: int, a1: int, b0: int, b1: int, deep: int) -> Blocks:
    if (a1 - a0) * (b1 - b0) <= BOUND:
        return [
            (a0 + op.src_start, b0 + op.dest_start, op.src_end - op.src_start)
            for op in LCSseq.opcodes(a[a0:a1], b[b0:b1])
            if op.tag == "equal"
        ]
    anchors: list[tuple[int, int]] = []
    for run in _RUNS if deep < _DEEPEST else ():
        anchors = _anchors(a[a0:a1], b[b0:b1], run)
        if anchors:
            break
    if not anchors:
        return []
    out: Blocks = []
    i, j = a0, b0
    for x, y in anchors:
        if a0 + x >= i and b0 + y >= j:
            out += _common(a, b, i, a0 + x, j, b0 + y, deep + 1)
            out.append((a0 + x, b0 + y, run))
            i, j = a0 + x + run, b0 + y + run
    return out + _common(a, b, i, a1, j, b1, deep + 1)


def _anchors(a: list[int], b: list[int], run: int) -> list[tuple[int, int]]:
    """Where runs stand that are there once on either side: the most of them that come in one order."""
    theirs = _once(b, run)
    both = [(i, theirs[key]) for key, i in _once(a, run).items() if key in theirs]
    # The longest rising sequence (patience sorting), each with the one before it.
    ends: list[int] = []
    at: list[int] = []
    before: list[int] = []
    for n, (_, j) in enumerate(both):
        place = bisect_left(ends, j)
        before.append(at[place - 1] if place else -1)
        ends[place : place + 1] = [j]
        at[place : place + 1] = [n]
    out: list[tuple[int, int]] = []
    n = at[-1] if at else -1
    while n >= 0:
        out.append(both[n])
        n = before[n]
    return out[::-1]


def _once(items: list[int], run: int) -> dict[int, int]:
    """The runs that stand once, in order, each as one number, with their places."""
    keys = items
    for k in range(1, run):
        # What is compared is numbered from 0, and has fewer numbers than this.
        keys = [x * _NUMBERS + y for x, y in zip(keys, items[k:], strict=False)]
    counts = Counter(keys)
    return {key: n for n, key in enumerate(keys) if counts[key] == 1}
