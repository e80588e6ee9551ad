"""My work: what waits for somebody, what is theirs, what they wait for, and what goes out next."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import islice
from typing import TypedDict

from hawthorn.core import access, timeline
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.collaboration import assignments
from hawthorn.operations.release import deciding, listing, reviewing, workflows
from hawthorn.operations.runtime.act import View
from hawthorn.operations.search import finding
from hawthorn.operations.translation import translation
from hawthorn.operations.views import show_dispatches, show_lines
from hawthorn.operations.views.show_dispatches import DispatchShown
from hawthorn.operations.views.show_lines import EntryLine
from hawthorn.store import assignments as assigned
from hawthorn.store import (
    comments,
    dispatch_reviews,
    dispatches,
    entries,
    job_lists,
    jobs,
    people,
    reviews,
    short,
)
from hawthorn.store import moves as move_store
from hawthorn.store.assignments import Assignment
from hawthorn.store.comments import DispatchMention, Mention
from hawthorn.store.dispatch_reviews import DispatchReview
from hawthorn.store.dispatches import Dispatch
from hawthorn.store.jobs import Job
from hawthorn.store.people import HoldingOf
from hawthorn.store.reviews import SubmissionLine

MOST = 200
"""So many things of a kind are listed."""
_LOOKED_AT = 1_000
"""So many are looked at for that, where what somebody may do with each is asked of it."""


class WorkLine(TypedDict):
    """Something that waits for somebody; what its kind has no use for is empty."""

    id: str
    short: str
    kind: str
    locale: str
    title: str
    type: str
    revision: int
    stage: str
    by: str
    at: str
    note: str
    who: list[str]
    job: str
    comment: str
    due: str
    state: str


class MyWork(TypedDict):
    """What waits for somebody, what they were assigned and assigned to others, what is theirs, what they wait for, and what goes out next."""

    waiting: list[WorkLine]
    assigned_to_you: list[WorkLine]
    assigned_to_others: list[WorkLine]
    yours: list[EntryLine]
    you_wait_for: list[WorkLine]
    next_out: list[DispatchShown]


def my_work(view: View) -> MyWork:
    """What waits for somebody, what is theirs, what they wait for, and what goes out next."""
    waiting = [_work_line(view, row, "review") for row in islice(_to_review(view), MOST)]
    wait_for = [
        _work_line(view, row, "review", [d.name for d in _deciders(view, row)])
        for row in reviews.waiting_of(view.conn, view.identity.id)[:MOST]
        if _readable(view, row)
    ]
    for asked in dispatch_reviews.waiting(view.conn, _LOOKED_AT):
        if not permission.whole(view, asked.dispatch):
            continue
        row = dispatches.by_id(view.conn, asked.dispatch)
        who = reviewing.deciders(view, row, reviewing.reviewed(view, row)[: reviewing.TOLD])
        if asked.actor == view.identity.id:
            names = [_name(view, actor) for actor in sorted(who)]
            wait_for.append(_dispatch_line(view, row, asked, names))
        elif view.identity.id in who:
            waiting.append(_dispatch_line(view, row, asked))
    waiting += [_work_line(view, row, "ready") for row in islice(_to_release(view), MOST)]
    sent_back = [
        _work_line(view, row, "sent back")
        for row in reviews.sent_back_to(view.conn, view.identity.id)
        if _readable(view, row)
    ]
    returned = [
        _line(
            view,
            "translation",
            next((part.uuid for part in jobs.entries(view.conn, job.id)), ""),
            job.locale,
            job.name,
            by=job.bureau_name or "",
            at=iso(job.changed_at),
            note=_choices(view, jobs.conflicts(view.conn, job.uuid)),
            job=job.uuid,
            due=job.due,
        )
        for job in islice(_to_accept(view), MOST)
    ]
    to_translate = [
        _line(
            view,
            "to translate",
            next((part.uuid for part in jobs.entries(view.conn, job.id)), ""),
            job.locale,
            job.name,
            by=job.by_name,
            at=iso(job.created_at),
            note=job.note,
            job=job.uuid,
            due=job.due,
        )
        for job in islice(_to_translate(view), MOST)
    ]
    named = [
        _named_line(view, row)
        for row in comments.mentioning(view.conn, view.identity.id)
        if _readable(view, row)
    ]
    of_dispatches = comments.mentioning_of_dispatches(view.conn, view.identity.id)
    seen = permission.whole_among(view, {row.dispatch for row in of_dispatches})
    named += [_named_in_dispatch(view, row) for row in of_dispatches if row.dispatch in seen]
    mine, given = (
        [_assigned_line(view, row) for row in some(view.conn, view.identity.id) if _spoken(view, row.locale)]
        for some in (assigned.assigned_to, assigned.assigned_by)
    )
    yours, _ = finding.listing(view, finding.Query(person=view.identity.handle), limit=20)
    horizon = view.now + 48 * 3600 * timeline.SECOND
    ahead = [
        show_dispatches.dispatch(view, row, whole=False)
        for row in listing.between(view, view.now, horizon, 50)[0]
        if row.state == "planned"
    ]
    return {
        "waiting": sent_back + named + waiting + to_translate + returned,
        "assigned_to_you": mine,
        "assigned_to_others": given,
        "yours": show_lines.lines(view, yours),
        "you_wait_for": wait_for,
        "next_out": ahead,
    }


def _to_review(view: View) -> Iterator[SubmissionLine]:
    """The submissions of others that wait for a sign-off by whoever looks, oldest first."""
    for row in reviews.all_waiting(view.conn, *permission.granted_sql(view, "sign")):
        about = permission.subject(view, row, row.locale, row.stage_name)
        if (
            row.actor != view.identity.id
            and permission.may(view, "sign", about)
            and _readable(view, row)
            and _waits_for_me(view, row)
        ):
            yield row


def _to_release(view: View) -> Iterator[SubmissionLine]:
    """What is signed off, can be released by whoever looks, and is not planned."""
    ready = reviews.ready(view.conn, *permission.granted_sql(view, "release"))
    planned = {p.edition for p in move_store.planned_for(view.conn, [r.edition for r in ready])}
    for row in ready:
        about = permission.subject(view, row, row.locale, "release")
        if row.edition not in planned and permission.may(view, "release", about) and _readable(view, row):
            yield row


def _to_translate(view: View) -> Iterator[Job]:
    """Jobs that are for whoever looks to translate: by name, or as one of those who are there for that language."""
    for job in job_lists.by_hand(view.conn, view.identity.id, _written_in_particular(view), _LOOKED_AT):
        mine = job.translator == view.identity.id
        if (mine or _writes_in_particular(view, job)) and translation.readable(view, job):
            yield job


def _to_accept(view: View) -> Iterator[Job]:
    """Jobs that returned and that whoever looks may accept."""
    mine = [g.locales for _, g in view.identity.grants if g.verb == "accept"]
    locales = [tag for tag in view.setup.locales if any(tag in some or not some for some in mine)]
    return (
        job
        for job in job_lists.all_returned(view.conn, locales, _LOOKED_AT)
        if translation.may_job(view, "accept", job) and translation.readable(view, job)
    )


def _written_in_particular(view: View) -> list[str]:
    """The locales that somebody's right to write is limited to."""
    return sorted({tag for _, g in view.identity.grants if g.verb == "write" for tag in g.locales})


