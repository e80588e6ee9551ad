"""Who may read an entry while it is out, and phrases that open locked ones."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import Request

from hawthorn import wire
from hawthorn.operations.access import attempts
from hawthorn.operations.delivery import limiting
from hawthorn.operations.delivery.limiting import Opened
from hawthorn.operations.runtime.act import SCHEDULER_SELF, View
from hawthorn.service.context import Answer, AtDesk, Reader, Who, source_of
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "entries")
readers = area("/read", "reading")
"""The routes of those who read."""


@router.put(
    "/entries/{id}/limit",
    response_model=wire.limiting.Limited,
    operation_id="limit_entry",
    responses=REFUSALS,
)
def limit(id: str, body: wire.limiting.LimitAsk, me: Who, desk: AtDesk) -> Answer:
    """Say who may read an entry while it is out; it holds at once."""
    # Hashed before anybody waits for the writer.
    phrase = limiting.phrase_hash(body.phrase)

    before, now = desk.write(me, lambda act: limiting.limit(act, id, body.way, body.audiences, phrase))
    return {"limit": asdict(now), "was": asdict(before)}


@router.get(
    "/audiences", response_model=wire.limiting.Audiences, operation_id="list_audiences", responses=REFUSALS
)
def audiences(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The audiences that keys read for, or that entries name."""
    found = [{"name": one} for one in desk.read(me, limiting.known_audiences)]
    return paged.of(found, lambda one: one["name"])


@readers.post(
    "/entries/{id}/unlock",
    response_model=wire.limiting.Unlocked,
    operation_id="unlock_entry",
    responses=REFUSALS,
)
def unlock(id: str, body: wire.limiting.UnlockAsk, reader: Reader, desk: AtDesk, request: Request) -> Opened:
    """Give the phrase of a locked entry. Wrong ones are counted, and whoever guesses waits longer and longer."""
    lock = desk.read(reader, lambda view: limiting.lock(view, id))
    source = source_of(request)
    if reader.id and body.visitor:
        source = f"{reader.handle} {body.visitor}"
    name = f"entry {lock.entry}"
    desk.write(SCHEDULER_SELF, lambda act: attempts.begin(act, name, source))

    def look(view: View) -> Opened:
        return limiting.tried(view, lock, body.phrase)

    opened = desk.read(reader, look)
    desk.write(SCHEDULER_SELF, lambda act: attempts.right(act, name, source))
    return opened
