"""Deciding: whose sign-off counts for what waits before a gate, a text with the shared fields that are looked at with it."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.messages import Message, said
from hawthorn.core.workflow import Candidate, Gate, Stage, Unmet, Workflow, counting, sign_offs_unmet
from hawthorn.operations.access import permission
from hawthorn.operations.release import bringing, facts, workflows
from hawthorn.operations.release.items import ReleaseItem
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, gates, reviews, standings
from hawthorn.store.entries import Edition, Entry
from hawthorn.store.people import HoldingOf
from hawthorn.store.reviews import Submission
from hawthorn.store.shaped import OfEntry

Pair = tuple[Edition, int]
"""An edition, and the revision of it that is decided about."""


def pairs(view: View, entry: int, edition: Edition, waiting: Submission) -> list[Pair]:
    """An edition's revision with that of the shared fields that goes with it."""
    out = [(edition, waiting.revision)]
    common = entries.edition(view.conn, entry, COMMON)
    shared = shared_with(view, common, waiting) if common is not None else None
    if common is not None and shared is not None:
        out.append((common, shared))
    return out


def shared_with(view: View, common: Edition, waiting: Submission) -> int | None:
    """The revision of the shared fields that is looked at with what waits: if they wait or stand at the same stage. What came there
    later, with another locale, is for those who decide about that."""
    theirs = reviews.waiting(view.conn, common.id)
    if theirs is not None and theirs.stage == waiting.stage:
        return theirs.revision if theirs.at <= waiting.at else None
    standing = standings.now_at(view.conn, [common.id]).get(common.id, {}).get(waiting.stage)
    return standing.revision if standing is not None else None


def going_along(view: View, common: Edition | None, waiting: Submission | None) -> int | None:
    """The revision of the shared fields that goes on with a text: what is looked at with it while it waits, else what is approved."""
    if common is None:
        return None
    looked_at = shared_with(view, common, waiting) if waiting is not None else None
    return looked_at or bringing.shared_by(view, common)


def _parts(view: View, goal: Stage, some: Sequence[Pair]) -> list[Candidate]:
    """What the gate before a stage counts sign-offs of: those of the pairs that miss any, or all where none does."""
    signed = gates.signed(view.conn, [revision for _, revision in some], view.now)
    wrote: dict[int, frozenset[int]] = {}
    if goal.gate.author != "yes":
        about = [ReleaseItem(one.id, revision, view.setup.stages[goal.name]) for one, revision in some]
        found = facts.of_editions(view, about)
        wrote = {one.id: found[one.id].written_by(revision) for one, revision in some}
    parts = [
        Candidate(one.id, goal.name, signed.get(revision, {}), wrote.get(one.id, frozenset()))
        for one, revision in some
    ]
    return [part for part in parts if sign_offs_unmet(goal, part)] or parts


def misses(view: View, goal: Stage, some: Sequence[Pair]) -> bool:
    """Whether the gate before a stage misses sign-offs of anything that waits together."""
    return any(sign_offs_unmet(goal, part) for part in _parts(view, goal, some))


def why_not_sign(view: View, goal: Stage, some: Sequence[Pair]) -> Message | None:
    """Why a gate would not count a sign-off by whoever acts, of any of what waits together; nothing when it would."""
    gate = goal.gate
    if not gate.counts(view.identity.roles, view.identity.handle):
        return said("review.not_to_sign", named=[*gate.roles, *gate.people], stage=goal.label.lower())
    if view.identity.id in _authors(goal, some, _parts(view, goal, some)):
        return said("review.own_text")
    return None


def _authors(goal: Stage, some: Sequence[Pair], parts: Sequence[Candidate]) -> frozenset[int]:
    """Those whose sign-off would count for none of what misses any, or who wrote the text itself, while that does."""
    if goal.gate.author != "no":
        return frozenset()
    if parts[0].edition == some[0][0].id:
        return parts[0].authors
    return frozenset.intersection(*(part.authors for part in parts))


def waits_for(view: View, goal: Stage, some: Sequence[Pair]) -> bool:
    """Whether the gate before a stage would count a sign-off by whoever looks, and has not got it yet."""
    gate, who = goal.gate, view.identity
    return gate.counts(who.roles, who.handle) and who.id not in _settled(view, goal, some)


def _settled(view: View, goal: Stage, some: Sequence[Pair]) -> frozenset[int]:
    """Those who have signed all that misses sign-offs, or may not sign it as they wrote it."""
    parts = _parts(view, goal, some)
    wrote = [part.authors if goal.gate.author == "no" else frozenset[int]() for part in parts]
    signed = [frozenset(s.person for s in part.signed.get(goal.name, ())) for part in parts]
    each = [one | other for one, other in zip(signed, wrote, strict=True)]
    return frozenset.intersection(*each) | _authors(goal, some, parts)


def lacking(goal: Stage, found: Collection[Candidate]) -> int:
    """How many sign-offs are missing yet of what waits together."""
    return max(0, *(goal.gate.sign_offs - len(counting(goal, one)) for one in found))


def deciders(view: View, entry: OfEntry, flow: Workflow, here: str, some: Sequence[Pair]) -> list[HoldingOf]:
    """The people whose sign-off of what stands at a stage, first of all an edition's text, the gate after it counts, and who have not given it."""
    if here not in [s.name for s in flow.stages] or (goal := flow.after(here)) is None:
        return []
    about = permission.subject(view, entry, some[0][0].locale, here)
    return signers(view, about, goal.gate, _settled(view, goal, some))


def signers(view: View, about: Subject, gate: Gate, but: Collection[int]) -> list[HoldingOf]:
    """The people whose sign-off of something a gate counts, without some of them."""
    return [
        row
        for row in permission.people_who(view, "sign", about)
        if row.id not in but and gate.counts(permission.roles_of(view, row.id), row.handle)
    ]


def clearers(
    view: View, entry: Entry, edition: Edition, goal: str, revision: int | None, condition: Unmet
) -> list[HoldingOf]:
    """Who could clear a condition that a revision does not meet for a stage: the same people who are asked to sign, are told that
    something waits, and are named when somebody else's sign-off would not count."""
    locale = edition.locale
    if condition.code != "sign-offs" or revision is None:
        return permission.people_who(view, condition.verb, permission.subject(view, entry, locale))
    flow = workflows.of(view, entry, locale)
    going = ReleaseItem(edition.id, revision, view.setup.stages[goal])
    candidate = facts.candidates(view, [going], facts.of_editions(view, [going]))[edition.id]
    found: dict[int, HoldingOf] = {}
    for here, stage in zip(flow.stages, flow.stages[1:], strict=False):
        if stage.order <= flow.stage(goal).order and sign_offs_unmet(stage, candidate):
            for row in deciders(view, entry, flow, here.name, [(edition, revision)]):
                found.setdefault(row.id, row)
    return [*found.values()]


def clearing(
    view: View, entry: Entry, edition: Edition, goal: str, revision: int | None, condition: Unmet
) -> list[str]:
    """The first of them, by name and role."""
    found = clearers(view, entry, edition, goal, revision, condition)
    return [f"{row.name} ({row.label})" for row in found[:4]]


def ask(who: Sequence[HoldingOf]) -> Message:
    """Whom to ask for a sign-off."""
    names = [row.name for row in who[:4]]
    return said("review.ask", names=names) if names else said("review.nobody_else")
