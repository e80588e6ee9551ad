"""The calls of commissions that are open, sent or closed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, into, once, page


class CommissionCalls:
    """The calls of commissions, without a way to send them."""

    @call
    def commissions(
        self, *, state: str = "", limit: int = 0, cursor: str = ""
    ) -> Request[wire.commissions.Commissions]:
        """The commissions in a state (open, sent, closed, cancelled), the newest first."""
        params = ({"state": state} if state else {}) | page(limit, cursor)
        return Request("GET", "/api/commissions", into(wire.commissions.Commissions), params=params)

    @call
    def open_commission(
        self, name: str = "", *, shared: bool = False, key: str | None = None
    ) -> Request[wire.commissions.CommissionDetails]:
        """Begin a commission that entries are put into until it is sent."""
        return Request(
            "POST",
            "/api/commissions/open",
            into(wire.commissions.CommissionDetails),
            json={"name": name, "shared": shared},
            headers=once(key),
        )

    @call
    def show_commission(self, id: str) -> Request[wire.commissions.CommissionDetails]:
        """A commission with what is in it and how it goes out."""
        return _of(id, "GET")

    @call
    def change_commission(
        self, id: str, given: Mapping[str, Any]
    ) -> Request[wire.commissions.CommissionDetails]:
        """Change what is given of an open commission: name, due, note, shared, again, current, fill, returns, memories, targets."""
        return _of(id, "PATCH", json=dict(given))

    @call
    def put_into_commission(
        self, id: str, entries: Sequence[str], *, below: bool = False, linked: bool = False
    ) -> Request[wire.commissions.CommissionPutResult]:
        """Put entries into an open commission, with the pages below them or what they refer to."""
        return Request(
            "POST",
            f"/api/commissions/{quote(id)}/entries",
            into(wire.commissions.CommissionPutResult),
            json={"entries": list(entries), "below": below, "linked": linked},
        )

    @call
    def take_out_of_commission(
        self, id: str, entries: Sequence[str]
    ) -> Request[wire.commissions.CommissionDetails]:
        """Take entries out of an open commission."""
        return _of(id, "POST", "/take-out", json={"entries": list(entries)})

    @call
    def estimate_commission(
        self, id: str, locale: str, *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.commissions.EstimateOfCommission]:
        """What a commission holds and costs in one locale, a page of entries at a time."""
        return Request(
            "GET",
            f"/api/commissions/{quote(id)}/estimate",
            into(wire.commissions.EstimateOfCommission),
            params={"locale": locale} | page(limit, cursor),
        )

    @call
    def send_commission(self, id: str) -> Request[wire.commissions.CommissionDetails]:
        """Send an open commission: one job per locale."""
        return _of(id, "POST", "/send")

    @call
    def cancel_commission(self, id: str) -> Request[wire.commissions.CommissionDetails]:
        """Cancel a commission, an open one or a sent one with its jobs."""
        return _of(id, "POST", "/cancel")

    @call
    def reopen_commission(self, id: str) -> Request[wire.commissions.CommissionDetails]:
        """Open a cancelled commission again."""
        return _of(id, "POST", "/reopen")


def _of(
    id: str, method: str, path: str = "", json: Mapping[str, Any] | None = None
) -> Request[wire.commissions.CommissionDetails]:
    address = f"/api/commissions/{quote(id)}{path}"
    return Request(method, address, into(wire.commissions.CommissionDetails), json=json)
