"""One unit of a job, as it was sent and as its sentences were left: what a table, a memory and a question are about."""

from __future__ import annotations

from hawthorn.core.errors import NotFound
from hawthorn.core.quick import dataclass
from hawthorn.core.translation import keeping
from hawthorn.core.translation.units import Segment, Unit
from hawthorn.operations.runtime.act import View
from hawthorn.operations.translation.translation import find, sent_of
from hawthorn.store import jobs as store
from hawthorn.store.jobs import Job, JobEntry, JobUnit


@dataclass(frozen=True, slots=True)
class AtHand:
    """A unit of a job that somebody works on."""

    job: Job
    part: JobEntry
    row: JobUnit
    unit: Unit


def unit(view: View, uuid: str, entry: str, key: str) -> AtHand:
    """A unit of a job, by the entry and its key. Raises `NotFound`."""
    job = find(view, uuid)
    part = next((p for p in store.entries(view.conn, job.id) if p.uuid == entry), None)
    row = store.unit(view.conn, job.id, part.entry, key) if part else None
    sent = sent_of(view, job, part) if part and row else {}
    if part is None or row is None or key not in sent:
        raise NotFound("translation.no_unit", key=key)
    return AtHand(job, part, row, as_kept(sent[key].unit, row))


def segment(at: AtHand, id: str) -> Segment:
    """A sentence of a unit. Raises `NotFound`."""
    found = next((s for s in keeping.speaking(at.unit.segments) if s.id == id), None)
    if found is None:
        raise NotFound("table.no_segment", segment=id, key=at.unit.key)
    return found


def as_kept(unit: Unit, row: JobUnit) -> Unit:
    """A unit with its sentences as they were left, or with the whole of what returned as one."""
    return keeping.as_kept(unit, row.segments, row.text if row.outcome else "", row.state)
