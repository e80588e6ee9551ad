"""Lists of dispatches: by when they go, or that wait for somebody, narrowed to what somebody wants to see."""

from __future__ import annotations

from collections.abc import Iterable

from hawthorn.core import dispatch, numbers
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.store import dispatches as store
from hawthorn.store import entries, people
from hawthorn.store.dispatches import Dispatch, Narrowed


def between(
    view: View, start: int, end: int, limit: int, cursor: str = "", narrowed: Narrowed | None = None
) -> tuple[list[Dispatch], str]:
    """Dispatches with an instant in [start, end) all of whose entries may be read, in order of time, after a place in them; and
    where the next page begins."""
    allowed, values = permission.readable_sql(view, "e", "x")
    after = numbers.pair(cursor)
    rows = store.between(view.conn, start, end, limit + 1, allowed, values, after, narrowed)
    last = rows[limit - 1] if len(rows) > limit else None
    return rows[:limit], f"{last.instant}.{last.id}" if last is not None else ""


def waiting(
    view: View, state: str, limit: int, cursor: str = "", narrowed: Narrowed | None = None
) -> tuple[list[Dispatch], str]:
    """Dispatches that are open, held or failed and all of whose entries may be read, newest first; and where the next page
    begins."""
    allowed, values = permission.readable_sql(view, "e", "x")
    before = numbers.whole(cursor) if cursor else None
    rows = store.waiting(view.conn, state, limit + 1, allowed, values, before, narrowed)
    return rows[:limit], str(rows[limit - 1].id) if len(rows) > limit else ""


def narrowed(
    view: View,
    *,
    states: Iterable[str] = (),
    person: str = "",
    type: str = "",
    locale: str = "",
    section: str = "",
    kept: bool = False,
) -> Narrowed:
    """What dispatches are narrowed to: states, who answers for them (a handle), and what any of their moves is about: a type, a
    locale, a section (the UUID of its entry). Raises `Invalid` for what is none; what was `kept` was looked at then, and of what is gone
    meanwhile nothing is found."""
    problems: list[FieldProblem] = []
    owner = people.ever(view.conn, person) if person else None
    if person and owner is None:
        problems.append(FieldProblem("person", said("dispatches.no_such_owner", handle=person)))
    head = entries.even_removed(view.conn, section) if section else None
    if section and (head is None or not view.setup.types[head.type].section):
        problems.append(FieldProblem("section", said("common.no_section", id=section)))
    for name, value, known in (
        ("type", type, [*view.setup.types]),
        ("locale", locale, [*view.setup.locales]),
        *(("state", one, [*dispatch.STATES]) for one in states),
    ):
        if value and value not in known:
            problems.append(FieldProblem(name, said("common.value_none_of", value=value, known=known)))
    if problems and not kept:
        raise Invalid(problems)
    about = (type, locale, head.id if head else None)
    return Narrowed(tuple(states), owner.id if owner else None, *about)
