"""Whom what happens to entries concerns: those who decide, wrote, were named, take part or have it assigned."""

from __future__ import annotations

from collections.abc import Iterable
from urllib.parse import quote

from hawthorn.core.messages import said
from hawthorn.operations.access import permission
from hawthorn.operations.collaboration import about_dispatches
from hawthorn.operations.collaboration.telling import (
    Notification,
    Payload,
    Telling,
    answering,
    facts_of,
    seeing,
)
from hawthorn.operations.release import deciding, workflows
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, people, reviews, revisions
from hawthorn.store.events import Event


def _path(payload: Payload) -> str:
    return f"/entries/{payload['entry']}/{payload['locale']}"


def _waiting(view: View, event: Event, payload: Payload, stage: str, code: str) -> Iterable[Notification]:
    """To those who must decide now: whose sign-off the gate counts, and no one else."""
    row = entries.entry(view.conn, payload["entry"])
    edition = entries.edition(view.conn, row.id, payload["locale"]) if row is not None else None
    if row is None or edition is None:
        return
    found = revisions.numbered(view.conn, edition.id, payload["revision"])
    if found is None:
        return
    flow = workflows.of(view, row, payload["locale"])
    if stage not in [s.name for s in flow.stages]:
        return
    facts = facts_of(event, payload)
    waiting = reviews.waiting(view.conn, edition.id)
    pairs = [(edition, found.id)]
    if waiting is not None and waiting.revision == found.id and waiting.stage_name == stage:
        pairs = deciding.pairs(view, row.id, edition, waiting)
    for person in deciding.deciders(view, row, flow, stage, pairs):
        yield Notification(
            person.id, "review", code, facts, _path(payload), payload["entry"], payload["locale"]
        )


def _submitted(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    yield from _waiting(view, event, payload, payload["stage"], "submitted")


def _signed(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    if payload["missing"]:
        return
    if payload.get("to"):
        facts = facts_of(event, payload)
        yield Notification(
            payload["to"], "decided", "signed", facts, _path(payload), payload["entry"], payload["locale"]
        )
    yield from _next(view, event, payload)


def _next(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    """What went on to another stage waits for those who decide there."""
    if payload["for"] != "release":
        yield from _waiting(view, event, payload, payload["for"], "moved_on")
        return
    row = entries.entry(view.conn, payload["entry"])
    if row is None:
        return
    about = permission.subject(view, row, payload["locale"], "release")
    facts = facts_of(event, payload)
    for person in permission.people_who(view, "release", about):
        yield Notification(
            person.id, "review", "ready", facts, _path(payload), payload["entry"], payload["locale"]
        )


def _sent_back(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    facts = facts_of(event, payload)
    yield Notification(
        payload["to"], "decided", "sent_back", facts, _path(payload), payload["entry"], payload["locale"]
    )


def _overridden(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    row = entries.entry(view.conn, payload["entry"])
    if row is None:
        return
    without = [said("notifications.item", what=u["what"]) for u in payload["without"]]
    facts = {**facts_of(event, payload), "without": without}
    yield Notification(
        row.actor, "decided", "overridden", facts, _path(payload), payload["entry"], payload["locale"]
    )


def _commented(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    if "dispatch" in payload:
        yield from about_dispatches.commented(view, event, payload)
        return
    for actor in payload["named"]:
        yield _of_comment(view, event, payload, actor, "named", "named")
    row = entries.entry(view.conn, payload["entry"])
    others = set(payload.get("taking_part", ())) or ({row.actor} if row is not None else set())
    code = "replied" if "taking_part" in payload else "commented"
    for actor in sorted(others):
        yield _of_comment(view, event, payload, actor, "comment", code)


def _of_comment(view: View, event: Event, payload: Payload, actor: int, kind: str, code: str) -> Notification:
    """What somebody is told of a comment. One on what all locales share is read in one that they may read."""
    row = entries.entry(view.conn, payload["entry"]) if payload.get("shared") else None
    if row is not None and people.actor(view.conn, actor) is not None:
        theirs = permission.seen_by(view, actor)
        tag = permission.first_locale(theirs, row)
        payload = {**payload, "locale": tag, "title": permission.title(theirs, row.id, tag)}
    path = f"{_path(payload)}?comment={payload['comment']}"
    facts = facts_of(event, payload)
    return Notification(actor, kind, code, facts, path, payload["entry"], payload["locale"])


def _resolved(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    if "dispatch" in payload:
        yield from about_dispatches.commented(view, event, payload)
        return
    for actor in payload["taking_part"]:
        yield _of_comment(view, event, payload, actor, "comment", "resolved")


def _assigned(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    code, facts = "assigned_until" if payload["due"] else "assigned", facts_of(event, payload)
    yield Notification(
        payload["holder"], "assigned", code, facts, _path(payload), payload["entry"], payload["locale"]
    )
    if payload["from"] is not None:
        yield Notification(
            payload["from"],
            "assigned",
            "reassigned",
            facts,
            _path(payload),
            payload["entry"],
            payload["locale"],
        )


def _assignment_ended(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    code, facts = "done" if payload["outcome"] == "done" else "not_needed", facts_of(event, payload)
    for actor in (payload["giver"], payload["holder"]):
        yield Notification(
            actor, "assigned", code, facts, _path(payload), payload["entry"], payload["locale"]
        )


def _fell_due(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    late, facts = event.kind.endswith("late"), facts_of(event, payload)
    code = "late" if late else "due"
    yield Notification(
        payload["holder"], "due", code, facts, _path(payload), payload["entry"], payload["locale"]
    )
    entry = entries.entry(view.conn, payload["entry"]) if late else None
    if entry is not None:
        about = permission.subject(view, entry, payload["locale"])
        sees = seeing(entry=payload["entry"], locale=payload["locale"])
        for actor in answering(view, payload["giver"], "release", about, sees):
            yield Notification(
                actor, "due", "late_as_given", facts, _path(payload), payload["entry"], payload["locale"]
            )


def _merge_waits(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    path = f"{_path(payload)}/strands/{quote(payload['strand'])}/proposal"
    yield Notification(
        payload["to"], "decided", "merge_waits", payload, path, payload["entry"], payload["locale"]
    )


TELLING: dict[str, Telling] = {
    "review.submitted": _submitted,
    "review.signed": _signed,
    "review.moved-on": _next,
    "review.sent-back": _sent_back,
    "review.overridden": _overridden,
    "comment.made": _commented,
    "comment.replied": _commented,
    "comment.resolved": _resolved,
    "assignment.made": _assigned,
    "assignment.ended": _assignment_ended,
    "assignment.due": _fell_due,
    "assignment.late": _fell_due,
    "strand.waits": _merge_waits,
}
