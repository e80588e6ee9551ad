"""Jobs and commissions as those who work with them see them."""

from __future__ import annotations

from dataclasses import asdict
from typing import TypedDict

from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.access.permission import Named
from hawthorn.operations.runtime.act import View
from hawthorn.operations.translation import (
    assigning,
    cancelling,
    commissions,
    own_files,
    questions,
    sending,
    shown,
    table,
    translation,
)
from hawthorn.operations.translation.commissions import CommissionLine, EntryShown, TargetShown
from hawthorn.operations.translation.own_files import OwnFile
from hawthorn.operations.translation.questions import QuestionShown
from hawthorn.operations.translation.sending import Translator
from hawthorn.operations.translation.shown import UnitShown
from hawthorn.store import jobs, short
from hawthorn.store.jobs import Job


class JobLine(TypedDict):
    """A job as a list shows it; percent is of its units, and words are the source's."""

    id: str
    short: str
    commission: str
    name: str
    locale: str
    locale_name: str
    source_locale: str
    state: str
    bureau: str
    translator: str
    percent: int
    units: int
    words: int
    due: str
    by: str
    created_at: str
    changed_at: str
    trouble: str
    entries: list[Named]


class JobShown(JobLine):
    """A job with its units and questions, and what whoever looks may do with it; `person` is the handle of who is to translate it. `due_told` is the
    day on which its bureau thinks that it is due, where that is another one."""

    note: str
    due_told: str | None
    due_trouble: str
    questions: list[QuestionShown]
    own_files: list[OwnFile]
    units_shown: list[UnitShown]
    may_accept: bool
    may_carry: bool
    may_translate: bool
    acts: list[str]
    person: str
    translators: list[Translator]


@dataclass(frozen=True, slots=True)
class CommissionDetails(CommissionLine):
    """A commission with what is in it, and its jobs."""

    note: str
    again: bool
    current: bool
    fill: bool
    machine: bool
    returns: str
    memories: list[str]
    glossaries: list[str]
    targets: list[TargetShown]
    content: list[EntryShown]
    job_lines: list[JobLine]
    translators: list[Translator]
    may_change: bool
    acts: list[str]


def job(view: View, uuid: str) -> JobShown:
    """A job with its units, and what whoever looks may do with it."""
    row = translation.find(view, uuid)
    acts = translation.acts(view, row)
    return {
        **job_line(view, row),
        "note": row.note,
        "due_told": assigning.believed(row),
        "due_trouble": row.due_trouble,
        "questions": questions.listing(view, row),
        "own_files": own_files.of_job(view, row),
        "units_shown": shown.units_shown(view, row),
        "may_accept": translation.may_job(view, "accept", row),
        "may_carry": translation.may_carry(view, row),
        "may_translate": row.state not in translation.CLOSED and table.may_work(view, row),
        "acts": acts,
        "person": row.translator_handle or "",
        "translators": [one for one in sending.translators(view) if one.locale == row.locale]
        if "assign" in acts
        else [],
    }


def commission(view: View, uuid: str) -> CommissionDetails:
    """A commission with what is in it, and its jobs."""
    found = commissions.look(view, uuid)
    return CommissionDetails(
        **asdict(found.line),
        note=found.note,
        again=found.again,
        current=found.current,
        fill=found.fill,
        machine=found.machine,
        returns=found.returns,
        memories=found.memories,
        glossaries=found.glossaries,
        targets=found.targets,
        content=found.entries,
        job_lines=[job_line(view, job) for job in found.jobs],
        translators=found.translators,
        may_change=found.may_change,
        acts=cancelling.acts(view, found),
    )


def job_line(view: View, row: Job) -> JobLine:
    """A job as a list shows it."""
    percent = round(100 * row.done / row.total) if row.total else 0
    return {
        "id": row.uuid,
        "short": short.of(view.conn, "job", row.uuid),
        "commission": row.commission_uuid,
        "name": row.name,
        "locale": row.locale,
        "locale_name": view.setup.locales.get(row.locale, row.locale),
        "source_locale": row.source_locale,
        "state": row.state,
        "bureau": row.bureau_name or "",
        "translator": row.translator_name or "",
        "percent": 100 if row.state in ("returned", "accepted") else percent,
        "units": row.total,
        "words": row.words,
        "due": row.due,
        "by": row.by_name,
        "created_at": iso(row.created_at),
        "changed_at": iso(row.changed_at),
        "trouble": row.trouble,
        "entries": [permission.named(view, e.entry, e.uuid, e.type) for e in jobs.entries(view.conn, row.id)],
    }
