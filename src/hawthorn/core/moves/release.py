"""Release: a revision stands at its goal, in place of what stood there and of what led to it."""

from __future__ import annotations

from collections.abc import Sequence

from hawthorn.core.messages import said
from hawthorn.core.moves.base import APPROVED, CHOSEN, Around, MoveFacts, Step, Touched, Verb
from hawthorn.core.workflow import Unmet


class Release(Verb):
    """Brings a revision to its goal; the shared fields go along in the revision that is approved."""

    name = "release"
    leads = True
    clears = ("not-out", "parent-not-out")
    idles = True
    rests = True

    def touches(self, around: Around) -> Sequence[Touched]:
        own = Touched(around.edition, CHOSEN)
        return (own,) if around.common is None else (own, Touched(around.common, APPROVED, along=True))

    def against(self, move: MoveFacts) -> Sequence[Unmet]:
        if move.revision is None:
            return (Unmet("no-revision", said("unmet.no_revision"), "", "write"),)
        if move.current is None or move.descends or move.regress:
            return ()
        return (Unmet("not-descended", said("unmet.not_descended"), "", "release"),)

    def step(self, move: MoveFacts) -> Step:
        stand = move.standings or {}
        led = tuple(s.id for stage in move.lower if (s := stand.get(stage)))
        if move.current is None:
            return Step(led, opens=True)
        if move.current.revision == move.revision:
            return Step(led)
        return Step((*led, move.current.id), opens=True)


VERB = Release()
