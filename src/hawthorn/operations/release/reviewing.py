"""A dispatch reviewed as one: asked for in one act, each revision that it brings and each entry that it takes away signed off by
itself, all of them or some, or sent back."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from itertools import pairwise

from hawthorn.core import naming
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, Refused, StaleRevision
from hawthorn.core.messages import Message, said
from hawthorn.core.workflow import Stage, Workflow
from hawthorn.operations.access import permission
from hawthorn.operations.release import deciding, dispatches, facts, leaving, records, review, workflows
from hawthorn.operations.release.items import ReleaseItem
from hawthorn.operations.release.leaving import Parting
from hawthorn.operations.release.lines import Line
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import dispatch_reviews as store
from hawthorn.store import entries, reviews, revisions
from hawthorn.store import leaving as leaving_store
from hawthorn.store import moves as move_store
from hawthorn.store import strands as strand_store
from hawthorn.store.dispatch_reviews import DispatchReview
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.entries import Edition

TOLD = 200
"""So many moves are looked at for whom to tell."""
_Step = tuple[Line, Edition, Workflow, Stage, Stage]
Named = Collection[tuple[str, str]]
"""Entries (UUIDs) in a locale; an empty locale means every one."""


def ask(act: Act, uuid: str, note: str = "") -> None:
    """Submit a dispatch for review, with a note; those whose sign-off it needs are told."""
    row = records.find(act, uuid)
    for about in _moved(act, row):
        permission.require(act, "submit", about)
    records.require_state(row, "review")
    note = naming.note("note", note)
    lines = reviewed(act, row)
    if not lines:
        raise InTheWay("reviewing.nothing_brought")
    if next(_steps(act, lines), None) is None and next(_partings(act, row, lines), None) is None:
        raise InTheWay("reviewing.not_needed")
    store.ask(act.conn, row.id, act.identity.id, act.now, note)
    _told(act, "dispatch.submitted", row, lines, note=note, to=sorted(deciders(act, row, lines[:TOLD])))


def sign(
    act: Act,
    uuid: str,
    named: Named = (),
    note: str = "",
    seen: Mapping[tuple[str, str], int | None] | None = None,
) -> int:
    """Sign off what a dispatch brings and what it takes away, all of it or some, each in exactly the revision that it has now;
    returns how many sign-offs were given. A newer revision is not covered. `seen` holds some to the numbers of the revisions that
    were looked at; raises `StaleRevision` where one has another by now."""
    row = records.find(act, uuid)
    moved = _moved(act, row)
    if moved and not any(permission.may(act, "sign", about) for about in moved):
        permission.require(act, "sign", moved[0])
    records.require_state(row, "review")
    note = naming.note("note", note)
    lines = [x for x in reviewed(act, row) if not named or {(x.uuid, x.locale), (x.uuid, "")} & set(named)]
    _require_as_seen(act, lines, seen or {})
    waits: dict[tuple[str, int, str], tuple[Workflow, Stage, list[tuple[Edition, int]]]] = {}
    refused: Refused | None = None
    why: Message | None = None
    for line, edition, flow, here, goal in _steps(act, lines):
        about = permission.subject(act, _entry(act, edition), edition.locale, here.name)
        if not permission.may(act, "sign", about):
            refused = permission.refusal(act, "sign", about)
            continue
        assert line.revision is not None
        not_mine = deciding.why_not_sign(act, goal, [(edition, line.revision)])
        if not_mine is not None:
            why = not_mine
            continue
        step = waits.setdefault((flow.name, flow.version, goal.name), (flow, goal, []))
        step[2].append((edition, line.revision))
    parting: list[Parting] = []
    for one in _partings(act, row, lines):
        about = permission.subject(
            act, entries.entry_by_id(act.conn, one.about.entry), one.line.locale, one.here.name
        )
        if not permission.may(act, "sign", about):
            refused = permission.refusal(act, "sign", about)
        elif (not_mine := leaving.why_not(act, one)) is not None:
            why = not_mine
        elif act.identity.id not in {s.person for s in one.asked.signed}:
            parting.append(one)
    if not waits and not parting:
        if why is None and refused is not None:
            raise refused
        if why is not None:
            raise Refused(
                "review.does_not_count",
                why=why,
                remedy=said("reviewing.ask_others"),
                missing=said("review.sign_off_by_another"),
                who=[],
            )
        raise InTheWay("reviewing.nothing_to_sign")
    given = 0
    for flow, goal, pairs in waits.values():
        given += len(pairs)
        review.sign_pairs(act, flow, goal, pairs, note)
    for one in parting:
        given += 1
        identity = act.identity
        leaving_store.sign(act.conn, row.id, one.line.edition, identity.id, identity.roles, act.now, note)
    rest = reviewed(act, row)
    missing = sum(1 for _ in _steps(act, rest)) + sum(1 for _ in _partings(act, row, rest))
    if not missing:
        store.decide(act.conn, row.id, "signed off", act.identity.id, act.now, note)
    latest = store.latest(act.conn, row.id)
    asked_by = latest.actor if latest is not None else row.owner
    _told(act, "dispatch.signed", row, lines, note=note, missing=missing, to=asked_by)
    return given


def _require_as_seen(act: Act, lines: Sequence[Line], seen: Mapping[tuple[str, str], int | None]) -> None:
    """Raise `StaleRevision` where a dispatch brings another revision by now than the one that was looked at."""
    held = [(x, asked) for x in lines if (asked := seen.get((x.uuid, x.locale))) is not None]
    numbers = revisions.numbers(act.conn, (x.revision for x, _ in held if x.revision is not None))
    for line, asked in held:
        number = numbers[line.revision] if line.revision is not None else 0
        if asked != number:
            title = line.title or said("common.untitled")
            raise StaleRevision("reviewing.another_revision", entry=title, asked=asked, revision=number)


def send_back(act: Act, uuid: str, reason: str) -> None:
    """Send a dispatch back with a reason that whoever asked for review sees; sign-offs of what was written inside it are void."""
    row = records.find(act, uuid)
    for about in _moved(act, row):
        permission.require(act, "sign", about)
    records.require_state(row, "review")
    reason = naming.note("reason", reason)
    if not reason:
        raise Invalid([FieldProblem("reason", said("review.sent_back_without_reason"))])
    lines = reviewed(act, row)
    waiting = _waiting(act, row)
    inside = {s.head for s in strand_store.of_dispatch(act.conn, row.id)}
    for line in lines:
        if line.revision in inside:
            reviews.take_off(act.conn, line.revision)
    leaving_store.void(act.conn, row.id)
    store.decide(act.conn, row.id, "sent back", act.identity.id, act.now, reason)
    _told(act, "dispatch.sent-back", row, lines, note=reason, to=waiting.actor)


def take_back(act: Act, uuid: str) -> None:
    """Take a dispatch back from review before it is decided."""
    row = records.find(act, uuid)
    records.require_state(row, "review")
    waiting = _waiting(act, row)
    if waiting.actor != act.identity.id:
        raise Refused("review.not_to_take_back", name=waiting.by_name, missing="own", who=[waiting.by_name])
    store.decide(act.conn, row.id, "taken back", act.identity.id, act.now, "")
    _told(act, "dispatch.taken-back", row, reviewed(act, row))


def acts(view: View, row: Dispatch) -> list[str]:
    """What whoever looks may do about the review of a dispatch that may be reviewed now. Of very many moves it is not looked whether any misses
    a sign-off: then it is offered by right alone."""
    moved, latest = _moved(view, row), store.latest(view.conn, row.id)
    waiting = latest if latest is not None and latest.outcome is None else None
    if move_store.count_moves(view.conn, row.id) > TOLD:
        misses, signs = True, any(permission.may(view, "sign", about) for about in moved)
    else:
        lines = reviewed(view, row)
        steps, partings = list(_steps(view, lines)), list(_partings(view, row, lines))
        misses, signs = bool(steps or partings), view.identity.id in _deciders(view, steps, partings)
    offered = {
        "submit": misses and all(permission.may(view, "submit", about) for about in moved),
        "sign": signs,
        "send-back": waiting is not None and all(permission.may(view, "sign", about) for about in moved),
        "take-back": waiting is not None and waiting.actor == view.identity.id,
    }
    return [act for act, may in offered.items() if may]


def reviewed(view: View, row: Dispatch) -> list[Line]:
    """What a dispatch brings somewhere, in the revisions that it has now, and what it takes away."""
    lines = dispatches.lines_of(view, row)
    return [
        x
        for x in lines
        if x.stuck is None and (x.leaves or (x.leads and x.revision is not None and x.does.gated))
    ]


def waits_for(view: View, row: Dispatch) -> bool:
    """Whether a sign-off by whoever looks is missing for what a dispatch brings."""
    return view.identity.id in deciders(view, row, reviewed(view, row)[:TOLD])


def deciders(view: View, row: Dispatch, lines: Sequence[Line]) -> set[int]:
    """The people whose sign-off of any of some lines would count, and who have not given it."""
    return _deciders(view, _steps(view, lines), _partings(view, row, lines))


def _deciders(view: View, steps: Iterable[_Step], partings: Iterable[Parting]) -> set[int]:
    out: set[int] = set()
    for parting in partings:
        gate, asked = parting.gate.gate, parting.asked
        entry = entries.entry_by_id(view.conn, parting.about.entry)
        about = permission.subject(view, entry, parting.line.locale, parting.here.name)
        not_theirs = {s.person for s in asked.signed}
        if gate.author == "no" and asked.by is not None:
            not_theirs.add(asked.by)
        out |= {one.id for one in deciding.signers(view, about, gate, not_theirs)}
    for line, edition, flow, here, _ in steps:
        assert line.revision is not None
        found = deciding.deciders(view, _entry(view, edition), flow, here.name, [(edition, line.revision)])
        out |= {one.id for one in found}
    return out


def _partings(view: View, row: Dispatch, lines: Sequence[Line]) -> Iterator[Parting]:
    """The lines that leave and miss sign-offs."""
    at = row.instant if row.instant is not None else view.now
    return leaving.unsigned(view, lines, row.id, at)


def _steps(view: View, lines: Sequence[Line]) -> Iterator[_Step]:
    """The gates on the way of each line that miss sign-offs of its revision, each with the stage before it."""
    lines = [x for x in lines if x.leads and x.revision is not None]
    items = [ReleaseItem(x.edition, x.revision, x.stage) for x in lines if x.revision is not None]
    about = facts.of_editions(view, items)
    found = facts.candidates(view, items, about)
    flows = workflows.Flows(view)
    for line in lines:
        known = about[line.edition]
        standing = known.standings.get(line.stage)
        if standing is not None and standing.revision == line.revision:
            continue
        edition = entries.edition_by_id(view.conn, line.edition)
        flow = flows.of(known, known.locale)
        name = view.setup.stage_names[line.stage]
        if name not in flow.names:
            continue
        goal = flow.stage(name)
        for here, stage in pairwise(flow.stages):
            if stage.order <= goal.order and review.misses_sign_offs(stage, found[line.edition]):
                yield line, edition, flow, here, stage


def _entry(view: View, edition: Edition) -> entries.Entry:
    return entries.entry_by_id(view.conn, edition.entry)


def _moved(view: View, row: Dispatch) -> list[Subject]:
    """What a dispatch moves, as far as it differs for grants."""
    return [permission.subject(view, one, one.locale) for one in move_store.kinds(view.conn, row.id)]


def _waiting(view: View, row: Dispatch) -> DispatchReview:
    found = store.latest(view.conn, row.id)
    if found is None or found.outcome is not None:
        raise InTheWay("reviewing.nothing_waits")
    return found


def _told(act: Act, kind: str, row: Dispatch, lines: Sequence[Line], **facts: object) -> None:
    about = sorted({entries.edition_by_id(act.conn, x.edition).entry for x in lines})
    act.event(kind, about, {"dispatch": row.uuid, "name": row.name, "count": len(lines), **facts})
