"""The translator's table: the sentences of a job one by one, translated by people here, checked as they type, and put in."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from hawthorn.core import formats, numbers
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, StaleRevision
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.core.translation import checking, dividing, keeping, matching, tags, units
from hawthorn.core.translation.dividing import NotDivided
from hawthorn.core.translation.returns import Returned
from hawthorn.core.translation.units import Segment, Unit
from hawthorn.core.translation.wording import Wording
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import against, at_hand, glossaries, importing, memories
from hawthorn.operations.translation.at_hand import AtHand
from hawthorn.operations.translation.glossaries import TermShown
from hawthorn.operations.translation.importing import Imported
from hawthorn.operations.translation.translation import (
    CLOSED,
    MACHINE,
    codes_of,
    find,
    may_translate,
    require_job,
    require_translate,
    sent_of,
    takes_no_return,
    told,
)
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as store
from hawthorn.store import people
from hawthorn.store.jobs import Job, JobEntry, JobUnit

AT_TABLE = ("initial", "translated", "reviewed")
"""States that a sentence can be given at the table; "final" comes with acceptance."""
LONGEST = 20_000
"""So many characters a sentence may have."""


@dataclass(frozen=True, slots=True)
class Place:
    """One sentence of a job."""

    entry: str
    key: str
    segment: str


@dataclass(frozen=True, slots=True)
class Edit:
    """What somebody wrote for a sentence, `before` being what stood there when they began: tags by their numbers in angle brackets."""

    target: str
    before: str
    state: str = "translated"
    remark: str = ""


@dataclass(frozen=True, slots=True)
class Chip:
    """A tag of a sentence: its number, what stands behind it in words, and whether it may be left out."""

    id: str
    name: str
    alone: bool
    needed: bool


@dataclass(frozen=True, slots=True)
class Found:
    """One thing that is worth a look; one that `blocks` keeps the sentence from being finished."""

    code: str
    what: str
    blocks: bool


@dataclass(frozen=True, slots=True)
class Word:
    """A word of a glossary in a source, from one character of its words to another, with what it is called in the target: what comes first
    first, with how each may be used."""

    start: int
    end: int
    text: str
    note: str
    targets: list[TermShown]


@dataclass(frozen=True, slots=True)
class Line:
    """One sentence with all that a translator needs beside it."""

    entry: str
    title: str
    key: str
    label: str
    segment: str
    first: bool
    source: str
    target: str
    state: str
    remark: str
    by: str
    at: str
    origin: str
    tags: list[Chip]
    limit: int | None
    room: int | None
    unit_state: str
    outcome: str
    trouble: str
    notes: list[str]
    then: list[str]
    words: list[Word]
    findings: list[Found]
    may_translate: bool


def lines(view: View, uuid: str, limit: int, cursor: str = "") -> tuple[list[Line], str]:
    """The sentences of so many units of a job, in order, after a place; and where the next page begins."""
    job = find(view, uuid)
    parts = {p.entry: p for p in store.entries(view.conn, job.id)}
    rows = store.units_after(view.conn, job.id, numbers.pair(cursor), limit + 1)
    out: list[Line] = []
    by_entry: dict[int, list[JobUnit]] = {}
    for row in rows[:limit]:
        by_entry.setdefault(row.entry, []).append(row)
    for entry, some in by_entry.items():
        out += _lines(view, job, parts[entry], some)
    more = f"{parts[rows[limit - 1].entry].ord}.{rows[limit - 1].ord}" if len(rows) > limit else ""
    return out, more


def _lines(view: View, job: Job, part: JobEntry, rows: Sequence[JobUnit]) -> list[Line]:
    sent = sent_of(view, job, part)
    before = against.before(view, part.entry, job.locale, sent)
    around = _around(view, job, part)
    out: list[Line] = []
    for row in rows:
        if row.key in sent:
            unit = at_hand.as_kept(sent[row.key].unit, row)
            out += _unit_lines(around, unit, row, before.get(row.key))
    return out


@dataclass(frozen=True, slots=True)
class _Around:
    """What the sentences of an entry share."""

    view: View
    entry: str
    title: str
    wording: Wording
    mine: bool


def _around(view: View, job: Job, part: JobEntry) -> _Around:
    mine = job.state not in CLOSED and may_translate(view, job, part)
    title = entry_store.title(view.conn, part.entry)
    return _Around(view, part.uuid, title, glossaries.of_job(view, job), mine)


def _unit_lines(around: _Around, unit: Unit, row: JobUnit, then: tuple[str, str] | None) -> list[Line]:
    out: list[Line] = []
    changed = list(then) if then is not None and then[0] != unit.text else []
    for segment in keeping.speaking(unit.segments):
        room = None if unit.limit is None else unit.limit - _beside(unit, segment)
        out.append(
            Line(
                entry=around.entry,
                title=around.title,
                key=unit.key,
                label=unit.label,
                segment=segment.id,
                first=not out,
                source=tags.written(segment.source),
                target=tags.written(segment.target or ()),
                state=_state(row, segment),
                remark=segment.remark,
                by=segment.by,
                at=segment.at,
                origin=segment.origin,
                tags=_chips(unit, segment),
                limit=unit.limit,
                room=room,
                unit_state=row.state,
                outcome=row.outcome,
                trouble=row.trouble,
                notes=json.loads(row.notes),
                then=changed,
                words=_words(around.wording, segment),
                findings=_findings(around.view, around.wording, unit, segment),
                may_translate=around.mine and row.state != "final",
            )
        )
    return out


def _words(wording: Wording, segment: Segment) -> list[Word]:
    return [
        Word(
            hit.start,
            hit.end,
            hit.text,
            hit.note,
            [TermShown("", one.text, one.status) for one in hit.targets],
        )
        for hit in wording.hits(tags.words_of(segment.source))
    ]


def _state(row: JobUnit, segment: Segment) -> str:
    if row.state == "final":
        return "final"
    return segment.state if tags.words_of(segment.target or ()).strip() else "initial"


def _chips(unit: Unit, segment: Segment) -> list[Chip]:
    seen = dict.fromkeys(p.id for p in segment.source if not isinstance(p, str))
    return [
        Chip(
            id,
            tags.name_of(unit.tags[id][0]),
            not unit.tags[id][1],
            not tags.only_formats(unit.tags[id][0]),
        )
        for id in seen
        if id in unit.tags
    ]


def _beside(unit: Unit, segment: Segment) -> int:
    """How many characters the other sentences of a unit take up."""
    others = (s.source if s.ignorable else s.target or () for s in unit.segments if s.id != segment.id)
    return sum(len(tags.words_of(parts)) for parts in others)


def _looked_at(unit: Unit, segment: Segment) -> list[checking.Finding]:
    mine = {p.id for p in segment.source if not isinstance(p, str)}
    return checking.findings(
        segment.source,
        segment.target or (),
        {k: v for k, v in unit.tags.items() if k in mine},
        rich=unit.rich,
        limit=unit.limit,
        beside=_beside(unit, segment),
    )


def _findings(view: View, wording: Wording, unit: Unit, segment: Segment) -> list[Found]:
    source, target = tags.words_of(segment.source), tags.words_of(segment.target or ())
    found = [*_looked_at(unit, segment), *wording.findings(source, target)]
    return [Found(one.code, view.say(one.what), one.blocks) for one in found]


def check(view: View, uuid: str, place: Place, target: str) -> list[Found]:
    """What is to be said of a target that somebody types; nothing is kept."""
    at = at_hand.unit(view, uuid, place.entry, place.key)
    segment = replace(at_hand.segment(at, place.segment), target=_read(target))
    return _findings(view, glossaries.of_job(view, at.job), at.unit, segment)


def save(act: Act, uuid: str, place: Place, edit: Edit) -> list[Line]:
    """Keep what somebody wrote for a sentence; returns the sentences of its unit. Raises `StaleRevision` when another wrote there since
    `before` was read, and `Invalid` for what could not be put into the page but should be finished."""
    at = _open(act, uuid, place)
    had = at_hand.segment(at, place.segment)
    target = _read(edit.target)
    _check_edit(act, at, edit, target)
    now = tags.written(had.target or ())
    # What an assistant writes is machine work until a person has looked at it.
    machine = act.identity.kind == "assistant"
    state = edit.state if tags.words_of(target).strip() and not machine else "initial"
    if (now, _state(at.row, had), had.remark) == (edit.target, state, edit.remark):
        return _now(act, at)
    if now not in (edit.before, edit.target):
        raise StaleRevision(
            "table.written_meanwhile",
            by=had.by or said("table.another"),
            now=now or said("values.nothing"),
            stands=now,
        )
    made = replace(
        had,
        target=target or None,
        state=state,
        remark=edit.remark,
        by=act.identity.handle,
        at=iso(act.now),
        origin=MACHINE if machine else "",
    )
    if state != "initial":
        blocking = [f for f in _looked_at(at.unit, made) if f.blocks]
        if blocking:
            raise Invalid([FieldProblem("target", one.what) for one in blocking])
    draft = ""
    if had.origin == MACHINE and not machine and (state != "initial" or now != edit.target):
        draft = "kept" if now == edit.target else "changed"
    return _keep(act, at, _with(at.unit.segments, made), place.segment, draft)


def _check_edit(act: Act, at: AtHand, edit: Edit, target: tags.Parts) -> None:
    problems: list[FieldProblem] = []
    if edit.state not in AT_TABLE:
        problems.append(FieldProblem("state", said("common.one_of", known=list(AT_TABLE))))
    if len(edit.target) > LONGEST:
        problems.append(FieldProblem("target", said("table.longest", most=LONGEST)))
    if len(edit.remark) > LONGEST:
        problems.append(FieldProblem("remark", said("table.longest", most=LONGEST)))
    if problems:
        raise Invalid(problems)
    if edit.state == "reviewed":
        require_job(act, "accept", at.job)


def _read(text: str) -> tags.Parts:
    return tags.read(text.replace("\r\n", "\n"))


def _with(segments: Sequence[Segment], made: Segment) -> tuple[Segment, ...]:
    return tuple(made if s.id == made.id else s for s in segments)


def split(act: Act, uuid: str, place: Place, at_character: int) -> list[Line]:
    """Cut a sentence in two before a character of its source's words; returns the sentences of its unit."""
    return _divided(act, uuid, place, lambda some: dividing.split(some, place.segment, at_character))


