"""Near matches in a memory of a million sentences against comparing with all of them by the same library, and growth."""

from __future__ import annotations

import random
import sqlite3
import statistics
import time
from collections.abc import Iterator
from functools import partial
from itertools import accumulate, islice
from pathlib import Path

from rapidfuzz import process
from rapidfuzz.distance import Levenshtein

from benchmarks.figures import Figure
from hawthorn.core.translation import matching
from hawthorn.store import memories as store
from hawthorn.store import people
from hawthorn.store.database import Database
from hawthorn.store.memories import Finder, New

SMALL, LARGE = 100_000, 1_000_000
_ASKED = 240
_MOST = 20
"""So many matches of a sentence are counted."""
_AT_ONCE = 20_000
_LETTERS = "eeeaaaiiooutnnsrrlldcmphgbfvkwy"


def figure_memory(folder: Path, large: int = LARGE) -> dict[str, Figure]:
    """A near match against brute force over all sources in memory; how many of the matches of 75 % it finds; and what ten times the
    sentences cost."""
    rng = random.Random(11)
    words = _vocabulary(rng)
    took: dict[int, float] = {}
    brute = wanted = have = 0.0
    for size in (min(SMALL, large // 10), large):
        texts = list(islice(_sentences(random.Random(5), words), size))
        path = folder / f"memory-{size}.sqlite"
        _fill(path, texts)
        asked = [_edited(rng, rng.choice(texts), words, n) for n in range(_ASKED)]
        db = Database(path)
        finder = Finder()
        times = []
        found = []
        for query in asked:
            start = time.perf_counter()
            with db.read() as conn:
                near = finder.near(conn, matching.marks(query, "en"), "en")
            best = matching.best(query, near, _MOST)
            times.append(time.perf_counter() - start)
            by_id = dict(near)
            found.append({by_id[id] for id, _ in best})
        db.close()
        took[size] = statistics.mean(times)
        if size == large:
            start = time.perf_counter()
            expected = [
                process.extract(
                    query, texts, scorer=Levenshtein.normalized_similarity, score_cutoff=0.75, limit=_MOST
                )
                for query in asked
            ]
            brute = (time.perf_counter() - start) / len(asked)
            for mine, theirs in zip(found, expected, strict=True):
                wanted += len(theirs)
                have += sum(text in mine for text, _, _ in theirs)
    mine, less = took[large] * 1000, took[min(SMALL, large // 10)] * 1000
    return {
        f"near match among {large:,}: brute force over all ÷ ours": Figure(
            brute * 1000, mine, brute * 1000 / mine, 20.0, "higher", "ms"
        ),
        f"near matches of 75 % found among {large:,} ÷ those there are": Figure(
            have, wanted, have / wanted, 0.99, "higher", ""
        ),
        f"near match among {large:,} ÷ among {min(SMALL, large // 10):,}": Figure(
            mine, less, mine / less, 3.0, "lower", "ms"
        ),
    }


def _vocabulary(rng: random.Random) -> tuple[list[str], list[float]]:
    """Words as languages have them: the frequent ones are few and short."""
    out: dict[str, None] = {}
    while len(out) < 30_000:
        rank = len(out)
        lengths = (1, 3) if rank < 40 else (3, 6) if rank < 600 else (4, 11)
        out["".join(rng.choices(_LETTERS, k=rng.randint(*lengths)))] = None
    return list(out), list(accumulate(1 / (rank + 3) for rank in range(len(out))))


def _sentences(rng: random.Random, words: tuple[list[str], list[float]]) -> Iterator[str]:
    seen: set[str] = set()
    while True:
        for text in (
            " ".join(rng.choices(words[0], cum_weights=words[1], k=rng.randint(4, 18))) for _ in range(1_000)
        ):
            if text not in seen:
                seen.add(text)
                yield text


def _edited(rng: random.Random, text: str, words: tuple[list[str], list[float]], n: int) -> str:
    """A sentence that somebody changed: some words, some letters; every fifth is another altogether."""
    if n % 5 == 4:
        return " ".join(rng.choices(words[0], cum_weights=words[1], k=rng.randint(4, 18)))
    if n % 2:
        some = text.split()
        for _ in range(rng.randint(1, max(1, len(some) // 6))):
            at = rng.randrange(len(some))
            some[at : at + rng.choice((0, 1, 1))] = (
                rng.choices(words[0], cum_weights=words[1], k=1) if rng.random() < 0.75 else []
            )
        return " ".join(some) or text
    letters = list(text)
    for _ in range(rng.randint(1, max(1, len(letters) // 8))):
        letters[rng.randrange(len(letters))] = rng.choice(_LETTERS)
    return "".join(letters)


def _fill(path: Path, texts: list[str]) -> None:
    db = Database(path)

    def begin(conn: sqlite3.Connection) -> tuple[int, int]:
        actor = people.add_actor(conn, "scheduler", "bench", "Bench", "", "", "UTC", 0)
        return store.add(conn, "bench", "Bench", "", None, actor, 0), actor

    def keep(conn: sqlite3.Connection, some: list[str]) -> None:
        new = (New("en", t, matching.hash_of(t), matching.marks(t, "en"), "fr", t) for t in some)
        store.keep(conn, memory, new, "imported", actor, 0)

    memory, actor = db.write(begin)
    for start in range(0, len(texts), _AT_ONCE):
        part = texts[start : start + _AT_ONCE]
        db.write(partial(keep, some=part))
    db.close()
