"""When something is to go: what was asked for as an instant, with what the policies of its types say of days and of the past."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from hawthorn.core import timeline
from hawthorn.core.contenttypes import policy
from hawthorn.core.contenttypes.policy import Policy
from hawthorn.core.timeline import PlannedTime
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.runtime.act import View
from hawthorn.store import dispatches as store
from hawthorn.store import entries

_DAY = re.compile(r"^\d{4}-\d\d-\d\d$")


def resolve(view: View, when: When | None, policies: Iterable[Policy] = ()) -> PlannedTime | None:
    """The planned time that was asked for; None for now. A day alone gets the usual hour; a time that is past is refused, or is now,
    or that of what goes next, as the policies say."""
    if when is None or not (when.instant or when.wall):
        return None
    known = [*policies]
    zone = when.zone or view.identity.zone
    if when.wall:
        planned = timeline.resolve_wall(with_hour(when.wall, known), zone, when.fold)
    else:
        # An instant is exact already; only a wall time is resolved again when zones change their rules.
        planned = PlannedTime(timeline.parse_instant(when.instant), "", zone, "")
        timeline.zone(zone)
    if planned.instant >= view.now:
        return planned
    past = policy.past_of(known)
    if past == "now":
        return None
    coming = store.next_instant(view.conn) if past == "next" else None
    if coming is None or coming < view.now:
        timeline.not_past(planned.instant, view.now)
        return planned
    return PlannedTime(coming, "", zone, "")


def with_hour(wall: str, policies: Iterable[Policy]) -> str:
    """A wall time as it was asked for; a day alone gets the usual hour."""
    wall = wall.strip()
    return f"{wall}T{policy.hour_of(policies)}" if _DAY.match(wall) else wall


def policies_of(view: View, requests: Sequence[MoveRequest]) -> list[Policy]:
    """The policies of the types of what is asked for, each once, in the order in which they come."""
    types = dict.fromkeys(
        row.type
        for uuid in dict.fromkeys(r.uuid for r in requests)
        if (row := entries.entry(view.conn, uuid))
    )
    return [view.setup.types[name].policy for name in types]
