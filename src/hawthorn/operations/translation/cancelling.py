"""Commissions are cancelled and opened again, and what may be done with one as a whole."""

from __future__ import annotations

from collections.abc import Iterable

from hawthorn.core.errors import HawthornError, InTheWay
from hawthorn.core.messages import said
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import commissions, translation
from hawthorn.operations.translation.commissions import CommissionShown
from hawthorn.store import commissions as store
from hawthorn.store import jobs as job_store
from hawthorn.store.commissions import Commission
from hawthorn.store.jobs import Job


def acts(view: View, shown: CommissionShown) -> list[str]:
    """What of send, cancel and reopen whoever looks may do with a commission now. What may be in the way of one that is sent is said for
    each locale (`commissions.estimate`)."""
    if not permission.may_somewhere(view, "commission"):
        return []
    row = commissions.find(view, shown.line.id)
    goes = shown.targets and any(one.goes for one in shown.entries)
    out = ["send"] if shown.may_change and goes else []
    for name, require in (("cancel", _to_cancel), ("reopen", _to_reopen)):
        try:
            require(view, row)
        except HawthornError:
            continue
        out.append(name)
    return out


def cancel(act: Act, uuid: str) -> None:
    """Cancel a commission: an open one is put away with what is in it, of a sent one each job that is not closed is cancelled."""
    permission.require_somewhere(act, "commission")
    row = commissions.find(act, uuid)
    for job in _to_cancel(act, row):
        translation.cancel(act, job.uuid)
    store.change(act.conn, row.id, {"cancelled_at": act.now})
    commissions.told(act, "commission.cancelled", uuid)


def _to_cancel(view: View, row: Commission) -> list[Job]:
    """The jobs that are cancelled with a commission; raises unless whoever looks may do that."""
    state = commissions.state_of(row)
    if state not in ("open", "sent"):
        raise InTheWay("commissions.not_to_cancel", state=said(f"commissions.state_{state}"))
    jobs = job_store.of_commission(view.conn, row.id)
    return _every(view, (job for job in jobs if job.state not in translation.CLOSED))


def reopen(act: Act, uuid: str) -> None:
    """Open a cancelled commission again, with each job that was cancelled; nothing of it was lost."""
    permission.require_somewhere(act, "commission")
    row = commissions.find(act, uuid)
    for job in _to_reopen(act, row):
        translation.reopen(act, job.uuid)
    store.change(act.conn, row.id, {"cancelled_at": None})
    commissions.told(act, "commission.reopened", uuid)


def _to_reopen(view: View, row: Commission) -> list[Job]:
    """The jobs that are opened again with a commission; raises unless whoever looks may do that."""
    if row.cancelled_at is None:
        state = commissions.state_of(row)
        raise InTheWay("commissions.not_cancelled", state=said(f"commissions.state_{state}"))
    jobs = job_store.of_commission(view.conn, row.id)
    return _every(view, (job for job in jobs if job.state == "cancelled"))


def _every(view: View, jobs: Iterable[Job]) -> list[Job]:
    """Some jobs of a commission, each of which whoever looks may commission, and see."""
    some = list(jobs)
    for job in some:
        translation.require_job(view, "commission", job)
        if not translation.readable(view, job):
            raise InTheWay("commissions.unseen", locale=job.locale)
    return some