def join(act: Act, uuid: str, place: Place) -> list[Line]:
    """Make one of a sentence and the next of its unit; returns the sentences of the unit."""
    return _divided(act, uuid, place, lambda some: dividing.join(some, place.segment))


def _divided(
    act: Act, uuid: str, place: Place, how: Callable[[Sequence[Segment]], tuple[Segment, ...]]
) -> list[Line]:
    at = _open(act, uuid, place)
    try:
        segments = how(at.unit.segments)
    except NotDivided as wrong:
        raise Invalid([FieldProblem("segment", wrong.message)]) from None
    return _keep(act, at, segments, place.segment)


def _open(act: Act, uuid: str, place: Place) -> AtHand:
    """A unit that may be worked on by whoever asks."""
    at = at_hand.unit(act, uuid, place.entry, place.key)
    require_translate(act, at.job, at.part)
    if at.job.state in CLOSED:
        raise takes_no_return(at.job)
    if at.row.state == "final":
        raise InTheWay("table.accepted_already")
    return at


def _keep(act: Act, at: AtHand, segments: tuple[Segment, ...], segment: str, draft: str = "") -> list[Line]:
    """Keep the sentences of a unit. `draft` says what became of a machine's draft of one: it was `kept` or `changed`."""
    state = "translated" if keeping.finished(segments) else "initial"
    store.at_table(act.conn, at.job.id, at.part.entry, at.unit.key, state, keeping.kept(segments))
    done = store.finished(act.conn, at.job.id)
    values = {"done": done} if done != at.job.done else {}
    if at.job.state == "waiting" and at.job.bureau is None:
        store.update(act.conn, at.job.id, act.now, state="in work", **values)
    elif values:
        store.update(act.conn, at.job.id, act.now, **values)
    facts = {"draft": draft} if draft else {}
    told(act, "job.segment", at.job, entry=at.part.uuid, key=at.unit.key, segment=segment, **facts)
    return _now(act, at)


