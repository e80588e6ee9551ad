"""What trials hold a service to, and how they kill it."""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from pathlib import Path

from hawthorn.operations.views.health import examine
from hawthorn.store import connection

GOES = """
import sys, pathlib
from tests.service.made import House, Clock
house = House(pathlib.Path(sys.argv[1]), Clock(int(sys.argv[2])))
print("ready", flush=True)
house.later(1)
print("gone", flush=True)
"""
"""A program that lets go what is due at an instant."""


class Broken(AssertionError):
    """A promise was broken."""


def expect(held: object, what: str) -> None:
    """Raise `Broken` with what was broken, unless it held."""
    if not held:
        raise Broken(what)


def killed(code: str, arguments: list[str], after: float) -> str:
    """Run a program that prints what it has done, kill it so many seconds after its first line; returns what it printed."""
    process = subprocess.Popen(
        [sys.executable, "-c", code, *arguments], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    )
    assert process.stdout is not None
    first = process.stdout.readline()
    if not first:
        raise Broken(f"the program did not start: {process.stderr.read() if process.stderr else ''}")
    time.sleep(after)
    process.send_signal(signal.SIGKILL)
    rest, _ = process.communicate(timeout=60)
    return first + rest


def sound(path: Path) -> None:
    """The file is whole: pages, references, chain and derived rows."""
    conn = connection.open_still(path)
    wrong = [line for _, lines in examine(conn) for line in lines]
    conn.close()
    expect(wrong == [], f"the file is not whole: {wrong[:3]}")
