"""Terms of a glossary, found in a text in whichever form they stand there: in the plural, in another case, with the Arabic article, in a
language that writes no spaces."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Sequence
from functools import lru_cache

import snowballstemmer

from hawthorn.core.quick import dataclass

STATUSES = ("preferred", "admitted", "deprecated")
"""How a term may be used (ISO 30042, `administrativeStatus`): first, as well, or not at all."""
_ALONE = "\u3005-\u3007\u3040-\u30ff\u31f0-\u31ff\u3400-\u4dbf\u4e00-\u9fff\uf900-\ufaff\uff66-\uff9d"
_VOWELS = "\u0610-\u061a\u0640\u064b-\u065f\u0670\u06d6-\u06ed"
_TOKEN = re.compile(rf"[{_ALONE}]|[^\W_{_ALONE}](?:[^\W_{_ALONE}]|[{_VOWELS}])*")
_KATAKANA = re.compile("[\u30a1-\u30fa\u30fc-\u30ff\u31f0-\u31ff\uff66-\uff9d]")
_MARKS = re.compile(f"[{_VOWELS}]")
_ARABIC = re.compile("[\u0600-\u06ff]")
_LETTERS = str.maketrans("أإآٱى", "اااا" + "ي")
_BEFORE = ("وبال", "فبال", "وكال", "وال", "فال", "بال", "كال", "ولل", "فلل", "ال", "لل")
"""What Arabic writes before a noun as one word with it: the article, with “and”, “in”, “as” or “for” before it."""
_AFTER = ("ات", "ة")
"""How nouns end there that are feminine, in the plural and the singular."""
_STEMMERS = {
    "ar": "arabic",
    "da": "danish",
    "de": "german",
    "en": "english",
    "es": "spanish",
    "fi": "finnish",
    "fr": "french",
    "it": "italian",
    "nb": "norwegian",
    "nl": "dutch",
    "pt": "portuguese",
    "ru": "russian",
    "sv": "swedish",
}
_SHORTEST = 4
"""Letters of an abbreviation at most, which is meant only as it is written."""


@dataclass(frozen=True, slots=True)
class Hit:
    """Where a term stands in a text, in characters; `id` is what the term was given as."""

    id: int
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class _Token:
    stem: str
    start: int
    end: int


class Terms:
    """Terms of one language, ready to be found: each with what it is called by."""

    def __init__(self, locale: str, some: Iterable[tuple[int, str]]) -> None:
        self._language = locale.split("-")[0].lower()
        self._by_first: dict[str, list[tuple[tuple[str, ...], int, str]]] = {}
        for id, text in some:
            stems = tuple(one.stem for one in _tokens(text, self._language))
            if stems:
                self._by_first.setdefault(stems[0], []).append((stems, id, text))
        for few in self._by_first.values():
            few.sort(key=lambda one: -len(one[0]))

    def find(self, text: str) -> list[Hit]:
        """Where terms stand, from the first to the last; of those that begin at one place the longest, and of what it covers no other. What
        is written in one way and means several is found as each of them."""
        out: list[Hit] = []
        tokens = _tokens(text, self._language) if self._by_first else []
        at = 0
        while at < len(tokens):
            here = self._at(text, tokens, at)
            out += here
            if here:
                end = max(hit.end for hit in here)
                while at < len(tokens) and tokens[at].start < end:
                    at += 1
            else:
                at += 1
        return out

    def _at(self, text: str, tokens: Sequence[_Token], at: int) -> list[Hit]:
        found: list[Hit] = []
        length = 0
        for stems, id, term in self._by_first.get(tokens[at].stem, ()):
            if found and len(stems) < length:
                break
            some = tokens[at : at + len(stems)]
            if tuple(one.stem for one in some) != stems:
                continue
            start, end = some[0].start, some[-1].end
            if _whole(text, start, end) and _as_written(term, text[start:end]):
                length = len(stems)
                found.append(Hit(id, start, end))
        return found


def _whole(text: str, start: int, end: int) -> bool:
    """Whether what is found is not part of a longer word in katakana, which stands without spaces."""
    before, after = text[start - 1 : start], text[end : end + 1]
    first = bool(before and _KATAKANA.match(before) and _KATAKANA.match(text[start]))
    last = bool(after and _KATAKANA.match(after) and _KATAKANA.match(text[end - 1]))
    return not first and not last


def _as_written(term: str, found: str) -> bool:
    """An abbreviation in capitals is not the word of the same letters."""
    short = len(term) <= _SHORTEST and term.isupper() and term.isascii()
    return not short or found == term


def _tokens(text: str, language: str) -> list[_Token]:
    return [_Token(_stem(m[0], language), m.start(), m.end()) for m in _TOKEN.finditer(text)]


@lru_cache(maxsize=50_000)
def _stem(word: str, language: str) -> str:
    plain = _MARKS.sub("", unicodedata.normalize("NFKC", word).casefold())
    if _ARABIC.search(plain):
        plain = plain.translate(_LETTERS)
        before = next((one for one in _BEFORE if plain.startswith(one) and len(plain) > len(one) + 1), "")
        plain = plain[len(before) :]
        after = next((one for one in _AFTER if plain.endswith(one) and len(plain) > len(one) + 2), "")
        plain = plain[: len(plain) - len(after)]
    algorithm = _STEMMERS.get(language)
    # One for each word: it keeps a state, and words are looked at by many threads.
    stem: str = snowballstemmer.stemmer(algorithm).stemWord(plain) if algorithm else plain
    return stem
