"""What an order for translation holds, counted before it is sent: units that are new or changed, and words by how much of them is known."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from dataclasses import field

from hawthorn.core.quick import dataclass
from hawthorn.core.translation import keeping, matching, tags
from hawthorn.core.translation.rates import REPEATED, WORDLESS
from hawthorn.core.translation.units import Segment, Unit, count_words


@dataclass(slots=True)
class Count:
    """So many units, new ones among them and changed ones, and how many words of each kind (`rates.KINDS`; of what has no words, how
    many sentences)."""

    units: int = 0
    new: int = 0
    changed: int = 0
    words: dict[str, int] = field(default_factory=dict)

    def add(self, kind: str, words: int) -> None:
        """Count words of a kind."""
        self.words[kind] = self.words.get(kind, 0) + words


def wordless(text: str) -> bool:
    """Whether there is nothing to translate in a text: not a single letter."""
    return not any(c.isalpha() for c in text)


def count(
    some: Iterable[Unit],
    translated: Collection[str],
    likeness: Callable[[Unit, Segment], int],
    seen: set[str],
) -> Count:
    """Count units of one locale. `translated` holds the keys of units that were translated before, `likeness` says how alike a memory's best
    match of a sentence is in percent, and `seen` holds the hashes of sentences that stood before, and gets those that stand here."""
    out = Count()
    for unit in some:
        out.units += 1
        if unit.key in translated:
            out.changed += 1
        else:
            out.new += 1
        for segment in keeping.speaking(unit.segments):
            words = tags.words_of(segment.source)
            known = matching.hash_of(words)
            if wordless(words):
                out.add(WORDLESS, 1)
            elif known in seen:
                out.add(REPEATED, count_words(words))
            else:
                out.add(matching.band(likeness(unit, segment)), count_words(words))
            seen.add(known)
    return out


def sentences(unit: Unit) -> set[str]:
    """By what the sentences of a unit are known (`matching.hash_of`)."""
    return {matching.hash_of(tags.words_of(s.source)) for s in keeping.speaking(unit.segments)}