def _writes_in_particular(view: View, job: Job) -> bool:
    """Whether somebody is there to write just that language, and may write what is in the job: a translator of it."""
    parts = jobs.entries(view.conn, job.id)
    found = [access.allowing(view.identity, "write", permission.subject(view, p, job.locale)) for p in parts]
    return bool(found) and all(one is not None and one[1].locales for one in found)


def _line(
    view: View,
    kind: str,
    id: str,
    locale: str,
    title: str,
    *,
    type: str = "",
    revision: int = 0,
    stage: str = "",
    by: str = "",
    at: str = "",
    note: str = "",
    who: Sequence[str] = (),
    job: str = "",
    comment: str = "",
    due: str = "",
    state: str = "",
) -> WorkLine:
    """A line of somebody's work."""
    return {
        "id": id,
        "short": short.of(view.conn, "entry", id) if type else "",
        "kind": kind,
        "locale": locale,
        "title": title or view.say("common.untitled"),
        "type": view.setup.type(type).label if type else "",
        "revision": revision,
        "stage": stage,
        "by": by,
        "at": at,
        "note": note,
        "who": [*who],
        "job": job,
        "comment": comment,
        "due": due,
        "state": state,
    }


def _work_line(view: View, row: SubmissionLine, kind: str, who: Sequence[str] = ()) -> WorkLine:
    back = kind == "sent back"
    return _line(
        view,
        kind,
        row.uuid,
        row.locale,
        row.title,
        type=row.type,
        revision=row.number,
        stage=row.stage_name,
        by=(row.decided_name or "") if back else row.by_name,
        at=iso(row.decided_at if back else row.at),
        note=row.reason if back else row.note,
        who=who,
    )


