"""A person's rights: what the records hold about them, and taking their name out."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from hawthorn import wire
from hawthorn.operations.exchange import rights
from hawthorn.operations.runtime.act import Act
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.routing import REFUSALS, area

router = area("/api/people", "people")


@router.get("/{handle}/data", operation_id="person_data", responses=REFUSALS)
def data(handle: str, me: Who, desk: AtDesk) -> dict[str, Any]:
    """Everything that the records hold about somebody, for themselves and for whoever sets up people: what they are, have and did, and what they were told."""
    return desk.read(me, lambda view: rights.about(view, handle))


@router.post(
    "/{handle}/forget/check",
    response_model=wire.exchange.Forgotten,
    operation_id="check_forget_person",
    responses=REFUSALS,
)
def check(handle: str, me: Who, desk: AtDesk) -> Answer:
    """In how much the name of somebody who has left stands; nothing is changed."""
    return desk.tried(me, lambda act: _forgotten(act, handle))


@router.post(
    "/{handle}/forget",
    response_model=wire.exchange.Forgotten,
    operation_id="forget_person",
    responses=REFUSALS,
)
def forget(handle: str, me: Who, desk: AtDesk) -> Answer:
    """Take the name, handle and address of somebody who has left out of the records and the payloads of the log; the chain of the log still holds. It cannot
    be undone."""
    return desk.write(me, lambda act: _forgotten(act, handle))


def _forgotten(act: Act, handle: str) -> Answer:
    return asdict(rights.forget(act, handle))
