"""Figures, and the entries behind each."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Query

from hawthorn import wire
from hawthorn.operations.runtime.act import View
from hawthorn.operations.views import figures
from hawthorn.operations.views.figures import Asked
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "views")


def _asked(
    weeks: Annotated[
        int, Query(ge=figures.LEAST, le=figures.MOST, description="So many weeks, until this one.")
    ] = 13,
    type: str = "",
    section: str = "",
    locale: str = "",
    person: Annotated[
        str, Query(description="Only what this person let go on, by handle; for whoever may see people.")
    ] = "",
) -> Asked:
    return Asked(weeks, type, section, locale, person)


FiguresAsked = Annotated[Asked, Depends(_asked)]


@router.get("/figures", response_model=wire.figures.Figures, operation_id="figures", responses=REFUSALS)
def look(me: Who, desk: AtDesk, asked: FiguresAsked) -> Answer:
    """How long the work stays where, what waits and for whom, what came back, what went out and how late, how far translations keep up, and what bureaus
    and machines did: of what the caller may read."""
    return desk.read(me, lambda view: figures.look(view, asked))


@router.get(
    "/figures/behind",
    response_model=wire.figures.FigureLines,
    operation_id="behind_figures",
    responses=REFUSALS,
)
def behind(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    asked: FiguresAsked,
    figure: Annotated[wire.figures.FigureKind, Query(description="Which kind of number.")] = "stay",
    stage: Annotated[str, Query(description="The stage that a stay is at; all of them when empty.")] = "",
    week: Annotated[str, Query(description="The week, by its Monday; all of them when empty.")] = "",
) -> Answer:
    """The entries that a number stands for, the latest first."""

    def read(view: View) -> Answer:
        found, more = figures.behind(view, figure, stage, week, asked, paged.limit, paged.cursor)
        return paged.answer(found, more)

    return desk.read(me, read)
