"""Three-way merge of orders: lists of distinct things, such as the paragraphs of a text or the blocks of a page.

Each side took things away from their places in the base and put things in between. What two sides put into one gap
stands as whole runs, ordered by id and never by side. A run beside which the other side took something away has no
certain place any more: that is left to a person. So three lists give the same order whichever two merge first, or ask.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Sequence
from itertools import pairwise
from typing import Any

from hawthorn.core import likeness
from hawthorn.core.quick import dataclass


@dataclass(frozen=True, slots=True)
class _Put:
    """A run put between two things that its side kept: in the stead of base[start:end]."""

    start: int
    end: int
    run: tuple[Any, ...]
    torn: bool = False
    """Whether the other side took away something that this side put there too."""


def merge_order(
    base: Sequence[Any],
    ours: Sequence[Any],
    theirs: Sequence[Any],
    *,
    keep: set[Any] | None = None,
    drop: Iterable[Hashable] = (),
) -> tuple[list[Any], bool]:
    """Merge three orders of distinct things; False when a person has to say the order.

    Without `keep`, a thing that either side removed is removed.
    """
    survivors = _survivors(base, ours, theirs) if keep is None else set(keep)
    survivors -= set(drop)
    in_both = set(ours) & set(theirs)
    if ours == theirs or not {x for x in base if x in survivors} <= in_both:
        # Nothing to decide, or something is kept against one side's removal, which is asked about by itself.
        return _roughly(base, ours, theirs, survivors)
    order = _strictly(base, ours, theirs, survivors)
    if order is None:
        return _roughly(base, ours, theirs, survivors)[0], False
    return order, True


def _survivors(base: Sequence[Any], ours: Sequence[Any], theirs: Sequence[Any]) -> set[Any]:
    return {x for x in {*ours, *theirs} if (x in ours and x in theirs) or x not in base}


def _strictly(
    base: Sequence[Any], ours: Sequence[Any], theirs: Sequence[Any], survivors: set[Any]
) -> list[Any] | None:
    mine, my_gone = _puts(base, ours, survivors)
    their, their_gone = _puts(base, theirs, survivors)
    if _unsure(mine, my_gone, their, their_gone):
        return None
    gone = my_gone | their_gone
    runs: dict[int, list[tuple[Any, ...]]] = {}
    for put in dict.fromkeys((*mine, *their)):
        runs.setdefault(put.start, []).append(put.run)
    out: list[Any] = []
    for place in range(len(base) + 1):
        laid = _laid(runs.get(place, []))
        if laid is None:
            return None
        out += laid
        if place < len(base) and place not in gone:
            out.append(base[place])
    if len(out) != len(set(out)) or set(out) != survivors:
        return None
    found, found_gone = _puts(base, out, survivors)
    merged = {p.start: set(p.run) for p in found}
    wanted = {place: {x for run in some for x in run} for place, some in runs.items()}
    return out if merged == {p: w for p, w in wanted.items() if w} and found_gone == gone else None


def _puts(base: Sequence[Any], side: Sequence[Any], survivors: set[Any]) -> tuple[list[_Put], set[int]]:
    """What a side put in, and the places of the base from which it took something away."""
    puts: list[_Put] = []
    gone: set[int] = set()
    for a0, a1, b0, b1 in likeness.edits(base, side):
        gone.update(range(a0, a1))
        run = tuple(x for x in side[b0:b1] if x in survivors)
        if run:
            puts.append(_Put(a0, a1, run, len(run) < b1 - b0))
    return puts, gone


def _unsure(mine: list[_Put], my_gone: set[int], their: list[_Put], their_gone: set[int]) -> bool:
    for puts, own, other_gone, others in (
        (mine, my_gone, their_gone, their),
        (their, their_gone, my_gone, mine),
    ):
        for put in puts:
            beside = {put.start - 1, put.end} - own
            if put.torn or beside & other_gone:
                return True
            for other in others:
                touching = put.start <= other.end and other.start <= put.end
                pure = put.start == put.end == other.start == other.end
                if touching and not pure and put != other:
                    return True
    return False


def _laid(runs: list[tuple[Any, ...]]) -> list[Any] | None:
    """Runs in one gap, one after the other; None when their ids do not tell them apart."""
    ordered = sorted(runs, key=lambda run: str(run[0]))
    for before, after in pairwise(ordered):
        if max(str(x) for x in before) >= str(after[0]):
            return None
    return [x for run in ordered for x in run]


def _roughly(
    base: Sequence[Any], ours: Sequence[Any], theirs: Sequence[Any], survivors: set[Any]
) -> tuple[list[Any], bool]:
    """An order to show: what both have in the order of whoever changed it, what one added after what it followed."""
    both = survivors.intersection(ours).intersection(theirs)
    mine, their, was = ([x for x in side if x in both] for side in (ours, theirs, base))
    known = set(was)
    mine_known, their_known = [x for x in mine if x in known], [x for x in their if x in known]
    ordered = True
    if mine == their or mine_known == was:
        skeleton = their
    elif their_known == was:
        skeleton = mine
    else:
        skeleton, ordered = their, False
    runs: dict[Any, list[list[Any]]] = {}
    for side in (ours, theirs):
        _collect_runs(side, survivors - both, both, runs)
    out: list[Any] = []
    for anchor in (None, *skeleton):
        if anchor is not None:
            out.append(anchor)
        for run in sorted(runs.get(anchor, ()), key=lambda r: str(r[0])):
            out += run
    return out, ordered


def _collect_runs(
    side: Sequence[Any], single: set[Any], both: set[Any], runs: dict[Any, list[list[Any]]]
) -> None:
    anchor: Any = None
    run: list[Any] = []
    for item in side:
        if item in both:
            if run:
                runs.setdefault(anchor, []).append(run)
                run = []
            anchor = item
        elif item in single:
            run.append(item)
    if run:
        runs.setdefault(anchor, []).append(run)
