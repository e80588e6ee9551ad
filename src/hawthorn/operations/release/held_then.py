"""What is planned that another set-up would hold: said before that is in force."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

from hawthorn.core.contenttypes import COMMON
from hawthorn.operations.release import planning, requested
from hawthorn.operations.runtime.act import Setup, View
from hawthorn.store import moves_ahead
from hawthorn.store.moves import AskedMove
from hawthorn.store.moves_ahead import MoveAhead

_LOOKED_AT = 1000
"""So many of the moves that are planned are looked at: those that come first."""


def lacking(
    view: View, setup: Setup, concerns: Callable[[AskedMove], bool], *, apart: Collection[str] = ()
) -> list[AskedMove]:
    """The planned moves that lack something at their time, by a set-up, that they do not lack by the one in force, `apart` from some
    conditions (their codes): of the dispatches with a move that the change concerns. An edition is named once, and shared fields only
    where nothing is said of a text of theirs."""
    of: dict[int, list[MoveAhead]] = {}
    for move in moves_ahead.soonest(view.conn, _LOOKED_AT):
        of.setdefault(move.dispatch, []).append(move)
    other = View(view.conn, view.identity, view.now, setup)
    found: dict[int, AskedMove] = {}
    for some in of.values():
        if any(map(concerns, some)):
            for move, was, then in zip(some, _unmet(view, some), _unmet(other, some), strict=True):
                if any(one not in was and one[0] not in apart for one in then):
                    found.setdefault(move.edition, move)
    texts = {m.entry for m in found.values() if m.locale != COMMON}
    return [m for m in found.values() if m.locale != COMMON or m.entry not in texts]


def _unmet(view: View, moves: Sequence[MoveAhead]) -> list[set[tuple[str, str]]]:
    """What would hold the moves of a dispatch, each, at its time: codes with where."""
    lines = [requested.line_of(view, move) for move in moves]
    planning.plan_lines(view, lines, moves[0].instant, beside=moves[0].dispatch)
    return [{(u.code, u.where) for u in x.unmet} for x in lines]
