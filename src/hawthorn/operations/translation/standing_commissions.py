"""Standing commissions: what changes in a section goes out by itself, after a pause in which more may change."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from datetime import timedelta
from typing import Any

import structlog

from hawthorn.core import naming, timeline
from hawthorn.core.access import Identity
from hawthorn.core.errors import FieldProblem, HawthornError, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said, told_by
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.operations.translation import commissions, owning, sending
from hawthorn.operations.translation.commissions import TargetShown
from hawthorn.operations.translation.orders import Order
from hawthorn.operations.translation.sending import Found
from hawthorn.store import entries as entry_store
from hawthorn.store import failing, people
from hawthorn.store import standing_commissions as store
from hawthorn.store.standing_commissions import StandingCommission, Waiting

log = structlog.get_logger(__name__)
SENDS = ("out", "draft")
"""What is sent: a source as soon as it is out, or its draft as it is saved."""
LONGEST_PAUSE = 7 * 24 * 60
"""Minutes."""
LONGEST_DUE = 366
"""Days."""
MOST = 100
"""So many there may be."""
_SOURCES = ("entry.", "strand.", "dispatch.", "bulk.")
"""The beginnings of kinds of events after which a source may be another."""


@dataclass(frozen=True, slots=True)
class StandingShown:
    """A standing commission, how many entries wait for it, and when those go."""

    id: str
    name: str
    section: str
    section_title: str
    state: str
    trouble: str
    sends: str
    pause: int
    days: int
    note: str
    linked: bool
    fill: bool
    machine: bool
    returns: str
    memories: list[str]
    glossaries: list[str]
    targets: list[TargetShown]
    by: str
    since: str
    waiting: int
    next: str
    sent: int
    may_change: bool


def listing(view: View) -> list[StandingShown]:
    """Those of sections that whoever looks may commission for, by name."""
    permission.require_somewhere(view, "commission")
    return [_shown(view, row) for row in store.every(view.conn) if owning.manages(view, row.section)]


def look(view: View, uuid: str) -> StandingShown:
    """One of them; raises `NotFound`."""
    return _shown(view, _find(view, uuid))


def add(act: Act, given: Mapping[str, Any]) -> str:
    """Send what changes from now on. Takes what `change` does; it acts with the rights of whoever sets it up. Returns its UUID."""
    permission.require_somewhere(act, "commission")
    if len(store.every(act.conn)) >= MOST:
        raise Invalid("standing_commissions.too_many", most=MOST)
    uuid = new_uuid(act.now)
    values = _values(act, {"name": "", "targets": [], **given}, None)
    made = store.add(act.conn, uuid, values["name"], values.get("pause", 30), act.identity.id, act.now)
    store.change(act.conn, made, values)
    store.set_targets(act.conn, made, _targets(act, given["targets"], values.get("section")))
    _told(act, "standing-commission.added", uuid, values["name"])
    return uuid


def change(act: Act, uuid: str, given: Mapping[str, Any]) -> None:
    """Change what is given of one: name, section (an entry that heads one; empty for all), sends, pause (minutes), days (until it is due; 0 for never), note,
    linked, fill, returns, memories, glossaries, targets, and whether it is `on`, each whole. What waits goes on waiting."""
    row = _managed(act, uuid)
    values = _values(act, given, row)
    section = values.get("section", row.section)
    if "targets" in given:
        store.set_targets(act.conn, row.id, _targets(act, given["targets"], section))
    elif "section" in values:
        _require(act, section, [one.locale for one in store.targets(act.conn, row.id)])
    if values.get("state") == "on" and people.actor(act.conn, row.actor) is None:
        # Whoever lets it go on answers for it from then on.
        values["actor"] = act.identity.id
    store.change(act.conn, row.id, values)
    if given:
        _told(act, "standing-commission.changed", uuid, values.get("name", row.name), changed=sorted(given))


def end(act: Act, uuid: str) -> None:
    """End one. What it has sent goes on as it is."""
    row = _managed(act, uuid)
    store.end(act.conn, row.id)
    _told(act, "standing-commission.ended", uuid, row.name)


def send_now(act: Act, uuid: str) -> int:
    """Send what waits without waiting for the rest of the pause; returns how many entries went. Raises `InTheWay` where nothing waits."""
    row = _managed(act, uuid)
    waiting = store.waiting(act.conn, row.id)
    if not waiting:
        raise InTheWay("standing_commissions.nothing_waits")
    return _send(act, row, waiting)


def follow(act: Act) -> None:
    """Let wait what an act has changed; called at the end of every act."""
    some = {entry for kind, about in act.happened if kind.startswith(_SOURCES) for entry in about}
    if some and store.on(act.conn):
        store.touched(act.conn, some, act.now)


def send_due(act: Act) -> None:
    """Send what has stood still for as long as was wanted, each with the rights of whoever set it up. One that cannot send any more stops, and says why."""
    for row in store.every(act.conn):
        if row.next is None or row.next > act.now:
            continue
        still = act.now - row.pause * 60 * timeline.SECOND
        try:
            mine = act.by(_as(act, row))
            with mine.trying():
                _send(mine, row, [one for one in store.waiting(act.conn, row.id) if one.at <= still])
            act.resume(mine)
        except Exception as error:
            if failing.of_file(error):
                raise
            if isinstance(error, HawthornError):
                trouble = act.keep(error.message)
            else:
                # Whatever is wrong with one holds up no other.
                log.exception("a standing commission could not send", standing=row.id)
                trouble = act.keep("standing_commissions.not_worked_out", error=told_by(error))
            store.change(act.conn, row.id, {"state": "stopped", "trouble": trouble})
            _told(act, "standing-commission.stopped", row.uuid, row.name, trouble=trouble, to=row.actor)


def _send(act: Act, row: StandingCommission, waiting: Sequence[Waiting]) -> int:
    """Send entries, those of one source locale together; returns how many had something to translate."""
    store.settle(act.conn, row.id, [one.entry for one in waiting])
    if row.sends == "out":
        # What is written on meanwhile waits anew when that is out.
        waiting = [one for one in waiting if one.out is not None and one.head == one.out]
    sent = 0
    for source in dict.fromkeys(one.source_locale for one in waiting):
        sent += _send_from(act, row, source, [one for one in waiting if one.source_locale == source])
    return sent


def _send_from(act: Act, row: StandingCommission, source: str, some: Sequence[Waiting]) -> int:
    targets = [one for one in store.targets(act.conn, row.id) if one.locale != source]
    chosen = [entry_store.entry_by_id(act.conn, one.entry) for one in some]
    chosen = [one for one in chosen if act.setup.type(one.type).translated]
    if row.linked and chosen:
        chosen += [
            one
            for one in commissions.referred(act, chosen)
            if all(permission.may(act, "commission", permission.subject(act, one, t.locale)) for t in targets)
        ]
    if not chosen or not targets:
        return 0
    today = timeline.wall_at(act.now, act.identity.zone).date()
    due = today + timedelta(days=row.days) if row.days else None
    order = Order(
        entries=tuple(one.uuid for one in chosen[: commissions.MOST]),
        locales=tuple(one.locale for one in targets),
        name=f"{row.name}, {today.isoformat()}",
        due=due.isoformat() if due else "",
        note=row.note,
        memories=tuple(json.loads(row.memories)),
    )
    doers = {one.locale: Found(one.bureau, one.person) for one in targets}
    how = {
        "returns": row.returns,
        "memories": row.memories,
        "glossaries": row.glossaries,
        "fill": row.fill,
        "machine": row.machine,
        "standing": row.id,
    }
    made = sending.commission_of(act, order, doers, row.actor, how)
    if made:
        _told(act, "standing-commission.sent", row.uuid, row.name, commission=made, entries=len(some))
    return len(some) if made else 0


def _as(act: Act, row: StandingCommission) -> Identity:
    """The scheduler, with the rights of whoever set one up, where it is the day that they have. Raises `InTheWay` where they have left."""
    if people.actor(act.conn, row.actor) is None:
        raise InTheWay("standing_commissions.setter_left", name=row.by_name)
    mine = permission.identity_of(act.conn, row.actor)
    return replace(act.identity, grants=mine.grants, zone=mine.zone)


def _find(view: View, uuid: str) -> StandingCommission:
    row = store.by_uuid(view.conn, uuid)
    if row is None or not owning.manages(view, row.section):
        permission.require_somewhere(view, "commission")
        raise NotFound("standing_commissions.not_there", id=uuid)
    return row


def _managed(act: Act, uuid: str) -> StandingCommission:
    row = _find(act, uuid)
    _require(act, row.section, [one.locale for one in store.targets(act.conn, row.id)])
    return row


def _require(act: Act, section: int | None, tags: Sequence[str]) -> None:
    """Whoever looks after one may commission all that it sends."""
    about = owning.subject(act, section)
    for tag in tags:
        permission.require(act, "commission", replace(about, locale=tag))


def _commissions(view: View, section: int | None, tags: Sequence[str]) -> bool:
    """Whether whoever looks may look after one."""
    about = owning.subject(view, section)
    return all(permission.may(view, "commission", replace(about, locale=tag)) for tag in tags)


def _targets(
    act: Act, given: Sequence[Mapping[str, str]], section: int | None
) -> list[tuple[str, int | None, int | None]]:
    some = commissions.targets_of(act, given)
    if not some:
        raise Invalid([FieldProblem("targets", said("commissions.no_locales"))])
    _require(act, section, [tag for tag, _, _ in some])
    return some


def _name(act: Act, given: str, mine: int | None) -> str:
    name = naming.line("name", given)
    if not name:
        raise Invalid([FieldProblem("name", said("standing_commissions.without_name"))])
    if store.named(act.conn, name) not in (None, mine):
        raise InTheWay("standing_commissions.name_taken", name=name)
    return name


def _number(where: str, most: int, least: int = 0) -> Callable[[Act, Any], int]:
    def read(_: Act, given: int) -> int:
        if not least <= given <= most:
            raise Invalid([FieldProblem(where, said("standing_commissions.number", least=least, most=most))])
        return given

    return read


def _one_of(where: str, known: Sequence[str]) -> Callable[[Act, Any], str]:
    def read(_: Act, given: str) -> str:
        if given not in known:
            raise Invalid([FieldProblem(where, said("common.none_of", known=list(known)))])
        return given

    return read


_MEMBERS: dict[str, Callable[[Act, Any], Any]] = {
    "section": owning.section_of,
    "sends": _one_of("sends", SENDS),
    "pause": _number("pause", LONGEST_PAUSE, 1),
    "days": _number("days", LONGEST_DUE),
    "note": lambda _, text: naming.note("note", text),
    "linked": lambda _, yes: bool(yes),
    "fill": lambda _, yes: bool(yes),
    "machine": lambda _, yes: bool(yes),
    "returns": _one_of("returns", commissions.RETURNS),
    "memories": commissions.memories_of,
    "glossaries": commissions.glossaries_of,
}
"""What can be set of one, and how it is read."""


def _values(act: Act, given: Mapping[str, Any], row: StandingCommission | None) -> dict[str, Any]:
    values = {member: read(act, given[member]) for member, read in _MEMBERS.items() if member in given}
    if "name" in given:
        values["name"] = _name(act, given["name"], row.id if row is not None else None)
    if "on" in given:
        values |= {"state": "on" if given["on"] else "off", "trouble": ""}
    return values


def _told(act: Act, kind: str, uuid: str, name: str, **facts: Any) -> None:
    act.event(kind, [], {"standing": uuid, "name": name, **facts})


def _shown(view: View, row: StandingCommission) -> StandingShown:
    targets = store.targets(view.conn, row.id)
    return StandingShown(
        id=row.uuid,
        name=row.name,
        section=row.section_uuid or "",
        section_title=permission.title(view, row.section) or "" if row.section is not None else "",
        state=row.state,
        trouble=row.trouble,
        sends=row.sends,
        pause=row.pause,
        days=row.days,
        note=row.note,
        linked=bool(row.linked),
        fill=bool(row.fill),
        machine=bool(row.machine),
        returns=row.returns,
        memories=commissions.named_memories(view, row.memories),
        glossaries=commissions.named_glossaries(view, row.glossaries),
        targets=commissions.shown_targets(targets),
        by=row.by_name,
        since=iso(row.since),
        waiting=row.waiting,
        next=iso(row.next) if row.next is not None else "",
        sent=row.sent,
        may_change=_commissions(view, row.section, [one.locale for one in targets]),
    )
