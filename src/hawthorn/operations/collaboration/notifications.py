"""Notifications: who is told of what happened, in the service and by mail, as each person chose.

To tell somebody of a kind of event: write a function from the event to `Notification`s and put it in `TELLING`.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping
from datetime import datetime, time, timedelta
from typing import TypedDict

from hawthorn.core import moves, timeline
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND, iso
from hawthorn.core.weeks import DAYS
from hawthorn.core.workflow import Unmet
from hawthorn.operations.access import permission
from hawthorn.operations.collaboration import about_jobs
from hawthorn.operations.collaboration.telling import Notification, Payload, Telling, answering, facts_of
from hawthorn.operations.release import review, workflows
from hawthorn.operations.runtime.act import Act, Spoken, View
from hawthorn.store import dispatches, entries, people, reviews, revisions
from hawthorn.store import moves as move_store
from hawthorn.store import notifications as store
from hawthorn.store.events import Event
from hawthorn.store.notifications import Digest, Reader
from hawthorn.store.standings import RELEASE

WAYS = ("at once", "digest", "only here", "not at all")
KINDS = {
    "review": "at once",
    "decided": "at once",
    "named": "at once",
    "comment": "digest",
    "assigned": "at once",
    "due": "at once",
    "dispatch": "at once",
    "translation": "at once",
    "mail": "at once",
    "webhook": "at once",
}
"""Each kind of notification, and how it comes unless somebody chooses otherwise."""
HOUR = 8
"""The local hour of the digest unless somebody chooses another."""
NO_REPORT = "none"
"""What is chosen where no week's report is wanted."""


def for_event(view: View, event: Event) -> list[Notification]:
    """Whom an event concerns and what they are told; never whoever did it, and once each."""
    telling = TELLING.get(event.kind)
    if telling is None or not event.json:
        return []
    out: dict[int, Notification] = {}
    for notification in telling(view, event, json.loads(event.json)):
        if notification.actor != event.actor and people.actor(view.conn, notification.actor) is not None:
            out.setdefault(notification.actor, notification)
    return list(out.values())


def tell(conn: sqlite3.Connection, spoken: Spoken, seq: int, at: int, notification: Notification) -> str:
    """Keep a notification as its person chose, in their language; returns how it goes by mail: "at once", "waiting" for the digest, or not."""
    way = store.choices(conn, notification.actor).get(notification.kind, KINDS[notification.kind])
    if way == "not at all":
        return ""
    row = people.actor(conn, notification.actor)
    mailed = {"at once": "at once", "digest": "waiting"}.get(way, "") if row is not None and row.email else ""
    about = entries.entry(conn, notification.entry) if notification.entry else None
    words = spoken.to(row.language if row is not None else "")
    new = store.add(
        conn,
        notification.actor,
        seq,
        notification.kind,
        at,
        words.text(notification.says),
        words.text(notification.body),
        notification.path,
        about.id if about is not None else None,
        mailed,
    )
    return mailed if new else ""


class NotificationLine(TypedDict):
    """A notification as its person sees it; `path` is the page that it is about."""

    id: int
    kind: str
    at: str
    by: str
    says: str
    body: str
    path: str
    entry: str
    new: bool


class Notifications(TypedDict):
    """Somebody's notifications, how many of all are new, and where the next page begins."""

    items: list[NotificationLine]
    new: int
    next: str


def mine(view: View, before: int = 1 << 62, limit: int = 30) -> Notifications:
    """Somebody's notifications, newest first, and how many are new."""
    rows = store.newest(view.conn, view.identity.id, before, limit)
    return {
        "items": [
            {
                "id": row.id,
                "kind": row.kind,
                "at": iso(row.at),
                "by": row.by_name,
                "says": row.says,
                "body": row.body,
                "path": row.path,
                "entry": row.entry_uuid or "",
                "new": row.seen_at is None,
            }
            for row in rows
        ],
        "new": store.unseen(view.conn, view.identity.id),
        "next": str(rows[-1].id) if len(rows) == limit else "",
    }


def see(act: Act, upto: int = 0, entry: str = "") -> int:
    """Note that one's notifications were seen: all up to one, or those about an entry."""
    row = permission.find(act, entry) if entry else None
    return store.see(act.conn, act.identity.id, act.now, upto or 1 << 62, row.id if row is not None else None)


@dataclass(frozen=True, slots=True)
class KindChoice:
    """How somebody hears of a kind of notification."""

    kind: str
    label: str
    way: str


