"""Release: a revision stands at its goal, in place of what stood there and of what led to it."""

from __future__ import annotations

from hawthorn.core.moves.base import Bringing


class Release(Bringing):
    """Brings a revision to readers."""

    name = "release"
    outs = True
    lifts = True
    clears = ("not-out", "parent-not-out")
    rests = True


VERB = Release()
