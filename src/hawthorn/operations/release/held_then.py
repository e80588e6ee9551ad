"""What is planned that another set-up would hold: said before that is in force."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

from hawthorn.operations.release import planning, requested
from hawthorn.operations.release.lines import Line
from hawthorn.operations.release.workflows import Displaced
from hawthorn.operations.runtime.act import Setup, View
from hawthorn.store import entries, moves_ahead
from hawthorn.store.moves import AskedMove
from hawthorn.store.moves_ahead import MoveAhead

_LOOKED_AT = 500
"""So many of the moves that are planned are looked at: those that come first."""


def lacking(
    view: View, setup: Setup, concerns: Callable[[AskedMove], bool], *, apart: Collection[str] = ()
) -> list[Displaced]:
    """What is planned and lacks something at its time, by a set-up, that it does not lack by the one in force, `apart` from some
    conditions (their codes): in the dispatches with a move that the change concerns. An edition is named once, and shared fields only
    where nothing is said of a text of theirs."""
    of: dict[int, list[MoveAhead]] = {}
    for move in moves_ahead.soonest(view.conn, _LOOKED_AT):
        of.setdefault(move.dispatch, []).append(move)
    other = View(view.conn, view.identity, view.now, setup)
    found: dict[int, Line] = {}
    for some in of.values():
        if any(map(concerns, some)) and (then := _unmet(other, some, apart)):
            now = _unmet(view, some, apart)
            found |= {line.edition: line for why, line in then.items() if why not in now}
    own = entries.of_editions(view.conn, found)
    told = planning.told_once([*found.values()])
    return [Displaced(x.edition, *own[x.edition], x.stage, None) for x in told]


def _unmet(
    view: View, moves: Sequence[MoveAhead], apart: Collection[str]
) -> dict[tuple[int, str, str], Line]:
    """What would hold the moves of a dispatch at its time, as they are by then: each line by its edition, a code and where."""
    dispatch, instant = moves[0].dispatch, moves[0].instant
    lines = requested.by_then(view, [requested.line_of(view, move) for move in moves], dispatch)
    planning.plan_lines(view, lines, instant, beside=dispatch)
    return {(x.edition, u.code, u.where): x for x in lines for u in x.unmet if u.code not in apart}