@dataclass(frozen=True, slots=True)
class Choices:
    """How somebody hears of each kind, the local hour of the digest, and the day of the week's report (none: it does not come)."""

    kinds: list[KindChoice]
    ways: list[str]
    digest_hour: int
    report: str


def chosen(view: View) -> Choices:
    """How somebody hears of each kind, the hour of the digest, and the day of the week's report."""
    day = store.report_day(view.conn, view.identity.id)
    mine = store.choices(view.conn, view.identity.id)
    return Choices(
        kinds=[
            KindChoice(kind=kind, label=view.say(_label(kind)), way=mine.get(kind, way))
            for kind, way in KINDS.items()
        ],
        ways=list(WAYS),
        digest_hour=store.digest_hour(view.conn, view.identity.id, HOUR),
        report=NO_REPORT if day is None else DAYS[day],
    )


def choose(act: Act, ways: Mapping[str, str], hour: int | None, report: str = "") -> None:
    """Choose how to hear of some kinds, when the digest comes, and on which day the week's report does; what is not given stays."""
    problems = [
        FieldProblem(f"ways.{k}", said("common.none_of", known=list(KINDS))) for k in ways if k not in KINDS
    ]
    problems += [
        FieldProblem(f"ways.{k}", said("common.value_none_of", value=w, known=list(WAYS)))
        for k, w in ways.items()
        if w not in WAYS
    ]
    if hour is not None and not 0 <= hour <= 23:
        problems.append(FieldProblem("digest_hour", said("notifications.hour")))
    if report not in ("", NO_REPORT, *DAYS):
        problems.append(FieldProblem("report", said("common.none_of", known=[NO_REPORT, *DAYS])))
    if problems:
        raise Invalid(problems)
    for kind, way in ways.items():
        store.choose(act.conn, act.identity.id, kind, way)
    if hour is not None:
        store.set_digest_hour(act.conn, act.identity.id, hour)
    if report:
        day = None if report == NO_REPORT else DAYS.index(report)
        store.set_report_day(act.conn, act.identity.id, day, act.now)


def reports(conn: sqlite3.Connection) -> list[tuple[Reader, int]]:
    """Those who get the week's report, each with the instant of the next: the first of its day and hour after the last."""
    out = []
    for row in store.readers(conn):
        zone = timeline.zone_or_utc(row.zone)
        last = timeline.to_datetime(row.sent_at).astimezone(zone)
        hour = HOUR if row.hour is None else row.hour
        day = last.date() + timedelta(days=(row.day - last.weekday()) % 7)
        at = datetime.combine(day, time(hour), zone)
        if at <= last:
            at = datetime.combine(day + timedelta(days=7), time(hour), zone)
        out.append((row, timeline.from_datetime(at)))
    return out


def digests(conn: sqlite3.Connection) -> list[tuple[Digest, int]]:
    """Those for whom something waits, each with the instant of their digest: its hour after the oldest notification that waits."""
    out = []
    for row in store.awaiting_digest(conn):
        hour = HOUR if row.hour is None else row.hour
        zone = timeline.zone_or_utc(row.zone)
        local = timeline.to_datetime(row.oldest).astimezone(zone)
        at = datetime(local.year, local.month, local.day, hour, tzinfo=zone)
        if at <= local:
            at += timedelta(days=1)
        out.append((row, timeline.from_datetime(at)))
    return out


def digest(
    conn: sqlite3.Connection, spoken: Spoken, row: Digest, now: int, public: str
) -> tuple[str, str, int]:
    """Take what waits for somebody's digest and write it in their language, grouped by kind: subject, text and how many there are."""
    hour = HOUR if row.hour is None else row.hour
    waiting = store.take_digest(conn, row.id, now, hour)
    groups: list[Message] = []
    for kind in KINDS:
        lines = [said("digests.line", says=n.says, to=f"{public}{n.path}") for n in waiting if n.kind == kind]
        if lines:
            groups.append(said("digests.group", label=_label(kind), lines=lines))
    words = spoken.to(row.language)
    subject = said("digests.subject", count=len(waiting))
    body = said("digests.body", name=row.name, groups=groups, account=f"{public}/account")
    return words.text(subject), words.text(body), len(waiting)


def _label(kind: str) -> Message:
    return said(f"notification_kinds.{kind}")


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
    for person in review.deciders_at(view, row, edition, flow, stage, found.id):
        yield Notification(person.id, "review", code, facts, _path(payload), payload["entry"])


