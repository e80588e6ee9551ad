"""Archive: a whole entry is out no longer, and kept away from daily work; it can be found, read and brought back."""

from __future__ import annotations

from collections.abc import Sequence

from hawthorn.core.moves.base import Around, MoveFacts, Step, Touched, Verb


class Archive(Verb):
    """Closes whatever stands anywhere, and puts the entry into the archive. What never stood anywhere is its writer's own to put
    away."""

    name = "archive"
    leaves = True
    shelves = True

    def asks(self, stood: bool) -> str:
        return "release" if stood else "write"

    def touches(self, around: Around) -> Sequence[Touched]:
        return [Touched(one) for one in around.editions]

    def step(self, move: MoveFacts) -> Step:
        return Step(tuple(s.id for s in (move.standings or {}).values()))


VERB = Archive()
