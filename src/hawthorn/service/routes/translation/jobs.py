"""Translation: commissions, jobs, files out and in, choosing and accepting."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query

from hawthorn import wire
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import accepting, assigning, job_lists, orders, sending, translation
from hawthorn.operations.translation.accepting import Onward
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.translation.sending import Doer
from hawthorn.operations.views import show_jobs
from hawthorn.service.context import Answer, AtDesk, Once, Who, fingerprint
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "translation")


def _order(body: wire.translation.CommissionAsk) -> Order:
    return Order(
        entries=tuple(body.entries),
        locales=tuple(body.locales),
        name=body.name,
        due=body.due,
        note=body.note,
        bureau=body.bureau,
        again=body.again,
        current=body.current,
    )


@router.post(
    "/commissions",
    status_code=201,
    response_model=wire.translation.Commission,
    operation_id="commission",
    responses=REFUSALS,
)
def commission(body: wire.translation.CommissionAsk, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Order translations: one job per locale, holding only what is missing or has changed."""

    def do(act: Act) -> Answer:
        order = _order(body)
        left_out = orders.left_out(act, order)
        made = show_jobs.commission(act, sending.commission(act, order))
        return {"id": made.id, "name": made.name, "jobs": made.job_lines, "left_out": left_out}

    return desk.once(me, once, "commission", fingerprint(body), do)


@router.post(
    "/commissions/estimate",
    response_model=wire.translation.Estimates,
    operation_id="estimate",
    responses=REFUSALS,
)
def estimate(body: wire.translation.CommissionAsk, me: Who, desk: AtDesk) -> Answer:
    """What each locale of an order would hold; nothing is sent."""
    return {"items": desk.read(me, lambda view: sending.estimate(view, _order(body)))}


@router.get("/jobs", response_model=wire.translation.JobList, operation_id="list_jobs", responses=REFUSALS)
def listing(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    state: Annotated[
        wire.translation.JobAsked,
        Query(description="Only those in this state; open are all that are neither accepted nor cancelled."),
    ] = "",
    locale: Annotated[str, Query(max_length=35, description="Only those into this locale.")] = "",
    bureau: Annotated[str, Query(max_length=200, description="Only those of this bureau (its name).")] = "",
    person: Annotated[
        str, Query(max_length=80, description="Only those that this person translates (a handle).")
    ] = "",
) -> Answer:
    """Jobs, newest first."""

    def look(view: View) -> Answer:
        only = job_lists.narrowed(view, state=state, locale=locale, bureau=bureau, person=person)
        rows, more = job_lists.listing(view, paged.limit, paged.cursor, only)
        return paged.answer([show_jobs.job_line(view, row) for row in rows], more)

    return desk.read(me, look)


@router.get("/jobs/{id}", response_model=wire.translation.Job, operation_id="job", responses=REFUSALS)
def one(id: str, me: Who, desk: AtDesk) -> Answer:
    """A job with its units."""
    return desk.read(me, lambda view: show_jobs.job(view, id))


@router.post(
    "/jobs/{id}/choose",
    response_model=wire.translation.JobLine,
    operation_id="choose_unit",
    responses=REFUSALS,
)
def choose(id: str, body: wire.translation.Choose, me: Who, desk: AtDesk) -> Answer:
    """Settle a unit that was edited here while it was away."""

    def do(act: Act) -> Answer:
        translation.choose(act, id, body.entry, body.key, body.take)
        return show_jobs.job_line(act, translation.find(act, id))

    return desk.write(me, do)


@router.post(
    "/jobs/{id}/accept",
    response_model=wire.translation.AcceptResult,
    operation_id="accept_job",
    responses=REFUSALS,
)
def accept(id: str, body: wire.translation.Accept, me: Who, desk: AtDesk) -> Answer:
    """Accept some units or all; when all are, the target editions are signed off, and released or put into a dispatch if that is asked."""
    some = [(one.entry, one.key) for one in body.units]
    onward = Onward(body.release, body.dispatch)
    return desk.write(me, lambda act: accepting.accept(act, id, some, body.note, onward))


@router.post(
    "/jobs/{id}/send-again",
    response_model=wire.translation.JobLine,
    operation_id="send_job_again",
    responses=REFUSALS,
)
def send_again(id: str, me: Who, desk: AtDesk) -> Answer:
    """Send a failed job to its bureau once more."""

    def do(act: Act) -> Answer:
        translation.send_again(act, id)
        return show_jobs.job_line(act, translation.find(act, id))

    return desk.write(me, do)


@router.post(
    "/jobs/{id}/assign",
    response_model=wire.translation.JobLine,
    operation_id="assign_job",
    responses=REFUSALS,
)
def assign(id: str, body: wire.translation.AssignJob, me: Who, desk: AtDesk) -> Answer:
    """Give a job to somebody else, or put off the day on which it is due. What was translated stays; a bureau that had it is told that it is
    cancelled there, and one that has it is told of another day."""

    def do(act: Act) -> Answer:
        given = body.person is not None or body.bureau is not None
        doer = Doer(body.bureau or "", body.person or "") if given else None
        assigning.assign(act, id, doer, body.due, body.note)
        return show_jobs.job_line(act, translation.find(act, id))

    return desk.write(me, do)


@router.post(
    "/jobs/{id}/cancel",
    response_model=wire.translation.JobLine,
    operation_id="cancel_job",
    responses=REFUSALS,
)
def cancel(id: str, me: Who, desk: AtDesk) -> Answer:
    """Cancel a job."""

    def do(act: Act) -> Answer:
        translation.cancel(act, id)
        return show_jobs.job_line(act, translation.find(act, id))

    return desk.write(me, do)


@router.post(
    "/jobs/{id}/reopen",
    response_model=wire.translation.JobLine,
    operation_id="reopen_job",
    responses=REFUSALS,
)
def reopen(id: str, me: Who, desk: AtDesk) -> Answer:
    """Open a cancelled job again: what returns is taken."""

    def do(act: Act) -> Answer:
        translation.reopen(act, id)
        return show_jobs.job_line(act, translation.find(act, id))

    return desk.write(me, do)
