"""How much each key reads: so many requests a minute, and no more than that at once."""

from __future__ import annotations

import math
import time
from collections.abc import Callable

from hawthorn.core.errors import TooMany
from hawthorn.service.shared import Shared

_MINUTE = 60.0


class Rates:
    """Buckets that fill by the minute, one for each key that has a rate; all workers of a service take from the same ones."""

    def __init__(self, shared: Shared | None = None, clock: Callable[[], float] = time.monotonic) -> None:
        self._shared = shared or Shared()
        self._clock = clock

    def take(self, who: int, a_minute: int, name: str) -> None:
        """Take one request; raises `TooMany` where none is left, with the seconds until there is one."""
        shared, now = self._shared, self._clock()
        with shared.alone():
            at = shared.bucket(who, now, float(a_minute))
            left, then = shared.left(at)
            left = min(float(a_minute), left + (now - then) * a_minute / _MINUTE)
            shared.leave(at, left if left < 1 else left - 1, now)
        if left < 1:
            seconds = max(1, math.ceil((1 - left) * _MINUTE / a_minute))
            raise TooMany("rates.too_many", name=name, most=a_minute, seconds=seconds, retry_after=seconds)
