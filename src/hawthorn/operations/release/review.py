"""Review: submitting, taking back, signing off, moving on, overriding, and sending back."""

from __future__ import annotations

from collections.abc import Mapping

from hawthorn.core import moves, naming
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.dispatch import Opening, Plan
from hawthorn.core.errors import FieldProblem, GateUnmet, InTheWay, Invalid, NotFound, Refused, StaleRevision
from hawthorn.core.messages import said
from hawthorn.core.timeline import Standing
from hawthorn.core.workflow import Candidate, Stage, Workflow, sign_offs_unmet, unmet
from hawthorn.operations.access import permission
from hawthorn.operations.release import applying, deciding, drafts, facts, planning, workflows
from hawthorn.operations.release.items import ReleaseItem
from hawthorn.operations.release.lines import Line
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import entries, people, reviews, revisions, standings
from hawthorn.store.entries import Edition, Entry
from hawthorn.store.reviews import Decided, Submission


def submit(act: Act, uuid: str, locale: str, note: str = "") -> None:
    """Submit the draft for the first stage after it. Shared fields that changed go along in the same act."""
    note = naming.note("note", note)
    entry, edition, flow = find(act, uuid, locale)
    stage, kind = flow.stages[1], act.setup.type(entry.type)
    if stage == flow.last:
        raise InTheWay("review.not_needed", kind=kind.label)
    permission.require(act, "submit", permission.subject(act, entry, edition.locale, stage.name))
    going = [edition]
    common = entries.edition(act.conn, entry.id, COMMON)
    if common is not None and shared_moved(act, common, _here(act, common), flow, stage):
        going.append(common)
    elif code := submitted_already(act, flow, edition):
        raise InTheWay(code)
    _require_gate(act, flow, stage, [(e, e.tip) for e in going])
    head = revisions.by_id(act.conn, edition.tip)
    if kind.policy.needs_note and not note and not (head and head.note):
        raise Invalid([FieldProblem("note", said("review.needs_note", kind=kind.label))])
    for one in going:
        _stand(act, one, stage, one.tip)
        reviews.submit(
            act.conn, one.id, act.setup.stages[stage.name], one.tip, act.identity.id, act.now, note
        )
    act.event(
        "review.submitted", [entry.id], payload_of(act, entry, edition, edition.tip_number, stage, note)
    )


def _here(view: View, edition: Edition) -> Mapping[int, Standing]:
    """What stands of an edition now, by stage."""
    return standings.now_at(view.conn, [edition.id]).get(edition.id, {})


def submitted_already(view: View, flow: Workflow, edition: Edition) -> str:
    """Why the head of a draft is nothing to submit, as a code: it waits, was signed off, or is out; empty where it is."""
    latest = reviews.latest(view.conn, edition.id)
    stand = _here(view, edition)
    if latest is not None and latest.revision == edition.head:
        if latest.outcome is None:
            return "review.in_review_already"
        goal = flow.after(latest.stage_name) if latest.stage in stand else None
        if goal is not None and latest.outcome == "signed off":
            about = deciding.pairs(view, edition.entry, edition, latest)
            return "" if deciding.misses(view, goal, about) else "review.signed_off_already"
    last = stand.get(view.setup.stages[flow.last.name])
    return "review.out_already" if last is not None and last.revision == edition.head else ""


def blocked_from(act: Act, flow: Workflow, edition: Edition, stage: Stage) -> str:
    """Why an edition's head may not stand at a stage, in words; empty when it may."""
    try:
        _require_gate(act, flow, stage, [(edition, edition.tip)])
    except GateUnmet as refused:
        return act.say(refused.message)
    return ""


def put_up(act: Act, entry: Entry, edition: Edition, flow: Workflow, note: str) -> None:
    """Put an edition's head up for review, as part of an act that asked for the right to that; what waits already is left as it is."""
    stage = flow.stages[1]
    waiting = reviews.waiting(act.conn, edition.id)
    if waiting is not None and waiting.revision == edition.tip and waiting.stage_name == stage.name:
        return
    _stand(act, edition, stage, edition.tip)
    reviews.submit(
        act.conn, edition.id, act.setup.stages[stage.name], edition.tip, act.identity.id, act.now, note
    )
    payload = payload_of(act, entry, edition, edition.tip_number, stage, note)
    act.event("review.submitted", [entry.id], payload)


