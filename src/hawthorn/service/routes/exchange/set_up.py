"""Set-up as one document: given out, compared with what is here, and put in place."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated, Any

from fastapi import Query

from hawthorn import wire
from hawthorn.followers import connectors
from hawthorn.operations.exchange import set_up
from hawthorn.operations.runtime.act import Act
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.routing import REFUSALS, area

router = area("/api/setup/document", "set-up")


@router.get("", response_model=wire.exchange.SetupDocument, operation_id="setup_document", responses=REFUSALS)
def document(
    me: Who, desk: AtDesk, part: Annotated[tuple[str, ...], Query(description="Only these parts.")] = ()
) -> Answer:
    """What this house is set up with, as one document; no secret is in it, and nobody."""
    return desk.read(me, lambda view: set_up.document(view, part))


@router.post(
    "/check",
    response_model=wire.exchange.SetupDifferences,
    operation_id="check_setup",
    responses=REFUSALS,
)
def check(body: wire.exchange.SetupDocument, me: Who, desk: AtDesk) -> Answer:
    """What a document would change here, what that would do to what is there, and what is in the way of it; nothing is done."""
    given = _given(body)
    return desk.tried(me, lambda act: _applied(act, given, trying=True))


@router.put("", response_model=wire.exchange.SetupDifferences, operation_id="apply_setup", responses=REFUSALS)
def apply(body: wire.exchange.SetupDocument, me: Who, desk: AtDesk) -> Answer:
    """Put what a document says in place, all of it or nothing; what it does not name stays as it is."""
    given = _given(body)
    return desk.write(me, lambda act: _applied(act, given))


def _given(body: wire.exchange.SetupDocument) -> dict[str, Any]:
    """The document as it was sent. Raises `Invalid` for a bureau that cannot be reached as it says."""
    for one in body.bureaus or []:
        connectors.require_address(str(one.get("kind", "http")), str(one.get("url", "")))
    return body.model_dump(exclude_none=True)


def _applied(act: Act, given: dict[str, Any], trying: bool = False) -> Answer:
    return {"items": [asdict(one) for one in set_up.apply(act, given, trying)]}
