"""What an assistant reads: entries as they are written at, as readers see them, the outline, and what is planned."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, Field

from hawthorn.agent.opening import Ctx, opened
from hawthorn.agent.shown import Found, FoundPage, Gathered, Shown
from hawthorn.agent.tools import Id, Locale, Strand, Tools

TOOLS = Tools()


class Plan(BaseModel):
    """What goes out, and when."""

    dispatches: list[Gathered]
    next: str


@TOOLS.reads("Find entries")
async def find_entries(
    ctx: Ctx,
    words: Annotated[str, Field(description="Words that its text has, all of them.")] = "",
    type: Annotated[str, Field(description="The name of a content type.")] = "",
    locale: Locale = "",
    stage: Annotated[str, Field(description="Only what stands at this stage.")] = "",
    limit: Annotated[int, Field(ge=1, le=50)] = 20,
    cursor: Annotated[str, Field(description="The `next` of the page before.")] = "",
) -> FoundPage:
    """Find entries that you may read, the last changed first."""
    async with opened(ctx) as way:
        found = await way.hawthorn.entries(
            words=words, type=type, locale=locale, stage=stage, limit=limit, cursor=cursor
        )
        return FoundPage(entries=[Found.of(line) for line in found.items], next=found.next)


@TOOLS.reads("Read an entry")
async def read_entry(ctx: Ctx, id: Id, locale: Locale = "", strand: Strand = "") -> Shown:
    """An entry as it is written at: its draft, or another strand; with what is missing, where it stands, and what you may do with it. In its source
    language where no locale is given."""
    async with opened(ctx) as way:
        return Shown.of(way, await way.hawthorn.entry(id, locale, strand=strand))


@TOOLS.reads("Read as readers do")
async def read_as_readers(
    ctx: Ctx,
    id: Id,
    locale: Locale = "",
    stage: Annotated[str, Field(description="The stage to read at; what is out without one.")] = "",
    at: Annotated[str, Field(description="The instant to read at (RFC 3339); now without one.")] = "",
) -> dict[str, Any]:
    """An entry as readers see it, or as they will at another instant or saw it then, with its text as Markdown."""
    async with opened(ctx) as way:
        found = await way.hawthorn.read(id, locale=locale, stage=stage, at=at, texts="markdown")
        return found.model_dump(mode="json")


@TOOLS.reads("Read the outline")
async def outline(
    ctx: Ctx,
    locale: Locale = "",
    below: Annotated[str, Field(description="Only what lies below this entry.")] = "",
) -> dict[str, Any]:
    """The tree of pages that are out, with their addresses."""
    async with opened(ctx) as way:
        found = await way.hawthorn.read_outline(locale=locale, below=below)
        return found.model_dump(mode="json")


@TOOLS.reads("What is planned?")
async def planned(
    ctx: Ctx,
    state: Annotated[
        str,
        Field(
            description="open for those that are put together, held for those that wait; the timetable without one."
        ),
    ] = "",
    since: Annotated[str, Field(description="The first day, as 2026-12-01.")] = "",
    until: Annotated[str, Field(description="The last day.")] = "",
    cursor: Annotated[str, Field(description="The `next` of the page before.")] = "",
) -> Plan:
    """Dispatches: what goes out together, and when."""
    async with opened(ctx) as way:
        found = await way.hawthorn.dispatches(state=state, since=since, until=until, limit=50, cursor=cursor)
        return Plan(dispatches=[Gathered.of(way, one) for one in found.items], next=found.next)