def stand_and_sign(act: Act, entry_id: int, edition: Edition, flow: Workflow, note: str) -> str:
    """Put an edition's head up for review and sign it off in one act: what accepting a translation means.

    Returns why it waits for somebody else, where a sign-off by whoever accepts would not count.
    """
    entry = entries.entry_by_id(act.conn, entry_id)
    stage, goal = flow.stages[1], flow.stages[2]
    put_up(act, entry, edition, flow, note)
    payload = payload_of(act, entry, edition, edition.tip_number, stage, note)
    pairs = [(edition, edition.tip)]
    refusal = deciding.why_not_sign(act, goal, pairs)
    if refusal is not None:
        ask = deciding.ask(deciding.deciders(act, entry, flow, stage.name, pairs))
        return act.say("common.sentences", sentences=[refusal, ask])
    found = _sign(act, flow, goal, pairs, note)
    lacking = deciding.lacking(goal, found.values())
    _decided(act, flow, goal, pairs, found, note)
    act.event(
        "review.signed", [entry_id], {**payload, "for": goal.name, "missing": lacking, "to": act.identity.id}
    )
    return ""


def wait_at(act: Act, edition: int, stage: int, revision: int, by: int, note: str) -> None:
    """Let a revision that came to stand at a stage wait there for those who decide, in somebody's name."""
    one = entries.edition_by_id(act.conn, edition)
    entry = entries.entry_by_id(act.conn, one.entry)
    flow = workflows.of(act, entry, one.locale)
    reviews.submit(act.conn, edition, stage, revision, by, act.now, note)
    if one.locale != COMMON:
        number = revisions.number(act.conn, revision)
        goal = flow.stage(act.setup.stage_names[stage])
        act.event("review.submitted", [entry.id], payload_of(act, entry, one, number, goal, note))


def take_back(act: Act, uuid: str, locale: str) -> None:
    """Take a submission back before it is decided."""
    entry, edition, flow = find(act, uuid, locale)
    waiting = _waiting(act, edition)
    permission.require(act, "submit", permission.subject(act, entry, edition.locale, waiting.stage_name))
    if waiting.actor != act.identity.id:
        by = people.actor(act.conn, waiting.actor)
        name = by.name if by is not None else said("review.whoever_submitted")
        raise Refused("review.not_to_take_back", name=name, missing="own", who=[name])
    _leave(act, entry, edition, flow, "taken back", "")
    act.event(
        "review.taken-back",
        [entry.id],
        payload_of(
            act,
            entry,
            edition,
            revisions.number(act.conn, waiting.revision),
            flow.stage(waiting.stage_name),
            "",
        ),
    )


def sign_off(
    act: Act, uuid: str, locale: str, revision: int, note: str = "", shared: int | None = None
) -> None:
    """Approve exactly the revision of that number, as it stands in review; a newer one is not covered. `shared` is the number of the
    shared fields' revision that was looked at with it, 0 where there was none.

    What is signed off and still stands there may be signed again: the sign-off then covers what it embeds by now.
    """
    note = naming.note("note", note)
    entry, edition, flow = find(act, uuid, locale)
    waiting = reviews.waiting(act.conn, edition.id)
    again = None if waiting is not None else _signed_and_standing(act, edition)
    here_row = waiting or again or _waiting(act, edition)
    here = flow.stage(here_row.stage_name)
    goal = flow.after(here.name)
    assert goal is not None
    permission.require(act, "sign", permission.subject(act, entry, edition.locale, here.name))
    number = revisions.number(act.conn, here_row.revision)
    if number != revision:
        raise StaleRevision("review.another_revision", asked=revision, revision=number)
    pairs = deciding.pairs(act, entry.id, edition, here_row)
    covered = revisions.number(act.conn, pairs[1][1]) if len(pairs) > 1 else 0
    if shared is not None and shared != covered:
        raise StaleRevision("review.other_shared_fields", asked=shared, revision=covered)
    refusal = deciding.why_not_sign(act, goal, pairs)
    if refusal is not None:
        raise Refused(
            "review.does_not_count",
            why=refusal,
            remedy=deciding.ask(deciding.deciders(act, entry, flow, here.name, pairs)),
            missing=said("review.sign_off_by_another"),
            who=[],
        )
    found = _sign(act, flow, goal, pairs, note)
    lacking = deciding.lacking(goal, found.values())
    payload = {**payload_of(act, entry, edition, number, here, note), "for": goal.name, "missing": lacking}
    _decided(act, flow, goal, pairs, found, note)
    act.event("review.signed", [entry.id], {**payload, "to": here_row.actor})


