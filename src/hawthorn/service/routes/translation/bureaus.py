"""Bureaus: whom commissions are sent to, and what they call with."""

from __future__ import annotations

from typing import Any

from fastapi import Request
from pydantic import ValidationError
from standardwebhooks.webhooks import Webhook as Signing
from standardwebhooks.webhooks import WebhookVerificationError
from starlette.concurrency import run_in_threadpool

from hawthorn import wire
from hawthorn.core.errors import InTheWay, Invalid, NotLoggedIn
from hawthorn.core.messages import MessageError
from hawthorn.core.translation.offers import Offer
from hawthorn.followers import connectors, outgoing
from hawthorn.followers.connectors import Reach, Tools
from hawthorn.operations.runtime.act import Act, Desk
from hawthorn.operations.translation import bureaus
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.service.context import NOBODY, Answer, AtDesk, Who, settings_of
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area
from hawthorn.service.settings import Settings
from hawthorn.wire import bureau_protocol as protocol

router = area("/api", "translation")


@router.get("/bureaus", response_model=wire.bureaus.Bureaus, operation_id="list_bureaus", responses=REFUSALS)
def listing(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The bureaus that take jobs, by name; their keys are never shown."""
    return paged.of(desk.read(me, bureaus.listing), lambda one: one.id)


@router.post(
    "/bureaus",
    status_code=201,
    response_model=wire.bureaus.BureauMade,
    operation_id="add_bureau",
    responses=REFUSALS,
)
def add(body: wire.bureaus.BureauAsk, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Add a bureau, or bring one back that ended. It is asked what it offers first, with its key, unless that is not wanted yet. It gets no
    right but to return its own jobs."""
    desk.read(me, bureaus.require)
    details = BureauDetails(**body.model_dump(exclude={"untested"}))
    reach = Reach(details.kind, bureaus.clean(details.url), details.key, details.secret)
    offer = _offer(reach, desk, settings_of(request), untested=body.untested)

    def do(act: Act) -> Answer:
        made, secret = bureaus.add(act, details, offer)
        return {"bureau": made, "secret": secret}

    return desk.write(me, do)


@router.patch(
    "/bureaus/{id}", response_model=wire.bureaus.Bureau, operation_id="change_bureau", responses=REFUSALS
)
def change(id: int, body: wire.bureaus.BureauChange, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Change what is given of a bureau; jobs that are on their way are asked about at its new address. Where the address or the key is
    another, it is asked what it offers first."""
    given = body.model_dump(exclude_none=True, exclude={"untested"})
    reach = Reach(*desk.read(me, lambda view: bureaus.reach(view, id, given)))
    asks = given.keys() & {"url", "key", "secret"}
    offer = _offer(reach, desk, settings_of(request), untested=body.untested) if asks else None
    return desk.write(me, lambda act: bureaus.change(act, id, given, offer))


@router.delete("/bureaus/{id}", status_code=204, operation_id="end_bureau", responses=REFUSALS)
def end(id: int, me: Who, desk: AtDesk) -> None:
    """End a bureau that has no open jobs; what it did stays under its name."""
    desk.write(me, lambda act: bureaus.end(act, id))


@router.post(
    "/bureaus/{id}/secret",
    response_model=wire.bureaus.BureauSecret,
    operation_id="new_bureau_secret",
    responses=REFUSALS,
)
def new_secret(id: int, me: Who, desk: AtDesk) -> Answer:
    """Give a bureau another secret to sign with, good at once; the answer holds it, this once."""
    return {"secret": desk.write(me, lambda act: bureaus.new_secret(act, id))}


@router.post(
    "/bureaus/{id}/try",
    response_model=wire.bureaus.BureauTrial,
    operation_id="try_bureau",
    responses=REFUSALS,
)
def attempt(id: int, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Ask a bureau what it offers, with its key; no job is sent. What it offers is kept."""
    reach = Reach(*desk.read(me, lambda view: bureaus.reach(view, id)))
    try:
        offer = _asked(reach, desk, settings_of(request))
    except MessageError as error:
        return {"answers": False, "trouble": desk.words.text(error.message)}
    if not desk.read(me, lambda view: bureaus.offers_just(view, id, offer)):
        desk.write(me, lambda act: bureaus.keep_offer(act, id, offer))
    return {"answers": True, "trouble": ""}


@router.post("/bureaus/{id}/call", status_code=202, operation_id="call_of_bureau", responses=REFUSALS)
async def called(id: int, request: Request, desk: AtDesk) -> Answer:
    """What a bureau calls with when one of its jobs has changed, signed with its secret (Standard Webhooks); it is asked about at once.
    409 for a job that was cancelled."""
    body = await request.body()
    return await run_in_threadpool(_ring, desk, id, body, dict(request.headers))


def _ring(desk: Desk, id: int, body: bytes, headers: dict[str, str]) -> dict[str, Any]:
    secret = desk.read(NOBODY, lambda view: bureaus.secret_of(view, id))
    try:
        if not secret:
            raise WebhookVerificationError
        Signing(secret).verify(body, headers)
        told = protocol.Changed.model_validate_json(body)
    except ValidationError as error:
        raise Invalid("problems.unreadable", why=error.errors()[0]["msg"]) from None
    except (WebhookVerificationError, ValueError):
        raise NotLoggedIn("bureaus.not_signed") from None
    bureau = desk.read(NOBODY, lambda view: bureaus.identity(view, id))
    if not desk.write(bureau, lambda act: bureaus.called(act, id, told.job)):
        raise InTheWay("bureaus.was_cancelled")
    return {}


def _asked(reach: Reach, desk: Desk, settings: Settings) -> Offer:
    """What a bureau offers. Raises `MessageError` with why that cannot be said."""
    with outgoing.caller(settings.allow_hosts) as http:
        return connectors.reached(reach, Tools(lambda: http, settings, desk.words.text)).offer()


def _offer(reach: Reach, desk: Desk, settings: Settings, *, untested: bool) -> Offer | None:
    """What a bureau that is set up offers; None where it shall not be asked yet. Raises `InTheWay` where it does not answer."""
    connectors.require_address(reach.kind, reach.address)
    if untested:
        return None
    try:
        return _asked(reach, desk, settings)
    except MessageError as error:
        raise InTheWay("bureaus.does_not_answer", why=error.message) from error
