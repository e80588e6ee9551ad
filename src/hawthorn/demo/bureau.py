"""A simulated translation bureau: takes XLIFF by the protocol of bureaus, takes its time, and gives it back in parts, translated.

It is a process of its own (`python -m hawthorn.demo.bureau`), and knows nothing of Hawthorn but the protocol and the file format. Its translations
are made up: sentences of the museum that it knows, else word by word with a small dictionary. Trouble can be ordered for the next job that
comes: `POST /trouble` with `{"next": …}`, one of `TROUBLES`; some of it is of the line rather than of the file.
"""

from __future__ import annotations

import argparse
import asyncio
import hashlib
import secrets
import socket
import sys
import threading
import time
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

import httpx
import uvicorn
from fastapi import FastAPI, HTTPException, Request, Response
from fastapi.responses import HTMLResponse
from lxml import etree
from standardwebhooks.webhooks import Webhook as Signing
from standardwebhooks.webhooks import WebhookVerificationError

from hawthorn.demo.offers import CALLED, offered
from hawthorn.demo.wordwise import MDA, NS, parse, spoil, suggested, translate_file, units_of
from hawthorn.service.quiet import Quiet
from hawthorn.wire import bureau_protocol as protocol
from hawthorn.wire import machine_protocol
from hawthorn.wire.bureau_protocol import Answered, NewDay, Offer, Order, Part, Question, Standing

TROUBLES = {
    "refuse": "it refuses the job",
    "fail": "it fails after the first unit",
    "break tags": "the first translation with tags comes without them",
    "truncate": "what comes back is half a file",
    "garbage": "what it answers about the job is nothing that can be read, three times",
    "slow": "each answer about the job takes its time",
    "twice": "each part is delivered twice, under another name",
    "late": "it delivers although the job was cancelled",
    "ask": "it asks about the first sentence, and waits for the answer",
    "forget": "it forgets the job after the first unit, once",
    "lie": "it counts other units than there are",
    "keep day": "it takes no other day for the job",
}
_SLOW = 3.0


@dataclass
class _Job:
    order: Order
    trouble: str = ""
    data: bytes = b""
    units: list[str] = field(default_factory=list)
    begun: float = 0.0
    parts: dict[str, bytes] = field(default_factory=dict)
    own_files: dict[str, tuple[protocol.OwnFile, bytes]] = field(default_factory=dict)
    question: Question | None = None
    answer: str = ""
    cancelled: bool = False
    failing: int = 3
    told: str = ""


