"""How much an assistant does in an hour: so many acts, and so many entries that it starts. Counted in the log, so that all processes count alike."""

from __future__ import annotations

import math
from collections.abc import Sequence

from hawthorn.core.errors import TooMany
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND
from hawthorn.operations.runtime.act import Act
from hawthorn.store import events

_HOUR = 3_600 * SECOND
STARTING = ("entry.started",)
"""Kinds of events by which an entry comes to be."""


@dataclass(frozen=True, slots=True)
class Pace:
    """The most that an assistant does in an hour."""

    acts: int = 500
    entries: int = 50

    def check(self, act: Act) -> None:
        """Raise `TooMany` where an act of an assistant, which is done and not yet committed, is one too many."""
        if act.identity.kind != "assistant" or not act.happened:
            return
        name = act.identity.name
        wait = _wait(act, self.acts, ())
        if wait:
            raise TooMany(
                "pacing.too_many_acts", name=name, most=self.acts, minutes=-(-wait // 60), retry_after=wait
            )
        wait = _wait(act, self.entries, STARTING) if any(kind in STARTING for kind, _ in act.happened) else 0
        if wait:
            raise TooMany(
                "pacing.too_many_entries",
                name=name,
                most=self.entries,
                minutes=-(-wait // 60),
                retry_after=wait,
            )


def _wait(act: Act, most: int, kinds: Sequence[str]) -> int:
    """The seconds until there is room for one more; 0 where there is."""
    since = act.now - _HOUR
    found = events.times_of(act.conn, act.identity.id, since, most + 1, kinds)
    return max(1, math.ceil((found[-1] - since) / SECOND)) if len(found) > most else 0
