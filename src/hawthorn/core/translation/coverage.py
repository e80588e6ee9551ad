"""Coverage: how much of a source a translation covers, unit by unit, from what a revision says of itself.

What is counted is kept in small forms, so that one edition that changes is compared with the others without reading their texts.
"""

from __future__ import annotations

from collections.abc import Mapping

from hawthorn.core.contenttypes import ContentType
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.core.translation import units

Asked = Mapping[str, tuple[str, int]]
"""What a source asks for: the hash and the words of each unit, by key."""
Told = tuple[tuple[tuple[str, str], ...], ...]
"""What a translation says of each text that stands in it: from which units it was made, with their hashes then."""

STATES = ("none", "in a job", "draft", "out of date", "ready", "out", "out and out of date")
"""What an entry is in a locale: not there; asked for in a job that is not finished; begun; behind its source; signed off for
release; out; out, with a source that is out in other words."""


@dataclass(frozen=True, slots=True)
class Numbers:
    """Of so many units, so many are current, so many changed since, so many were never translated; so many texts have lost their source.
    Words are counted in the source."""

    units: int = 0
    current: int = 0
    changed: int = 0
    missing: int = 0
    gone: int = 0
    words: int = 0
    words_current: int = 0

    @property
    def due(self) -> int:
        """How many units and texts somebody has to see to."""
        return self.changed + self.missing + self.gone


def told(kind: ContentType, content: Content) -> Told:
    """What a translation says of itself."""
    have = units.target_hashes(kind, content)
    return tuple(tuple(pairs) for key, pairs in content.unit_map.items() if pairs and key in have)


def compared(source: Asked, target: Told) -> Numbers:
    """How far a translation covers a source. A unit is current if all that were made from it were made from it as it is."""
    made_from = units.by_source(target)
    gone = sum(1 for pairs in target if not any(key in source for key, _ in pairs))
    current = changed = words_current = 0
    for key, (digest, words) in source.items():
        known = made_from.get(key)
        if known == {digest}:
            current += 1
            words_current += words
        elif known is not None:
            changed += 1
    return Numbers(
        units=len(source),
        current=current,
        changed=changed,
        missing=len(source) - current - changed,
        gone=gone,
        words=sum(words for _, words in source.values()),
        words_current=words_current,
    )


def state(*, now: Numbers, out: Numbers | None, signed: bool) -> str:
    """What an edition that is there is, by its draft against the source's, and by what is `out` against what of the source is."""
    if out is not None:
        return "out and out of date" if out.due else "out"
    if now.due:
        return "out of date" if now.current or now.changed or now.gone else "draft"
    return "ready" if signed else "draft"
