"""Webhooks as whoever sets them up sees them."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from hawthorn.core.timeline import iso
from hawthorn.operations.delivery import webhooks
from hawthorn.operations.runtime.act import View
from hawthorn.store.webhooks import Sent, Try, Webhook

_STATES = {"done": "delivered"}


def webhook(view: View, hook: Webhook) -> dict[str, Any]:
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


def delivery(row: Sent, tries: Sequence[Try]) -> dict[str, Any]:
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
