"""A service with nothing to do, with many who only listen, and how it starts."""

from __future__ import annotations

import json
import os
import random
import statistics
import subprocess
import sys
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

import httpx

from benchmarks import made
from benchmarks.figures import Figure, free_port, interleaved, started
from hawthorn.operations.access import people as act_people
from hawthorn.operations.access import permission
from hawthorn.store import people

MINUTE = float(os.environ.get("BENCH_MINUTE", "60"))
"""Seconds for which a quiet service is watched."""
MANY = 1_000
SAVES = 40


@contextmanager
def serving(path: Path, *more: str) -> Iterator[tuple[subprocess.Popen[bytes], int]]:
    """A service on a record file, in a process of its own."""
    port = free_port()
    serve = [
        sys.executable,
        "-m",
        "hawthorn.cli.app",
        "serve",
        "--file",
        str(path),
        "--port",
        str(port),
        *more,
    ]
    process = started(serve, port, "/api/health")
    try:
        yield process, port
    finally:
        process.terminate()
        process.wait(60)


@contextmanager
def listening(port: int, tokens: list[str], count: int) -> Iterator[subprocess.Popen[str]]:
    """So many listeners in a process of their own, all connected."""
    process = subprocess.Popen(
        [sys.executable, "-m", "benchmarks.listen", str(port), ",".join(tokens), str(count)],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )
    assert process.stdout is not None
    if process.stdout.readline() != "ready\n":
        raise RuntimeError("the listeners did not get through")
    try:
        yield process
    finally:
        process.kill()
        process.wait()


def used(pid: int) -> tuple[float, int]:
    """Seconds of processor time that a process has had, and bytes that it has written to anything."""
    fields = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()
    io = dict(line.split(": ") for line in Path(f"/proc/{pid}/io").read_text().splitlines())
    ticks = os.sysconf("SC_CLK_TCK")
    return (int(fields[11]) + int(fields[12])) / ticks, int(io["write_bytes"])


def _watched(process: subprocess.Popen[bytes], folder: Path) -> tuple[float, int]:
    """The share of a core in percent that a process takes over a minute, and by how many bytes files changed."""

    def files() -> dict[str, tuple[int, int]]:
        found = (p for p in folder.iterdir() if p.is_file())
        return {
            p.name: (p.stat().st_size, p.stat().st_mtime_ns) for p in found if not p.name.endswith("-shm")
        }

    time.sleep(6)
    before, wrote, was = *used(process.pid), files()
    time.sleep(MINUTE)
    after, now_wrote = used(process.pid)
    changed = sum(size for name, (size, at) in files().items() if was.get(name) != (size, at))
    return 100 * (after - before) / MINUTE, (now_wrote - wrote) + changed


def _house(folder: Path, count: int = 200) -> tuple[Path, list[str], str]:
    """A record file with some pages, keys of people who may read all, and one page to save."""
    path = folder / "house.sqlite"
    desk = made.open_desk(path)
    pages = made.pages(desk, count)
    with desk.db.read() as conn:
        wim = permission.identity_of(conn, people.by_handle(conn, "wim").id)  # type: ignore[union-attr]
    tokens = [
        desk.write(
            wim,
            lambda act, n=n: act_people.issue_key(
                act, f"reader {n}", "managing-editor", "program", ["draft", "release"]
            ),  # type: ignore[misc]
        )[1]
        for n in range(20)
    ]
    desk.db.close()
    return path, tokens, pages[5][2]


def figure_idle(folder: Path) -> dict[str, Figure]:
    """What a service takes that has nothing to do, alone and with 200 open consoles."""
    path, tokens, _ = _house(folder)
    with serving(path) as (process, port):
        alone, wrote_alone = _watched(process, folder)
        with listening(port, tokens, 200):
            consoles, wrote_consoles = _watched(process, folder)
    return {
        "idle with followers: share of a core over a minute": Figure(
            alone, 100, alone / 100, 0.005, "lower", "% of a core"
        ),
        "idle with followers: written": Figure(wrote_alone, 1, wrote_alone, 0, "lower", "bytes"),
        "200 open consoles: share of a core over a minute": Figure(
            consoles, 100, consoles / 100, 0.02, "lower", "% of a core"
        ),
        "200 open consoles: written": Figure(wrote_consoles, 1, wrote_consoles, 0, "lower", "bytes"),
    }


def figure_listeners(folder: Path) -> dict[str, Figure]:
    """From commit to told with 1,000 listeners, and the save that caused it against one without listeners."""
    path, tokens, uuid = _house(folder)
    with serving(path) as (_, port), httpx.Client(base_url=f"http://127.0.0.1:{port}") as http:
        http.headers["Authorization"] = f"Bearer {tokens[0]}"
        rng = random.Random(5)
        _save(http, uuid, rng)
        without = [_save(http, uuid, rng) for _ in range(SAVES)]
        with listening(port, tokens, MANY) as listeners:
            time.sleep(1)
            first = _newest(http)["seq"]
            with_all = [_save(http, uuid, rng) for _ in range(SAVES)]
            time.sleep(2)
            at = {
                str(e["seq"]): e["at"]
                for e in http.get("/api/events?limit=100").json()["items"]
                if e["seq"] > first
            }
            out, _ = listeners.communicate("", timeout=60)
    took: list[float] = []
    for line in out.splitlines():
        seq, *times = line.split()
        if seq in at:
            begun = _micros(at[seq])
            took += [(int(t) - begun) / 1000 for t in times]
    if len(took) != SAVES * MANY:
        raise RuntimeError(f"{len(took):,} were told where {SAVES * MANY:,} should have been")
    took.sort()
    late = took[int(len(took) * 0.99)]
    one, alone = statistics.median(with_all), statistics.median(without)
    return {
        f"{MANY:,} listeners: from commit to told, 99th percentile": Figure(
            late, 150, late / 150, 1.0, "lower", "ms"
        ),
        f"{MANY:,} listeners: the save that caused it": Figure(one, alone, one / alone, 1.3, "lower", "ms"),
    }


