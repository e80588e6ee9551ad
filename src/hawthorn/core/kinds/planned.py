"""A time at which something is done with the entry: a writer fills it like any field, and a dispatch does it."""

from __future__ import annotations

from hawthorn.core.kinds.instant import Instant


class Planned(Instant):
    """A wall time in a zone, as an instant has it; its field says which move is made then, and what that carries."""

    name = "planned"
    described = False


KIND = Planned()
