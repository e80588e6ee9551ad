"""How dispatches go: whole or not at all, in order, once; what cannot go is held and said."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Any

import structlog

from hawthorn.core import moves, timeline
from hawthorn.core.dispatch import Held
from hawthorn.core.messages import told_by
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.release import applying, drafts, inside, planning, requested, review
from hawthorn.operations.release.lines import Line
from hawthorn.operations.runtime.act import SCHEDULER, Act, View, new_uuid
from hawthorn.store import dispatches as store
from hawthorn.store import failing, planned_fields, put_away, search
from hawthorn.store import leaving as leaving_store
from hawthorn.store import moves as move_store
from hawthorn.store.dispatches import Dispatch

log = structlog.get_logger(__name__)

LATE = 5 * timeline.SECOND
"""From this on, a dispatch that goes after its instant says that it was late."""


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
                go(own, id, store.by_id(own.conn, id).at)
                # What follows goes with it: where that fails, nothing else waits for it.
                own.settle()
                own.derive()
        except Exception as error:
            if failing.of_file(error):
                raise
            log.exception("a dispatch could not go", dispatch=id)
            _fail(own, id, error)
    act.resume(own)
    return due


def lines_of(view: View, id: int) -> list[Line]:
    """The moves of a dispatch that was planned, as lines to plan; those that follow bring what is approved by now, and what else there
    is to take along by then is with them."""
    lines = [requested.line_of(view, m) for m in move_store.asked(view.conn, id)]
    return requested.by_then(view, lines, id)


def go(act: Act, id: int, instant: int) -> None:
    """Let one dispatch go, whole or not at all. The state prevents repeats, the clock only says what is due."""
    row = store.by_id(act.conn, id)
    lines = lines_of(act, id)
    removal, archival = (away_of(act, row, verbs) for verbs in (moves.ENDING, moves.SHELVING))
    late = _late(act, instant)
    quiet_at = quiet_at_of(row, instant if late is None else act.now)
    back = removal.back | archival.back
    planned = planning.plan_lines(act, lines, instant, beside=id, reviving=back, quiet_at=quiet_at)
    staying: list[Line] = []
    if planned.held and row.partial:
        lines, planned, staying = planning.rest_of(act, lines, planned, instant, beside=id, quiet_at=quiet_at)
    if planned.held:
        held = [_condition(act, h, lines) for h in planned.held]
        if store.end(act.conn, id, "held", act.now, late, held):
            tell(act, "dispatch.held", id, held=held[:50])
        return
    if not store.end(act.conn, id, "gone", act.now, late):
        return
    if staying:
        _hold_back(act, row, staying)
    _keep_by_then(act, row, lines)
    applying.apply(act, planned, instant, id)
    _put_away(act, lines, removal, archival, instant)
    tell(act, "dispatch.gone", id, late_by=late or 0, **_undoing(act, row))
    _submit(act, row, lines)
    inside.bring_in(act, id)


def _keep_by_then(act: Act, row: Dispatch, lines: Sequence[Line]) -> None:
    """Keep what else came and left by then than was planned: what is undone is what was done."""
    if all(x.about is not None for x in lines) and len(lines) == move_store.count_moves(act.conn, row.id):
        return
    kept = {m.edition for m in move_store.asked(act.conn, row.id)}
    here = {x.edition for x in lines}
    if kept - here:
        move_store.drop_moves(act.conn, row.id, kept - here)
    if here - kept:
        move_store.add_moves(
            act.conn, row.id, [x.as_new() for x in lines if x.edition not in kept], row.owner
        )


def quiet_at_of(row: Dispatch, instant: int) -> int | None:
    """When a quiet period may hold a dispatch that goes at an instant; never where somebody overrides it."""
    return instant if row.quiet_by is None else None


def _hold_back(act: Act, row: Dispatch, back: Sequence[Line]) -> None:
    """Keep what could not go with the rest as a dispatch of its own that is held."""
    uuid = new_uuid(act.now)
    name = act.keep("dispatches.held_back", name=row.name)
    time = timeline.PlannedTime(row.at, row.wall, row.zone, row.fold)
    made = store.add(
        act.conn,
        uuid,
        name,
        "planned",
        time,
        row.note,
        act.now,
        row.actor,
        owner=row.owner,
        held_back_from=row.id,
    )
    editions = [x.edition for x in back]
    before = move_store.asked_by(act.conn, row.id)
    move_store.drop_moves(act.conn, row.id, editions)
    move_store.add_moves(act.conn, made, [x.as_new() for x in back], row.owner, before)
    leaving_store.carry(act.conn, row.id, made, editions)
    planned_fields.carry(act.conn, row.id, made)
    planned = [Held(n, x.edition, x.title, tuple(x.unmet)) for n, x in enumerate(back) if x.unmet]
    held = [_condition(act, h, back) for h in planned]
    store.end(act.conn, made, "held", act.now, None, held)
    tell(act, "dispatch.held", made, held=held[:50], held_back_from=row.uuid)


def _condition(view: View, held: Held, lines: Sequence[Line]) -> dict[str, Any]:
    line = lines[held.ord]
    unmet = [planning.condition(view, u) for u in held.unmet]
    return {"title": held.title, "unmet": unmet, "entry": line.uuid, "locale": line.locale}


def _fail(act: Act, id: int, error: Exception) -> None:
    """Stop a dispatch that could not be worked out, with the reason; nothing else waits for it."""
    row = store.by_id(act.conn, id)
    what = act.keep("dispatches.not_worked_out", error=told_by(error))
    unmet = [{"code": "fault", "what": what, "where": "", "verb": "release"}]
    held = [{"title": row.name, "entry": "", "locale": "", "unmet": unmet}]
    if store.end(act.conn, id, "failed", act.now, _late(act, row.at), held):
        # What its moves are may be what cannot be worked out.
        store.touch(act.conn, id, act.now)
        told = {"dispatch": row.uuid, "name": row.name, "planned_by": row.owner, "held": held}
        about = move_store.entries(act.conn, id)
        act.event("dispatch.held", about, {**told, "instant": timeline.iso(row.at), "moves": []})


def _late(act: Act, instant: int) -> int | None:
    """How late what is due at an instant goes by now; None for what goes in time."""
    return act.now - instant if act.now - instant >= LATE else None


@dataclass(frozen=True, slots=True)
class Away:
    """The entries (UUIDs) that a dispatch puts away, and those that it brings back."""

    gone: set[str]
    back: set[str]


def away_of(view: View, row: Dispatch, verbs: Collection[str]) -> Away:
    """What a dispatch does with entries that one of some verbs removes, or puts into the archive: what it undoes turned about, as
    far as it moves them."""
    if row.undoes is None:
        return Away(set(move_store.moved_with(view.conn, row.id, verbs)), set())
    undone = away_of(view, store.by_id(view.conn, row.undoes), verbs)
    moved = set(move_store.moved_with(view.conn, row.id, moves.VERBS))
    return Away(undone.back & moved, undone.gone & moved)


def _put_away(act: Act, lines: Sequence[Line], removal: Away, archival: Away, instant: int) -> None:
    """Remove the entries that end with what goes, put others into the archive, and bring back those whose end it undoes."""
    here = {x.uuid for x in lines}
    removed, archived = removal.gone & here, archival.gone & here
    if removed:
        put_away.set_removed(act.conn, sorted(removed), instant)
        search.drop(act.conn, [x.edition for x in lines if x.uuid in removed])
    if archived:
        put_away.set_archived(act.conn, sorted(archived), instant)
    drafts.revive(act, sorted(removal.back | archival.back))


def _submit(act: Act, row: Dispatch, lines: Sequence[Line]) -> None:
    """Let what came to stand before release wait for those who decide there, as if it had been submitted by hand."""
    for line in lines:
        if line.does.submits and line.revision is not None:
            review.wait_at(act, line.edition, line.stage, line.revision, row.owner, row.note)


def _undoing(act: Act, row: Dispatch) -> dict[str, Any]:
    """Mark what a dispatch that went undoes; what an event says of it."""
    if row.undoes is None:
        return {}
    undone = store.by_id(act.conn, row.undoes)
    store.mark_undone(act.conn, undone.id, True)
    store.touch(act.conn, undone.id, act.now)
    if undone.undoes is not None:
        # What was undone and is done again has gone, as before.
        store.mark_undone(act.conn, undone.undoes, False)
        store.touch(act.conn, undone.undoes, act.now)
    return {"undoes": undone.uuid}


def tell(act: Act, kind: str, id: int, **more: Any) -> None:
    """Append an event about a dispatch: its moves as items, up to a thousand of them."""
    store.touch(act.conn, id, act.now)
    row = store.by_id(act.conn, id)
    items = move_store.items(act.conn, id, 1000)
    payload = {
        "dispatch": row.uuid,
        "name": row.name,
        "planned_by": row.owner,
        "instant": timeline.iso(row.instant) if row.instant is not None else "",
        "moves": [{name: getattr(item, name) for name in move_store.ITEM} for item in items],
    }
    act.event(kind, move_store.entries(act.conn, id), payload | more)
