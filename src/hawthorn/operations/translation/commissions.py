"""Open commissions: what is to be translated is put into one while somebody browses, and it is looked at, sent or cancelled."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from hawthorn.core import naming, timeline
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.runtime import seen
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.operations.translation import glossaries, memories, orders, sending, translation
from hawthorn.operations.translation.orders import Counted, Order
from hawthorn.operations.translation.sending import Doer, Found, Translator
from hawthorn.store import bureaus
from hawthorn.store import commissions as store
from hawthorn.store import entries as entry_store
from hawthorn.store import glossaries as glossary_store
from hawthorn.store import jobs as job_store
from hawthorn.store import memories as memory_store
from hawthorn.store.commissions import Commission, CommissionEntry, Target
from hawthorn.store.entries import Entry

MOST = 2_000
"""So many entries a commission may hold."""
RETURNS = ("draft", "review")


@dataclass(frozen=True, slots=True)
class TargetShown:
    """A locale of a commission, and who does it: a bureau by name, a person by handle, or whoever writes it."""

    locale: str
    bureau: str
    person: str
    person_name: str


@dataclass(frozen=True, slots=True)
class EntryShown:
    """An entry in a commission; what was removed since, is in the archive, or cannot be read by whoever looks, does not go out with it."""

    id: str
    title: str
    type: str
    source_locale: str
    goes: bool
    by: str
    at: str


@dataclass(frozen=True, slots=True)
class CommissionLine:
    """A commission as a list shows it."""

    id: str
    name: str
    state: str
    shared: bool
    by: str
    at: str
    sent_at: str
    due: str
    entries: int
    locales: list[str]
    jobs: int
    percent: int
    mine: bool


@dataclass(frozen=True, slots=True)
class CommissionShown:
    """A commission with what is in it and how it goes out."""

    line: CommissionLine
    note: str
    again: bool
    current: bool
    fill: bool
    machine: bool
    returns: str
    memories: list[str]
    glossaries: list[str]
    targets: list[TargetShown]
    entries: list[EntryShown]
    jobs: list[job_store.Job]
    translators: list[Translator]
    may_change: bool


@dataclass(frozen=True, slots=True)
class LeftOut:
    """An entry that could not be put into a commission, and why."""

    id: str
    title: str
    why: str


@dataclass(frozen=True, slots=True)
class Put:
    """What became of entries that were put into a commission."""

    added: int
    there: int
    left_out: list[LeftOut]


def listing(view: View, state: str, limit: int, cursor: str) -> tuple[list[CommissionLine], str]:
    """The commissions in a state (any when empty) of which something may be seen, the newest first: of open ones those that are shared or
    one's own, or whose owner has left; of sent ones those that have a job that may be seen."""
    if state and state not in store.STATES:
        raise Invalid([FieldProblem("state", said("common.none_of", known=list(store.STATES)))])
    found, more = seen.newest(
        lambda some, before: store.newest(view.conn, state, view.identity.id, some, before),
        lambda row: _seen(view, row),
        limit,
        cursor,
    )
    return [_line(view, row) for row in found], more


def _seen(view: View, row: Commission) -> bool:
    if row.sent_at is None:
        return row.actor == view.identity.id or (
            bool(row.shared or row.by_left) and permission.may_somewhere(view, "commission")
        )
    return any(translation.readable(view, job) for job in job_store.of_commission(view.conn, row.id))


def state_of(row: Commission) -> str:
    """What a commission is: open, sent, closed or cancelled."""
    if row.sent_at is None:
        return "open" if row.cancelled_at is None else "cancelled"
    if row.jobs_open:
        return "sent"
    return "closed" if row.cancelled_at is None else "cancelled"


def _line(view: View, row: Commission) -> CommissionLine:
    return CommissionLine(
        id=row.uuid,
        name=row.name,
        state=state_of(row),
        shared=bool(row.shared),
        by=row.by_name,
        at=iso(row.at),
        sent_at=iso(row.sent_at) if row.sent_at is not None else "",
        due=row.due,
        entries=row.entries,
        locales=_in_order(view, json.loads(row.locales)),
        jobs=row.jobs,
        percent=round(100 * row.done / row.total) if row.total else 0,
        mine=row.actor == view.identity.id,
    )


