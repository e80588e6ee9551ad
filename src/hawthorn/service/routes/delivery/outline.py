"""The outline: a level at a time, the way to an entry, moving and copying."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query

from hawthorn import wire
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import outline, previews, reading
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.views import show_lines
from hawthorn.service.context import Answer, AtDesk, Once, Who, fingerprint
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area
from hawthorn.store.standings import DRAFT

router = area("/api/outline", "outline")
Stage = Annotated[
    str, Query(description="The stage at which the outline is looked at; the drafts when not given.")
]
At = Annotated[str, Query(description="The instant, past or planned; now when not given.")]
Within = Annotated[
    str, Query(alias="dispatch", description="The dispatch (its id) that is looked at as if it had gone.")
]
Locale = Annotated[str, Query(description="The locale of the titles; the source's where there is none.")]


def _where(view: View, stage: str, at: str, within: str) -> Place:
    if within:
        return reading.place(view, stage, at, within)
    return previews.place(view, stage or "draft", at)


@router.get("", response_model=wire.delivery.OutlineLevel, operation_id="outline_level", responses=REFUSALS)
def level(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    below: Annotated[str, Query(description="The entry whose level it is; the top when not given.")] = "",
    locale: Locale = "",
    stage: Stage = "",
    at: At = "",
    within: Within = "",
) -> Answer:
    """The entries below one, in order."""

    def look(view: View) -> Answer:
        where = _where(view, stage, at, within)
        lines, more = outline.below(view, below, where, locale, limit=paged.limit, cursor=paged.cursor)
        items = show_lines.outline_lines(view, lines, where.at)
        return paged.answer(items, more, allowed=outline.allowed_below(view, below))

    return desk.read(me, look)


@router.get(
    "/search", response_model=wire.delivery.OutlineMatches, operation_id="search_outline", responses=REFUSALS
)
def search(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    words: Annotated[str, Query(min_length=1, max_length=200, description="Words of their drafts.")],
    locale: Locale = "",
) -> Answer:
    """Pages by words of their drafts, each with what is above it."""

    def look(view: View) -> Answer:
        found = outline.search(view, words, locale)
        lines = show_lines.outline_lines(view, [one for one, _ in found])
        items = [{"line": line, "above": above} for line, (_, above) in zip(lines, found, strict=True)]
        return paged.of(items, lambda one: one["line"]["id"])

    return desk.read(me, look)


@router.get(
    "/{id}/trail", response_model=wire.delivery.OutlineTrail, operation_id="outline_trail", responses=REFUSALS
)
def trail(
    id: str,
    me: Who,
    desk: AtDesk,
    locale: Locale = "",
    stage: Stage = "",
    at: At = "",
    within: Within = "",
) -> Answer:
    """An entry and all above it, the topmost first."""

    def look(view: View) -> Answer:
        lines = outline.trail(view, id, _where(view, stage, at, within), locale)
        return {"items": show_lines.outline_lines(view, lines)}

    return desk.read(me, look)


@router.post(
    "/{id}/move",
    response_model=wire.delivery.OutlineMoved,
    operation_id="move_in_outline",
    responses=REFUSALS,
)
def move(id: str, body: wire.delivery.OutlineMove, me: Who, desk: AtDesk) -> Answer:
    """Place an entry elsewhere in the drafts; what is out stays where it is until the move is released."""

    def do(act: Act) -> Answer:
        if body.undo:
            done = outline.place(act, id, body.placement)
        else:
            done = outline.move(act, id, body.below, before=body.before, after=body.after)
        lines = outline.trail(act, id, Place(DRAFT))
        return {
            "line": next(iter(show_lines.outline_lines(act, lines[-1:])), None),
            "was": done.before,
            "etag": entries.base_now(act, id).etag,
        }

    return desk.write(me, do)


@router.post(
    "/{id}/copy",
    status_code=201,
    response_model=wire.delivery.OutlineCopied,
    operation_id="copy_in_outline",
    responses=REFUSALS,
)
def copy(id: str, body: wire.delivery.OutlineCopyAsk, me: Who, desk: AtDesk, once: Once = None) -> Answer:
    """Copy an entry with all that is placed below it, in all locales."""

    def do(act: Act) -> Answer:
        made, count = outline.copy(act, id, body.below)
        return {"id": made, "entries": count}

    return desk.once(me, once, "copy_in_outline", fingerprint(body) + id, do)
