"""A simulated translation bureau: takes XLIFF over HTTP, takes its time, and gives it back translated.

It knows nothing of Hawthorn but the file format. Its translations are made up: sentences of the museum that
it knows, else word by word with a small dictionary. Trouble can be ordered: `POST /trouble` with
`{"next": "refuse" | "fail" | "break tags" | "truncate"}` spoils the next job.
"""

from __future__ import annotations

import re
import time
from dataclasses import dataclass, field
from typing import Any
from uuid import uuid4

from lxml import etree
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, Response
from starlette.routing import Route

from hawthorn.demo.lexicon import SENTENCES, WORDS

NS = "{urn:oasis:names:tc:xliff:document:2.0}"
TROUBLES = ("refuse", "fail", "break tags", "truncate")


@dataclass
class _Job:
    data: bytes
    units: int
    begun: float
    trouble: str = ""
    finished: bytes = b""


@dataclass
class Bureau:
    """The bureau's desk: jobs by id, how long a unit takes, and the trouble that was ordered."""

    seconds: float = 0.6
    jobs: dict[str, _Job] = field(default_factory=dict)
    seen: dict[str, str] = field(default_factory=dict)
    next_trouble: str = ""

    def app(self) -> Starlette:
        """The bureau as an application."""
        return Starlette(
            routes=[
                Route("/", self.page),
                Route("/jobs", self.take, methods=["POST"]),
                Route("/jobs/{id}", self.state),
                Route("/jobs/{id}/file", self.file),
                Route("/trouble", self.order_trouble, methods=["POST"]),
            ]
        )

    async def take(self, request: Request) -> Response:
        """Take a job; the same idempotency key gives the same job."""
        key = request.headers.get("idempotency-key", "")
        if key in self.seen:
            return JSONResponse({"id": self.seen[key]}, 202)
        trouble, self.next_trouble = self.next_trouble, ""
        if trouble == "refuse":
            return JSONResponse({"error": "We do not take this kind of text."}, 422)
        data = await request.body()
        try:
            units = len(list(_parse(data).iter(f"{NS}unit")))
        except etree.XMLSyntaxError as error:
            return JSONResponse({"error": f"Not an XLIFF file: {error}"}, 422)
        id = uuid4().hex[:12]
        self.jobs[id] = _Job(data, units, time.monotonic(), trouble)
        if key:
            self.seen[key] = id
        return JSONResponse({"id": id}, 202)

    async def state(self, request: Request) -> Response:
        """How a job gets on."""
        job = self.jobs.get(request.path_params["id"])
        if job is None:
            return JSONResponse({"error": "There is no such job."}, 404)
        done = min(job.units, int((time.monotonic() - job.begun) / self.seconds))
        if job.trouble == "fail" and done >= min(1, job.units):
            return JSONResponse(
                {"state": "failed", "done": done, "total": job.units, "trouble": "Our translator fell ill."}
            )
        state = "finished" if done >= job.units else "in work"
        return JSONResponse({"state": state, "done": done, "total": job.units})

    async def file(self, request: Request) -> Response:
        """The finished file."""
        job = self.jobs.get(request.path_params["id"])
        if job is None:
            return JSONResponse({"error": "There is no such job."}, 404)
        if not job.finished:
            job.finished = spoil(translate_file(job.data), job.trouble)
        return Response(job.finished, media_type="application/xliff+xml")

    async def order_trouble(self, request: Request) -> Response:
        """Order trouble for the next job."""
        body: dict[str, Any] = await request.json()
        if body.get("next") not in TROUBLES:
            return JSONResponse({"error": f"One of {', '.join(TROUBLES)}."}, 422)
        self.next_trouble = body["next"]
        return JSONResponse({"next": self.next_trouble})

    async def page(self, _: Request) -> Response:
        """The bureau's jobs for a person to see."""
        rows = "".join(
            f"<tr><td>{id}</td><td>{job.units}</td><td>{min(job.units, int((time.monotonic() - job.begun) / self.seconds))}</td></tr>"
            for id, job in self.jobs.items()
        )
        return HTMLResponse(
            "<!doctype html><meta charset=utf-8><title>Saltmarsh Translations</title>"
            "<style>body{font:16px/1.5 sans-serif;margin:3rem;max-width:40rem}td,th{padding:.3rem 1rem .3rem 0;text-align:left}</style>"
            "<h1>Saltmarsh Translations</h1><p>A simulated bureau. Nothing leaves this machine.</p>"
            f"<table><tr><th>Job</th><th>Units</th><th>Done</th></tr>{rows or '<tr><td colspan=3>No jobs yet.</td></tr>'}</table>"
        )


def _parse(data: bytes) -> etree._Element:
    return etree.fromstring(data, etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False))


def translate_file(data: bytes) -> bytes:
    """Fill in every target of an XLIFF 2 file."""
    root = _parse(data)
    language = str(root.get("trgLang", "")).split("-")[0]
    for segment in root.iter(f"{NS}segment"):
        source = segment.find(f"{NS}source")
        for old in segment.findall(f"{NS}target"):
            segment.remove(old)
        target = etree.fromstring(etree.tostring(source, with_tail=False))
        target.tag = f"{NS}target"
        sentence = "".join(source.itertext()).strip()
        known = SENTENCES.get(language, {}).get(sentence)
        if known and not len(source):
            target.text = known
        else:
            _translate_within(target, language)
        segment.append(target)
        segment.set("state", "translated")
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8")  # type: ignore[no-any-return]


def _translate_within(node: etree._Element, language: str) -> None:
    node.text = translate_words(node.text, language)
    for child in node:
        _translate_within(child, language)
        child.tail = translate_words(child.tail, language)


def translate_words(text: str | None, language: str) -> str | None:
    """Word by word, keeping capitals and what is not a word."""
    if not text:
        return text
    words = WORDS.get(language, {})

    def one(found: re.Match[str]) -> str:
        word = found[0]
        new = words.get(word.lower())
        if new is None:
            return word
        return new[:1].upper() + new[1:] if word[:1].isupper() else new

    out = re.sub(r"[^\W\d_]+(?:'[^\W\d_]+)?", one, text)
    if language == "ja":
        out = (
            re.sub(r"(?<=[\u3040-\u9fff]) +(?=[\u3040-\u9fff])", "", out)
            .replace(". ", "。")
            .replace(", ", "、")
        )
        out = re.sub(r"\.$", "。", out)
    return out


def spoil(data: bytes, trouble: str) -> bytes:
    """Spoil a finished file in the way that was ordered."""
    if trouble == "truncate":
        return data[: len(data) // 2]
    if trouble == "break tags":
        root = _parse(data)
        for target in root.iter(f"{NS}target"):
            if len(target):
                etree.strip_tags(target, f"{NS}pc", f"{NS}ph")
                break
        return etree.tostring(root, xml_declaration=True, encoding="UTF-8")  # type: ignore[no-any-return]
    return data
