"""Several processes that answer for one service, on one record file and at one address.

This process answers nobody: it opens what they share (the door, the replica, what they count together), begins them, begins one again that ends by
itself, and stops them in order. It waits without waking up. The first of them follows the log, unless nobody shall.
"""

from __future__ import annotations

import contextlib
import json
import os
import select
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager

import structlog

from hawthorn.core.errors import BadStore
from hawthorn.core.quick import dataclass
from hawthorn.service import alongside
from hawthorn.service.settings import Settings
from hawthorn.service.shared import Shared, made_for
from hawthorn.service.stopping import PATIENCE

log = structlog.get_logger(__name__)
WAITING = 2_048
"""So many may stand at the door."""
SOUND = 10.0
"""Seconds after which a worker that ends was well until then, and is begun again at once."""
_ENDS = {signal.SIGTERM, signal.SIGINT}
"""Signals that ask to stop."""
LONGEST = 30.0
"""The longest pause before one that ends again and again is begun again, in seconds."""


@dataclass(slots=True)
class Worker:
    """One of them: its process, when it began, how often it has failed in a row, and when it is begun again."""

    process: subprocess.Popen[bytes]
    since: float
    failed: int = 0
    due: float | None = None


class Workers:
    """The workers of a service, and whoever looks after them."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.door = opened(settings.host, settings.port)
        try:
            self._term, self._end_replica = alongside.replicate(settings)
        except BaseException:
            self.door.close()
            raise
        self._memory = made_for(settings.workers)
        self._shared = Shared(self._memory, settings.workers)
        self._all: list[Worker] = []
        self._stopping = False

    def run(self) -> bool:
        """Serve until stopped; whether that went well."""
        try:
            with _told() as told:
                # The first brings the file up to date, and the others find it so.
                self._all.append(self._begun(0))
                if self._ready(told):
                    self._all += [self._begun(n) for n in range(1, self.settings.workers)]
                    while not self._stopping:
                        self._look(told)
                return self._stop()
        finally:
            self.door.close()
            self._end_replica()

    def _begun(self, number: int, failed: int = 0) -> Worker:
        # What a worker is to know comes by its input, which says that we are gone when it ends.
        process = subprocess.Popen(
            [
                sys.executable,
                "-P",
                "-m",
                "hawthorn.service.worker",
                str(self.door.fileno()),
                str(self._memory),
            ],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            pass_fds=(self.door.fileno(), self._memory),
            start_new_session=True,
        )
        wish = {
            "settings": self.settings.model_dump(mode="json")
            | {"followers": self.settings.followers and number == 0},
            "number": number,
            "workers": self.settings.workers,
            "term": self._term,
        }
        assert process.stdin is not None
        with contextlib.suppress(BrokenPipeError):
            process.stdin.write(json.dumps(wish).encode() + b"\n")
            process.stdin.flush()
        return Worker(process, time.monotonic(), failed)

    def _ready(self, told: int) -> bool:
        """Wait until the first worker answers; whether it does, and nobody said that we stop."""
        out = self._all[0].process.stdout
        assert out is not None
        while True:
            found, _, _ = select.select([out.fileno(), told], [], [])
            if out.fileno() in found:
                return bool(out.readline())
            if _heard(told) & _ENDS:
                return False

    def _look(self, told: int) -> None:
        """Wait until somebody says something or one is due, and do what there is to do."""
        dues = [one.due for one in self._all if one.due is not None]
        pause = max(0.0, min(dues) - time.monotonic()) if dues else None
        found, _, _ = select.select([told], [], [], pause)
        said = _heard(told) if found else set()
        if said & _ENDS:
            self._stopping = True
            return
        for number, one in enumerate(self._all):
            if one.due is None and one.process.poll() is not None:
                self._ended(number, one)
            if one.due is not None and one.due <= time.monotonic():
                self._all[number] = self._begun(number, one.failed)

    def _ended(self, number: int, one: Worker) -> None:
        now = time.monotonic()
        one.failed = 0 if now - one.since > SOUND else one.failed + 1
        pause = min(LONGEST, 2.0 ** (one.failed - 1)) if one.failed else 0.0
        one.due = now + pause
        _let_go(one.process)
        self._shared.begun_again(number)
        log.error(
            "a worker ended by itself; it is begun again",
            worker=number,
            code=one.process.returncode,
            seconds=pause,
        )

    def _stop(self) -> bool:
        """Ask all to stop, and wait for them; whether they did."""
        # With the last of them it is shut for good; who waited at ours would be let in by nobody, and cut off at the end.
        self.door.close()
        for one in self._all:
            if one.process.poll() is None:
                one.process.send_signal(signal.SIGTERM)
        until = time.monotonic() + PATIENCE + 10
        well = True
        for one in self._all:
            try:
                well &= one.process.wait(max(0.1, until - time.monotonic())) in (0, -signal.SIGTERM)
            except subprocess.TimeoutExpired:
                one.process.kill()
                well = False
            _let_go(one.process)
        return well


def opened(host: str, port: int) -> socket.socket:
    """The door at which all of them wait; raises `BadStore` where it is not to be had."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    try:
        return socket.create_server((host, port), family=family, backlog=WAITING)
    except OSError as error:
        raise BadStore("workers.no_door", host=host, port=port, why=error.strerror or str(error)) from None


def _let_go(process: subprocess.Popen[bytes]) -> None:
    for end in (process.stdin, process.stdout):
        if end is not None:
            with contextlib.suppress(OSError):
                end.close()


@contextmanager
def _told() -> Iterator[int]:
    """Where signals are heard, so that nothing has to be looked at meanwhile."""
    hears, says = os.pipe()
    os.set_blocking(hears, False)
    os.set_blocking(says, False)
    signals = (*_ENDS, signal.SIGCHLD)
    before = {number: signal.signal(number, lambda *_: None) for number in signals}
    was = signal.set_wakeup_fd(says)
    try:
        yield hears
    finally:
        signal.set_wakeup_fd(was)
        for number, handler in before.items():
            signal.signal(number, handler)
        os.close(hears)
        os.close(says)


def _heard(told: int) -> set[int]:
    try:
        return set(os.read(told, 4096))
    except BlockingIOError:
        return set()
