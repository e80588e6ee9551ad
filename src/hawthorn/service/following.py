"""Following what happens without polling: events as they are committed, for the console and for previews."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator, Callable

from fastapi import Request

from hawthorn.core.access import Identity
from hawthorn.core.errors import Refused
from hawthorn.operations import previews
from hawthorn.operations.act import Desk, View
from hawthorn.operations.reading import Place
from hawthorn.store import entries, events

Found = list[tuple[int, str]]
"""Sequences of events, each with what is sent of it; nothing for what is not for whoever follows."""


async def follow(
    request: Request,
    desk: Desk,
    after: int,
    look: Callable[[int], Found],
    aside: Callable[[], list[str]] | None = None,
) -> AsyncIterator[str]:
    """Server-sent events (HTML Living Standard, section 9.2) from the log after a sequence, as long as somebody listens.

    `look` gives what came after a sequence; it is asked after each commit, and once a second in any case. `aside` gives
    what is said beside the log, and is asked as often.
    """
    loop = asyncio.get_running_loop()
    rung = asyncio.Event()
    quiet = 0

    def ring() -> None:
        loop.call_soon_threadsafe(rung.set)

    stop = desk.db.bell.listen(ring)
    try:
        yield "retry: 2000\n\n"
        while not await request.is_disconnected():
            try:
                found = await asyncio.to_thread(look, after)
            except Refused:
                # What was followed is over; the client learns why when it asks again.
                return
            for seq, line in found:
                after = seq
                if line:
                    yield line
            if aside is not None:
                for line in await asyncio.to_thread(aside):
                    yield line
            quiet = 0 if found else quiet + 1
            if quiet >= 15:
                yield ": still here\n\n"
                quiet = 0
            rung.clear()
            try:
                await asyncio.wait_for(rung.wait(), 1.0)
            except TimeoutError:
                pass
    finally:
        stop()


def changes(
    request: Request, desk: Desk, whose: Identity, where: Place, after: int, word: str
) -> AsyncIterator[str]:
    """Say that what a preview shows has changed, without saying what; ends when the preview does."""
    start = after if after >= 0 else desk.read(whose, lambda view: events.last(view.conn)[0])

    def look(after: int) -> Found:
        with desk.db.read() as conn:
            previews.opened(conn, desk.clock.now(), word)
        return desk.read(whose, lambda view: _changes(view, where, after))

    return follow(request, desk, start, look)


def _changes(view: View, where: Place, after: int) -> Found:
    out: Found = []
    for row in events.after(view.conn, after):
        seq = row["seq"]
        data = json.dumps({"seq": seq})
        out.append(
            (seq, f"id: {seq}\nevent: changed\ndata: {data}\n\n" if _may_show(view, where, seq) else "")
        )
    return out


def _may_show(view: View, where: Place, seq: int) -> bool:
    """Whether an event is about something that a preview may show: an entry inside its limits, or what such entries show."""
    for row in view.conn.execute(
        "SELECT e.* FROM event_about a JOIN entry e ON e.id = a.entry WHERE a.seq = ? LIMIT 200", (seq,)
    ).fetchall():
        kind = view.setup.types.get(row["type"])
        part = kind is not None and (kind.common or kind.menu or kind.file is not None)
        layout = kind is not None and any(k.layout == kind.name for k in view.setup.types.values())
        if part or layout or where.holds(row, entries.within(view.conn, row["section"])):
            return True
    return False


def last(desk: Desk, whose: Identity, where: Place, since: int) -> tuple[int, bool]:
    """How far the log is, and whether anything after a sequence changed what a preview may show."""

    def look(view: View) -> tuple[int, bool]:
        end = events.last(view.conn)[0]
        at = since or end
        while at < end:
            found = _changes(view, where, at)
            if any(line for _, line in found):
                return end, True
            at = found[-1][0] if found else end
        return end, False

    return desk.read(whose, look)
