"""The connector: takes jobs to bureaus as XLIFF over HTTP, asks how they get on, and imports what returns.

Protocol (ours; `docs/bureaus.md`): `POST {url}/jobs` with the file answers 202 with an id; `GET {url}/jobs/{id}`
answers state, done and total; `GET {url}/jobs/{id}/file` the finished file. An `Idempotency-Key` makes a
repeated delivery harmless. Each job is carried by itself: whatever one bureau answers holds up no other job.
"""

from __future__ import annotations

import json
import sqlite3
from typing import Literal, TypeVar

import httpx
import structlog
from pydantic import BaseModel, Field, ValidationError

from hawthorn.core import formats
from hawthorn.core.access import Grant, Identity
from hawthorn.core.errors import HawthornError
from hawthorn.core.messages import Message, MessageError, said
from hawthorn.core.timeline import SECOND
from hawthorn.followers import outgoing
from hawthorn.followers.calling import Calling
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.translation import bureaus, exporting, importing, translation
from hawthorn.store import jobs, outbox
from hawthorn.store.events import Event
from hawthorn.store.jobs import Job
from hawthorn.store.outbox import Outgoing

log = structlog.get_logger(__name__)
PATIENCE = 12
"""So many times in a row a bureau may fail to answer about a job before the job has failed."""
SLOWEST = 60.0
"""Seconds between two questions about a job on which nothing moves, at most."""
_MOST_FILE = 50_000_000
_READ = Grant("read")
_LATER = {408, 425, 429}
Answer = TypeVar("Answer", bound=BaseModel)


class Taken(BaseModel):
    """What a bureau answers to a job that it takes."""

    id: str = Field(min_length=1, max_length=200, pattern=r"^[^/?#\s]+$")


class Progress(BaseModel):
    """What a bureau says of a job. Without `done`, nothing is known of how far it is."""

    state: Literal["waiting", "in work", "finished", "failed"]
    done: int | None = Field(default=None, ge=0, le=1_000_000_000)
    trouble: str = Field(default="no reason given", max_length=10_000)


