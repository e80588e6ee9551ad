"""Landing: an entry of a job all of which was put in is submitted for review, where its commission says so."""

from __future__ import annotations

from collections.abc import Sequence

from hawthorn.operations.release import review, workflows
from hawthorn.operations.runtime.act import Act
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as store
from hawthorn.store.jobs import Job, JobEntry


def landed(act: Act, job: Job, some: Sequence[JobEntry]) -> list[tuple[JobEntry, str]]:
    """Submit for review those of some entries of which every unit was put in or chosen about, as far as they are at work; returns those that may not stand there,
    and why. What was decided about an entry stays as long as nothing new of it returns."""
    if job.returns != "review":
        return []
    out: list[tuple[JobEntry, str]] = []
    for part in (one for one in some if not one.put_away):
        entry = entry_store.entry_by_id(act.conn, part.entry)
        edition = entry_store.edition(act.conn, part.entry, job.locale)
        flow = workflows.of(act, entry, job.locale)
        rows = store.units_of(act.conn, job.id, part.entry)
        if edition is None or edition.head is None or flow.stages[1] == flow.last:
            continue
        if any(row.outcome not in ("applied", "kept") for row in rows):
            continue
        why = review.blocked_from(act, flow, edition, flow.stages[1])
        if why:
            out.append((part, why))
        else:
            review.put_up(act, entry, edition, flow, act.keep("notes.returned", job=job.name))
    return out
