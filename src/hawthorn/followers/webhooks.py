"""Webhooks: tells receivers over HTTP what happened, signed (Standard Webhooks) and as CloudEvents 1.0, surely and in order.

What is told is put into the outbox as it is sent, so that a repeat is the same to the last byte, under the same id. A receiver that
does not answer holds up no other; after days it is switched off, and who sets things up is told.
"""

from __future__ import annotations

import time
from http import HTTPStatus

import httpx
import structlog
from cloudevents.core.formats.json import JSONFormat
from cloudevents.core.v1.event import CloudEvent

from hawthorn.core import timeline
from hawthorn.core.access import Grant, Identity
from hawthorn.core.messages import Message, said
from hawthorn.core.timeline import SECOND
from hawthorn.followers import outgoing
from hawthorn.followers.calling import Calling
from hawthorn.operations.delivery import webhooks
from hawthorn.operations.delivery.webhooks import Told
from hawthorn.operations.runtime.act import SCHEDULER, SCHEDULER_SELF, Act, View
from hawthorn.store import events, failing, outbox
from hawthorn.store import webhooks as store
from hawthorn.store.events import Event
from hawthorn.store.outbox import Outgoing
from hawthorn.store.webhooks import Webhook

log = structlog.get_logger(__name__)
TIMEOUT = 15.0
"""Seconds that a receiver may take to answer."""
_MOST_ANSWER = 64_000
_KEEPS = 1_000
"""So many of what was sent to each is kept, with every try."""
_AT_ONCE = 200
_NEVER = {"outgoing.private", "outgoing.no_web_address"}
"""What no other try would mend."""
_SYSTEM = Identity(SCHEDULER, "scheduler", "Scheduler", "scheduler", (("webhooks", Grant("read")),))


class Webhooks(Calling):
    """Follows the log for whoever is told over HTTP."""

    name = store.FOLLOWER
    kinds = webhooks.KINDS
    topics = (*webhooks.KINDS, "webhook.", f"outbox.{store.FOLLOWER}")
    # With pauses of up to six hours: three and a half days.
    tries = 28
    longest = 6 * 3600 * SECOND

    def step(self, holder: str) -> float:
        """Put what happened into the outbox for each who wants to know, and send what waits."""
        with self.desk.db.read() as conn:
            hooks = {hook.uuid: hook for hook in store.switched_on(conn)}
        if not hooks:
            return self.rest()
        while self._put(holder, hooks):
            pass
        rows = self.due()
        if rows and not self.hold(holder):
            return 5.0
        failed: set[str] = set()
        # What waits for a receiver that has just failed is not tried too.
        fine = (row for row in rows if row.recipient in hooks and row.recipient not in failed)
        for row in self.claimed(holder, fine):
            if not self._send(row, hooks[row.recipient]):
                failed.add(row.recipient)
        with self.desk.db.read() as conn:
            return max(0.05, self.rest(outbox.next_time(conn, self.name)))

    def _put(self, holder: str, hooks: dict[str, Webhook]) -> bool:
        """Put the next events into the outbox; False when there are none, or another process does."""
        with self.desk.db.read() as conn:
            cursor = outbox.cursor(conn, self.name)
            # What nobody wants to hear of moves nothing on.
            kinds, since = webhooks.kinds_of(hooks.values())
            found = events.of_kinds(conn, max(cursor, since), kinds, _AT_ONCE)
        if not found or not self.hold(holder):
            return False
        told = self.desk.read(_SYSTEM, lambda view: self._told(view, found, hooks))
        newest = found[-1].seq

        def put(act: Act) -> bool:
            if not outbox.advance(act.conn, self.name, holder, cursor, newest):
                return False
            for hook, one, body in told:
                id = f"webhook-{hook.uuid}-{one.seq}"
                outbox.put(act.conn, self.name, id, one.seq, hook.uuid, body, self.desk.clock.now())
            for uuid in {hook.uuid for hook, _, _ in told}:
                store.forget(act.conn, uuid, _KEEPS)
            return True

        return self.desk.write(SCHEDULER_SELF, put)

    def _told(
        self, view: View, found: list[Event], hooks: dict[str, Webhook]
    ) -> list[tuple[Webhook, Told, str]]:
        out: list[tuple[Webhook, Told, str]] = []
        for event in found:
            one = self._of(view, event)
            wanting = [hook for hook in hooks.values() if webhooks.concerns(view, hook, one)]
            if wanting:
                body = enveloped(one, self.options.public)
                out += [(hook, one, body) for hook in wanting]
        return out

    @staticmethod
    def _of(view: View, event: Event) -> Told:
        """What is told of an event; of one that cannot be worked out that anything may have changed, so that the others are told."""
        try:
            return webhooks.told(view, event)
        except Exception as error:
            if failing.of_file(error):
                raise
            log.exception("what is told of an event could not be worked out", seq=event.seq, kind=event.kind)
            return webhooks.told_at_least(event)

    def _send(self, row: Outgoing, hook: Webhook) -> bool:
        """Send one; False when it did not arrive."""
        secrets = self.desk.read(_SYSTEM, lambda view: webhooks.secrets_of(view, hook))
        answer = send(self.http, hook.url, row.stable_id, row.payload, secrets, self.options.allow_hosts)
        at = self.desk.clock.now()
        trouble = self.desk.words.text(answer.trouble) if answer.trouble is not None else ""

        def kept(act: Act) -> None:
            store.tried(act.conn, row.id, at, answer.status, answer.took, trouble)
            if answer.trouble is None:
                outbox.settle(act.conn, row.id, "done")
                if row.tries:
                    # It answers again: what waited behind it goes now.
                    outbox.hurry(act.conn, self.name, hook.uuid, at)
            elif answer.gone:
                outbox.settle(act.conn, row.id, "given up", trouble)
                webhooks.give_up_on(act, hook, trouble)

        self.desk.write(SCHEDULER_SELF, kept)
        if answer.trouble is None:
            return True
        if not answer.gone:
            self.later(row, trouble, after=answer.after)
            self.desk.db.write(lambda c: outbox.hold_back(c, self.name, hook.uuid))
        return False

    def gave_up(self, act: Act, row: Outgoing, trouble: str) -> None:
        """Switch off a receiver that has not answered for days."""
        hook = store.by_uuid(act.conn, row.recipient)
        if hook is not None and hook.state == "on":
            webhooks.give_up_on(act, hook, trouble)


