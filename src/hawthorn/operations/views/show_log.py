"""The event log as those who may read it see it."""

from __future__ import annotations

from typing import TypedDict

from hawthorn.core import timeline
from hawthorn.core.access import Subject
from hawthorn.core.errors import NotFound
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.release import records
from hawthorn.operations.runtime.act import View
from hawthorn.operations.views import show_history
from hawthorn.operations.views.show_history import Event
from hawthorn.store import events, people


@dataclass(frozen=True, slots=True)
class Filter:
    """What of the log is wanted: a kind or the start of one, an entry, a dispatch, a person's acts, a span of days or instants."""

    kind: str = ""
    entry: str = ""
    dispatch: str = ""
    person: str = ""
    since: str = ""
    until: str = ""


class EventPage(TypedDict):
    """Events, and where the next page begins; empty on the last."""

    items: list[Event]
    next: str


def page(view: View, wanted: Filter, before: int, limit: int) -> EventPage:
    """Events, newest first. Of an entry or a dispatch for whoever may read it; one's own; all for whoever sets up."""
    entry = dispatch = actor = None
    if wanted.entry:
        entry = permission.find(view, wanted.entry).id
    if wanted.dispatch:
        dispatch = records.find(view, wanted.dispatch).id
    if wanted.person:
        row = people.ever(view.conn, wanted.person)
        if row is None:
            raise NotFound("common.nobody", handle=wanted.person)
        actor = row.id
    if entry is None and dispatch is None and actor != view.identity.id:
        permission.require(view, "configure", Subject())
    since = timeline.day_or_instant(wanted.since) if wanted.since else 0
    until = timeline.day_or_instant(wanted.until) if wanted.until else 1 << 62
    rows = events.filtered(view.conn, wanted.kind, entry, dispatch, actor, since, until, before, limit)
    whole = permission.may(view, "configure", Subject())
    alone = "" if whole else wanted.entry
    found = [show_history.event(view, r, alone, whole=whole) for r in rows]
    return {
        "items": [event for event in found if event is not None],
        "next": str(rows[-1].seq) if len(rows) == limit else "",
    }
