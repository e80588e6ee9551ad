"""Notifications and mail: tells those who are concerned, in the service and by mail as they chose; through an outbox, surely and once.

Each mail is claimed, tried and settled by itself, so that one that is refused holds up no other. A repeat after a crash
carries the same Message-ID, so that a mail server or reader can drop it.
"""

from __future__ import annotations

import base64
import json
import re
import smtplib
import socket
import sqlite3
import ssl
import threading
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager, suppress
from email.message import EmailMessage
from functools import partial

import structlog

from hawthorn.core import hosts
from hawthorn.core.access import Grant, Identity
from hawthorn.core.messages import Message, MessageError, said
from hawthorn.core.timeline import SECOND
from hawthorn.followers.base import Follower
from hawthorn.followers.drawn import drawn
from hawthorn.followers.options import Options
from hawthorn.messages import speaking
from hawthorn.operations.access import permission
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.collaboration.telling import Notification
from hawthorn.operations.runtime.act import Act, Desk, View
from hawthorn.operations.views import report
from hawthorn.store import events, failing, outbox, people
from hawthorn.store import notifications as store
from hawthorn.store.events import Event
from hawthorn.store.notifications import Digest, Reader
from hawthorn.store.outbox import Outgoing
from hawthorn.store.vault import Vault

log = structlog.get_logger(__name__)
TIMEOUT = 10.0
"""Seconds that a mail server may take for one answer."""
LONGEST = 60.0
"""Seconds that one mail may take in all, however slowly its server answers; well within the claim on its row."""


_NAMED = re.compile(r'src="cid:([a-z-]+)"')
"""Pictures, as a page names them."""


