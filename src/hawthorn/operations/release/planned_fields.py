"""Fields that plan a move: a writer fills "Out until" and needs to know nothing of dispatches.

What a draft says is looked at when an act is at its end (`Desk`, `last`). Who may let it go plans by saving; what others fill is a
wish, which is confirmed when the revision is signed off for release. An emptied field calls the move off.

What others put into the same dispatch is theirs: where a field says another time, its move leaves them and gets a dispatch of its own.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from contextlib import suppress
from typing import Any, TypedDict

from hawthorn.core import moves, timeline
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.contenttypes.policy import past_of
from hawthorn.core.dispatch import COMING
from hawthorn.core.errors import FieldProblem, HawthornError, Invalid
from hawthorn.core.fields import Field
from hawthorn.core.messages import said
from hawthorn.core.timeline import PlannedTime
from hawthorn.operations.access import permission
from hawthorn.operations.release import (
    ends,
    gathering,
    going,
    inside,
    quiet_periods,
    records,
    requested,
    set_fields,
    times,
)
from hawthorn.operations.release.lines import Lines, MoveRequest, When
from hawthorn.operations.release.records import About
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import dispatches, entries, people, revisions, standings
from hawthorn.store import moves as move_store
from hawthorn.store import planned_fields as store
from hawthorn.store.entries import Edition, Entry
from hawthorn.store.moves import AskedMove
from hawthorn.store.planned_fields import PlannedField

_COMING = ("planned", "held", "failed")


def follow(act: Act) -> None:
    """Plan, move or call off what the drafts that were saved in an act say, as far as whoever acts may; what was signed off is
    confirmed."""
    saved, ready, out = act.drafted, act.ready, act.released
    act.drafted, act.ready, act.released = set(), set(), set()
    opened = store.set_in_open(act.conn, out, moves.WRITING) if out else {}
    for edition in sorted(out if act.setup.plans_by_fields else opened):
        _renew(act, edition, opened.get(edition, ()))
    for edition in sorted(saved | ready):
        row = entries.edition_by_id(act.conn, edition)
        entry = entries.entry_by_id(act.conn, row.entry)
        kind = act.setup.types.get(entry.type)
        if kind is None or row.head is None or not kind.planning:
            continue
        _follow(act, kind, entry, row, confirmed=edition in ready)


def wish(act: Act, entries_brought: Sequence[int]) -> dict[int, list[str]]:
    """Keep what the drafts of entries that came from elsewhere ask for: as a wish, which a sign-off confirms, where it is still to come. What is over was
    done there. Returns the labels of the fields that wish, by entry."""
    planning = {kind.name: kind for kind in act.setup.types.values() if kind.planning}
    found = entries.by_ids(act.conn, entries_brought) if planning else {}
    out: dict[int, list[str]] = {}
    for id in (id for id, entry in found.items() if entry.type in planning):
        for edition in entries.editions(act.conn, id):
            values = revisions.content(act.conn, edition.tip).fields if edition.head is not None else {}
            for spec in planning[found[id].type].planning:
                value = values.get(spec.name) if spec.shared == (edition.locale == COMMON) else None
                if value and _wished(act, edition, spec, value):
                    out.setdefault(id, []).append(spec.label)
    return {id: [*dict.fromkeys(labels)] for id, labels in out.items()}


def _wished(act: Act, edition: Edition, spec: Field, value: Mapping[str, Any]) -> bool:
    """Keep what a field asks for, as said above; whether it is still to come."""
    wanted = json.dumps(value, sort_keys=True)
    coming = timeline.parse_instant(str(value["instant"])) > act.now
    _keep(act, edition, spec, None, wanted, "", (None, "" if coming else wanted))
    return coming


def _follow(act: Act, kind: ContentType, entry: Entry, edition: Edition, *, confirmed: bool) -> None:
    values = revisions.content(act.conn, edition.tip).fields
    before = store.of_edition(act.conn, edition.id)
    for spec in kind.planning:
        if spec.shared != (edition.locale == COMMON):
            continue
        value, row = values.get(spec.name), before.get(spec.name)
        wanted = json.dumps(value, sort_keys=True) if value else ""
        if row is None and not wanted:
            continue
        changed = row is None or row.wanted != wanted
        waits = row is not None and row.planned != wanted
        if not changed and not (confirmed and waits):
            continue
        if _over(act, kind, value):
            # Nobody typed it now: it came with other work, or waited too long for its sign-off.
            trouble = act.keep("planned_fields.past", label=spec.label)
            act.notes.append(act.say("planned_fields.past", label=spec.label))
            _keep(act, edition, spec, row, wanted, trouble)
            continue
        _apply(act, entry, edition, spec, value, wanted, row, confirmed=confirmed)


def require_to_come(
    view: View, kind: ContentType, before: Mapping[str, Any], values: Mapping[str, Any]
) -> None:
    """Refuse a time that was typed and is over, where the policy of its type does so; one that was there before is left."""
    problems = [
        FieldProblem(spec.name, said("planned_fields.past", label=spec.label))
        for spec in kind.planning
        if values.get(spec.name) != before.get(spec.name) and _over(view, kind, values.get(spec.name))
    ]
    if problems:
        raise Invalid(problems)


def gone_back(
    view: View, kind: ContentType, old: Mapping[str, Any], now: Mapping[str, Any]
) -> dict[str, Any]:
    """The values of an older revision that comes back; what it plans for a time that is over stays as it is now."""
    over = [spec.name for spec in kind.planning if _over(view, kind, old.get(spec.name))]
    kept = {name: now[name] for name in over if name in now}
    return {name: value for name, value in old.items() if name not in over} | kept


def _over(view: View, kind: ContentType, value: Mapping[str, Any] | None) -> bool:
    """Whether a time is over, and not taken for now or for what goes next."""
    if not value or past_of([kind.policy]) != "refuse":
        return False
    return timeline.parse_instant(str(value["instant"])) <= view.now


def _apply(
    act: Act,
    entry: Entry,
    edition: Edition,
    spec: Field,
    value: Mapping[str, Any] | None,
    wanted: str,
    row: PlannedField | None,
    *,
    confirmed: bool,
) -> None:
    """Bring the dispatch of a field in line with what it says, or keep it as a wish."""
    about = permission.subject(act, entry, edition.locale)
    stood = standings.stood(act.conn, entry.id)
    may = confirmed or permission.may(act, moves.of(spec.move).asks(stood), about)
    dispatch, planned, trouble = (row.dispatch, row.planned, "") if row else (None, "", "")
    if may:
        try:
            with act.trying():
                made = dispatch
                if not _moved(act, entry, edition, spec, row, value):
                    _leave(act, edition, spec, row, again=value is not None)
                    made = _planned(act, entry, edition, spec, value, confirmed=confirmed) if value else None
            dispatch, planned = made, wanted
        except HawthornError as error:
            trouble = act.keep(error.message)
    if not wanted and planned == wanted:
        store.drop(act.conn, edition.id, spec.name)
        return
    _keep(act, edition, spec, row, wanted, trouble, (dispatch, planned))


def _keep(
    act: Act,
    edition: Edition,
    spec: Field,
    row: PlannedField | None,
    wanted: str,
    trouble: str,
    done: tuple[int | None, str] | None = None,
) -> None:
    """Keep what a field wants, and what is in the way; `done` is the dispatch that does it and what that was planned by, as before
    where none is given."""
    dispatch, planned = done or ((row.dispatch, row.planned) if row else (None, ""))
    store.keep(
        act.conn,
        edition.id,
        spec.name,
        wanted=wanted,
        dispatch=dispatch,
        planned=planned,
        trouble=trouble,
        actor=act.identity.id if row is None or row.wanted != wanted else row.actor,
        at=act.now,
    )


def _time(act: Act, entry: Entry, value: Mapping[str, Any]) -> PlannedTime:
    """The time that a field says; one that is over is what the policy of its type takes it for."""
    instant = timeline.parse_instant(str(value["instant"]))
    if instant > act.now:
        return PlannedTime(instant, str(value["wall"]), str(value["zone"]), str(value.get("fold") or ""))
    asked = When(instant=timeline.iso(instant), zone=str(value["zone"]))
    now = PlannedTime(act.now, "", act.identity.zone, "")
    return times.resolve(act, asked, [act.setup.type(entry.type).policy]) or now


def _moved(
    act: Act,
    entry: Entry,
    edition: Edition,
    spec: Field,
    row: PlannedField | None,
    value: Mapping[str, Any] | None,
) -> bool:
    """Give the dispatch of a field the time that it says, or call it off; False where it has none that is to go, or where that does
    more than the field asks for."""
    dispatch = row.dispatch if row is not None and row.state in _COMING else None
    if dispatch is None or any(not _asked_by(edition, spec, m) for m in move_store.asked(act.conn, dispatch)):
        return False
    if value is None:
        ends.require_another(act, dispatch)
        gathering.call_off(act, dispatch)
        return True
    time = _time(act, entry, value)
    quiet_periods.require_none(act, going.lines_of(act, dispatch), time.instant)
    dispatches.move_instant(act.conn, dispatch, time)
    dispatches.put(act.conn, dispatch, "planned")
    going.tell(act, "dispatch.replanned", dispatch)
    return True


def _leave(act: Act, edition: Edition, spec: Field, row: PlannedField | None, *, again: bool) -> None:
    """Take what a field asked for out of a dispatch that others put more into, or opened to do so, and leave theirs as it is; `again`
    says that it is planned anew."""
    if row is None or row.dispatch is None or row.state not in COMING:
        return
    here = [m for m in move_store.asked(act.conn, row.dispatch) if m.entry == edition.entry]
    # Another locale that goes out with it needs the shared fields; where one leaves, they stay for what stays.
    needed = moves.of(spec.move).leads and any(m.locale not in (COMMON, edition.locale) for m in here)
    mine = [m.edition for m in here if _asked_by(edition, spec, m) and not (needed and m.locale == COMMON)]
    if mine:
        if not again and row.state != "open":
            ends.require_another(act, row.dispatch, mine)
        gathering.take_out(act, row.dispatch, mine)
        if all(m.along for m in move_store.asked(act.conn, row.dispatch)):
            gathering.call_off(act, row.dispatch)


def _asked_by(edition: Edition, spec: Field, move: AskedMove) -> bool:
    """Whether a move is what a field of an edition asks for: of its own locale and the shared fields, or of all where it is shared."""
    here = edition.locale == COMMON or move.locale in (edition.locale, COMMON)
    return here and move.entry == edition.entry and move.verb == spec.move


def _planned(
    act: Act,
    entry: Entry,
    edition: Edition,
    spec: Field,
    value: Mapping[str, Any],
    *,
    confirmed: bool,
) -> int:
    """Plan the move of a field; returns the dispatch."""
    verb, time = moves.asked(spec.move), _time(act, entry, value)
    here = [edition.locale]
    if edition.locale == COMMON:
        here = [e.locale for e in entries.editions(act.conn, entry.id) if e.locale != COMMON and e.head]
    payload = {**spec.payload, "field": spec.name} if verb.writes else spec.payload
    asked = [
        MoveRequest(entry.uuid, tag, verb.name, payload=payload, follows=verb.leads and not verb.writes)
        for tag in (here[:1] if verb.shelves else here)
    ]
    lines = Lines()
    for request in set_fields.written(act, asked, time.instant, asking=not confirmed):
        requested.lines_for(act, request, lines)
    quiet_periods.require_none(act, lines, time.instant)
    title = permission.title(act, entry.id, None if edition.locale == COMMON else edition.locale)
    name = f"{spec.label}: {title or act.keep('common.untitled')}"[:120]
    owner = people.actor(act.conn, act.identity.id)
    about = About(name, "", owner.handle if owner is not None and owner.kind == "person" else None)
    _, made = records.added(act, "planned", time, about)
    move_store.add_moves(act.conn, made, [x.as_new() for x in lines], act.identity.id)
    inside.attach(act, made, lines)
    going.tell(act, "dispatch.planned", made)
    return made


def _renew(act: Act, edition: int, opened: Sequence[int]) -> None:
    """Write what a field sets anew in what has come out, and what dispatches set that are put together still."""
    own = entries.edition_by_id(act.conn, edition)
    planned = [row.dispatch for row in store.of_edition(act.conn, edition).values() if row.state in _COMING]
    for dispatch in dict.fromkeys(id for id in (*planned, *opened) if id is not None):
        instant = dispatches.by_id(act.conn, dispatch).instant or act.now
        for move in move_store.asked_of(act.conn, dispatch, own.entry):
            if move.verb not in moves.WRITING or move.revision is None:
                continue
            # What cannot be set any more is said of its dispatch, and is nothing to who lets something else go.
            with suppress(HawthornError), act.trying() as trial:
                asked, lines = [requested.request_of(act, move)], Lines()
                for one in set_fields.renewed(act, asked, instant, asking=False, beside=dispatch):
                    requested.lines_for(act, one, lines)
                if [x.edition for x in lines] == [move.edition]:
                    move_store.bring(act.conn, dispatch, move.edition, lines[0].revision)
                    inside.attach(act, dispatch, lines)
                else:
                    # The field lives in another edition by now.
                    trial.keep(False)


class PlannedFieldState(TypedDict):
    """What came of a field that plans a move: the dispatch (its UUID, where it may be read) with its instant, or what was in the way."""

    field: str
    verb: str
    state: str
    dispatch: str | None
    instant: str | None
    trouble: str


def shown(
    view: View, kind: ContentType, editions: Mapping[str, Edition], locale: str
) -> list[PlannedFieldState]:
    """What came of the fields of an edition that plan something: planned, a wish that waits for a sign-off, or what was in the way."""
    out: list[PlannedFieldState] = []
    for tag in (locale, COMMON):
        edition = editions.get(tag)
        for name, row in (store.of_edition(view.conn, edition.id) if edition is not None else {}).items():
            spec = kind.field(name)
            if spec is None or spec.kind != "planned":
                continue
            seen = row.dispatch is not None and permission.whole(view, row.dispatch)
            out.append(
                {
                    "field": name,
                    "verb": spec.move,
                    "state": row.state or "" if row.planned == row.wanted else "wish",
                    "dispatch": row.uuid if seen else None,
                    "instant": timeline.iso(row.instant) if row.instant is not None else None,
                    "trouble": row.trouble,
                }
            )
    return out
