"""What every group of figures is made with: a comparison, servers, load, and measuring in turns."""

from __future__ import annotations

import json
import shutil
import socket
import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import httpx


@dataclass
class Figure:
    """One comparison. `better` says whether a higher or a lower ratio is better."""

    ours: float
    floor: float
    ratio: float
    goal: float
    better: str
    unit: str

    @property
    def met(self) -> bool:
        """Whether the goal is met."""
        return self.ratio >= self.goal if self.better == "higher" else self.ratio <= self.goal


def own_memory(pid: int) -> float:
    """Megabytes of a process of its own; pages of the record file that are mapped belong to the system."""
    said = dict(
        line.split(":", 1) for line in Path(f"/proc/{pid}/status").read_text().splitlines() if ":" in line
    )
    return int(said["RssAnon"].split()[0]) / 1000


def begun_by(pid: int) -> list[int]:
    """The processes that a process began, and that are still there."""
    tasks = Path(f"/proc/{pid}/task").iterdir()
    return [int(one) for task in tasks for one in (task / "children").read_text().split()]


@contextmanager
def serving(*commands: tuple[list[str], int, str]) -> Iterator[None]:
    """Servers that answer while it lasts: the command of each, its port, and a path that it answers."""
    servers: list[subprocess.Popen[bytes]] = []
    try:
        for command, port, path in commands:
            servers.append(started(command, port, path))
        yield
    finally:
        for server in servers:
            server.terminate()
        for server in servers:
            server.wait(60)


def service(path: Path, port: int) -> list[str]:
    """The command that serves a record file, without followers."""
    own = [sys.executable, "-m", "hawthorn.cli.app", "serve", "--file", str(path), "--port", str(port)]
    return [*own, "--no-followers"]


def floor(path: Path, port: int, *more: str) -> list[str]:
    """The command that serves a file of stored answers (see `benchmarks.floor`)."""
    return [sys.executable, "-m", "benchmarks.floor", str(path), str(port), *more]


def free_port() -> int:
    """A port that is free now."""
    with socket.create_server(("127.0.0.1", 0)) as held:
        port: int = held.getsockname()[1]
        return port


def started(command: list[str], port: int, path: str, pause: float = 0.05) -> subprocess.Popen[bytes]:
    """A server that answers; it has a minute, as a fresh machine reads everything from the disk first."""
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    until = time.monotonic() + 60
    while time.monotonic() < until:
        try:
            httpx.get(f"http://127.0.0.1:{port}{path}")
            return process
        except httpx.TransportError:
            if process.poll() is not None:
                break
            time.sleep(pause)
    process.kill()
    raise RuntimeError("a server did not start")


def load(
    *ports: int,
    path: str,
    headers: dict[str, str] | None = None,
    seconds: float = 1.5,
    connections: int = 16,
) -> float:
    """Requests a second of all ports together, each from a process of its own: wrk where it is installed, which leaves the
    machine to what is measured, else ours."""
    sent = headers or {}
    own = [sys.executable, "-m", "benchmarks.load"]
    with ThreadPoolExecutor(len(ports)) as pool:
        if shutil.which("wrk"):
            return sum(
                pool.map(lambda port: _wrk(port, path, sent, max(1, round(seconds)), connections), ports)
            )
        given = (path, json.dumps(sent), str(seconds), str(connections))
        return sum(pool.map(lambda port: _ours([*own, str(port), *given]), ports))


def _wrk(port: int, path: str, headers: dict[str, str], seconds: int, connections: int) -> float:
    asked = [part for name, value in headers.items() for part in ("-H", f"{name}: {value}")]
    command = ["wrk", "-t1", f"-c{connections}", f"-d{seconds}s", *asked, f"http://127.0.0.1:{port}{path}"]
    out = subprocess.run(command, capture_output=True, text=True, check=True).stdout
    if "Non-2xx" in out or "Socket errors" in out:
        raise RuntimeError(f"there were wrong answers: {out}")
    return float(out.split("Requests/sec:")[1].split()[0])


def _ours(command: list[str]) -> float:
    out = subprocess.run(command, capture_output=True, text=True, check=True).stdout.split()
    if float(out[1]):
        raise RuntimeError("there were wrong answers")
    return float(out[0])


def copied(source: Path, target: Path) -> Path:
    """A copy of a record file that is closed, with what its log still holds."""
    with sqlite3.connect(source) as a, sqlite3.connect(target) as b:
        a.backup(b)
    a.close()
    b.close()
    return target


def interleaved(ours: Callable[[], float], floor: Callable[[], float], rounds: int) -> tuple[float, float]:
    """Both of the round whose ratio is the middle one. They are measured in turns, each first in every other round: a machine whose
    speed changes from one second to the next would else be what medians of either alone compare."""
    pairs: list[tuple[float, float]] = []
    for n in range(rounds):
        if n % 2:
            least, mine = floor(), ours()
        else:
            mine, least = ours(), floor()
        pairs.append((mine, least))
    return sorted(pairs, key=lambda pair: pair[0] / pair[1])[len(pairs) // 2]
