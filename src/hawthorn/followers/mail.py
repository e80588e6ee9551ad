"""Mail: tells those who must decide, and those whose work was decided; through an outbox, surely and once.

A repeat after a crash carries the same Message-ID, so that a mail server or reader can drop it.
"""

from __future__ import annotations

import json
import smtplib
import sqlite3
from email.message import EmailMessage
from typing import Any

import structlog

from hawthorn.core.access import Grant, Identity, Subject
from hawthorn.core.timeline import SECOND
from hawthorn.followers.options import Options
from hawthorn.operations import permission
from hawthorn.operations.act import Desk, View
from hawthorn.store import entries, events, outbox, people

log = structlog.get_logger(__name__)
LEASE = 20 * SECOND
TRIES = 8


class Mail:
    """Follows the log and sends by SMTP."""

    name = "mail"

    def __init__(self, desk: Desk, options: Options) -> None:
        self.desk = desk
        self.options = options

    def step(self, holder: str) -> float:
        """Turn new events into mails, and send what waits."""
        if not self.options.smtp_host:
            return 30.0
        now = self.desk.clock.now()
        cursor = self.desk.db.write(lambda c: outbox.take_lease(c, self.name, holder, now, now + LEASE))
        if cursor is None:
            return 5.0
        while self._advance(holder, cursor) is not None:
            with self.desk.db.read() as conn:
                cursor = conn.execute("SELECT cursor FROM follower WHERE name = ?", (self.name,)).fetchone()[
                    0
                ]
        with self.desk.db.read() as conn:
            waiting = outbox.waiting(conn, self.name, now)
        if waiting:
            self._send(waiting)
        return 10.0 if waiting else 30.0

    def _advance(self, holder: str, cursor: int) -> int | None:
        with self.desk.db.read() as conn:
            found = events.after(conn, cursor)
        if not found:
            return None
        system = _system()
        mails = self.desk.read(
            system, lambda view: [m for row in found for m in mails_for(view, row, self.options.public)]
        )
        newest: int = found[-1]["seq"]

        def put(conn: sqlite3.Connection) -> None:
            if not outbox.advance(conn, self.name, holder, cursor, newest):
                return
            for seq, recipient, subject, body in mails:
                payload = json.dumps({"subject": subject, "body": body})
                outbox.put(
                    conn, self.name, f"mail-{seq}-{recipient}", seq, recipient, payload, self.desk.clock.now()
                )

        self.desk.db.write(put)
        return newest

    def _send(self, waiting: list[sqlite3.Row]) -> None:
        try:
            with smtplib.SMTP(self.options.smtp_host, self.options.smtp_port, timeout=10) as server:
                for row in waiting:
                    try:
                        server.send_message(_message(row, self.options.mail_from))
                        self._settle(row, "done", "")
                    except smtplib.SMTPResponseException as error:
                        permanent = 500 <= error.smtp_code < 600
                        self._later(row, str(error.smtp_error), permanent)
        except (OSError, smtplib.SMTPException) as error:
            for row in waiting:
                self._later(row, str(error), False)

    def _later(self, row: sqlite3.Row, trouble: str, permanent: bool) -> None:
        if permanent or row["tries"] + 1 >= TRIES:
            log.error("a mail was given up", recipient=row["recipient"], trouble=trouble)
            self._settle(row, "given up", trouble)
        else:
            self._settle(row, "waiting", trouble, 2 ** row["tries"])

    def _settle(self, row: sqlite3.Row, state: str, trouble: str, wait: int = 0) -> None:
        next_at = self.desk.clock.now() + wait * SECOND
        self.desk.db.write(lambda c: outbox.settle(c, row["id"], state, next_at, trouble[:500]))


def _system() -> Identity:
    return Identity(1, "clockwork", "Clockwork", "clockwork", (("mail", Grant("read")),))


def _message(row: sqlite3.Row, sender: str) -> EmailMessage:
    payload = json.loads(row["payload"])
    message = EmailMessage()
    message["From"] = sender
    message["To"] = row["recipient"]
    message["Subject"] = payload["subject"].replace("\n", " ")
    message["Message-ID"] = f"<{row['stable_id'].replace('@', '-at-')}@hawthorn>"
    message.set_content(payload["body"])
    return message


Letter = tuple[int, str, str, str]


