"""Notifications: who is told of what happened, in the service and by mail, as each person chose.

To tell somebody of a kind of event: write a function from the event to `Notification`s and put it in `TELLING`.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from hawthorn.core import moves, timeline
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import permission
from hawthorn.operations.release import review, workflows
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import entries, people, reviews, revisions
from hawthorn.store import notifications as store
from hawthorn.store.events import Event
from hawthorn.store.notifications import Digest
from hawthorn.store.standings import RELEASE

WAYS = ("at once", "digest", "only here", "not at all")
KINDS: dict[str, tuple[str, str]] = {
    "review": ("Something waits for my decision", "at once"),
    "decided": ("Something of mine was signed off, sent back or overridden", "at once"),
    "named": ("A colleague names me in a comment", "at once"),
    "comment": ("Somebody answers a comment of mine, or comments on what is mine", "digest"),
    "assigned": ("Something is assigned to me, or what I assigned is done", "at once"),
    "due": ("Something assigned to me is due or late", "at once"),
    "dispatch": ("Something that I planned was held, or went late", "at once"),
    "translation": ("A translation returned, or failed", "at once"),
    "mail": ("A mail to somebody here could not be sent", "at once"),
}
"""Each kind of notification: when it comes, in words, and how it comes unless somebody chooses otherwise."""
HOUR = 8
"""The local hour of the digest unless somebody chooses another."""


@dataclass(frozen=True, slots=True)
class Notification:
    """What one person is told: a line, what is needed to act, and where to go."""

    actor: int
    kind: str
    says: str
    body: str
    path: str
    entry: str = ""


Payload = Mapping[str, Any]


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


def tell(conn: sqlite3.Connection, seq: int, at: int, notification: Notification) -> str:
    """Keep a notification as its person chose; returns how it goes by mail: "at once", "waiting" for the digest, or not."""
    way = store.choices(conn, notification.actor).get(notification.kind, KINDS[notification.kind][1])
    if way == "not at all":
        return ""
    row = people.actor(conn, notification.actor)
    mailed = {"at once": "at once", "digest": "waiting"}.get(way, "") if row is not None and row.email else ""
    about = entries.entry(conn, notification.entry) if notification.entry else None
    new = store.add(
        conn,
        notification.actor,
        seq,
        notification.kind,
        at,
        notification.says,
        notification.body,
        notification.path,
        about.id if about is not None else None,
        mailed,
    )
    return mailed if new else ""


def mine(view: View, before: int = 1 << 62, limit: int = 30) -> dict[str, Any]:
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


def chosen(view: View) -> dict[str, Any]:
    """How somebody hears of each kind, and the hour of the digest."""
    mine = store.choices(view.conn, view.identity.id)
    return {
        "kinds": [
            {"kind": kind, "label": label, "way": mine.get(kind, way)} for kind, (label, way) in KINDS.items()
        ],
        "ways": list(WAYS),
        "digest_hour": store.digest_hour(view.conn, view.identity.id, HOUR),
    }


def choose(act: Act, ways: Mapping[str, str], hour: int | None) -> None:
    """Choose how to hear of some kinds, and when the digest comes."""
    problems = [FieldProblem(f"ways.{k}", f"is none of {', '.join(KINDS)}") for k in ways if k not in KINDS]
    problems += [
        FieldProblem(f"ways.{k}", f"“{w}” is none of {', '.join(WAYS)}")
        for k, w in ways.items()
        if w not in WAYS
    ]
    if hour is not None and not 0 <= hour <= 23:
        problems.append(FieldProblem("digest_hour", "is between 0 and 23"))
    if problems:
        raise Invalid(problems)
    for kind, way in ways.items():
        store.choose(act.conn, act.identity.id, kind, way)
    if hour is not None:
        store.set_digest_hour(act.conn, act.identity.id, hour)


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


def digest(conn: sqlite3.Connection, row: Digest, now: int, public: str) -> tuple[str, str, int]:
    """Take what waits for somebody's digest and write it, grouped by kind: subject, text and how many there are."""
    hour = HOUR if row.hour is None else row.hour
    waiting = store.take_digest(conn, row.id, now, hour)
    parts: list[str] = []
    for kind, (label, _) in KINDS.items():
        lines = [f"- {n.says}\n  {public}{n.path}" for n in waiting if n.kind == kind]
        if lines:
            parts.append(f"{label}:\n" + "\n".join(lines))
    count = "One notification" if len(waiting) == 1 else f"{len(waiting)} notifications"
    body = f"Hello {row.name},\n\n" + "\n\n".join(parts)
    text = f"{body}\n\nChoose what comes and when: {public}/account\n"
    return f"{count} since the last digest", text, len(waiting)


def _path(payload: Payload) -> str:
    return f"/entries/{payload['entry']}/{payload['locale']}"


def _title(payload: Payload) -> str:
    return f"“{payload['title']}” ({payload['locale']}, revision {payload['revision']})"


