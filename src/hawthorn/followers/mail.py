"""Notices and mail: tells those who are concerned, in the service and by mail as they chose; through an outbox, surely and once.

A repeat after a crash carries the same Message-ID, so that a mail server or reader can drop it.
"""

from __future__ import annotations

import json
import smtplib
import sqlite3
from email.message import EmailMessage

import structlog

from hawthorn.core.access import Grant, Identity
from hawthorn.core.timeline import SECOND
from hawthorn.followers.options import Options
from hawthorn.operations import notices
from hawthorn.operations.act import Desk
from hawthorn.operations.notices import Notice
from hawthorn.store import events, outbox, people

log = structlog.get_logger(__name__)
LEASE = 20 * SECOND
TRIES = 8


class Mail:
    """Follows the log, keeps notices and sends by SMTP."""

    name = "mail"

    def __init__(self, desk: Desk, options: Options) -> None:
        self.desk = desk
        self.options = options

    def step(self, holder: str) -> float:
        """Turn new events into notices and mails, and send what waits."""
        now = self.desk.clock.now()
        cursor = self.desk.db.write(lambda c: outbox.take_lease(c, self.name, holder, now, now + LEASE))
        if cursor is None:
            return 5.0
        while self._advance(holder, cursor) is not None:
            with self.desk.db.read() as conn:
                cursor = conn.execute("SELECT cursor FROM follower WHERE name = ?", (self.name,)).fetchone()[
                    0
                ]
        if not self.options.smtp_host:
            return 30.0
        self._digests(holder)
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
        told = self.desk.read(
            _system(), lambda view: [(row, n) for row in found for n in notices.for_event(view, row)]
        )
        newest: int = found[-1]["seq"]

        def put(conn: sqlite3.Connection) -> None:
            if not outbox.advance(conn, self.name, holder, cursor, newest):
                return
            for row, notice in told:
                if notices.tell(conn, row["seq"], row["at"], notice) == "at once":
                    self._post(conn, row["seq"], notice)

        self.desk.db.write(put)
        return newest

    def _post(self, conn: sqlite3.Connection, seq: int, notice: Notice) -> None:
        row = people.actor(conn, notice.actor)
        assert row is not None
        body = f"{notice.body}\n{self.options.public}{notice.path}\n"
        payload = json.dumps({"subject": notice.says, "body": body})
        outbox.put(
            conn, self.name, f"mail-{seq}-{row['email']}", seq, row["email"], payload, self.desk.clock.now()
        )

    def _digests(self, holder: str) -> None:
        """Send each digest whose hour has come; whoever holds the lease sends it, and what it held waits no more."""
        now = self.desk.clock.now()
        with self.desk.db.read() as conn:
            due = notices.digests_due(conn, now)
        for row in due:

            def put(conn: sqlite3.Connection, row: sqlite3.Row = row) -> None:
                subject, body = notices.digest(conn, row, now, self.options.public)
                payload = json.dumps({"subject": subject, "body": body})
                outbox.put(conn, self.name, f"digest-{row['id']}-{now}", 0, row["email"], payload, now)

            self.desk.db.write(put)

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
