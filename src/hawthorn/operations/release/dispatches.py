"""Dispatches: planned, sent, changed, called off. How they are put together stands in `gathering`, how they go in `going`, how they
are undone in `undoing`."""

from __future__ import annotations

from collections.abc import Sequence

from hawthorn.core import dispatch, moves, naming, timeline
from hawthorn.core.contenttypes.policy import Policy
from hawthorn.core.errors import BadTime, FieldProblem, InTheWay, Invalid
from hawthorn.core.messages import said
from hawthorn.core.timeline import PlannedTime
from hawthorn.operations.access import permission
from hawthorn.operations.release import (
    ends,
    gathering,
    going,
    inside,
    planning,
    quiet_periods,
    records,
    requested,
    set_fields,
    times,
)
from hawthorn.operations.release.lines import DispatchCheck, Line, MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import dispatches as store
from hawthorn.store import moves as move_store
from hawthorn.store.dispatches import Dispatch, PlannedWall


def make(
    act: Act,
    requests: Sequence[MoveRequest],
    when: When | None = None,
    *,
    name: str = "",
    note: str = "",
    with_needs: bool = False,
    partial: bool = False,
    owner: str = "",
    override_quiet: bool = False,
    until: When | None = None,
) -> str:
    """Release or withdraw now, or plan it; returns the dispatch's UUID. What is released `until` a time is withdrawn then, by a
    dispatch of its own.

    Raises `GateUnmet` with everything that blocks it; then nothing is planned.
    """
    if not requests:
        raise Invalid("dispatches.empty")
    if until is not None and (until.wall or until.instant):
        _plan_end(act, requests, when, until, name)
    planned = times.resolve(act, when, times.policies_of(act, requests))
    requests = set_fields.written(act, requests, planned.instant if planned else act.now)
    found = planning.check(
        act,
        requests,
        at=planned.instant if planned else None,
        with_needs=with_needs,
        override_quiet=override_quiet,
    )
    _require_clear(act, found, partial and planned is not None, planned.instant if planned else act.now)
    if planned is None:
        _require_something(found.lines)
    titled = naming.line("name", name) or _name_for(act, found.lines)
    at = planned or PlannedTime(act.now, "", act.identity.zone, "")
    uuid, made = records.added(act, "planned", at, About(titled, note, owner, partial))
    move_store.add_moves(act.conn, made, [x.as_new() for x in found.lines], act.identity.id)
    inside.attach(act, made, found.lines)
    _override(act, made, found.lines, at.instant, override_quiet)
    if planned is None:
        going.go(act, made, act.now)
    else:
        going.tell(act, "dispatch.planned", made)
    return uuid


def _plan_end(act: Act, requests: Sequence[MoveRequest], when: When | None, until: When, name: str) -> None:
    """Plan the withdrawal of what is to be released, for a time after that."""
    begins = times.resolve(act, when, times.policies_of(act, requests))
    ends = times.resolve(act, until, times.policies_of(act, requests))
    if ends is None or ends.instant <= (begins.instant if begins else act.now):
        raise Invalid([FieldProblem("until", said("dispatches.ends_first"))])
    leading = [r for r in requests if moves.asked(r.verb).leads]
    if not leading:
        raise Invalid([FieldProblem("until", said("dispatches.nothing_ends"))])
    back = [MoveRequest(r.uuid, r.locale, "withdraw") for r in leading]
    called = act.keep("dispatches.end_of", name=name) if name else ""
    make(
        act,
        back,
        When(
            wall=ends.wall,
            instant="" if ends.wall else timeline.iso(ends.instant),
            zone=ends.zone,
            fold=ends.fold,
        ),
        name=called,
    )


def check(
    view: View,
    uuid: str,
    when: When | None = None,
    *,
    with_needs: bool = False,
    override_quiet: bool = False,
) -> DispatchCheck:
    """What a dispatch would do at its time, or at another, and what blocks it; one that has gone, or was called off, does nothing any
    more."""
    row = records.find(view, uuid)
    if row.state not in dispatch.ACTS["send"]:
        return DispatchCheck([], [], [])
    planned = times.resolve(view, when, _policies(view, row.id))
    at = planned.instant if planned else max(row.instant or view.now, view.now)
    if row.state == "open":
        return planning.check(
            view,
            gathering.requests_of(view, row.id),
            at=at,
            with_needs=with_needs,
            asking=False,
            beside=row.id,
            override_quiet=override_quiet,
            partial=bool(row.partial),
        )
    lines = going.lines_of(view, row.id)
    # Whoever overrode the period of its own time did not override that of another: also not of now, where it was held.
    quiet_at = going.quiet_at_of(row, at) if planned is None and row.state == "planned" else at
    stopped_at = None if override_quiet else quiet_at
    planning.plan_lines(view, lines, at, planning=planned is not None, beside=row.id, quiet_at=stopped_at)
    return planning.completed(
        view, lines, beside=row.id, rest_goes=_rest_goes(view, row, lines, at, stopped_at)
    )


