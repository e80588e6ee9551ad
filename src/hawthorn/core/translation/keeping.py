"""What came of a unit's sentences, as it is kept with the job and goes out again."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import replace

from hawthorn.core.translation import tags
from hawthorn.core.translation.units import Segment, Unit


def kept(segments: Sequence[Segment]) -> str:
    """Segments as text; ids that are there twice are given anew."""
    names = [s.id for s in segments]
    anew = len(set(names)) < len(names)
    return json.dumps(
        [
            [
                f"s{n}" if anew else s.id,
                tags.written(s.source),
                None if s.target is None else tags.written(s.target),
                s.state,
                s.ignorable,
            ]
            for n, s in enumerate(segments, 1)
        ],
        ensure_ascii=False,
        separators=(",", ":"),
    )


def segments(text: str) -> tuple[Segment, ...]:
    """What `kept` kept."""
    return tuple(
        Segment(id, tags.read(source), None if target is None else tags.read(target), bool(ignorable), state)
        for id, source, target, state, ignorable in json.loads(text)
    )


def with_target(unit: Unit, text: str, state: str) -> Unit:
    """A unit with a target of which only the whole is known, as stored: one segment, unless it has but one anyway."""
    parts, own = tags.tokens(text) if unit.rich else ((text,), {})
    target = tags.numbered_as(unit.tags, parts, own)
    source = tuple(p for s in unit.segments for p in s.source)
    return replace(unit, segments=(Segment(unit.segments[0].id, source, target, state=state),))
