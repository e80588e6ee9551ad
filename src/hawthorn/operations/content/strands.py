"""Strands: work beside the draft, and proposals to bring it in, whole or in part.

A strand has one name across an entry: shared fields that are changed in it live on a strand of that name of the common
edition. A proposal is worked out from where both sides stand; its ETag says where, and accepting needs it, so that
exactly what was shown is what is done.
"""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import field, replace
from typing import Any

from hawthorn.core import compare, merge, picking, revision, slots
from hawthorn.core.compare import FieldDifference
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import (
    Conflicting,
    FieldProblem,
    HawthornError,
    InTheWay,
    Invalid,
    NotFound,
    StaleRevision,
)
from hawthorn.core.merge import Conflict, Settlement
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import EMPTY, Content
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.release import drafts, inside
from hawthorn.operations.runtime import as_now
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.search import finding
from hawthorn.store import entries as entry_store
from hawthorn.store import revisions
from hawthorn.store import strands as store
from hawthorn.store.entries import Edition, Entry

_NAME = re.compile(r"^[\w][\w .'’-]{0,59}$")


@dataclass(slots=True)
class _Side:
    """One edition on both sides of a proposal, with what would come of it."""

    locale: str
    strand: Edition
    draft: Edition
    outcome: Content = EMPTY
    whole: Content = EMPTY
    before: Content = EMPTY
    paths: tuple[str, ...] = ()


@dataclass(slots=True)
class Proposal:
    """What merging a strand would do: `taken` against the draft, `left` of what the strand changed."""

    etag: str
    sides: list[_Side] = field(default_factory=list)
    taken: list[FieldDifference] = field(default_factory=list)
    left: list[FieldDifference] = field(default_factory=list)
    conflicts: list[tuple[str, Conflict]] = field(default_factory=list)
    still_open: list[str] = field(default_factory=list)
    places: list[dict[str, Any]] = field(default_factory=list)
    ending: list[Edition] = field(default_factory=list)
    """What ends with it: of one that is taken in part, nothing."""
    in_the_way: HawthornError | None = None
    """Why it cannot be accepted by whoever looks at it, whatever is settled."""


def fork(act: Act, uuid: str, locale: str, name: str, number: int | None = None, note: str = "") -> None:
    """Fork a strand from a revision of an edition; from the head of the draft when none is named."""
    entry = permission.find(act, uuid, locale)
    tag = act.setup.locale(locale)
    permission.require(act, "write", permission.subject(act, entry, tag))
    drafts.require_at_work(entry)
    name = _named(name)
    edition = entry_store.edition(act.conn, entry.id, tag)
    common = entry_store.edition(act.conn, entry.id, COMMON)
    if edition is None or edition.head is None:
        raise NotFound("strands.no_edition", locale=tag)
    if entry_store.edition(act.conn, entry.id, tag, name) is not None:
        raise InTheWay("strands.open_already", name=name)
    head = edition.head
    if number is not None:
        row = revisions.numbered(act.conn, edition.id, number)
        if row is None:
            raise NotFound("common.no_revision", number=number)
        head = row.id
    store.add(act.conn, edition.id, name, head, act.identity.id, act.now, note)
    beside = entry_store.edition(act.conn, entry.id, COMMON, name)
    if beside is None and common is not None and common.head is not None:
        store.add(act.conn, common.id, name, common.head, act.identity.id, act.now, note)
    _told(act, "strand.forked", entry, tag, name, revision=revisions.number(act.conn, head), note=note)


def _named(name: str) -> str:
    name = " ".join(name.split())
    if name.lower() == entry_store.DRAFT_STRAND:
        raise Invalid([FieldProblem("name", said("strands.name_of_the_draft"))])
    if not _NAME.match(name):
        raise Invalid([FieldProblem("name", said("strands.name"))])
    return name


