"""Which words of a text an assistant wrote and nobody has signed off since: carried from revision to revision, word by word.

A word keeps the mark that it had in a revision before; one that is in none of them is by whoever made the revision. What was signed off is nobody's but the
house's: there no word is marked.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby
from operator import itemgetter

from hawthorn.core import fields, richtext, slots
from hawthorn.core.compare import Run
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content, paragraphs_of
from hawthorn.core.wordmerge import alike, tokens


@dataclass(frozen=True, slots=True)
class Place:
    """Where words stand: a plain text, or a paragraph of a rich one by its id; what people call it; and its words with what stands between them."""

    path: str
    paragraph: str
    label: str
    words: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Marked:
    """The places of a revision, by their keys, and for each of their words whether it is marked."""

    places: Mapping[str, Place]
    marks: Mapping[str, tuple[bool, ...]]

    @property
    def count(self) -> int:
        """How many words are marked."""
        return sum(
            marked and any(sign.isalnum() for sign in word)
            for key, place in self.places.items()
            for word, marked in zip(place.words, self.marks[key], strict=True)
        )

    def runs(self, key: str) -> list[tuple[bool, str]]:
        """The text of a place in stretches that are marked, or not."""
        out: list[tuple[bool, str]] = []
        for word, marked in zip(self.places[key].words, self.marks[key], strict=True):
            if out and (out[-1][0] == marked or word.isspace()):
                out[-1] = (out[-1][0], out[-1][1] + word)
            else:
                out.append((marked, word))
        return out


def told(runs: Sequence[Run], marked: Marked, key: str) -> tuple[Run, ...]:
    """The words of a comparison with those marked that an assistant wrote on the newer side; as they are where that says something else."""
    place = marked.places.get(key)
    if place is None or "".join(run.text for run in runs if run.how != "gone") != "".join(place.words):
        return tuple(runs)
    flags = [flag for word, flag in zip(place.words, marked.marks[key], strict=True) for _ in word]
    out: list[Run] = []
    at = 0
    for run in runs:
        if run.how == "gone":
            out.append(run)
            continue
        for flag, some in groupby(zip(flags[at : at + len(run.text)], run.text, strict=True), itemgetter(0)):
            out.append(Run(run.how, "".join(sign for _, sign in some), flag))
        at += len(run.text)
    return tuple(out)


def places(kind: ContentType, content: Content) -> dict[str, Place]:
    """Every text of a content that is written in words."""
    out: dict[str, Place] = {}
    for slot in slots.filled(kind.fields, content.fields):
        written = fields.kind_of(slot.spec)
        if not isinstance(slot.value, str) or not slot.value or not written.translatable:
            continue
        if not written.rich:
            out[slot.path] = Place(slot.path, "", slot.label, tuple(tokens(slot.value)))
            continue
        for id, paragraph in paragraphs_of(content, slot.path, slot.value).items():
            words = tuple(tokens(richtext.plain(paragraph.inner)))
            out[f"{slot.path}.{id}"] = Place(slot.path, id, slot.label, words)
    return out


def unmarked(kind: ContentType, content: Content) -> Marked:
    """What was signed off."""
    found = places(kind, content)
    return Marked(found, {key: (False,) * len(place.words) for key, place in found.items()})


def carried(kind: ContentType, content: Content, before: Sequence[Marked], by_assistant: bool) -> Marked:
    """A revision after others, of which the first says most: that of the strand, and what was merged into it."""
    found = places(kind, content)
    marks: dict[str, tuple[bool, ...]] = {}
    for key, place in found.items():
        mine = [by_assistant] * len(place.words)
        for one in reversed(before):
            had = one.places.get(key)
            if had is None:
                continue
            for a, b, size in alike(had.words, place.words):
                mine[b : b + size] = one.marks[key][a : a + size]
        marks[key] = tuple(mine)
    return Marked(found, marks)
