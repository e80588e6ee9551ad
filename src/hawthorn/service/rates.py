"""How much each key reads: so many requests a minute, and no more than that at once."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable

from hawthorn.core.errors import TooMany

_MINUTE = 60.0


class Rates:
    """Buckets that fill by the minute, one for each key that has a rate. They belong to this process: each counts for itself."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._lock = threading.Lock()
        self._left: dict[int, tuple[float, float]] = {}

    def take(self, who: int, a_minute: int, name: str) -> None:
        """Take one request; raises `TooMany` where none is left, with the seconds until there is one."""
        now = self._clock()
        with self._lock:
            left, then = self._left.get(who, (float(a_minute), now))
            left = min(float(a_minute), left + (now - then) * a_minute / _MINUTE)
            if left < 1:
                self._left[who] = (left, now)
                seconds = max(1, math.ceil((1 - left) * _MINUTE / a_minute))
                raise TooMany(
                    "rates.too_many", name=name, most=a_minute, seconds=seconds, retry_after=seconds
                )
            self._left[who] = (left - 1, now)
