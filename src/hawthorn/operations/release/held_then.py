"""What is planned that another set-up would hold: said before that is in force."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

from hawthorn.core.contenttypes import COMMON
from hawthorn.core.quick import dataclass
from hawthorn.operations.release import planning, requested
from hawthorn.operations.runtime.act import Setup, View
from hawthorn.store import entries, moves_ahead
from hawthorn.store.moves import AskedMove
from hawthorn.store.moves_ahead import MoveAhead

_LOOKED_AT = 500
"""So many of the moves that are planned are looked at: those that come first."""


@dataclass(frozen=True, slots=True)
class Lacking:
    """An edition that is planned and lacks something by then."""

    edition: int
    entry: int
    locale: str
    stage: int


def lacking(
    view: View, setup: Setup, concerns: Callable[[AskedMove], bool], *, apart: Collection[str] = ()
) -> list[Lacking]:
    """What is planned and lacks something at its time, by a set-up, that it does not lack by the one in force, `apart` from some
    conditions (their codes): in the dispatches with a move that the change concerns. An edition is named once, and shared fields only
    where nothing is said of a text of theirs."""
    of: dict[int, list[MoveAhead]] = {}
    for move in moves_ahead.soonest(view.conn, _LOOKED_AT):
        of.setdefault(move.dispatch, []).append(move)
    other = View(view.conn, view.identity, view.now, setup)
    stages: dict[int, int] = {}
    for some in of.values():
        if any(map(concerns, some)) and (then := _unmet(other, some, apart)):
            now = {*_unmet(view, some, apart)}
            stages |= {one[0]: one[1] for one in then if one not in now}
    own = entries.of_editions(view.conn, stages)
    found = [Lacking(edition, *own[edition], stage) for edition, stage in stages.items()]
    texts = {one.entry for one in found if one.locale != COMMON}
    return [one for one in found if one.locale != COMMON or one.entry not in texts]


def _unmet(view: View, moves: Sequence[MoveAhead], apart: Collection[str]) -> list[tuple[int, int, str, str]]:
    """What would hold the moves of a dispatch at its time, as they are by then: editions with their stage, codes with where."""
    dispatch, instant = moves[0].dispatch, moves[0].instant
    lines = requested.by_then(view, [requested.line_of(view, move) for move in moves], dispatch)
    planning.plan_lines(view, lines, instant, beside=dispatch)
    return [(x.edition, x.stage, u.code, u.where) for x in lines for u in x.unmet if u.code not in apart]
