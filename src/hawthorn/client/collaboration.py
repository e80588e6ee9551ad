"""The calls of collaboration: comments, assignments, presence and notifications."""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import quote

from hawthorn import wire
from hawthorn.client.requests import Request, call, entry_at, into, nothing, page


class CollaborationCalls:
    """The calls of collaboration, without a way to send them."""

    @call
    def comments(
        self, id: str, locale: str, *, strand: str = "draft", limit: int = 0, cursor: str = ""
    ) -> Request[wire.collaboration.Comments]:
        """The comments on an edition, with where each passage is in its draft or another strand."""
        return Request(
            "GET",
            entry_at(id, locale, "comments"),
            into(wire.collaboration.Comments),
            params={"strand": strand, **page(limit, cursor)},
        )

    @call
    def comment(
        self,
        id: str,
        locale: str,
        text: str,
        *,
        field: str = "",
        quote: Mapping[str, str] | None = None,
        strand: str = "draft",
    ) -> Request[wire.collaboration.CommentMade]:
        """Make a comment on an edition, a field or a passage (`quote` with exact, prefix and suffix), in its draft or another strand."""
        body = {"text": text, "field": field, "quote": dict(quote) if quote else None, "strand": strand}
        return Request(
            "POST", entry_at(id, locale, "comments"), into(wire.collaboration.CommentMade), json=body
        )

    @call
    def dispatch_comments(
        self, id: str, *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.collaboration.Comments]:
        """The comments on a dispatch as a whole."""
        path = f"/api/dispatches/{quote(id)}/comments"
        return Request("GET", path, into(wire.collaboration.Comments), params=page(limit, cursor))

    @call
    def comment_on_dispatch(self, id: str, text: str) -> Request[wire.collaboration.CommentMade]:
        """Make a comment on a dispatch as a whole."""
        path = f"/api/dispatches/{quote(id)}/comments"
        return Request("POST", path, into(wire.collaboration.CommentMade), json={"text": text})

    @call
    def reply_to_comment(self, comment: str, text: str) -> Request[None]:
        """Answer a comment."""
        return Request("POST", f"/api/comments/{quote(comment)}/reply", nothing, json={"text": text})

    @call
    def resolve_comment(self, comment: str) -> Request[None]:
        """Say that what a comment was about is settled."""
        return Request("POST", f"/api/comments/{quote(comment)}/resolve", nothing)

    @call
    def reopen_comment(self, comment: str) -> Request[None]:
        """Open a comment again."""
        return Request("POST", f"/api/comments/{quote(comment)}/reopen", nothing)

    @call
    def assign(
        self, id: str, locale: str, handle: str, *, due: str = "", note: str = ""
    ) -> Request[wire.views.Entry]:
        """Assign an edition to somebody, perhaps until a day."""
        body = {"handle": handle, "due": due, "note": note}
        return Request("PUT", entry_at(id, locale, "assignment"), into(wire.views.Entry), json=body)

    @call
    def end_assignment(self, id: str, locale: str, *, done: bool = True) -> Request[wire.views.Entry]:
        """Say that an assignment is done, or not needed any more."""
        return Request(
            "POST", entry_at(id, locale, "assignment", "end"), into(wire.views.Entry), json={"done": done}
        )

    @call
    def tasks_of_person(
        self, handle: str, *, limit: int = 0, cursor: str = ""
    ) -> Request[wire.collaboration.Tasks]:
        """What somebody has to do and answers for, also one who has left."""
        path = f"/api/people/{quote(handle)}/tasks"
        return Request("GET", path, into(wire.collaboration.Tasks), params=page(limit, cursor))

    @call
    def reassign_tasks(self, handle: str, to: str) -> Request[wire.collaboration.Reassigned]:
        """Give what somebody has to do to somebody else; what the other may not do stays, and is named."""
        return Request(
            "POST",
            f"/api/people/{quote(handle)}/tasks/reassign",
            into(wire.collaboration.Reassigned),
            json={"to": to},
        )

    @call
    def be_present(
        self, id: str, locale: str, page: str, *, field: str = "", typing: bool = False, strand: str = "draft"
    ) -> Request[wire.collaboration.Presence]:
        """Say that an entry is open, on which strand of it; answers with everybody who has it open."""
        body = {"page": page, "locale": locale, "strand": strand, "field": field, "typing": typing}
        path = f"/api/entries/{quote(id)}/presence"
        return Request("PUT", path, into(wire.collaboration.Presence), json=body)

    @call
    def who_is_present(self, id: str) -> Request[wire.collaboration.Presence]:
        """Who has an entry open."""
        return Request("GET", f"/api/entries/{quote(id)}/presence", into(wire.collaboration.Presence))

    @call
    def leave_page(self, page: str) -> Request[None]:
        """Say that a page was closed."""
        return Request("DELETE", f"/api/presence/{quote(page)}", nothing)

    @call
    def notifications(
        self, *, limit: int = 30, cursor: str = ""
    ) -> Request[wire.collaboration.Notifications]:
        """What one was told, newest first."""
        return Request(
            "GET", "/api/notifications", into(wire.collaboration.Notifications), params=page(limit, cursor)
        )

    @call
    def see_notifications(
        self, *, upto: int = 0, entry: str = ""
    ) -> Request[wire.collaboration.Notifications]:
        """Note that notifications were seen: all up to one, or those about an entry."""
        return Request(
            "POST",
            "/api/notifications/seen",
            into(wire.collaboration.Notifications),
            json={"upto": upto, "entry": entry},
        )

    @call
    def notification_choices(self) -> Request[wire.collaboration.NotificationChoices]:
        """How one hears of each kind of notification."""
        return Request("GET", "/api/notifications/choices", into(wire.collaboration.NotificationChoices))

    @call
    def choose_notifications(
        self, ways: Mapping[str, str], digest_hour: int | None = None, report: str | None = None
    ) -> Request[wire.collaboration.NotificationChoices]:
        """Choose how to hear of kinds of notifications, when the digest comes, and on which day the week's report does (monday …, none)."""
        body = {"ways": dict(ways), "digest_hour": digest_hour, "report": report}
        return Request(
            "PUT", "/api/notifications/choices", into(wire.collaboration.NotificationChoices), json=body
        )
