"""The courier: takes jobs to bureaus as XLIFF over HTTP, asks how they get on, and brings them home.

Protocol (ours; `docs/bureaus.md`): `POST {url}/jobs` with the file answers 202 with an id; `GET {url}/jobs/{id}`
answers state, done and total; `GET {url}/jobs/{id}/file` the finished file. An `Idempotency-Key` makes a
repeated delivery harmless.
"""

from __future__ import annotations

import json
import sqlite3

import httpx
import structlog

from hawthorn.core.access import Grant, Identity
from hawthorn.core.errors import HawthornError
from hawthorn.core.formats.xliff2 import MEDIA_TYPE
from hawthorn.core.timeline import SECOND
from hawthorn.followers import outgoing
from hawthorn.followers.options import Options
from hawthorn.operations import permission, translation
from hawthorn.operations.act import Desk
from hawthorn.store import events, jobs, outbox

log = structlog.get_logger(__name__)
LEASE = 20 * SECOND
TRIES = 6


class Courier:
    """Follows commissions; at most one process carries at a time."""

    name = "courier"

    def __init__(self, desk: Desk, options: Options) -> None:
        self.desk = desk
        self.options = options

    def step(self, holder: str) -> float:
        """Put new jobs into the outbox, deliver what waits, ask about what is out."""
        now = self.desk.clock.now()
        cursor = self.desk.db.write(lambda c: outbox.take_lease(c, self.name, holder, now, now + LEASE))
        if cursor is None:
            return 5.0
        while True:
            with self.desk.db.read() as conn:
                found = events.after(conn, cursor)
            if not found:
                break
            newest = found[-1]["seq"]
            self.desk.db.write(lambda c, f=found, at=cursor, to=newest: self._enqueue(c, f, holder, at, to))  # type: ignore[misc]
            cursor = newest
        with self.desk.db.read() as conn:
            waiting = outbox.waiting(conn, self.name, now)
            asked = jobs.out_at_bureaus(conn)
        with outgoing.caller() as http:
            for row in waiting:
                self._deliver(http, row)
            for job in asked:
                self._ask(http, job)
        return self.options.bureau_pause if asked or waiting else 30.0

    def _enqueue(
        self, conn: sqlite3.Connection, found: list[sqlite3.Row], holder: str, cursor: int, newest: int
    ) -> None:
        if not outbox.advance(conn, self.name, holder, cursor, newest):
            return
        for event in found:
            if event["kind"] not in ("commission.made", "job.again") or not event["json"]:
                continue
            payload = json.loads(event["json"])
            uuids = [j["job"] for j in payload["jobs"]] if "jobs" in payload else [payload["job"]]
            for uuid in uuids:
                job = jobs.by_uuid(conn, uuid)
                if job is not None and job["bureau"] is not None:
                    outbox.put(
                        conn,
                        self.name,
                        f"job-{uuid}-{event['seq']}",
                        event["seq"],
                        job["bureau_name"],
                        uuid,
                        event["at"],
                    )

    def _deliver(self, http: httpx.Client, row: sqlite3.Row) -> None:
        uuid = row["payload"]
        with self.desk.db.read() as conn:
            job = jobs.by_uuid(conn, uuid)
            identity = permission.identity_of(conn, job["bureau_actor"]) if job else None
        if job is None or identity is None or job["state"] not in ("waiting", "sent"):
            self._settle(row, "done", "")
            return
        reader = Identity(identity.id, identity.kind, identity.name, identity.handle, (("bureau", _READ),))
        try:
            outgoing.check(job["bureau_url"], self.options.allow_hosts)
            _, data = self.desk.read(reader, lambda v: translation.export(v, uuid))
            answer = http.post(
                f"{job['bureau_url']}/jobs",
                content=data,
                headers={"Content-Type": MEDIA_TYPE, "Idempotency-Key": row["stable_id"]},
            )
            answer.raise_for_status()
            remote = str(answer.json()["id"])
        except (httpx.HTTPError, outgoing.Forbidden, HawthornError, KeyError, ValueError) as error:
            self._failed(row, reader, uuid, error)
            return
        self.desk.write(reader, lambda a: translation.progress(a, uuid, state="sent", done=0, remote=remote))
        self._settle(row, "done", "")

    def _failed(self, row: sqlite3.Row, identity: Identity, uuid: str, error: Exception) -> None:
        trouble = f"The bureau could not be reached: {error}"
        if isinstance(error, httpx.HTTPStatusError) and error.response.status_code < 500:
            trouble = f"The bureau refused the job: {error.response.text[:200] or error.response.status_code}"
        if (
            row["tries"] + 1 >= TRIES
            or isinstance(error, outgoing.Forbidden | HawthornError)
            or "refused" in trouble[:24]
        ):
            self._settle(row, "given up", trouble)
            self.desk.write(
                identity, lambda a: translation.progress(a, uuid, state="failed", done=0, trouble=trouble)
            )
            return
        self._settle(row, "waiting", trouble, 2 ** row["tries"])

    def _settle(self, row: sqlite3.Row, state: str, trouble: str, wait: int = 0) -> None:
        next_at = self.desk.clock.now() + wait * SECOND
        self.desk.db.write(lambda c: outbox.settle(c, row["id"], state, next_at, trouble[:500]))

    def _ask(self, http: httpx.Client, job: sqlite3.Row) -> None:
        with self.desk.db.read() as conn:
            identity = permission.identity_of(conn, job["bureau_actor"])
        reader = Identity(identity.id, identity.kind, identity.name, identity.handle, (("bureau", _READ),))
        uuid, address = job["uuid"], f"{job['bureau_url']}/jobs/{job['remote']}"
        try:
            outgoing.check(job["bureau_url"], self.options.allow_hosts)
            answer = http.get(address)
            answer.raise_for_status()
            state = answer.json()
            if state["state"] == "failed":
                said = str(state.get("trouble", "no reason given"))[:300]
                self.desk.write(
                    reader,
                    lambda a: translation.progress(
                        a, uuid, state="failed", done=0, trouble=f"The bureau says: {said}"
                    ),
                )
            elif state["state"] == "finished":
                data = http.get(f"{address}/file").raise_for_status().content
                self.desk.write(reader, lambda a: translation.come_home(a, uuid, data))
            else:
                done = int(state.get("done", 0))
                self.desk.write(reader, lambda a: translation.progress(a, uuid, state="in work", done=done))
        except HawthornError as error:
            detail = error.detail
            self.desk.write(
                reader,
                lambda a: translation.progress(
                    a, uuid, state="failed", done=0, trouble=f"What came back cannot be used: {detail}"
                ),
            )
        except (httpx.HTTPError, outgoing.Forbidden, KeyError, ValueError) as error:
            log.warning("a bureau did not answer about a job", job=uuid, error=str(error))


_READ = Grant("read")
