"""Bureaus: whom commissions are sent to."""

from __future__ import annotations

from fastapi import Request

from hawthorn import wire
from hawthorn.followers import outgoing
from hawthorn.operations.translation import bureaus
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.service.context import Answer, AtDesk, Who, settings_of
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "translation")


@router.get("/bureaus", response_model=wire.bureaus.Bureaus, operation_id="list_bureaus", responses=REFUSALS)
def listing(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The bureaus that take jobs, by name; their keys are never shown."""
    return paged.of(desk.read(me, bureaus.listing), lambda one: one.id)


@router.post(
    "/bureaus",
    status_code=201,
    response_model=wire.bureaus.Bureau,
    operation_id="add_bureau",
    responses=REFUSALS,
)
def add(body: wire.bureaus.BureauAsk, me: Who, desk: AtDesk) -> Answer:
    """Add a bureau, or bring one back that ended. It gets no right but to return its own jobs."""
    return desk.write(me, lambda act: bureaus.add(act, BureauDetails(**body.model_dump())))


@router.patch(
    "/bureaus/{id}", response_model=wire.bureaus.Bureau, operation_id="change_bureau", responses=REFUSALS
)
def change(id: int, body: wire.bureaus.BureauChange, me: Who, desk: AtDesk) -> Answer:
    """Change what is given of a bureau; jobs that are on their way are asked about at its new address."""
    given = body.model_dump(exclude_none=True)
    return desk.write(me, lambda act: bureaus.change(act, id, given))


@router.delete("/bureaus/{id}", status_code=204, operation_id="end_bureau", responses=REFUSALS)
def end(id: int, me: Who, desk: AtDesk) -> None:
    """End a bureau that has no open jobs; what it did stays under its name."""
    desk.write(me, lambda act: bureaus.end(act, id))


@router.post(
    "/bureaus/{id}/try",
    response_model=wire.bureaus.BureauTrial,
    operation_id="try_bureau",
    responses=REFUSALS,
)
def attempt(id: int, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Ask a bureau whether it answers, with its key; no job is sent."""
    url, headers = desk.read(me, lambda view: bureaus.trial(view, id))
    found = outgoing.fetch(url, settings_of(request).allow_hosts, headers=headers)
    trouble = bureaus.answered(found.status, found.trouble)
    return {"answers": trouble is None, "trouble": desk.words.text(trouble) if trouble is not None else ""}