class Mail(Follower):
    """Follows the log, keeps notifications and sends by SMTP."""

    name = "mail"
    kinds = tuple(notifications.TELLING)
    topics = (*kinds, "outbox.mail")

    def __init__(self, desk: Desk, options: Options) -> None:
        super().__init__(desk, options)
        self._down = 0
        self._down_until = 0

    def step(self, holder: str) -> float:
        """Turn new events into notifications and mails, and send what waits."""
        while self._tell(holder):
            pass
        if not self.options.smtp_host:
            return self.rest()
        now = self.desk.clock.now()
        with self.desk.db.read() as conn:
            digests = notifications.digests(conn)
            reports = notifications.reports(conn)
        ready = [row for row, at in digests if at <= now]
        wanted = [row for row, at in reports if at <= now]
        rows = self.due() if now >= self._down_until else []
        if (ready or wanted or rows) and not self.hold(holder):
            return 5.0
        for row in ready:
            _alone(partial(self._digest, row), "a digest could not be written", row.id)
        for reader in wanted:
            _alone(partial(self._report, reader), "a report could not be written", reader.id)
        self._send(holder, rows)
        with self.desk.db.read() as conn:
            soonest = outbox.next_time(conn, self.name)
        down = self._down_until if soonest is not None else None
        if down is not None and down > self.desk.clock.now():
            soonest = max(soonest or 0, down)
        return max(0.05, self.rest(soonest, *(at for _, at in (*digests, *reports) if at > now)))

    def _tell(self, holder: str) -> bool:
        """Tell of what happened next; False when there is nothing to tell, or another process does."""
        cursor, found = self.news()
        if not found or not self.hold(holder):
            return False
        told = self.desk.read(
            _system(), lambda view: [(row, n) for row in found for n in _notifications(view, row)]
        )
        newest: int = found[-1].seq

        def put(conn: sqlite3.Connection) -> bool:
            if not outbox.advance(conn, self.name, holder, cursor, newest):
                return False
            for row, notification in told:
                if notifications.tell(conn, self.desk.words, row.seq, row.at, notification) == "at once":
                    self._post(conn, row.seq, notification)
            return True

        return self.desk.db.write(put)

    def _post(self, conn: sqlite3.Connection, seq: int, notification: Notification) -> None:
        row = people.actor(conn, notification.actor)
        assert row is not None
        words = self.desk.words.to(row.language)
        body = f"{words.text(notification.body)}\n{self.options.public}{notification.path}\n"
        payload = json.dumps({"subject": words.text(notification.says), "body": body})
        outbox.put(conn, self.name, f"mail-{seq}-{row.email}", seq, row.email, payload, self.desk.clock.now())

    def _digest(self, row: Digest) -> None:
        """Put a digest whose hour has come; what it takes waits no more, so that another process finds nothing to send."""
        now = self.desk.clock.now()

        def put(conn: sqlite3.Connection) -> None:
            subject, body, count = notifications.digest(conn, self.desk.words, row, now, self.options.public)
            if count:
                payload = json.dumps({"subject": subject, "body": body})
                outbox.put(conn, self.name, f"digest-{row.id}-{now}", 0, row.email, payload, now)

        self.desk.db.write(put)

    def _report(self, row: Reader) -> None:
        """Put the week's report of somebody whose day and hour have come: written and drawn before anything is locked, and put once."""
        now, public = self.desk.clock.now(), self.options.public
        with self.desk.db.read() as conn:
            who = permission.identity_of(conn, row.id)
        with speaking(row.language):
            made = self.desk.read(who, lambda view: report.written(view, public))
        pictures = drawn(made.drawings)
        payload = {"subject": made.subject, "body": made.text, "page": made.page, "pictures": pictures}

        def put(conn: sqlite3.Connection) -> None:
            if store.report_sent(conn, row.id, row.sent_at, now):
                stable = f"report-{row.id}-{now}"
                outbox.put(conn, self.name, stable, 0, row.email, json.dumps(payload), now)

        self.desk.db.write(put)

    def gave_up(self, act: Act, row: Outgoing, trouble: str) -> None:
        """Note it in the log, from where those who can do something are told; not of a mail that told of such a thing."""
        before = events.after(act.conn, row.seq - 1, 1)[0] if row.seq else None
        kind = before.kind if before is not None else "digest"
        if kind != "mail.given-up":
            payload = {"to": row.recipient, "about": kind, "trouble": trouble[:300]}
            inviter = before.actor if before is not None and kind == "person.invited" else None
            act.event("mail.given-up", [], {**payload, "inviter": inviter})

    def _send(self, holder: str, rows: list[Outgoing]) -> None:
        """Send one by one over one connection, which is made anew when it breaks."""
        if not rows:
            return
        server: smtplib.SMTP | None = None
        for row in self.claimed(holder, rows):
            try:
                server = server or connected(self.options)
                self._down = 0
            except (OSError, smtplib.SMTPException, InClear) as error:
                # The server is away: this one waits, and so do the others, untried.
                self._down += 1
                self._down_until = self.desk.clock.now() + min(2**self._down, 60) * SECOND
                self.later(row, self.desk.words.text(said("mail.not_reached", why=reason(error))))
                return
            try:
                with _within(server, LONGEST):
                    server.send_message(_message(row, self.desk.vault, self.options.mail_from))
            except Exception as error:
                self.later(row, _said(error), permanent=_permanent(error))
                if not isinstance(error, smtplib.SMTPResponseException | smtplib.SMTPRecipientsRefused):
                    _hang_up(server)
                    server = None
            else:
                self.done(row)
        if server is not None:
            _hang_up(server)


class InClear(MessageError):
    """A password that would be said over a connection that others can listen to."""


def reason(error: Exception) -> Message | str:
    """Why a mail server could not be used, in its words or ours."""
    return error.message if isinstance(error, MessageError) else _said(error)


def connected(options: Options) -> smtplib.SMTP:
    """A connection to the mail server, encrypted and logged in as the settings say.

    Raises `OSError` where nobody answers or a certificate does not hold, `smtplib.SMTPException` for what the server refuses, and
    `InClear`.
    """
    host, how = options.smtp_host, options.smtp_encryption
    if how == "tls":
        server: smtplib.SMTP = smtplib.SMTP_SSL(
            host, options.smtp_port, timeout=TIMEOUT, context=ssl.create_default_context()
        )
    else:
        server = smtplib.SMTP(host, options.smtp_port, timeout=TIMEOUT)
    near = hosts.is_near(host)
    encrypted = how == "tls"
    try:
        server.ehlo_or_helo_if_needed()
        if how == "starttls" or (how == "offered" and not near and server.has_extn("starttls")):
            server.starttls(context=ssl.create_default_context())
            encrypted = True
        if options.smtp_user:
            if not (encrypted or near):
                raise InClear("mail.in_clear")
            server.login(options.smtp_user, options.smtp_password)
    except Exception:
        server.close()
        raise
    return server