def listing(view: View, uuid: str, locale: str) -> list[StrandShown]:
    """The strands of an edition beside its draft, those that ended too."""
    entry = permission.find(view, uuid, locale)
    return of_entry(view, entry.id, view.setup.locale(locale))


@dataclass(frozen=True, slots=True)
class StrandShown:
    """A strand beside the draft; `ended` is "merged" or "dropped" for one that is not open."""

    name: str
    note: str
    by: str
    at: str | None
    forked_from: int | None
    revision: int | None
    changed_at: str | None
    open: bool
    ended: str
    ended_at: str | None
    dispatch: str | None
    dispatch_name: str


def of_entry(view: View, entry: int, tag: str) -> list[StrandShown]:
    """The strands of an edition of an entry that was looked up before."""
    rows = store.of_entry(view.conn, entry, tag)
    seen = permission.whole_among(view, {row.dispatch for row in rows if row.dispatch is not None})
    return [
        StrandShown(
            name=row.name,
            note=row.note,
            by=row.by_name or "",
            at=_said(row.created_at),
            forked_from=row.forked_number,
            revision=row.number,
            changed_at=_said(row.changed_at),
            open=row.closed_at is None,
            ended=row.ended,
            ended_at=_said(row.closed_at),
            dispatch=row.dispatch_uuid if row.dispatch in seen else None,
            dispatch_name=row.dispatch_name or "" if row.dispatch in seen else "",
        )
        for row in rows
    ]


def _said(instant: int | None) -> str | None:
    return iso(instant) if instant else None


def drop(act: Act, uuid: str, locale: str, name: str) -> None:
    """Drop a strand; what was written in it stays in the history, and it can be opened again."""
    entry, tag, editions = _open(act, uuid, locale, name)
    permission.require(act, "write", permission.subject(act, entry, tag))
    ending = _ending(act, entry, tag, editions, name)
    _require_beside(act, ending, name)
    for edition in ending:
        if edition.locale == COMMON and _strand(act, edition, name).written:
            permission.require(act, "write", permission.subject(act, entry, COMMON))
    _close(act, ending, "dropped")
    _told(act, "strand.dropped", entry, tag, name)


def reopen(act: Act, uuid: str, locale: str, name: str) -> None:
    """Open a strand again that was merged or dropped, where it ended."""
    entry = permission.find(act, uuid, locale)
    tag = act.setup.locale(locale)
    permission.require(act, "write", permission.subject(act, entry, tag))
    drafts.require_at_work(entry)
    for where in (tag, COMMON):
        edition = entry_store.edition(act.conn, entry.id, where)
        row = store.last(act.conn, edition.id, name) if edition is not None else None
        if where == tag and row is None:
            raise NotFound("strands.never_there", name=name)
        if where == tag and row is not None and row.closed_at is None:
            raise InTheWay("strands.is_open", name=name)
        if row is not None and row.closed_at is not None:
            store.open_again(act.conn, row.id)
            if store.goes_with(act.conn, [row.id]) is None:
                store.detach(act.conn, row.id)
    _told(act, "strand.reopened", entry, tag, name)


def _open(view: View, uuid: str, locale: str, name: str) -> tuple[Entry, str, list[Edition]]:
    entry = permission.find(view, uuid, locale)
    tag = view.setup.locale(locale)
    own = entry_store.edition(view.conn, entry.id, tag, name) if name != entry_store.DRAFT_STRAND else None
    if own is None:
        raise NotFound("common.no_strand", name=name)
    common = entry_store.edition(view.conn, entry.id, COMMON, name)
    return entry, tag, [own, *([common] if common is not None else [])]


def _require_beside(view: View, editions: Sequence[Edition], name: str) -> None:
    """What is written inside a dispatch goes with it, and is not taken from it behind the backs of those who look at it there."""
    found = store.goes_with(view.conn, [edition.strand for edition in editions])
    if found is not None:
        seen = found.dispatch in permission.whole_among(view, {found.dispatch})
        dispatch = said("common.quoted", text=found.name) if seen else said("strands.a_dispatch")
        raise InTheWay("strands.goes_with", name=name, dispatch=dispatch)


