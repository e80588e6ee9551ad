"""Archive: a whole entry is out no longer, and kept away from daily work; it can be found, read and brought back."""

from __future__ import annotations

from hawthorn.core.moves.base import Emptying


class Archive(Emptying):
    """Closes whatever stands anywhere, and puts the entry into the archive. What never stood anywhere is its writer's own to put
    away."""

    name = "archive"
    shelves = True


VERB = Archive()
