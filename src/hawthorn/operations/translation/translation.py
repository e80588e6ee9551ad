"""Jobs: out to whoever translates, back unit by unit, and accepted."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Container, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from hawthorn.core import access
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.revision import Content
from hawthorn.core.translation import composing, units
from hawthorn.core.translation.returns import Sent
from hawthorn.operations.access import permission
from hawthorn.operations.release import drafts
from hawthorn.operations.release.drafts import drafted
from hawthorn.operations.runtime import as_now
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import landing
from hawthorn.store import commissions, revisions
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as store
from hawthorn.store.jobs import Job, JobEntry, JobUnit

MACHINE = "machine"
"""The origin of what a machine has drafted and nobody has looked at."""


def find(view: View, uuid: str) -> Job:
    """A job all of whose entries may be read."""
    row = store.by_uuid(view.conn, uuid)
    if row is None or not readable(view, row):
        raise NotFound("translation.no_job", id=uuid)
    return row


def readable(view: View, job: Job) -> bool:
    """Whether a job may be seen: each of its entries in both locales, as both texts lie in it."""
    return access.reads_all(view.identity) or all(
        permission.readable(view, e, tag)
        for e in store.entries(view.conn, job.id)
        for tag in (job.source_locale, job.locale)
    )


def codes_of(job: Job) -> tuple[str, str]:
    """The locales as the bureau calls them."""
    codes: dict[str, str] = json.loads(job.codes or "{}")
    return codes.get(job.source_locale, job.source_locale), codes.get(job.locale, job.locale)


def sent_of(
    view: View, job: Job, part: JobEntry, *, split: bool = True, rows: Sequence[JobUnit] | None = None
) -> dict[str, Sent]:
    """The units of one entry as they went out, made again from the revision that was sent (`units.units_of`). What the job itself
    put into the edition since may be replaced by the job. `rows` are those of its units, where they were read already."""
    kind = view.setup.type(part.type)
    content = as_now.content(view.conn, kind, part.source_revision)
    by_key = {u.key: u for u in units.units_of(kind, content, part.source_locale, split=split)}
    return {
        u.key: Sent(by_key[u.key], _own_hash(u, rich=by_key[u.key].rich))
        for u in (store.units_of(view.conn, job.id, part.entry) if rows is None else rows)
        if u.key in by_key
    }


def open_units(part: JobEntry, rows: Iterable[JobUnit], sent: Container[str]) -> list[JobUnit]:
    """The units of one entry of a job that have not returned and are to be translated yet: none where it was put away, nor those of which
    its type has no such text by now."""
    return [u for u in rows if not (u.outcome or part.put_away) and u.source_hash and u.key in sent]


def still_open(view: View, job: Job, sent: Mapping[str, Container[str]] | None = None) -> int:
    """How many units of a job have not returned and are to be translated yet. `sent` are its units as they went out, by entry (UUID),
    where they are known."""
    count = 0
    for part in store.entries(view.conn, job.id):
        rows = [u for u in store.units_of(view.conn, job.id, part.entry) if not u.outcome]
        if rows and not part.put_away:
            known = sent[part.uuid] if sent is not None else sent_of(view, job, part, split=False, rows=rows)
            count += len(open_units(part, rows, known))
    return count


def _own_hash(unit: JobUnit, *, rich: bool) -> str | None:
    return units.kept_hash(unit.text, rich) if unit.outcome == "applied" else unit.target_hash


def may_job(view: View, verb: str, job: Job) -> bool:
    """Whether whoever looks may commission, or accept, a job: wherever it lies in its locale, or each of its entries."""
    if permission.may(view, verb, Subject(locale=job.locale)):
        return True
    # A translator holds neither anywhere: its entries are read for those alone who hold it somewhere.
    return permission.may_somewhere(view, verb) and all(
        permission.may(view, verb, about) for about in _subjects(view, job)
    )


def require_job(view: View, verb: str, job: Job) -> None:
    """Raise `Refused`, which names who could, unless whoever looks may commission, or accept, a job."""
    if not may_job(view, verb, job):
        raise permission.refusal(view, verb, Subject(locale=job.locale))


def who_may(view: View, verb: str, job: Job) -> set[int]:
    """The people who may commission, or accept, a job, whosever its entries are."""
    about = {replace(one, own=False) for one in _subjects(view, job)}
    everywhere, *each = [
        {row.id for row in permission.people_who(view, verb, one)}
        for one in (Subject(locale=job.locale), *about)
    ]
    return everywhere.union(set.intersection(*each))


def _subjects(view: View, job: Job) -> list[Subject]:
    return [permission.subject(view, part, job.locale) for part in store.entries(view.conn, job.id)]


def require_carry(view: View, job: Job) -> None:
    """Whoever imports a job is its bureau, may commission or accept it, or may write all of it."""
    if not may_carry(view, job):
        permission.require(view, "commission", Subject(locale=job.locale))


def may_carry(view: View, job: Job) -> bool:
    """Whether whoever looks may import a job."""
    return _carries(view, job) or all(_writes(view, job, part) for part in store.entries(view.conn, job.id))


def may_translate(view: View, job: Job, part: JobEntry) -> bool:
    """Whether whoever looks may translate an entry of a job: whoever may write it in that locale, or import the job."""
    return _writes(view, job, part) or _carries(view, job)


def require_translate(view: View, job: Job, part: JobEntry) -> None:
    """Raise `Refused`, which names who could, unless an entry of a job may be translated."""
    if not may_translate(view, job, part):
        permission.require(view, "write", permission.subject(view, part, job.locale))


def _carries(view: View, job: Job) -> bool:
    if view.identity.kind == "bureau":
        return view.identity.id == job.bureau_actor
    return may_job(view, "accept", job) or may_job(view, "commission", job)


def _writes(view: View, job: Job, part: JobEntry) -> bool:
    return permission.may(view, "write", permission.subject(view, part, job.locale))


def cancel(act: Act, uuid: str) -> None:
    """Cancel a job; what returns after that is refused."""
    job = find(act, uuid)
    require_job(act, "commission", job)
    if job.state in CLOSED:
        raise InTheWay("translation.not_to_cancel", state=job.state)
    store.update(act.conn, job.id, act.now, state="cancelled")
    told(act, "job.cancelled", job, remote=job.remote)


def came_late(act: Act, bureau: int, remote: str) -> None:
    """Say on a cancelled job that its bureau has work for it all the same: it is not taken unless the job is opened again."""
    job = store.of_bureau(act.conn, bureau, remote)
    trouble = act.keep("translation.came_late", name=job.bureau_name if job else "")
    if job is not None and job.state == "cancelled" and job.trouble != trouble:
        store.update(act.conn, job.id, act.now, trouble=trouble)
        told(act, "job.late", job)


def reopen(act: Act, uuid: str) -> None:
    """Open a cancelled job again: what returns is taken, and a bureau that has it is asked about it. Nothing that had returned, or was
    translated at the table, was lost by the cancel."""
    job = find(act, uuid)
    require_job(act, "commission", job)
    if job.state != "cancelled":
        raise InTheWay("translation.not_cancelled", state=job.state)
    act.setup.locale(job.locale)
    back = store.returned(act.conn, job.id)
    state = "returned" if back and not still_open(act, job) else "in work" if job.done else "waiting"
    if job.remote and state != "returned":
        state = "sent"
    store.update(act.conn, job.id, act.now, state=state, ask_at=0, failures=0, trouble="")
    commissions.opened_again(act.conn, job.commission)
    told(act, "job.reopened", job, remote=job.remote)


def follow(act: Act) -> None:
    """See which jobs have returned as all that they waited for was put away by an act; called at the end of every act."""
    some = {entry for kind, about in act.happened if kind == "dispatch.gone" for entry in about}
    for job in store.of_put_away(act.conn, some) if some else []:
        how = Counter(u.outcome for u in store.units(act.conn, job.id))
        counts = {outcome: how[outcome] for outcome in ("applied", "drifted", "conflict", "gone")}
        if any(counts.values()) and not still_open(act, job):
            store.update(act.conn, job.id, act.now, state="returned", trouble="")
            told(act, "job.nothing-open", job, **counts, open=0)


def progress(
    act: Act,
    uuid: str,
    *,
    state: str,
    done: int,
    remote: str = "",
    due: str = "",
    trouble: str = "",
    asked: str = "",
) -> None:
    """Keep what the bureau says of a job; a job that has ended is left as it is, and so is one that was sent anew since
    the bureau was `asked` about it by another name. One that it took has the name `remote` there, and is `due` on the day that
    it was sent with."""
    job = find(act, uuid)
    if job.state in ("returned", "accepted", "cancelled") or (asked and job.remote != asked):
        return
    done = max(0, min(done, job.total))
    if (job.state, job.done, job.trouble) == (state, done, trouble) and not remote:
        return
    values: dict[str, Any] = {"state": state, "done": done, "trouble": trouble}
    if remote:
        values |= {"remote": remote, "failures": 0, "ask_at": 0, "due_told": due, "due_trouble": ""}
    store.update(act.conn, job.id, act.now, **values)
    kind = {"sent": "job.sent", "failed": "job.failed"}.get(state, "job.progress")
    if kind == "job.sent" and not remote:
        kind = "job.progress"
    told(act, kind, job, done=done, total=job.total, trouble=trouble)


def send_again(act: Act, uuid: str) -> None:
    """Send a failed job to its bureau once more."""
    job = find(act, uuid)
    require_job(act, "commission", job)
    if job.state != "failed":
        raise InTheWay("translation.not_failed", state=job.state)
    store.update(act.conn, job.id, act.now, state="waiting", done=0, **WITH_NO_BUREAU)
    told(act, "job.again", job, was=job.remote)


def choose(act: Act, uuid: str, entry_uuid: str, key: str, take: str) -> None:
    """Settle a unit in conflict: "theirs" takes what returned, "ours" keeps the edition as it is."""
    job = find(act, uuid)
    require_job(act, "accept", job)
    part = next((p for p in store.entries(act.conn, job.id) if p.uuid == entry_uuid), None)
    unit = next(
        (u for u in store.units(act.conn, job.id) if part and u.entry == part.entry and u.key == key),
        None,
    )
    if part is None or unit is None:
        raise NotFound("translation.no_unit", key=key)
    if unit.outcome != "conflict":
        raise InTheWay("translation.not_in_conflict")
    if take not in ("ours", "theirs"):
        raise Invalid([FieldProblem("take", said("translation.ours_or_theirs"))])
    permission.require_writable(act, part.type)
    kind = act.setup.type(part.type)
    entry = entry_store.entry_by_id(act.conn, part.entry)
    edition = entry_store.edition(act.conn, part.entry, job.locale)
    assert edition is not None
    source, target = (
        drafted(act, entry.id, entry.source_locale),
        revisions.content(act.conn, edition.tip),
    )
    there = choices(unit, units.source_hashes(kind, source))
    if take not in there:
        raise InTheWay("translation.without_source")
    content = _chosen(
        kind, source, target, unit, take, has_source=bool(unit.source_hash) and "theirs" in there
    )
    made = drafts.record(act, kind, entry, edition, content, act.keep("notes.chosen", key=key), "return")
    store.set_returned(act.conn, job.id, entry.id, made)
    store.set_unit(
        act.conn,
        job.id,
        entry.id,
        key,
        "translated",
        unit.text,
        "applied" if take == "theirs" else "kept",
    )
    if job.state not in CLOSED:
        landing.landed(act, job, [part])
    told(act, "job.chosen", job, key=key, take=take)


def _chosen(
    kind: ContentType, source: Content, target: Content, unit: JobUnit, take: str, *, has_source: bool
) -> Content:
    """What an edition holds once a unit is settled."""
    key, written = unit.key, units.rivals(kind, source, target).get(unit.key, ())
    if take == "ours":
        kept = {k: v for k, v in target.unit_map.items() if k != key}
        if not has_source:
            # What has no source is a text of this edition's own from now on.
            return replace(target, unit_map=kept)
        # What somebody wrote stands for its source.
        mine = written[0] if written else key
        return replace(target, unit_map=kept | {mine: (*kept.get(mine, ()), (key, unit.source_hash))})
    if not has_source:
        return units.without(kind, source, target, {key})
    # All that stands in its place gives way to it.
    cleared = units.without(kind, source, target, set(written) - {key})
    return composing.compose(kind, source, cleared, {key: unit.text}, {key: unit.source_hash})


def choices(unit: JobUnit, source: Container[str]) -> list[str]:
    """How a unit in conflict can be settled: by what returned where its text is in the source yet (`source`, by key), or where it is about a
    text that is to go."""
    if unit.outcome != "conflict":
        return []
    return ["ours", "theirs"] if unit.key in source or not unit.source_hash else ["ours"]


CLOSED = ("accepted", "cancelled")
"""States of a job in which nothing returns any more."""
WITH_SOMEBODY = ("waiting", "sent", "in work", "failed")
"""States of a job in which something is to be translated yet."""
WITH_NO_BUREAU: dict[str, Any] = {
    "remote": "",
    "due_told": None,
    "due_trouble": "",
    "trouble": "",
    "failures": 0,
}
"""What is known of a job that is with no bureau, or not yet: nothing of how it got on elsewhere."""
ACTS = {
    "assign": WITH_SOMEBODY,
    "send-again": ("failed",),
    "cancel": WITH_SOMEBODY,
    "reopen": ("cancelled",),
}
"""What whoever may commission a job is offered to do with it, and in which states."""


def acts(view: View, job: Job) -> list[str]:
    """What of that whoever looks may do with a job now."""
    allowed = may_job(view, "commission", job)
    return [act for act, states in ACTS.items() if allowed and job.state in states]


def takes_no_return(job: Job) -> InTheWay:
    """Why a job that has ended takes nothing any more, and what could be done."""
    code = "translation.was_cancelled" if job.state == "cancelled" else "translation.takes_no_return"
    return InTheWay(code, state=job.state)


def told(act: Act, kind: str, job: Job, **facts: Any) -> None:
    about = [p.entry for p in store.entries(act.conn, job.id)]
    act.event(
        kind,
        about,
        {
            "job": job.uuid,
            "commission": job.commission_uuid,
            "name": job.name,
            "locale": job.locale,
            "commissioned_by": job.actor,
            **facts,
        },
    )
