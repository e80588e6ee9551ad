"""Webhooks: who is told of events over HTTP, and what was sent to them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from fastapi import Request

from hawthorn import wire
from hawthorn.followers import outgoing
from hawthorn.followers import webhooks as sending
from hawthorn.operations.delivery import webhooks
from hawthorn.operations.delivery.webhooks import Wanted
from hawthorn.operations.runtime.act import Act, Desk, View
from hawthorn.operations.views import show_webhooks
from hawthorn.service.context import Answer, AtDesk, Who, settings_of
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api/webhooks", "delivery")


def _done(desk: Desk, me: Who, id: str, do: Callable[[Act, str], object]) -> Answer:
    def act(act: Act) -> Answer:
        do(act, id)
        return show_webhooks.webhook(act, webhooks.find(act, id))

    return desk.write(me, act)


@router.get("", response_model=wire.delivery.Webhooks, operation_id="list_webhooks", responses=REFUSALS)
def listing(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """Who is told of events over HTTP; their secrets are never shown."""

    def look(view: View) -> Answer:
        found = [show_webhooks.webhook(view, hook) for hook in webhooks.listing(view)]
        return paged.of(found, lambda one: one["id"])

    return desk.read(me, look)


@router.post(
    "",
    status_code=201,
    response_model=wire.delivery.WebhookMade,
    operation_id="add_webhook",
    responses=REFUSALS,
)
def add(body: wire.delivery.WebhookAsk, me: Who, desk: AtDesk) -> Answer:
    """Tell somebody from now on; the answer holds the secret, which is shown this once."""

    def do(act: Act) -> Answer:
        uuid, secret = webhooks.add(act, Wanted(**body.model_dump(exclude_none=True)))
        return show_webhooks.webhook(act, webhooks.find(act, uuid)) | {"secret": secret}

    return desk.write(me, do)


@router.patch(
    "/{id}", response_model=wire.delivery.Webhook, operation_id="change_webhook", responses=REFUSALS
)
def change(id: str, body: wire.delivery.WebhookChange, me: Who, desk: AtDesk) -> Answer:
    """Another name, address or choice; what is on its way goes to the new address."""
    given: dict[str, Any] = body.model_dump(exclude_none=True)
    return _done(desk, me, id, lambda act, id: webhooks.change(act, id, given))


@router.delete("/{id}", status_code=204, operation_id="end_webhook", responses=REFUSALS)
def end(id: str, me: Who, desk: AtDesk) -> None:
    """End a webhook: it is told nothing any more."""
    desk.write(me, lambda act: webhooks.end(act, id))


@router.post(
    "/{id}/switch", response_model=wire.delivery.Webhook, operation_id="switch_webhook", responses=REFUSALS
)
def switch(id: str, body: wire.delivery.SwitchAsk, me: Who, desk: AtDesk) -> Answer:
    """Switch a webhook on again, for what happens from now on, or off."""
    return _done(desk, me, id, partial(webhooks.switch, on=body.on))


@router.post(
    "/{id}/secret",
    response_model=wire.delivery.WebhookMade,
    operation_id="rotate_secret",
    responses=REFUSALS,
)
def rotate(id: str, body: wire.delivery.RotateAsk, me: Who, desk: AtDesk) -> Answer:
    """Give a webhook another secret; for a while what is sent is signed with both. The answer holds it, this once."""

    def do(act: Act) -> Answer:
        secret = webhooks.rotate(act, id, body.seconds)
        return show_webhooks.webhook(act, webhooks.find(act, id)) | {"secret": secret}

    return desk.write(me, do)


@router.post(
    "/{id}/try", response_model=wire.delivery.WebhookTrial, operation_id="try_webhook", responses=REFUSALS
)
def attempt(id: str, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Send a test to a receiver now, signed as everything is, and say what it answered."""

    def look(view: View) -> tuple[str, list[str], int]:
        hook = webhooks.find(view, id)
        return hook.url, webhooks.secrets_of(view, hook), view.now

    url, secrets, now = desk.read(me, look)
    settings = settings_of(request)
    with outgoing.caller(settings.allow_hosts, sending.TIMEOUT) as http:
        body = sending.trial(settings.public, now)
        found = sending.send(http, url, f"test-{now}", body, secrets, settings.allow_hosts)
    trouble = desk.words.text(found.trouble) if found.trouble is not None else ""
    return {"answers": not trouble, "status": found.status, "took": found.took, "trouble": trouble}


@router.get(
    "/{id}/deliveries",
    response_model=wire.delivery.Deliveries,
    operation_id="list_deliveries",
    responses=REFUSALS,
)
def deliveries(id: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """What was sent to a webhook, or waits to be, newest first, each with every try."""

    def look(view: View) -> Answer:
        found, more = webhooks.deliveries(view, id, paged.limit, paged.cursor)
        return paged.answer([show_webhooks.delivery(row, tries) for row, tries in found], more)

    return desk.read(me, look)


@router.post(
    "/{id}/deliveries/{number}/again", status_code=204, operation_id="deliver_again", responses=REFUSALS
)
def again(id: str, number: int, me: Who, desk: AtDesk) -> None:
    """Send something once more, under the id that it had."""
    desk.write(me, lambda act: webhooks.send_again(act, id, number))
