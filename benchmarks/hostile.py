"""What others notice while somebody sends what costs most: how soon the service answers, and what it takes of memory."""

from __future__ import annotations

import json
import multiprocessing
import os
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

import httpx

from benchmarks import made, merging
from benchmarks.figures import Figure, own_memory
from benchmarks.quiet import serving
from hawthorn.operations.access import people as act_people
from hawthorn.operations.access import permission
from hawthorn.store import people

TURNS = 4


def figure_hostile(folder: Path) -> dict[str, Figure]:
    """`/api/health` while each hostile input is sent, and the memory of the process afterwards against before."""
    path = folder / "hostile.sqlite"
    desk = made.open_desk(path)
    pages = made.pages(desk, 50)
    with desk.db.read() as conn:
        wim = permission.identity_of(conn, people.by_handle(conn, "wim").id)  # type: ignore[union-attr]
    key = desk.write(
        wim,
        lambda act: act_people.issue_key(act, "odd", "managing-editor", "program", ["draft", "release"])[1],
    )
    desk.db.close()
    took: list[float] = []
    slowest: dict[str, float] = {}
    with serving(path) as (process, port):
        url = f"http://127.0.0.1:{port}"
        _ordinary(url, key, pages[3][2])
        idle = own_memory(process.pid)
        most = idle
        for name, send in _inputs(url, key, pages[3][2]).items():
            # Whoever sends does so in a process of its own, so that it does not hold up whoever measures.
            sending = multiprocessing.get_context("fork").Process(target=_turns, args=(send,))
            sending.start()
            mine: list[float] = []
            with httpx.Client(base_url=url, timeout=60) as http:
                while sending.is_alive():
                    start = time.perf_counter()
                    http.get("/api/health")
                    mine.append((time.perf_counter() - start) * 1000)
                    most = max(most, own_memory(process.pid))
                    time.sleep(0.005)
            sending.join()
            print(name, own_memory(process.pid), max(most, 0)) if os.environ.get("BENCH_SAY") else None
            took += mine
            slowest[name] = max(mine, default=0.0)
    took.sort()
    late = took[int(len(took) * 0.99)]
    return {
        "health while hostile input is sent, 99th percentile": Figure(
            late, 100, late / 100, 1.0, "lower", "ms"
        ),
        **{
            f"health while: {name}, slowest": Figure(worst, 100, worst / 100, 5.0, "lower", "ms")
            for name, worst in slowest.items()
        },
        "memory with hostile input, against idle": Figure(most, idle, most / idle, 1.5, "lower", "MB"),
    }


def _ordinary(url: str, key: str, page: str) -> None:
    """What people do on a usual day, so that what is loaded when it is first needed is there."""
    with httpx.Client(base_url=url, timeout=60) as http:
        http.post("/api/session", json={"handle": "wim", "password": "something else"})
        http.headers["Authorization"] = f"Bearer {key}"
        http.post("/api/entries", json={"type": "page", "locale": "en", "fields": {"title": "A new page"}})
        at = f"/api/entries/{page}/en"
        etag = http.get(at).headers["etag"]
        for text in ("<p>One word here.</p>", "<p>Another word here.</p>", "<p>Some other word here.</p>"):
            http.patch(at, json={"fields": {"body": text}}, headers={"If-Match": etag})
        for _ in range(20):
            http.get("/api/entries")


def _turns(send: Callable[[], object]) -> None:
    for _ in range(TURNS):
        # Who sends far too much is answered, and cut off while they still send.
        with suppress(httpx.TransportError):
            send()


def _inputs(url: str, key: str, page: str) -> dict[str, Callable[[], object]]:
    headers = {"Authorization": f"Bearer {key}", "Content-Type": "application/json"}

    def post(body: bytes) -> Callable[[], object]:
        return lambda: httpx.post(f"{url}/api/entries", content=body, headers=headers, timeout=60)

    def both_sides() -> object:
        base, ours, theirs = merging.sides(200_000)
        at = f"{url}/api/entries/{page}/en"
        for text in (base, ours, theirs):
            etag = etag_of(at) if text is not theirs else stale[0]
            stale[:] = [etag]
            fields = {"fields": {"body": f"<p>{' '.join(text)}</p>"}}
            answer = httpx.patch(at, json=fields, headers={**headers, "If-Match": etag}, timeout=60)
        return answer

    def etag_of(at: str) -> str:
        return httpx.get(at, headers=headers, timeout=60).headers["etag"]

    def guesses() -> object:
        def one(n: int) -> None:
            body = {"handle": f"nobody{n}", "password": "wrong"}
            httpx.post(f"{url}/api/session", json=body, timeout=60)

        threads = [threading.Thread(target=one, args=(n,)) for n in range(24)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return None

    def deep() -> object:
        etag = etag_of(f"{url}/api/entries/{page}/en")
        fields = {"fields": {"body": "<blockquote>" * 100_000}}
        return httpx.patch(
            f"{url}/api/entries/{page}/en", json=fields, headers={**headers, "If-Match": etag}, timeout=60
        )

    stale: list[str] = []
    return {
        "a body that is too long": post(b'{"a": "' + b"x" * 60_000_000 + b'"}'),
        "a body of empty lists": post(b"[" + b"[]," * 600_000 + b"1]"),
        "a deep body": post(b"[" * 1_900_000),
        "a deep text": deep,
        "two who change one long paragraph": both_sides,
        "24 guesses at once": guesses,
        "a long text of one word": lambda: httpx.post(
            f"{url}/api/entries",
            content=json.dumps(
                {"type": "page", "locale": "en", "fields": {"body": "<p>" + "a " * 120_000 + "</p>"}}
            ),
            headers=headers,
            timeout=60,
        ),
    }
