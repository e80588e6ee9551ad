"""Restore: what stood at a stage before a dispatch stands there again. Undoing is made of these, and nobody asks for one by name."""

from __future__ import annotations

from collections.abc import Sequence

from hawthorn.core.moves.base import Around, MoveFacts, Step, Touched, Verb


class Restore(Verb):
    """Puts a revision back where it lawfully stood, or nothing where nothing did. It needs no new sign-off; addresses, the outline
    and what refers to it are looked at again."""

    name = "restore"
    gated = False
    made = True
    idles = True

    def leads_with(self, revision: int | None) -> bool:
        return revision is not None

    def leaves_with(self, revision: int | None) -> bool:
        return revision is None

    def touches(self, around: Around) -> Sequence[Touched]:
        return [Touched(around.edition)]

    def step(self, move: MoveFacts) -> Step:
        if move.current is None:
            return Step(opens=move.revision is not None)
        if move.current.revision == move.revision:
            return Step()
        return Step((move.current,), opens=move.revision is not None)


VERB = Restore()
