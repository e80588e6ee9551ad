"""Lines of lists, of the outline and of My work: whatever their number, what they show is asked for in the same few questions."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Literal, TypedDict

from hawthorn.core import access
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.messages import said
from hawthorn.core.timeline import Standing, iso, spoken
from hawthorn.core.workflow import Stage, Workflow
from hawthorn.operations.access import permission
from hawthorn.operations.delivery.outline import Line
from hawthorn.operations.release import workflows
from hawthorn.operations.runtime.act import View
from hawthorn.operations.search import finding
from hawthorn.operations.search.finding import Missing
from hawthorn.operations.views import then
from hawthorn.store import entries as store
from hawthorn.store import moves as move_store
from hawthorn.store import revisions, short
from hawthorn.store.entries import Edition
from hawthorn.store.listings import Listed
from hawthorn.store.moves import PlannedMove
from hawthorn.store.standings import RELEASE


class Bead(TypedDict):
    """How an edition stands at a stage: with its head, an older revision or none; how many revisions behind, in words, and since when."""

    stage: str
    label: str
    state: BeadState
    revision: int | None
    behind: int
    text: str
    since: str | None


BeadState = Literal["head", "older", "none"]


class Planned(TypedDict):
    """A move that is planned for an edition, as an instant and as the wall time in its zone; `goes` says whether its gate lets it go."""

    dispatch: str
    name: str
    verb: str
    instant: str
    wall: str
    zone: str
    revision: int | None
    goes: bool


class Section(TypedDict):
    """A section by name."""

    id: str
    title: str


class EntryLine(TypedDict):
    """An edition as a list shows it."""

    id: str
    short: str
    type: str
    type_label: str
    locale: str
    source_locale: str
    title: str
    internal: str
    behind: bool
    missing: list[Missing]
    updated_at: str
    author: str
    rail: list[Bead]
    planned: list[Planned]
    section: Section | None


class OutlineLine(TypedDict):
    """An entry as the outline shows it; `rank` is its place among those beside it."""

    id: str
    type: str
    type_label: str
    title: str
    locale: str
    rank: str
    incomplete: bool
    behind: bool
    has_below: bool
    movable: bool
    rail: list[Bead]
    planned: list[Planned]


class Known:
    """What is known of some editions and of the sections of their entries: where they stand, what is planned for them, and what
    the revisions among that are numbered."""

    def __init__(
        self,
        view: View,
        editions: Iterable[int],
        sections: Iterable[int | None] = (),
        at: int | None = None,
    ) -> None:
        self.view = view
        ids = list(editions)
        self.stand: Mapping[int, Mapping[int, Standing]] = then.stand(view, ids, at)
        plans = move_store.planned_for(view.conn, ids)
        if at is not None:
            # What was planned at an instant that is past is not known any more.
            plans = [p for p in plans if p.instant > at] if at > view.now else []
        stood = {s.revision for stages in self.stand.values() for s in stages.values()}
        self._numbers = revisions.numbers(view.conn, stood | {p.revision for p in plans if p.revision})
        self._named = permission.whole_among(view, {p.dispatch for p in plans})
        self._plans: dict[int, list[PlannedMove]] = {}
        for plan in plans:
            self._plans.setdefault(plan.edition, []).append(plan)
        self._sections = _sections(view, {s for s in sections if s is not None})
        self._said: dict[tuple[str, int | None], str] = {}
        self._stood: dict[tuple[int, int, int, bool], str] = {}
        self.flows = workflows.Flows(view)

    def section(self, id: int | None) -> Section | None:
        """A section by name; None for none."""
        return None if id is None else self._sections[id]

    def planned(self, edition: int) -> list[Planned]:
        """What is planned for an edition, soonest first."""
        return [
            {
                "dispatch": row.uuid,
                "name": row.name if row.dispatch in self._named else permission.hidden(self.view),
                "verb": row.verb,
                "instant": iso(row.instant),
                "wall": row.wall,
                "zone": row.zone,
                "revision": self._numbers[row.revision] if row.revision else None,
                "goes": bool(row.goes),
            }
            for row in self._plans.get(edition, ())
        ]

    def rail(self, flow: Workflow, own: Edition | None, common: Edition | None) -> list[Bead]:
        """The bead rail: for each stage whether the head stands there, an older revision does, or none."""
        return [self._bead(flow, stage, own, common) for stage in flow.stages]

    def _bead(self, flow: Workflow, stage: Stage, own: Edition | None, common: Edition | None) -> Bead:
        if own is not None and own.head is not None:
            if stage is flow.stages[0]:
                number = own.head_number
                return _bead(stage, self._say("show.revision", number), "head", number)
            id = self.view.setup.stages[stage.name]
            found = self.stand.get(own.id, _NOWHERE).get(id)
            if found is not None:
                return self._standing(stage, id, found, own, common)
        return _bead(stage, self._say("show.nothing"))

    def _say(self, code: str, number: int | None = None) -> str:
        """What many beads of a page say alike, put into words once."""
        if (code, number) not in self._said:
            self._said[code, number] = self.view.say(code, number=number)
        return self._said[code, number]

    def _told(self, number: int, since: int, behind: int, shared: bool) -> str:
        """What a bead says of a revision that stands: what went out together says the same, which is put into words once."""
        key = (number, since, behind, shared)
        if key not in self._stood:
            told = [said("show.since", number=number, at=spoken(since, self.view.identity.zone))]
            if behind:
                told.append(said("show.draft_ahead", count=behind))
            if shared:
                told.append(said("show.shared_ahead"))
            self._stood[key] = self.view.say("show.bead", told=told)
        return self._stood[key]

    def _standing(self, stage: Stage, id: int, found: Standing, own: Edition, common: Edition | None) -> Bead:
        number = self._numbers[found.revision]
        behind = own.tip_number - number
        shared = self.stand.get(common.id, {}).get(id) if common is not None else None
        shared_behind = (
            common.tip_number - self._numbers[shared.revision]
            if common is not None and shared is not None
            else 0
        )
        text = self._told(number, found.since, behind, bool(shared_behind))
        state: BeadState = "older" if behind or shared_behind else "head"
        return _bead(stage, text, state, number, behind or int(bool(shared_behind)), iso(found.since))


_NOWHERE: Mapping[int, Standing] = {}


def _bead(
    stage: Stage,
    text: str,
    state: BeadState = "none",
    revision: int | None = None,
    behind: int = 0,
    since: str | None = None,
) -> Bead:
    return {
        "stage": stage.name,
        "label": stage.label,
        "state": state,
        "revision": revision,
        "behind": behind,
        "text": f"{stage.label}: {text}",
        "since": since,
    }


def _sections(view: View, ids: set[int]) -> dict[int, Section]:
    rows = store.by_ids(view.conn, ids)
    titles = {id: row.title for id, row in finding.summaries(view, sorted(ids)).items()}
    return {
        id: {"id": row.uuid, "title": titles.get(id) or permission.hidden(view)} for id, row in rows.items()
    }


def lines(view: View, rows: Sequence[Listed], at: int | None = None) -> list[EntryLine]:
    """Editions as a list shows them, from their summaries; at another instant with what stood or will stand, and what they were
    called."""
    editions = store.editions_among(view.conn, [r.entry for r in rows], {r.locale for r in rows})
    known = Known(view, [e.id for e in editions.values()], [r.section for r in rows], at)
    starts = short.among(view.conn, "entry", [r.uuid for r in rows])
    if at is None:
        return [_line(known, row, editions, starts[row.uuid]) for row in rows]
    return _lines_then(known, rows, editions, starts, at)


def _lines_then(
    known: Known,
    rows: Sequence[Listed],
    editions: Mapping[tuple[int, str], Edition],
    starts: Mapping[str, str],
    at: int,
) -> list[EntryLine]:
    """The same at another instant: called as what stands at release calls it, or else as its draft did."""
    view = known.view
    heads = revisions.drafts_at(view.conn, [e.id for e in editions.values()], min(at, view.now))
    was = {
        key: replace(e, head=heads[e.id].id, head_number=heads[e.id].number)
        for key, e in editions.items()
        if e.id in heads
    }
    out = {e: s[RELEASE].revision for e, s in known.stand.items() if RELEASE in s}
    shown = {e.id: out.get(e.id, e.tip) for e in was.values()}
    contents = revisions.contents(view.conn, shown.values())
    lines: list[EntryLine] = []
    for row in rows:
        own = was.get((row.entry, row.locale))
        if own is None:
            continue
        title = view.setup.types[row.type].title
        head = heads[own.id]
        lines.append(
            {
                **_line(known, row, was, starts[row.uuid]),
                "title": str(contents[shown[own.id]].fields.get(title) or ""),
                "missing": [],
                "behind": False,
                "updated_at": iso(head.at),
                "author": head.author,
            }
        )
    return lines


def _line(known: Known, row: Listed, editions: Mapping[tuple[int, str], Edition], start: str) -> EntryLine:
    kind = known.view.setup.type(row.type)
    own, common = editions[row.entry, row.locale], editions.get((row.entry, COMMON))
    return {
        "id": row.uuid,
        "short": start,
        "type": kind.name,
        "type_label": kind.label,
        "locale": row.locale,
        "source_locale": row.source_locale,
        "title": row.title,
        "internal": row.common_internal or row.internal,
        "behind": bool(row.behind),
        "missing": finding.missing_of(kind, row.missing, row.common_missing),
        "updated_at": iso(row.updated_at),
        "author": row.author,
        "rail": known.rail(known.flows.of(row, row.locale), own, common),
        "planned": known.planned(own.id),
        "section": known.section(row.section),
    }


def outline_lines(view: View, found: Sequence[Line], at: int | None = None) -> list[OutlineLine]:
    """Entries as the outline shows them, now or at another instant."""
    ids = [one.place.entry for one in found]
    editions = store.editions_among(view.conn, ids, {one.locale for one in found})
    entries = store.by_ids(view.conn, set(ids))
    known = Known(view, [e.id for e in editions.values()], at=at)
    all_of_it = access.reads_all(view.identity)
    readable = set() if all_of_it else permission.readable_among(view, ids)
    out: list[OutlineLine] = []
    for one in found:
        key, kind = (one.place.entry, one.locale), view.setup.type(one.type)
        own, common = editions.get(key), editions.get((one.place.entry, COMMON))
        told = own is not None and (all_of_it or key in readable)
        out.append(
            {
                "id": one.uuid,
                "type": kind.name,
                "type_label": kind.label,
                "title": one.title,
                "locale": one.locale,
                "rank": one.place.rank,
                "incomplete": one.incomplete,
                "behind": one.behind,
                "has_below": one.parent,
                "movable": kind.parent is not None,
                "rail": known.rail(known.flows.of(entries[one.place.entry], one.locale), own, common),
                "planned": known.planned(own.id) if own is not None and told else [],
            }
        )
    return out
