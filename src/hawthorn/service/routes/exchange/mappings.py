"""Mappings of rows: kept, to be used again."""

from __future__ import annotations

from dataclasses import asdict

from hawthorn import wire
from hawthorn.operations.exchange import mappings
from hawthorn.operations.runtime.act import Act
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api/mappings", "exchange")


@router.get("", response_model=wire.exchange.KeptMappings, operation_id="list_mappings", responses=REFUSALS)
def listing(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The mappings that are kept, by name."""
    return paged.of([asdict(one) for one in desk.read(me, mappings.listing)], lambda one: one["name"])


@router.get("/{name}", response_model=wire.exchange.KeptMapping, operation_id="mapping", responses=REFUSALS)
def one(name: str, me: Who, desk: AtDesk) -> Answer:
    """A mapping that is kept."""
    return desk.read(me, lambda view: asdict(mappings.get(view, name)))


@router.put(
    "/{name}", response_model=wire.exchange.KeptMapping, operation_id="keep_mapping", responses=REFUSALS
)
def keep(name: str, body: wire.exchange.RowMapping, me: Who, desk: AtDesk) -> Answer:
    """Keep a mapping under a name, for rows of the same kind that come later. One that somebody else keeps is changed by those who set up."""

    def do(act: Act) -> Answer:
        return asdict(mappings.get(act, mappings.keep(act, name, body.model_dump())))

    return desk.write(me, do)


@router.delete("/{name}", status_code=204, operation_id="drop_mapping", responses=REFUSALS)
def drop(name: str, me: Who, desk: AtDesk) -> None:
    """Keep a mapping no longer; what it brought stays."""
    desk.write(me, lambda act: mappings.drop(act, name))
