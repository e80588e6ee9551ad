"""Dispatches as those who work with them see them, before they are made and after."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any, TypedDict

from hawthorn.core import contenttypes, moves, timeline
from hawthorn.core import fields as read_fields
from hawthorn.core.revision import Content, brought
from hawthorn.core.timeline import PlannedTime, iso
from hawthorn.core.workflow import Unmet
from hawthorn.operations.access import permission
from hawthorn.operations.delivery import affected
from hawthorn.operations.delivery.affected import ChangingPage
from hawthorn.operations.release import deciding, fitting, going, offering, planning, records, requested
from hawthorn.operations.release.lines import DispatchCheck, Line, Need, Offer, UnmetAhead, UnmetCondition
from hawthorn.operations.release.undoing import Undoing
from hawthorn.operations.runtime.act import View
from hawthorn.operations.search import finding
from hawthorn.store import dispatch_reviews as review_store
from hawthorn.store import dispatches as dispatch_store
from hawthorn.store import entries as store
from hawthorn.store import moves as move_store
from hawthorn.store import revisions, short
from hawthorn.store import strands as strand_store
from hawthorn.store.dispatch_reviews import DispatchReview
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.moves import Move


class SetValue(TypedDict):
    """A field that a move sets, and its value in words."""

    field: str
    label: str
    text: str


class Carried(TypedDict):
    """What a move carries: the stage that it goes to, empty for its verb's own, and the fields that it sets."""

    to: str
    sets: list[SetValue]


class MoveLine(Carried):
    """A move: what goes, from which revision to which at a stage, what comes `along` with another, and what its gate finds missing. `strand` is the one
    that it is written on inside its dispatch."""

    verb: str
    id: str
    locale: str
    source_locale: str
    title: str
    type: str
    before: int | None
    after: int | None
    stage: str
    head: int | None
    follows: bool
    along: bool
    strand: str
    unmet: list[UnmetCondition]


class PlannedElsewhere(TypedDict):
    """What another planned dispatch does with an edition of this one."""

    dispatch: str
    name: str
    instant: str
    verb: str
    title: str
    locale: str


class DispatchCheckShown(TypedDict):
    """A dispatch before it is made, or before it goes: what it needs, what else could go with it, and the pages that would change."""

    moves: list[MoveLine]
    needs: list[Need]
    offers: list[Offer]
    warnings: list[str]
    also: list[PlannedElsewhere]
    pages: list[ChangingPage]
    pages_total: int
    blocked: bool
    rest_goes: bool


class UndoCheck(DispatchCheckShown):
    """What undoing a dispatch would do; `changed` is what somebody released over it since."""

    changed: list[MoveLine]


class SpreadStep(TypedDict):
    """One time of a spread, as an instant and as the wall time in its zone, with what would go then."""

    instant: str
    wall: str
    zone: str
    moves: list[MoveLine]
    blocked: bool


class DispatchReviewShown(TypedDict):
    """A review of a dispatch as one; who decided, and when, are empty while it waits. `mine` says whether whoever looks asked for it."""

    by: str
    at: str
    note: str
    outcome: str
    decided_by: str
    decided_at: str
    reason: str
    mine: bool


class HeldMove(TypedDict):
    """A move that held its dispatch, and why."""

    title: str
    entry: str
    locale: str
    unmet: list[UnmetAhead]


class DispatchShown(TypedDict):
    """A dispatch with its moves: when it goes, as an instant and as the wall time in its zone, who answers for it, what held it, and what whoever looks
    may do with it (`acts`)."""

    id: str
    short: str
    name: str
    state: str
    instant: str | None
    wall: str
    zone: str
    by: str
    owner: str
    owner_name: str
    partial: bool
    override_quiet: bool
    undoes: str | None
    undone_by: str | None
    held_back_from: str | None
    held_back: str | None
    count: int
    acts: Sequence[str]
    note: str
    created_at: str
    ended_at: str | None
    late_by_seconds: float
    trouble: str
    held: list[HeldMove]
    review: DispatchReviewShown | None
    moves: list[MoveLine]


