"""Translation as it is looked at: the units of a job, and entries against locales."""

from __future__ import annotations

import json
from collections.abc import Sequence

from hawthorn.core import richtext
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import EMPTY, Content
from hawthorn.core.translation import units
from hawthorn.operations.runtime.act import View
from hawthorn.operations.translation.commissions import drafted
from hawthorn.operations.translation.translation import sent_of
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as store
from hawthorn.store import revisions, standings
from hawthorn.store.jobs import Job, JobUnit
from hawthorn.store.listings import Listed
from hawthorn.store.standings import RELEASE


@dataclass(frozen=True, slots=True)
class UnitShown:
    """A unit: its source, what returned, and what the edition holds now."""

    entry: str
    title: str
    key: str
    label: str
    source: str
    returned: str
    current: str
    state: str
    outcome: str
    words: int
    trouble: str
    notes: list[str]


def units_shown(view: View, job: Job) -> list[UnitShown]:
    """The units of a job: source beside what returned, what the edition holds, and what became of each."""
    out: list[UnitShown] = []
    of_entry: dict[int, list[JobUnit]] = {}
    for unit in store.units(view.conn, job.id):
        of_entry.setdefault(unit.entry, []).append(unit)
    for part in store.entries(view.conn, job.id):
        kind = view.setup.type(part.type)
        sent = sent_of(view, job, part)
        title = entry_store.title(view.conn, part.entry)
        target = drafted(view, part.entry, job.locale)
        have = _texts(kind, target)
        source = drafted(view, part.entry, part.source_locale)
        written = units.rivals(kind, source, target)
        for unit in of_entry.get(part.entry, ()):
            mine = sent.get(unit.key)
            if mine is None and unit.source_hash:
                continue
            out.append(
                UnitShown(
                    entry=part.uuid,
                    title=title,
                    key=unit.key,
                    label=mine.unit.label if mine else view.say("shown.source_removed"),
                    source=mine.unit.text if mine else "",
                    returned=_plain(unit.text, mine.unit.rich) if mine else "",
                    current="\n\n".join(have.get(k, "") for k in (written.get(unit.key) or (unit.key,))),
                    state=unit.state,
                    outcome=unit.outcome,
                    words=mine.unit.words if mine else 0,
                    trouble=unit.trouble,
                    notes=json.loads(unit.notes),
                )
            )
    return out


def _plain(text: str, rich: bool) -> str:
    return richtext.plain(text) if rich else text


def _texts(kind: ContentType, content: Content) -> dict[str, str]:
    return {u.key: u.text for u in units.units_of(kind, content, "en")}


@dataclass(frozen=True, slots=True)
class GridCell:
    """One locale of one entry."""

    locale: str
    state: str


@dataclass(frozen=True, slots=True)
class GridLine:
    """An entry against the locales."""

    id: str
    title: str
    type: str
    source_locale: str
    cells: list[GridCell]


def grid(view: View, rows: Sequence[Listed]) -> list[GridLine]:
    """Entries against locales: not there, in translation, behind the source, ready, or out."""
    ids = [row.entry for row in rows]
    editions = entry_store.editions_among(view.conn, ids, view.setup.locales)
    contents = revisions.contents(view.conn, [e.head for e in editions.values() if e.head])
    out = standings.at_stage(view.conn, [e.id for e in editions.values()], RELEASE)
    working = store.working_on(view.conn, ids)

    def drafted(entry: int, locale: str) -> Content:
        edition = editions.get((entry, locale))
        return contents[edition.head] if edition is not None and edition.head else EMPTY

    def state(row: Listed, source: Content, tag: str) -> str:
        target, edition = drafted(row.entry, tag), editions.get((row.entry, tag))
        if (row.entry, tag) in working:
            return "in translation"
        if not target.fields:
            return "not there"
        given = (view.setup.type(row.type), source, target, row.source_locale)
        if units.drift(*given) or units.needing(*given):
            return "behind"
        return "out" if edition is not None and edition.id in out else "ready"

    lines: list[GridLine] = []
    for row in rows:
        source = drafted(row.entry, row.source_locale)
        others = [tag for tag in view.setup.locales if tag != row.source_locale]
        lines.append(
            GridLine(
                id=row.uuid,
                title=row.title or view.say("common.untitled"),
                type=row.type,
                source_locale=row.source_locale,
                cells=[GridCell(locale=tag, state=state(row, source, tag)) for tag in others],
            )
        )
    return lines
