"""Strands beside the draft, and proposals to bring them in."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import Query, Response

from hawthorn import wire
from hawthorn.core.errors import BaseNeeded, Conflicting
from hawthorn.core.merge import Settlement
from hawthorn.operations.content import strands
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.views import show
from hawthorn.service.context import Answer, AtDesk, IfMatch, Who
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area
from hawthorn.wire.problems import Problem

router = area("/api/entries/{id}/{locale}/strands", "strands")


@router.get("", response_model=wire.content.Strands, operation_id="list_strands", responses=REFUSALS)
def listing(id: str, locale: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The strands of an edition, open ones first."""
    return paged.of(
        desk.read(me, lambda view: strands.listing(view, id, locale)),
        lambda one: f"{one.name} {one.at}",
    )


@router.post(
    "", status_code=201, response_model=wire.views.Entry, operation_id="fork_strand", responses=REFUSALS
)
def fork(
    id: str, locale: str, body: wire.content.StrandAsk, me: Who, desk: AtDesk, response: Response
) -> Answer:
    """Fork a strand from a revision of the edition."""

    def do(act: Act) -> Answer:
        strands.fork(act, id, locale, body.name, body.revision, body.note)
        return show.entry(act, id, locale, " ".join(body.name.split()))

    answer = desk.write(me, do)
    response.headers["ETag"] = answer["etag"]
    return answer


@router.post(
    "/{name}/drop", response_model=wire.content.Strands, operation_id="drop_strand", responses=REFUSALS
)
def drop(id: str, locale: str, name: str, me: Who, desk: AtDesk) -> Answer:
    """Drop a strand; it stays in the history and can be opened again."""

    def do(act: Act) -> Answer:
        strands.drop(act, id, locale, name)
        return {"items": strands.listing(act, id, locale)}

    return desk.write(me, do)


@router.post(
    "/{name}/reopen", response_model=wire.views.Entry, operation_id="reopen_strand", responses=REFUSALS
)
def reopen(id: str, locale: str, name: str, me: Who, desk: AtDesk) -> Answer:
    """Open a strand again that was merged or dropped."""

    def do(act: Act) -> Answer:
        strands.reopen(act, id, locale, name)
        return show.entry(act, id, locale, name)

    return desk.write(me, do)


@router.get(
    "/{name}/proposal", response_model=wire.content.Proposal, operation_id="proposal", responses=REFUSALS
)
def proposal(
    id: str,
    locale: str,
    name: str,
    me: Who,
    desk: AtDesk,
    response: Response,
    take: Annotated[
        list[str] | None,
        Query(description="Fields, or blocks as field:block-id; all that the strand changed when not given."),
    ] = None,
) -> Answer:
    """What merging the strand would do; its ETag changes when either side moves."""
    answer = desk.read(me, lambda view: _shown(view, id, locale, name, take, {}))
    response.headers["ETag"] = answer["etag"]
    return answer


@router.post(
    "/{name}/proposal/check",
    response_model=wire.content.Proposal,
    operation_id="check_proposal",
    responses=REFUSALS,
)
def check(
    id: str, locale: str, name: str, body: wire.content.ProposalAsk, me: Who, desk: AtDesk, response: Response
) -> Answer:
    """The same with conflicts settled in some way, before it is done."""
    answer = desk.read(me, lambda view: _shown(view, id, locale, name, body.take, _decided(body)))
    response.headers["ETag"] = answer["etag"]
    return answer


def _decided(body: wire.content.SettlementsAsk) -> dict[str, Settlement]:
    return {place: Settlement(d.take, d.value) for place, d in body.decisions.items()}


def _shown(
    view: View, id: str, locale: str, name: str, take: list[str] | None, decisions: dict[str, Settlement]
) -> Answer:
    found = strands.propose(view, id, locale, name, take, decisions)
    return {
        "strand": name,
        "etag": found.etag,
        "taken": [asdict(d) for d in found.taken],
        "left": [asdict(d) for d in found.left],
        "places": found.places,
        "conflicts": show.conflict(view.setup.words, found.conflicts),
        "still_open": found.still_open,
        "in_the_way": view.why(found.in_the_way) if found.in_the_way else "",
    }


@router.post(
    "/{name}/proposal/keep",
    response_model=wire.content.Proposal,
    operation_id="keep_settlements",
    responses=REFUSALS,
)
def keep(id: str, locale: str, name: str, body: wire.content.SettlementsAsk, me: Who, desk: AtDesk) -> Answer:
    """Settle beforehand what both sides changed, for when a strand that belongs to a dispatch has gone out and comes into the draft."""

    def do(act: Act) -> Answer:
        strands.keep(act, id, locale, name, _decided(body))
        return _shown(act, id, locale, name, None, _decided(body))

    return desk.write(me, do, lambda view: strands.work_out(view, id, locale, name, None, _decided(body)))


@router.post("/{name}/catch-up", response_model=wire.views.Entry, operation_id="catch_up", responses=REFUSALS)
def catch_up(
    id: str,
    locale: str,
    name: str,
    body: wire.content.SettlementsAsk,
    me: Who,
    desk: AtDesk,
    response: Response,
) -> Answer:
    """Bring what went out since it was forked into a strand; 409 with what both changed, to be settled."""

    def do(act: Act) -> Answer:
        try:
            strands.catch_up(act, id, locale, name, _decided(body))
        except Conflicting as clash:
            facts = {k: v for k, v in clash.facts.items() if k != "met"}
            met = show.conflict(act.setup.words, clash.facts["met"])
            raise Conflicting(clash.message.code, **facts, conflicts=met) from None
        return show.entry(act, id, locale, name)

    answer = desk.write(me, do)
    response.headers["ETag"] = answer["etag"]
    return answer


@router.post(
    "/{name}/proposal",
    response_model=wire.views.Entry,
    operation_id="accept_proposal",
    responses={**REFUSALS, 428: {"model": Problem}},
)
def accept(
    id: str,
    locale: str,
    name: str,
    body: wire.content.ProposalAsk,
    me: Who,
    desk: AtDesk,
    response: Response,
    if_match: IfMatch = None,
) -> Answer:
    """Bring the strand in exactly as the proposal with that ETag showed it; 412 when either side moved since."""
    if if_match is None:
        raise BaseNeeded("strands.without_base")

    def do(act: Act) -> Answer:
        try:
            strands.accept(act, id, locale, name, if_match, body.take, _decided(body), body.note)
        except Conflicting as clash:
            shown = _shown(act, id, locale, name, body.take, {})
            raise Conflicting(clash.message.code, **clash.facts, conflicts=shown["conflicts"]) from None
        return show.entry(act, id, locale)

    answer = desk.write(
        me, do, lambda view: strands.work_out(view, id, locale, name, body.take, _decided(body))
    )
    response.headers["ETag"] = answer["etag"]
    return answer
