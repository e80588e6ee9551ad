"""Dispatches: what a set of moves will do, worked out as data before anything is done.

All moves go at one instant or none does: a plan with anything in `held` must not be applied.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from hawthorn.core.timeline import Standing
from hawthorn.core.workflow import Unmet

VERBS = ("release", "withdraw", "remove")


@dataclass(frozen=True, slots=True)
class MoveFacts:
    """One move with all that decides about it.

    `standings` are what stands at each stage id now; `lower` are stage ids below the goal whose standing
    holds an ancestor of the revision; `descends` says that the revision comes from what stands at the goal.
    """

    ord: int
    verb: str
    edition: int
    stage: int
    revision: int | None
    title: str = ""
    standings: Mapping[int, Standing] | None = None
    lower: tuple[int, ...] = ()
    descends: bool = True
    regress: bool = False
    unmet: tuple[Unmet, ...] = ()


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
    """What a dispatch does: standings to close by id, standings to open, and what holds it."""

    closings: tuple[int, ...]
    openings: tuple[Opening, ...]
    held: tuple[Held, ...]
    unchanged: tuple[int, ...] = ()


def plan(moves: Sequence[MoveFacts]) -> Plan:
    """Work out a dispatch. Closings come before openings, so that moves may swap places."""
    closings: list[int] = []
    openings: list[Opening] = []
    held: list[Held] = []
    unchanged: list[int] = []
    for move in moves:
        current = (move.standings or {}).get(move.stage)
        if move.verb == "remove":
            if move.unmet:
                held.append(Held(move.ord, move.edition, move.title, move.unmet))
            closings += [s.id for s in (move.standings or {}).values()]
            continue
        if move.verb == "withdraw":
            if move.unmet:
                held.append(Held(move.ord, move.edition, move.title, move.unmet))
            if current is None:
                unchanged.append(move.ord)
            else:
                closings.append(current.id)
            continue
        why = _why_held(move, current)
        if why:
            held.append(Held(move.ord, move.edition, move.title, why))
            continue
        assert move.revision is not None
        closings += [s.id for stage in move.lower if (s := (move.standings or {}).get(stage))]
        if current is not None and current.revision == move.revision:
            unchanged.append(move.ord)
            continue
        if current is not None:
            closings.append(current.id)
        openings.append(Opening(move.edition, move.stage, move.revision))
    return Plan(tuple(closings), tuple(openings), tuple(held), tuple(unchanged))


def _why_held(move: MoveFacts, current: Standing | None) -> tuple[Unmet, ...]:
    if move.revision is None:
        return (Unmet("no-revision", "There is no revision to release.", "", "write"),)
    out = list(move.unmet)
    if current is not None and not move.descends and not move.regress:
        out.append(
            Unmet(
                "not-descended",
                "What is out now is not part of this revision, so releasing it would take that back. "
                "Bring it in first, or say that going back is meant.",
                "",
                "release",
            )
        )
    return tuple(out)
