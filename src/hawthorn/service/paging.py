"""One form for every list: `limit` and `cursor` go in; `items`, `next` and a `Link` to the next page (RFC 8288) come out."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import Depends, Query, Request, Response
from pydantic_core import to_json

from hawthorn.core.errors import Invalid
from hawthorn.service.context import next_page
from hawthorn.service.kept import Answered

MOST = 500
"""So many items a page has at most."""
Limit = Annotated[int, Query(ge=1, le=MOST, description="The most items of a page.")]
Cursor = Annotated[
    str,
    Query(
        max_length=200, description="Where the page begins: `next` of the page before; empty for the first."
    ),
]
Since = Annotated[
    str, Query(max_length=40, description="From this instant (RFC 3339) or day (its first moment in UTC) on.")
]
Until = Annotated[str, Query(max_length=40, description="Before this instant or day.")]
Person = Annotated[str, Query(max_length=80, description="Only what this person answers for (a handle).")]
OfType = Annotated[str, Query(max_length=80, description="Only what is about entries of this type.")]
OfLocale = Annotated[str, Query(max_length=35, description="Only what is about this locale.")]
OfSection = Annotated[
    str, Query(max_length=40, description="Only what is about this section (the id of its entry).")
]
Answer = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Paging:
    """The page of a list that is asked for."""

    request: Request
    response: Response
    limit: int
    cursor: str

    def leads_on(self, more: str) -> None:
        """Say in the header where the next page begins; nothing on the last."""
        if more:
            self.response.headers["Link"] = next_page(self.request, more)

    def answer(self, items: Sequence[Any], more: str, /, **beside: Any) -> Answer:
        """A page and where the next begins, empty on the last."""
        self.leads_on(more)
        return {"items": items, "next": more, **beside}

    def whole(self, items: Sequence[Any], more: str) -> Answered:
        """The same as it is sent, for a page that is kept: its lines are in the form that the wire has."""
        body: bytes = to_json({"items": items, "next": more})
        return Answered(body, next_page(self.request, more) if more else "")

    def of(self, whole: Sequence[Any], key: Callable[[Any], Any], /, **beside: Any) -> Answer:
        """A page of a list that is at hand as a whole; a cursor is the key of the last item of the page before."""
        start = 0
        if self.cursor:
            keys = [str(key(one)) for one in whole]
            if self.cursor not in keys:
                raise Invalid("paging.cursor")
            start = keys.index(self.cursor) + 1
        items = whole[start : start + self.limit]
        more = str(key(items[-1])) if len(whole) > start + self.limit else ""
        return self.answer(items, more, **beside)


async def paging(request: Request, response: Response, limit: Limit = 100, cursor: Cursor = "") -> Paging:
    """The page that a request asks for; on the loop, as nothing is looked up for it."""
    return Paging(request, response, limit, cursor)


Paged = Annotated[Paging, Depends(paging)]
