"""The live stream of whoever works here: events as they are committed, as server-sent events that resume without a gap."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass, replace
from typing import Annotated

from fastapi import Header, Request
from sse_starlette import EventSourceResponse

from hawthorn.core import numbers
from hawthorn.core.access import Identity
from hawthorn.operations import logging_in, news
from hawthorn.operations.act import View
from hawthorn.operations.news import News
from hawthorn.service.context import Who, hub_of, token_of
from hawthorn.service.live import framed
from hawthorn.service.routing import area

router = area("", "events")


@router.get("/events", operation_id="stream_events", response_class=EventSourceResponse)
async def stream(
    request: Request,
    me: Who,
    last_event_id: Annotated[str | None, Header(alias="Last-Event-ID")] = None,
) -> EventSourceResponse:
    """Follow what happens (server-sent events, HTML Living Standard section 9.2). `Last-Event-ID` resumes.

    Each event says its kind, which entries it is about, of those that the caller may read, in which locales, and which
    lists it concerns; what it did is read from the API. An event of the name `presence` names the entries at which
    somebody came, went or moved; one of the name `notices` says that the caller was told something. Those two are no part
    of the log and are not repeated.
    """
    after = numbers.whole(last_event_id or "")
    return hub_of(request).response(_Person(me, token_of(request)[0]), after)


@dataclass(frozen=True)
class _Person:
    """Somebody with a session or a key."""

    identity: Identity
    token: str

    @property
    def key(self) -> Hashable:
        """The rights themselves: who has the same, and is the same, is told the same."""
        return self.identity

    def sure(self, view: View) -> _Person:
        """With the grants of now; raises `NotLoggedIn` once the session or key has ended."""
        return replace(self, identity=logging_in.identify(view.conn, view.now, self.token))

    def told(self, _: View, found: News) -> list[bytes]:
        """The events that they may know of, who is where, and that they were told something."""
        frames = [framed(told, seq=seq) for seq, told in news.for_events(found, self.identity)]
        if found.presence and (at := news.for_presence(found, self.identity)):
            frames.append(framed({"entries": at}, name="presence"))
        if self.identity.id in found.told:
            frames.append(framed({"lists": ["notices"]}, name="notices"))
        return frames
