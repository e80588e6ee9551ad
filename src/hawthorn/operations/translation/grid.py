"""Entries against locales: what each edition is, how far it covers its source, and the sums of that."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.translation.coverage import STATES
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.operations.search import finding
from hawthorn.store import coverage as store
from hawthorn.store import people
from hawthorn.store.coverage import SOURCE, Covered, Open, Sum
from hawthorn.store.filters import Filter
from hawthorn.store.listings import Listed

NONE, IN_JOB = STATES[:2]


@dataclass(frozen=True, slots=True)
class Asked:
    """What of the grid is asked for; empty members ask for nothing. `state` is one of `STATES`, in `locale`, or in any where none is
    given; `owner` a handle; `due` a day until which a job is due."""

    type: str = ""
    words: str = ""
    section: str = ""
    owner: str = ""
    due: str = ""
    locale: str = ""
    state: str = ""


@dataclass(frozen=True, slots=True)
class GridCell:
    """One locale of one entry: its state, how many units there are and how many are due (changed, missing or without source), the words of
    those, how many are due of what is out, and the job that it is in with how far that is."""

    locale: str
    state: str
    units: int
    due: int
    words_due: int
    out_due: int
    job: str
    percent: int
    day: str


@dataclass(frozen=True, slots=True)
class GridLine:
    """An entry against the locales."""

    id: str
    title: str
    type: str
    source_locale: str
    units: int
    words: int
    cells: list[GridCell]


def lines(view: View, asked: Asked, limit: int, cursor: str) -> tuple[list[GridLine], str]:
    """A page of entries with something to translate, the last changed first, against the locales of the house."""
    query = finding.Query(type=asked.type, section=asked.section)
    rows, more = finding.listing(view, query, limit=limit, cursor=cursor, also=_filters(view, asked))
    ids = [row.entry for row in rows]
    covered, jobs = store.rows(view.conn, ids), store.open_jobs(view.conn, ids)
    return [_line(view, row, covered, jobs) for row in rows], more


def _line(
    view: View, row: Listed, covered: Mapping[tuple[int, str], Covered], jobs: Mapping[tuple[int, str], Open]
) -> GridLine:
    source = covered[row.entry, row.source_locale]
    others = [tag for tag in view.setup.locales if tag != row.source_locale]
    return GridLine(
        id=row.uuid,
        title=row.title or view.say("common.untitled"),
        type=row.type,
        source_locale=row.source_locale,
        units=source.units,
        words=source.words,
        cells=[
            cell(tag, source, covered.get((row.entry, tag)), jobs.get((row.entry, tag))) for tag in others
        ],
    )


def cell(locale: str, source: Covered, mine: Covered | None, job: Open | None) -> GridCell:
    """One locale of an entry, by what is kept of it and of its source."""
    state = mine.state if mine is not None else NONE
    return GridCell(
        locale=locale,
        state=IN_JOB if job is not None else state,
        units=source.units,
        due=mine.due if mine is not None else source.units,
        words_due=source.words - (mine.words_current if mine is not None else 0),
        out_due=mine.out_due if mine is not None else 0,
        job=job.job if job is not None else "",
        percent=round(100 * job.done / job.total) if job is not None and job.total else 0,
        day=job.due if job is not None else "",
    )


@dataclass(frozen=True, slots=True)
class Total:
    """One locale: of so many entries that are written in others, how many are in each state (what is in a job by what it is beside that), and
    how many of their units and words are current."""

    locale: str
    name: str
    entries: int
    states: dict[str, int]
    units: int
    current: int
    words: int
    words_current: int


def totals(view: View, asked: Asked) -> list[Total]:
    """The sums of all that the grid has, by locale, in their order."""
    query = finding.Query(type=asked.type, section=asked.section)
    kept, few = finding.kept_by(view, query, _filters(view, asked))
    sums = store.sums(view.conn, permission.readable_sql(view, locale="s"), kept, few)
    return [_total(view, tag, sums) for tag in view.setup.locales]


def _total(view: View, tag: str, sums: Sequence[Sum]) -> Total:
    sources = [one for one in sums if one.state == SOURCE and one.locale != tag]
    mine = {one.state: one for one in sums if one.state != SOURCE and one.locale == tag}
    entries = sum(one.entries for one in sources)
    states = {state: mine[state].entries if state in mine else 0 for state in STATES if state != IN_JOB}
    return Total(
        locale=tag,
        name=view.setup.locales[tag],
        entries=entries,
        states=states | {NONE: entries - sum(one.entries for one in mine.values())},
        units=sum(one.units for one in sources),
        current=sum(one.current for one in mine.values()),
        words=sum(one.words for one in sources),
        words_current=sum(one.words_current for one in mine.values()),
    )


def _filters(view: View, asked: Asked) -> list[Filter]:
    out = [store.COUNTED]
    if asked.words.strip():
        out.append(finding.entries_with(view, asked.words, asked.type))
    if asked.state:
        if asked.state not in STATES:
            raise Invalid(
                [FieldProblem("state", said("grid.no_state", value=asked.state[:80], known=list(STATES)))]
            )
        tags = [view.setup.locale(asked.locale)] if asked.locale else list(view.setup.locales)
        out.append(store.any_of([_in_state(tag, asked.state) for tag in tags]))
    if asked.owner:
        row = people.ever(view.conn, asked.owner)
        if row is None:
            raise Invalid("finding.nobody", handle=asked.owner[:80])
        out.append(store.begun_by(row.id))
    if asked.due:
        try:
            day = date.fromisoformat(asked.due).isoformat()
        except ValueError:
            raise Invalid([FieldProblem("due", said("commissions.no_date"))]) from None
        out.append(store.due_until(day))
    return out


def _in_state(locale: str, state: str) -> Filter:
    if state == NONE:
        return store.not_there(locale)
    return store.in_a_job(locale) if state == IN_JOB else store.in_state(locale, state)