def _now(view: View, at: AtHand) -> list[Line]:
    row = store.unit(view.conn, at.job.id, at.part.entry, at.unit.key)
    assert row is not None
    before = against.before(view, at.part.entry, at.job.locale, [row.key])
    around = _around(view, at.job, at.part)
    return _unit_lines(around, at_hand.as_kept(at.unit, row), row, before.get(row.key))


def _job_at_work(act: Act, uuid: str) -> Job:
    """A job of which whoever asks may translate something."""
    job = find(act, uuid)
    if not may_work(act, job):
        require_translate(act, job, store.entries(act.conn, job.id)[0])
    return job


def deliver(act: Act, uuid: str) -> Imported:
    """Put every unit that is translated at the table, and that whoever acts may translate, into its edition, as if a file with them had been
    imported."""
    job = _job_at_work(act, uuid)
    files: list[tuple[str, tuple[Returned, ...]]] = []
    for part in store.entries(act.conn, job.id):
        rows = [r for r in store.units_of(act.conn, job.id, part.entry) if _to_deliver(r)]
        if rows and may_translate(act, job, part):
            files.append((f"urn:uuid:{part.uuid}", tuple(_returned(row) for row in rows)))
    if not files:
        raise InTheWay("table.nothing_translated")
    source, target = codes_of(job)
    return importing.take_in(act, job, formats.InDocument(job.uuid, source, target, tuple(files)))


