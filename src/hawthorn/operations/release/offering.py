"""What whoever looks may do with a dispatch now: by its state, and by what they may do with what it moves. What its gates would still hold is offered:
they say what is missing."""

from __future__ import annotations

from hawthorn.core import access, dispatch
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.release import records, reviewing
from hawthorn.operations.runtime.act import View
from hawthorn.store import moves as store
from hawthorn.store.dispatches import Dispatch


@dataclass(frozen=True, slots=True)
class _Rights:
    """What of a dispatch may be done by right: let it make its moves, undo them, put in and take out, and call it off while it is open."""

    make: bool
    undo: bool
    put: bool
    drop: bool


def acts(view: View, row: Dispatch, *, reviewing_too: bool = True) -> list[str]:
    """What whoever looks may do with a dispatch now, in the order of `dispatch.ACTS`; a list asks for it without those of its review."""
    by_state = dispatch.acts(row.state)
    if not by_state:
        return []
    rights = _rights(view, row)
    still_open = row.state == "open"
    by_right = {
        "change": rights.put,
        "plan": rights.make,
        "replan": rights.make,
        "send": rights.make,
        "reopen": rights.make,
        "cancel": rights.drop if still_open else rights.make,
        "describe": rights.put if still_open else rights.make,
        "undo": rights.undo,
    }
    out = [act for act in by_state if by_right.get(act)]
    return out + reviewing.acts(view, row) if reviewing_too and "review" in by_state else out


def _rights(view: View, row: Dispatch) -> _Rights:
    if access.may_all(view.identity, "release", "write", "submit") and not view.setup.some_read_only:
        return _Rights(make=True, undo=True, put=True, drop=True)
    kinds = store.kinds(view.conn, row.id)
    writes = permission.may_somewhere(view, "write")
    return _Rights(
        make=all(records.may(view, records.asked(one), one) for one in kinds)
        if kinds
        else permission.may_somewhere(view, "release"),
        undo=all(records.may(view, "release", one) for one in kinds),
        put=writes,
        drop=writes and all(records.may_put(view, one) for one in kinds),
    )
