"""Dispatches: put together, planned, changed, cancelled, found. How they go stands in `going`, how they are undone in `undoing`."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from hawthorn.core import dispatch, moves, naming, timeline
from hawthorn.core.contenttypes.policy import Policy
from hawthorn.core.errors import BadTime, FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.timeline import PlannedTime
from hawthorn.operations.access import permission
from hawthorn.operations.release import going, planning, quiet_periods, times
from hawthorn.operations.release.lines import DispatchCheck, Line, Lines, MoveRequest, When
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import dispatches as store
from hawthorn.store import entries, people
from hawthorn.store import moves as move_store
from hawthorn.store.dispatches import Dispatch, PlannedWall
from hawthorn.store.moves import NewMove

MOST = 20_000
"""So many moves one dispatch takes."""


@dataclass(frozen=True, slots=True)
class About:
    """What a dispatch is called, why it is, who answers for it (a handle), and whether what cannot go holds back the rest; None
    leaves it as it is."""

    name: str | None = None
    note: str | None = None
    owner: str | None = None
    partial: bool | None = None


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
    uuid, made = _added(act, "planned", at, About(titled, note, owner, partial))
    move_store.add_moves(act.conn, made, [x.as_new() for x in found.lines])
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
    called = act.say("dispatches.end_of", name=name) if name else ""
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


def start(act: Act, about: About, requests: Sequence[MoveRequest] = (), when: When | None = None) -> str:
    """Start a dispatch that is put together over time; nothing of it goes until it is planned or sent. Returns its UUID."""
    planned = times.resolve(act, when, times.policies_of(act, requests))
    permission.require_somewhere(act, "write")
    _require_writing(act, ((r.uuid, r.locale) for r in requests))
    name = naming.line("name", about.name or "") or act.say(
        "dispatches.unnamed", day=timeline.iso(act.now)[:10]
    )
    uuid, made = _added(act, "open", planned, replace(about, name=name))
    _put_in(act, made, requests)
    going.tell(act, "dispatch.opened", made)
    return uuid


def add(act: Act, uuid: str, requests: Sequence[MoveRequest], *, below: bool = False) -> int:
    """Add moves to an open dispatch, with what lies below their entries if that is wanted; those that are there are left as
    they are. Returns how many came in."""
    row = find(act, uuid)
    _require_writing(act, ((r.uuid, r.locale) for r in requests))
    require_state(row, "change")
    if below:
        requests = [*requests, *_below(act, requests)]
    count = _put_in(act, row.id, requests)
    if count:
        going.tell(act, "dispatch.changed", row.id)
    return count


def drop(act: Act, uuid: str, named: Iterable[tuple[str, str]]) -> int:
    """Take entries in a locale (UUID and tag; no tag: in every one) out of an open dispatch; returns how many moves went."""
    row = find(act, uuid)
    wanted = set(named)
    _require_writing(act, sorted(wanted))
    require_state(row, "change")
    here = move_store.asked(act.conn, row.id)
    gone = [m for m in here if (m.uuid, m.locale) in wanted or (m.uuid, "") in wanted]
    count = move_store.drop_moves(act.conn, row.id, [m.edition for m in gone])
    if count:
        going.tell(act, "dispatch.changed", row.id)
    return count


def describe(act: Act, uuid: str, about: About) -> None:
    """Call a dispatch something else, say why it is, give it to somebody, or say whether what cannot go holds back the rest."""
    row = find(act, uuid)
    if row.state == "open":
        permission.require_somewhere(act, "write")
    else:
        require_release(act, row)
    require_state(row, "describe")
    name = row.name if about.name is None else naming.line("name", about.name)
    if not name:
        raise Invalid([FieldProblem("name", said("common.missing"))])
    note = row.note if about.note is None else naming.note("note", about.note)
    owner = row.owner if about.owner is None else _person(act, about.owner)
    partial = bool(row.partial) if about.partial is None else about.partial
    if (name, note, owner, partial) == (row.name, row.note, row.owner, bool(row.partial)):
        return
    store.describe(act.conn, row.id, name, note, owner, partial)
    going.tell(act, "dispatch.changed", row.id)


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
    row = find(view, uuid)
    if row.state not in dispatch.ACTS["send"]:
        return DispatchCheck([], [], [])
    planned = times.resolve(view, when, _policies(view, row.id))
    at = planned.instant if planned else max(row.instant or view.now, view.now)
    if row.state == "open":
        return planning.check(
            view,
            requests_of(view, row.id),
            at=at,
            with_needs=with_needs,
            asking=False,
            beside=row.id,
            override_quiet=override_quiet,
        )
    lines = going.lines_of(view, row.id)
    # Whoever overrode the period of its own time did not override that of another.
    quiet_at = at if planned else going.quiet_at_of(row, at)
    planning.plan_lines(view, lines, at, planning=True, quiet_at=None if override_quiet else quiet_at)
    return planning.completed(view, lines, beside=row.id)


def plan(
    act: Act, uuid: str, when: When | None = None, *, with_needs: bool = False, override_quiet: bool = False
) -> None:
    """Plan an open dispatch for a time, or for the one that it was given; each of its moves then has its revision.

    Raises `GateUnmet` with everything that blocks it.
    """
    row = find(act, uuid)
    if row.state != "open":
        require_release(act, row)
    require_state(row, "plan")
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
    row = find(act, uuid)
    if row.state != "open":
        require_release(act, row)
    require_state(row, "send")
    if row.state == "open":
        lines = _settle(act, row, act.now, with_needs=with_needs, override_quiet=override_quiet)
    else:
        lines = going.lines_of(act, row.id)
        planning.plan_lines(act, lines, act.now, quiet_at=None if override_quiet else act.now)
        _override(act, row.id, lines, act.now, override_quiet)
        found = planning.completed(act, lines, beside=row.id)
        _require_clear(act, found, bool(row.partial), act.now)
    _require_something(lines)
    store.put(act.conn, row.id, "planned")
    store.move_instant(act.conn, row.id, PlannedTime(act.now, "", act.identity.zone, ""))
    going.go(act, row.id, act.now)


def reopen(act: Act, uuid: str) -> None:
    """Open a dispatch again that has not gone, to put in or take out; it keeps its time, but does not go until it is planned
    anew."""
    row = find(act, uuid)
    require_release(act, row)
    require_state(row, "reopen")
    move_store.drop_along(act.conn, row.id)
    store.put(act.conn, row.id, "open")
    going.tell(act, "dispatch.opened", row.id)


def cancel(act: Act, uuid: str) -> None:
    """Call a dispatch off that has not gone; what it would have done does not happen."""
    row = find(act, uuid)
    if row.state == "open":
        permission.require_somewhere(act, "write")
        for move in move_store.moves(act.conn, row.id):
            permission.require(act, "write", permission.subject(act, move, move.locale))
    else:
        require_release(act, row)
    require_state(row, "cancel")
    store.end(act.conn, row.id, "cancelled", act.now, None)
    going.tell(act, "dispatch.cancelled", row.id)


def replan(act: Act, uuid: str, when: When, *, override_quiet: bool = False) -> None:
    """Give a dispatch that was planned another time: also one that was held, which then goes if nothing is in its way."""
    row = find(act, uuid)
    require_release(act, row)
    planned = _time(act, row.id, when)
    if planned is None:
        raise Invalid("dispatches.without_time")
    require_state(row, "replan")
    lines = going.lines_of(act, row.id)
    stop = quiet_periods.stopping(act, lines, planned.instant)
    if stop is not None and not override_quiet:
        for line in lines:
            line.unmet = [stop] if line.does.rests else []
        raise planning.gate_unmet(lines, remedy=quiet_periods.remedy(act, planned.instant))
    _override(act, row.id, lines, planned.instant, override_quiet)
    store.move_instant(act.conn, row.id, planned)
    store.put(act.conn, row.id, "planned")
    going.tell(act, "dispatch.replanned", row.id)


def find(view: View, uuid: str) -> Dispatch:
    """A dispatch all of whose entries may be read; raises `NotFound`."""
    row = store.by_uuid(view.conn, uuid)
    if row is None or not permission.whole(view, row.id):
        raise NotFound("dispatches.not_there", id=uuid)
    return row


def requests_of(view: View, id: int) -> list[MoveRequest]:
    """The moves of an open dispatch, as they were asked for."""
    out: list[MoveRequest] = []
    for m in move_store.asked(view.conn, id):
        if m.along:
            continue
        number = planning.number_of(view, m.revision)
        out.append(
            MoveRequest(
                m.uuid, m.locale, m.verb, number, bool(m.regress), going.payload_of(m), bool(m.follows)
            )
        )
    return out


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
                act.say("common.sentences", sentences=[error.message, act.setup.words.remedy(error)]),
            )
            continue
        if planned.instant != row.instant or row.trouble:
            moved += planned.instant != row.instant
            store.move_instant(act.conn, row.id, planned)
    return moved


def _added(act: Act, state: str, when: PlannedTime | None, about: About) -> tuple[str, int]:
    """Add a dispatch without moves, by a name that was looked at; returns its UUID and its number."""
    note = naming.note("note", about.note or "")
    owner = _person(act, about.owner) if about.owner else None
    uuid = new_uuid(act.now)
    made = store.add(
        act.conn,
        uuid,
        about.name or "",
        state,
        when,
        note,
        act.now,
        act.identity.id,
        owner=owner,
        partial=bool(about.partial),
    )
    return uuid, made


def _policies(view: View, id: int) -> list[Policy]:
    return times.policies_of(view, requests_of(view, id))


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
    requests = requests_of(act, row.id)
    if not requests:
        raise Invalid("dispatches.empty")
    found = planning.check(
        act,
        requests,
        at=at,
        with_needs=with_needs,
        beside=row.id,
        override_quiet=override_quiet,
        timed=at > act.now,
    )
    _override(act, row.id, found.lines, at, override_quiet)
    _require_clear(act, found, bool(row.partial), at)
    move_store.drop_moves(act.conn, row.id)
    move_store.add_moves(act.conn, row.id, [x.as_new() for x in found.lines])
    return found.lines


def _put_in(act: Act, id: int, requests: Sequence[MoveRequest]) -> int:
    have = {m.edition for m in move_store.asked(act.conn, id)}
    if len(have) + len(requests) > MOST:
        raise Invalid("dispatches.too_many", most=MOST)
    new: list[NewMove] = []
    for request in requests:
        lines = Lines()
        planning.lines_for(act, request, lines)
        line = next(x for x in lines if x.asked)
        if line.edition in have:
            continue
        have.add(line.edition)
        # Until it is planned, a move brings what is approved then; only a revision that was chosen is kept.
        chosen = line.revision if request.revision is not None else None
        new.append(replace(line.as_new(), revision=chosen))
    move_store.add_moves(act.conn, id, new)
    return len(new)


def _below(view: View, requests: Sequence[MoveRequest]) -> list[MoveRequest]:
    """The same for every entry that lies below, in the same locale where it has that."""
    out: dict[tuple[str, str], MoveRequest] = {}
    waiting = list(requests)
    named = {(r.uuid, r.locale) for r in requests}
    while waiting and len(out) <= MOST:
        request = waiting.pop(0)
        for row in entries.placed_below(view.conn, request.uuid, MOST):
            key = (row.uuid, request.locale)
            if key in named or key in out or not permission.readable_id(view, row.id, request.locale):
                continue
            edition = entries.edition(view.conn, row.id, request.locale)
            below = replace(request, uuid=row.uuid, revision=None)
            waiting.append(below)
            if edition is not None and edition.head is not None:
                out[key] = below
            else:
                named.add(key)
    return [*out.values()]


def _require_writing(act: Act, named: Iterable[tuple[str, str]]) -> None:
    """Whoever may write an entry may put it where it could go from; whether it goes is for others to say."""
    for uuid, locale in named:
        entry = permission.find(act, uuid, locale or None)
        about = permission.subject(act, entry, locale or entry.source_locale)
        if not permission.may(act, "release", about):
            permission.require(act, "write", about)


def require_release(act: Act, row: Dispatch) -> None:
    """Refuse whoever may not release what a dispatch moves."""
    for move in move_store.moves(act.conn, row.id):
        permission.require(act, "release", permission.subject(act, move, move.locale, move.stage_name))


def require_state(row: Dispatch, what: str) -> None:
    """Raise `InTheWay` where something may not be done with a dispatch in its state, with what may."""
    if row.state not in dispatch.ACTS[what]:
        may = [said(f"dispatches.may.{one}") for one in dispatch.acts(row.state) or ["nothing"]]
        raise InTheWay(f"dispatches.not_now.{what}", state=said(f"dispatches.state.{row.state}"), may=may)


def _require_clear(act: Act, found: DispatchCheck, partial: bool, at: int) -> None:
    """Refuse what something stands in the way of; what goes later and follows may be approved by then."""
    stopped = found.stopped if at > act.now else [x for x in found.lines if x.unmet]
    if stopped and (not partial or len(stopped) == len(found.lines)):
        quiet = any(u.code == "quiet" for x in stopped for u in x.unmet)
        raise planning.gate_unmet(found.lines, remedy=quiet_periods.remedy(act, at) if quiet else None)


def _require_something(lines: Sequence[Line]) -> None:
    if any(x.before != x.after or not x.does.idles for x in lines):
        return
    verbs = {x.verb for x in lines}
    if len(verbs) == 1:
        raise InTheWay("dispatches.nothing_to_do", why=said(f"moves.idle.{verbs.pop()}"))


def _person(view: View, handle: str) -> int:
    row = people.by_handle(view.conn, handle)
    if row is None or row.kind != "person" or row.ended_at is not None:
        raise Invalid([FieldProblem("owner", said("dispatches.no_such_owner", handle=handle))])
    return row.id


def _name_for(act: Act, lines: Sequence[Line]) -> str:
    verbs = {x.verb for x in lines}
    verb = next(iter(verbs)) if len(verbs) == 1 else moves.USUAL
    first, *more = dict.fromkeys(x.title or act.say("common.untitled") for x in lines if not x.along)
    code = f"dispatches.named.{verb}"
    return (
        act.say("dispatches.and_more", first=act.say(code, title=first), count=len(more))
        if more
        else act.say(code, title=first)
    )


def _unresolved(act: Act, row: PlannedWall, trouble: str) -> None:
    """Keep the instant that a wall time had, and tell whoever answers for it, once."""
    if row.trouble == trouble:
        return
    store.set_trouble(act.conn, row.id, trouble)
    going.tell(act, "dispatch.unresolved", row.id, wall=row.wall, zone=row.zone, trouble=trouble)
