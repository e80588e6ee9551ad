"""How an assistant reads comments and answers them."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hawthorn.agent.opening import Ctx, opened
from hawthorn.agent.shown import Done, Said
from hawthorn.agent.tools import Id, Locale, Tools, Try

TOOLS = Tools()


class Talk(BaseModel):
    """The comments on an entry."""

    comments: list[Said]
    next: str


@TOOLS.reads("Read comments")
async def comments(
    ctx: Ctx,
    id: Id,
    locale: Locale,
    cursor: Annotated[str, Field(description="The `next` of the page before.")] = "",
) -> Talk:
    """What people and programs say about an entry."""
    async with opened(ctx) as way:
        found = await way.hawthorn.comments(id, locale, limit=50, cursor=cursor)
        return Talk(comments=[Said.of(one) for one in found.items], next=found.next)


@TOOLS.changes("Comment")
async def comment(
    ctx: Ctx,
    id: Id,
    locale: Locale,
    text: Annotated[str, Field(description="What you want to say; name people with @ and their handle.")],
    field: Annotated[str, Field(description="The field that it is about.")] = "",
    try_first: Try = False,
) -> Done:
    """Say something about an entry to the people who work on it."""
    async with opened(ctx, try_first) as way:
        made = await way.hawthorn.comment(id, locale, text, field=field)
        return Done(done=not try_first, id=made.id)


@TOOLS.changes("Answer a comment")
async def answer_comment(
    ctx: Ctx,
    comment: Annotated[str, Field(description="The id of the comment.")],
    text: Annotated[str, Field(description="Your answer.")],
    try_first: Try = False,
) -> Done:
    """Answer a comment. Whoever made it says when it is settled."""
    async with opened(ctx, try_first) as way:
        await way.hawthorn.reply_to_comment(comment, text)
        return Done(done=not try_first, id=comment)
