"""Coverage: entries against locales, and their sums."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Query

from hawthorn import wire
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import against, grid
from hawthorn.operations.translation.grid import Asked
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "translation")


def _asked(
    type: str = "",
    words: str = "",
    section: str = "",
    owner: Annotated[str, Query(description="Who began the entry, by handle.")] = "",
    due: Annotated[str, Query(description="In a job that is due on this day or before it.")] = "",
    locale: Annotated[str, Query(description="The locale that `state` is about; any when empty.")] = "",
    state: wire.coverage.CoverageAsked = "",
) -> Asked:
    return Asked(type, words, section, owner, due, locale, state)


GridAsked = Annotated[Asked, Depends(_asked)]


@router.get(
    "/translation/grid",
    response_model=wire.coverage.Grid,
    operation_id="translation_grid",
    responses=REFUSALS,
)
def lines(me: Who, desk: AtDesk, paged: Paged, asked: GridAsked) -> Answer:
    """Entries with something to translate against the locales: what each edition is, and how far it covers its source."""

    def look(view: View) -> Answer:
        found, more = grid.lines(view, asked, paged.limit, paged.cursor)
        return paged.answer(found, more)

    return desk.read(me, look)


@router.get(
    "/translation/totals",
    response_model=wire.coverage.Totals,
    operation_id="translation_totals",
    responses=REFUSALS,
)
def totals(me: Who, desk: AtDesk, asked: GridAsked) -> Answer:
    """The sums of all that the grid has: entries by state, units and words, by locale."""
    return {"locales": desk.read(me, lambda view: grid.totals(view, asked))}


@router.get(
    "/entries/{id}/{locale}/coverage",
    response_model=wire.coverage.EntryCoverage,
    operation_id="entry_coverage",
    responses=REFUSALS,
)
def of_entry(id: str, locale: str, me: Who, desk: AtDesk) -> Answer:
    """How an entry stands in the locales, and what is due in one of them, with the words of its source that changed since."""
    return desk.read(me, lambda view: against.look(view, id, locale))


@router.post(
    "/entries/{id}/{locale}/still-fits",
    response_model=wire.coverage.EntryCoverage,
    operation_id="still_fits",
    responses=REFUSALS,
)
def still_fits(id: str, locale: str, body: wire.coverage.StillFits, me: Who, desk: AtDesk) -> Answer:
    """Say that texts of a translation fit their source as it is now, after looking at both."""

    def do(act: Act) -> Answer:
        against.still_fits(act, id, locale, body.fits)
        act.derive()
        return against.look(act, id, locale)

    return desk.write(me, do)