@dataclass
class Bureau:
    """The bureau's desk: jobs by id, how long a unit takes, after how many units of a job it rests, and the trouble that was ordered."""

    seconds: float = 0.6
    key: str = ""
    secret: str = ""
    url: str = ""
    jobs: dict[str, _Job] = field(default_factory=dict)
    next_trouble: str = ""
    rests_after: int | None = None
    _tasks: set[asyncio.Task[None]] = field(default_factory=set)

    def app(self) -> FastAPI:
        """The bureau as an application; its schema is that of the protocol."""
        app = FastAPI(
            title="The protocol of bureaus",
            version=protocol.VERSION,
            summary="What whoever translates for a Hawthorn answers over HTTP. `docs/bureaus.md` says how it is used.",
            docs_url=None,
            redoc_url=None,
            openapi_url=None,
            lifespan=None,
        )
        here = f"/v{protocol.VERSION}"
        jobs = f"{here}/jobs/{{id}}"
        xliff: dict[str, Any] = {"content": {"application/xliff+xml": {}}}
        sent = {"requestBody": {**xliff, "required": True}}
        app.get(f"{here}/offer", operation_id="offer")(self.offer)
        app.put(jobs, operation_id="put_job")(self.take)
        app.patch(jobs, operation_id="change_job")(self.change)
        app.put(f"{jobs}/file", operation_id="put_file", openapi_extra=sent)(self.take_file)
        app.get(jobs, operation_id="get_job", response_model=Standing)(self.state)
        app.get(
            f"{jobs}/parts/{{part}}", operation_id="get_part", response_class=Response, responses={200: xliff}
        )(self.part)
        app.put(f"{jobs}/questions/{{question}}", operation_id="answer_question", status_code=204)(
            self.answer
        )
        app.delete(jobs, operation_id="cancel_job", status_code=204)(self.cancel)
        app.get("/", include_in_schema=False)(self.page)
        app.get("/context/{id}", include_in_schema=False)(self.context)
        app.post("/machine/v1/suggestions", include_in_schema=False)(self.suggest)
        app.post("/trouble", include_in_schema=False)(self.order_trouble)
        app.post("/pace", include_in_schema=False)(self.order_pace)
        return app

    # -- the protocol ----------------------------------------------------------------------------------------

    async def offer(self, request: Request) -> Offer:
        """What the bureau offers to whoever has this key: languages, and what a word costs."""
        self._known(request)
        return offered()

    async def take(self, id: str, order: Order, request: Request) -> Standing:
        """Take a job, under the id that it is sent with. What comes again under it is the same job; one that was cancelled is wanted again."""
        await self._signed(request)
        job = self.jobs.get(id)
        if job is None:
            trouble, self.next_trouble = self.next_trouble, ""
            job = self.jobs[id] = _Job(order, trouble)
        job.order, job.cancelled = order, False
        return self._standing(id)

    async def change(self, id: str, changed: NewDay, request: Request) -> Standing:
        """Change the day by which a job is wanted (JSON Merge Patch, RFC 7396). A bureau that takes no other day refuses it (4xx)."""
        await self._signed(request)
        job = self._job(id)
        if job.trouble == "keep day":
            raise HTTPException(409, "The day is agreed.")
        job.order = job.order.model_copy(update={"due": changed.due})
        return self._standing(id)

    async def take_file(self, id: str, request: Request) -> Standing:
        """Take the file of a job, which is to have the digest that was said."""
        data = await self._signed(request)
        job = self._job(id)
        if hashlib.sha256(data).hexdigest() != job.order.sha256:
            raise HTTPException(422, "The file has another digest than was said.")
        if job.data != data:
            try:
                job.units = [name for name, _ in units_of(parse(data))]
            except etree.XMLSyntaxError as error:
                raise HTTPException(422, f"Not an XLIFF file: {error}") from None
            job.data, job.begun, job.parts = data, time.monotonic(), {}
            job.own_files = await _own_files(data)
            self._watch(id)
        return self._standing(id)

    async def state(self, id: str, request: Request) -> Response:
        """How a job stands: how far it is, its parts, and what was asked."""
        await self._signed(request)
        job = self._job(id)
        if job.trouble == "slow":
            await asyncio.sleep(_SLOW)
        if job.trouble == "garbage" and job.data and job.failing:
            job.failing -= 1
            return HTMLResponse("<html>Back in a minute</html>")
        if job.trouble == "forget" and self._done(job) >= 1:
            job.trouble = ""
            del self.jobs[id]
            raise HTTPException(404, "There is no such job.")
        return Response(self._standing(id).model_dump_json(), media_type="application/json")

    async def part(self, id: str, part: str, request: Request) -> Response:
        """A part of a job: an XLIFF file with the units that are translated in it."""
        await self._signed(request)
        parts = self._job(id).parts
        if part in self._job(id).own_files:
            return Response(self._job(id).own_files[part][1], media_type="application/octet-stream")
        if part not in parts:
            raise HTTPException(404, "There is no such part.")
        return Response(parts[part], media_type="application/xliff+xml")

    async def answer(self, id: str, question: str, answered: Answered, request: Request) -> None:
        """The answer to a question."""
        await self._signed(request)
        job = self._job(id)
        if job.question is None or job.question.id != question:
            raise HTTPException(404, "There is no such question.")
        job.answer, job.begun = answered.text, time.monotonic()

    async def cancel(self, id: str, request: Request) -> None:
        """The job is not wanted any more; one that is not there is none."""
        await self._signed(request)
        if id in self.jobs:
            self.jobs[id].cancelled = True

    # -- how it works ----------------------------------------------------------------------------------------

    def _known(self, request: Request) -> None:
        given = request.headers.get("authorization", "")
        if self.key and not secrets.compare_digest(given, f"Bearer {self.key}"):
            raise HTTPException(401, "This key is not known here.")

    async def _signed(self, request: Request) -> bytes:
        """The body of a call by somebody who has the key and the secret."""
        self._known(request)
        body = await request.body()
        if self.secret:
            try:
                Signing(self.secret).verify(body, dict(request.headers), json_parse=False)
            except (WebhookVerificationError, ValueError) as error:
                raise HTTPException(401, f"This is not signed as it should be: {error}") from None
        return body

    def _job(self, id: str) -> _Job:
        if id not in self.jobs:
            raise HTTPException(404, "There is no such job.")
        return self.jobs[id]

    def _done(self, job: _Job) -> int:
        waits = job.question is not None and not job.answer
        done = int((time.monotonic() - job.begun) / self.seconds) if job.data and not waits else 0
        return min(len(job.units), done, len(job.units) if self.rests_after is None else self.rests_after)

    def _standing(self, id: str) -> Standing:
        """How a job stands now; what is translated is put into parts of half the job at least."""
        job = self.jobs[id]
        if job.trouble == "refuse":
            return Standing(state="refused", reason="We do not take this kind of text.")
        if not job.data:
            return Standing(state="expected")
        if job.trouble == "ask" and job.question is None:
            job.question = _question(id, job.data, self.url)
        done, total = self._done(job), len(job.units)
        if job.trouble == "fail" and done >= min(1, total):
            return Standing(state="failed", done=done, total=total, reason="Our translator fell ill.")
        for n, upto in ((1, -(-total // 2)), (2, total)):
            name = f"part-{n}"
            if done >= upto and name not in job.parts and (n == 2 or upto < total):
                job.parts[name] = spoil(translate_file(job.data, job.units[:upto]), job.trouble)
                if job.trouble == "twice":
                    job.parts[f"{name}-again"] = job.parts[name]
        parts = [Part(id=name, sha256=hashlib.sha256(data).hexdigest()) for name, data in job.parts.items()]
        if done >= total:
            parts += [
                Part(id=name, sha256=hashlib.sha256(data).hexdigest(), own_file=own)
                for name, (own, data) in job.own_files.items()
            ]
        state: protocol.State = "finished" if done >= total else "in work" if done else "accepted"
        if job.cancelled and job.trouble != "late":
            state = "cancelled"
        counted = total + 7 if job.trouble == "lie" else total
        asked = [job.question] if job.question is not None else []
        return Standing(state=state, done=done, total=counted, parts=parts, questions=asked)

    def _watch(self, id: str) -> None:
        """Call whoever sent a job when it has moved."""
        task = asyncio.get_running_loop().create_task(self._tell(id))
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    async def _tell(self, id: str) -> None:
        while (job := self.jobs.get(id)) is not None:
            now = self._standing(id)
            seen = f"{now.state} {len(now.parts)} {len(now.questions)}"
            if seen != job.told and job.order.notify and (not job.cancelled or job.trouble == "late"):
                job.told = seen
                await self._call(job.order.notify, id)
            if now.state in ("finished", "failed", "refused") or (job.cancelled and job.trouble != "late"):
                return
            await asyncio.sleep(min(self.seconds, 1.0))

    async def _call(self, url: str, id: str) -> None:
        body = protocol.Changed(type="job.changed", job=id).model_dump_json()
        at, name = datetime.now(UTC).replace(microsecond=0), f"msg-{secrets.token_hex(8)}"
        headers = {
            "Content-Type": "application/json",
            "webhook-id": name,
            "webhook-timestamp": str(round(at.timestamp())),
        }
        if self.secret:
            headers["webhook-signature"] = Signing(self.secret).sign(name, at, body)
        try:
            async with httpx.AsyncClient(timeout=5) as http:
                await http.post(url, content=body, headers=headers)
        except httpx.HTTPError:
            # Whoever is not there asks later.
            return

    # -- for people ------------------------------------------------------------------------------------------

    async def suggest(self, asked: machine_protocol.Asked, request: Request) -> machine_protocol.Suggested:
        """What the machine in the back room suggests: the same words that the translators would use, and nothing for what it knows no word of."""
        self._known(request)
        language = asked.target.split("-")[0]
        return machine_protocol.Suggested(sentences=[suggested(one, language) for one in asked.sentences])

    async def order_trouble(self, request: Request) -> Response:
        """Order trouble for the next job."""
        body: dict[str, Any] = await request.json()
        if body.get("next") not in TROUBLES:
            raise HTTPException(422, f"One of {', '.join(TROUBLES)}.")
        self.next_trouble = body["next"]
        return Response(status_code=204)

    async def order_pace(self, request: Request) -> Response:
        """Work slower, or faster: so many seconds a unit; and rest after so many units of each job, if that is said."""
        body: dict[str, Any] = await request.json()
        self.seconds = max(float(body["seconds"]), 1e-9)
        self.rests_after = body.get("rests_after")
        return Response(status_code=204)

    async def context(self, id: str) -> HTMLResponse:
        """What the translator of a job sees: its sentences."""
        found = parse(self._job(id).data).iter(f"{NS}source")
        rows = "".join(f"<li>{_escaped(''.join(one.itertext()))}" for one in found)
        return HTMLResponse(
            _page(f"<h1>{CALLED}</h1><p>What our translator sees of job {_escaped(id)}:</p><ol>{rows}</ol>")
        )

    async def page(self) -> HTMLResponse:
        """The bureau's jobs for a person to see."""
        rows = "".join(
            f"<tr><td>{_escaped(job.order.name)}</td><td>{job.order.target}</td><td>{job.order.due}</td><td>{len(job.units)}</td><td>{self._done(job)}</td></tr>"
            for job in self.jobs.values()
        )
        return HTMLResponse(
            _page(
                f"<h1>{CALLED}</h1><p>A simulated bureau. Nothing leaves this machine.</p>"
                "<table><tr><th>Job</th><th>Into</th><th>Due</th><th>Units</th><th>Done</th></tr>"
                f"{rows or '<tr><td colspan=5>No jobs yet.</td></tr>'}</table>"
            )
        )


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace('"', "&quot;")


def _page(body: str) -> str:
    return (
        f"<!doctype html><html lang=en><meta charset=utf-8><title>{CALLED}</title>"
        "<style>body{font:16px/1.5 sans-serif;margin:3rem;max-width:40rem}td,th{padding:.3rem 1rem .3rem 0;text-align:left}</style>"
        f"{body}"
    )


def _question(id: str, data: bytes, url: str) -> Question:
    """A question about the first sentence of a file."""
    file = next(parse(data).iter(f"{NS}file"))
    unit = next(file.iter(f"{NS}unit"))
    segment = next(unit.iter(f"{NS}segment"))
    return Question(
        id="question-1",
        file=str(file.get("original")),
        unit=str(unit.get("id")),
        segment=str(segment.get("id", "")),
        text="Is this a name, or is it to be translated?",
        context=f"{url}/context/{id}",
    )


async def _own_files(data: bytes) -> dict[str, tuple[protocol.OwnFile, bytes]]:
    """The files that a job names and that can be fetched, as they are in its language: a PDF is said to be in it, in a comment."""
    root, out = parse(data), dict[str, tuple[protocol.OwnFile, bytes]]()
    language = str(root.get("trgLang", "")).split("-")[0]
    async with httpx.AsyncClient(timeout=10) as http:
        for group in root.iter(f"{MDA}metaGroup"):
            told = {str(one.get("type")): one.text or "" for one in group.iter(f"{MDA}meta")}
            if not str(group.get("category", "")).startswith("own-file-") or not told.get("address"):
                continue
            answer = await http.get(told["address"])
            if answer.is_success:
                stem, dot, ending = told["name"].rpartition(".")
                name = f"{stem}-{language}{dot}{ending}"
                of = str(next(group.iterancestors(f"{NS}file")).get("original"))
                own = protocol.OwnFile(file=of, field=told["field"], name=name)
                made = answer.content + f"% {language}\n".encode() * answer.content.startswith(b"%PDF")
                out[f"own-file-{len(out) + 1}"] = own, made
    return out


def main() -> None:
    """Run the bureau until it is told to stop; `--door` is a socket that listens already, by its number."""
    given = argparse.ArgumentParser(description="A simulated translation bureau.")
    given.add_argument(
        "--port", type=int, default=0, help="where it listens; 0 for a free port, which is printed"
    )
    given.add_argument("--door", type=int, help="a socket that listens already, by its number")
    given.add_argument("--seconds", type=float, default=0.6, help="how long a unit takes")
    given.add_argument("--key", default="", help="the key that callers have to have")
    given.add_argument("--secret", default="", help="with what both sides sign (Standard Webhooks)")
    asked = given.parse_args()
    door = socket.socket(fileno=asked.door) if asked.door else socket.create_server(("127.0.0.1", asked.port))
    url = f"http://127.0.0.1:{door.getsockname()[1]}"
    print(url, flush=True)
    bureau = Bureau(asked.seconds, asked.key, asked.secret, url)
    config = uvicorn.Config(bureau.app(), log_level="error", access_log=False, timeout_graceful_shutdown=1)
    server = Quiet(config)
    if asked.door:
        # Whoever gave the socket holds the other end of the input: it ends with them, however they end.
        threading.Thread(target=_until_alone, args=(server,), daemon=True).start()
    server.run([door])


def _until_alone(server: Quiet) -> None:
    sys.stdin.buffer.read()
    server.stop()


if __name__ == "__main__":
    main()
