"""Comparing and merging long paragraphs, against a plain comparison of the same words by a compiled library."""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from pathlib import Path

from rapidfuzz.distance import LCSseq

from benchmarks.figures import Figure, interleaved
from hawthorn.core import compare, wordmerge

LENGTHS = (2_000, 20_000, 200_000)
"""Characters of the paragraph, of which each side changed a third of the words."""


def figure_merging(folder: Path) -> dict[str, Figure]:
    """Merges of one paragraph whose words both sides changed to a third, and how they grow with its length."""
    out: dict[str, Figure] = {}
    merged: dict[int, float] = {}
    for length in LENGTHS:
        base, ours, theirs = sides(length)
        texts = [" ".join(side) for side in (base, ours, theirs)]
        rounds = 3 if length > 100_000 else 7
        goal = 20.0 if length == 20_000 else 60.0
        for name, act in (
            (f"compare of {length // 1000:,} KB", lambda t=texts: compare.words(t[0], t[1])),
            (
                f"merge of {length // 1000:,} KB, a third changed on both sides",
                lambda t=texts: wordmerge.merge_words(*t, markup=True),
            ),
        ):
            took, floor = interleaved(
                lambda act=act: _took(act),  # type: ignore[misc]
                lambda s=(base, ours, theirs): _took(lambda: _plain(*s)),  # type: ignore[misc]
                rounds,
            )
            out[name] = Figure(took, floor, took / floor, goal, "lower", "seconds")
        merged[length] = took
    small, large = merged[20_000], merged[200_000]
    out["merge: growth from 20 to 200 KB"] = Figure(large, small, large / small, 15.0, "lower", "seconds")
    out["merge of 20 KB against 0.1 s"] = Figure(small, 0.1, small / 0.1, 1.0, "lower", "seconds")
    out["merge of 200 KB against 1.5 s"] = Figure(large, 1.5, large / 1.5, 1.0, "lower", "seconds")
    return out


def sides(length: int) -> tuple[list[str], list[str], list[str]]:
    rng = random.Random(7)
    known = ["".join(rng.choice("abcdefghijklmnop") for _ in range(rng.randint(2, 9))) for _ in range(3_000)]
    base: list[str] = []
    while sum(map(len, base)) + len(base) < length:
        base += [rng.choice(known) for _ in range(100)]
    ours, theirs = ([w if rng.random() > 1 / 3 else rng.choice(known) for w in base] for _ in range(2))
    return base, ours, theirs


def _plain(base: list[str], ours: list[str], theirs: list[str]) -> None:
    LCSseq.opcodes(base, ours)
    LCSseq.opcodes(base, theirs)


def _took(do: Callable[[], object]) -> float:
    start = time.perf_counter()
    do()
    return time.perf_counter() - start
