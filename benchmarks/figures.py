"""What every group of figures is made with: a comparison, servers, load, and measuring in turns."""

from __future__ import annotations

import socket
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass

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


def load(port: int, path: str, etag: str = "", seconds: float = 1.5, connections: int = 16) -> float:
    """Requests a second, from a process of its own."""
    out = subprocess.run(
        [sys.executable, "-m", "benchmarks.load", str(port), path, etag, str(seconds), str(connections)],
        capture_output=True,
        text=True,
        check=True,
    ).stdout.split()
    if float(out[1]):
        raise RuntimeError("there were wrong answers")
    return float(out[0])


def interleaved(ours: Callable[[], float], floor: Callable[[], float], rounds: int) -> tuple[float, float]:
    """Medians of both, measured in turns, so that both meet the same machine."""
    pairs = [(ours(), floor()) for _ in range(rounds)]
    return statistics.median(p[0] for p in pairs), statistics.median(p[1] for p in pairs)
