"""The translator's table: the sentences of a job one by one."""

from __future__ import annotations

from dataclasses import asdict

from hawthorn import wire
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import questions, table, translation
from hawthorn.operations.translation.table import Edit, Line, Place
from hawthorn.operations.views import show_jobs
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "translation")


def _place(body: wire.translation.SegmentName) -> Place:
    return Place(body.entry, body.key, body.segment)


def _now(view: View, id: str, lines: list[Line]) -> Answer:
    return {"segments": lines, "job": show_jobs.job_line(view, translation.find(view, id))}


@router.get(
    "/jobs/{id}/segments",
    response_model=wire.translation.Segments,
    operation_id="job_segments",
    responses=REFUSALS,
)
def listing(id: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The sentences of a job, in order, with what is worth a look in each."""

    def look(view: View) -> Answer:
        found, more = table.lines(view, id, paged.limit, paged.cursor)
        return paged.answer(found, more)

    return desk.read(me, look)


@router.put(
    "/jobs/{id}/segments",
    response_model=wire.translation.SegmentsNow,
    operation_id="save_segment",
    responses=REFUSALS,
)
def save(id: str, body: wire.translation.SegmentSave, me: Who, desk: AtDesk) -> Answer:
    """Keep what somebody wrote for a sentence; refused when another wrote there since."""

    def do(act: Act) -> Answer:
        edit = Edit(body.target, body.before, body.state, body.remark)
        return _now(act, id, table.save(act, id, _place(body), edit))

    return desk.write(me, do)


@router.post(
    "/jobs/{id}/segments/check",
    response_model=wire.translation.Findings,
    operation_id="check_segment",
    responses=REFUSALS,
)
def check(id: str, body: wire.translation.SegmentCheck, me: Who, desk: AtDesk) -> Answer:
    """What is worth a look in a target that somebody types; nothing is kept."""
    return {"findings": desk.read(me, lambda view: table.check(view, id, _place(body), body.target))}


@router.post(
    "/jobs/{id}/segments/split",
    response_model=wire.translation.SegmentsNow,
    operation_id="split_segment",
    responses=REFUSALS,
)
def split(id: str, body: wire.translation.SegmentSplit, me: Who, desk: AtDesk) -> Answer:
    """Cut a sentence in two."""
    return desk.write(me, lambda act: _now(act, id, table.split(act, id, _place(body), body.at)))


@router.post(
    "/jobs/{id}/segments/join",
    response_model=wire.translation.SegmentsNow,
    operation_id="join_segments",
    responses=REFUSALS,
)
def join(id: str, body: wire.translation.SegmentName, me: Who, desk: AtDesk) -> Answer:
    """Make one of a sentence and the next of its unit."""
    return desk.write(me, lambda act: _now(act, id, table.join(act, id, _place(body))))


@router.post(
    "/jobs/{id}/deliver",
    response_model=wire.translation.ImportResult,
    operation_id="deliver_job",
    responses=REFUSALS,
)
def deliver(id: str, me: Who, desk: AtDesk) -> Answer:
    """Put every unit that is translated at the table into its edition, as importing a file with them would."""

    def do(act: Act) -> Answer:
        found = table.deliver(act, id)
        return {**asdict(found), "job": show_jobs.job_line(act, translation.find(act, id))}

    return desk.write(me, do)


@router.post(
    "/jobs/{id}/send-back",
    response_model=wire.translation.SegmentsNow,
    operation_id="send_unit_back",
    responses=REFUSALS,
)
def send_back(id: str, body: wire.translation.UnitSendBack, me: Who, desk: AtDesk) -> Answer:
    """Open a unit again that had returned, and say why; what stands in the edition stays until it is put in anew."""
    return desk.write(me, lambda act: _now(act, id, table.send_back(act, id, body.entry, body.key, body.why)))


@router.post(
    "/jobs/{id}/questions",
    status_code=201,
    response_model=wire.translation.Question,
    operation_id="ask_about_segment",
    responses=REFUSALS,
)
def ask(id: str, body: wire.translation.Ask, me: Who, desk: AtDesk) -> Answer:
    """Ask about a sentence; whoever commissioned the job is told."""
    place = (body.entry, body.key, body.segment)
    return desk.write(me, lambda act: questions.ask(act, id, place, body.text))


@router.post(
    "/jobs/{id}/questions/{number}/answer",
    response_model=wire.translation.Question,
    operation_id="answer_question",
    responses=REFUSALS,
)
def answer(id: str, number: int, body: wire.translation.Answer, me: Who, desk: AtDesk) -> Answer:
    """Answer a question, or answer it otherwise; whoever asked is told."""
    return desk.write(me, lambda act: questions.answer(act, id, number, body.answer))