def _notifications(view: View, event: Event) -> list[Notification]:
    """What an event gives to tell; one that cannot be read is skipped, so that the others are told."""
    try:
        return notifications.for_event(view, event)
    except Exception as error:
        if failing.of_file(error):
            raise
        log.exception("an event could not be told of", seq=event.seq, kind=event.kind)
        return []


def _alone(write: Callable[[], None], trouble: str, person: int) -> None:
    """Write to one person; where that cannot be worked out, the others get theirs, and it is tried again when it is looked next."""
    try:
        write()
    except Exception as error:
        if failing.of_file(error):
            raise
        log.exception(trouble, person=person)


def _system() -> Identity:
    return Identity(1, "scheduler", "Scheduler", "scheduler", (("mail", Grant("read")),))


@contextmanager
def _within(server: smtplib.SMTP, seconds: float) -> Iterator[None]:
    """Cut the line when it takes longer: a server that sends a byte now and then would hold it for ever."""
    timer = threading.Timer(seconds, _cut, (server,))
    timer.daemon = True
    timer.start()
    try:
        yield
    finally:
        timer.cancel()


def _cut(server: smtplib.SMTP) -> None:
    sock = getattr(server, "sock", None)
    if sock is not None:
        # Closing alone would not wake whoever waits for an answer.
        with suppress(OSError):
            sock.shutdown(socket.SHUT_RDWR)


def _hang_up(server: smtplib.SMTP) -> None:
    """End a connection; whatever is answered to that changes nothing about what was sent."""
    with suppress(Exception), _within(server, 2.0):
        server.quit()
    server.close()


def _said(error: Exception) -> str:
    if isinstance(error, smtplib.SMTPRecipientsRefused):
        code, reply = next(iter(error.recipients.values()))
        return f"{code} {_text(reply)}"
    if isinstance(error, smtplib.SMTPResponseException):
        return f"{error.smtp_code} {_text(error.smtp_error)}"
    return str(error) or type(error).__name__


def _text(reply: bytes | str) -> str:
    return reply.decode("utf-8", "replace") if isinstance(reply, bytes) else reply


def _permanent(error: Exception) -> bool:
    """Whether a mail server will not change its mind (RFC 5321, section 4.2.1: replies of 500 and more), or it is no mail."""
    if isinstance(error, smtplib.SMTPRecipientsRefused):
        return all(code >= 500 for code, _ in error.recipients.values())
    if isinstance(error, smtplib.SMTPResponseException):
        return 500 <= error.smtp_code < 600
    return not isinstance(error, OSError | smtplib.SMTPException)


def _message(row: Outgoing, vault: Vault, sender: str) -> EmailMessage:
    payload = json.loads(vault.open(row.payload))
    message = EmailMessage()
    message["From"] = sender
    message["To"] = row.recipient
    # A title may hold anything; what ends a line would end the header.
    message["Subject"] = " ".join(re.sub(r"[\x00-\x1f\x7f\x85\u2028\u2029]", " ", payload["subject"]).split())
    message["Message-ID"] = f"<{row.stable_id.replace('@', '-at-')}@hawthorn>"
    message.set_content(payload["body"])
    if "page" in payload:
        _add_page(message, payload["page"], payload["pictures"])
    return message


def _add_page(message: EmailMessage, page: str, pictures: Mapping[str, str]) -> None:
    """The same as a page, with its pictures in the mail (RFC 2387, RFC 2392); what could not be drawn is left out of it."""
    for name in set(_NAMED.findall(page)) - set(pictures):
        page = re.sub(f'<img src="cid:{name}"[^>]*>', "", page)
    message.add_alternative(_NAMED.sub(r'src="cid:\1@hawthorn"', page), subtype="html")
    part = message.get_payload()[-1]  # type: ignore[index]
    for name, data in pictures.items():
        part.add_related(  # type: ignore[union-attr]
            base64.b64decode(data),
            "image",
            "png",
            cid=f"<{name}@hawthorn>",
            filename=f"{name}.png",
            disposition="inline",
        )
