"""Jobs as they are looked at: their units."""

from __future__ import annotations

import json

from hawthorn.core import richtext
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.core.translation import units
from hawthorn.operations.release.drafts import drafted
from hawthorn.operations.runtime.act import View
from hawthorn.operations.translation.translation import choices, may_job, sent_of
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as store
from hawthorn.store.jobs import Job, JobUnit


@dataclass(frozen=True, slots=True)
class UnitShown:
    """A unit: its source, what returned, what the edition holds now, and how whoever looks may settle it."""

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
    choices: list[str]


def units_shown(view: View, job: Job) -> list[UnitShown]:
    """The units of a job: source beside what returned, what the edition holds, and what became of each."""
    out: list[UnitShown] = []
    of_entry: dict[int, list[JobUnit]] = {}
    may = may_job(view, "accept", job)
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
        some = of_entry.get(part.entry, ())
        chooses = may and not kind.read_only and any(u.outcome == "conflict" for u in some)
        choosing = units.source_hashes(kind, source) if chooses else None
        for unit in some:
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
                    trouble=view.say("translation.stays_in_draft") if part.put_away else unit.trouble,
                    notes=json.loads(unit.notes),
                    choices=choices(unit, choosing) if choosing is not None else [],
                )
            )
    return out


def _plain(text: str, rich: bool) -> str:
    return richtext.plain(text) if rich else text


def _texts(kind: ContentType, content: Content) -> dict[str, str]:
    return {u.key: u.text for u in units.units_of(kind, content, "en")}
