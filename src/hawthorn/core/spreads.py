"""How long something took, of many: told so that one that took for ever does not hide the others."""

from __future__ import annotations

from collections.abc import Sequence

from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND


@dataclass(frozen=True, slots=True)
class Spread:
    """How long something took, of so many: the median and the 90th percentile, in seconds. Of none there is neither."""

    count: int = 0
    median: float | None = None
    ninetieth: float | None = None


def spread(took: Sequence[int]) -> Spread:
    """The spread of some lengths of time, in microseconds: the middle one, and the one that nine of ten do not exceed (nearest rank)."""
    if not took:
        return Spread()
    some = sorted(took)
    return Spread(len(some), seconds(some[(len(some) - 1) // 2]), seconds(some[-(-len(some) * 9 // 10) - 1]))


def seconds(span: int) -> float:
    """A length of time in microseconds, in seconds."""
    return round(span / SECOND, 1)