class Answered:
    """What a receiver answered: its status (0 for nothing), in how many milliseconds, and what is wrong with that."""

    def __init__(self, status: int, took: int, trouble: Message | None = None, after: float = 0) -> None:
        self.status = status
        self.took = took
        self.trouble = trouble
        self.after = after
        """Seconds that it asks to wait."""

    @property
    def gone(self) -> bool:
        """Whether no other try would mend it: the receiver says that it is gone (Standard Webhooks), or may not be reached."""
        return self.status == HTTPStatus.GONE or (self.trouble is not None and self.trouble.code in _NEVER)


def enveloped(one: Told, source: str) -> str:
    """An event as it is sent (CloudEvents 1.0, JSON format); the same event always in the same bytes."""
    attributes = {
        "specversion": "1.0",
        "id": str(one.seq),
        "source": source,
        "type": f"hawthorn.{one.kind}",
        "time": timeline.to_datetime(one.at),
        "datacontenttype": "application/json",
        # The extension of the same name: what came earlier has the smaller one.
        "sequence": f"{one.seq:020}",
    } | ({"subject": one.subject} if one.subject else {})
    return JSONFormat().write(CloudEvent(attributes, dict(one.data))).decode()


def trial(source: str, at: int) -> str:
    """What is sent to see whether a receiver answers: an event of which nothing follows."""
    data = {"kind": "test", "by": "", "entries": [], "pages": [], "groups": [], "more": False}
    return enveloped(Told("test", at, at, "", data), source)


def send(
    http: httpx.Client,
    url: str,
    id: str,
    body: str,
    secrets: list[str],
    allowed: list[str],
) -> Answered:
    """Send something to a receiver, signed with each secret (Standard Webhooks); it has arrived when the status is 2xx. The time that
    is signed is that of the machine, as the receiver holds it against its own."""
    headers = {
        "Content-Type": "application/cloudevents+json; charset=utf-8",
        "User-Agent": "Hawthorn",
        **outgoing.signed(id, body, secrets),
    }
    began = time.monotonic()

    def answered(status: int, trouble: Message | None = None, after: float = 0) -> Answered:
        return Answered(status, round(1000 * (time.monotonic() - began)), trouble, after)

    try:
        answer, _ = outgoing.call(
            http,
            "POST",
            url,
            allowed,
            most=_MOST_ANSWER,
            seconds=TIMEOUT,
            content=body.encode(),
            headers=headers,
        )
    except outgoing.Forbidden as refused:
        return answered(0, refused.message)
    except httpx.TimeoutException:
        return answered(0, said("outgoing.too_slow", seconds=round(TIMEOUT)))
    except (httpx.HTTPError, httpx.InvalidURL) as error:
        return answered(0, said("outgoing.failed", why=str(error) or type(error).__name__))
    if answer.is_success:
        return answered(answer.status_code)
    code = "webhooks.redirects" if answer.is_redirect else "webhooks.answered"
    trouble = said(code, status=answer.status_code, phrase=answer.reason_phrase)
    return answered(answer.status_code, trouble, outgoing.retry_after(answer))