def dispatch_check(view: View, found: DispatchCheck, beside: int = 0) -> DispatchCheckShown:
    """A dispatch before it is made, or before it goes; `beside` is its number, where it is one already."""
    titles = {x.edition: (x.title, x.locale) for x in found.lines}
    written = strand_store.names_inside(view.conn, beside)
    changing = affected.changing(view, found.lines)
    return {
        "moves": [_outlook_line(view, x, written.get(x.edition, "")) for x in found.lines],
        "needs": found.needs,
        "offers": planning.offered(view, found.lines),
        "warnings": [view.say(one) for one in found.warnings],
        "also": [
            {
                "dispatch": p.uuid,
                "name": p.name,
                "instant": iso(p.instant),
                "verb": p.verb,
                "title": titles[p.edition][0],
                "locale": titles[p.edition][1],
            }
            for p in found.also
        ],
        "pages": changing.items,
        "pages_total": changing.total,
        "blocked": found.blocked,
        "rest_goes": found.rest_goes,
    }


def spread_step(view: View, when: PlannedTime, found: DispatchCheck) -> SpreadStep:
    """One time of a spread, with what would go then."""
    return {
        "instant": iso(when.instant),
        "wall": when.wall,
        "zone": when.zone,
        "moves": [_outlook_line(view, x) for x in found.lines],
        "blocked": found.blocked,
    }


def undo_check(view: View, found: Undoing) -> UndoCheck:
    """What undoing a dispatch would do, with what changed since it went."""
    changed = [_outlook_line(view, x) for x in found.changed]
    return {**dispatch_check(view, found.check), "changed": changed}


def _carried(
    view: View, verb: str, type: str, payload: Mapping[str, Any], locale: str, revision: int | None
) -> Carried:
    """What a move carries, as it is read: the stage that it goes to, and the fields that it sets, which a revision holds that was written
    for it."""
    kind = view.setup.types[type]
    fields = brought(kind, Content(payload.get("fields", {}), id=revision or 0)).fields
    reading = finding.reading(view, kind, locale, Content(fields))
    named = payload.get("stage", "")
    return {
        "to": view.setup.labels.get(named, named),
        "sets": [
            {
                "field": name,
                "label": contenttypes.label_of(kind, name),
                "text": read_fields.readable(spec, value, reading)
                if (spec := kind.field(name)) and fitting.takes(spec, value)
                else "",
            }
            for name, value in fields.items()
        ],
    }


def _outlook_line(view: View, x: Line, strand: str = "") -> MoveLine:
    entry_row = store.even_removed(view.conn, x.uuid)
    assert entry_row is not None
    edition = store.edition(view.conn, entry_row.id, x.locale)
    assert edition is not None
    stage = view.setup.stage_names[x.stage]
    brought = x.revision if x.patch is None else None
    return {
        "verb": x.verb,
        "id": x.uuid,
        "locale": x.locale,
        "source_locale": entry_row.source_locale,
        "title": x.title,
        "type": x.type,
        "before": x.before,
        "after": x.after,
        "stage": stage,
        "head": x.head,
        "follows": x.follows,
        "along": x.along,
        **_carried(view, x.verb, x.type, x.payload, x.locale, x.revision),
        "strand": strand,
        "unmet": [
            {
                **planning.condition(view, u),
                "who": deciding.clearing(view, entry_row, edition, stage, brought, u),
            }
            for u in x.unmet
        ],
    }


