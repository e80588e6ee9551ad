"""The calls of what goes out of a house and comes in: set-up as a document, packages, receipts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from hawthorn import wire
from hawthorn.client.requests import Request, call, into

_SETUP = "/api/setup/document"


class ExchangeCalls:
    """The calls of exchange, without a way to send them."""

    @call
    def setup_document(self, parts: Sequence[str] = ()) -> Request[wire.exchange.SetupDocument]:
        """What the house is set up with, as one document, all of it or some parts."""
        return Request("GET", _SETUP, into(wire.exchange.SetupDocument), params={"part": list(parts)})

    @call
    def check_setup(self, document: Mapping[str, Any]) -> Request[wire.exchange.SetupDifferences]:
        """What a document of set-up would change; nothing is done."""
        return Request("POST", f"{_SETUP}/check", into(wire.exchange.SetupDifferences), json=dict(document))

    @call
    def apply_setup(self, document: Mapping[str, Any]) -> Request[wire.exchange.SetupDifferences]:
        """Put what a document of set-up says in place, all of it or nothing."""
        return Request("PUT", _SETUP, into(wire.exchange.SetupDifferences), json=dict(document))
