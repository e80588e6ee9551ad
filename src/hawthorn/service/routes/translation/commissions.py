"""Open commissions: entries are put into one while somebody browses; it is counted, sent or cancelled."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict
from typing import Annotated

from fastapi import Query

from hawthorn import wire
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import cancelling, commissions
from hawthorn.operations.views import show_jobs
from hawthorn.service.context import Answer, AtDesk, Once, Who, fingerprint
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "translation")


@router.get(
    "/commissions",
    response_model=wire.commissions.Commissions,
    operation_id="list_commissions",
    responses=REFUSALS,
)
def listing(me: Who, desk: AtDesk, paged: Paged, state: wire.commissions.CommissionAsked = "") -> Answer:
    """The commissions in a state, the newest first: of open ones those that are shared or one's own."""

    def look(view: View) -> Answer:
        found, more = commissions.listing(view, state, paged.limit, paged.cursor)
        return paged.answer(found, more)

    return desk.read(me, look)


@router.post(
    "/commissions/open",
    status_code=201,
    response_model=wire.commissions.CommissionDetails,
    operation_id="open_commission",
    responses=REFUSALS,
)
def open_one(body: wire.commissions.CommissionStart, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Begin a commission that entries are put into until it is sent."""

    def do(act: Act) -> Answer:
        return show_jobs.commission(act, commissions.open_one(act, body.name, shared=body.shared))

    return desk.once(me, once, "open_commission", fingerprint(body), do)


@router.get(
    "/commissions/{id}",
    response_model=wire.commissions.CommissionDetails,
    operation_id="show_commission",
    responses=REFUSALS,
)
def one(id: str, me: Who, desk: AtDesk) -> Answer:
    """A commission with what is in it and how it goes out."""
    return desk.read(me, lambda view: show_jobs.commission(view, id))


@router.patch(
    "/commissions/{id}",
    response_model=wire.commissions.CommissionDetails,
    operation_id="change_commission",
    responses=REFUSALS,
)
def change(id: str, body: wire.commissions.CommissionChange, me: Who, desk: AtDesk) -> Answer:
    """Change what is given of an open commission."""
    given = body.model_dump(exclude_none=True)
    return _done(id, me, desk, lambda act: commissions.change(act, id, given))


@router.post(
    "/commissions/{id}/entries",
    response_model=wire.commissions.CommissionPutResult,
    operation_id="put_into_commission",
    responses=REFUSALS,
)
def put(id: str, body: wire.commissions.CommissionPut, me: Who, desk: AtDesk) -> Answer:
    """Put entries into an open commission; what is there already stays, what cannot go along is named."""

    def do(act: Act) -> Answer:
        done = commissions.put(act, id, body.entries, below=body.below, linked=body.linked)
        return asdict(done) | {"commission": commissions.look(act, id).line}

    return desk.write(me, do)


@router.post(
    "/commissions/{id}/take-out",
    response_model=wire.commissions.CommissionDetails,
    operation_id="take_out_of_commission",
    responses=REFUSALS,
)
def take_out(id: str, body: wire.commissions.CommissionTaken, me: Who, desk: AtDesk) -> Answer:
    """Take entries out of an open commission."""
    return _done(id, me, desk, lambda act: commissions.take_out(act, id, body.entries))


@router.get(
    "/commissions/{id}/estimate",
    response_model=wire.commissions.EstimateOfCommission,
    operation_id="estimate_commission",
    responses=REFUSALS,
)
def estimate(
    id: str,
    locale: Annotated[str, Query(description="Which of its locales.")],
    me: Who,
    desk: AtDesk,
    paged: Paged,
) -> Answer:
    """What a commission holds in one locale, entry by entry: units, words by how much of them the memories know, and what it costs."""

    def look(view: View) -> Answer:
        found, more = commissions.estimate(view, id, locale, paged.limit, paged.cursor)
        return paged.answer(found.entries, more) | {"currency": found.currency, "trouble": found.trouble}

    return desk.read(me, look)


@router.post(
    "/commissions/{id}/send",
    response_model=wire.commissions.CommissionDetails,
    operation_id="send_commission",
    responses=REFUSALS,
)
def send(id: str, me: Who, desk: AtDesk) -> Answer:
    """Send an open commission: one job per locale, with only what is missing or has changed unless more is asked for."""
    return _done(id, me, desk, lambda act: commissions.send(act, id))


@router.post(
    "/commissions/{id}/cancel",
    response_model=wire.commissions.CommissionDetails,
    operation_id="cancel_commission",
    responses=REFUSALS,
)
def cancel(id: str, me: Who, desk: AtDesk) -> Answer:
    """Cancel a commission: an open one with what is in it, of a sent one each job that is not closed."""
    return _done(id, me, desk, lambda act: cancelling.cancel(act, id))


@router.post(
    "/commissions/{id}/reopen",
    response_model=wire.commissions.CommissionDetails,
    operation_id="reopen_commission",
    responses=REFUSALS,
)
def reopen(id: str, me: Who, desk: AtDesk) -> Answer:
    """Open a cancelled commission again, with its cancelled jobs."""
    return _done(id, me, desk, lambda act: cancelling.reopen(act, id))


def _done(id: str, me: Who, desk: AtDesk, do: Callable[[Act], object]) -> Answer:
    def act(one: Act) -> Answer:
        do(one)
        return show_jobs.commission(one, id)

    return desk.write(me, act)
