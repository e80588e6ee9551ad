"""Refusals in the event log: who asked for what they have no right to. The same again within a minute is not noted twice."""

from __future__ import annotations

import threading
from collections import OrderedDict

from hawthorn.core.access import Identity
from hawthorn.core.errors import Refused
from hawthorn.core.timeline import SECOND
from hawthorn.operations.runtime.act import Act, Desk

QUIET = 60 * SECOND
_MOST = 2_000


class Refusals:
    """What was noted lately, of all threads of a process."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self._noted: OrderedDict[tuple[int, str], int] = OrderedDict()
        self._lock = threading.Lock()

    def note(self, identity: Identity, what: str, error: Refused) -> None:
        """Note that somebody was refused something, such as a method and the address that it was sent to."""
        now = self.desk.clock.now()
        with self._lock:
            if now - self._noted.get((identity.id, what), -QUIET) < QUIET:
                return
            self._noted[(identity.id, what)] = now
            self._noted.move_to_end((identity.id, what))
            while len(self._noted) > _MOST:
                self._noted.popitem(last=False)

        def do(act: Act) -> None:
            payload = {
                "what": what[:200],
                "missing": str(act.setup.words.kept.plain(error.facts.get("missing", "")))[:200],
            }
            act.event("access.refused", [], payload)

        self.desk.write(identity, do)