def _in_order(view: View, tags: Iterable[str]) -> list[str]:
    some = set(tags)
    return [tag for tag in view.setup.locales if tag in some]


def find(view: View, uuid: str) -> Commission:
    """A commission of which something may be seen; raises `NotFound`."""
    row = store.by_uuid(view.conn, uuid)
    if row is None or not _seen(view, row):
        raise NotFound("commissions.not_there", id=uuid)
    return row


def look(view: View, uuid: str) -> CommissionShown:
    """A commission with what is in it."""
    row = find(view, uuid)
    order = list(view.setup.locales)
    may = state_of(row) == "open" and permission.may_somewhere(view, "commission")
    return CommissionShown(
        line=_line(view, row),
        note=row.note,
        again=bool(row.also_away),
        current=bool(row.also_current),
        fill=bool(row.fill),
        machine=bool(row.machine),
        returns=row.returns,
        memories=named_memories(view, row.memories),
        glossaries=named_glossaries(view, row.glossaries),
        targets=sorted(
            shown_targets(store.targets(view.conn, row.id)),
            key=lambda one: order.index(one.locale) if one.locale in order else len(order),
        ),
        entries=[shown for one in store.entries(view.conn, row.id) if (shown := _entry(view, one))],
        jobs=[job for job in job_store.of_commission(view.conn, row.id) if translation.readable(view, job)],
        translators=sending.translators(view) if may else [],
        may_change=may,
    )


def shown_targets(some: Iterable[Target]) -> list[TargetShown]:
    """The locales of a commission, or of a standing one, with who does each by name."""
    return [
        TargetShown(one.locale, one.bureau_name or "", one.person_handle or "", one.person_name or "")
        for one in some
    ]


def named_memories(view: View, kept: str) -> list[str]:
    """The ids of memories that are kept by their numbers, as far as they are there."""
    names = {one.id: one.uuid for one in memory_store.every(view.conn)}
    return [names[id] for id in json.loads(kept) if id in names]


def named_glossaries(view: View, kept: str) -> list[str]:
    """The ids of glossaries that are kept by their numbers, as far as they are there."""
    names = {one.id: one.uuid for one in glossary_store.every(view.conn)}
    return [names[id] for id in json.loads(kept) if id in names]


def _entry(view: View, row: CommissionEntry) -> EntryShown | None:
    """An entry as it is shown; None for one that whoever looks may know nothing of."""
    if not permission.readable(view, row):
        return None
    return EntryShown(
        id=row.uuid,
        title=permission.title(view, row.id) or view.say("common.untitled"),
        type=row.type,
        source_locale=row.source_locale,
        goes=not row.put_away,
        by=row.by_name,
        at=iso(row.at),
    )


def open_one(act: Act, name: str, *, shared: bool = False) -> str:
    """Begin a commission that entries are put into until it is sent; one that is `shared` is everybody's who may commission. Returns the
    UUID."""
    permission.require_somewhere(act, "commission")
    name = naming.line("name", name) or act.keep("commissions.unnamed", day=timeline.iso(act.now)[:10])
    uuid = new_uuid(act.now)
    made = store.add(act.conn, uuid, name, act.identity.id, act.now)
    store.change(act.conn, made, {"shared": shared})
    told(act, "commission.opened", uuid)
    return uuid


def change(act: Act, uuid: str, given: Mapping[str, Any]) -> None:
    """Change what is given of an open commission: name, due, note, shared, again, current, fill, returns, memories and glossaries (their ids) and targets
    (locale, bureau, person), each whole."""
    row = _open(act, uuid)
    if "shared" in given and not given["shared"] and row.actor != act.identity.id:
        raise InTheWay("commissions.not_yours_to_close", name=row.by_name)
    values: dict[str, Any] = {}
    for member, given_value in given.items():
        if member != "targets":
            column, read = _MEMBERS[member]
            values[column] = read(act, given_value)
    if "name" in values and not values["name"]:
        raise Invalid([FieldProblem("name", said("commissions.without_name"))])
    store.change(act.conn, row.id, values)
    if "targets" in given:
        store.set_targets(act.conn, row.id, targets_of(act, given["targets"]))
    if given:
        told(act, "commission.changed", uuid, changed=sorted(given))