def lines_of(view: View, row: Dispatch) -> list[Line]:
    """What a dispatch would do by what is there now, without what blocks it."""
    return requested.kept(view, row) if row.state == "open" else going.lines_of(view, row.id)


def plan(
    act: Act, uuid: str, when: When | None = None, *, with_needs: bool = False, override_quiet: bool = False
) -> None:
    """Plan an open dispatch for a time, or for the one that it was given; each of its moves then has its revision.

    Raises `GateUnmet` with everything that blocks it.
    """
    row = records.find(act, uuid)
    if row.state != "open":
        records.require_making(act, row)
    records.require_state(row, "plan")
    planned = _time(act, row.id, when)
    if planned is None:
        if row.instant is None:
            raise Invalid("dispatches.without_time")
        timeline.not_past(row.instant, act.now)
    else:
        store.move_instant(act.conn, row.id, planned)
    at = planned.instant if planned else row.at
    _settle(act, row, at, with_needs=with_needs, override_quiet=override_quiet)
    store.put(act.conn, row.id, "planned")
    going.tell(act, "dispatch.planned", row.id)


def send(act: Act, uuid: str, *, with_needs: bool = False, override_quiet: bool = False) -> None:
    """Let a dispatch go now: one that is open, or planned for later, or after what held it is mended.

    Raises `GateUnmet` with everything that blocks it.
    """
    row = records.find(act, uuid)
    if row.state != "open":
        records.require_making(act, row)
    records.require_state(row, "send")
    if row.state == "open":
        lines = _settle(act, row, act.now, with_needs=with_needs, override_quiet=override_quiet)
    else:
        lines = going.lines_of(act, row.id)
        stopped_at = None if override_quiet else act.now
        planning.plan_lines(act, lines, act.now, beside=row.id, quiet_at=stopped_at)
        _override(act, row.id, lines, act.now, override_quiet)
        rest = _rest_goes(act, row, lines, act.now, stopped_at)
        found = planning.completed(act, lines, beside=row.id, rest_goes=rest)
        _ask_for_time(act, row, lines)
        _require_clear(act, found, bool(row.partial), act.now)
    _require_something(lines)
    store.put(act.conn, row.id, "planned")
    store.move_instant(act.conn, row.id, PlannedTime(act.now, "", act.identity.zone, ""))
    going.go(act, row.id, act.now)


def reopen(act: Act, uuid: str) -> None:
    """Open a dispatch again that has not gone, to put in or take out; it keeps its time, but does not go until it is planned
    anew."""
    row = records.find(act, uuid)
    records.require_making(act, row)
    records.require_state(row, "reopen")
    move_store.drop_along(act.conn, row.id, moves.WRITING)
    store.put(act.conn, row.id, "open")
    going.tell(act, "dispatch.opened", row.id)


def cancel(act: Act, uuid: str) -> None:
    """Call a dispatch off that has not gone; what it would have done does not happen."""
    row = records.find(act, uuid)
    if row.state == "open":
        permission.require_somewhere(act, "write")
        records.require_putting(act, row)
    else:
        records.require_making(act, row)
    records.require_state(row, "cancel")
    if row.state != "open":
        ends.require_another(act, row.id)
    gathering.call_off(act, row.id)


def replan(act: Act, uuid: str, when: When, *, override_quiet: bool = False) -> None:
    """Give a dispatch that was planned another time: also one that was held, which then goes if nothing is in its way."""
    row = records.find(act, uuid)
    records.require_making(act, row)
    planned = _time(act, row.id, when)
    if planned is None:
        raise Invalid("dispatches.without_time")
    records.require_state(row, "replan")
    lines = going.lines_of(act, row.id)
    if not override_quiet and quiet_periods.stopping(act, lines, planned.instant) is not None:
        _require_no_quiet(act, row, lines, planned.instant)
    if planned.instant <= act.now:
        found = planning.completed(act, lines, beside=row.id)
        _ask_for_time(act, row, lines)
        _require_clear(act, found, False, act.now)
    _override(act, row.id, lines, planned.instant, override_quiet)
    store.move_instant(act.conn, row.id, planned)
    store.put(act.conn, row.id, "planned")
    going.tell(act, "dispatch.replanned", row.id)


def _require_no_quiet(act: Act, row: Dispatch, lines: list[Line], at: int) -> None:
    """Raise `GateUnmet` where a quiet period would hold some lines; whatever else is in their way may be mended until then."""
    planning.plan_lines(act, lines, at, beside=row.id, quiet_at=at)
    for line in lines:
        line.unmet = [one for one in line.unmet if one.code == "quiet"]
    if any(line.unmet for line in lines):
        raise planning.gate_unmet(lines, remedy=quiet_periods.remedy(act, at))