def move_on(act: Act, uuid: str, locale: str) -> None:
    """Let what waits go to the next stage, or be ready for release, once the gate holds: after what was amiss is mended."""
    entry, edition, flow = find(act, uuid, locale)
    waiting = _waiting(act, edition)
    here = flow.stage(waiting.stage_name)
    goal = flow.after(here.name)
    assert goal is not None
    permission.require(act, "submit", permission.subject(act, entry, edition.locale, here.name))
    pairs = deciding.pairs(act, entry.id, edition, waiting)
    going = [ReleaseItem(one.id, revision, act.setup.stages[goal.name]) for one, revision in pairs]
    found = facts.candidates(act, going, facts.of_editions(act, going))
    _refuse_unmet(act, flow, goal, going, found)
    number = revisions.number(act.conn, waiting.revision)
    _decided(act, flow, goal, pairs, found, "")
    payload = payload_of(act, entry, edition, number, here, "")
    act.event("review.moved-on", [entry.id], {**payload, "for": goal.name, "to": waiting.actor})


def misses_sign_offs(stage: Stage, candidate: Candidate) -> bool:
    """Whether the gate before a stage misses sign-offs of what it looks at."""
    return bool(sign_offs_unmet(stage, candidate))


def sign_pairs(act: Act, flow: Workflow, goal: Stage, pairs: list[tuple[Edition, int]], note: str) -> None:
    """Sign off revisions for one gate. What waits before it in a review of its own goes on where that was the last one."""
    found = _sign(act, flow, goal, pairs, note)
    for edition, revision in pairs:
        waiting = reviews.waiting(act.conn, edition.id)
        here = waiting is not None and waiting.revision == revision and flow.after(waiting.stage_name) == goal
        if here:
            _decided(act, flow, goal, [(edition, revision)], found, note)


def _sign(
    act: Act, flow: Workflow, goal: Stage, pairs: list[tuple[Edition, int]], note: str
) -> dict[int, Candidate]:
    stage = act.setup.stages[goal.name]
    going = [ReleaseItem(one.id, revision, stage) for one, revision in pairs]
    about = facts.of_editions(act, going)
    before = facts.candidates(act, going, about)
    for one, revision in pairs:
        if goal.gate.author == "no" and act.identity.id in about[one.id].written_by(revision):
            # The text may be another's, and the shared fields one's own.
            continue
        row = revisions.by_id(act.conn, revision)
        assert row is not None
        reviews.add_sign_off(
            act.conn,
            revision,
            row.content_hash,
            stage,
            flow.name,
            flow.version,
            act.identity.id,
            act.identity.roles,
            act.now,
            before[one.id].embeds,
            note,
        )
    return facts.candidates(act, going, about)


def _decided(
    act: Act,
    flow: Workflow,
    goal: Stage,
    pairs: list[tuple[Edition, int]],
    found: Mapping[int, Candidate],
    note: str,
) -> None:
    """Once all sign-offs are there of all that is looked at together: on to the next stage if its gate holds whole; before release it is
    ready then."""
    lacks = [u.code for one, _ in pairs for u in unmet(flow, goal, found[one.id])]
    if "sign-offs" in lacks:
        return
    if goal == flow.last:
        act.ready |= {one.id for one, _ in pairs}
        for one, _ in pairs:
            reviews.decide(act.conn, one.id, "signed off", act.identity.id, act.now, note)
    elif not lacks:
        for one, revision in pairs:
            waiting = reviews.waiting(act.conn, one.id)
            by = waiting.actor if waiting is not None else act.identity.id
            _stand(act, one, goal, revision)
            reviews.submit(act.conn, one.id, act.setup.stages[goal.name], revision, by, act.now, "")


def send_back(act: Act, uuid: str, locale: str, reason: str) -> None:
    """Send a submission back with a reason that the writer sees; sign-offs of it, and of shared fields that were submitted with it, are
    void. What is out was signed off all the same."""
    entry, edition, flow = find(act, uuid, locale)
    reason = naming.note("reason", reason)
    if not reason:
        raise Invalid([FieldProblem("reason", said("review.sent_back_without_reason"))])
    waiting = reviews.waiting(act.conn, edition.id)
    if waiting is None and (waiting := _signed_and_standing(act, edition)) is not None:
        _wait_again(act, entry, waiting)
    if waiting is None:
        raise InTheWay("review.nothing_in_review")
    stage = flow.stage(waiting.stage_name)
    permission.require(act, "sign", permission.subject(act, entry, edition.locale, stage.name))
    number = revisions.number(act.conn, waiting.revision)
    for one, looked_at in deciding.pairs(act, entry.id, edition, waiting):
        is_out = _here(act, one).get(act.setup.stages[flow.last.name])
        theirs = reviews.waiting(act.conn, one.id)
        together = theirs is not None and theirs.at == waiting.at
        if together and (is_out is None or is_out.revision != looked_at):
            reviews.take_off(act.conn, looked_at)
    _leave(act, entry, edition, flow, "sent back", reason)
    act.event(
        "review.sent-back",
        [entry.id],
        {**payload_of(act, entry, edition, number, stage, reason), "to": waiting.actor},
    )