def _strand(view: View, edition: Edition, name: str) -> store.Strand:
    found = store.last(view.conn, edition.id, name)
    assert found is not None
    return found


def _ending(view: View, entry: Entry, tag: str, editions: Sequence[Edition], name: str) -> list[Edition]:
    """The editions of a strand that end with it in a locale: that of the shared fields with the last."""
    others = set(store.open_called(view.conn, entry.id, name)) - {tag}
    return [one for one in editions if one.locale != COMMON or not others]


def _close(act: Act, editions: Sequence[Edition], ended: str) -> None:
    for edition in editions:
        store.close(act.conn, edition.strand, ended, act.now)


def propose(
    view: View,
    uuid: str,
    locale: str,
    name: str,
    take: Sequence[str] | None = None,
    settlements: Mapping[str, Settlement] | None = None,
) -> Proposal:
    """What merging a strand would do. `take` names fields and blocks (`field:block-id`); None takes all."""
    entry, tag, editions = _open(view, uuid, locale, name)
    kind = view.setup.type(entry.type)
    sides = [_side(view, entry, edition) for edition in editions]
    proposal = Proposal(_etag(kind, sides, take), sides)
    for side in sides:
        _work_out(view, kind, side, proposal, take, settlements or {})
    if take is not None:
        known = {p["place"] for p in proposal.places}
        unknown = [p for p in take if p not in known]
        if unknown:
            raise Invalid(
                [FieldProblem(p, said("strands.not_changed")) for p in unknown],
                remedy=said("strands.take_some" if known else "strands.take_nothing", known=sorted(known)),
            )
    if take is None:
        proposal.ending = _ending(view, entry, tag, editions, name)
    try:
        _require_welcome(view, kind, entry, proposal, name)
    except HawthornError as error:
        proposal.in_the_way = error
    return proposal


def _require_welcome(view: View, kind: ContentType, entry: Entry, proposal: Proposal, name: str) -> None:
    """What a strand brings can come into the draft, by whoever asks."""
    own, *_ = proposal.sides
    permission.require(view, "write", permission.subject(view, entry, own.locale))
    drafts.require_at_work(entry)
    _require_beside(view, proposal.ending, name)
    for side in proposal.sides:
        if side.outcome != side.before:
            permission.require(view, "write", permission.subject(view, entry, side.locale))
            drafts.require_place(view, kind, side.draft, side.outcome)


def work_out(
    view: View,
    uuid: str,
    locale: str,
    name: str,
    take: Sequence[str] | None,
    settlements: Mapping[str, Settlement],
) -> None:
    """Do beforehand what merging a strand would do that takes long."""
    with suppress(HawthornError):
        propose(view, uuid, locale, name, take, settlements)


def _side(view: View, entry: Entry, edition: Edition) -> _Side:
    draft = entry_store.edition(view.conn, entry.id, edition.locale)
    assert draft is not None
    return _Side(edition.locale, edition, draft)


def _etag(kind: ContentType, sides: Sequence[_Side], take: Sequence[str] | None) -> str:
    """What a proposal was made from: both sides, what of it is taken, and what the type says of their fields."""
    stand = [(s.locale, s.strand.strand, s.strand.head, s.draft.head) for s in sides]
    taken = None if take is None else sorted(set(take))
    return f'"{hashlib.sha256(repr((kind.version, stand, taken)).encode()).hexdigest()[:20]}"'


