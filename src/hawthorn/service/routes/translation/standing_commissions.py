"""Standing commissions: what changes goes out by itself."""

from __future__ import annotations

from hawthorn import wire
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import sending, standing_commissions
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api/standing-commissions", "translation")


@router.get(
    "",
    response_model=wire.standing_commissions.StandingCommissions,
    operation_id="list_standing_commissions",
    responses=REFUSALS,
)
def listing(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The standing commissions of sections that whoever asks may commission for, by name."""

    def look(view: View) -> Answer:
        found = paged.of(standing_commissions.listing(view), lambda one: one.id)
        return found | {"translators": sending.translators(view)}

    return desk.read(me, look)


@router.post(
    "",
    status_code=201,
    response_model=wire.standing_commissions.StandingCommission,
    operation_id="add_standing_commission",
    responses=REFUSALS,
)
def add(body: wire.standing_commissions.StandingAsk, me: Who, desk: AtDesk) -> Answer:
    """Send what changes in a section from now on, by itself, with the rights of whoever sets it up."""

    def do(act: Act) -> Answer:
        return standing_commissions.look(act, standing_commissions.add(act, body.model_dump()))

    return desk.write(me, do)


@router.patch(
    "/{id}",
    response_model=wire.standing_commissions.StandingCommission,
    operation_id="change_standing_commission",
    responses=REFUSALS,
)
def change(id: str, body: wire.standing_commissions.StandingChange, me: Who, desk: AtDesk) -> Answer:
    """Change what is given of a standing commission, or switch it on or off; what waits goes on waiting."""

    def do(act: Act) -> Answer:
        standing_commissions.change(act, id, body.model_dump(exclude_none=True))
        return standing_commissions.look(act, id)

    return desk.write(me, do)


@router.delete("/{id}", status_code=204, operation_id="end_standing_commission", responses=REFUSALS)
def end(id: str, me: Who, desk: AtDesk) -> None:
    """End a standing commission; what it has sent goes on."""
    desk.write(me, lambda act: standing_commissions.end(act, id))


@router.post(
    "/{id}/send",
    response_model=wire.standing_commissions.StandingSent,
    operation_id="send_standing_commission",
    responses=REFUSALS,
)
def send(id: str, me: Who, desk: AtDesk) -> Answer:
    """Send what waits without waiting for the rest of the pause."""

    def do(act: Act) -> Answer:
        sent = standing_commissions.send_now(act, id)
        return {"entries": sent, "commission": standing_commissions.look(act, id)}

    return desk.write(me, do)
