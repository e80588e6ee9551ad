"""The list of jobs, and what it is narrowed to."""

from __future__ import annotations

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.operations.runtime import seen
from hawthorn.operations.runtime.act import View
from hawthorn.operations.translation import sending
from hawthorn.operations.translation.translation import CLOSED, readable
from hawthorn.store import bureaus, people
from hawthorn.store import job_lists as store
from hawthorn.store.job_lists import STATES, Narrowed
from hawthorn.store.jobs import Job

OPEN = "open"
"""What is asked for in place of a state: whatever is neither accepted nor cancelled."""


def narrowed(
    view: View, *, state: str = "", locale: str = "", bureau: str = "", person: str = ""
) -> Narrowed:
    """What jobs are narrowed to: a state, or all that are open; a target locale; a bureau by its name, also one that has ended; a person who
    translates (a handle). Raises `Invalid` for what is none."""
    problems: list[FieldProblem] = []
    translator = people.ever(view.conn, person) if person else None
    if person and translator is None:
        problems.append(FieldProblem("person", said("dispatches.no_such_owner", handle=person[:80])))
    if bureau and bureaus.named(view.conn, bureau) is None:
        problems.append(sending.no_bureau(bureau[:80], [one.name for one in bureaus.in_use(view.conn)]))
    for name, value, others in (
        ("state", state, [OPEN, *STATES]),
        ("locale", locale, [*view.setup.locales]),
    ):
        if value and value not in others:
            problems.append(FieldProblem(name, said("common.value_none_of", value=value[:80], known=others)))
    if problems:
        raise Invalid(problems)
    open_ones = tuple(one for one in STATES if one not in CLOSED)
    states = open_ones if state == OPEN else (state,) if state else ()
    return Narrowed(states, locale, bureau, translator.id if translator else None)


def listing(
    view: View, limit: int, cursor: str = "", narrowed: Narrowed = Narrowed()
) -> tuple[list[Job], str]:
    """The jobs whose entries may be read, newest first, after a place in them; and where the next page begins."""
    return seen.newest(
        lambda some, before: store.newest(view.conn, some, before, narrowed),
        lambda job: readable(view, job),
        limit,
        cursor,
    )
