"""Whom what happens to dispatches concerns: those who answer for one, could clear what holds it, decide or take part."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from hawthorn.core import workflow
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.messages import Message, said
from hawthorn.core.timeline import SECOND
from hawthorn.operations.access import permission
from hawthorn.operations.collaboration.telling import (
    Notification,
    Payload,
    Telling,
    answering,
    facts_of,
    may_see,
    seeing,
)
from hawthorn.operations.release import deciding, records
from hawthorn.operations.runtime.act import View
from hawthorn.store import dispatches, entries, people, reviews, revisions
from hawthorn.store import moves as move_store
from hawthorn.store.events import Event
from hawthorn.store.standings import RELEASE

Unmet = tuple[Mapping[str, Any], Mapping[str, Any]]
"""A move that is held, and a condition that it does not meet."""


def _timetable(payload: Payload) -> str:
    return f"/timetable/{payload['dispatch']}"


def commented(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    """To whoever is named, answers for the dispatch or takes part."""
    path, facts = f"{_timetable(payload)}?comment={payload['comment']}", facts_of(event, payload)
    others = set(payload.get("taking_part", ())) or {payload["owner"]}
    code = event.kind.replace("comment.", "dispatch_comment_")
    for actor in payload["named"]:
        yield Notification(actor, "named", "dispatch_comment_named", facts, path)
    for actor in sorted(others):
        yield Notification(actor, "comment", code, facts, path)


def _held(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    answer, owner = _answering(view, payload), payload["planned_by"]
    found = [(held, one) for held in payload["held"] for one in held["unmet"]]
    if not answer and people.actor(view.conn, owner) is not None:
        # Nobody sees all of it: whoever answers for it hears at least of what they see.
        yield from _for_whom_clears(permission.seen_by(view, owner), payload, found)
    for actor in answer:
        why = _why(permission.seen_by(view, actor), found)
        yield Notification(actor, "dispatch", "held", {**payload, "why": why}, _timetable(payload))
    for actor, wanted in _who_clears(view, payload).items():
        if actor not in answer and people.actor(view.conn, actor) is not None:
            yield from _for_whom_clears(permission.seen_by(view, actor), payload, wanted)


def _why(theirs: View, found: Sequence[Unmet]) -> list[Message]:
    """Why a dispatch is held, as somebody may know it."""
    return [
        said(
            "notifications.held_as",
            title=held["title"],
            what=said("records.waits_for_hidden") if records.hides(theirs, one) else one["what"],
        )
        for held, one in found
    ]


def _for_whom_clears(theirs: View, payload: Payload, wanted: Sequence[Unmet]) -> Iterable[Notification]:
    """To somebody who could clear what holds a dispatch. What it is called is known by those alone who may see all of it; others are led to
    the first entry of theirs that it waits for."""
    actor = theirs.identity.id
    if may_see(theirs, dispatch=payload["dispatch"]):
        facts = {**payload, "why": _why(theirs, wanted)}
        yield Notification(actor, "dispatch", "held_for_you", facts, _timetable(payload))
        return
    for held, _ in wanted:
        row = entries.entry(theirs.conn, held["entry"])
        if row is None:
            continue
        tag = row.source_locale if held["locale"] == COMMON else held["locale"]
        title = permission.title(theirs, row.id, tag)
        why = _why(theirs, [one for one in wanted if one[0] is held])
        facts = {"title": title, "locale": tag, "instant": payload["instant"], "why": why}
        path = f"/entries/{row.uuid}/{tag}"
        yield Notification(actor, "dispatch", "entry_held_for_you", facts, path, row.uuid, tag)


def _answering(view: View, payload: Payload) -> list[int]:
    """Whoever answers for a dispatch, as far as they may see all of it."""
    return answering(view, payload["planned_by"], "release", sees=seeing(dispatch=payload["dispatch"]))


def _who_clears(view: View, payload: Payload) -> dict[int, list[Unmet]]:
    """Who could clear what held a dispatch, with what each could: those asked to sign off, whoever wrote what is missing something,
    and for the rest those who may do it."""
    row = dispatches.by_uuid(view.conn, payload["dispatch"])
    asked = {(m.uuid, m.locale): m for m in move_store.asked(view.conn, row.id)} if row is not None else {}
    out: dict[int, list[Unmet]] = {}
    for held in payload["held"]:
        move = asked.get((held["entry"], held["locale"]))
        entry = entries.entry(view.conn, held["entry"]) if move is not None else None
        if move is None or entry is None:
            continue
        edition = entries.edition_by_id(view.conn, move.edition)
        for one in held["unmet"]:
            condition = workflow.Unmet(one["code"], one["what"], one["where"], one["verb"])
            if condition.verb == "write" and move.revision is not None:
                made = revisions.by_id(view.conn, move.revision)
                actors = [made.actor] if made is not None else []
            else:
                goal = view.setup.stage_names[move.stage]
                found = deciding.clearers(view, entry, edition, goal, move.revision, condition)
                actors = [holding.id for holding in found]
            for actor in actors:
                out.setdefault(actor, []).append((held, one))
    return out


def _unresolved(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    for actor in _answering(view, payload):
        yield Notification(actor, "dispatch", "unresolved", payload, _timetable(payload))


def _moved_on(view: View, payload: Payload) -> Iterable[Notification]:
    """To those who signed off what waits, when something that it shows moved on: the sign-off covered that too."""
    moved = [(e, r) for e, stage, r in payload.get("stood", ()) if r is not None and stage == RELEASE]
    for row in reviews.signed_around(view.conn, moved):
        if people.actor(view.conn, row.actor) is None:
            continue
        where, theirs = entries.edition_by_id(view.conn, row.shown), permission.seen_by(view, row.actor)
        facts = {
            "what": permission.title(theirs, where.entry, where.locale),
            "title": permission.title(theirs, row.entry, row.locale),
            "locale": row.locale,
        }
        path = f"/entries/{row.uuid}/{row.locale}"
        yield Notification(row.actor, "review", "embedded_moved", facts, path, row.uuid, row.locale)


def _gone(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    yield from _moved_on(view, payload)
    if payload["late_by"]:
        facts = {**payload, "seconds": round(payload["late_by"] / SECOND)}
        for actor in _answering(view, payload):
            yield Notification(actor, "dispatch", "went_late", facts, _timetable(payload))


def _submitted(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    facts = facts_of(event, payload)
    for actor in payload["to"]:
        yield Notification(actor, "review", "dispatch_submitted", facts, _timetable(payload))


def _decided(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    code = "dispatch_sent_back" if event.kind == "dispatch.sent-back" else "dispatch_signed"
    facts = facts_of(event, payload)
    yield Notification(payload["to"], "decided", code, facts, _timetable(payload))


TELLING: dict[str, Telling] = {
    "dispatch.submitted": _submitted,
    "dispatch.signed": _decided,
    "dispatch.sent-back": _decided,
    "dispatch.held": _held,
    "dispatch.gone": _gone,
    "dispatch.unresolved": _unresolved,
}
