"""A unit's sentences divided otherwise than the rules did: one in two, two in one. What both hold stays as it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from hawthorn.core.messages import MessageError
from hawthorn.core.translation.tags import Part, Parts, Tag, words_of
from hawthorn.core.translation.units import Segment


class NotDivided(MessageError):
    """Sentences that cannot be divided like that; the message says why."""


def split(segments: Sequence[Segment], id: str, at: int) -> tuple[Segment, ...]:
    """The segments with one cut in two before the character `at` of its source's words. What was translated stays with the first part,
    to be shared out by whoever cut. Raises `NotDivided` where nothing would be left, or inside a tag."""
    n = _index(segments, id)
    whole = segments[n]
    words = words_of(whole.source)
    before, after = words[:at], words[at:]
    if not before.strip() or not after.strip():
        raise NotDivided("dividing.nothing_left", segment=id)
    space = len(before) - len(before.rstrip()) + len(after) - len(after.lstrip())
    first, rest = _cut(whole.source, len(before.rstrip()))
    between, second = _cut(rest, space)
    inside = _open(first) or _open(between)
    if inside:
        raise NotDivided("dividing.inside_a_tag", segment=id, tag=inside[-1])
    new = _free(segments, id)
    gap = (Segment(f"{new}-i", between, ignorable=True),) if between else ()
    return (
        *segments[:n],
        replace(whole, source=first, state="initial"),
        *gap,
        Segment(new, second),
        *segments[n + 1 :],
    )


def join(segments: Sequence[Segment], id: str) -> tuple[Segment, ...]:
    """The segments with one and the next in one, and what stands between them. Raises `NotDivided` for the last."""
    n = _index(segments, id)
    more = next((m for m in range(n + 1, len(segments)) if not segments[m].ignorable), None)
    if more is None:
        raise NotDivided("dividing.last", segment=id)
    some = segments[n : more + 1]
    source = tuple(p for s in some for p in s.source)
    targets = [s.target for s in (some[0], some[-1]) if s.target is not None]
    between = tuple(p for s in some[1:-1] for p in s.source)
    target = (*targets[0], *between, *targets[1]) if len(targets) > 1 else targets[0] if targets else None
    remark = " ".join(s.remark for s in some if s.remark)
    joined = Segment(id, _smooth(source), _smooth(target) if target else None, remark=remark)
    return (*segments[:n], joined, *segments[more + 1 :])


def _index(segments: Sequence[Segment], id: str) -> int:
    found = next((n for n, s in enumerate(segments) if s.id == id and not s.ignorable), None)
    if found is None:
        raise NotDivided("dividing.no_segment", segment=id)
    return found


def _cut(parts: Parts, at: int) -> tuple[Parts, Parts]:
    first: list[Part] = []
    second: list[Part] = []
    left = at
    for part in parts:
        if not isinstance(part, str):
            # What closes at the cut goes with what it closes.
            (first if left > 0 or (part.how == "close" and not second) else second).append(part)
            continue
        if part[:left]:
            first.append(part[:left])
        if part[left:]:
            second.append(part[left:])
        left = max(left - len(part), 0)
    return tuple(first), tuple(second)


def _open(parts: Parts) -> list[str]:
    stack: list[str] = []
    for part in parts:
        if isinstance(part, Tag) and part.how == "open":
            stack.append(part.id)
        elif isinstance(part, Tag) and part.how == "close" and stack:
            stack.pop()
    return stack


def _free(segments: Sequence[Segment], id: str) -> str:
    taken = {s.id for s in segments}
    return next(name for n in range(2, len(segments) + 3) if (name := f"{id}-{n}") not in taken)


def _smooth(parts: Parts) -> Parts:
    out: list[Part] = []
    for part in parts:
        if isinstance(part, str) and out and isinstance(out[-1], str):
            out[-1] += part
        else:
            out.append(part)
    return tuple(out)
