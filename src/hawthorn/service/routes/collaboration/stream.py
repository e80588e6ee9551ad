"""The live stream of whoever works here: events as they are committed, as server-sent events that resume without a gap."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from typing import Annotated

from fastapi import Header, Query, Request
from sse_starlette import EventSourceResponse

from hawthorn.core import numbers
from hawthorn.core.access import Identity
from hawthorn.operations.access import logging_in
from hawthorn.operations.collaboration import news, presence
from hawthorn.operations.collaboration.news import News, Only
from hawthorn.operations.runtime.act import Desk, View
from hawthorn.service import serving
from hawthorn.service.context import Who, desk_of, hub_of, token_of
from hawthorn.service.live import framed
from hawthorn.service.routing import area

router = area("", "events")


@router.get(
    "/events", operation_id="stream_events", response_class=EventSourceResponse, responses=serving.STREAMED
)
async def stream(
    request: Request,
    me: Who,
    window: Annotated[
        str,
        Query(
            max_length=40,
            pattern=r"^[A-Za-z0-9-]*$",
            description="A window of a browser: pages that are named after it, with a dot behind, are left when the stream ends.",
        ),
    ] = "",
    kinds: Annotated[
        list[str] | None,
        Query(
            description="Only events of these kinds, or of kinds that begin so (`review.`); may be given several times."
        ),
    ] = None,
    section: Annotated[
        str, Query(max_length=40, description="Only what is about this section (the id of its entry).")
    ] = "",
    stage: Annotated[
        str, Query(max_length=80, description="Only what is about this stage, where an event is about one.")
    ] = "",
    last_event_id: Annotated[str | None, Header(alias="Last-Event-ID")] = None,
) -> EventSourceResponse:
    """Follow what happens (server-sent events, HTML Living Standard section 9.2). `Last-Event-ID` resumes.

    Each event says its kind, which entries it is about, of those that the caller may read, in which locales, and which
    lists it concerns; what it did is read from the API. An event of the name `presence` names the entries at which
    somebody came, went or moved; one of the name `notifications` says that the caller was told something. Those two are no part
    of the log and are not repeated; whoever asks for some kinds, a section or a stage is not told them.
    """
    after = numbers.whole(last_event_id or "")
    wanted = news.ALL
    if kinds or section or stage:
        wanted = await asyncio.to_thread(
            desk_of(request).read, me, lambda view: news.only(view, kinds or (), section, stage)
        )
    return hub_of(request).response(_Person(me, token_of(request)[0], window, wanted), after)


@dataclass(frozen=True)
class _Person:
    """Somebody with a session or a key."""

    identity: Identity
    token: str
    window: str = ""
    wanted: Only = news.ALL

    @property
    def key(self) -> Hashable:
        """The rights themselves: who has the same, is the same and wants the same, is told the same."""
        return self.identity, self.wanted

    def sure(self, view: View) -> _Person:
        """With the grants of now; raises `NotLoggedIn` once the session or key has ended."""
        return replace(self, identity=logging_in.identify(view.conn, view.now, self.token))

    def ended(self, desk: Desk, again: Callable[[str], bool]) -> None:
        """Leave what the window had open, unless it has come back."""
        if not again(self.window) and desk.read(
            self.identity, lambda view: presence.in_window(view, self.window)
        ):
            desk.write(self.identity, lambda act: presence.window_gone(act, self.window))

    def told(self, _: View, found: News) -> list[bytes]:
        """The events that they may know of, who is where, and that they were told something."""
        frames = [framed(told, seq=seq) for seq, told in news.for_events(found, self.identity, self.wanted)]
        if self.wanted != news.ALL:
            return frames
        if found.presence and (at := news.for_presence(found, self.identity)):
            frames.append(framed({"entries": at}, name="presence"))
        if self.identity.id in found.told:
            frames.append(framed({"lists": ["notifications"]}, name="notifications"))
        return frames
