"""Working together: moving on and overriding, comments, assignments, presence and notifications."""

from __future__ import annotations

from hawthorn import wire
from hawthorn.core import numbers
from hawthorn.operations.collaboration import assignments, comments, notifications, presence
from hawthorn.operations.collaboration.comments import Quote
from hawthorn.operations.release import overriding, review
from hawthorn.operations.runtime.act import Act, View
from hawthorn.service.context import Answer, AtDesk, Who
from hawthorn.service.paging import Paged
from hawthorn.service.routes.content.entries import after
from hawthorn.service.routing import REFUSALS, area

router = area("/api", "collaboration")


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
    "/entries/{id}/{locale}/override",
    response_model=wire.views.Entry,
    operation_id="override",
    responses=REFUSALS,
)
def override(id: str, locale: str, body: wire.release.OverrideAsk, me: Who, desk: AtDesk) -> Answer:
    """Override the gate before a stage for a revision that does not meet it, where the workflow allows the caller to; the reason is kept."""
    return after(
        desk,
        me,
        id,
        locale,
        lambda act: overriding.override(
            act, id, locale, body.stage, body.revision, body.reason, body.common_revision
        ),
    )


@router.get(
    "/entries/{id}/{locale}/comments",
    response_model=wire.collaboration.Comments,
    operation_id="list_comments",
    responses=REFUSALS,
)
def on(id: str, locale: str, me: Who, desk: AtDesk, paged: Paged, strand: str = "draft") -> Answer:
    """The comments on an edition, with where each passage is by now in the draft or another strand."""
    return paged.of(desk.read(me, lambda view: comments.on(view, id, locale, strand)), lambda one: one["id"])


@router.post(
    "/entries/{id}/{locale}/comments",
    status_code=201,
    response_model=wire.collaboration.CommentMade,
    operation_id="make_comment",
    responses=REFUSALS,
)
def make(id: str, locale: str, body: wire.collaboration.CommentAsk, me: Who, desk: AtDesk) -> Answer:
    """Make a comment on an edition, a field or a passage; `@` and a handle name a colleague."""
    quote = Quote(body.quote.exact, body.quote.prefix, body.quote.suffix) if body.quote else None

    def do(act: Act) -> Answer:
        return {"id": comments.make(act, id, locale, body.text, body.field, quote, body.strand)}

    return desk.write(me, do)


@router.get(
    "/dispatches/{id}/comments",
    response_model=wire.collaboration.Comments,
    operation_id="list_dispatch_comments",
    responses=REFUSALS,
)
def on_dispatch(id: str, me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The comments on a dispatch as a whole."""
    return paged.of(desk.read(me, lambda view: comments.on_dispatch(view, id)), lambda one: one["id"])


@router.post(
    "/dispatches/{id}/comments",
    status_code=201,
    response_model=wire.collaboration.CommentMade,
    operation_id="make_dispatch_comment",
    responses=REFUSALS,
)
def make_on_dispatch(id: str, body: wire.collaboration.DispatchCommentAsk, me: Who, desk: AtDesk) -> Answer:
    """Make a comment on a dispatch as a whole; `@` and a handle name a colleague."""
    return desk.write(me, lambda act: {"id": comments.make_on_dispatch(act, id, body.text)})


@router.post("/comments/{id}/reply", status_code=204, operation_id="reply_to_comment", responses=REFUSALS)
def reply(id: str, body: wire.collaboration.ReplyAsk, me: Who, desk: AtDesk) -> None:
    """Answer a comment; one that was resolved is open again."""
    desk.write(me, lambda act: comments.reply(act, id, body.text))


@router.post("/comments/{id}/resolve", status_code=204, operation_id="resolve_comment", responses=REFUSALS)
def resolve(id: str, me: Who, desk: AtDesk) -> None:
    """Say that what a comment was about is settled."""
    desk.write(me, lambda act: comments.resolve(act, id))


@router.post("/comments/{id}/reopen", status_code=204, operation_id="reopen_comment", responses=REFUSALS)
def reopen(id: str, me: Who, desk: AtDesk) -> None:
    """Open a comment again."""
    desk.write(me, lambda act: comments.reopen(act, id))


@router.put(
    "/entries/{id}/{locale}/assignment",
    response_model=wire.views.Entry,
    operation_id="assign",
    responses=REFUSALS,
)
def assign(id: str, locale: str, body: wire.collaboration.AssignAsk, me: Who, desk: AtDesk) -> Answer:
    """Assign an edition to somebody, perhaps until a day."""
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
        presence.here(act, id, body.locale, body.page, body.field, body.typing, body.strand)
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
    return paged.of(desk.read(me, lambda view: presence.with_entry(view, id)), lambda one: one.page)


@router.delete("/presence/{page}", status_code=204, operation_id="leave_page")
def leave_page(page: str, me: Who, desk: AtDesk) -> None:
    """Say that a page of the caller's browser was closed."""
    desk.write(me, lambda act: presence.gone(act, page))


@router.get(
    "/notifications", response_model=wire.collaboration.Notifications, operation_id="list_notifications"
)
def listed(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """What the caller was told, newest first."""

    def look(view: View) -> Answer:
        found = notifications.mine(view, numbers.cursor(paged.cursor), paged.limit)
        return paged.answer(found["items"], found["next"], new=found["new"])

    return desk.read(me, look)


@router.post(
    "/notifications/seen",
    response_model=wire.collaboration.Notifications,
    operation_id="see_notifications",
    responses=REFUSALS,
)
def see(body: wire.collaboration.NotificationsSeen, me: Who, desk: AtDesk) -> Answer:
    """Note that notifications were seen: all up to one, or those about an entry."""

    def do(act: Act) -> Answer:
        notifications.see(act, body.upto, body.entry)
        return notifications.mine(act)

    return desk.write(me, do)


@router.get(
    "/notifications/choices",
    response_model=wire.collaboration.NotificationChoices,
    operation_id="notification_choices",
)
def chosen(me: Who, desk: AtDesk) -> Answer:
    """How the caller hears of each kind of notification."""
    return desk.read(me, notifications.chosen)


@router.put(
    "/notifications/choices",
    response_model=wire.collaboration.NotificationChoices,
    operation_id="choose_notifications",
    responses=REFUSALS,
)
def choose(body: wire.collaboration.NotificationChoose, me: Who, desk: AtDesk) -> Answer:
    """Choose how to hear of kinds of notifications, when the digest comes, and on which day the week's report does."""

    def do(act: Act) -> Answer:
        notifications.choose(act, body.ways, body.digest_hour, body.report or "")
        return notifications.chosen(act)

    return desk.write(me, do)
