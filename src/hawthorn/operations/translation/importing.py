"""Imports: what returned for a job is checked unit by unit, and what fits is merged into the target editions."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from hawthorn.core import compare, contenttypes, formats, richtext, slots
from hawthorn.core.compare import Run
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import BadFile, FieldProblem, Invalid, Refused
from hawthorn.core.fields import to_translate
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import EMPTY, Content
from hawthorn.core.slots import Slot
from hawthorn.core.translation import keeping, returns, units
from hawthorn.core.translation.returns import Checked, Outcome, Returned, Sent
from hawthorn.core.translation.units import Segment
from hawthorn.operations.access import permission
from hawthorn.operations.release import drafts, fitting
from hawthorn.operations.release.drafts import drafted
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import landing
from hawthorn.operations.translation.translation import (
    CLOSED,
    codes_of,
    find,
    require_carry,
    sent_of,
    still_open,
    takes_no_return,
    told,
)
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as store
from hawthorn.store import revisions
from hawthorn.store.entries import Entry
from hawthorn.store.jobs import Job, JobEntry, JobUnit

NAMED = 200
"""So many units that did not fit are named in one answer; each of them keeps its reason on the job."""


@dataclass(frozen=True, slots=True)
class Place:
    """A unit, and what is to be said of it."""

    entry: str
    title: str
    key: str
    what: str


@dataclass(frozen=True, slots=True)
class Decision:
    """A unit that was not simply put in, and all that is needed to decide about it: the source as it was sent and as it is (`runs` marks
    the words), what returned, and what the edition holds (`others` marks the words)."""

    entry: str
    title: str
    key: str
    label: str
    how: str
    sent: str
    now: str
    runs: list[Run]
    returned: str
    current: str
    others: list[Run]


@dataclass(frozen=True, slots=True)
class Imported:
    """What became of the units of a file: how many were applied, drifted, went into conflict or lost their source, how many are
    still open, and how many did not fit, with what was wrong and what is worth knowing of those that did; and what was not simply put in."""

    applied: int
    drifted: int
    conflict: int
    gone: int
    open: int
    refused: int
    problems: list[Place]
    notes: list[Place]
    decisions: list[Decision]


def check(act: Act, uuid: str, file: bytes | formats.InDocument, *, whole: bool = False) -> Imported:
    """What importing a translated file would do; nothing is kept."""
    with act.trying() as trial:
        found = import_file(act, uuid, file, whole=whole)
        trial.keep(False)
    return found


def import_file(act: Act, uuid: str, file: bytes | formats.InDocument, *, whole: bool = False) -> Imported:
    """Import a translated file. Whatever fits is taken; what does not is named with its reason and stays open; with `whole`,
    all is taken or nothing. A file is best read before, while nobody waits.

    What came in the same words before is left as it stands, with whatever was decided about it since: the same file again does
    nothing. Raises `BadFile` for one that is another job's, or of other locales.
    """
    job = find(act, uuid)
    require_carry(act, job)
    return take_in(act, job, file, whole=whole)


def take_in(act: Act, job: Job, file: bytes | formats.InDocument, *, whole: bool = False) -> Imported:
    """The same for what whoever acts may translate."""
    if job.state in CLOSED:
        raise takes_no_return(job)
    document = formats.read(file) if isinstance(file, bytes) else file
    parts = store.entries(act.conn, job.id)
    rows = {part.entry: store.units_of(act.conn, job.id, part.entry) for part in parts}
    sent = {part.uuid: sent_of(act, job, part, split=False, rows=rows[part.entry]) for part in parts}
    checked, strange = _checked(job, document, sent)
    if whole:
        returns.refuse([p for one in checked.values() for p in (*one.problems, *one.open)] + strange)
    counts = {"applied": 0, "drifted": 0, "conflict": 0, "gone": 0}
    came = {(u.entry, u.key): u.text for some in rows.values() for u in some if u.outcome}
    undecided: list[tuple[JobEntry, list[str]]] = []
    put_in: list[tuple[JobEntry, list[str]]] = []
    new = False
    for part in parts:
        mine = checked[part.uuid]
        fresh = {k: t for k, t in mine.texts.items() if came.get((part.entry, k)) != t}
        kept = _kept(mine, fresh, rows[part.entry])
        new = _keep(act, job, part, mine, [k for k in kept if k[0] not in fresh], rows[part.entry]) or new
        if not fresh:
            continue
        became = _put_in(act, job, part, sent[part.uuid], fresh, kept)
        if became.unfit:
            if whole:
                returns.refuse(became.unfit)
            mine = checked[part.uuid] = replace(mine, problems=(*mine.problems, *became.unfit))
            out = {p.where for p in became.unfit}
            new = _keep(act, job, part, mine, [k for k in kept if k[0] in out], rows[part.entry]) or new
        if not became.decided:
            continue
        new = True
        put_in.append((part, became.left_out))
        for one in became.decided:
            counts[one.how] += 1
        undecided.append((part, [one.key for one in became.decided if one.how != "applied"]))
    left = still_open(act, job, sent)
    found = _ended(act, job, checked, strange, counts, put_in, left, new=new)
    return replace(found, decisions=_decisions(act, job, undecided, sent)[:NAMED])


def _decisions(
    act: Act,
    job: Job,
    some: Sequence[tuple[JobEntry, Sequence[str]]],
    sent: Mapping[str, Mapping[str, Sent]],
) -> list[Decision]:
    out: list[Decision] = []
    for part, keys in some:
        if not keys:
            continue
        kind = act.setup.type(part.type)
        source, target = (drafted(act, part.entry, tag) for tag in (part.source_locale, job.locale))
        now = {u.key: u.text for u in units.units_of(kind, source, part.source_locale, split=False)}
        have = {u.key: u.text for u in units.units_of(kind, target, job.locale, split=False)}
        written = units.rivals(kind, source, target)
        rows = {u.key: u for u in store.units_of(act.conn, job.id, part.entry)}
        for key in keys:
            mine = sent[part.uuid][key].unit
            text = rows[key].text
            returned = richtext.plain(text) if mine.rich else text
            current = "\n\n".join(have.get(k, "") for k in written.get(key) or (key,))
            out.append(
                Decision(
                    entry=part.uuid,
                    title=entry_store.title(act.conn, part.entry),
                    key=key,
                    label=mine.label,
                    how=rows[key].outcome,
                    sent=mine.text,
                    now=now.get(key, ""),
                    runs=list(compare.words(mine.text, now.get(key, ""))),
                    returned=returned,
                    current=current,
                    others=list(compare.words(current, returned)),
                )
            )
    return out


def _ended(
    act: Act,
    job: Job,
    checked: Mapping[str, Checked],
    strange: Sequence[FieldProblem],
    counts: Mapping[str, int],
    put_in: Sequence[tuple[JobEntry, list[str]]],
    left: int,
    *,
    new: bool,
) -> Imported:
    said_of = [
        Place(part.uuid, entry_store.title(act.conn, part.entry), "", why)
        for part, why in (
            *landing.landed(act, job, [part for part, _ in put_in]),
            *_kept_away(act, [part for part, _ in put_in]),
            *((part, act.say("fitting.left_out", fields=labels)) for part, labels in put_in if labels),
        )
    ]
    problems = _places(act, job, checked, lambda one: one.problems)
    problems += [Place("", "", p.where[:200], act.say(p.what)) for p in strange]
    found = Imported(
        **counts,
        open=left,
        refused=len(problems),
        problems=problems[:NAMED],
        notes=[*said_of, *_places(act, job, checked, lambda one: one.notes)][:NAMED],
        decisions=[],
    )
    if new:
        state = "in work" if left else "returned"
        store.update(
            act.conn, job.id, act.now, state=state, done=store.finished(act.conn, job.id), trouble=""
        )
        facts = {**counts, "open": found.open, "refused": found.refused}
        told(act, "job.returned", job, **facts, by_itself=job.standing is not None)
    return found


def _kept_away(act: Act, some: Sequence[JobEntry]) -> list[tuple[JobEntry, str]]:
    """Those of some entries that were put away, and where what returned for them is."""
    return [(part, act.say("translation.stays_in_draft")) for part in some if part.put_away]


def _places(
    act: Act,
    job: Job,
    checked: Mapping[str, Checked],
    which: Callable[[Checked], Sequence[FieldProblem]],
) -> list[Place]:
    return [
        Place(part.uuid, entry_store.title(act.conn, part.entry), p.where[:200], act.say(p.what))
        for part in store.entries(act.conn, job.id)
        for p in which(checked[part.uuid])
    ]


_Kept = tuple[str, str, str, str]
"""What is kept of a unit: its key, sentences, notes (JSON), and what stood beside them (XML)."""


def _kept(checked: Checked, fresh: Mapping[str, str], stood: Sequence[JobUnit]) -> list[_Kept]:
    """What is to be kept of the sentences that came; what is decided already stays as it was."""
    rows = {u.key: u for u in stood}
    return [
        (
            key,
            keeping.kept(_with_had(rows[key], unit)),
            json.dumps(unit.notes, ensure_ascii=False) if unit.notes else rows[key].notes,
            unit.beside or rows[key].beside,
        )
        for key, unit in checked.fitting.items()
        if key in fresh or not rows[key].outcome
    ]


def _keep(
    act: Act, job: Job, part: JobEntry, checked: Checked, kept: Sequence[_Kept], stood: Sequence[JobUnit]
) -> bool:
    """Keep the sentences of units that are open still, and why others were not taken. Returns whether anything is new."""
    rows = {u.key: u for u in stood}
    news = [
        one for one in kept if one[1:] != (rows[one[0]].segments, rows[one[0]].notes, rows[one[0]].beside)
    ]
    store.keep_segments(act.conn, job.id, part.entry, news)
    troubles = [
        (p.where, why)
        for p in checked.problems
        if p.where in rows and (why := act.keep(p.what)) != rows[p.where].trouble
    ]
    store.keep_troubles(act.conn, job.id, part.entry, troubles)
    return bool(news or troubles)


def _with_had(row: JobUnit, came: Returned) -> tuple[Segment, ...]:
    return keeping.merged(keeping.segments(row.segments), came.segments) if row.segments else came.segments


def most_units(job: Job) -> int:
    """How many units a file that returns may have: those of the job, and room to say which are not of it."""
    return min(2 * int(job.total) + 1_000, formats.MOST_UNITS)


def _checked(
    job: Job, document: formats.InDocument, sent: Mapping[str, Mapping[str, Sent]]
) -> tuple[dict[str, Checked], list[FieldProblem]]:
    """What of a file fits, by entry; and what in it is of no entry of the job."""
    if document.job and document.job != job.uuid:
        raise BadFile("translation.file_of_another_job", job=document.job, id=job.uuid)
    expected = codes_of(job)
    have = (document.source_locale, document.target_locale)
    if have[1].lower() != expected[1].lower() or have[0].lower() != expected[0].lower():
        raise BadFile(
            "translation.other_locales",
            file_source=have[0] or said("values.nothing"),
            file_target=have[1] or said("values.nothing"),
            source=expected[0],
            target=expected[1],
        )
    returned: dict[str, list[Returned]] = {}
    for original, found in document.files:
        returned.setdefault(original.removeprefix("urn:uuid:"), []).extend(found)
    strange = [u for u in returned if u not in sent]
    if strange and len(strange) == len(returned):
        raise BadFile("translation.not_in_this_job", what=strange[0] or said("translation.without_original"))
    checked = {u: returns.verify(mine, returned.get(u, []), job.locale) for u, mine in sent.items()}
    return checked, [FieldProblem(u, said("translation.entry_not_in_this_job")) for u in strange]


@dataclass(frozen=True, slots=True)
class _Became:
    """What became of the units that returned for one entry: those that were decided about, the labels of fields of which not all could be taken
    along from the source, and the units that their fields did not take."""

    decided: list[Outcome]
    left_out: list[str]
    unfit: list[FieldProblem]


def _put_in(
    act: Act,
    job: Job,
    part: JobEntry,
    sent: Mapping[str, Sent],
    texts: Mapping[str, str],
    kept: Sequence[_Kept],
) -> _Became:
    """Put in what returned for one entry. What its fields do not take, such as a text that is too long, is left out and said, by the key of its
    unit: the rest does not wait for it."""
    try:
        permission.require_writable(act, part.type)
    except Refused as shut:
        return _Became([], [], [FieldProblem(key, shut.message) for key in texts])
    unfit: list[FieldProblem] = []
    while texts:
        try:
            with act.trying():
                return _Became(*_merge_returned(act, job, part, sent, texts, kept), unfit)
        except Invalid as error:
            found = _not_taken(texts, sent, error.facts.get("problems", ()))
            if not found:
                raise
            unfit += found
            out = {p.where for p in found}
            texts = {key: text for key, text in texts.items() if key not in out}
    return _Became([], [], unfit)


def _not_taken(
    texts: Mapping[str, str], sent: Mapping[str, Sent], problems: Sequence[FieldProblem]
) -> list[FieldProblem]:
    """The units that problems of fields are about: those that are too long themselves, or else all that a field holds."""
    out: dict[str, FieldProblem] = {}
    for problem in problems:
        there = [key for key in texts if slots.top(key) == problem.where]
        long = [k for k in there if (most := sent[k].unit.limit) is not None and len(texts[k]) > most]
        out |= {key: FieldProblem(key, problem.what) for key in long or there}
    return list(out.values())


def _merge_returned(
    act: Act,
    job: Job,
    part: JobEntry,
    sent: Mapping[str, Sent],
    texts: Mapping[str, str],
    kept: Sequence[_Kept],
) -> tuple[list[Outcome], list[str]]:
    kind = act.setup.type(part.type)
    entry = entry_store.entry_by_id(act.conn, part.entry)
    source = drafted(act, entry.id, entry.source_locale)
    if entry_store.edition(act.conn, entry.id, job.locale) is None:
        entry_store.add_edition(act.conn, entry.id, job.locale)
    edition = entry_store.edition(act.conn, entry.id, job.locale)
    assert edition is not None
    target = revisions.content(act.conn, edition.head) if edition.head else EMPTY
    decided = returns.outcomes(kind, sent, texts, source, target)
    merged = returns.merge(kind, source, target, decided, sent)
    merged = _without_gone(act, job, part, kind, source, merged)
    content, left_out = _finished(act, kind, entry, job.locale, merged, source, target)
    made = edition.head
    if content != target:
        note = act.keep("notes.returned", job=job.name)
        if left_out:
            note = act.keep(
                "common.sentences", sentences=[note, act.keep("fitting.left_out", fields=left_out)]
            )
        made = drafts.record(act, kind, entry, edition, content, note, "return")
    store.set_returned(act.conn, job.id, entry.id, made)
    with_it = {key: rest for key, *rest in kept}
    became = ((o.key, "translated", o.text, o.how, *with_it[o.key]) for o in decided)
    store.set_units_whole(act.conn, job.id, entry.id, became)
    return decided, left_out


def _without_gone(
    act: Act, job: Job, part: JobEntry, kind: ContentType, source: Content, merged: Content
) -> Content:
    """Drop texts whose source is gone and that stand as they came; about those that somebody edited it is asked."""
    gone = units.gone(kind, source, merged)
    if not gone:
        return merged
    have = units.target_hashes(kind, merged)
    drop: list[str] = []
    for key in gone:
        came = store.last_text(act.conn, part.entry, job.locale, key)
        if came is not None and units.kept_hash(came, "." in key) == have[key]:
            drop.append(key)
        elif not any(u.key == key for u in store.units_of(act.conn, job.id, part.entry)):
            store.add_gone(act.conn, job.id, part.entry, key)
    return units.without(kind, source, merged, drop)


def _finished(
    act: Act,
    kind: ContentType,
    entry: Entry,
    locale: str,
    content: Content,
    source: Content,
    before: Content,
) -> tuple[Content, list[str]]:
    """What has no words but belongs to an edition: references go along, the slug follows the translated title. What the source holds and its
    field does not take any more is left out: with the labels of the fields that lost anything by that."""
    values = dict(content.fields)
    for spec in kind.belonging(locale):
        wordless = spec.kind != "slug" and not any(
            s.value and to_translate(s.spec) for s in slots.walk([spec], source.fields)
        )
        if wordless and spec.name not in values and spec.name in source.fields:
            values[spec.name] = source.fields[spec.name]
    own = {f.name for f in kind.belonging(locale)}
    # What stood there before stays as it is, whatever its field takes by now, and where there is none any more, too.
    stood = {k: v for k, v in values.items() if v == before.fields.get(k)}
    fresh = {k: v for k, v in values.items() if k in own and k not in stood}
    fitting_ones = _fitting(act, kind, fresh, before)
    left_out = [contenttypes.label_of(kind, k) for k, v in fresh.items() if fitting_ones.get(k) != v]
    canonical = stood | contenttypes.canonical_fields(kind, fitting_ones)
    drafts.follow_title(act, kind, entry, locale, before, canonical, {kind.title: True})
    return replace(content, fields=canonical), left_out


def _fitting(view: View, kind: ContentType, values: Mapping[str, Any], before: Content) -> dict[str, Any]:
    """Values without what their fields do not take and nobody is asked about: words are, by their units, and what the translation holds
    already is for its writers to mend."""
    held = {s.path: s.value for s in slots.filled(kind.fields, before.fields)}

    def keeps(slot: Slot) -> bool:
        return to_translate(slot.spec) or held.get(slot.path) == slot.value

    specs = {spec.name: spec for spec in kind.fields}
    left = {
        name: value if to_translate(specs[name]) else fitting.left_of(view, kind, specs[name], value, keeps)
        for name, value in values.items()
    }
    return {name: value for name, value in left.items() if value is not None}