def _newest(http: httpx.Client) -> dict[str, int]:
    found: dict[str, int] = http.get("/api/events?limit=1").json()["items"][0]
    return found


def _micros(iso: str) -> int:
    from hawthorn.core import timeline

    return timeline.parse_instant(iso)


def _save(http: httpx.Client, uuid: str, rng: random.Random) -> float:
    """Milliseconds of one save over HTTP; somebody who writes pauses in between."""
    entry = http.get(f"/api/entries/{uuid}/en")
    body = {"fields": {"body": made.text(rng, 2000)}}
    time.sleep(0.25)
    start = time.perf_counter()
    answer = http.patch(f"/api/entries/{uuid}/en", json=body, headers={"If-Match": entry.headers["etag"]})
    took = time.perf_counter() - start
    if not answer.is_success:
        raise RuntimeError(answer.text)
    return took * 1000


def figure_bursts(folder: Path) -> dict[str, Figure]:
    """Open files and memory of a service after 200 bursts of requests with pauses, against after 5: one page view each."""
    path, tokens, uuid = _house(folder)
    pause = float(os.environ.get("BENCH_PAUSE", "11")) / 11
    with serving(path) as (process, port):
        addresses = [
            f"/api/entries/{uuid}/en",
            "/api/my-work",
            "/api/entries",
            "/api/setup",
            "/api/me",
            "/api/health",
        ] * 2

        def burst() -> None:
            """A dozen calls at once, over connections of their own, as after a pause."""

            def ask(address: str) -> None:
                headers = {"Authorization": f"Bearer {tokens[0]}"}
                answer = httpx.get(f"http://127.0.0.1:{port}{address}", headers=headers)
                if not answer.is_success:
                    raise RuntimeError(answer.text)

            with ThreadPoolExecutor(12) as workers:
                list(workers.map(ask, addresses))

        def state() -> tuple[int, float]:
            pages = int(Path(f"/proc/{process.pid}/statm").read_text().split()[1])
            return len(os.listdir(f"/proc/{process.pid}/fd")), pages * os.sysconf("SC_PAGE_SIZE") / 1e6

        # Idle worker threads end after ten seconds: pauses are longer in the first and every tenth round.
        for n in range(5):
            burst()
            time.sleep(11 * pause if n % 10 == 0 else 0.2)
        # Both are looked at in the same quiet: right after a burst some are yet to be closed.
        time.sleep(11 * pause)
        files, memory = state()
        for n in range(195):
            burst()
            time.sleep(11 * pause if n % 20 == 0 else 0.2)
        time.sleep(11 * pause)
        files_after, memory_after = state()
    return {
        "open files after 200 bursts against 5": Figure(
            files_after, files, files_after / files, 1.05, "lower", "files"
        ),
        "memory after 200 bursts against 5": Figure(
            memory_after, memory, memory_after / memory, 1.1, "lower", "MB"
        ),
    }


_BARE_APP = """
import sys
import uvicorn
from fastapi import FastAPI
app = FastAPI()
@app.get("/api/health")
def health() -> dict[str, bool]:
    return {"ok": True}
uvicorn.run(app, host="127.0.0.1", port=int(sys.argv[1]), log_level="error", access_log=False)
"""
_BARE_COMMAND = """
import httpx
import typer
app = typer.Typer()
@app.command()
def find(url: str) -> None:
    typer.echo(len(httpx.get(url).text))
app()
"""


def figure_start(folder: Path, rounds: int = 9) -> dict[str, Figure]:
    """From start to the first answer against a bare FastAPI application; commands against a bare one with one call."""
    path, tokens, _ = _house(folder)

    def ready(command: list[str], port: int, address: str = "/api/health") -> float:
        start = time.perf_counter()
        process = started([sys.executable, *command, str(port)], port, address, pause=0.005)
        took = time.perf_counter() - start
        process.terminate()
        process.wait(60)
        return took

    serve = ["-m", "hawthorn.cli.app", "serve", "--file", str(path), "--port"]
    out: dict[str, Figure] = {}
    for name, address in (
        ("start to ready", "/api/health"),
        ("start to the first answer of the API", "/api/entries"),
    ):
        ours, floor = interleaved(
            lambda at=address: ready(serve, free_port(), at),  # type: ignore[misc]
            lambda: ready(["-c", _BARE_APP], free_port()),
            rounds,
        )
        out[name] = Figure(ours, floor, ours / floor, 1.5, "lower", "seconds")
    with serving(path) as (_, port):
        url = f"http://127.0.0.1:{port}"
        config = folder / "config" / "hawthorn"
        config.mkdir(parents=True)
        (config / "session.json").write_text(json.dumps({"url": url, "key": tokens[0]}))
        bare = ["-c", _BARE_COMMAND, f"{url}/api/health"]
        for name, given in (("--version", ["--version"]), ("find", ["find", "harbour"])):
            mine = ["-m", "hawthorn.cli.app", *given]
            ours, floor = interleaved(lambda g=mine: _took(g, folder), lambda: _took(bare, folder), rounds)  # type: ignore[misc]
            out[f"hawthorn {name}"] = Figure(ours, floor, ours / floor, 1.5, "lower", "seconds")
    return out


def _took(command: list[str], folder: Path) -> float:
    start = time.perf_counter()
    subprocess.run(
        [sys.executable, *command],
        check=True,
        stdout=subprocess.DEVNULL,
        env={**os.environ, "XDG_CONFIG_HOME": str(folder / "config")},
    )
    return time.perf_counter() - start
