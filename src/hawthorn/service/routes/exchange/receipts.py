"""Receipts for what went out, and the key that they are signed with."""

from __future__ import annotations

from hawthorn import wire
from hawthorn.operations.exchange import receipts
from hawthorn.operations.runtime.act import Desk
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "exchange")


@router.get(
    "/dispatches/{id}/receipt",
    response_model=wire.exchange.SignedReceipt,
    operation_id="receipt",
    responses=REFUSALS,
)
def receipt(id: str, me: Who, desk: AtDesk) -> Answer:
    """A receipt for what a dispatch brought out, signed with the key of the house (JWS, RFC 7515): what stood before and after, who signed what and when, the
    gates, and the event in the chain of the log. It is verified without the records."""
    _have_key(me, desk)
    return desk.read(me, lambda view: receipts.of_dispatch(view, id))


@router.get(
    "/receipt-key", response_model=wire.exchange.ReceiptKey, operation_id="receipt_key", responses=REFUSALS
)
def key(me: Who, desk: AtDesk) -> Answer:
    """The public key of the house (JWK, RFC 7517 and RFC 8037), to verify its receipts with. Give it to whoever will verify them by a way that they trust."""
    _have_key(me, desk)
    found = desk.read(me, receipts.key)
    assert found is not None
    return found


def _have_key(me: Who, desk: Desk) -> None:
    if desk.read(me, receipts.key) is None:
        desk.write(me, receipts.have_key)
