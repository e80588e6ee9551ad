"""The carrier: takes jobs to bureaus, asks how they get on, imports the parts that come back, and carries questions and answers.

How a bureau is reached is its connector's (`followers/connectors`). Each job is carried by itself: whatever one bureau answers holds up no
other job. All that is asked of a bureau may be asked twice, and what it gave is noted in the transaction that takes it: wherever this
stops, it goes on from there.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

import structlog

from hawthorn.core import formats
from hawthorn.core.access import Grant, Identity
from hawthorn.core.errors import HawthornError
from hawthorn.core.messages import Message, MessageError, said
from hawthorn.core.timeline import SECOND
from hawthorn.followers import connectors
from hawthorn.followers.calling import Calling
from hawthorn.followers.connectors import Connector, Reach, Tools
from hawthorn.followers.connectors.base import Asked, Forgotten, No, NotNow, Parcel, Part, Standing
from hawthorn.followers.options import Options
from hawthorn.operations.access import permission
from hawthorn.operations.media import files
from hawthorn.operations.runtime.act import Act, Desk
from hawthorn.operations.translation import (
    assigning,
    exporting,
    importing,
    own_files,
    questions,
    translation,
)
from hawthorn.store import entries as entry_store
from hawthorn.store import failing, jobs, outbox
from hawthorn.store import questions as question_store
from hawthorn.store.events import Event
from hawthorn.store.jobs import Job
from hawthorn.store.outbox import Outgoing

log = structlog.get_logger(__name__)
PATIENCE = 12
"""So many times in a row a bureau may fail to answer about a job before the job has failed."""
FORGETS = 3
"""So many times in a row a job is sent to a bureau that has forgotten it."""
SLOWEST = 60.0
"""Seconds between two questions about a job on which nothing moves, at most."""
_READ = Grant("read")


class Carrier(Calling):
    """Follows commissions and jobs; at most one process carries at a time."""

    name = "carrier"
    kinds = (
        "commission.made",
        "job.again",
        "job.assigned",
        "job.reopened",
        "job.cancelled",
        "job.answered",
    )
    topics = (*kinds, "job.", "outbox.carrier")
    tries = 12

    def __init__(self, desk: Desk, options: Options) -> None:
        super().__init__(desk, options)
        self._lines: dict[int, tuple[tuple[str, str, str, str], Connector]] = {}

    def step(self, holder: str) -> float:
        """Put what is to be carried into the outbox, carry what waits, ask about what is out."""
        while self.enqueue(holder):
            pass
        now = self.desk.clock.now()
        waiting = self.due()
        with self.desk.db.read() as conn:
            asked = jobs.to_ask(conn, now)
        if (waiting or asked) and not self.hold(holder):
            return 5.0
        for row in self.claimed(holder, waiting):
            self._carry(row)
        for job in asked:
            if self.stopping.is_set() or not self.hold(holder):
                break
            self._ask(job)
        with self.desk.db.read() as conn:
            return max(0.05, self.rest(outbox.next_time(conn, self.name), jobs.next_ask(conn)))

    def put(self, conn: sqlite3.Connection, event: Event) -> None:
        """What an event asks to be carried, for jobs that a bureau has."""
        for do, uuid, more in _wanted(event.kind, json.loads(event.json or "{}")):
            job = _job(conn, uuid, more)
            if job is not None and job.bureau is not None:
                self._to_do(conn, job, do, event.seq, event.at, **more)

    def _to_do(self, conn: sqlite3.Connection, job: Job, do: str, seq: int, at: int, **more: Any) -> None:
        id = f"{do}-{job.uuid}-{seq}"
        payload = json.dumps({"do": do, "job": job.uuid, **more})
        outbox.put(conn, self.name, id, seq, job.bureau_name or "", payload, at)

    def _line(self, job: Job) -> Connector:
        """What reaches the bureau of a job; kept as long as it is reached in the same way."""
        assert job.bureau is not None
        known = (
            job.bureau_kind or "",
            job.bureau_url or "",
            job.bureau_secret or "",
            job.bureau_signing or "",
        )
        have = self._lines.get(job.bureau)
        if have is None or have[0] != known:
            kind, address, key, secret = known
            opened = [self.desk.vault.open(one) if one else "" for one in (key, secret)]
            public = self.options.public.rstrip("/")
            notify = f"{public}/api/bureaus/{job.bureau}/call" if public else ""
            made = connectors.reached(
                Reach(kind, address, opened[0], opened[1], notify),
                Tools(lambda: self.http, self.options, self.desk.words.text),
            )
            have = self._lines[job.bureau] = (known, made)
        return have[1]

    def _reader(self, job: Job) -> Identity:
        with self.desk.db.read() as conn:
            assert job.bureau_actor is not None
            found = permission.identity_of(conn, job.bureau_actor)
        return Identity(found.id, found.kind, found.name, found.handle, (("bureau", _READ),))

    # -- out -------------------------------------------------------------------------------------------------

    def _carry(self, row: Outgoing) -> None:
        wanted = json.loads(row.payload)
        with self.desk.db.read() as conn:
            job = _job(conn, wanted["job"], wanted)
        if job is None or job.bureau is None:
            self.done(row)
            return
        try:
            getattr(self, f"_{wanted['do']}")(row, job, wanted)
        except NotNow as error:
            self._not_carried(row, job, wanted, error.message, after=error.after)
        except Exception as error:
            if failing.of_file(error):
                raise
            if isinstance(error, MessageError):
                self._not_carried(row, job, wanted, error.message, final=True)
                return
            log.exception("a job could not be carried", job=job.uuid, do=wanted["do"])
            self._not_carried(row, job, wanted, said("common.words", words=str(error)[:300]))

    def _send(self, row: Outgoing, job: Job, wanted: Mapping[str, Any]) -> None:
        # Each sending has a name of its own: the number of the event that asked for it.
        id = wanted.get("id") or row.stable_id.split("-", 1)[1]
        if job.remote not in ("", id):
            # It is there by another name: it was given to this bureau before it came to be sent.
            self.done(row)
            return
        if job.state not in ("waiting", "sent"):
            if job.state == "cancelled" and row.tries:
                # It may have arrived before it was cancelled.
                self._line(job).cancel(id)
            self.done(row)
            return
        bureau = self._reader(job)
        parcel = self._parcel(bureau, job, id)
        self._line(job).send(parcel)

        def sent(act: Act) -> None:
            if translation.find(act, job.uuid).bureau != job.bureau:
                # It was given to somebody else meanwhile.
                outbox.settle(act.conn, row.id, "done")
                self._to_do(act.conn, job, "cancel", row.seq, act.now, id=id, bureau=job.bureau)
                return
            translation.progress(act, job.uuid, state="sent", done=0, remote=id, due=parcel.due)
            outbox.settle(act.conn, row.id, "done")
            if translation.find(act, job.uuid).state == "cancelled":
                self._to_do(act.conn, job, "cancel", row.seq, act.now, id=id)

        self.desk.write(bureau, sent)

    def _parcel(self, bureau: Identity, job: Job, id: str) -> Parcel:
        name, data = self.desk.read(
            bureau, lambda v: exporting.export(v, job.uuid, public=self.options.public)
        )
        source, target = translation.codes_of(job)
        kind = formats.USUAL.media_type
        return Parcel(id, job.name, source, target, job.due, job.note, job.total, job.words, name, kind, data)

    def _cancel(self, row: Outgoing, job: Job, wanted: Mapping[str, Any]) -> None:
        id = wanted.get("id") or job.remote
        if id and not (job.state != "cancelled" and id == job.remote):
            self._line(job).cancel(id)
        self.done(row)

    def _day(self, row: Outgoing, job: Job, wanted: Mapping[str, Any]) -> None:
        if assigning.believed(job) is None:
            # It has not gone yet, and goes with the day that it has then; or it is known, or over.
            self.done(row)
            return
        bureau = self._reader(job)
        parcel = self._parcel(bureau, job, job.remote)
        self._line(job).set_day(parcel)

        def told(act: Act) -> None:
            assigning.day_told(act, job.uuid, job.remote, parcel.due)
            outbox.settle(act.conn, row.id, "done")

        self.desk.write(bureau, told)

    def _answer(self, row: Outgoing, job: Job, wanted: Mapping[str, Any]) -> None:
        with self.desk.db.read() as conn:
            one = question_store.get(conn, job.id, wanted["question"])
        if one is not None and one.remote and one.answer and job.remote:
            self._line(job).answer(job.remote, one.remote, one.answer, one.answered_name or "")
        self.done(row)

    def _not_carried(
        self,
        row: Outgoing,
        job: Job,
        wanted: Mapping[str, Any],
        why: Message,
        *,
        final: bool = False,
        after: float = 0,
    ) -> None:
        trouble = self.desk.words.text(why if final else said("connector.not_reached", why=why))
        if wanted["do"] not in ("send", "day") or not (final or self.last_try(row)):
            self.later(row, trouble, permanent=final, after=after)
            return

        def failed(act: Act) -> None:
            if wanted["do"] == "day":
                assigning.day_untold(act, job.uuid, job.remote, trouble)
            elif translation.find(act, job.uuid).bureau == job.bureau:
                translation.progress(act, job.uuid, state="failed", done=0, trouble=trouble)
            outbox.settle(act.conn, row.id, "given up", trouble)

        self.desk.write(self._reader(job), failed)

    # -- how it gets on --------------------------------------------------------------------------------------

    def _ask(self, job: Job) -> None:
        bureau = self._reader(job)
        try:
            line = self._line(job)
            now = line.look(job.remote)
            self._put_questions(job, bureau, now.questions)
            with self.desk.db.read() as conn:
                known = jobs.parts(conn, job.id, job.remote)
            # Words first: what is wrong with a file stays said then.
            for part in sorted(now.parts, key=lambda one: one.own_file is not None):
                key = (part.id, part.sha256)
                trouble = (
                    known[key]
                    if key in known
                    else self._take(job, bureau, part, line.fetch(job.remote, part))
                )
                if trouble is not None:
                    line.taken(job.remote, part, trouble)
        except Forgotten:
            self._send_anew(job, bureau)
        except Exception as error:
            if failing.of_file(error):
                raise
            self._not_answered(job, bureau, error)
        else:
            self.desk.write(bureau, lambda act: self._keep(act, job, now))

    def _put_questions(self, job: Job, bureau: Identity, asked: Sequence[Asked]) -> None:
        """Ask here what a bureau asks, each once."""
        with self.desk.db.read() as conn:
            known = question_store.remotes(conn, job.id)
        fresh = [one for one in asked if one.id not in known]

        def ask(act: Act) -> None:
            for one in fresh:
                place = (one.entry, one.unit, one.segment)
                questions.ask_from_outside(act, job.uuid, one.id, place, one.text, one.context)

        if fresh:
            self.desk.write(bureau, ask)

    def _take(self, job: Job, bureau: Identity, part: Part, data: bytes) -> str | None:
        """Take what fits of a part, once; why it could not be read, or nothing. None where the job wants nothing any more."""

        def take(act: Act) -> str | None:
            now = translation.find(act, job.uuid)
            if now.remote != job.remote or now.state in translation.CLOSED:
                return None
            use(act)
            jobs.add_part(act.conn, job.id, job.remote, (part.id, part.sha256), act.now)
            return ""

        try:
            use = self._use(job, bureau, part, data)
            return self.desk.write(bureau, take)
        except HawthornError as error:
            if failing.of_file(error):
                raise
            trouble = self.desk.words.text(said("connector.cannot_be_used", why=error.message))

            def note(act: Act) -> None:
                jobs.add_part(act.conn, job.id, job.remote, (part.id, part.sha256), act.now, trouble)
                if part.own_file is not None:
                    jobs.update(act.conn, job.id, act.now, trouble=trouble)

            self.desk.write(bureau, note)
            return trouble

    def _use(self, job: Job, bureau: Identity, part: Part, data: bytes) -> Callable[[Act], object]:
        """How a part is put in: it is read before, while nobody waits."""
        if part.own_file is not None:
            own = part.own_file
            stored = files.laid(self.desk, files.looked_through(self.desk, bureau, own.name, data))

            def give(act: Act) -> None:
                files.put(act, stored)
                own_files.give(act, job.uuid, own.entry, own.field, stored.sha256)

            return give
        document = formats.read(data)
        return lambda act: importing.import_file(act, job.uuid, document)

    def _keep(self, act: Act, job: Job, now: Standing) -> None:
        """Keep how a job stands."""
        uuid, asked = job.uuid, job.remote
        fresh = translation.find(act, uuid)
        if now.state in ("failed", "refused", "cancelled"):
            code = "connector.refused" if now.state == "refused" else f"connector.bureau_{now.state}"
            trouble = act.say(code, why=" ".join(now.reason.split())[:300] or act.say("connector.no_reason"))
            translation.progress(act, uuid, state="failed", done=fresh.done, trouble=trouble, asked=asked)
            return
        trouble = self._amiss(act, fresh, now)
        if now.state == "finished" and trouble:
            back = jobs.returned(act.conn, job.id)
            translation.progress(act, uuid, state="failed", done=back, trouble=trouble, asked=asked)
            return
        state = "in work" if now.state in ("accepted", "in work") or fresh.state == "in work" else "sent"
        done = fresh.done if now.done is None else max(now.done, jobs.finished(act.conn, job.id))
        translation.progress(act, uuid, state=state, done=done, trouble=trouble, asked=asked)
        jobs.asked(act.conn, job.id, act.now + round(self._pause(job, now) * SECOND), 0)

    @staticmethod
    def _amiss(act: Act, job: Job, now: Standing) -> str:
        """What is wrong with what a bureau says and gave."""
        open = translation.still_open(act, job)
        bad = next((t for t in jobs.parts(act.conn, job.id, job.remote).values() if t), "")
        if now.state == "finished" and open:
            first = bad or _first(act, job)
            if not first:
                return act.say("connector.not_finished", count=open, total=job.total)
            return act.say("connector.does_not_fit", count=open, total=job.total, first=first)
        if bad:
            return bad
        if now.total is not None and now.total != job.total:
            return act.say("connector.counts_otherwise", theirs=now.total, ours=job.total)
        return ""

    def _pause(self, job: Job, now: Standing) -> float:
        """How long to wait before the next question: longer, the longer nothing has moved."""
        still = (self.desk.clock.now() - job.changed_at) / SECOND
        moved = job.state != "in work" or now.done not in (None, job.done)
        return self.options.bureau_pause if moved else max(self.options.bureau_pause, min(still / 4, SLOWEST))

    def _send_anew(self, job: Job, bureau: Identity) -> None:
        """Send a job once more, under its name, to a bureau that has forgotten it."""
        if job.failures + 1 >= FORGETS:
            self._give_up(job, bureau, said("connector.forgot_again", failures=job.failures + 1))
            return
        try:
            parcel = self._parcel(bureau, job, job.remote)
            self._line(job).send(parcel)
        except Exception as error:
            if failing.of_file(error):
                raise
            self._not_answered(job, bureau, error)
            return
        log.warning("a bureau had forgotten a job, which was sent anew", job=job.uuid)
        self._note(job, bureau, said("connector.sent_anew"), self.options.bureau_pause, parcel.due)

    def _not_answered(self, job: Job, bureau: Identity, error: Exception) -> None:
        """Count a failure and say it on the job; too many in a row end it, so that somebody learns of it."""
        failures = job.failures + 1
        why = _told(error)
        log.warning(
            "a bureau did not answer about a job", job=job.uuid, error=str(why), failures=failures,
            exc_info=not isinstance(error, MessageError),
        )  # fmt: skip
        if failures >= PATIENCE or isinstance(error, No):
            self._give_up(job, bureau, said("connector.no_answer_any_more", failures=failures, why=why))
            return
        after = error.after if isinstance(error, NotNow) else 0.0
        pause = min(max(self.options.bureau_pause * 2 ** min(failures, 16), after), 600.0)
        self._note(job, bureau, said("connector.no_answer", failures=failures, most=PATIENCE, why=why), pause)

    def _note(
        self, job: Job, bureau: Identity, trouble: Message, pause: float, told: str | None = None
    ) -> None:
        """Keep what is wrong with a job, when to ask about it next, and of which day its bureau was told meanwhile."""

        def keep(act: Act) -> None:
            translation.progress(
                act, job.uuid, state=job.state, done=job.done, trouble=act.say(trouble), asked=job.remote
            )
            jobs.asked(act.conn, job.id, act.now + round(pause * SECOND), job.failures + 1)
            if told is not None:
                assigning.day_told(act, job.uuid, job.remote, told)

        self.desk.write(bureau, keep)

    def _give_up(self, job: Job, bureau: Identity, why: Message) -> None:
        def failed(act: Act) -> None:
            translation.progress(
                act, job.uuid, state="failed", done=job.done, trouble=act.say(why), asked=job.remote
            )

        self.desk.write(bureau, failed)


def _job(conn: sqlite3.Connection, uuid: str, wanted: Mapping[str, Any]) -> Job | None:
    """The job that something is carried for: as the bureau has it that is named, else as it is."""
    bureau = wanted.get("bureau")
    return jobs.by_uuid(conn, uuid) if bureau is None else jobs.as_given_to(conn, uuid, bureau)


def _wanted(kind: str, payload: Mapping[str, Any]) -> Iterator[tuple[str, str, dict[str, Any]]]:
    """What an event asks to be carried: what is done, for which job, and with what."""
    if kind == "commission.made":
        for one in payload["jobs"]:
            yield "send", one["job"], {}
        return
    uuid = payload["job"]
    if kind == "job.cancelled":
        yield "cancel", uuid, {"id": payload.get("remote", "")}
    elif kind == "job.answered":
        yield "answer", uuid, {"question": payload["question"]}
    elif kind == "job.assigned":
        if payload["left"] and payload["left"]["remote"]:
            yield "cancel", uuid, {"id": payload["left"]["remote"], "bureau": payload["left"]["bureau"]}
        if payload["moved"] and payload["bureau"]:
            yield "send", uuid, {}
        elif payload.get("put_off"):
            yield "day", uuid, {}
    elif kind == "job.again":
        if payload.get("was"):
            yield "cancel", uuid, {"id": payload["was"]}
        yield "send", uuid, {}
    else:
        # One that the bureau knows is wanted again under its name.
        yield "send", uuid, {"id": payload.get("remote", "")}


def _first(act: Act, job: Job) -> str:
    """The first unit of which what came could not be taken, and why."""
    for part in jobs.entries(act.conn, job.id):
        for unit in jobs.units_of(act.conn, job.id, part.entry):
            if unit.trouble:
                title = entry_store.title(act.conn, part.entry)
                return act.say("connector.at", title=title, key=unit.key, what=unit.trouble)
    return ""


def _told(error: Exception) -> Message:
    if isinstance(error, MessageError):
        return error.message
    return said("common.words", words=(str(error) or type(error).__name__)[:300])
