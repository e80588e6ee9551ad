"""What an assistant writes: entries, changes of them, strands; and how it asks people to look."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import Field

from hawthorn.agent.opening import Ctx, opened
from hawthorn.agent.resources import START
from hawthorn.agent.shown import Changed, Done
from hawthorn.agent.tools import Id, Locale, Strand, Tools, Try

TOOLS = Tools()
Fields = Annotated[
    dict[str, Any],
    Field(
        description='Values by the names of fields, as the schema of the type says; rich text as HTML, {"markdown": …} for Markdown.'
    ),
]


@TOOLS.changes("Start an entry")
async def start_entry(
    ctx: Ctx,
    type: Annotated[str, Field(description="The name of its content type.")],
    fields: Fields,
    locale: Locale = "en",
    brief: Annotated[
        str,
        Field(
            description="The words in which you were asked for it; kept beside the draft for whoever looks at it."
        ),
    ] = "",
    try_first: Try = False,
) -> Changed:
    """Start an entry as a draft. Nobody outside sees it before people have signed it off and released it."""
    async with opened(ctx, try_first) as way:
        made = await way.hawthorn.start(type, fields, locale=locale, note="Drafted by an assistant.")
        if brief and not try_first:
            await way.hawthorn.comment(made.id, made.locale, f"{START}{brief}")
            made = await way.hawthorn.entry(made.id, made.locale)
        return Changed.of(way, made, try_first)


@TOOLS.changes("Change an entry")
async def change_entry(
    ctx: Ctx,
    id: Id,
    locale: Locale,
    fields: Fields,
    etag: Annotated[
        str,
        Field(
            description="The `etag` with which you read it, so that what others wrote since is merged and not written over."
        ),
    ],
    note: Annotated[str, Field(description="What you changed and why, in a few words.")] = "",
    strand: Strand = "draft",
    try_first: Try = False,
) -> Changed:
    """Change fields of an entry. What others changed elsewhere merges by itself; where both changed one place you are told, and nothing is lost."""
    async with opened(ctx, try_first) as way:
        saved = await way.hawthorn.save(id, locale, fields, etag=etag, note=note, strand=strand or "draft")
        return Changed.of(way, saved.entry, try_first, [one.author for one in saved.merged_with])


@TOOLS.changes("Fork a strand")
async def fork_strand(
    ctx: Ctx,
    id: Id,
    locale: Locale,
    name: Annotated[str, Field(description="What the work beside the draft is called.")],
    try_first: Try = False,
) -> Changed:
    """Begin work beside the draft of an entry: what is written on the strand changes nothing until a person merges it."""
    async with opened(ctx, try_first) as way:
        made = await way.hawthorn.fork_strand(id, locale, name)
        return Changed.of(way, made, try_first)


@TOOLS.changes("Ask for review")
async def ask_for_review(
    ctx: Ctx,
    id: Id,
    locale: Locale,
    note: Annotated[str, Field(description="What reviewers should know.")] = "",
    try_first: Try = False,
) -> Changed:
    """Submit a draft, as it is now, to the people who review it. They sign it off or send it back; you cannot."""
    async with opened(ctx, try_first) as way:
        found = await way.hawthorn.submit(id, locale, note)
        return Changed.of(way, found, try_first)


@TOOLS.changes("Give out a preview link")
async def preview_link(
    ctx: Ctx,
    id: Id,
    strand: Strand = "",
    dispatch: Annotated[str, Field(description="Show it as it will be once this dispatch has gone.")] = "",
    days: Annotated[int, Field(ge=1, le=30, description="How long it opens.")] = 7,
    try_first: Try = False,
) -> Done:
    """A signed link at which somebody without an account sees the draft of an entry on the site, and nothing else."""
    async with opened(ctx, try_first) as way:
        made = await way.hawthorn.give_link(
            id, strand=strand, dispatch=dispatch, lasts=days * 86_400, name="Given out by an assistant"
        )
        return Done(done=not try_first, id=made.id, says=" ".join(one.url for one in made.addresses))
