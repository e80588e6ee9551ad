"""The drafter: lets a machine draft what a commission wants drafted first, a few sentences at a time."""

from __future__ import annotations

import json
import sqlite3

import structlog

from hawthorn.core.access import Grant, Identity
from hawthorn.core.messages import Message, said, told_by
from hawthorn.followers import machine
from hawthorn.followers.calling import Calling
from hawthorn.operations.runtime.act import SCHEDULER, Act
from hawthorn.operations.translation import suggestions
from hawthorn.store import commissions, failing, jobs, outbox
from hawthorn.store.events import Event
from hawthorn.store.outbox import Outgoing
from hawthorn.wire.machine_protocol import MOST

log = structlog.get_logger(__name__)
_SYSTEM = Identity(
    SCHEDULER,
    "scheduler",
    "Scheduler",
    "scheduler",
    (("machine", Grant("read")), ("machine", Grant("commission"))),
)


class Drafter(Calling):
    """Follows commissions; at most one process drafts at a time."""

    name = "drafter"
    kinds = ("commission.made",)
    topics = (*kinds, "outbox.drafter")
    timeout = 60.0
    tries = 8

    def step(self, holder: str) -> float:
        """Put new jobs into the outbox, and draft what waits."""
        while self.enqueue(holder):
            pass
        rows = self.due()
        if rows and not self.hold(holder):
            return 5.0
        for row in self.claimed(holder, rows):
            try:
                self._draft(row)
            except Exception as error:
                if failing.of_file(error):
                    raise
                # What is wrong with one job holds up no other.
                log.exception("a job could not be drafted", job=row.payload)
                self.later(row, self.desk.words.text(said("common.words", words=told_by(error)))[:300])
        with self.desk.db.read() as conn:
            return max(0.05, self.rest(outbox.next_time(conn, self.name)))

    def put(self, conn: sqlite3.Connection, event: Event) -> None:
        """The jobs of a commission that is to be drafted first."""
        payload = json.loads(event.json or "{}")
        made = commissions.by_uuid(conn, payload["commission"])
        for one in payload["jobs"] if made is not None and made.machine else ():
            job = jobs.by_uuid(conn, one["job"])
            # A bureau gets no drafts: what nobody has looked at does not leave the house.
            if job is not None and job.bureau is None:
                id = f"draft-{job.uuid}-{event.seq}"
                outbox.put(conn, self.name, id, event.seq, "machine", job.uuid, event.at)

    def _draft(self, row: Outgoing) -> None:
        uuid = row.payload
        job, asked = self.desk.read(_SYSTEM, lambda view: suggestions.to_draft(view, uuid))
        for start in range(0, len(asked), MOST):
            some = asked[start : start + MOST]
            try:
                told = machine.suggest(
                    self.http, self.options, job.source_locale, job.locale, [text for _, text in some]
                )
            except machine.NoSuggestions as error:
                self._not_now(row, error.message)
                return
            found = dict(zip([place for place, _ in some], told, strict=True))
            self.desk.write(_SYSTEM, lambda act, f=found: suggestions.draft(act, uuid, f))  # type: ignore[misc]
            if self.stopping.is_set():
                return
        self.done(row)

    def _not_now(self, row: Outgoing, why: Message) -> None:
        log.warning("the machine gave no suggestions", job=row.payload, why=str(why))
        permanent = why.code == "suggestions.no_machine"
        self.later(row, self.desk.words.text(why), permanent=permanent)

    def gave_up(self, act: Act, row: Outgoing, trouble: str) -> None:
        """Say on the job that nothing was drafted: it is translated all the same."""
        job = jobs.by_uuid(act.conn, row.payload)
        if job is not None and job.state in ("waiting", "in work"):
            jobs.update(act.conn, job.id, act.now, trouble=act.say("suggestions.not_drafted", why=trouble))
