"""What came of a unit's sentences, as it is kept with the job and goes out again."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import replace

from hawthorn.core.compact import written
from hawthorn.core.translation import tags
from hawthorn.core.translation.units import Segment, Unit


def kept(segments: Sequence[Segment]) -> str:
    """Segments as text; ids that are there twice are given anew."""
    names = [s.id for s in segments]
    anew = len(set(names)) < len(names)
    return written(
        [
            [
                f"s{n}" if anew else s.id,
                tags.written(s.source),
                None if s.target is None else tags.written(s.target),
                s.state,
                s.ignorable,
                *((s.remark, s.by, s.at, s.origin) if s.remark or s.by or s.origin else ()),
            ]
            for n, s in enumerate(segments, 1)
        ]
    )


def segments(text: str) -> tuple[Segment, ...]:
    """What `kept` kept."""
    return tuple(
        Segment(
            id,
            tags.read(source),
            None if target is None else tags.read(target),
            bool(ignorable),
            state,
            *more,
        )
        for id, source, target, state, ignorable, *more in json.loads(text)
    )


def merged(had: Sequence[Segment], came: Sequence[Segment]) -> tuple[Segment, ...]:
    """What came, where it says nothing of a sentence with what was had of it: nothing that was translated is lost to a file that
    is older."""
    known = {(s.id, tags.written(s.source)): s for s in had if s.target is not None}
    return tuple(
        known.get((s.id, tags.written(s.source)), s) if s.target is None and not s.ignorable else s
        for s in came
    )


def speaking(segments: Sequence[Segment]) -> list[Segment]:
    """The segments that have words to translate."""
    return [s for s in segments if not s.ignorable and tags.words_of(s.source).strip()]


def finished(segments: Sequence[Segment]) -> bool:
    """Whether every sentence is translated, as whoever translated it says."""
    return all(s.state != "initial" and tags.words_of(s.target or ()).strip() for s in speaking(segments))


def copied(unit: Unit) -> tuple[Segment, ...]:
    """The sentences of a unit that has nothing to translate (numbers, say), each with its source as its target."""
    return tuple(s if s.ignorable else replace(s, target=s.source, state="translated") for s in unit.segments)


def with_target(unit: Unit, text: str, state: str) -> Unit:
    """A unit with a target of which only the whole is known, as stored: one segment, unless it has but one anyway."""
    parts, own = tags.tokens(text) if unit.rich else ((text,), {})
    target = tags.numbered_as(unit.tags, parts, own)
    source = tuple(p for s in unit.segments for p in s.source)
    return replace(unit, segments=(Segment(unit.segments[0].id, source, target, state=state),))


def as_kept(unit: Unit, kept_segments: str, text: str, state: str) -> Unit:
    """A unit with its sentences as they were left, or with the whole of what returned as one."""
    if kept_segments:
        return replace(unit, segments=segments(kept_segments))
    return with_target(unit, text, state) if text else unit
