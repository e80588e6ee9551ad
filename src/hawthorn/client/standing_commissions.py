"""The calls of standing commissions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, into, nothing, page


class StandingCommissionCalls:
    """The calls of standing commissions, without a way to send them."""

    @call
    def standing_commissions(
        self, *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.standing_commissions.StandingCommissions]:
        """What goes out by itself, by name."""
        answer = into(wire.standing_commissions.StandingCommissions)
        return Request("GET", "/api/standing-commissions", answer, params=page(limit, cursor))

    @call
    def add_standing_commission(
        self, name: str, targets: Sequence[Mapping[str, str]], given: Mapping[str, Any] | None = None
    ) -> Request[wire.standing_commissions.StandingCommission]:
        """Send what changes by itself into locales (each with a `bureau`, a `person` or neither); `given` are section, sends, pause,
        days, note, linked, fill, returns, memories, glossaries."""
        body = {"name": name, "targets": [dict(one) for one in targets], **(given or {})}
        answer = into(wire.standing_commissions.StandingCommission)
        return Request("POST", "/api/standing-commissions", answer, json=body)

    @call
    def change_standing_commission(
        self, id: str, given: Mapping[str, Any]
    ) -> Request[wire.standing_commissions.StandingCommission]:
        """Change what is given of one, or switch it `on` or off."""
        answer = into(wire.standing_commissions.StandingCommission)
        return Request("PATCH", _at(id), answer, json=dict(given))

    @call
    def end_standing_commission(self, id: str) -> Request[None]:
        """End one; what it has sent goes on."""
        return Request("DELETE", _at(id), nothing)

    @call
    def send_standing_commission(self, id: str) -> Request[wire.standing_commissions.StandingSent]:
        """Send what waits now."""
        return Request("POST", f"{_at(id)}/send", into(wire.standing_commissions.StandingSent))


def _at(id: str) -> str:
    return f"/api/standing-commissions/{quote(id)}"
