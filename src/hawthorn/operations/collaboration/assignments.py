"""Assignments: to whom an edition is assigned, and until when."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any, TypedDict

from hawthorn.core import naming, timeline
from hawthorn.core.errors import InTheWay, NotFound, Refused
from hawthorn.core.messages import said
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.release import drafts
from hawthorn.operations.runtime import days
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import assignments as store
from hawthorn.store import entries, people
from hawthorn.store.assignments import Assignment
from hawthorn.store.entries import Entry

WORK = ("write", "sign", "release", "accept", "commission", "submit")
"""Verbs of which somebody needs one to be assigned an edition; who assigns it needs one of the first five."""


def assign(act: Act, uuid: str, locale: str, handle: str, due: str = "", note: str = "") -> None:
    """Assign an edition to somebody, with a day by which it is due; whoever had it has it no more."""
    tag = act.setup.locale(locale)
    entry = permission.find(act, uuid, tag)
    about = permission.subject(act, entry, tag)
    note = naming.note("note", note)
    if not any(permission.may(act, verb, about) for verb in WORK[:5]):
        raise permission.refusal(act, "write", about)
    drafts.require_at_work(entry)
    before = store.current(act.conn, entry.id, tag)
    if before is None or due != before.due:
        days.require_to_come(act, due, said("assignments.no_day", text=due))
    row = people.by_handle(act.conn, handle)
    if row is None or row.kind not in ("person", "assistant"):
        raise NotFound("common.nobody", handle=handle)
    theirs = permission.seen_by(act, row.id)
    their_subject = permission.subject(theirs, entry, tag)
    if not (
        permission.may(theirs, "read", their_subject)
        and any(permission.may(theirs, verb, their_subject) for verb in WORK)
    ):
        could = permission.holders(act, "write", about)
        raise Refused(
            "assignments.could_do_nothing" if could else "assignments.nobody_could",
            name=row.name,
            missing="write",
            who=could,
        )
    if before is not None:
        same = before.holder == row.id and (before.due, before.note) == (due, note)
        if same:
            raise InTheWay("assignments.has_it", name=row.name)
        store.end(act.conn, before.id, act.identity.id, act.now, "reassigned")
    id = new_uuid(act.now)
    store.add(act.conn, id, entry.id, tag, row.id, act.identity.id, act.now, due, note.strip())
    act.event(
        "assignment.made",
        [entry.id],
        {
            **_payload(act, entry, tag, due, note),
            "holder": row.id,
            "to": row.name,
            "from": before.holder if before else None,
        },
    )


def end(act: Act, uuid: str, locale: str, done: bool) -> None:
    """Say that an assignment is done, or that it is not needed any more."""
    tag = act.setup.locale(locale)
    entry = permission.find(act, uuid, tag)
    row = store.current(act.conn, entry.id, tag)
    if row is None:
        raise InTheWay("assignments.nobodys")
    about = permission.subject(act, entry, tag)
    if act.identity.id not in (row.holder, row.actor) and not any(
        permission.may(act, verb, about) for verb in WORK[:5]
    ):
        raise permission.refusal(act, "write", about)
    outcome = "done" if done else "dropped"
    store.end(act.conn, row.id, act.identity.id, act.now, outcome)
    act.event(
        "assignment.ended",
        [entry.id],
        {
            **_payload(act, entry, tag, row.due, row.note),
            "outcome": outcome,
            "holder": row.holder,
            "giver": row.actor,
        },
    )


def remind(act: Act) -> int:
    """Put into the log what is due within a day, and what is late, once each; returns how many."""
    count = 0
    for row, what in _to_tell(act):
        store.told(act.conn, row.id, what)
        entry = entries.entry_by_id(act.conn, row.entry)
        payload = _payload(act, entry, row.locale, row.due, row.note)
        act.event(f"assignment.{what}", [row.entry], {**payload, "holder": row.holder, "giver": row.actor})
        count += 1
    return count


def something_to_tell(view: View) -> bool:
    """Whether somebody has to be reminded."""
    return bool(_to_tell(view))


def _to_tell(view: View) -> list[tuple[Assignment, str]]:
    horizon = (timeline.to_datetime(view.now).date() + timedelta(days=2)).isoformat()
    out = []
    for row in store.due_by(view.conn, horizon):
        state = state_of(view, row) if row.locale in view.setup.locales else ""
        if state != row.told and state:
            out.append((row, state))
    return out


def state_of(view: View, row: Assignment) -> str:
    """“late” after the day that it is due, “due” on it and the day before, in its holder's zone; else nothing."""
    if not row.due:
        return ""
    today = timeline.wall_at(view.now, row.holder_zone).date()
    left = (date.fromisoformat(row.due) - today).days
    return "late" if left < 0 else "due" if left <= 1 else ""


class AssignmentShown(TypedDict):
    """An assignment as its entry shows it: who has it, by name and handle, who gave it, when, until which day, how late that is
    (`state_of`), and a note."""

    holder: str
    handle: str
    by: str
    at: str
    due: str
    state: str
    note: str


def shown(view: View, row: Assignment | None) -> AssignmentShown | None:
    """An assignment as its entry shows it."""
    if row is None:
        return None
    return {
        "holder": row.holder_name,
        "handle": row.holder_handle,
        "by": row.by_name,
        "at": iso(row.at),
        "due": row.due,
        "state": state_of(view, row),
        "note": row.note,
    }


def _payload(act: Act, entry: Entry, locale: str, due: str, note: str) -> dict[str, Any]:
    return {
        "entry": entry.uuid,
        "locale": locale,
        "title": entries.title(act.conn, entry.id, locale) or act.keep("common.untitled"),
        "due": due,
        "note": note,
    }
