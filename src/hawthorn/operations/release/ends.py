"""What must not be out without an end: the last one that is planned for it is not called off."""

from __future__ import annotations

from collections.abc import Collection

from hawthorn.core import moves
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import InTheWay
from hawthorn.core.messages import said
from hawthorn.operations.release import workflows
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, gates, standings
from hawthorn.store import moves as move_store
from hawthorn.store.moves import AskedMove
from hawthorn.store.standings import RELEASE


def require_another(view: View, dispatch: int, editions: Collection[int] | None = None) -> None:
    """Refuse to call a dispatch off, or what it does with some editions, where something leaves by it that is out, has to have an end,
    and has no other."""
    leaving = {
        m.edition: m
        for m in move_store.asked(view.conn, dispatch)
        if m.verb in moves.LEAVING and m.locale != COMMON and (editions is None or m.edition in editions)
    }
    out = standings.at_stage(view.conn, [*leaving], RELEASE)
    ending = gates.moved_after(view.conn, [*leaving], moves.LEAVING, view.now, beside=dispatch)
    for edition, move in leaving.items():
        if edition in out and edition not in ending and _has_to_end(view, move):
            raise InTheWay("dispatches.last_end", entry=move.title or said("common.untitled"))


def _has_to_end(view: View, move: AskedMove) -> bool:
    """Whether the policy of its type, or the gate before release, asks for an end."""
    if view.setup.type(move.type).policy.needs_end:
        return True
    flow = workflows.of(view, entries.entry_by_id(view.conn, move.entry), move.locale)
    return "end" in flow.last.gate.checks