def _signed_and_standing(act: Act, edition: Edition) -> Decided | None:
    """A submission that was signed off but has not gone out may still be sent back, or signed again."""
    latest = reviews.latest(act.conn, edition.id)
    if latest is None or latest.outcome != "signed off":
        return None
    standing = _here(act, edition).get(latest.stage)
    return latest if standing is not None else None


def _wait_again(act: Act, entry: Entry, signed: Decided) -> None:
    """Let what was signed off wait as before, with the shared fields that were submitted with it."""
    reviews.wait_again(act.conn, signed.id)
    common = entries.edition(act.conn, entry.id, COMMON)
    theirs = reviews.latest(act.conn, common.id) if common is not None else None
    if theirs is not None and (theirs.outcome, theirs.at) == ("signed off", signed.at):
        reviews.wait_again(act.conn, theirs.id)


def _leave(act: Act, entry: Entry, edition: Edition, flow: Workflow, outcome: str, reason: str) -> None:
    """Close what stands in review, of the edition and of shared fields that were submitted with it."""
    common = entries.edition(act.conn, entry.id, COMMON)
    mine = reviews.waiting(act.conn, edition.id)
    closing: list[Standing] = []
    for one in (edition, common):
        waiting = reviews.waiting(act.conn, one.id) if one is not None else None
        if one is None or waiting is None or mine is None or waiting.at != mine.at:
            continue
        standing = _here(act, one).get(waiting.stage)
        if standing is not None:
            closing.append(standing)
        reviews.decide(act.conn, one.id, outcome, act.identity.id, act.now, reason)
    applying.apply(act, Plan(tuple(closing), (), ()), act.now, None)


def _stand(act: Act, edition: Edition, stage: Stage, revision: int) -> None:
    id = act.setup.stages[stage.name]
    now = _here(act, edition).get(id)
    if now is not None and now.revision == revision:
        return
    closing = (now,) if now is not None else ()
    applying.apply(act, Plan(closing, (Opening(edition.id, id, revision),), ()), act.now, None)


def shared_moved(
    view: View, common: Edition, here: Mapping[int, Standing], flow: Workflow, stage: Stage
) -> bool:
    """Whether the shared fields hold something that stands neither at a stage nor further on; `here` is what stands of them."""
    ahead = [view.setup.stages[s.name] for s in flow.stages if s.order >= stage.order]
    return not any(here[s].revision == common.head for s in ahead if s in here)


def _require_gate(act: Act, flow: Workflow, stage: Stage, pairs: list[tuple[Edition, int]]) -> None:
    going = [ReleaseItem(one.id, revision, act.setup.stages[stage.name]) for one, revision in pairs]
    _refuse_unmet(act, flow, stage, going, facts.candidates(act, going, facts.of_editions(act, going)))


def _refuse_unmet(
    act: Act, flow: Workflow, stage: Stage, going: list[ReleaseItem], found: Mapping[int, Candidate]
) -> None:
    about = facts.of_editions(act, going)
    lines = []
    for one in going:
        conditions = unmet(flow, stage, found[one.edition])
        f = about[one.edition]
        if conditions:
            lines.append(
                Line(
                    moves.USUAL,
                    one.edition,
                    one.stage,
                    one.revision,
                    False,
                    f.uuid,
                    f.locale,
                    entries.title(act.conn, f.entry),
                    f.type,
                    unmet=conditions,
                )
            )
    if lines:
        raise planning.gate_unmet(
            lines, [said("review.go_to", stage=stage.label.lower())], said("review.submit_again")
        )


def find(act: Act, uuid: str, locale: str) -> tuple[Entry, Edition, Workflow]:
    tag = act.setup.locale(locale)
    entry = permission.find(act, uuid, tag)
    drafts.require_at_work(entry)
    edition = entries.edition(act.conn, entry.id, tag)
    if edition is None or edition.head is None:
        raise NotFound("common.no_edition", locale=tag)
    return entry, edition, workflows.of(act, entry, tag)


def _waiting(act: Act, edition: Edition) -> Submission:
    row = reviews.waiting(act.conn, edition.id)
    if row is None:
        raise InTheWay("review.nothing_waits")
    return row


def payload_of(
    act: Act, entry: Entry, edition: Edition, number: int, stage: Stage, note: str
) -> dict[str, object]:
    return {
        "entry": entry.uuid,
        "locale": edition.locale,
        "title": entries.title(act.conn, entry.id, edition.locale),
        "revision": number,
        "stage": stage.name,
        "note": note,
    }
