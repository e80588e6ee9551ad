"""Remove: a whole entry goes, in every locale and from every stage; it can be brought back as a draft."""

from __future__ import annotations

from collections.abc import Sequence

from hawthorn.core.moves.base import Around, MoveFacts, Step, Touched, Verb


class Remove(Verb):
    """Closes whatever stands anywhere, and ends the entry. What never stood anywhere is its writer's own to remove."""

    name = "remove"
    leaves = True
    ends = True
    clears = ("referred-to",)

    def asks(self, stood: bool) -> str:
        return "release" if stood else "write"

    def touches(self, around: Around) -> Sequence[Touched]:
        return [Touched(one) for one in around.editions]

    def step(self, move: MoveFacts) -> Step:
        return Step(tuple(s.id for s in (move.standings or {}).values()))


VERB = Remove()