def _to_deliver(row: JobUnit) -> bool:
    return (
        bool(row.segments) and row.state == "translated" and keeping.finished(keeping.segments(row.segments))
    )


def _returned(row: JobUnit) -> Returned:
    return Returned(row.key, keeping.segments(row.segments), tuple(json.loads(row.notes)))


def fill(act: Act, uuid: str) -> int:
    """Put what the memories have of the same words into sentences that nobody has translated; they stay open until somebody has looked.
    Returns how many were filled."""
    job = _job_at_work(act, uuid)
    if job.state in CLOSED:
        raise takes_no_return(job)
    looking = memories.of_job(act, job)
    count = 0
    for part in store.entries(act.conn, job.id):
        if part.put_away or not may_translate(act, job, part):
            continue
        sent = sent_of(act, job, part)
        for row in store.units_of(act.conn, job.id, part.entry):
            if row.key in sent and row.state == "initial":
                unit = at_hand.as_kept(sent[row.key].unit, row)
                filled = _filled(looking, unit)
                if filled != unit.segments:
                    kept = keeping.kept(filled)
                    store.at_table(act.conn, job.id, part.entry, row.key, "initial", kept)
                    count += sum(a != b for a, b in zip(filled, unit.segments, strict=True))
    if count:
        told(act, "job.filled", job, count=count)
    return count


def blocked(unit: Unit, segment: Segment) -> bool:
    """Whether a check would not let a sentence be finished as it is."""
    return any(finding.blocks for finding in _looked_at(unit, segment))


def _filled(looking: memories.Looking, unit: Unit) -> tuple[Segment, ...]:
    around = memories.contexts(unit)
    out: list[Segment] = []
    for segment in unit.segments:
        if segment.ignorable or tags.words_of(segment.target or ()).strip():
            out.append(segment)
            continue
        known = looking.exact(segment, around.get(segment.id, ""))
        own = [p.id for p in segment.source if not isinstance(p, str)]
        text = matching.fitting_tags(known.text, own) if known is not None else ""
        filled = (
            replace(segment, target=tags.read(text), state="initial", origin="memory") if text else segment
        )
        out.append(segment if blocked(unit, filled) else filled)
    return tuple(out)


def send_back(act: Act, uuid: str, entry: str, key: str, why: str) -> list[Line]:
    """Open a unit again that had returned, and say why; what stands in the edition stays until it is put in anew."""
    at = at_hand.unit(act, uuid, entry, key)
    require_job(act, "accept", at.job)
    if at.job.state in CLOSED or not at.row.outcome or at.row.state == "final":
        raise InTheWay("table.not_to_send_back")
    if not why.strip() or len(why) > LONGEST:
        raise Invalid([FieldProblem("why", said("table.why"))])
    open_again = tuple(s if s.ignorable else replace(s, state="initial") for s in at.unit.segments)
    stands = units.kept_hash(at.row.text, at.unit.rich) if at.row.outcome == "applied" else at.row.target_hash
    kept = keeping.kept(open_again)
    store.sent_back(act.conn, at.job.id, at.part.entry, key, kept, why.strip(), stands)
    # A bureau that has finished would only send the same once more.
    changes: Mapping[str, str] = {"state": "in work"} | ({"remote": ""} if at.job.bureau is not None else {})
    store.update(act.conn, at.job.id, act.now, done=store.finished(act.conn, at.job.id), **changes)
    by = sorted({s.by for s in at.unit.segments if s.by})
    translators = [p.id for handle in by if (p := people.by_handle(act.conn, handle))]
    told(
        act,
        "job.sent-back",
        at.job,
        entry=at.part.uuid,
        key=key,
        why=why.strip(),
        translators=translators,
        title=entry_store.title(act.conn, at.part.entry),
    )
    return _now(act, at)


def may_work(view: View, job: Job) -> bool:
    """Whether whoever looks may translate anything of a job."""
    return any(may_translate(view, job, part) for part in store.entries(view.conn, job.id))
