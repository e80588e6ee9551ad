"""Likeness of sentences, and the marks by which those that may be alike are found among many.

Likeness is one less the share of characters that have to be changed (Levenshtein). A sentence is found by what is rare in it: runs
of words, and how its words begin and end. Languages that write no spaces go by their characters.
"""

from __future__ import annotations

import hashlib
import re
import unicodedata
from collections.abc import Iterable, Sequence
from functools import lru_cache
from itertools import pairwise
from zlib import crc32

from rapidfuzz.distance import Levenshtein

from hawthorn.core.quick import dataclass
from hawthorn.core.translation import tags

LEAST = 75
"""Percent of likeness from which on a sentence is worth showing."""
OLD = 5 * 365 * 86_400 * 1_000_000
"""Microseconds after which a translation counts as old."""
_WORD = re.compile(r"[\u3040-\u30ff\u3400-\u9fff\uff66-\uff9d]|[^\W\u3040-\u30ff\u3400-\u9fff\uff66-\uff9d]+")
_BEGINS = 3
"""So many letters of each word make a run of words."""
_ENDS = 4
"""So many letters at its start or end make a word."""
_FEW = 9
"""A sentence of fewer words is also found by two words in a row, and by how its words end."""
_SHORT = 40
"""A sentence of fewer characters is also found by what its words hold after their first letter."""


@dataclass(frozen=True, slots=True)
class Likeness:
    """How alike two sentences are, in percent, and what was taken off for: "tags", "old"."""

    percent: int
    penalties: tuple[str, ...] = ()


def plain(sentence: str) -> str:
    """The words of a sentence as it is kept (`tags.written`), without its tags."""
    return tags.words_of(tags.read(sentence))


def bare(words: str) -> str:
    """Words as they are compared: one space between them, in one form of Unicode (NFC), in lower case."""
    return " ".join(unicodedata.normalize("NFC", words).split()).casefold()


def hash_of(words: str) -> str:
    """By what a sentence is known whose words are the same to the letter."""
    return hashlib.sha256(" ".join(words.split()).encode()).hexdigest()[:16]


def context_of(place: str, before: str, after: str) -> str:
    """By what a sentence's surroundings are known: the field that it is in, and the words before and after it there."""
    said = "\n".join((place, " ".join(before.split()), " ".join(after.split())))
    return hashlib.sha256(said.encode()).hexdigest()[:16]


def marks(words: str, locale: str) -> list[str]:
    """The marks of a sentence, the rarest kinds first, each eight hexadecimal digits; those of two languages never meet."""
    text = bare(words)
    some = _WORD.findall(text)
    around = ["^", *some, "$"]
    begins = [word[:_BEGINS] for word in around]
    found = ["+".join(three) for three in zip(begins, begins[1:], begins[2:], strict=False)]
    found += [word[:_ENDS] for word in some]
    if some and len(some) < _FEW:
        # A few words that were changed leave little of a short sentence: it is known by more.
        found.append(f"{begins[1]}-{begins[-2]}")
        found += ["+".join(two) for two in pairwise(begins)]
        found += [f"~{word[-_ENDS:]}" for word in some if len(word) > _ENDS]
    if len(text) < _SHORT:
        found += [f"#{word[1:_ENDS]}" for word in some if len(word) > _BEGINS]
    language = locale.split("-")[0].lower()
    return list(dict.fromkeys(format(crc32(f"{language} {mark}".encode()), "08x") for mark in found))


@lru_cache(maxsize=64)
def found_by(sentence: str, locale: str) -> tuple[str, tuple[str, ...]]:
    """By what a sentence as it is kept is found: the hash of its words, and their marks. One is asked for once for each of its languages, one after
    another."""
    words = plain(sentence)
    return hash_of(words), tuple(marks(words, locale))


def best(words: str, some: Sequence[tuple[int, str]], most: int, least: int = LEAST) -> list[tuple[int, int]]:
    """Those of some sentences, each with its number, that are most alike: number and percent, the most alike first. One that is
    not the same to the letter is at most 99 % alike."""
    wanted = bare(words)
    found: list[tuple[int, int]] = []
    for number, other in some:
        percent = alike(wanted, bare(other), least)
        if percent >= least:
            same = " ".join(words.split()) == " ".join(other.split())
            found.append((100 if same else min(percent, 99), number))
    found.sort(key=lambda one: (-one[0], one[1]))
    return [(number, percent) for percent, number in found[:most]]


def alike(one: str, other: str, least: int = 0) -> int:
    """Percent of likeness of two bare sentences, rounded down; 0 below `least`."""
    return int(100 * Levenshtein.normalized_similarity(one, other, score_cutoff=least / 100) + 1e-9)


def judged(percent: int, source: str, other: str, age: int) -> Likeness:
    """A likeness of words less what is taken off: a percent where the tags are others, and one where the translation is old (`age`
    in microseconds)."""
    penalties: list[str] = []
    if _kinds(source) != _kinds(other):
        penalties.append("tags")
    if age > OLD:
        penalties.append("old")
    return Likeness(percent - len(penalties), tuple(penalties))


def _kinds(sentence: str) -> list[str]:
    return [part.how for part in tags.read(sentence) if not isinstance(part, str)]


def band(percent: int) -> str:
    """The band in which a likeness is counted and paid for."""
    return next((name for least, name in BANDS if percent >= least), "no match")


BANDS: tuple[tuple[int, str], ...] = (
    (101, "in context"),
    (100, "exact"),
    (95, "95–99"),
    (85, "85–94"),
    (75, "75–84"),
)
"""Bands of likeness by the least percent of each. In its context, a sentence is worth more than an exact one."""


def fitting_tags(target: str, own: Iterable[str]) -> str:
    """A target out of a memory without the tags that the sentence at hand does not have."""
    known = set(own)
    parts = tags.read(target)
    opened = {p.id for p in parts if not isinstance(p, str)}
    return tags.written(p for p in parts if isinstance(p, str) or p.id in known & opened)
