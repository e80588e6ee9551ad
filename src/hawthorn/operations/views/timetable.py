"""What the timetable shows beside dispatches: what is due, and when nothing goes out; and all of it as a calendar has it."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import field
from datetime import timedelta
from typing import Any

from hawthorn.core import timeline
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.quiet import QuietPeriod
from hawthorn.operations.access import permission
from hawthorn.operations.release import listing
from hawthorn.operations.runtime.act import View
from hawthorn.operations.translation import translation
from hawthorn.store import assignments, job_lists, people, quiet_periods
from hawthorn.store import moves as move_store
from hawthorn.store.dispatches import Dispatch

KINDS = ("dispatches", "assignments", "jobs", "quiet periods")
"""What a calendar can show."""
MOST = 2_000
"""So many of each kind are shown."""
_NAMED = 20
_EPOCH = timeline.parse_instant("2025-01-01T00:00:00Z")
BEFORE, AFTER = timedelta(days=120), timedelta(days=730)
"""How far a calendar goes back and ahead."""


@dataclass(frozen=True, slots=True)
class Shows:
    """What a calendar shows: kinds, and of dispatches and what is due only what a person answers for or holds, or is about a type, a
    locale or a section."""

    kinds: tuple[str, ...] = KINDS
    person: str = ""
    type: str = ""
    locale: str = ""
    section: str = ""
    states: tuple[str, ...] = ()

    @classmethod
    def of(cls, kept: Mapping[str, Any]) -> Shows:
        """The same from how it is kept or asked for."""
        lists = {name: tuple(kept[name]) for name in ("kinds", "states") if name in kept}
        return cls(**{**{k: v for k, v in kept.items() if k in cls.__dataclass_fields__}, **lists})

    @property
    def about(self) -> dict[str, str]:
        """What it is narrowed to besides kinds and states."""
        return {"person": self.person, "type": self.type, "locale": self.locale, "section": self.section}


@dataclass(frozen=True, slots=True)
class Due:
    """Something that is due on a day: an assignment or a job."""

    kind: str
    id: str
    title: str
    day: str
    locale: str
    type: str
    person: str
    path: str
    state: str
    changed_at: int


@dataclass(frozen=True, slots=True)
class Item:
    """One thing of a calendar: an instant, a day, or a quiet period, with how often it has changed."""

    uid: str
    name: str
    path: str
    status: str
    sequence: int
    changed_at: int
    instant: int | None = None
    day: str = ""
    quiet: QuietPeriod | None = None
    about: str = ""
    titles: tuple[str, ...] = field(default=())


def due(
    view: View,
    first: str,
    last: str,
    *,
    person: str = "",
    type: str = "",
    locale: str = "",
    section: str = "",
    kinds: Iterable[str] = ("assignments", "jobs"),
    kept: bool = False,
) -> list[Due]:
    """What is due from one day until before another, of what may be read, in order: assignments and translation jobs."""
    only = listing.narrowed(view, person=person, type=type, locale=locale, section=section, kept=kept)
    holder = people.ever(view.conn, person) if person else None
    found: list[Due] = []
    if "assignments" in kinds:
        for a in assignments.due_between(view.conn, first, last, holder.id if holder else None, MOST):
            fits = (not type or a.type == type) and (not locale or a.locale == locale)
            inside = only.section is None or only.section in permission.around(view, a.entry, a.section)
            if fits and inside and permission.readable_id(view, a.entry, a.locale):
                title = permission.title(view, a.entry, a.locale)
                about = (a.locale, a.type, a.holder_name, f"/entries/{a.entry_uuid}/{a.locale}")
                found.append(Due("assignment", a.uuid, title, a.due, *about, "", a.at))
    if "jobs" in kinds and not (type or section):
        for j in job_lists.due_between(view.conn, first, last, holder.id if holder else None, MOST):
            if (not locale or j.locale == locale) and translation.readable(view, j):
                about = (j.locale, "", j.bureau_name or j.translator_name or "", f"/translation/{j.uuid}")
                found.append(Due("job", j.uuid, j.name, j.due, *about, j.state, j.changed_at))
    return sorted(found, key=lambda d: (d.day, d.kind, d.title, d.id))


def checked(view: View, shows: Shows) -> Shows:
    """What a calendar is to show, with what is none refused by name."""
    problems = [
        FieldProblem("kinds", said("common.value_none_of", value=one, known=list(KINDS)))
        for one in shows.kinds
        if one not in KINDS
    ]
    if not shows.kinds:
        problems.append(FieldProblem("kinds", said("common.missing")))
    if problems:
        raise Invalid(problems)
    listing.narrowed(view, states=shows.states, kept=False, **shows.about)
    return shows


def items(view: View, shows: Shows) -> list[Item]:
    """All that a calendar shows now, of what its owner may read: from some months ago to two years ahead."""
    day = timedelta(days=1)
    now = timeline.to_datetime(view.now)
    first, last = now - BEFORE, now + AFTER
    out: list[Item] = []
    if "dispatches" in shows.kinds:
        only = listing.narrowed(view, states=shows.states, kept=True, **shows.about)
        span = (timeline.from_datetime(first), timeline.from_datetime(last))
        rows, _ = listing.between(view, *span, MOST, "", only)
        out += [_dispatch(view, row) for row in rows]
    wanted = [kind for kind in ("assignments", "jobs") if kind in shows.kinds]
    if wanted:
        days = (f"{first - day:%Y-%m-%d}", f"{last + day:%Y-%m-%d}")
        out += [_due(view, one) for one in due(view, *days, kinds=wanted, kept=True, **shows.about)]
    if "quiet periods" in shows.kinds:
        out += _quiet(view, timeline.from_datetime(first))
    return out


_STATUS = {
    "open": "TENTATIVE",
    "held": "TENTATIVE",
    "failed": "TENTATIVE",
    "undone": "CANCELLED",
    "cancelled": "CANCELLED",
}


def _dispatch(view: View, row: Dispatch) -> Item:
    moves = move_store.moves(view.conn, row.id, _NAMED)
    titles = dict.fromkeys(permission.title(view, m.entry, m.locale) for m in moves)
    status = _STATUS.get(row.state, "CONFIRMED")
    return Item(
        f"dispatch-{row.uuid}",
        row.name,
        f"/timetable/{row.uuid}",
        status,
        row.sequence,
        row.changed_at,
        instant=row.at,
        about=view.say(f"dispatches.state.{row.state}"),
        titles=tuple(t or view.say("common.untitled") for t in titles),
    )


def _due(view: View, one: Due) -> Item:
    code = "calendars.assignment_due" if one.kind == "assignment" else "calendars.job_due"
    name = view.say(code, title=one.title or view.say("common.untitled"), locale=one.locale)
    # A day that changes is another assignment; how far a job is changes it too.
    return Item(
        f"{one.kind}-{one.id}",
        name,
        one.path,
        "CONFIRMED",
        (one.changed_at - _EPOCH) // timeline.SECOND,
        one.changed_at,
        day=one.day,
        about=one.person,
    )


def _quiet(view: View, since: int) -> Iterator[Item]:
    for kept, status in (
        *((one, "CONFIRMED") for one in quiet_periods.every(view.conn)),
        *((one, "CANCELLED") for one in quiet_periods.ended_since(view.conn, since)),
    ):
        name = view.say("calendars.quiet", reason=kept.reason)
        about = (f"quiet-{kept.uuid}", name, "/set-up/quiet-periods", status, kept.sequence, kept.changed_at)
        yield Item(*about, quiet=kept.period)


def kept(shows: Shows) -> str:
    """What a calendar shows, as it is kept."""
    return json.dumps({name: getattr(shows, name) for name in Shows.__dataclass_fields__})
