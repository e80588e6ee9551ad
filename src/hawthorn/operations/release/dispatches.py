"""Releasing, withdrawing and planning: dispatches and the scheduler's part in them."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

import structlog

from hawthorn.core import naming, numbers, timeline
from hawthorn.core.errors import BadTime, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.timeline import PlannedTime
from hawthorn.operations.access import permission
from hawthorn.operations.release import applying, planning
from hawthorn.operations.runtime.act import SCHEDULER, Act, View, new_uuid
from hawthorn.store import dispatches as store
from hawthorn.store import entries, failing, search
from hawthorn.store.dispatches import Dispatch, PlannedWall

log = structlog.get_logger(__name__)


LATE = 5 * timeline.SECOND
"""From this on, a dispatch that goes after its instant says that it was late."""


def make(
    act: Act,
    requests: Sequence[planning.MoveRequest],
    when: planning.When | None = None,
    *,
    name: str = "",
    note: str = "",
    with_needs: bool = False,
) -> str:
    """Release or withdraw now, or plan it; returns the dispatch's UUID.

    Raises `GateUnmet` with everything that blocks it; then nothing is planned.
    """
    if not requests:
        raise Invalid("dispatches.empty")
    planned = planning.resolve_when(act, when)
    view = planning.check(act, requests, at=planned.instant if planned else None, with_needs=with_needs)
    if view.blocked:
        raise planning.gate_unmet(view.lines)
    verbs = {x.verb for x in view.lines if x.before == x.after and x.does.idles}
    if planned is None and len(verbs) == 1 and all(x.before == x.after and x.does.idles for x in view.lines):
        raise InTheWay("dispatches.nothing_to_do", why=said(f"moves.idle.{verbs.pop()}"))
    uuid = new_uuid(act.now)
    titled = naming.line("name", name) or _name_for(act, view.lines)
    note = naming.note("note", note)
    at = planned or PlannedTime(act.now, "", act.identity.zone, "")
    made = store.add(act.conn, uuid, titled, "planned", at, note, act.now, act.identity.id)
    store.add_moves(
        act.conn, made, ((x.verb, x.edition, x.stage, x.revision, x.regress, x.payload) for x in view.lines)
    )
    if planned is None:
        _go(act, made, act.now)
    else:
        act.event("dispatch.planned", _about(act, made), _payload(act, made))
    return uuid


def _name_for(act: Act, lines: Sequence[planning.Line]) -> str:
    verbs = {x.verb for x in lines}
    verb = next(iter(verbs)) if len(verbs) == 1 else "release"
    first, *more = dict.fromkeys(x.title or act.say("common.untitled") for x in lines if not x.along)
    code = f"dispatches.named.{verb}"
    return (
        act.say("dispatches.and_more", first=act.say(code, title=first), count=len(more))
        if more
        else act.say(code, title=first)
    )


def cancel(act: Act, uuid: str) -> None:
    """Call a planned dispatch off; what it would have done does not happen."""
    row = find(act, uuid)
    for move in store.moves(act.conn, row.id):
        permission.require(act, "release", permission.subject(act, move, move.locale, move.stage_name))
    if not store.end(act.conn, row.id, "cancelled", act.now, None):
        raise InTheWay("dispatches.not_to_cancel", state=row.state)
    act.event("dispatch.cancelled", _about(act, row.id), _payload(act, row.id))


def replan(act: Act, uuid: str, when: planning.When) -> None:
    """Give a planned dispatch another time."""
    row = find(act, uuid)
    for move in store.moves(act.conn, row.id):
        permission.require(act, "release", permission.subject(act, move, move.locale, move.stage_name))
    planned = planning.resolve_when(act, when)
    if planned is None:
        raise Invalid("dispatches.without_time")
    if row.state != "planned":
        raise InTheWay("dispatches.not_to_move", state=row.state)
    store.move_instant(act.conn, row.id, planned)
    act.event("dispatch.replanned", _about(act, row.id), _payload(act, row.id))


def find(view: View, uuid: str) -> Dispatch:
    """A dispatch all of whose entries may be read."""
    row = store.by_uuid(view.conn, uuid)
    if row is None or not permission.whole(view, row.id):
        raise NotFound("dispatches.not_there", id=uuid)
    return row


def between(view: View, start: int, end: int, limit: int, cursor: str = "") -> tuple[list[Dispatch], str]:
    """Dispatches with an instant in [start, end) all of whose entries may be read, in order of time, after a place in them; and
    where the next page begins."""
    allowed, values = permission.readable_sql(view, "e", "x")
    after = numbers.pair(cursor)
    rows = store.between(view.conn, start, end, limit + 1, allowed, values, after)
    last = rows[limit - 1] if len(rows) > limit else None
    return rows[:limit], f"{last.instant}.{last.id}" if last is not None else ""


def run_due(act: Act) -> list[int]:
    """Let everything go whose instant has come, in order; anything that touches what stands does this first."""
    soonest = store.next_instant(act.conn)
    if soonest is None or soonest > act.now:
        return []
    own = act.by(permission.identity_of(act.conn, SCHEDULER))
    due = store.due(own.conn, own.now)
    for id in due:
        try:
            with own.trying():
                _go(own, id, store.by_id(own.conn, id).instant)
        except Exception as error:
            if failing.of_file(error):
                raise
            log.exception("a dispatch could not go and is held", dispatch=id)
            _hold_broken(own, id, error)
    act.resume(own)
    return due


def _hold_broken(act: Act, id: int, error: Exception) -> None:
    """Hold a dispatch that could not be worked out, with the reason; nothing else waits for it."""
    row = store.by_id(act.conn, id)
    what = act.say("dispatches.not_worked_out", error=str(error) or type(error).__name__)
    held = [
        {
            "title": row.name,
            "entry": "",
            "locale": "",
            "unmet": [{"code": "fault", "what": what, "where": "", "verb": "release"}],
        }
    ]
    late = act.now - row.instant if act.now - row.instant >= LATE else None
    if store.end(act.conn, id, "held", act.now, late, held):
        said = {"dispatch": row.uuid, "name": row.name, "planned_by": row.actor, "held": held}
        about = _about(act, id)
        act.event("dispatch.held", about, {**said, "instant": timeline.iso(row.instant), "moves": []})


def lines_of(view: View, id: int) -> list[planning.Line]:
    """The moves of a dispatch, as lines to plan."""
    return [
        planning.Line(
            m.verb,
            m.edition,
            m.stage,
            m.revision,
            bool(m.regress),
            m.uuid,
            m.locale,
            m.title,
            m.type,
            payload=json.loads(m.payload) if m.payload != "{}" else {},
        )
        for m in store.asked(view.conn, id)
    ]


def _go(act: Act, id: int, instant: int) -> None:
    """Let one dispatch go, whole or not at all. The state prevents repeats, the clock only says what is due."""
    lines = lines_of(act, id)
    planned = planning.plan_lines(act, lines, instant)
    late = act.now - instant if act.now - instant >= LATE else None
    if planned.held:
        held = [
            {
                "title": h.title,
                "unmet": [planning.condition(act, u) for u in h.unmet],
                "entry": lines[h.ord].uuid,
                "locale": lines[h.ord].locale,
            }
            for h in planned.held
        ]
        if store.end(act.conn, id, "held", act.now, late, held):
            act.event("dispatch.held", _about(act, id), {**_payload(act, id), "held": held[:50]})
        return
    if not store.end(act.conn, id, "gone", act.now, late):
        return
    applying.apply(act, planned, instant, id)
    ended = [x for x in lines if x.does.ends]
    if ended:
        entries.set_removed(act.conn, sorted({x.uuid for x in ended}), instant)
        search.drop(act.conn, [x.edition for x in ended])
    act.event("dispatch.gone", _about(act, id), {**_payload(act, id), "late_by": late or 0})


def _about(view: View, id: int) -> list[int]:
    return store.entries(view.conn, id)


def _payload(view: View, id: int) -> dict[str, Any]:
    """What an event says of a dispatch: its moves as items, up to a thousand of them."""
    row = store.by_id(view.conn, id)
    items = store.items(view.conn, id, 1000)
    return {
        "dispatch": row.uuid,
        "name": row.name,
        "planned_by": row.actor,
        "instant": timeline.iso(row.instant),
        "moves": [asdict(item) for item in items],
    }


def resolve_again(act: Act) -> int:
    """Resolve planned wall times again, as zones may have changed their rules; returns how many moved.

    One that cannot be resolved any more keeps its instant, and whoever planned it is told.
    """
    moved = 0
    for row in store.planned_walls(act.conn):
        try:
            planned = timeline.resolve_wall(row.wall, row.zone, row.fold)
        except BadTime as error:
            _unresolved(
                act,
                row,
                act.say("common.sentences", sentences=[error.message, act.setup.words.remedy(error)]),
            )
            continue
        if planned.instant != row.instant or row.trouble:
            moved += planned.instant != row.instant
            store.move_instant(act.conn, row.id, planned)
    return moved


def _unresolved(act: Act, row: PlannedWall, trouble: str) -> None:
    """Keep the instant that a wall time had, and tell whoever planned it, once."""
    if row.trouble == trouble:
        return
    store.set_trouble(act.conn, row.id, trouble)
    told = {**_payload(act, row.id), "wall": row.wall, "zone": row.zone, "trouble": trouble}
    act.event("dispatch.unresolved", _about(act, row.id), told)
