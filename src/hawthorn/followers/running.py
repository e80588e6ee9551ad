"""Running the followers of one process: a thread each, woken by commits, stopped together."""

from __future__ import annotations

import threading
import uuid
from typing import Protocol

import structlog

from hawthorn.followers.clockwork import Clockwork
from hawthorn.followers.courier import Courier
from hawthorn.followers.mail import Mail
from hawthorn.followers.options import Options
from hawthorn.operations.act import Desk
from hawthorn.store import outbox

log = structlog.get_logger(__name__)


class Follower(Protocol):
    """Something that follows the log, or the clock, in steps that may be repeated."""

    name: str

    def step(self, holder: str) -> float:
        """Do what there is to do; returns after how many seconds to look again at the latest."""


class Followers:
    """The followers of one process. Several processes may run them on one file: leases see to it that
    each works in one of them at a time."""

    def __init__(self, desk: Desk, options: Options) -> None:
        self.desk = desk
        self.holder = uuid.uuid4().hex
        self.followers: list[Follower] = [
            Clockwork(desk),
            Mail(desk, options),
            Courier(desk, options),
        ]
        self._stopping = threading.Event()
        self._bells: list[threading.Event] = []
        self._threads: list[threading.Thread] = []

    def start(self) -> None:
        """Start a thread for each follower."""
        for follower in self.followers:
            bell = threading.Event()
            self._bells.append(bell)
            self.desk.db.bell.listen(bell.set)
            thread = threading.Thread(
                target=self._run, args=(follower, bell), name=f"hawthorn-{follower.name}", daemon=True
            )
            self._threads.append(thread)
            thread.start()

    def _run(self, follower: Follower, bell: threading.Event) -> None:
        while not self._stopping.is_set():
            bell.clear()
            try:
                pause = follower.step(self.holder)
            except Exception:
                if self._stopping.is_set():
                    return
                log.exception("follower failed; it will try again", follower=follower.name)
                pause = 2.0
            bell.wait(max(0.0, min(pause, 30.0)))

    def stop(self) -> None:
        """Stop all of them and give their leases back."""
        self._stopping.set()
        for bell in self._bells:
            bell.set()
        for thread in self._threads:
            thread.join(5)
        self.desk.db.write(lambda conn: outbox.release_lease(conn, self.holder))
