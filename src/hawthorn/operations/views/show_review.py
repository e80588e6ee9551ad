"""Review as those who take part see it: what was submitted and decided, what the gate finds missing, and what may be done now."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from typing import TypedDict

from hawthorn.core import workflow
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import Standing, iso
from hawthorn.core.workflow import Candidate, Stage, Unmet, Workflow
from hawthorn.operations.access import permission
from hawthorn.operations.collaboration import assignments
from hawthorn.operations.collaboration.assignments import AssignmentShown
from hawthorn.operations.release import deciding, facts, planning, review
from hawthorn.operations.release.deciding import Pair
from hawthorn.operations.release.items import ReleaseItem
from hawthorn.operations.release.lines import UnmetAhead
from hawthorn.operations.runtime.act import View
from hawthorn.store import assignments as assigned
from hawthorn.store import comments, reviews, revisions, standings
from hawthorn.store.entries import Edition, Entry
from hawthorn.store.reviews import Decided


class OverrideLine(TypedDict):
    """Who overrode a gate, when, before which stage, for which revision and why."""

    by: str
    at: str
    stage: str
    revision: int
    reason: str


class SignedBefore(TypedDict):
    """The revision that whoever looks signed off last, and when."""

    revision: int
    at: str


class Review(TypedDict):
    """A submission and what became of it; who decided, and when, are empty while it waits. `common_revision` is that of the shared fields
    that is decided about with it."""

    stage: str
    revision: int
    common_revision: int | None
    by: str
    at: str
    note: str
    outcome: str
    decided_by: str
    decided_at: str
    reason: str


class SignOff(TypedDict):
    """Who signed which revision off at which stage, and whether that is the head; whether the shared fields as they are by now were signed
    off for that stage, or stand there (`covers_common`)."""

    by: str
    at: str
    stage: str
    revision: int
    covers_head: bool
    covers_common: bool
    note: str


class ActOffer(TypedDict):
    """Something that may be done with an edition now, or why not."""

    act: str
    allowed: bool
    why: str


class GateAhead(TypedDict):
    """The gate before a stage, as it is for one revision and that of the shared fields that would go with it (`common_revision`): who signed
    off, what is missing, and what the text shows that moved on since."""

    stage: str
    label: str
    sign_offs: int
    given: list[str]
    unmet: list[UnmetAhead]
    moved: list[str]
    embedded: str
    may_override: bool
    common_revision: int | None


@dataclass(slots=True)
class Around:
    """What comments and the decision about an edition need: the gate ahead, who decides, what was overridden, what whoever
    looks signed off last, to whom it is assigned, and how many comments are open."""

    assignment: AssignmentShown | None
    comments_open: int
    gate: GateAhead | None = None
    deciders: list[str] = field(default_factory=list)
    overrides: list[OverrideLine] = field(default_factory=list)
    signed_before: SignedBefore | None = None


def around(
    view: View,
    row: Entry,
    flow: Workflow,
    tag: str,
    own: Edition | None,
    common: Edition | None,
    latest: Decided | None,
) -> Around:
    """What surrounds an edition now, while it is written and decided about."""
    out = Around(
        assignments.shown(view, assigned.current(view.conn, row.id, tag)),
        comments.open_of(view.conn, row.id),
    )
    if own is None or own.head is None:
        return out
    waiting = latest is not None and latest.outcome is None
    # What is signed off and still stands there is before the next gate, as what waits is.
    ahead = latest is not None and (
        waiting or (latest.outcome == "signed off" and _stands(view, own.id, latest.stage, latest.revision))
    )
    revision = latest.revision if latest is not None and ahead else own.head
    if row.archived_at is None:
        # From the archive nothing leads on, and nobody is asked.
        goal = _goal(flow, latest if ahead else None)
        shared = deciding.going_along(view, common, latest if waiting else None)
        along = [(common, shared)] if common is not None and shared is not None else []
        out.gate = _gate(view, flow, goal, [(own, revision), *along])
        if waiting and latest is not None:
            pairs = deciding.pairs(view, row.id, own, latest)
            out.deciders = [r.name for r in deciding.deciders(view, row, flow, latest.stage_name, pairs)]
    out.overrides = [
        {
            "by": p.name,
            "at": iso(p.at),
            "stage": p.stage_name,
            "revision": revisions.number(view.conn, p.revision),
            "reason": p.reason,
        }
        for p in reviews.overrides(view.conn, {own.head, revision})
    ]
    signed = reviews.last_signed_by(view.conn, own.id, view.identity.id)
    if signed is not None:
        out.signed_before = {"revision": signed.number, "at": iso(signed.at)}
    return out


def _goal(flow: Workflow, waiting: Decided | None) -> Stage:
    """The stage ahead of what waits, or of the draft."""
    names = [s.name for s in flow.stages]
    here = waiting.stage_name if waiting is not None and waiting.stage_name in names else flow.stages[0].name
    return flow.after(here) or flow.last


def _gate(view: View, flow: Workflow, goal: Stage, some: Sequence[Pair]) -> GateAhead:
    """The gate before a stage: what it finds missing in a revision, with what the text shows that moved on since it was signed."""
    found, lacking = _missing(view, flow, goal, some)
    moved = {title for candidate in found.values() for title in candidate.changed_embeds.get(goal.name, ())}
    return {
        "stage": goal.name,
        "label": goal.label,
        "sign_offs": goal.gate.sign_offs,
        "given": _given(goal, list(found.values())),
        "unmet": [planning.condition(view, u) for u in lacking],
        "moved": sorted(moved),
        "embedded": goal.gate.embedded,
        "may_override": goal.gate.lets_override(view.identity.roles, view.identity.handle),
        "common_revision": revisions.number(view.conn, some[1][1]) if some[1:] else None,
    }


def _given(goal: Stage, found: Sequence[Candidate]) -> list[str]:
    """Who signed all off that the gate looks at, by name."""
    each = [{s.person: s.name for s in workflow.counting(goal, one)} for one in found]
    return [name for person, name in each[0].items() if all(person in one for one in each)]


def _missing(
    view: View, flow: Workflow, goal: Stage, some: Sequence[Pair]
) -> tuple[dict[int, Candidate], list[Unmet]]:
    """What the gate looks at and finds missing, in an edition and of the shared fields that would go with it; each thing once."""
    stage = view.setup.stages[goal.name]
    text, *along = some
    pairs = [text, *(one for one in along if not _stands(view, one[0].id, stage, one[1]))]
    going = [ReleaseItem(one.id, revision, stage) for one, revision in pairs]
    found = facts.candidates(view, going, facts.of_editions(view, going))
    lacking = {
        (u.code, u.where, u.what): u for one in going for u in workflow.unmet(flow, goal, found[one.edition])
    }
    return found, list(lacking.values())


def _stands(view: View, edition: int, stage: int, revision: int) -> bool:
    standing = standings.now_at(view.conn, [edition]).get(edition, {}).get(stage)
    return standing is not None and standing.revision == revision


def submission(view: View, row: Decided, common: Edition | None) -> Review:
    """The newest submission and what became of it."""
    shared: int | None = None
    if common is not None and row.outcome in (None, "signed off"):
        shared = deciding.shared_with(view, common, row)
    return {
        "stage": row.stage_name,
        "revision": row.number,
        "common_revision": revisions.number(view.conn, shared) if shared is not None else None,
        "by": row.by_name,
        "at": iso(row.at),
        "note": row.note,
        "outcome": row.outcome or "waiting",
        "decided_by": row.decided_name or "",
        "decided_at": iso(row.decided_at) if row.decided_at else "",
        "reason": row.reason,
    }


def sign_offs(
    view: View, flow: Workflow, own: Edition, common: Edition | None, latest: Decided | None
) -> list[SignOff]:
    """Who signed which revision: of the head and of what was submitted last."""
    ids = {id for id in (own.head, latest.revision if latest else None) if id is not None}
    shared = common.head if common is not None else None
    signed = {row.stage_name for row in reviews.sign_offs(view.conn, [shared], view.now)} if shared else set()
    here = standings.now_at(view.conn, [common.id]).get(common.id, {}) if common is not None else {}
    moved = {
        stage.name
        for stage in flow.stages
        if common is not None and shared is not None and review.shared_moved(view, common, here, flow, stage)
    }
    return [
        {
            "by": row.name,
            "at": iso(row.at),
            "stage": row.stage_name,
            "revision": revisions.number(view.conn, row.revision),
            "covers_head": row.revision == own.head,
            "covers_common": row.stage_name in signed or row.stage_name not in moved,
            "note": row.note,
        }
        for row in reviews.sign_offs(view.conn, sorted(ids), view.now)
    ]


def acts(
    view: View,
    row: Entry,
    flow: Workflow,
    tag: str,
    own: Edition | None,
    common: Edition | None,
    latest: Decided | None,
    stand: Mapping[int, Mapping[int, Standing]],
    gate: GateAhead | None,
    *,
    elsewhen: bool = False,
) -> list[ActOffer]:
    """Every act there is for an edition now: allowed or not, and why not. `gate` is the one ahead, as `around` gives it; at another
    instant (`elsewhen`) nothing is done."""
    out: list[ActOffer] = []

    def offer(
        act: str,
        verb: str,
        fits: bool,
        why_not: Message | None = None,
        stage: str | None = None,
        locale: str = tag,
    ) -> None:
        about = permission.subject(view, row, locale, stage)
        reason = "" if fits or why_not is None else view.say(why_not)
        if elsewhen:
            fits, reason = False, view.say("show.another_instant")
        elif row.archived_at is not None:
            fits, reason = False, view.say("drafts.in_archive")
        if fits and not permission.may(view, verb, about):
            reason = view.why(permission.refusal(view, verb, about))
        out.append({"act": act, "allowed": not reason, "why": reason})

    has_head = own is not None and own.head is not None
    here = stand.get(own.id, {}) if own is not None else {}
    out_now = here.get(view.setup.stages[flow.last.name])
    waiting = latest is not None and latest.outcome is None
    # Shared fields that were changed since go along with what is in review, or out, already.
    to_review, to_release = (
        common is not None
        and common.head is not None
        and review.shared_moved(view, common, stand.get(common.id, {}), flow, stage)
        for stage in (flow.stages[1], flow.last)
    )
    already = "" if own is None or to_review else review.submitted_already(view, flow, own)
    is_out = out_now is not None and own is not None and out_now.revision == own.head
    released_head = is_out and not to_release
    offer("save", "write", True)
    reviewed = flow.stages[1] != flow.last
    offer(
        "submit",
        "submit",
        has_head and reviewed and not already,
        said("show_review.without_review")
        if not reviewed
        else said(already)
        if already
        else said("show_review.no_draft"),
        flow.stages[1].name,
    )
    nothing_waits = said("review.nothing_waits")
    mine = latest is not None and latest.actor == view.identity.id
    not_theirs = (
        said("show_review.only_theirs", name=latest.by_name)
        if waiting and latest is not None
        else nothing_waits
    )
    offer("take-back", "submit", waiting and mine, not_theirs)
    signed = latest is not None and latest.outcome == "signed off" and latest.stage in here
    here_name = latest.stage_name if waiting and latest else None
    not_mine: Message | None = None
    if waiting and latest is not None and own is not None and (goal := flow.after(latest.stage_name)):
        not_mine = deciding.why_not_sign(view, goal, deciding.pairs(view, row.id, own, latest))
    # What is signed off and still stands there may be signed again, to cover what it embeds by now.
    may_sign = waiting or (signed and gate is not None and bool(gate["moved"]))
    offer(
        "sign",
        "sign",
        may_sign and not_mine is None,
        not_mine or nothing_waits,
        here_name,
    )
    offer("send-back", "sign", waiting or signed, said("review.nothing_in_review"))
    ready = waiting and gate is not None and not gate["unmet"]
    offer(
        "move-on",
        "submit",
        ready,
        said("show_review.gate_does_not_hold"),
        here_name,
    )
    overriders = [
        s.name for s in flow.stages[1:] if s.gate.lets_override(view.identity.roles, view.identity.handle)
    ]
    offer("override", "read", has_head and bool(overriders), said("show_review.no_override"))
    offer(
        "release",
        "release",
        has_head and not released_head,
        said("review.out_already") if released_head else said("show_review.no_draft"),
        flow.last.name,
    )
    offer("withdraw", "release", out_now is not None, said("show_review.not_out"), flow.last.name)
    into = _into(view, row)
    not_so = (
        said("show_review.from_the_source")
        if tag != row.source_locale
        else said("show_review.not_translated")
        if not view.setup.type(row.type).translated
        else said("show_review.one_language")
        if not into
        else None
    )
    offer("commission", "commission", not_so is None, not_so, locale=into)
    return out


def _into(view: View, row: Entry) -> str:
    """A locale into which whoever looks may commission translations of an entry; any other than its own where there is none; empty where
    the house has no other."""
    about = permission.subject(view, row, row.source_locale)
    others = [one for one in view.setup.locales if one != row.source_locale]
    may = (one for one in others if permission.may(view, "commission", replace(about, locale=one)))
    return next(may, others[0] if others else "")