def _waiting(view: View, payload: Payload, stage: str, says: str, body: str) -> Iterable[Notification]:
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
    for person in review.deciders_at(view, row, edition, flow, stage, found.id):
        yield Notification(person.id, "review", says, body, _path(payload), payload["entry"])


def _submitted(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    note = f"\n\nTheir note: {payload['note']}" if payload["note"] else ""
    body = (
        f"{event.name} submitted {_title(payload)} for review.{note}\n\n"
        "Compare it with what is out, then sign off or send back:"
    )
    yield from _waiting(view, payload, payload["stage"], f"For review: {payload['title']}", body)


def _signed(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    if payload["missing"]:
        return
    note = f"\n\nTheir note: {payload['note']}" if payload["note"] else ""
    body = f"{event.name} signed off {_title(payload)} for {payload['for']}.{note}\n\nSee where it stands:"
    if payload.get("to"):
        says = f"Signed off: {payload['title']}"
        yield Notification(payload["to"], "decided", says, body, _path(payload), payload["entry"])
    yield from _next(view, event, payload)


def _next(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    """What went on to another stage waits for those who decide there."""
    if payload["for"] != "release":
        body = (
            f"{_title(payload)} came to {payload['for']} by {event.name} and waits for you.\n\n"
            "Compare it with what is out, then sign off or send back:"
        )
        yield from _waiting(view, payload, payload["for"], f"For review: {payload['title']}", body)
        return
    row = entries.entry(view.conn, payload["entry"])
    if row is None:
        return
    about = permission.subject(view, row, payload["locale"], "release")
    body = f"{_title(payload)} is signed off and can go out.\n\nRelease it, or plan when it goes:"
    for person in permission.people_who(view, "release", about):
        says = f"Ready to go out: {payload['title']}"
        yield Notification(person.id, "review", says, body, _path(payload), payload["entry"])


def _sent_back(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    body = f"{event.name} sent back {_title(payload)}:\n\n{payload['note']}\n\nMend it and submit it again:"
    says = f"Sent back: {payload['title']}"
    yield Notification(payload["to"], "decided", says, body, _path(payload), payload["entry"])


def _overridden(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    row = entries.entry(view.conn, payload["entry"])
    if row is None:
        return
    without = "\n".join(f"- {u['what']}" for u in payload["without"])
    body = (
        f"{event.name} overrode the gate before {payload['stage']} for {_title(payload)}. Missing:\n{without}\n\n"
        f"Their reason: {payload['note']}"
    )
    says = f"Overridden: {payload['title']}"
    yield Notification(row.actor, "decided", says, body, _path(payload), payload["entry"])


def _commented(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    path = f"{_path(payload)}?comment={payload['comment']}"
    about = f"“{payload['title']}” ({payload['locale']})"
    for actor in payload["named"]:
        body = f"{event.name} names you in a comment on {about}:\n\n{payload['text']}\n\nAnswer it:"
        yield Notification(
            actor, "named", f"{event.name} names you: {payload['title']}", body, path, payload["entry"]
        )
    row = entries.entry(view.conn, payload["entry"])
    others = set(payload.get("taking_part", ())) or ({row.actor} if row is not None else set())
    did = "replied to a comment on" if "taking_part" in payload else "commented on"
    for actor in sorted(others):
        body = f"{event.name} {did} {about}:\n\n{payload['text']}\n\nRead it there:"
        yield Notification(
            actor, "comment", f"{event.name} {did} {payload['title']}", body, path, payload["entry"]
        )


def _resolved(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    path = f"{_path(payload)}?comment={payload['comment']}"
    body = f"{event.name} resolved a comment on “{payload['title']}”:\n\n{payload['text']}\n\nRead it there:"
    for actor in payload["taking_part"]:
        says = f"{event.name} resolved a comment on {payload['title']}"
        yield Notification(actor, "comment", says, body, path, payload["entry"])


def _due(payload: Payload) -> str:
    return f", due on {payload['due']}" if payload["due"] else ""


def _assigned(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    note = f"\n\nTheir note: {payload['note']}" if payload["note"] else ""
    about = f"“{payload['title']}” ({payload['locale']})"
    body = f"{event.name} assigned {about} to you{_due(payload)}.{note}\n\nOpen it:"
    says = f"Assigned to you: {payload['title']}{_due(payload)}"
    yield Notification(payload["holder"], "assigned", says, body, _path(payload), payload["entry"])
    if payload["from"] is not None:
        body = f"{event.name} assigned {about}, which was yours, to {payload['to']}."
        says = f"With {payload['to']} now: {payload['title']}"
        yield Notification(payload["from"], "assigned", says, body, _path(payload), payload["entry"])


def _assignment_ended(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    said = "is done" if payload["outcome"] == "done" else "is not needed any more"
    body = f"{event.name} says that “{payload['title']}” ({payload['locale']}) {said}.\n\nLook at it:"
    for actor in (payload["giver"], payload["holder"]):
        says = f"{payload['title']} {said}"
        yield Notification(actor, "assigned", says, body, _path(payload), payload["entry"])


def _fell_due(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    late = event.kind.endswith("late")
    about = f"“{payload['title']}” ({payload['locale']})"
    body = f"{about} {'was' if late else 'is'} due on {payload['due']} and is assigned to you.\n\nOpen it, or reassign it:"
    says = f"{'Late' if late else 'Due'}: {payload['title']}"
    yield Notification(payload["holder"], "due", says, body, _path(payload), payload["entry"])
    if late:
        body = f"{about}, which you assigned, was due on {payload['due']}.\n\nLook at it:"
        yield Notification(payload["giver"], "due", says, body, _path(payload), payload["entry"])


def _held(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    why = "\n".join(f"- {h['title']}: {u['what']}" for h in payload["held"] for u in h["unmet"])
    body = (
        f"“{payload['name']}”, planned for {payload['instant']}, did not go. Nothing of it went out.\n\n{why}\n\n"
        "See what blocks it:"
    )
    path = f"/timetable/{payload['dispatch']}"
    yield Notification(payload["planned_by"], "dispatch", f"Held: {payload['name']}", body, path)


def _unresolved(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    body = (
        f"“{payload['name']}” is planned for {payload['wall']} in {payload['zone']}, which the zone's present rules do not "
        f"have. {payload['trouble']}\n\nUntil somebody gives it another time, it goes at {payload['instant']}:"
    )
    path = f"/timetable/{payload['dispatch']}"
    yield Notification(
        payload["planned_by"], "dispatch", f"Its time does not exist: {payload['name']}", body, path
    )


def _moved_on(view: View, payload: Payload) -> Iterable[Notification]:
    """To those who signed off what waits, when something that it shows moved on: the sign-off covered that too."""
    titles = {(m["entry"], m["locale"]): m["title"] for m in payload["moves"] if m["verb"] in moves.LEADING}
    moved = [(e, r) for e, stage, r in payload.get("stood", ()) if r is not None and stage == RELEASE]
    for row in reviews.signed_around(view.conn, moved):
        where = entries.edition_by_id(view.conn, row.shown)
        shown = entries.entry_by_id(view.conn, where.entry)
        what = titles.get((shown.uuid, where.locale)) or entries.title(view.conn, shown.id)
        title = entries.title(view.conn, row.entry, row.locale)
        body = (
            f"“{what}” went out in another form than it had when you signed off “{title}” ({row.locale}), "
            "which shows it.\n\nSee whether your sign-off still holds:"
        )
        says = f"Moved on since you signed: {what}, in {title}"
        path = f"/entries/{row.uuid}/{row.locale}"
        yield Notification(row.actor, "review", says, body, path, row.uuid)


def _gone(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    yield from _moved_on(view, payload)
    if payload["late_by"]:
        body = (
            f"“{payload['name']}”, planned for {payload['instant']}, went {payload['late_by'] / SECOND:.0f} seconds late, "
            "as the service was not running."
        )
        path = f"/timetable/{payload['dispatch']}"
        yield Notification(payload["planned_by"], "dispatch", f"Late: {payload['name']}", body, path)


def _returned(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    body = (
        f"The {payload['locale']} translation of “{payload['name']}” returned: {payload['applied']} units were merged, "
        f"{payload['drifted']} have drifted, {payload['conflict']} need a choice.\n\nReview and accept it:"
    )
    to = {row.id for row in permission.people_who(view, "accept", Subject(locale=payload["locale"]))}
    for actor in sorted(to | {payload["commissioned_by"]}):
        says = f"Translated: {payload['name']} ({payload['locale']})"
        yield Notification(actor, "translation", says, body, f"/translation/{payload['job']}")


def _job_failed(_: View, event: Event, payload: Payload) -> Iterable[Notification]:
    body = (
        f"The {payload['locale']} job “{payload['name']}” failed.\n\n{payload['trouble']}\n\n"
        "Send it again, or carry it by hand:"
    )
    says = f"Failed: {payload['name']} ({payload['locale']})"
    yield Notification(
        payload["commissioned_by"], "translation", says, body, f"/translation/{payload['job']}"
    )


def _mail_given_up(view: View, event: Event, payload: Payload) -> Iterable[Notification]:
    """To whoever invited somebody, or to those who set people up; not to somebody whose own mail it was."""
    what = "The invitation" if payload["inviter"] else "A mail"
    body = (
        f"{what} to {payload['to']} could not be sent and is given up: {payload['trouble']}\n\n"
        "See whether the address is right, then invite again or tell them yourself:"
    )
    to = (
        [payload["inviter"]]
        if payload["inviter"]
        else [p.id for p in permission.people_who(view, "configure", Subject())]
    )
    for actor in to:
        row = people.actor(view.conn, actor)
        if row is not None and row.email != payload["to"]:
            yield Notification(actor, "mail", f"Not sent: {what.lower()} to {payload['to']}", body, "/people")


Telling = Callable[[View, Event, Payload], Iterable[Notification]]
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
    "dispatch.held": _held,
    "dispatch.gone": _gone,
    "dispatch.unresolved": _unresolved,
    "job.returned": _returned,
    "job.failed": _job_failed,
    "mail.given-up": _mail_given_up,
}