def _dispatch_line(view: View, row: Dispatch, asked: DispatchReview, who: Sequence[str] = ()) -> WorkLine:
    at = iso(asked.at)
    return _line(view, "dispatch", row.uuid, "", row.name, by=asked.by_name, at=at, note=asked.note, who=who)


def _name(view: View, actor: int) -> str:
    row = people.actor(view.conn, actor)
    return row.name if row is not None else ""


def _deciders(view: View, row: SubmissionLine) -> list[HoldingOf]:
    """Whose sign-off what waits needs."""
    entry = entries.entry_by_id(view.conn, row.entry)
    edition = entries.edition(view.conn, row.entry, row.locale)
    assert edition is not None
    flow = workflows.of(view, entry, row.locale)
    return deciding.deciders(view, entry, flow, row.stage_name, deciding.pairs(view, row.entry, edition, row))


def _waits_for_me(view: View, row: SubmissionLine) -> bool:
    """Whether the gate after where something waits would count a sign-off by whoever looks, and has none of them yet."""
    flow = workflows.of(view, entries.entry_by_id(view.conn, row.entry), row.locale)
    goal = flow.after(row.stage_name) if row.stage_name in [s.name for s in flow.stages] else None
    edition = entries.edition(view.conn, row.entry, row.locale)
    if goal is None or edition is None:
        return False
    return deciding.waits_for(view, goal, deciding.pairs(view, row.entry, edition, row))


def _readable(view: View, row: SubmissionLine | Mention) -> bool:
    return _spoken(view, row.locale) and permission.readable(view, row, row.locale)


def _spoken(view: View, locale: str) -> bool:
    """Whether a locale is one of the house; what is in one that ended is there again when that comes back."""
    return locale == COMMON or locale in view.setup.locales


def _named_line(view: View, row: Mention) -> WorkLine:
    entry = entries.entry_by_id(view.conn, row.entry)
    locale = permission.first_locale(view, entry) if row.locale == COMMON else row.locale
    return _line(
        view,
        "named",
        row.entry_uuid,
        locale,
        permission.title(view, row.entry, locale),
        type=row.type,
        by=row.name,
        at=iso(row.named_at),
        note=row.text,
        comment=row.uuid,
    )


def _named_in_dispatch(view: View, row: DispatchMention) -> WorkLine:
    return _line(
        view,
        "named",
        row.dispatch_uuid,
        "",
        row.dispatch_name,
        by=row.name,
        at=iso(row.named_at),
        note=row.text,
        comment=row.uuid,
    )


def _assigned_line(view: View, row: Assignment) -> WorkLine:
    return _line(
        view,
        "assigned",
        row.entry_uuid,
        row.locale,
        permission.title(view, row.entry, row.locale),
        type=row.type,
        by=row.by_name,
        at=iso(row.at),
        note=row.note,
        who=[row.holder_name],
        due=row.due,
        state=assignments.state_of(view, row),
    )


def _choices(view: View, conflicts: int) -> str:
    return view.say("my_work.choices", count=conflicts) if conflicts else ""
