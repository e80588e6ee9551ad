"""Suggestions of a machine: what it may be asked, and what becomes of what it answers. Nothing confidential is ever asked about."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from hawthorn.core.errors import InTheWay
from hawthorn.core.quick import dataclass
from hawthorn.core.translation import keeping, matching, tags
from hawthorn.core.translation.units import Segment, Unit
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import at_hand, table
from hawthorn.operations.translation.translation import (
    CLOSED,
    MACHINE,
    find,
    require_translate,
    sent_of,
    told,
)
from hawthorn.store import jobs as store
from hawthorn.store.jobs import Job, JobEntry, JobUnit

LONGEST = 5_000
"""So many characters a sentence may have to be asked about."""
Place = tuple[str, str, str]
"""A sentence: its entry, unit and segment."""


@dataclass(frozen=True, slots=True)
class Asked:
    """A sentence to be asked about, as it is written for the machine, and the languages."""

    source: str
    target: str
    text: str


def one(view: View, uuid: str, place: Place) -> Asked:
    """What to ask about one sentence of a job, for whoever may translate it. Raises `InTheWay` for one that is confidential, or too long."""
    at = at_hand.unit(view, uuid, place[0], place[1])
    segment = at_hand.segment(at, place[2])
    require_translate(view, at.job, at.part)
    if at.unit.confidential:
        raise InTheWay("suggestions.confidential")
    text = tags.written(segment.source)
    if len(text) > LONGEST:
        raise InTheWay("suggestions.too_long", most=LONGEST)
    return Asked(at.job.source_locale, at.job.locale, text)


def fitting(view: View, uuid: str, place: Place, text: str) -> str:
    """A suggestion without the tags that the sentence does not have."""
    at = at_hand.unit(view, uuid, place[0], place[1])
    return _fitting(at_hand.segment(at, place[2]), text)


def _fitting(segment: Segment, text: str) -> str:
    own = [p.id for p in segment.source if not isinstance(p, str)]
    return matching.fitting_tags(text[: 4 * LONGEST], own)


def to_draft(view: View, uuid: str) -> tuple[Job, list[tuple[Place, str]]]:
    """The open sentences of a job that nobody and no memory has translated, as they are written for the machine; none of what is
    confidential."""
    job = find(view, uuid)
    out: list[tuple[Place, str]] = []
    for part, row, unit in _open(view, job):
        if unit.confidential:
            continue
        for segment in keeping.speaking(unit.segments):
            text = tags.written(segment.source)
            if _empty(segment) and len(text) <= LONGEST:
                out.append(((part.uuid, row.key, segment.id), text))
    return job, out


def draft(act: Act, uuid: str, found: Mapping[Place, str]) -> int:
    """Put suggestions into sentences that are open still; they stay open until somebody has looked. What a check would not let through is
    left out. Returns how many were put in."""
    job = find(act, uuid)
    if job.state in CLOSED:
        return 0
    count = 0
    for part, row, unit in _open(act, job):
        drafted = tuple(_drafted(unit, s, found.get((part.uuid, row.key, s.id), "")) for s in unit.segments)
        new = sum(a != b for a, b in zip(drafted, unit.segments, strict=True))
        if new:
            store.at_table(act.conn, job.id, part.entry, row.key, "initial", keeping.kept(drafted))
            count += new
    if count:
        told(act, "job.filled", job, count=count)
    return count


def _drafted(unit: Unit, segment: Segment, text: str) -> Segment:
    if not text or segment.ignorable or not _empty(segment) or unit.confidential:
        return segment
    target = tags.read(_fitting(segment, text))
    made = replace(segment, target=target, state="initial", origin=MACHINE)
    return segment if table.blocked(unit, made) else made


def _empty(segment: Segment) -> bool:
    return segment.state == "initial" and not tags.words_of(segment.target or ()).strip()


def _open(view: View, job: Job) -> Iterator[tuple[JobEntry, JobUnit, Unit]]:
    """The units of a job on which somebody works, as they were left."""
    parts: Sequence[JobEntry] = store.entries(view.conn, job.id)
    for part in parts:
        if part.put_away:
            continue
        sent = sent_of(view, job, part)
        for row in store.units_of(view.conn, job.id, part.entry):
            if row.key in sent and row.state == "initial":
                yield part, row, at_hand.as_kept(sent[row.key].unit, row)
