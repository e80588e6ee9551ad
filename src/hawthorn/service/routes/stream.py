"""The live stream: events as they are committed, as server-sent events that resume without a gap."""

from __future__ import annotations

import asyncio
import json
from typing import Annotated

from fastapi import APIRouter, Header, Request
from starlette.responses import StreamingResponse

from hawthorn.core.access import Identity
from hawthorn.operations import notices, permission, presence
from hawthorn.operations.act import Desk, View
from hawthorn.service import following
from hawthorn.service.context import AtDesk, Who
from hawthorn.store import entries, events

router = APIRouter(tags=["events"])


@router.get("/events", operation_id="stream_events", response_class=StreamingResponse)
async def stream(
    request: Request,
    me: Who,
    desk: AtDesk,
    last_event_id: Annotated[str | None, Header(alias="Last-Event-ID")] = None,
) -> StreamingResponse:
    """Follow what happens (server-sent events, HTML Living Standard section 9.2). `Last-Event-ID` resumes.

    Each event says its kind and which entries it is about, of those that the caller may read; what it did is
    read from the API. Events of the name `presence` and `notices` say that who is here, or what the caller was told,
    changed; they are no part of the log and are not repeated.
    """
    after = (
        int(last_event_id)
        if last_event_id and last_event_id.isdigit()
        else await asyncio.to_thread(desk.read, me, lambda v: events.last(v.conn)[0])
    )
    return StreamingResponse(
        following.follow(request, desk, after, lambda seq: _after(desk, me, seq), _Aside(desk, me)),
        media_type="text/event-stream",
        headers={"Cache-Control": "no-store"},
    )


def _after(desk: Desk, me: Identity, after: int) -> list[tuple[int, str]]:
    def look(view: View) -> list[tuple[int, str]]:
        out: list[tuple[int, str]] = []
        for row in events.after(view.conn, after):
            about = [
                e["uuid"]
                for (id,) in view.conn.execute(
                    "SELECT entry FROM event_about WHERE seq = ? LIMIT 50", (row["seq"],)
                ).fetchall()
                if permission.may(
                    view, "read", permission.subject(view, e := entries.entry_by_id(view.conn, id), None)
                )
            ]
            shown = about or row["kind"].startswith(("job.", "dispatch.", "commission."))
            data = json.dumps({"kind": row["kind"], "entries": about, "by": row["name"]}, ensure_ascii=False)
            out.append((row["seq"], f"id: {row['seq']}\ndata: {data}\n\n" if shown else ""))
        return out

    return desk.read(me, look)


class _Aside:
    """What is told beside the log: that somebody came, went or moved, and that there are notices."""

    def __init__(self, desk: Desk, me: Identity) -> None:
        self.desk, self.me, self.before = desk, me, self._now(desk, me)

    def __call__(self) -> list[str]:
        """The events, if something changed since they were asked for last."""
        now, before = self._now(self.desk, self.me), self.before
        self.before = now
        return [f"event: {name}\ndata: {{}}\n\n" for name in now if now[name] != before[name]]

    @staticmethod
    def _now(desk: Desk, me: Identity) -> dict[str, object]:
        return desk.read(
            me, lambda view: {"presence": presence.state(view), "notices": notices.newest_of(view)}
        )