def give(act: Act, uuid: str, to: int) -> None:
    """Make an open commission somebody else's, for whoever lets people go; also one that only its owner sees."""
    permission.require(act, "configure", Subject())
    row = store.by_uuid(act.conn, uuid)
    if row is None or state_of(row) != "open":
        raise NotFound("commissions.not_there", id=uuid)
    theirs = permission.seen_by(act, to)
    if not permission.may_somewhere(theirs, "commission"):
        raise InTheWay("reassigning.may_not_commission", name=theirs.identity.name)
    store.give(act.conn, row.id, to)
    told(act, "commission.changed", uuid, changed=["owner"])


def _due(act: Act, given: str) -> str:
    orders.check_due(act, given)
    return given


def _returns(_: Act, given: str) -> str:
    if given not in RETURNS:
        raise Invalid([FieldProblem("returns", said("common.none_of", known=list(RETURNS)))])
    return given


def memories_of(act: Act, given: Sequence[str]) -> str:
    """Memories by their ids, as they are kept."""
    return json.dumps([memories.get(act, one).id for one in dict.fromkeys(given)])


def glossaries_of(act: Act, given: Sequence[str]) -> str:
    """Glossaries by their ids, as they are kept."""
    return json.dumps([glossaries.get(act, one).id for one in dict.fromkeys(given)])


_MEMBERS: dict[str, tuple[str, Callable[[Act, Any], Any]]] = {
    "name": ("name", lambda _, text: naming.line("name", text)),
    "note": ("note", lambda _, text: naming.note("note", text)),
    "due": ("due", _due),
    "shared": ("shared", lambda _, yes: bool(yes)),
    "again": ("also_away", lambda _, yes: bool(yes)),
    "current": ("also_current", lambda _, yes: bool(yes)),
    "fill": ("fill", lambda _, yes: bool(yes)),
    "machine": ("machine", lambda _, yes: bool(yes)),
    "returns": ("returns", _returns),
    "memories": ("memories", memories_of),
    "glossaries": ("glossaries", glossaries_of),
}
"""What can be changed of a commission: the column that it is kept in, and how it is read."""


def targets_of(act: Act, given: Sequence[Mapping[str, str]]) -> list[tuple[str, int | None, int | None]]:
    out: dict[str, Found] = {}
    for one in given:
        tag = act.setup.locale(one["locale"])
        out[tag] = sending.found(act, tag, Doer(one.get("bureau", ""), one.get("person", "")))
    return [(tag, who.bureau, who.person) for tag, who in out.items()]


def put(act: Act, uuid: str, entries: Sequence[str], *, below: bool = False, linked: bool = False) -> Put:
    """Put entries into an open commission, with the pages below them, and with what their sources refer to, if that is wanted. What is
    there already stays; what cannot go along is named with its reason."""
    row = _open(act, uuid)
    have = store.entries(act.conn, row.id)
    chosen = [permission.find(act, entry) for entry in dict.fromkeys(entries)]
    chosen += _below(act, chosen) if below else []
    chosen += referred(act, chosen) if linked else []
    there = {one.id for one in have}
    source = next((one.source_locale for one in have), chosen[0].source_locale if chosen else "")
    coming: list[Entry] = []
    left_out: list[LeftOut] = []
    for one in {one.id: one for one in chosen}.values():
        if one.id in there:
            continue
        why = _unfit(act, one, source)
        if why is None and len(have) + len(coming) >= MOST:
            why = said("commissions.full", most=MOST)
        if why is None:
            coming.append(one)
        else:
            title = permission.title(act, one.id) or act.say("common.untitled")
            left_out.append(LeftOut(one.uuid, title, act.say(why)))
    store.put(act.conn, row.id, [one.id for one in coming], act.identity.id, act.now)
    if coming:
        told(act, "commission.changed", uuid, [one.id for one in coming], added=[one.uuid for one in coming])
    return Put(len(coming), len({one.id for one in chosen} & there), left_out)


def _unfit(act: Act, entry: Entry, source: str) -> Message | None:
    """Why an entry cannot be in a commission whose entries are written in a locale; None when it can."""
    if entry.source_locale != source:
        return said("commissions.another_source", locale=entry.source_locale, known=source)
    if not act.setup.type(entry.type).translated:
        return said("commissions.not_translated", type=act.setup.type(entry.type).label)
    return said("commissions.in_archive") if entry.put_away else None