def resolve_again(act: Act) -> int:
    """Resolve planned wall times again, as zones may have changed their rules; returns how many moved.

    One that cannot be resolved any more keeps its instant, and whoever answers for it is told.
    """
    moved = 0
    for row in store.planned_walls(act.conn):
        try:
            planned = timeline.resolve_wall(row.wall, row.zone, row.fold)
        except BadTime as error:
            _unresolved(
                act,
                row,
                act.keep("common.sentences", sentences=[error.message, act.setup.words.kept.remedy(error)]),
            )
            continue
        if planned.instant != row.instant or row.trouble:
            moved += planned.instant != row.instant
            store.move_instant(act.conn, row.id, planned)
    if moved:
        quiet_periods.mark(act)
    return moved


def _policies(view: View, id: int) -> list[Policy]:
    return times.policies_of(view, gathering.requests_of(view, id))


def _time(act: Act, id: int, when: When | None) -> PlannedTime | None:
    """The time that was asked for; one that is past and that the policies take as now is this very moment."""
    if when is None or not (when.instant or when.wall):
        return None
    now = PlannedTime(act.now, "", act.identity.zone, "")
    return times.resolve(act, when, _policies(act, id)) or now


def _override(act: Act, id: int, lines: Sequence[Line], instant: int, asked: bool) -> None:
    """Keep who overrides the quiet period that a dispatch would go in, where that is asked for and needed."""
    needed = asked and quiet_periods.stopping(act, lines, instant) is not None
    if needed:
        quiet_periods.require_override(act, lines)
    store.set_quiet_by(act.conn, id, act.identity.id if needed else None)


def _settle(act: Act, row: Dispatch, at: int, *, with_needs: bool, override_quiet: bool) -> list[Line]:
    """Give the moves of an open dispatch their revisions, with what goes along; returns its lines."""
    requests = gathering.requests_of(act, row.id)
    if not requests:
        raise Invalid("dispatches.empty")
    requests = set_fields.renewed(act, requests, at)
    found = planning.check(
        act,
        requests,
        at=at,
        with_needs=with_needs,
        beside=row.id,
        override_quiet=override_quiet,
        timed=at > act.now,
        partial=bool(row.partial),
    )
    _override(act, row.id, found.lines, at, override_quiet)
    _require_clear(act, found, bool(row.partial), at)
    before = move_store.asked_by(act.conn, row.id)
    move_store.drop_moves(act.conn, row.id)
    move_store.add_moves(act.conn, row.id, [x.as_new() for x in found.lines], act.identity.id, before)
    inside.attach(act, row.id, found.lines)
    return found.lines


def _ask_for_time(view: View, row: Dispatch, lines: Sequence[Line]) -> None:
    """Say what speaks against going now, before the time that was planned, where a type wants one; what was held has had its time."""
    if row.state == "planned" and row.at > view.now:
        planning.ask_for_time(view, lines)


def _rest_goes(view: View, row: Dispatch, lines: list[Line], at: int, quiet_at: int | None) -> bool:
    return bool(row.partial) and planning.rest_goes(view, lines, at, beside=row.id, quiet_at=quiet_at)


def _require_clear(act: Act, found: DispatchCheck, partial: bool, at: int) -> None:
    """Refuse what something stands in the way of; what goes later and follows may be approved by then."""
    stopped = found.stopped if at > act.now else [x for x in found.lines if x.unmet]
    stuck = any(x.stuck is not None for x in found.lines)
    rest = len(stopped) < len(found.lines) if at > act.now else found.rest_goes
    codes = {u.code for x in stopped for u in x.unmet}
    if stopped and (stuck or not partial or not rest or "no-date" in codes):
        quiet = "quiet" in codes
        raise planning.gate_unmet(found.lines, remedy=quiet_periods.remedy(act, at) if quiet else None)


def _require_something(lines: Sequence[Line]) -> None:
    if any(x.before != x.after or not x.does.idles for x in lines):
        return
    verbs = {x.verb for x in lines}
    if len(verbs) == 1:
        raise InTheWay("dispatches.nothing_to_do", why=said(f"moves.idle.{verbs.pop()}"))


def _name_for(act: Act, lines: Sequence[Line]) -> str:
    verbs = {x.verb for x in lines}
    verb = next(iter(verbs)) if len(verbs) == 1 else moves.USUAL
    first, *more = dict.fromkeys(x.title or act.keep("common.untitled") for x in lines if not x.along)
    code = f"dispatches.named.{verb}"
    return (
        act.keep("dispatches.and_more", first=act.keep(code, title=first), count=len(more))
        if more
        else act.keep(code, title=first)
    )


def _unresolved(act: Act, row: PlannedWall, trouble: str) -> None:
    """Keep the instant that a wall time had, and tell whoever answers for it, once."""
    if row.trouble == trouble:
        return
    store.set_trouble(act.conn, row.id, trouble)
    going.tell(act, "dispatch.unresolved", row.id, wall=row.wall, zone=row.zone, trouble=trouble)