class Connector(Calling):
    """Follows commissions; at most one process carries at a time."""

    name = "connector"
    kinds = ("commission.made", "job.again")
    topics = (*kinds, "job.", "outbox.connector")
    tries = 12

    def step(self, holder: str) -> float:
        """Put new jobs into the outbox, deliver what waits, ask about what is out."""
        while self._enqueue(holder):
            pass
        now = self.desk.clock.now()
        waiting = self.due()
        with self.desk.db.read() as conn:
            asked = jobs.to_ask(conn, now)
        if (waiting or asked) and not self.hold(holder):
            return 5.0
        for row in self.claimed(holder, waiting):
            self._deliver(row)
        for job in asked:
            if self.stopping.is_set() or not self.hold(holder):
                break
            self._ask(job)
        with self.desk.db.read() as conn:
            return max(0.05, self.rest(outbox.next_time(conn, self.name), jobs.next_ask(conn)))

    def _enqueue(self, holder: str) -> bool:
        cursor, found = self.news()
        if not found or not self.hold(holder):
            return False
        return self.desk.db.write(lambda c: self._put(c, found, holder, cursor))

    def _put(self, conn: sqlite3.Connection, found: list[Event], holder: str, cursor: int) -> bool:
        if not outbox.advance(conn, self.name, holder, cursor, found[-1].seq):
            return False
        for event in found:
            payload = json.loads(event.json or "{}")
            uuids = [j["job"] for j in payload["jobs"]] if "jobs" in payload else [payload.get("job")]
            for uuid in uuids:
                job = jobs.by_uuid(conn, uuid)
                if job is not None and job.bureau is not None:
                    id = f"job-{uuid}-{event.seq}"
                    outbox.put(conn, self.name, id, event.seq, job.bureau_name or "", uuid, event.at)
        return True

    def _call(
        self, job: Job, method: str, path: str, *, content: bytes = b"", **headers: str
    ) -> tuple[httpx.Response, bytes]:
        """Call the bureau of a job, with its key."""
        return outgoing.call(
            self.http,
            method,
            f"{job.bureau_url}{path}",
            self.options.allow_hosts,
            most=_MOST_FILE,
            content=content,
            headers=bureaus.headers(self.desk.vault.open, job.bureau_secret or "") | headers,
        )

    def _reader(self, job: Job) -> Identity:
        with self.desk.db.read() as conn:
            assert job.bureau_actor is not None
            found = permission.identity_of(conn, job.bureau_actor)
        return Identity(found.id, found.kind, found.name, found.handle, (("bureau", _READ),))

    # -- out -------------------------------------------------------------------------------------------------

    def _deliver(self, row: Outgoing) -> None:
        uuid = row.payload
        with self.desk.db.read() as conn:
            job = jobs.by_uuid(conn, uuid)
        if job is None or job.bureau is None or job.state not in ("waiting", "sent"):
            self.done(row)
            return
        bureau = self._reader(job)
        try:
            _, data = self.desk.read(bureau, lambda v: exporting.export(v, uuid))
            sent_with = {"Content-Type": formats.USUAL.media_type, "Idempotency-Key": row.stable_id}
            answer, body = self._call(job, "POST", "/jobs", content=data, **sent_with)
            remote = self._taken(answer, body)
        except Exception as error:
            self._not_delivered(row, bureau, uuid, error)
            return

        def sent(act: Act) -> None:
            translation.progress(act, uuid, state="sent", done=0, remote=remote)
            outbox.settle(act.conn, row.id, "done")

        self.desk.write(bureau, sent)

    @staticmethod
    def _taken(answer: httpx.Response, body: bytes) -> str:
        if answer.is_success:
            return _read(Taken, body).id
        if 400 <= answer.status_code < 500 and answer.status_code not in _LATER:
            raise _No("connector.refused", why=_short(body) or answer.status_code)
        raise _not_now(answer)

    def _not_delivered(self, row: Outgoing, bureau: Identity, uuid: str, error: Exception) -> None:
        final = isinstance(error, _No | outgoing.Forbidden | HawthornError)
        why = _told(error)
        trouble = self.desk.words.text(why if final else said("connector.not_reached", why=why))
        if not final and not self.last_try(row):
            self.later(row, trouble, after=error.after if isinstance(error, _NotNow) else 0)
            return

        def failed(act: Act) -> None:
            translation.progress(act, uuid, state="failed", done=0, trouble=trouble)
            outbox.settle(act.conn, row.id, "given up", trouble)

        self.desk.write(bureau, failed)

    # -- how it gets on --------------------------------------------------------------------------------------

    def _ask(self, job: Job) -> None:
        bureau = self._reader(job)
        uuid, remote = job.uuid, job.remote
        try:
            answer, body = self._call(job, "GET", f"/jobs/{remote}")
            if not answer.is_success:
                raise _not_now(answer)
            found = _read(Progress, body)
            if found.state == "finished":
                answer, data = self._call(job, "GET", f"/jobs/{remote}/file")
                if not answer.is_success:
                    raise _not_now(answer)
                self._import(bureau, uuid, remote, data)
                return
        except Exception as error:
            self._not_answered(job, bureau, error)
            return
        next_ask = self.desk.clock.now() + round(self._pause(job, found) * SECOND)

        def keep(act: Act) -> None:
            if found.state == "failed":
                trouble = act.say("connector.bureau_says", why=found.trouble[:300])
                translation.progress(act, uuid, state="failed", done=0, trouble=trouble, asked=remote)
                return
            done = job.done if found.done is None else found.done
            translation.progress(act, uuid, state="in work", done=done, asked=remote)
            jobs.asked(act.conn, job.id, next_ask, 0)

        self.desk.write(bureau, keep)

    def _pause(self, job: Job, found: Progress) -> float:
        """How long to wait before the next question: longer, the longer nothing has moved."""
        still = (self.desk.clock.now() - job.changed_at) / SECOND
        moved = job.state != "in work" or found.done not in (None, job.done)
        return self.options.bureau_pause if moved else max(self.options.bureau_pause, min(still / 4, SLOWEST))

    def _import(self, bureau: Identity, uuid: str, remote: str, data: bytes) -> None:
        try:
            document = formats.read(data)
            self.desk.write(bureau, lambda act: self._take(act, uuid, document, remote))
        except HawthornError as error:
            trouble = self.desk.words.text(said("connector.cannot_be_used", why=error.message))
            self.desk.write(
                bureau,
                lambda a: translation.progress(
                    a, uuid, state="failed", done=0, trouble=trouble, asked=remote
                ),
            )

    @staticmethod
    def _take(act: Act, uuid: str, document: formats.InDocument, remote: str) -> None:
        """Take what fits; a bureau that says it is finished and is not is said so, as nothing more comes by itself."""
        found = importing.import_file(act, uuid, document)
        if not found.open:
            return
        job = translation.find(act, uuid)
        first = next(
            (said("connector.at", title=p.title, key=p.key, what=p.what) for p in found.problems), None
        )
        trouble = act.say(
            said("connector.not_finished", count=found.open, total=job.total)
            if first is None
            else said("connector.does_not_fit", count=found.open, total=job.total, first=first)
        )
        translation.progress(
            act, uuid, state="failed", done=job.total - found.open, trouble=trouble, asked=remote
        )

    def _not_answered(self, job: Job, bureau: Identity, error: Exception) -> None:
        """Count a failure and say it on the job; too many in a row end it, so that somebody learns of it."""
        uuid, failures = job.uuid, job.failures + 1
        why = _told(error)
        log.warning("a bureau did not answer about a job", job=uuid, error=str(why), failures=failures)
        after = error.after if isinstance(error, _NotNow) else 0.0
        pause = min(max(self.options.bureau_pause * 2 ** min(failures, 16), after), 600.0)
        next_ask = self.desk.clock.now() + round(pause * SECOND)

        def keep(act: Act) -> None:
            if failures >= PATIENCE or isinstance(error, outgoing.Forbidden):
                trouble = act.say("connector.no_answer_any_more", failures=failures, why=why)
                translation.progress(
                    act, uuid, state="failed", done=job.done, trouble=trouble, asked=job.remote
                )
                return
            trouble = act.say("connector.no_answer", failures=failures, most=PATIENCE, why=why)
            translation.progress(act, uuid, state=job.state, done=job.done, trouble=trouble, asked=job.remote)
            jobs.asked(act.conn, job.id, next_ask, failures)

        self.desk.write(bureau, keep)


class _No(MessageError):
    """A bureau refused for good."""


class _NotNow(MessageError):
    """A bureau could not do it now; `after` says how many seconds it asks to be left alone."""

    after = 0.0


def _read(model: type[Answer], body: bytes) -> Answer:
    try:
        return model.model_validate_json(body)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise _NotNow(
            "connector.unreadable" if where else "connector.unreadable_as_a_whole",
            place=where,
            why=first["msg"],
        ) from None


def _short(body: bytes) -> str:
    return " ".join(body[:400].decode("utf-8", "replace").split())[:200]


def _not_now(answer: httpx.Response) -> _NotNow:
    if answer.is_redirect:
        to = answer.headers.get("location", "")[:200]
        made = _NotNow("connector.points_elsewhere", status=answer.status_code, to=to)
    else:
        code = "connector.answers" if answer.reason_phrase else "connector.answers_bare"
        made = _NotNow(code, status=answer.status_code, reason=answer.reason_phrase)
    made.after = outgoing.retry_after(answer)
    return made


def _told(error: Exception) -> Message:
    if isinstance(error, MessageError):
        return error.message
    return said("common.words", words=(str(error) or type(error).__name__)[:300])
