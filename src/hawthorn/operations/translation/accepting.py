"""Acceptance of what returned: it signs the target editions off, and feeds the memory of the house."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.workflow import Workflow
from hawthorn.operations.release import dispatches, gathering, review, workflows
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.translation import memories, own_files
from hawthorn.operations.translation.translation import CLOSED, find, open_units, require_job, sent_of, told
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as store
from hawthorn.store import revisions
from hawthorn.store.jobs import Job, JobEntry, JobUnit


@dataclass(frozen=True, slots=True)
class Accepted:
    """How many were accepted, how many are left, and what is worth knowing."""

    accepted: int
    left: int
    notes: list[str]


@dataclass(frozen=True, slots=True)
class Onward:
    """Where what was accepted goes on to: out at once, or into a dispatch that is put together (its UUID)."""

    release: bool = False
    dispatch: str = ""


def accept(
    act: Act,
    uuid: str,
    some: Sequence[tuple[str, str]] = (),
    note: str = "",
    onward: Onward = Onward(),
) -> Accepted:
    """Accept some units (each by its entry and key), or all that is left. When all is accepted, each target edition is submitted and
    signed off by whoever accepted, so that it can be released; and it goes `onward`, if whoever accepts may do that too. Where it could
    not, nothing is accepted."""
    job = find(act, uuid)
    require_job(act, "accept", job)
    rows = store.units(act.conn, job.id)
    if job.state in CLOSED or not any(u.outcome for u in rows):
        raise InTheWay("translation.not_returned", state=job.state)
    parts = {p.entry: p for p in store.entries(act.conn, job.id)}
    ids = {p.uuid: p.entry for p in parts.values()}
    known = {(u.entry, u.key): u for u in rows}
    chosen = [_asked_for(known, ids.get(entry), key) for entry, key in some] or rows
    # What stays in the draft of a page that was put away keeps nothing else waiting; nor is it accepted by name before it is chosen about.
    clashing = [u for u in rows if u.outcome == "conflict" and (some or not parts[u.entry].put_away)]
    if any(u in clashing for u in chosen):
        raise InTheWay("translation.edited_meanwhile", count=len(clashing))
    moved_on = [u for u in rows if u.outcome in _NOT_APPLIED]
    late_one = next((u for u in chosen if some and u in moved_on), None)
    if late_one is not None:
        raise InTheWay("translation.not_applied", why=said(f"translation.outcome_{late_one.outcome}"))
    accepted = [u for u in chosen if u.outcome not in ("", "conflict", *_NOT_APPLIED)]
    by_entry: dict[int, list[JobUnit]] = {}
    for unit in accepted:
        by_entry.setdefault(unit.entry, []).append(unit)
    for of_entry, mine in by_entry.items():
        store.set_units(act.conn, job.id, of_entry, ((u.key, "final", u.text, u.outcome) for u in mine))
        memories.feed(act, job, parts[of_entry], mine)
    left = [u for part in parts.values() for u in _left(act, job, part)]
    late = [act.say(one) for one in _not_applied(moved_on)]
    if left and onward != Onward():
        raise InTheWay("translation.not_all_accepted", count=len(left))
    if left:
        return Accepted(accepted=len(accepted), left=len(left), notes=late)
    store.update(act.conn, job.id, act.now, state="accepted", done=job.total)
    told(act, "job.accepted", job, note=note)
    without = [
        act.say("own_files.none_of_its_own", title=f.title, label=f.label)
        for f in own_files.open_ones(act, job)
    ]
    notes = [n for p in parts.values() if (n := _approve(act, job, p, note))] + without
    _go_on(act, [MoveRequest(p.uuid, job.locale) for p in parts.values() if not p.put_away], onward, job.name)
    return Accepted(accepted=len(accepted), left=0, notes=[*late, *notes])


def _left(act: Act, job: Job, part: JobEntry) -> list[JobUnit]:
    """What is to be accepted yet of an entry: none of one that was put away, nor of texts that its type has no more."""
    if part.put_away:
        return []
    rows = store.units_of(act.conn, job.id, part.entry)
    returned = [u for u in rows if u.outcome not in ("", *_NOT_APPLIED) and u.state != "final"]
    if all(u.outcome for u in rows):
        return returned
    return returned + open_units(part, rows, sent_of(act, job, part, split=False, rows=rows))


def _go_on(act: Act, moves: Sequence[MoveRequest], onward: Onward, name: str) -> None:
    if onward.release and onward.dispatch:
        raise Invalid([FieldProblem("dispatch", said("translation.release_or_dispatch"))])
    if not moves:
        return
    if onward.release:
        act.derive()
        dispatches.make(act, moves, name=name)
    elif onward.dispatch:
        gathering.add(act, onward.dispatch, moves)


def _asked_for(known: Mapping[tuple[int, str], JobUnit], entry: int | None, key: str) -> JobUnit:
    found = known.get((entry, key)) if entry is not None else None
    if found is None:
        raise NotFound("translation.no_unit", key=key)
    if not found.outcome:
        raise InTheWay("translation.unit_not_returned", key=key)
    return found


_NOT_APPLIED = ("drifted", "gone")
"""Outcomes of what returned and was not put in."""


def _not_applied(some: Sequence[JobUnit]) -> list[Message]:
    counts = {outcome: sum(u.outcome == outcome for u in some) for outcome in _NOT_APPLIED}
    return [
        said("translation.too_late", count=count, why=said(f"translation.outcome_{outcome}"))
        for outcome, count in counts.items()
        if count
    ]


def _approve(act: Act, job: Job, part: JobEntry, note: str) -> str:
    """Accepting is a sign-off of the target edition, where it holds what returned and nothing that others wrote meanwhile; returns why it
    could not be one, if so."""
    entry = entry_store.entry_by_id(act.conn, part.entry)
    flow: Workflow = workflows.of(act, entry, job.locale)
    edition = entry_store.edition(act.conn, part.entry, job.locale)
    title = entry_store.title(act.conn, part.entry, job.locale)
    if part.put_away:
        return act.say("translation.accepted_away", entry=entry_store.title(act.conn, part.entry))
    if edition is None or edition.head is None or flow.stages[1] == flow.last:
        return ""
    problem = review.blocked_from(act, flow, edition, flow.stages[1])
    if problem:
        return act.say("translation.not_in_review", entry=title, why=problem)
    note = note or act.keep("notes.accepted", job=job.name)
    others = revisions.written_by(act.conn, edition.strand, job.created_at, act.identity.id)
    if others:
        review.put_up(act, entry, edition, flow, note)
        waits = act.say("translation.written_meanwhile", names=others)
    else:
        waits = review.stand_and_sign(act, part.entry, edition, flow, note)
    return act.say("translation.not_signed", entry=title, why=waits) if waits else ""
