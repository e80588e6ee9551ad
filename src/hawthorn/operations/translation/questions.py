"""Questions of translators: asked about a sentence, answered by whoever commissioned the job or writes its source."""

from __future__ import annotations

from hawthorn.core.errors import FieldProblem, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso
from hawthorn.core.translation import keeping
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import at_hand
from hawthorn.operations.translation.translation import find, may_job, require_job, require_translate, told
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs
from hawthorn.store import questions as store
from hawthorn.store.jobs import Job, JobEntry
from hawthorn.store.questions import Question

LONGEST = 2_000
"""So many characters a question or an answer may have."""


@dataclass(frozen=True, slots=True)
class QuestionShown:
    """A question about a sentence, with its answer, and whether whoever looks may answer it."""

    id: int
    entry: str
    key: str
    segment: str
    text: str
    by: str
    at: str
    answer: str
    answered_by: str
    answered_at: str
    may_answer: bool
    context: str


def ask(act: Act, uuid: str, place: tuple[str, str, str], text: str) -> QuestionShown:
    """Ask about a sentence (its entry, unit and segment). Whoever commissioned the job is told."""
    entry, key, segment = place
    at = at_hand.unit(act, uuid, entry, key)
    job, part = at.job, at.part
    at_hand.segment(at, segment)
    require_translate(act, job, part)
    words = _words("text", text)
    id = store.add(act.conn, job.id, (part.entry, key, segment), words, act.identity.id, act.now)
    title = entry_store.title(act.conn, part.entry)
    told(act, "job.asked", job, question=id, key=key, text=words, title=title)
    return _shown(act, job, _get(act, job, id))


def ask_from_outside(
    act: Act, uuid: str, remote: str, place: tuple[str, str, str], text: str, context: str
) -> None:
    """Ask what a bureau asks, once. What is about nothing in the job is asked about its first unit, and says what it named."""
    job = find(act, uuid)
    if not text.strip() or job.bureau_actor != act.identity.id or remote in store.remotes(act.conn, job.id):
        return
    entry, key, segment = place
    try:
        at = at_hand.unit(act, uuid, entry, key)
    except NotFound:
        at = _first(act, job)
        text = act.keep("questions.about_elsewhere", unit=" ".join((key or entry).split())[:80], text=text)
    speaking = [s.id for s in keeping.speaking(at.unit.segments)]
    where = segment if segment in speaking else next(iter(speaking), "")
    words = _words("text", text[:LONGEST])
    seen = context if context.startswith(("https://", "http://")) else ""
    id = store.add(
        act.conn, job.id, (at.part.entry, at.unit.key, where), words, act.identity.id, act.now, (remote, seen)
    )
    title = entry_store.title(act.conn, at.part.entry)
    told(act, "job.asked", job, question=id, key=at.unit.key, text=words, title=title)


def _first(act: Act, job: Job) -> at_hand.AtHand:
    part = jobs.entries(act.conn, job.id)[0]
    return at_hand.unit(act, job.uuid, part.uuid, jobs.units_of(act.conn, job.id, part.entry)[0].key)


def answer(act: Act, uuid: str, id: int, text: str) -> QuestionShown:
    """Answer a question, or answer it otherwise. Whoever asked is told."""
    job = find(act, uuid)
    row = store.get(act.conn, job.id, id)
    if row is None or not _may_answer(act, job, row):
        require_job(act, "commission", job)
    row = _get(act, job, id)
    words = _words("answer", text)
    store.answer(act.conn, id, words, act.identity.id, act.now)
    title = entry_store.title(act.conn, row.entry)
    facts = {"question": id, "key": row.key, "text": row.text, "answer": words, "to": row.actor}
    told(act, "job.answered", job, title=title, **facts)
    return _shown(act, job, _get(act, job, id))


def listing(view: View, job: Job) -> list[QuestionShown]:
    """The questions about a job, in the order in which they were asked."""
    return [_shown(view, job, row) for row in store.of_job(view.conn, job.id)]


def _words(where: str, text: str) -> str:
    words = text.strip()
    if not words or len(words) > LONGEST:
        raise Invalid([FieldProblem(where, said("questions.words", most=LONGEST))])
    return words


def _get(view: View, job: Job, id: int) -> Question:
    row = store.get(view.conn, job.id, id)
    if row is None:
        raise NotFound("questions.not_there", id=id)
    return row


def _may_answer(view: View, job: Job, row: Question) -> bool:
    if may_job(view, "commission", job):
        return True
    part: JobEntry | None = next((p for p in jobs.entries(view.conn, job.id) if p.entry == row.entry), None)
    return part is not None and permission.may(
        view, "write", permission.subject(view, part, part.source_locale)
    )


def _shown(view: View, job: Job, row: Question) -> QuestionShown:
    return QuestionShown(
        id=row.id,
        entry=row.entry_uuid,
        key=row.key,
        segment=row.segment,
        text=row.text,
        by=row.by_name,
        at=iso(row.at),
        answer=row.answer,
        answered_by=row.answered_name or "",
        answered_at=iso(row.answered_at) if row.answered_at else "",
        may_answer=_may_answer(view, job, row),
        context=row.context,
    )
