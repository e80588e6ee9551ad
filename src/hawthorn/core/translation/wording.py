"""A glossary beside a sentence: which of its concepts stand in the source, what they are called in the target's language, and whether the
target calls them so."""

from __future__ import annotations

from collections.abc import Iterable

from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.translation.checking import Finding
from hawthorn.core.translation.terms import Hit, Terms


@dataclass(frozen=True, slots=True)
class Called:
    """What a concept is called in a language, how that may be used (`terms.STATUSES`), and what the concept is."""

    concept: int
    text: str
    status: str = "preferred"
    note: str = ""


@dataclass(frozen=True, slots=True)
class WordHit:
    """A concept that stands in a sentence, from one character to another, with what it is called in the other language: what comes first
    first, and what is not to be used last."""

    start: int
    end: int
    text: str
    note: str
    targets: tuple[Called, ...]


class Wording:
    """What some glossaries say of one pair of languages."""

    def __init__(self, source: str, target: str, ours: Iterable[Called], theirs: Iterable[Called]) -> None:
        self._ours, self._theirs = list(ours), list(theirs)
        self._by_concept: dict[int, list[Called]] = {}
        for one in self._theirs:
            self._by_concept.setdefault(one.concept, []).append(one)
        self._source = Terms(source, ((n, one.text) for n, one in enumerate(self._ours)))
        self._target = Terms(target, ((n, one.text) for n, one in enumerate(self._theirs)))

    def hits(self, words: str) -> list[WordHit]:
        """The concepts that stand in the words of a source and have a name in the target's language."""
        out: list[WordHit] = []
        for hit in self._source.find(words):
            concept = self._ours[hit.id].concept
            targets = self._by_concept.get(concept, ())
            if targets:
                ordered = sorted(targets, key=lambda one: _ORDER[one.status])
                note = next((one.note for one in (self._ours[hit.id], *ordered) if one.note), "")
                out.append(WordHit(hit.start, hit.end, words[hit.start : hit.end], note, tuple(ordered)))
        return out

    def findings(self, words: str, target: str) -> list[Finding]:
        """What a target calls otherwise than the glossary does, and what it calls as it is not to be called."""
        if not target.strip():
            return []
        said_here = {self._theirs[hit.id].concept for hit in self._used(target)}
        out: list[Finding] = []
        missed: set[str] = set()
        for hit in self.hits(words):
            wanted = [one for one in hit.targets if one.status != "deprecated"]
            if (
                wanted
                and not any(one.concept in said_here for one in wanted)
                and wanted[0].text not in missed
            ):
                missed.add(wanted[0].text)
                texts = [one.text for one in wanted]
                out.append(Finding("glossary", said("checking.glossary", term=hit.text, wanted=texts)))
        for one in {
            self._theirs[hit.id].text: self._theirs[hit.id] for hit in self._avoided(target)
        }.values():
            better = [c.text for c in self._by_concept[one.concept] if c.status != "deprecated"]
            code = "checking.deprecated_better" if better else "checking.deprecated"
            out.append(Finding("glossary", said(code, term=one.text, better=better)))
        return out

    def _used(self, target: str) -> list[Hit]:
        return [hit for hit in self._target.find(target) if self._theirs[hit.id].status != "deprecated"]

    def _avoided(self, target: str) -> list[Hit]:
        found = self._target.find(target)
        good = {(hit.start, hit.end) for hit in found if self._theirs[hit.id].status != "deprecated"}
        # What is right for one concept may be wrong for another.
        return [
            hit
            for hit in found
            if self._theirs[hit.id].status == "deprecated" and (hit.start, hit.end) not in good
        ]


_ORDER = {"preferred": 0, "admitted": 1, "deprecated": 2}
