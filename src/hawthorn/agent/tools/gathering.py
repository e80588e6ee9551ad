"""How an assistant gathers what it makes in an open dispatch, and writes inside it. When it goes is for people to say."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hawthorn.agent.opening import Ctx, opened
from hawthorn.agent.shown import Changed, Gathered
from hawthorn.agent.tools import Id, Locale, Tools, Try

TOOLS = Tools()
DispatchId = Annotated[str, Field(description="The id of the dispatch (a UUID).")]


class Edition(BaseModel):
    """An entry in a locale."""

    id: Id
    locale: Locale


@TOOLS.changes("Open a dispatch")
async def open_dispatch(
    ctx: Ctx,
    name: Annotated[str, Field(description="What it is called.")],
    entries: Annotated[list[Edition], Field(description="What is to go out together.", max_length=100)],
    note: Annotated[str, Field(description="What it is for.")] = "",
    try_first: Try = False,
) -> Gathered:
    """Begin an open dispatch, in which entries are gathered that are to go out together. A person plans when it goes."""
    async with opened(ctx, try_first) as way:
        moves = [one.model_dump() for one in entries]
        made = await way.hawthorn.dispatch(moves, name=name, note=note, open=True)
        return Gathered.of(way, made, not try_first)


@TOOLS.changes("Add entries to a dispatch")
async def add_to_dispatch(
    ctx: Ctx,
    dispatch: DispatchId,
    entries: Annotated[list[Edition], Field(description="What is to go out with it.", max_length=100)],
    try_first: Try = False,
) -> Gathered:
    """Put entries into an open dispatch."""
    async with opened(ctx, try_first) as way:
        moves = [one.model_dump() for one in entries]
        return Gathered.of(way, await way.hawthorn.add_moves(dispatch, moves), not try_first)


@TOOLS.changes("Write inside a dispatch")
async def write_inside(
    ctx: Ctx, dispatch: DispatchId, id: Id, locale: Locale, try_first: Try = False
) -> Changed:
    """Open an entry inside an open dispatch: what is written on the strand that you get goes out with the dispatch, and is seen nowhere before."""
    async with opened(ctx, try_first) as way:
        found = await way.hawthorn.write_inside(dispatch, id, locale)
        return Changed.of(way, found, try_first)