def _work_out(
    view: View,
    kind: ContentType,
    side: _Side,
    proposal: Proposal,
    take: Sequence[str] | None,
    settlements: Mapping[str, Settlement],
) -> None:
    def content(revision: int) -> Content:
        return as_now.content(view.conn, kind, revision)

    parents = revisions.upwards(view.conn)
    ours, theirs = side.strand.tip, side.draft.tip
    mine, side.before = content(ours), content(theirs)
    base, _ = merge.common_base(kind, parents, content, ours, theirs)
    picks = inside.picks(view, ours, side.draft)
    base = merge.picked_base(kind, content, base, picks)
    reading = finding.reading(view, kind, side.locale, base, mine, side.before)
    # What an edition held before it moved to another stays in it, and is no more what it says.
    here = {spec.name for spec in kind.belonging(side.locale)}

    def differing(before: Content, after: Content) -> list[FieldDifference]:
        return [one for one in compare.compare(kind, before, after, reading) if one.field in here]

    changed = differing(base, mine)
    full = view.setup.mergings.of_revision(view, kind, ours, theirs, picks)
    side.whole, _ = merge.settle(full, settlements)
    if take is None:
        merged = full
    else:
        side.paths = tuple(p for p in take if any(p.split(":")[0] == d.field for d in changed))
        merged = merge.merge(kind, base, picking.pick(kind, base, mine, side.paths), side.before)
    side.outcome, still_open = merge.settle(merged, settlements)
    proposal.conflicts += [(side.locale, c) for c in merged.conflicts]
    proposal.still_open += still_open
    proposal.taken += differing(side.before, side.outcome)
    proposal.left += differing(side.outcome, side.whole) if take is not None else []
    for one in changed:
        proposal.places.append({"place": one.field, "label": one.label, "locale": side.locale})
        for part in one.parts:
            id = part.paragraph if part.tag == "block" else ""
            if id:
                said = f"{one.label}: {part.runs[0].text} ({part.how})"
                proposal.places.append({"place": f"{one.field}:{id}", "label": said, "locale": side.locale})
        for id, label in _changed_blocks(kind, one.field, base, mine):
            place = f"{one.field}:{id}"
            if all(p["place"] != place for p in proposal.places):
                proposal.places.append(
                    {"place": place, "label": f"{one.label}: {label}", "locale": side.locale}
                )


def _changed_blocks(kind: ContentType, name: str, base: Content, side: Content) -> list[tuple[str, str]]:
    """Blocks that both have and whose own values differ."""
    spec = kind.field(name)
    if spec is None:
        return []
    was = {s.path: s for s in slots.walk([spec], base.fields)}
    out: dict[str, str] = {}
    for slot in slots.walk([spec], side.fields):
        if slot.block and (slot.path not in was or was[slot.path].value != slot.value):
            out.setdefault(slot.block, slot.label.rsplit(":", 1)[0])
    return list(out.items())


def keep(act: Act, uuid: str, locale: str, name: str, settlements: Mapping[str, Settlement]) -> Proposal:
    """Settle beforehand what a strand and the draft both changed, for when it comes in: of a strand that goes out with a dispatch.
    A settlement holds as long as both sides stay as they are at that place."""
    entry, tag, editions = _open(act, uuid, locale, name)
    permission.require(act, "write", permission.subject(act, entry, tag))
    found = propose(act, uuid, locale, name)
    places = {c.place for _, c in found.conflicts}
    unknown = [place for place in settlements if place not in places]
    if unknown:
        raise Invalid([FieldProblem(place, said("strands.nothing_to_settle")) for place in unknown])
    for edition in editions:
        if any(where == edition.locale and c.place in settlements for where, c in found.conflicts):
            permission.require(act, "write", permission.subject(act, entry, edition.locale))
        chosen = [
            store.Kept(c.place, inside.sides_of(c), one.take, json.dumps(one.value))
            for where, c in found.conflicts
            if where == edition.locale and (one := settlements.get(c.place)) is not None
        ]
        store.settle(act.conn, edition.strand, chosen, act.identity.id, act.now)
    _told(act, "strand.settled", entry, tag, name, places=sorted(settlements))
    return propose(act, uuid, locale, name, None, settlements)