def dispatch(view: View, row: Dispatch, *, whole: bool = True) -> DispatchShown:
    """A dispatch with its moves, and for a planned one what would hold it now."""
    kept = move_store.moves(view.conn, row.id, -1 if whole else 20)
    unmet: dict[int, list[Unmet]] = {}
    if row.state == "planned" and whole and len(kept) <= 500:
        lines = going.lines_of(view, row.id)
        planning.plan_lines(view, lines, row.at, beside=row.id, quiet_at=going.quiet_at_of(row, row.at))
        unmet = _unmet_of(kept, lines)
    inside = strand_store.of_dispatch(view.conn, row.id)
    written, heads = {s.edition: s.name for s in inside}, {s.edition: s.head for s in inside}
    numbers = revisions.numbers(view.conn, set(heads.values()))
    reviewed = review_store.latest(view.conn, row.id)
    undone_by = dispatch_store.undoing(view.conn, row.id) if row.state == "undone" else None
    return {
        "id": row.uuid,
        "short": short.of(view.conn, "dispatch", row.uuid),
        "name": row.name,
        "state": row.state,
        "instant": iso(row.instant) if row.instant is not None else None,
        "wall": row.wall,
        "zone": row.zone,
        "by": row.by_name,
        "owner": row.owner_handle,
        "owner_name": row.owner_name,
        "partial": bool(row.partial),
        "override_quiet": row.quiet_by is not None,
        "undoes": _uuid(view, row.undoes),
        "undone_by": undone_by,
        "held_back_from": _uuid(view, row.held_back_from),
        "held_back": dispatch_store.held_back(view.conn, row.id) if row.partial else None,
        "count": move_store.count_moves(view.conn, row.id),
        "acts": offering.acts(view, row, reviewing_too=whole),
        "note": row.note,
        "created_at": iso(row.created_at),
        "ended_at": iso(row.ended_at) if row.ended_at else None,
        "late_by_seconds": round(row.late_by / timeline.SECOND, 1) if row.late_by else 0,
        "trouble": row.trouble,
        "held": _held(view, json.loads(row.held)),
        "review": _review(view, reviewed) if reviewed is not None else None,
        "moves": [
            {
                "verb": m.verb,
                "id": m.uuid,
                "locale": m.locale,
                "source_locale": m.source_locale,
                "title": permission.title(view, m.entry, m.locale),
                "type": m.type,
                "before": _before(row.state, m),
                "after": m.number if m.number is not None else numbers.get(heads.get(m.edition, 0)),
                "stage": m.stage_name,
                "head": m.head if m.verb in moves.LEADING else None,
                "follows": bool(m.follows),
                "along": bool(m.along),
                **_carried(view, m.verb, m.type, requested.payload_of(m), m.locale, m.revision),
                "strand": written.get(m.edition, ""),
                "unmet": [{**planning.condition(view, u), "who": []} for u in unmet.get(m.edition, ())],
            }
            for m in kept
        ],
    }


def _uuid(view: View, id: int | None) -> str | None:
    """Another dispatch that one is about, if it is."""
    return dispatch_store.by_id(view.conn, id).uuid if id is not None else None


def _unmet_of(kept: Sequence[Move], lines: Sequence[Line]) -> dict[int, list[Unmet]]:
    """What is unmet of each move, by edition; of shared fields that come along with a text by then, with that."""
    out = {x.edition: list(x.unmet) for x in lines}
    first = {m.uuid: m.edition for m in reversed(kept)}
    asked = {m.edition for m in kept}
    for x in lines:
        if x.edition not in asked and x.unmet and x.uuid in first:
            out.setdefault(first[x.uuid], []).extend(x.unmet)
    return out


def _review(view: View, row: DispatchReview) -> DispatchReviewShown:
    return {
        "by": row.by_name,
        "at": iso(row.at),
        "note": row.note,
        "outcome": row.outcome or "waiting",
        "decided_by": row.decided_name or "",
        "decided_at": iso(row.decided_at) if row.decided_at else "",
        "reason": row.reason,
        "mine": row.outcome is None and row.actor == view.identity.id,
    }


def _before(state: str, move: Move) -> int | None:
    """The revision that is where a move goes, or was until it went."""
    number: int | None = move.stands
    if state in ("gone", "undone"):
        number = move.closed
        if number is None and move.opened is None and move.verb in moves.LEADING:
            # It stood there already.
            number = move.number
    return number


def _held(view: View, held: list[HeldMove]) -> list[HeldMove]:
    """What held a dispatch, without the names of what may not be read."""
    return [{**one, "unmet": [_unmet(view, u) for u in one["unmet"]]} for one in held]


def _unmet(view: View, condition: UnmetAhead) -> UnmetAhead:
    if not records.hides(view, condition):
        return condition
    return {**condition, "what": view.say("records.waits_for_hidden"), "where": ""}
