"""Returns: what becomes of each unit of a finished job, unit by unit.

Source unchanged since it was sent: apply. Source changed: apply nothing there, it has drifted. Target edited meanwhile, or
written by somebody rather than translated: keep both and ask.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import BadFile, FieldProblem
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.core.translation import composing, units
from hawthorn.core.translation.composing import BrokenTags
from hawthorn.core.translation.units import Segment, Unit


@dataclass(frozen=True, slots=True)
class Sent:
    """A unit as it went out: its source, and the hash of what the target held then (None for nothing)."""

    unit: Unit
    target_hash: str | None


@dataclass(frozen=True, slots=True)
class Returned:
    """A unit as it came back."""

    key: str
    segments: tuple[Segment, ...]


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


def verify(sent: Mapping[str, Sent], returned: Sequence[Returned], locale: str) -> dict[str, str]:
    """The target text of every unit, or `BadFile` that names everything wrong with the file at once."""
    problems: list[FieldProblem] = []
    texts: dict[str, str] = {}
    for unit in returned:
        mine = sent.get(unit.key)
        if mine is None:
            problems.append(FieldProblem(unit.key, said("returns.no_unit")))
            continue
        if unit.key in texts:
            problems.append(FieldProblem(unit.key, said("returns.twice")))
            continue
        texts[unit.key] = ""
        source = " ".join(units.words_of(p for s in unit.segments for p in s.source).split())
        if source != " ".join(mine.unit.text.split()):
            problems.append(FieldProblem(unit.key, said("returns.another_source")))
            continue
        empty = [
            s.id
            for s in unit.segments
            if not s.ignorable
            and units.words_of(s.source).strip()
            and not units.words_of(s.target or ()).strip()
        ]
        if empty:
            problems.append(FieldProblem(unit.key, said("returns.no_target", segments=empty)))
            continue
        try:
            texts[unit.key] = composing.target_text(mine.unit, unit.segments, locale)
        except BrokenTags as broken:
            problems.append(FieldProblem(unit.key, broken.message))
    named = {p.where for p in problems}
    for key in sent:
        if key not in texts and key not in named:
            problems.append(FieldProblem(key, said("returns.missing")))
    if problems:
        raise BadFile(
            "returns.does_not_fit" if len(problems) <= _SHOWN else "returns.does_not_fit_at_all",
            shown=[said("returns.at", place=p.where[:100], what=p.what) for p in problems[:_SHOWN]],
            more=len(problems) - _SHOWN,
            problems=[replace(p, where=p.where[:200]) for p in problems[:NAMED]],
            count=len(problems),
        )
    return texts


def outcomes(
    kind: ContentType,
    sent: Mapping[str, Sent],
    texts: Mapping[str, str],
    source: Content,
    target: Content,
    source_locale: str,
) -> list[Outcome]:
    """What to do with each text, given what source and target hold now."""
    now = units.source_hashes(kind, source, source_locale)
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
