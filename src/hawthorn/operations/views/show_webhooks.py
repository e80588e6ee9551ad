"""Webhooks as whoever sets them up sees them."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import TypedDict

from hawthorn.core.timeline import iso
from hawthorn.operations.delivery import webhooks
from hawthorn.operations.runtime.act import View
from hawthorn.store import webhooks as store
from hawthorn.store.webhooks import Sent, Try

_STATES = {"done": "delivered"}


class Webhook(TypedDict):
    """A webhook without its secret: what it wants, whether it is on, how much waits, and until when it is signed with the secret before as well."""

    id: str
    name: str
    url: str
    kinds: list[str]
    types: list[str]
    sections: list[str]
    stages: list[str]
    state: str
    trouble: str
    waiting: int
    both_until: str | None
    by: str
    at: str


class WebhookTry(TypedDict):
    """One try: the status of what was answered, after how many milliseconds, or what was in the way."""

    at: str
    status: int
    took: int
    trouble: str


class Delivery(TypedDict):
    """Something that was sent, or is to be: its body as it goes, and every try."""

    id: int
    message: str
    kind: str
    state: str
    next_at: str | None
    body: str
    tries: list[WebhookTry]


def webhook(view: View, hook: store.Webhook) -> Webhook:
    """One, without its secret."""
    wanted = webhooks.wanted_of(hook)
    _, waiting = webhooks.last_of(view, hook)
    both = hook.secret_before and hook.before_until > view.now
    return {
        "id": hook.uuid,
        "name": hook.name,
        "url": hook.url,
        "kinds": list(wanted.kinds),
        "types": list(wanted.types),
        "sections": list(wanted.sections),
        "stages": list(wanted.stages),
        "state": hook.state,
        "trouble": hook.trouble,
        "waiting": waiting,
        "both_until": iso(hook.before_until) if both else None,
        "by": hook.by_name,
        "at": iso(hook.at),
    }


def delivery(row: Sent, tries: Sequence[Try]) -> Delivery:
    """Something that was sent, with every try."""
    return {
        "id": row.id,
        "message": row.stable_id,
        "kind": json.loads(row.payload)["data"]["kind"],
        "state": _STATES.get(row.state, row.state),
        "next_at": iso(row.next_at) if row.state == "waiting" else None,
        "body": row.payload,
        "tries": [{"at": iso(t.at), "status": t.status, "took": t.took, "trouble": t.trouble} for t in tries],
    }