def mails_for(view: View, event: sqlite3.Row, public: str) -> list[Letter]:
    """The mails that an event calls for: (sequence, recipient, subject, body)."""
    compose = {
        "review.submitted": _submitted,
        "review.sent-back": _sent_back,
        "dispatch.held": _held,
        "dispatch.gone": _gone,
        "job.home": _home,
        "job.failed": _job_failed,
    }.get(event["kind"])
    if compose is None or not event["json"]:
        return []
    payload = json.loads(event["json"])
    made = compose(view, event, payload, public)
    return [(event["seq"], to, subject, body) for to, subject, body in made]


def _link(public: str, payload: dict[str, Any]) -> str:
    return f"{public}/entries/{payload['entry']}/{payload['locale']}"


def _mail_of(view: View, actor: int) -> str:
    row = people.actor(view.conn, actor)
    return row["email"] if row is not None else ""


def _submitted(
    view: View, event: sqlite3.Row, payload: dict[str, Any], public: str
) -> list[tuple[str, str, str]]:
    row = entries.entry(view.conn, payload["entry"])
    if row is None:
        return []
    note = f"\n\nTheir note: {payload['note']}" if payload["note"] else ""
    body = (
        f"{event['name']} submitted “{payload['title']}” ({payload['locale']}, revision {payload['revision']}) "
        f"for review.{note}\n\nCompare it with what is out, then sign off or send back:\n{_link(public, payload)}\n"
    )
    about = permission.subject(view, row, payload["locale"], payload["stage"])
    return [
        (h["email"], f"For review: {payload['title']}", body)
        for h in permission.mails(view, "sign", about)
        if h["name"] != event["name"]
    ]


def _sent_back(
    view: View, event: sqlite3.Row, payload: dict[str, Any], public: str
) -> list[tuple[str, str, str]]:
    to = _mail_of(view, payload["to"])
    body = (
        f"{event['name']} sent back “{payload['title']}” ({payload['locale']}, revision {payload['revision']}):\n\n"
        f"{payload['note']}\n\nMend it and submit it again:\n{_link(public, payload)}\n"
    )
    return [(to, f"Sent back: {payload['title']}", body)] if to else []


def _held(view: View, _: sqlite3.Row, payload: dict[str, Any], public: str) -> list[tuple[str, str, str]]:
    to = _mail_of(view, payload["planned_by"])
    why = "\n".join(f"- {h['title']}: {u['what']}" for h in payload["held"] for u in h["unmet"])
    body = (
        f"“{payload['name']}”, planned for {payload['instant']}, did not go. Nothing of it went out.\n\n{why}\n\n"
        f"{public}/timetable/{payload['dispatch']}\n"
    )
    return [(to, f"Held: {payload['name']}", body)] if to else []


def _gone(view: View, _: sqlite3.Row, payload: dict[str, Any], public: str) -> list[tuple[str, str, str]]:
    if not payload["late_by"]:
        return []
    to = _mail_of(view, payload["planned_by"])
    body = (
        f"“{payload['name']}”, planned for {payload['instant']}, went {payload['late_by'] / SECOND:.0f} seconds late, "
        f"as the service was not running.\n\n{public}/timetable/{payload['dispatch']}\n"
    )
    return [(to, f"Late: {payload['name']}", body)] if to else []


def _home(view: View, _: sqlite3.Row, payload: dict[str, Any], public: str) -> list[tuple[str, str, str]]:
    to = {h["email"] for h in permission.mails(view, "accept", Subject(locale=payload["locale"]))}
    to |= {_mail_of(view, payload["commissioned_by"])} - {""}
    body = (
        f"The {payload['locale']} translation of “{payload['name']}” came home: {payload['applied']} units were merged, "
        f"{payload['drifted']} have drifted, {payload['conflict']} need a choice.\n\nReview and accept it:\n"
        f"{public}/translation/{payload['job']}\n"
    )
    return [(one, f"Translated: {payload['name']} ({payload['locale']})", body) for one in sorted(to)]


def _job_failed(
    view: View, _: sqlite3.Row, payload: dict[str, Any], public: str
) -> list[tuple[str, str, str]]:
    to = _mail_of(view, payload["commissioned_by"])
    body = (
        f"The {payload['locale']} job “{payload['name']}” failed.\n\n{payload['trouble']}\n\nSend it again, or carry it "
        f"by hand:\n{public}/translation/{payload['job']}\n"
    )
    return [(to, f"Failed: {payload['name']} ({payload['locale']})", body)] if to else []