def _submitted(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    yield from _waiting(view, event, payload, payload["stage"], "submitted")


def _signed(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    if payload["missing"]:
        return
    if payload.get("to"):
        facts = facts_of(event, payload)
        yield Notification(payload["to"], "decided", "signed", facts, _path(payload), payload["entry"])
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
        yield Notification(person.id, "review", "ready", facts, _path(payload), payload["entry"])


def _sent_back(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    facts = facts_of(event, payload)
    yield Notification(payload["to"], "decided", "sent_back", facts, _path(payload), payload["entry"])


def _overridden(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    row = entries.entry(view.conn, payload["entry"])
    if row is None:
        return
    without = [said("notifications.item", what=u["what"]) for u in payload["without"]]
    facts = {**facts_of(event, payload), "without": without}
    yield Notification(row.actor, "decided", "overridden", facts, _path(payload), payload["entry"])


def _commented(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    if "dispatch" in payload:
        yield from _commented_on_dispatch(view, event, payload)
        return
    path, facts = f"{_path(payload)}?comment={payload['comment']}", facts_of(event, payload)
    for actor in payload["named"]:
        yield Notification(actor, "named", "named", facts, path, payload["entry"])
    row = entries.entry(view.conn, payload["entry"])
    others = set(payload.get("taking_part", ())) or ({row.actor} if row is not None else set())
    code = "replied" if "taking_part" in payload else "commented"
    for actor in sorted(others):
        yield Notification(actor, "comment", code, facts, path, payload["entry"])


def _commented_on_dispatch(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    """To whoever is named, answers for the dispatch or takes part, as far as they may see all of it still."""
    path, facts = f"{_timetable(payload)}?comment={payload['comment']}", facts_of(event, payload)
    row = dispatches.by_uuid(view.conn, payload["dispatch"])
    others = set(payload.get("taking_part", ())) or {payload["owner"]}
    code = event.kind.replace("comment.", "dispatch_comment_")
    there = [one for one in (*payload["named"], *sorted(others)) if people.actor(view.conn, one) is not None]
    for actor in there:
        theirs = permission.seen_by(view, actor)
        if row is not None and permission.whole(theirs, row.id):
            named = actor in payload["named"]
            kind = "named" if named else "comment"
            yield Notification(actor, kind, "dispatch_comment_named" if named else code, facts, path)


def _resolved(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    if "dispatch" in payload:
        yield from _commented_on_dispatch(view, event, payload)
        return
    path, facts = f"{_path(payload)}?comment={payload['comment']}", facts_of(event, payload)
    for actor in payload["taking_part"]:
        yield Notification(actor, "comment", "resolved", facts, path, payload["entry"])


def _assigned(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    code, facts = "assigned_until" if payload["due"] else "assigned", facts_of(event, payload)
    yield Notification(payload["holder"], "assigned", code, facts, _path(payload), payload["entry"])
    if payload["from"] is not None:
        yield Notification(payload["from"], "assigned", "reassigned", facts, _path(payload), payload["entry"])


def _assignment_ended(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    code, facts = "done" if payload["outcome"] == "done" else "not_needed", facts_of(event, payload)
    for actor in (payload["giver"], payload["holder"]):
        yield Notification(actor, "assigned", code, facts, _path(payload), payload["entry"])


def _fell_due(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    late, facts = event.kind.endswith("late"), facts_of(event, payload)
    code = "late" if late else "due"
    yield Notification(payload["holder"], "due", code, facts, _path(payload), payload["entry"])
    entry = entries.entry(view.conn, payload["entry"]) if late else None
    if entry is not None:
        about = permission.subject(view, entry, payload["locale"])
        for actor in answering(view, payload["giver"], "release", about):
            yield Notification(actor, "due", "late_as_given", facts, _path(payload), payload["entry"])


def _held(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    why = [(held["title"], unmet["what"]) for held in payload["held"] for unmet in held["unmet"]]
    facts = {**payload, "why": [said("notifications.held_as", title=title, what=what) for title, what in why]}
    answer = answering(view, payload["planned_by"], "release")
    for actor in answer:
        yield Notification(actor, "dispatch", "held", facts, _timetable(payload))
    for actor, wanted in _who_clears(view, payload).items():
        if actor not in answer:
            yield Notification(
                actor, "dispatch", "held_for_you", facts | {"why": wanted}, _timetable(payload)
            )


def _who_clears(view: View, payload: Payload) -> dict[int, list[Message]]:
    """Who could clear what held a dispatch, with what each could: those asked to sign off, whoever wrote what is missing something,
    and for the rest those who may do it."""
    row = dispatches.by_uuid(view.conn, payload["dispatch"])
    asked = {(m.uuid, m.locale): m for m in move_store.asked(view.conn, row.id)} if row is not None else {}
    out: dict[int, list[Message]] = {}
    for held in payload["held"]:
        move = asked.get((held["entry"], held["locale"]))
        entry = entries.entry(view.conn, held["entry"]) if move is not None else None
        if move is None or entry is None:
            continue
        edition = entries.edition_by_id(view.conn, move.edition)
        for one in held["unmet"]:
            condition = Unmet(one["code"], one["what"], one["where"], one["verb"])
            if condition.verb == "write" and move.revision is not None:
                made = revisions.by_id(view.conn, move.revision)
                actors = [made.actor] if made is not None else []
            else:
                goal = view.setup.stage_names[move.stage]
                found = review.clearers(view, entry, edition, goal, move.revision, condition)
                actors = [holding.id for holding in found]
            for actor in actors:
                what = said("notifications.held_as", title=held["title"], what=one["what"])
                out.setdefault(actor, []).append(what)
    return out


def _unresolved(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    for actor in answering(view, payload["planned_by"], "release"):
        yield Notification(actor, "dispatch", "unresolved", payload, _timetable(payload))


def _timetable(payload: Payload) -> str:
    return f"/timetable/{payload['dispatch']}"


def _moved_on(view: View, payload: Payload) -> Iterable[Notification]:
    """To those who signed off what waits, when something that it shows moved on: the sign-off covered that too."""
    titles = {(m["entry"], m["locale"]): m["title"] for m in payload["moves"] if m["verb"] in moves.OUT}
    moved = [(e, r) for e, stage, r in payload.get("stood", ()) if r is not None and stage == RELEASE]
    for row in reviews.signed_around(view.conn, moved):
        where = entries.edition_by_id(view.conn, row.shown)
        shown = entries.entry_by_id(view.conn, where.entry)
        what = titles.get((shown.uuid, where.locale)) or entries.title(view.conn, shown.id)
        facts = {"what": what, "title": entries.title(view.conn, row.entry, row.locale), "locale": row.locale}
        yield Notification(
            row.actor, "review", "embedded_moved", facts, f"/entries/{row.uuid}/{row.locale}", row.uuid
        )


def _gone(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    yield from _moved_on(view, payload)
    if payload["late_by"]:
        facts = {**payload, "seconds": round(payload["late_by"] / SECOND)}
        for actor in answering(view, payload["planned_by"], "release"):
            yield Notification(actor, "dispatch", "went_late", facts, _timetable(payload))


def _merge_waits(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    path = f"/entries/{payload['entry']}/{payload['locale']}"
    yield Notification(payload["to"], "decided", "merge_waits", payload, path, payload["entry"])


def _dispatch_submitted(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    facts = facts_of(event, payload)
    for actor in payload["to"]:
        yield Notification(actor, "review", "dispatch_submitted", facts, _timetable(payload))


def _dispatch_decided(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    code = "dispatch_sent_back" if event.kind == "dispatch.sent-back" else "dispatch_signed"
    facts = facts_of(event, payload)
    yield Notification(payload["to"], "decided", code, facts, _timetable(payload))


def _mail_given_up(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    """To whoever invited somebody, or to those who set people up; not to somebody whose own mail it was."""
    invited = payload["inviter"]
    code = "invitation_not_sent" if invited else "mail_not_sent"
    to = [invited] if invited else [p.id for p in permission.people_who(view, "configure", Subject())]
    for actor in to:
        row = people.actor(view.conn, actor)
        if row is not None and row.email != payload["to"]:
            yield Notification(actor, "mail", code, payload, "/people")


def _webhook_off(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    """To those who set things up, when one was switched off because it did not answer."""
    if payload["trouble"]:
        for person in permission.people_who(view, "configure", Subject()):
            yield Notification(person.id, "webhook", "webhook_off", payload, "/set-up/webhooks")


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
    "dispatch.submitted": _dispatch_submitted,
    "dispatch.signed": _dispatch_decided,
    "dispatch.sent-back": _dispatch_decided,
    "dispatch.held": _held,
    "dispatch.gone": _gone,
    "dispatch.unresolved": _unresolved,
    **about_jobs.TELLING,
    "mail.given-up": _mail_given_up,
    "webhook.switched": _webhook_off,
}
