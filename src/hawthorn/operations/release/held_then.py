"""What is planned that another set-up would hold: said before that is in force."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

from hawthorn.core.contenttypes import COMMON
from hawthorn.core.quick import dataclass
from hawthorn.operations.release import planning, requested
from hawthorn.operations.release.lines import Line
from hawthorn.operations.runtime.act import Setup, View
from hawthorn.store import entries, moves_ahead
from hawthorn.store.moves import AskedMove
from hawthorn.store.moves_ahead import MoveAhead

_LOOKED_AT = 1000
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
    lines: dict[int, Line] = {}
    for some in of.values():
        if any(map(concerns, some)):
            now = _unmet(view, some)
            for edition, (line, then) in _unmet(other, some).items():
                was = now[edition][1] if edition in now else set()
                if any(one not in was and one[0] not in apart for one in then):
                    lines.setdefault(edition, line)
    own = entries.of_editions(view.conn, [*lines])
    found = [Lacking(n, *own[n], line.stage) for n, line in lines.items()]
    texts = {one.entry for one in found if one.locale != COMMON}
    return [one for one in found if one.locale != COMMON or one.entry not in texts]


def _unmet(view: View, moves: Sequence[MoveAhead]) -> dict[int, tuple[Line, set[tuple[str, str]]]]:
    """The lines of a dispatch as they are by its time, by edition, each with what would hold it then: codes with where."""
    dispatch, instant = moves[0].dispatch, moves[0].instant
    lines = requested.by_then(view, [requested.line_of(view, move) for move in moves], dispatch)
    planning.plan_lines(view, lines, instant, beside=dispatch)
    return {x.edition: (x, {(u.code, u.where) for u in x.unmet}) for x in lines}
