"""Running the followers of one process: a thread each, woken by commits, stopped together."""

from __future__ import annotations

import threading
import uuid
from collections.abc import Callable

import structlog

from hawthorn.followers.base import REST, Follower
from hawthorn.followers.carrier import Carrier
from hawthorn.followers.collector import Collector
from hawthorn.followers.counter import Counter
from hawthorn.followers.drafter import Drafter
from hawthorn.followers.keeper import Keeper
from hawthorn.followers.mail import Mail
from hawthorn.followers.options import Options
from hawthorn.followers.packer import Packer
from hawthorn.followers.scheduler import Scheduler
from hawthorn.followers.webhooks import Webhooks
from hawthorn.operations.runtime.act import Desk
from hawthorn.store import outbox

PATIENCE = 15.0
"""Seconds that a follower has to end its step when the service stops."""
log = structlog.get_logger(__name__)


class Followers:
    """The followers of one process. Several processes may run them on one file: leases see to it that
    each works in one of them at a time."""

    def __init__(self, desk: Desk, options: Options) -> None:
        self.desk = desk
        self.holder = uuid.uuid4().hex
        self.followers: list[Follower] = [
            Scheduler(desk, options),
            Mail(desk, options),
            Carrier(desk, options),
            Collector(desk, options),
            Drafter(desk, options),
            Packer(desk, options),
            Keeper(desk, options),
            Webhooks(desk, options),
            Counter(desk, options),
        ]
        self._stopping = threading.Event()
        self._bells: list[threading.Event] = []
        self._threads: list[threading.Thread] = []
        self._ends: list[Callable[[], None]] = []

    def start(self) -> None:
        """Start a thread for each follower."""
        for follower in self.followers:
            bell = threading.Event()
            self._bells.append(bell)
            self._ends.append(self.desk.db.bell.listen(lambda _, b=bell: b.set(), follower.topics))  # type: ignore[misc]
            thread = threading.Thread(
                target=self._run, args=(follower, bell), name=f"hawthorn-{follower.name}", daemon=True
            )
            self._threads.append(thread)
            thread.start()

    def _run(self, follower: Follower, bell: threading.Event) -> None:
        failed = 0
        while not self._stopping.is_set():
            bell.clear()
            try:
                pause = follower.step(self.holder)
                failed = 0
            except Exception:
                if self._stopping.is_set():
                    return
                failed += 1
                pause = min(2.0**failed, REST)
                log.exception("follower failed; it will try again", follower=follower.name, seconds=pause)
                # What rings meanwhile does not make it try sooner.
                self._stopping.wait(pause)
                continue
            bell.wait(max(0.0, min(pause, REST)))

    def stop(self) -> None:
        """Stop all of them and give their leases back."""
        self._stopping.set()
        for end in self._ends:
            end()
        for follower in self.followers:
            follower.stopping.set()
        for bell in self._bells:
            bell.set()
        for thread in self._threads:
            # What is being sent just now ends, and is noted, so that it is not sent again.
            thread.join(PATIENCE)
        for follower in self.followers:
            follower.close()
        self.desk.db.write(lambda conn: outbox.release_leases(conn, self.holder))