def _below(view: View, some: Sequence[Entry]) -> list[Entry]:
    """All pages below some, as their drafts are placed."""
    known = {one.id for one in some}
    waiting, out = list(some), list[Entry]()
    while waiting and len(out) < MOST:
        for row in entry_store.placed_below(view.conn, waiting.pop(0).uuid, MOST):
            if row.id not in known and permission.readable_id(view, row.id):
                known.add(row.id)
                found = entry_store.entry_by_id(view.conn, row.id)
                waiting.append(found)
                out.append(found)
    return out


def referred(view: View, some: Sequence[Entry]) -> list[Entry]:
    """What the sources of some refer to (pictures, common blocks, links), as far as it has something to translate and is written in the
    same locale; what is further away stays."""
    sources = {one.source_locale for one in some}
    return [
        one
        for one in store.referred(view.conn, [one.id for one in some])
        if one.source_locale in sources
        and view.setup.type(one.type).translated
        and permission.readable(view, one)
    ]


def take_out(act: Act, uuid: str, entries: Sequence[str]) -> int:
    """Take entries out of an open commission; returns how many there were."""
    row = _open(act, uuid)
    wanted = set(entries)
    gone = [one.id for one in store.entries(act.conn, row.id) if one.uuid in wanted]
    if not gone:
        raise NotFound("commissions.not_in_it", id=next(iter(entries), ""))
    store.take_out(act.conn, row.id, gone)
    told(act, "commission.changed", uuid, gone, removed=sorted(wanted))
    return len(gone)


def estimate(view: View, uuid: str, locale: str, limit: int, cursor: str) -> tuple[Counted, str]:
    """A page of what a commission holds in one of its locales, counted with its memories, what its bureau asks for it, and, while it is
    open, why whoever looks could not send that as it is."""
    row = find(view, uuid)
    tag = view.setup.locale(locale)
    target = next((one for one in store.targets(view.conn, row.id) if one.locale == tag), None)
    if target is None:
        raise Invalid([FieldProblem("locale", said("commissions.no_target", locale=tag))])
    bureau = bureaus.get(view.conn, target.bureau) if target.bureau is not None else None
    order = _order(view, row)
    looked = orders.look(view, order, tag, limit, cursor)
    found = orders.counted(view, order, tag, bureau, looked)
    if state_of(row) == "open":
        order = replace(order, entries=looked.passed)
        error = sending.in_the_way(view, order, tag, _found(target), looked.parts)
        found = replace(found, trouble=view.why(error) if error is not None else "")
    return found, looked.more


def send(act: Act, uuid: str) -> None:
    """Send an open commission: one job per locale, as soon as this commits."""
    row = _open(act, uuid)
    order = _order(act, row)
    orders.check(act, order)
    doers = {one.locale: _found(one) for one in store.targets(act.conn, row.id)}
    sending.send(act, row.id, uuid, order, doers, fill=bool(row.fill))


def _found(target: Target) -> Found:
    return Found(target.bureau, target.person)


def _order(view: View, row: Commission) -> Order:
    return Order(
        entries=tuple(
            one.uuid
            for one in store.entries(view.conn, row.id)
            if not one.put_away and permission.readable(view, one)
        ),
        locales=tuple(_in_order(view, (one.locale for one in store.targets(view.conn, row.id)))),
        name=row.name,
        due=row.due,
        note=row.note,
        again=bool(row.also_away),
        current=bool(row.also_current),
        memories=tuple(json.loads(row.memories)),
    )


def _open(act: Act, uuid: str) -> Commission:
    """A commission that is open, to be changed by whoever acts."""
    permission.require_somewhere(act, "commission")
    row = find(act, uuid)
    if state_of(row) != "open":
        raise InTheWay("commissions.not_open", state=said(f"commissions.state_{state_of(row)}"))
    return row


def told(act: Act, kind: str, uuid: str, about: Sequence[int] = (), **facts: Any) -> None:
    """Say what became of a commission, and of entries in it."""
    row = store.by_uuid(act.conn, uuid)
    assert row is not None
    act.event(kind, list(about), {"commission": uuid, "name": row.name, **facts})
