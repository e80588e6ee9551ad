"""Undoing what a dispatch did, as a whole: by a dispatch of its own, which can be undone in turn."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby

from hawthorn.core import moves
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import InTheWay
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import PlannedTime
from hawthorn.core.workflow import Unmet
from hawthorn.operations.access import permission
from hawthorn.operations.release import going, planning, records, workflows
from hawthorn.operations.release.lines import DispatchCheck, Line
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import dispatches as store
from hawthorn.store import entries, put_away, standings
from hawthorn.store import moves as move_store
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.moves import Changed
from hawthorn.store.standings import RELEASE

RESTORE = "restore"


@dataclass(frozen=True, slots=True)
class Undoing:
    """What undoing a dispatch would do, and what of it changed since: that is left as it is now, or taken along."""

    check: DispatchCheck
    changed: list[Line]
    revived: set[str]


def look(view: View, uuid: str, *, take: bool = False) -> Undoing:
    """What undoing a dispatch would do; with `take`, also to what changed since it went."""
    row = records.find(view, uuid)
    records.require_state(row, "undo")
    lines, changed = _divided(view, move_store.changed(view.conn, row.id), take)
    # Undone is also what ended and what came back, turned about.
    removal, archival = (going.away_of(view, row, verbs) for verbs in (moves.ENDING, moves.SHELVING))
    back = removal.gone & _removed(view, removal.gone)
    gone = removal.back - _removed(view, removal.back)
    shelved = put_away.archived(view.conn, archival.gone | archival.back)
    turned = (archival.gone & shelved) | (archival.back - shelved)
    planning.plan_lines(view, lines, view.now, reviving=back | archival.gone)
    revived = back | gone | turned
    stops = _without_room(view, back)
    if stops:
        # Of a draft nothing stood anywhere; it is no less too many.
        lines = lines or _named(view, row, lines, revived)
        lines[0].unmet += stops
    check = planning.completed(view, lines)
    planning.completed(view, changed)
    return Undoing(check, changed, revived)


def undo(act: Act, uuid: str, *, take: bool = False, note: str = "") -> str:
    """Undo a dispatch that went, whole, now; returns the UUID of the dispatch that does.

    What stood before it stands again; what changed since is left as it is, or with `take` goes back too. Raises `GateUnmet` where
    the records cannot do with that, for example as an address is somebody else's by now.
    """
    row = records.find(act, uuid)
    records.require_release(act, row)
    records.require_state(row, "undo")
    found = look(act, uuid, take=take)
    if found.check.blocked:
        raise planning.gate_unmet(found.check.lines, [said("moves.cannot.restore")])
    if not found.check.lines and not found.revived:
        raise InTheWay("dispatches.nothing_to_undo")
    made = new_uuid(act.now)
    at = PlannedTime(act.now, "", act.identity.zone, "")
    id = store.add(
        act.conn,
        made,
        _name(act, row),
        "planned",
        at,
        note,
        act.now,
        act.identity.id,
        owner=row.owner,
        undoes=row.id,
    )
    lines = [*found.check.lines, *_named(act, row, found.check.lines, found.revived)]
    move_store.add_moves(act.conn, id, [x.as_new() for x in lines], act.identity.id)
    going.go(act, id, act.now)
    _stand_as_now(act, found, [x.edition for x in lines])
    return made


def _stand_as_now(act: Act, found: Undoing, editions: Sequence[int]) -> None:
    """Let what came back stand where its workflow has a stage by now, which may have changed since the dispatch went."""
    flows, names = act.setup.workflows.values(), act.setup.stage_names
    stages = {names[x.stage] for x in found.check.lines}
    if any(not stages.issubset(flow.names) for flow in flows):
        workflows.stand_as_now(act, {entry for entry, _ in entries.of_editions(act.conn, editions).values()})


def _divided(view: View, found: Sequence[Changed], take: bool) -> tuple[list[Line], list[Line]]:
    """What goes back, and what changed since. What stands highest decides for an edition: where it has changed, so has all of it;
    where it has not, what has come to a lower stage since is new work and stays. Shared fields go back with all of their entry."""
    lines: list[Line] = []
    changed: list[Line] = []
    by_entry: dict[int, list[list[Changed]]] = {}
    for _, stages in groupby(found, key=lambda c: c.edition):
        ranked = sorted(stages, key=lambda c: -view.setup.orders[c.stage])
        by_entry.setdefault(ranked[0].entry, []).append(ranked)
    for editions in by_entry.values():
        moved_on = any(not goal.as_left for goal, *_ in editions)
        for goal, *lower in editions:
            if not goal.as_left:
                changed.append(_line(goal))
            left = moved_on if goal.locale == COMMON else not goal.as_left
            if take or not left:
                back = [goal, *(c for c in lower if c.as_left)]
                lines += [_line(c) for c in back if c.took != c.stands]
    return _kept_for_others(view, lines, {c.edition: c.entry for c in found}), changed


def _kept_for_others(view: View, lines: list[Line], entry_of: Mapping[int, int]) -> list[Line]:
    """The lines without those that would take shared fields from a locale that stays out."""
    parting = {x.edition for x in lines if x.leaves and x.stage == RELEASE}
    shared = {entry_of[x.edition] for x in lines if x.locale == COMMON and x.edition in parting}
    if not shared:
        return lines
    staying = {
        entry for entry, edition in standings.editions_out(view.conn, shared) if edition not in parting
    }
    return [x for x in lines if x.locale != COMMON or entry_of[x.edition] not in staying or not x.leaves]


def _line(c: Changed) -> Line:
    return Line(RESTORE, c.edition, c.stage, c.took, True, c.uuid, c.locale, c.title, c.type)


def _named(view: View, row: Dispatch, lines: Sequence[Line], revived: set[str]) -> list[Line]:
    """A line for each edition of an entry that comes back, or goes again, though nothing of it stands differently."""
    named = revived - {x.uuid for x in lines}
    return [
        Line(RESTORE, m.edition, m.stage, None, True, m.uuid, m.locale, m.title, m.type)
        for m in move_store.asked(view.conn, row.id)
        if m.uuid in named
    ]


def _name(view: View, row: Dispatch) -> str:
    if row.undoes is None:
        return view.say("dispatches.undo", name=row.name)
    return view.say("dispatches.again", name=store.by_id(view.conn, row.undoes).name)


def _removed(view: View, uuids: set[str]) -> set[str]:
    return uuids - entries.there(view.conn, uuids)


def _without_room(view: View, uuids: set[str]) -> list[Unmet]:
    """What speaks against bringing entries back whose type takes exactly one, where there is another by now."""
    out: list[Unmet] = []
    for uuid in sorted(uuids):
        row = entries.even_removed(view.conn, uuid)
        kind = view.setup.types.get(row.type) if row is not None else None
        other = entries.single(view.conn, kind.name) if kind is not None and kind.single else None
        if kind is not None and other is not None:
            title = permission.title(view, other.id) or said("common.untitled")
            out.append(
                Unmet(
                    "one-already",
                    said("unmet.one_already", kind=kind.label, entry=title),
                    other.uuid,
                    "release",
                )
            )
    return out
