"""Who does a job, and by when, once it is with somebody: translators fall ill, bureaus decline, days are put off."""

from __future__ import annotations

from typing import Any

from hawthorn.core import naming
from hawthorn.core.errors import InTheWay
from hawthorn.operations.delivery import previews
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.translation import orders, sending
from hawthorn.operations.translation.sending import Doer, Found
from hawthorn.operations.translation.translation import WITH_NO_BUREAU, WITH_SOMEBODY, find, require_job, told
from hawthorn.store import bureaus, commissions, jobs
from hawthorn.store.jobs import Job


def assign(act: Act, uuid: str, doer: Doer | None = None, due: str | None = None, note: str = "") -> None:
    """Give a job to somebody else, put off the day on which it is due, or both; what is not given stays as it is.

    All that was translated stays. A bureau that has it is told that it is cancelled there, or of the other day, and one that gets it is sent what is open. Raises
    `InTheWay` where nothing is left to translate, `Invalid` for who cannot translate it, `BadTime` for a day that is over.
    """
    job = find(act, uuid)
    require_job(act, "commission", job)
    if job.state not in WITH_SOMEBODY:
        raise InTheWay("assigning.nothing_to_translate", state=job.state)
    note = naming.note("note", note)
    values: dict[str, Any] = {}
    if due is not None and due != job.due:
        orders.check_due(act, due)
        values |= {"due": due, "due_trouble": ""}
    was = Found(job.bureau, job.translator)
    now = was if doer is None else sending.found(act, job.locale, doer, "person")
    if now != was:
        _check(act, job, now)
        values |= _given(act, job, now)
    if not values:
        return
    jobs.update(act.conn, job.id, act.now, **values)
    if now != was:
        commissions.set_target(act.conn, job.commission, job.locale, now.bureau, now.person)
        first = jobs.entries(act.conn, job.id)[0].entry
        # Whoever gets it sees the drafts of its pages, also where whoever commissioned it has left.
        previews.renew_for_job(act, job.id, job.uuid, job.locale, first)
    told(
        act,
        "job.assigned",
        job,
        due=values.get("due", job.due),
        # A bureau that had it and has it still is told of the day.
        put_off="due" in values,
        words=job.words,
        moved=now != was,
        translator=now.person,
        was=was.person,
        bureau=_named(act, now),
        # What its bureau had is no more than this job's own, under the name that it had there.
        left={"bureau": was.bureau, "remote": job.remote} if now != was and was.bureau is not None else None,
        note=note,
    )


def day_told(act: Act, uuid: str, asked: str, due: str) -> None:
    """Keep that the bureau of a job, which calls it `asked`, was told the day on which it is due."""
    job = find(act, uuid)
    if job.remote == asked and (job.due_told, job.due_trouble) != (due, ""):
        jobs.update(act.conn, job.id, act.now, due_told=due, due_trouble="")
        told(act, "job.day-told", job, due=due)


def day_untold(act: Act, uuid: str, asked: str, trouble: str) -> None:
    """Keep why the bureau of a job, which calls it `asked`, could not be told the day on which it is due."""
    job = find(act, uuid)
    if job.remote == asked and job.due_trouble != trouble:
        jobs.update(act.conn, job.id, act.now, due_trouble=trouble)
        told(act, "job.day-untold", job, due=job.due, bureau=job.bureau_name, trouble=trouble)


def believed(job: Job) -> str | None:
    """The day on which the bureau that works on a job thinks that it is due, where that is another one; None where it knows."""
    out = job.state in ("sent", "in work") and job.remote
    return job.due_told if out and job.due_told != job.due else None


def _check(act: Act, job: Job, doer: Found) -> None:
    """Raise unless who is meant can translate what is in a job."""
    sending.check_writer(act, job.locale, doer.person, [(p.entry, p) for p in jobs.entries(act.conn, job.id)])
    why = sending.not_offered(act, doer.bureau, job.source_locale, job.locale)
    if why is not None:
        raise InTheWay("commissions.not_offered", why=why)


def _given(act: Act, job: Job, doer: Found) -> dict[str, Any]:
    """What changes of a job that goes to somebody else: how it got on elsewhere is forgotten, what came of it is kept."""
    done = jobs.finished(act.conn, job.id)
    return {
        "bureau": doer.bureau,
        "translator": doer.person,
        "state": "in work" if done and doer.bureau is None else "waiting",
        "done": done,
        "ask_at": 0,
        **WITH_NO_BUREAU,
    }


def _named(act: Act, doer: Found) -> str:
    row = bureaus.get(act.conn, doer.bureau) if doer.bureau is not None else None
    return row.name if row is not None else ""
