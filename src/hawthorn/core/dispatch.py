"""Dispatches: what a set of moves will do, worked out as data before anything is done.

All moves go at one instant or none does: a plan with anything in `held` must not be applied. What each verb does
stands in `core.moves`.
"""

from __future__ import annotations

from collections.abc import Sequence

from hawthorn.core import moves as verbs
from hawthorn.core.moves import MoveFacts
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import Standing
from hawthorn.core.workflow import Unmet

STATES = ("open", "planned", "held", "failed", "gone", "undone", "cancelled")
COMING = ("open", "planned", "held", "failed")
"""Of one in these states something is still to come."""
ACTS: dict[str, tuple[str, ...]] = {
    "change": ("open",),
    "plan": ("open",),
    "replan": ("planned", "held", "failed"),
    "send": COMING,
    "reopen": ("planned", "held", "failed"),
    "cancel": COMING,
    "describe": COMING,
    "review": ("open", "planned", "held"),
    "undo": ("gone",),
}
"""What may be done with a dispatch, and in which of its states: open (being put together), planned, held (something was in the
way), failed (it could not be worked out), gone, undone, cancelled."""


def acts(state: str) -> list[str]:
    """What may be done with a dispatch in a state."""
    return [act for act, states in ACTS.items() if state in states]


@dataclass(frozen=True, slots=True)
class Opening:
    """A standing to open."""

    edition: int
    stage: int
    revision: int


@dataclass(frozen=True, slots=True)
class Held:
    """Why a move cannot go."""

    ord: int
    edition: int
    title: str
    unmet: tuple[Unmet, ...]


@dataclass(frozen=True, slots=True)
class Plan:
    """What a dispatch does: standings to close and to open, and what holds it."""

    closings: tuple[Standing, ...]
    openings: tuple[Opening, ...]
    held: tuple[Held, ...]


def plan(moves: Sequence[MoveFacts]) -> Plan:
    """Work out a dispatch. Closings come before openings, so that moves may swap places."""
    closings: list[Standing] = []
    openings: list[Opening] = []
    held: list[Held] = []
    for move in moves:
        verb = verbs.of(move.verb)
        why = (*move.unmet, *verb.against(move))
        if why:
            held.append(Held(move.ord, move.edition, move.title, why))
            continue
        step = verb.step(move)
        closings += step.closings
        if step.opens and move.revision is not None:
            openings.append(Opening(move.edition, move.stage, move.revision))
    return Plan(tuple(closings), tuple(openings), tuple(held))
