"""A dispatch as it is kept: found, added, and what may be done with it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hawthorn.core import dispatch, moves, naming
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import PlannedTime
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import dispatches as store
from hawthorn.store import entries, people
from hawthorn.store import moves as move_store
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.moves import MovedKind


@dataclass(frozen=True, slots=True)
class About:
    """What a dispatch is called, why it is, who answers for it (a handle), and whether what cannot go holds back the rest; None
    leaves it as it is."""

    name: str | None = None
    note: str | None = None
    owner: str | None = None
    partial: bool | None = None


def find(view: View, uuid: str) -> Dispatch:
    """A dispatch all of whose entries may be read; raises `NotFound`."""
    row = store.by_uuid(view.conn, uuid)
    if row is None or not permission.whole(view, row.id):
        raise NotFound("dispatches.not_there", id=uuid)
    return row


def hides(view: View, condition: Mapping[str, Any]) -> bool:
    """Whether a condition that was not met (`lines.UnmetAhead`) says something of an entry that may not be read."""
    row = entries.entry(view.conn, str(condition.get("where", "")))
    return row is not None and not permission.readable(view, row)


def added(act: Act, state: str, when: PlannedTime | None, about: About) -> tuple[str, int]:
    """Add a dispatch without moves, by a name that was looked at; returns its UUID and its number."""
    note = naming.note("note", about.note or "")
    owner = person(act, about.owner) if about.owner else None
    uuid = new_uuid(act.now)
    made = store.add(
        act.conn,
        uuid,
        about.name or "",
        state,
        when,
        note,
        act.now,
        act.identity.id,
        owner=owner,
        partial=bool(about.partial),
    )
    return uuid, made


def require_release(act: Act, row: Dispatch) -> None:
    """Refuse whoever may not release what a dispatch moves."""
    for one in move_store.kinds(act.conn, row.id):
        permission.require(act, "release", _subject(act, one))


def require_making(act: Act, row: Dispatch) -> None:
    """Refuse whoever could not have a dispatch make its moves: each verb asks for a grant of its own."""
    for one in move_store.kinds(act.conn, row.id):
        permission.require(act, asked(one), _subject(act, one))


def require_putting(act: Act, row: Dispatch) -> None:
    """Refuse whoever could not have put in what a dispatch moves: who may release it, or write it, may."""
    for one in move_store.kinds(act.conn, row.id):
        if not may_put(act, one):
            permission.require(act, "write", permission.subject(act, one, one.locale))


def asked(one: MovedKind) -> str:
    """The verb of the grant that moves ask for."""
    return moves.of(one.verb).asks(bool(one.stood))


def may(view: View, verb: str, one: MovedKind) -> bool:
    """Whether whoever looks holds a grant for what some moves go to."""
    return permission.may(view, verb, _subject(view, one))


def may_put(view: View, one: MovedKind) -> bool:
    """Whether whoever looks may put in, and take out, what some moves go to."""
    return may(view, "release", one) or permission.may(
        view, "write", permission.subject(view, one, one.locale)
    )


def _subject(view: View, one: MovedKind) -> Subject:
    return permission.subject(view, one, one.locale, one.stage_name)


def require_state(row: Dispatch, what: str) -> None:
    """Raise `InTheWay` where something may not be done with a dispatch in its state, with what may."""
    if row.state not in dispatch.ACTS[what]:
        may = [said(f"dispatches.may.{one}") for one in dispatch.acts(row.state) or ["nothing"]]
        raise InTheWay(f"dispatches.not_now.{what}", state=said(f"dispatches.state.{row.state}"), may=may)


def person(view: View, handle: str) -> int:
    row = people.by_handle(view.conn, handle)
    if row is None or row.kind != "person" or row.ended_at is not None:
        raise Invalid([FieldProblem("owner", said("dispatches.no_such_owner", handle=handle))])
    return row.id
