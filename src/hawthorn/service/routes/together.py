"""Working together: moving on and letting through, remarks, assignments, presence and notices."""

from __future__ import annotations

from hawthorn import wire
from hawthorn.core import numbers
from hawthorn.operations.collaboration import assignments, notices, presence, remarks
from hawthorn.operations.collaboration.remarks import Quote
from hawthorn.operations.release import review
from hawthorn.operations.runtime.act import Act, View
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged
from hawthorn.service.routes.entries import REFUSALS, after
from hawthorn.service.routing import area

router = area("/api", "together")


@router.post(
    "/entries/{id}/{locale}/move-on",
    response_model=wire.views.Entry,
    operation_id="move_on",
    responses=REFUSALS,
)
def move_on(id: str, locale: str, me: Who, desk: AtDesk) -> Answer:
    """Let what waits go to the next stage once the gate holds, after what was amiss is mended."""
    return after(desk, me, id, locale, lambda act: review.move_on(act, id, locale))


@router.post(
    "/entries/{id}/{locale}/pass",
    response_model=wire.views.Entry,
    operation_id="pass_without",
    responses=REFUSALS,
)
def pass_without(id: str, locale: str, body: wire.release.PassAsk, me: Who, desk: AtDesk) -> Answer:
    """Let a revision through the gate before a stage without what it lacks, if the gate lets the caller; the reason is kept."""
    return after(
        desk,
        me,
        id,
        locale,
        lambda act: review.pass_without(act, id, locale, body.stage, body.revision, body.reason),
    )


@router.get(
    "/entries/{id}/{locale}/remarks",
    response_model=wire.collaboration.Remarks,
    operation_id="list_remarks",
    responses=REFUSALS,
)
def on(id: str, locale: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The remarks on an edition, with where each passage is by now."""
    return paged.of(desk.read(me, lambda view: remarks.on(view, id, locale)), lambda one: one["id"])


@router.post(
    "/entries/{id}/{locale}/remarks",
    status_code=201,
    response_model=wire.collaboration.RemarkMade,
    operation_id="make_remark",
    responses=REFUSALS,
)
def make(id: str, locale: str, body: wire.collaboration.RemarkAsk, me: Who, desk: AtDesk) -> Answer:
    """Make a remark on an edition, a field or a passage; `@` and a handle name a colleague."""
    quote = Quote(body.quote.exact, body.quote.prefix, body.quote.suffix) if body.quote else None
    return desk.write(me, lambda act: {"id": remarks.make(act, id, locale, body.text, body.field, quote)})


@router.post("/remarks/{id}/reply", status_code=204, operation_id="answer_remark", responses=REFUSALS)
def reply(id: str, body: wire.collaboration.ReplyAsk, me: Who, desk: AtDesk) -> None:
    """Answer a remark; one that was resolved is open again."""
    desk.write(me, lambda act: remarks.reply(act, id, body.text))


@router.post("/remarks/{id}/resolve", status_code=204, operation_id="resolve_remark", responses=REFUSALS)
def resolve(id: str, me: Who, desk: AtDesk) -> None:
    """Say that what a remark was about is settled."""
    desk.write(me, lambda act: remarks.resolve(act, id))


@router.post("/remarks/{id}/reopen", status_code=204, operation_id="reopen_remark", responses=REFUSALS)
def reopen(id: str, me: Who, desk: AtDesk) -> None:
    """Open a remark again."""
    desk.write(me, lambda act: remarks.reopen(act, id))


@router.put(
    "/entries/{id}/{locale}/assignment",
    response_model=wire.views.Entry,
    operation_id="assign",
    responses=REFUSALS,
)
def assign(id: str, locale: str, body: wire.collaboration.AssignAsk, me: Who, desk: AtDesk) -> Answer:
    """Give an edition into somebody's hands, perhaps until a day."""
    return after(
        desk,
        me,
        id,
        locale,
        lambda act: assignments.assign(act, id, locale, body.handle, body.due, body.note),
    )


@router.post(
    "/entries/{id}/{locale}/assignment/end",
    response_model=wire.views.Entry,
    operation_id="end_assignment",
    responses=REFUSALS,
)
def end_assignment(
    id: str, locale: str, body: wire.collaboration.AssignmentEnd, me: Who, desk: AtDesk
) -> Answer:
    """Say that an assignment is done, or not needed any more."""
    return after(desk, me, id, locale, lambda act: assignments.end(act, id, locale, body.done))


@router.put(
    "/entries/{id}/presence",
    response_model=wire.collaboration.Presence,
    operation_id="be_present",
    responses=REFUSALS,
)
def be_present(id: str, body: wire.collaboration.PresenceAsk, me: Who, desk: AtDesk) -> Answer:
    """Say that an entry is open in a page of the caller's browser; answers with everybody who has it open.

    It counts for 45 seconds, so it is said again before that, and at once when the cursor moves to another field.
    """

    def do(act: Act) -> Answer:
        presence.here(act, id, body.locale, body.page, body.field, body.typing)
        return {"items": presence.with_entry(act, id)}

    return desk.write(me, do)


@router.get(
    "/entries/{id}/presence",
    response_model=wire.collaboration.Presence,
    operation_id="who_is_present",
    responses=REFUSALS,
)
def who_is_present(id: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """Who has an entry open now, and in which field."""
    return paged.of(desk.read(me, lambda view: presence.with_entry(view, id)), lambda one: one["page"])


@router.delete("/presence/{page}", status_code=204, operation_id="leave_page")
def leave_page(page: str, me: Who, desk: AtDesk) -> None:
    """Say that a page of the caller's browser was closed."""
    desk.write(me, lambda act: presence.gone(act, page))


@router.get("/notices", response_model=wire.collaboration.Notices, operation_id="list_notices")
def listed(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """What the caller was told, newest first."""

    def look(view: View) -> Answer:
        found = notices.mine(view, numbers.cursor(paged.cursor), paged.limit)
        return paged.answer(found["items"], found["next"], new=found["new"])

    return desk.read(me, look)


@router.post(
    "/notices/seen", response_model=wire.collaboration.Notices, operation_id="see_notices", responses=REFUSALS
)
def see(body: wire.collaboration.NoticesSeen, me: Who, desk: AtDesk) -> Answer:
    """Note that notices were seen: all up to one, or those about an entry."""

    def do(act: Act) -> Answer:
        notices.see(act, body.upto, body.entry)
        return notices.mine(act)

    return desk.write(me, do)


@router.get(
    "/notices/choices", response_model=wire.collaboration.NoticeChoices, operation_id="notice_choices"
)
def chosen(me: Who, desk: AtDesk) -> Answer:
    """How the caller hears of each kind of notice."""
    return desk.read(me, notices.chosen)


@router.put(
    "/notices/choices",
    response_model=wire.collaboration.NoticeChoices,
    operation_id="choose_notices",
    responses=REFUSALS,
)
def choose(body: wire.collaboration.NoticeChoose, me: Who, desk: AtDesk) -> Answer:
    """Choose how to hear of kinds of notices, and when the digest comes."""

    def do(act: Act) -> Answer:
        notices.choose(act, body.ways, body.digest_hour)
        return notices.chosen(act)

    return desk.write(me, do)
