"""Returns: what becomes of each unit of a finished job, unit by unit.

Source unchanged since it was sent: apply. Source changed: apply nothing there, it has drifted. Target edited meanwhile, or
written by somebody rather than translated: keep both and ask.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import BadFile, FieldProblem
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.core.translation import composing, keeping, units
from hawthorn.core.translation.tags import BrokenTags, words_of
from hawthorn.core.translation.units import Segment, Unit


@dataclass(frozen=True, slots=True)
class Sent:
    """A unit as it went out: its source, and the hash of what the target held then (None for nothing)."""

    unit: Unit
    target_hash: str | None


@dataclass(frozen=True, slots=True)
class Returned:
    """A unit as it came back, with what the translator noted on it, the language that a target of it says it is in where
    that is not the file's, and what other programs put `beside` its sentences (XML)."""

    key: str
    segments: tuple[Segment, ...]
    notes: tuple[str, ...] = ()
    language: str = ""
    beside: str = ""


@dataclass(frozen=True, slots=True)
class Checked:
    """What of a file fits, unit by unit: the target texts, what is worth knowing of them (also of units that are not finished,
    which stay open), and what does not fit, and why. `fitting` are the units whose segments may be kept as they came."""

    texts: Mapping[str, str]
    notes: tuple[FieldProblem, ...]
    problems: tuple[FieldProblem, ...]
    open: tuple[FieldProblem, ...]
    fitting: Mapping[str, Returned]

    def whole(self) -> None:
        """Raise `BadFile`, which names everything, unless all was translated and fits."""
        refuse((*self.problems, *self.open))


@dataclass(frozen=True, slots=True)
class Outcome:
    """What became of one unit: "applied", "drifted", "gone" or "conflict"; `text` is what returned."""

    key: str
    how: str
    text: str


NAMED = 50
"""So many things that are wrong with a file are named; whoever mends those finds the others."""
_SHOWN = 5
"""So many of them are in the sentence about it."""


def verify(sent: Mapping[str, Sent], returned: Sequence[Returned], locale: str) -> Checked:
    """See what of the units that came back fits those that were sent; one that does not holds up no other."""
    found = _Checking(sent, locale)
    for unit in returned:
        found.take(unit)
    found.open += [FieldProblem(key, said("returns.missing")) for key in sent if key not in found.seen]
    bad = {p.where for p in found.problems}
    texts = {key: text for key, text in found.texts.items() if key not in bad}
    fitting = {key: unit for key, unit in found.fitting.items() if key not in bad}
    return Checked(texts, tuple(found.notes), tuple(found.problems), tuple(found.open), fitting)


class _Checking:
    def __init__(self, sent: Mapping[str, Sent], locale: str) -> None:
        self.sent = sent
        self.locale = locale
        self.seen: set[str] = set()
        self.texts: dict[str, str] = {}
        self.fitting: dict[str, Returned] = {}
        self.notes: list[FieldProblem] = []
        self.problems: list[FieldProblem] = []
        self.open: list[FieldProblem] = []

    def take(self, unit: Returned) -> None:
        """Look at one unit."""
        mine = self.sent.get(unit.key)
        if mine is None:
            self._wrong(unit, said("returns.no_unit"))
        elif unit.key in self.seen:
            self._wrong(unit, said("returns.twice"))
        else:
            self.seen.add(unit.key)
            self._fit(mine.unit, unit)

    def _wrong(self, unit: Returned, what: Message) -> None:
        self.problems.append(FieldProblem(unit.key, what))

    def _fit(self, mine: Unit, unit: Returned) -> None:
        source = " ".join(words_of(p for s in unit.segments for p in s.source).split())
        if source != " ".join(mine.text.split()):
            self._wrong(unit, said("returns.another_source"))
            return
        if unit.language:
            self._wrong(unit, said("returns.other_language", found=unit.language))
            return
        speaking = keeping.speaking(unit.segments)
        empty = [s.id for s in speaking if not words_of(s.target or ()).strip()]
        if len(empty) == len(speaking):
            if unit.notes:
                self.fitting[unit.key] = unit
            self.open.append(FieldProblem(unit.key, said("returns.no_target", segments=empty)))
            return
        try:
            whole = composing.target_text(mine, unit.segments, self.locale) if not empty else None
            for segment in unit.segments if empty else ():
                # Those that are finished may be kept, if they fit.
                if segment.id not in empty:
                    composing.target_text(_alone(mine, segment), (segment,), self.locale)
        except BrokenTags as broken:
            self._wrong(unit, broken.message)
            return
        self.fitting[unit.key] = unit
        if whole is None:
            self.open.append(FieldProblem(unit.key, said("returns.no_target", segments=empty)))
            return
        self.texts[unit.key] = whole.text
        self.notes += [FieldProblem(unit.key, note) for note in whole.notes]


def _alone(unit: Unit, segment: Segment) -> Unit:
    mine = {p.id for p in segment.source if not isinstance(p, str)}
    return replace(unit, segments=(segment,), tags={k: v for k, v in unit.tags.items() if k in mine})


def refuse(problems: Sequence[FieldProblem]) -> None:
    """Raise `BadFile` that names everything wrong with a file at once, if anything is."""
    if problems:
        raise BadFile(
            "returns.does_not_fit" if len(problems) <= _SHOWN else "returns.does_not_fit_at_all",
            shown=[said("returns.at", place=p.where[:100], what=p.what) for p in problems[:_SHOWN]],
            more=len(problems) - _SHOWN,
            problems=[replace(p, where=p.where[:200]) for p in problems[:NAMED]],
            count=len(problems),
        )


def outcomes(
    kind: ContentType,
    sent: Mapping[str, Sent],
    texts: Mapping[str, str],
    source: Content,
    target: Content,
) -> list[Outcome]:
    """What to do with each text, given what source and target hold now."""
    now = units.source_hashes(kind, source)
    have = units.target_hashes(kind, target)
    written = units.rivals(kind, source, target)
    out: list[Outcome] = []
    for key, text in texts.items():
        if key not in now:
            how = "gone"
        elif now[key] != sent[key].unit.hash:
            how = "drifted"
        else:
            there_already = have.get(key) == units.kept_hash(text, sent[key].unit.rich)
            untouched = key not in written and have.get(key) == sent[key].target_hash
            how = "applied" if there_already or untouched else "conflict"
        out.append(Outcome(key, how, text))
    return out


def merge(
    kind: ContentType, source: Content, target: Content, decided: Sequence[Outcome], sent: Mapping[str, Sent]
) -> Content:
    """The target with everything applied that may be."""
    texts = {o.key: o.text for o in decided if o.how == "applied"}
    hashes = {key: sent[key].unit.hash for key in texts}
    return composing.compose(kind, source, target, texts, hashes)
