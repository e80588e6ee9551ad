"""Quiet periods: when nothing is released, and who may release all the same."""

from __future__ import annotations

from collections.abc import Sequence

from hawthorn.core import naming, quiet, timeline
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, Invalid, NotFound
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.quiet import QuietPeriod
from hawthorn.core.workflow import Unmet
from hawthorn.operations.access import permission
from hawthorn.operations.release.lines import Line
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import dispatches, entries
from hawthorn.store import quiet_periods as store
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.quiet_periods import KeptPeriod

OVERRIDE = "override-quiet"
"""The verb of the grant with which somebody releases in a quiet period all the same."""
MOST = 200
"""So many there may be."""
MONTH = 31 * 24 * 3600 * timeline.SECOND
_SHOWN = 500


@dataclass(frozen=True, slots=True)
class Times:
    """When nothing is to be released: wall times in a zone, once or by a rule (RFC 5545), and why."""

    begins: str
    ends: str
    zone: str = ""
    rule: str = ""
    reason: str = ""


@dataclass(frozen=True, slots=True)
class Span:
    """One time that a quiet period takes, in instants."""

    period: KeptPeriod
    since: int
    until: int


def listing(view: View) -> list[KeptPeriod]:
    """All of them; whoever works here may know when nothing goes out."""
    return store.every(view.conn)


def find(view: View, uuid: str) -> KeptPeriod:
    """One by its UUID; raises `NotFound`."""
    found = store.by_uuid(view.conn, uuid)
    if found is None:
        raise NotFound("quiet.not_there", id=uuid)
    return found


def spans(view: View, since: int, until: int) -> list[Span]:
    """The times between two instants in which nothing is released, in order; up to five hundred."""
    found = [
        Span(kept, begun, over)
        for kept in store.every(view.conn)
        for _, (begun, over) in zip(range(_SHOWN), kept.period.spans(since, until), strict=False)
    ]
    return sorted(found, key=lambda s: (s.since, s.until, s.period.id))[:_SHOWN]


def next_span(view: View, kept: KeptPeriod) -> Span | None:
    """The time of a period that is now, or comes next."""
    found = next(kept.period.spans(view.now, 1 << 62), None)
    return Span(kept, *found) if found else None


def add(act: Act, times: Times) -> str:
    """Keep quiet from one time to another; returns its UUID. What is planned in it stays planned, and is held when its time comes."""
    permission.require(act, "configure", Subject())
    if len(store.every(act.conn)) >= MOST:
        raise Invalid("quiet.too_many", most=MOST)
    uuid = new_uuid(act.now)
    period = _checked(act, times)
    store.add(act.conn, uuid, period, act.identity.id, act.now)
    mark(act)
    _tell(act, "quiet.added", uuid, period)
    return uuid


def change(act: Act, uuid: str, times: Times) -> str:
    """Other times, another rule or another reason."""
    permission.require(act, "configure", Subject())
    kept = find(act, uuid)
    period = _checked(act, times)
    store.change(act.conn, kept.id, period, act.now)
    mark(act)
    _tell(act, "quiet.changed", uuid, period)
    return uuid


def end(act: Act, uuid: str) -> None:
    """End one: from now on it holds nothing."""
    permission.require(act, "configure", Subject())
    kept = find(act, uuid)
    store.end(act.conn, kept.id, act.now)
    mark(act)
    _tell(act, "quiet.ended", uuid, kept.period)


def mark(act: Act) -> None:
    """Keep which planned dispatches lie in a quiet period by what is known now, for whoever asks what will be out."""
    planned = dispatches.may_rest(act.conn)
    taken: list[tuple[int, int]] = []
    if planned:
        for kept in store.every(act.conn):
            taken += kept.period.spans(planned[0][1], planned[-1][1] + 1)
    taken.sort()
    resting: list[int] = []
    over, ahead = 0, 0
    for id, instant in planned:
        while ahead < len(taken) and taken[ahead][0] <= instant:
            over = max(over, taken[ahead][1])
            ahead += 1
        if instant < over:
            resting.append(id)
    dispatches.rest(act.conn, resting)


def planned_in(view: View, times: Times) -> tuple[tuple[int, int] | None, list[Dispatch]]:
    """The next time that a period would take, and what is planned in it and would be held, as far as whoever asks may read it."""
    period = _checked(view, times)
    found = next(period.spans(view.now, 1 << 62), None)
    if found is None:
        return None, []
    allowed, values = permission.readable_sql(view, "e", "x")
    rows = dispatches.between(view.conn, found[0], found[1], _SHOWN, allowed, values)
    resting = {id for id, _ in dispatches.may_rest(view.conn)}
    return found, [row for row in rows if row.id in resting]


def stopping(view: View, lines: Sequence[Line], instant: int) -> Unmet | None:
    """What a quiet period says against lines that go at an instant; nothing where none of them waits for its end."""
    if not any(line.does.rests for line in lines):
        return None
    found = quiet.covering([one.period for one in store.every(view.conn)], instant)
    if found is None:
        return None
    period, over = found
    until = timeline.wall_at(over, period.zone)
    what = said(
        "unmet.quiet",
        reason=period.reason,
        until=timeline.wall_text(until),
        zone=period.zone,
    )
    return Unmet("quiet", what, "", OVERRIDE)


def require_none(view: View, lines: Sequence[Line], instant: int) -> None:
    """Refuse an instant that lies in a quiet period."""
    stop = stopping(view, lines, instant)
    if stop is not None:
        raise Invalid([FieldProblem("when", stop.what)], remedy=remedy(view, instant))


def remedy(view: View, instant: int) -> Message:
    """What to do about something that a quiet period holds at an instant: when it could go, in the zone of whoever asks."""
    free = quiet.free_from([one.period for one in store.every(view.conn)], instant)
    if free is None:
        return said("quiet.ask")
    zone = view.identity.zone
    return said("quiet.choose", free=timeline.wall_text(timeline.wall_at(free, zone)), zone=zone)


def require_override(act: Act, lines: Sequence[Line]) -> None:
    """Refuse whoever may not release the lines in a quiet period."""
    for line in lines:
        if line.does.rests:
            # What was removed meanwhile is in the way by itself, and is said with the rest.
            entry = entries.even_removed(act.conn, line.uuid)
            assert entry is not None
            stage = act.setup.stage_names[line.stage]
            permission.require(act, OVERRIDE, permission.subject(act, entry, line.locale, stage))


def _checked(view: View, times: Times) -> QuietPeriod:
    reason = naming.note("reason", times.reason)
    if not reason:
        raise Invalid([FieldProblem("reason", said("common.missing"))])
    return quiet.checked(times.begins, times.ends, times.zone or view.identity.zone, reason, times.rule)


def _tell(act: Act, kind: str, uuid: str, period: QuietPeriod) -> None:
    said_of = {"begins": period.begins, "ends": period.ends, "zone": period.zone, "rule": period.rule}
    act.event(kind, [], {"quiet_period": uuid, "reason": period.reason, **said_of})
