"""What crosses HTTP about working together: comments, assignments, presence, notifications."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hawthorn.wire.base import Page, Shortened, Wire


class Assignment(Wire):
    """To whom an edition is assigned; `state` is “due” or “late” or nothing."""

    holder: str
    handle: str
    by: str
    at: str
    due: str
    state: str
    note: str


class QuoteAsk(Wire):
    """The words of a passage with some before and after (Web Annotation Data Model, section 4.2.4)."""

    exact: str = Field(min_length=1, max_length=2_000)
    prefix: str = Field(default="", max_length=200)
    suffix: str = Field(default="", max_length=200)


class CommentAsk(Wire):
    """A comment on an edition, on a field by its path, or on a passage of it, in the draft or another strand. `@` and a handle name a colleague."""

    text: str
    field: str = ""
    quote: QuoteAsk | None = None
    strand: str = "draft"


class DispatchCommentAsk(Wire):
    """A comment on a dispatch. `@` and a handle name a colleague."""

    text: str


class ReplyAsk(Wire):
    """An answer to a comment."""

    text: str


class CommentPassage(Wire):
    """Where a passage is by now: characters of a paragraph (by its place in the text), or that it is gone."""

    quote: str
    gone: bool
    block: str
    index: int
    first: int
    past: int
    now: str


class Reply(Wire):
    """An answer."""

    by: str
    handle: str
    at: str
    text: str


class Comment(Shortened):
    """A comment with its answers."""

    locale: str
    strand: str
    field: str
    label: str
    by: str
    handle: str
    by_kind: str
    at: str
    text: str
    passage: CommentPassage | None
    replies: list[Reply]
    resolved_by: str
    resolved_at: str


class Comments(Page):
    """The comments on an edition, in their order."""

    items: list[Comment]


class CommentMade(Wire):
    """The id of a new comment."""

    id: str


class AssignAsk(Wire):
    """To whom an edition is assigned, and by which day."""

    handle: str
    due: str = Field(default="", description="A day, as 2030-01-31.")
    note: str = ""


class AssignmentEnd(Wire):
    """Whether an assignment is done, or only not needed any more."""

    done: bool = True


class PresenceAsk(Wire):
    """Where somebody is: a page of a browser (any id of its own), the strand that is open in it, the field with the cursor, whether they type."""

    page: str = Field(min_length=8, max_length=64)
    locale: str
    strand: str = Field(default="draft", max_length=200)
    field: str = Field(default="", max_length=200)
    typing: bool = False


class Present(Wire):
    """Somebody who has an entry open."""

    page: str
    handle: str
    name: str
    locale: str
    strand: str
    field: str
    typing: bool
    since: str


class Presence(Page):
    """Everybody who has an entry open."""

    items: list[Present]


class NotificationLine(Wire):
    """Something that somebody was told."""

    id: int
    kind: str
    at: str
    by: str
    says: str
    body: str
    path: str
    entry: str
    new: bool


class Notifications(Page):
    """Notifications, newest first; `new` says how many were not seen, up to 100."""

    items: list[NotificationLine]
    new: int


class NotificationsSeen(Wire):
    """Which notifications were seen: all up to one, or those about an entry."""

    upto: int = 0
    entry: str = ""


ReportDay = Literal["none", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"]


class NotificationKind(Wire):
    """How somebody hears of a kind of notification."""

    kind: str
    label: str
    way: str


class NotificationChoices(Wire):
    """How somebody hears of each kind, the local hour of the digest, and the day of the week's report."""

    kinds: list[NotificationKind]
    ways: list[str]
    digest_hour: int
    report: ReportDay = Field(
        description="The day on which the week's report comes by mail, at the hour of the digest."
    )


class NotificationChoose(Wire):
    """Ways to hear of kinds, the hour of the digest, and the day of the week's report; what is not given stays."""

    ways: dict[str, str] = {}
    digest_hour: int | None = None
    report: ReportDay | None = Field(
        default=None, description="The day on which the week's report comes by mail; none for no report."
    )


TaskKind = Literal["assignment", "job", "dispatch", "commission", "standing-commission", "gate"]
"""What somebody has to do or answers for: an edition that is assigned to them, a job that they translate, a dispatch that they answer for, a
commission that they collect, what goes for translation in their name, a gate at which nobody else is named."""


class Task(Wire):
    """Something that somebody has to do, or answers for."""

    kind: TaskKind
    id: str = Field(
        description="The entry, the job, the dispatch and so on; of a gate its workflow, by name."
    )
    locale: str = Field(description="The locale, where it is of one; else empty.")
    name: str = Field(description="What it is called.")
    due: str = Field(description="The day, or of a dispatch the instant, by which it is due; empty for none.")
    may_move: bool = Field(description="Whether it can be given to somebody else with the others.")


class Tasks(Page):
    """What somebody has to do."""

    items: list[Task]


class ReassignAsk(Wire):
    """Who gets what somebody else has to do."""

    to: str = Field(description="The person, by handle.", examples=["oda"])


class TaskLeft(Task):
    """Something that was not given to somebody else, and why."""

    why: str


class Reassigned(Wire):
    """What became of somebody's tasks."""

    moved: int = Field(description="So many were given to somebody else.")
    left: list[TaskLeft] = Field(description="What stays with whoever had it.")
