"""Overriding a gate for one revision, with a reason that is kept."""

from __future__ import annotations

from hawthorn.core import naming
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound, Refused, StaleRevision
from hawthorn.core.messages import said
from hawthorn.core.workflow import Unmet, asked
from hawthorn.operations.access import permission
from hawthorn.operations.release import deciding, facts, review
from hawthorn.operations.release.items import ReleaseItem
from hawthorn.operations.runtime.act import Act
from hawthorn.store import entries, reviews, revisions
from hawthorn.store.entries import Edition


def override(
    act: Act,
    uuid: str,
    locale: str,
    stage: str,
    revision: int,
    reason: str,
    looked_at: int | None = None,
) -> list[Unmet]:
    """Override the gate before a stage for exactly one revision, with that of the shared fields that would go with it; returns the
    conditions that it does not meet now. `looked_at` is the number of the shared fields' revision that was looked at, 0 where there was none.

    Each gate says who may; those on the way are overridden too where they allow the same person. The reason is kept. What the
    records cannot do without, such as an address of its own, cannot be overridden.
    """
    entry, edition, flow = review.find(act, uuid, locale)
    goal = flow.stage(stage)
    permission.require(act, "read", permission.subject(act, entry, edition.locale, stage))
    if goal == flow.stages[0]:
        raise InTheWay("review.no_gate")
    reason = naming.note("reason", reason)
    if not reason:
        raise Invalid([FieldProblem("reason", said("review.override_without_reason"))])
    if act.identity.kind != "person" or not goal.gate.lets_override(act.identity.roles, act.identity.handle):
        named = [*goal.gate.override_roles, *goal.gate.override_people]
        raise Refused(
            "review.not_to_override" if named else "review.nobody_overrides",
            named=named,
            stage=goal.label.lower(),
            missing="override",
            who=[],
        )
    row = revisions.numbered(act.conn, edition.id, revision)
    if row is None:
        raise NotFound("common.no_revision", number=revision)
    pairs: list[tuple[Edition, int]] = [(edition, row.id)]
    common = entries.edition(act.conn, entry.id, COMMON)
    waiting = reviews.waiting(act.conn, edition.id)
    if waiting is not None and waiting.revision != row.id:
        waiting = None
    shared = deciding.going_along(act, common, waiting)
    if common is not None and shared is not None:
        pairs.append((common, shared))
    with_it = revisions.number(act.conn, shared) if shared is not None else 0
    if looked_at is not None and looked_at != with_it:
        raise StaleRevision("review.others_would_go", asked=looked_at, revision=with_it)
    going = [ReleaseItem(one.id, r, act.setup.stages[stage]) for one, r in pairs]
    found = facts.candidates(act, going, facts.of_editions(act, going))
    without: list[Unmet] = []
    for one, number in pairs:
        content = revisions.by_id(act.conn, number)
        assert content is not None
        for each in flow.stages[1:]:
            theirs = each.gate.lets_override(act.identity.roles, act.identity.handle)
            if each.order > goal.order or not theirs:
                continue
            candidate = found[one.id]
            lacking = [
                u for u in asked(each, candidate) if (each.name, u.code, u.where) not in candidate.overridden
            ]
            without += [u for u in lacking if u not in without]
            if lacking:
                reviews.add_override(
                    act.conn,
                    number,
                    content.content_hash,
                    act.setup.stages[each.name],
                    act.identity.id,
                    act.now,
                    reason,
                    [(u.code, u.where) for u in lacking],
                )
    if not without:
        raise InTheWay("review.nothing_missing")
    act.event(
        "review.overridden",
        [entry.id],
        {
            **review.payload_of(act, entry, edition, revision, goal, reason),
            "without": [{"code": u.code, "what": act.keep(u.what), "where": u.where} for u in without],
        },
    )
    return without
