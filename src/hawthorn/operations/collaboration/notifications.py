"""Notifications: who is told of what happened, in the service and by mail, as each person chose.

To tell somebody of a kind of event: write a function from the event to `Notification`s and put it in `TELLING` of what it is about (`about_….py`).
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping
from datetime import datetime, time, timedelta
from typing import TypedDict

from hawthorn.core import timeline
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.core.weeks import DAYS
from hawthorn.operations.access import permission
from hawthorn.operations.collaboration import about_dispatches, about_entries, about_jobs
from hawthorn.operations.collaboration.telling import Notification, Payload, Telling
from hawthorn.operations.runtime.act import Act, Spoken, View
from hawthorn.store import entries, people
from hawthorn.store import notifications as store
from hawthorn.store.events import Event
from hawthorn.store.notifications import Digest, Reader

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
    """Whom an event concerns and what they are told, as far as they may see it now; never whoever did it, and once each."""
    telling = TELLING.get(event.kind)
    if telling is None or not event.json:
        return []
    out: dict[int, Notification] = {}
    for notification in telling(view, event, json.loads(event.json)):
        to = notification.actor
        if to in out or to == event.actor or people.actor(view.conn, to) is None:
            continue
        # Rights go and entries move, between what somebody did and what comes of it.
        if notification.may_be_known(permission.seen_by(view, to)):
            out[to] = notification
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
    **about_entries.TELLING,
    **about_dispatches.TELLING,
    **about_jobs.TELLING,
    "mail.given-up": _mail_given_up,
    "webhook.switched": _webhook_off,
}
