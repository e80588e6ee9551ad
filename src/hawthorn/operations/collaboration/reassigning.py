"""What somebody has to do, and giving it to somebody else: before they leave, after they left, or while they are away."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from hawthorn.core import timeline
from hawthorn.core.access import Subject
from hawthorn.core.errors import HawthornError, InTheWay, NotFound
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import permission
from hawthorn.operations.collaboration import assignments
from hawthorn.operations.release import gathering
from hawthorn.operations.release.records import About
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import assigning, commissions, translation
from hawthorn.operations.translation.sending import Doer
from hawthorn.store import assignments as assignment_store
from hawthorn.store import commissions as commission_store
from hawthorn.store import dispatches, job_lists, people
from hawthorn.store import standing_commissions as standing_store
from hawthorn.store.people import Actor


@dataclass(frozen=True, slots=True)
class Task:
    """Something that somebody has to do, or answers for; `may_move` where it can be given to somebody else from here. A gate is named that
    nobody but them is named at."""

    kind: str
    id: str
    locale: str
    name: str
    due: str
    may_move: bool


@dataclass(frozen=True, slots=True)
class Left:
    """What could not be given to somebody else, and why."""

    task: Task
    why: str


@dataclass(frozen=True, slots=True)
class Reassigned:
    """How much was given to somebody else, and what was not."""

    moved: int
    left: list[Left]


def tasks(view: View, handle: str) -> list[Task]:
    """What somebody has to do, also one who has left: what is assigned to them, jobs that they translate, dispatches that they answer for,
    commissions that they collect, what goes for translation in their name, and gates at which nobody else is named."""
    permission.require(view, "configure", Subject())
    return list(_tasks(view, _somebody(view, handle)))


def reassign(act: Act, handle: str, to: str) -> Reassigned:
    """Give somebody else what a person has to do, each as if it were given by itself: what the other may not do, or whoever acts may not give,
    stays and is named with its reason. Raises `InTheWay` where both are the same."""
    permission.require(act, "configure", Subject())
    who, other = _somebody(act, handle), people.by_handle(act.conn, to)
    if other is None or other.kind != "person":
        raise NotFound("common.nobody", handle=to)
    if other.id == who.id:
        raise InTheWay("reassigning.the_same", name=who.name)
    moved, left = 0, []
    for task in [one for one in _tasks(act, who) if one.may_move]:
        try:
            with act.trying():
                _MOVES[task.kind](act, task, other)
            moved += 1
        except HawthornError as error:
            left.append(Left(task, act.say(error.message)))
    return Reassigned(moved, left)


def _somebody(view: View, handle: str) -> Actor:
    row = people.ever(view.conn, handle)
    if row is None or row.kind != "person":
        raise NotFound("common.nobody", handle=handle)
    return row


def _tasks(view: View, who: Actor) -> Iterator[Task]:
    untitled = view.say("common.untitled")
    for given in assignment_store.assigned_to(view.conn, who.id):
        title = permission.title(view, given.entry) or untitled
        yield Task("assignment", given.entry_uuid, given.locale, title, given.due, may_move=True)
    for job in job_lists.of_translator(view.conn, who.id):
        name = job.name if translation.readable(view, job) else untitled
        yield Task("job", job.uuid, job.locale, name, job.due, may_move=True)
    for row in dispatches.answered_for_by(view.conn, who.id):
        name = row.name if permission.whole(view, row.id) else untitled
        due = timeline.iso(row.instant) if row.instant is not None else ""
        yield Task("dispatch", row.uuid, "", name, due, may_move=True)
    for open_one in commission_store.collected_by(view.conn, who.id):
        yield Task("commission", open_one.uuid, "", open_one.name, open_one.due, may_move=True)
    for standing in standing_store.every(view.conn):
        if standing.actor == who.id and standing.state == "on":
            yield Task("standing-commission", standing.uuid, "", standing.name, "", may_move=False)
    for workflow in view.setup.workflows.values():
        for stage in workflow.stages:
            if stage.gate.people == (who.handle,) and not stage.gate.roles:
                name = view.say("reassigning.gate", workflow=workflow.label, stage=stage.label)
                yield Task("gate", workflow.name, "", name, "", may_move=False)


def _assignment(act: Act, task: Task, to: Actor) -> None:
    entry = permission.find(act, task.id, task.locale)
    have = assignment_store.current(act.conn, entry.id, task.locale)
    note = have.note if have is not None else ""
    assignments.assign(act, task.id, task.locale, to.handle, task.due, note)


def _job(act: Act, task: Task, to: Actor) -> None:
    assigning.assign(act, task.id, Doer(person=to.handle))


def _dispatch(act: Act, task: Task, to: Actor) -> None:
    gathering.describe(act, task.id, About(owner=to.handle))


def _commission(act: Act, task: Task, to: Actor) -> None:
    commissions.give(act, task.id, to.id)


_MOVES: Mapping[str, Callable[[Act, Task, Actor], None]] = {
    "assignment": _assignment,
    "job": _job,
    "dispatch": _dispatch,
    "commission": _commission,
}
