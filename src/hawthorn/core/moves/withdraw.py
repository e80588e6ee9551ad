"""Withdraw: an edition is out no longer; its revisions stay, and it can be released again."""

from __future__ import annotations

from collections.abc import Sequence

from hawthorn.core.moves.base import Around, MoveFacts, Step, Touched, Verb


class Withdraw(Verb):
    """Closes what stands at the goal; the shared fields leave with the last locale."""

    name = "withdraw"
    leaves = True
    idles = True

    def touches(self, around: Around) -> Sequence[Touched]:
        own = Touched(around.edition)
        if around.common is None or around.others_stay:
            return (own,)
        return own, Touched(around.common, along=True)

    def step(self, move: MoveFacts) -> Step:
        return Step((move.current,) if move.current is not None else ())


VERB = Withdraw()