def catch_up(
    act: Act,
    uuid: str,
    locale: str,
    name: str,
    settlements: Mapping[str, Settlement] | None = None,
) -> None:
    """Bring what went out since it was forked into a strand, so that it takes nothing of that back when it goes out itself.

    Raises `Conflicting` with the places that both changed and that are not settled.
    """
    entry, tag, editions = _open(act, uuid, locale, name)
    permission.require(act, "write", permission.subject(act, entry, tag))
    drafts.require_at_work(entry)
    kind = act.setup.type(entry.type)
    clashes: list[tuple[str, Conflict]] = []
    open_places: list[str] = []
    steps: list[tuple[Edition, Content, int]] = []
    for edition in editions:
        under = inside.base(act, edition, act.now)
        if under is None or revision.descends(revisions.upwards(act.conn), edition.tip, under):
            continue
        permission.require(act, "write", permission.subject(act, entry, edition.locale))
        taken = inside.picks(act, edition.tip, replace(edition, head=under))
        merged = act.setup.mergings.of_revision(act, kind, edition.tip, under, taken)
        outcome, still_open = merge.settle(merged, settlements or {})
        clashes += [(edition.locale, c) for c in merged.conflicts]
        open_places += still_open
        steps.append((edition, outcome, under))
    if open_places:
        raise Conflicting("strands.both_changed", count=len(open_places), places=open_places, met=clashes)
    if not steps:
        raise InTheWay("strands.up_to_date")
    made: dict[str, int] = {}
    for edition, outcome, under in steps:
        note = act.keep("notes.caught_up")
        new = drafts.add_revision(
            act, kind, edition.id, edition.strand, outcome, [edition.tip, under], note, "merge"
        )
        entry_store.move_head(act.conn, edition.strand, edition.head, new)
        made[edition.locale] = revisions.number(act.conn, new)
    _told(act, "strand.caught-up", entry, tag, name, revisions=made)


def accept(
    act: Act,
    uuid: str,
    locale: str,
    name: str,
    etag: str,
    take: Sequence[str] | None = None,
    settlements: Mapping[str, Settlement] | None = None,
    note: str = "",
) -> None:
    """Bring a strand in as the proposal with that ETag showed it. Taken whole, it closes; one that goes out with a dispatch comes in with that.

    Raises `StaleRevision` when either side moved, `Conflicting` while a place is not settled.
    """
    entry = permission.find(act, uuid, locale)
    tag = act.setup.locale(locale)
    permission.require(act, "write", permission.subject(act, entry, tag))
    proposal = propose(act, uuid, locale, name, take, settlements)
    kind = act.setup.type(entry.type)
    if etag != proposal.etag:
        raise StaleRevision("strands.moved_on", etag=proposal.etag)
    if proposal.in_the_way is not None:
        raise proposal.in_the_way
    if proposal.still_open:
        raise Conflicting("strands.both_changed", count=len(proposal.still_open), places=proposal.still_open)
    made: dict[str, int] = {}
    for side in reversed(proposal.sides):
        if side.outcome == side.before and (take is not None or side.strand.head == side.draft.head):
            continue
        parents = [side.draft.tip] + ([side.strand.tip] if take is None else [])
        why = note or act.keep("notes.merged" if take is None else "notes.taken", name=name)
        revision = drafts.append(act, kind, entry, side.draft, side.outcome, parents, why, "strand")
        if take is not None:
            store.picked(act.conn, revision, side.strand.tip, side.paths)
        made[side.locale] = revisions.number(act.conn, revision)
    _close(act, proposal.ending, "merged")
    _told(act, "strand.merged", entry, tag, name, revisions=made, taken=list(take or ()), whole=take is None)


def _told(act: Act, kind: str, entry: Entry, locale: str, name: str, **facts: Any) -> None:
    title = entry_store.title(act.conn, entry.id, locale)
    what = {"entry": entry.uuid, "locale": locale, "title": title, "strand": name, **facts}
    act.event(kind, [entry.id], what)
