"""What crosses HTTP about working together: remarks, assignments, presence, notices."""

from __future__ import annotations

from pydantic import Field

from hawthorn.wire.base import Page, Shortened, Wire


class Assignment(Wire):
    """Who has an edition in hand; `state` is “due” or “late” or nothing."""

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


class RemarkAsk(Wire):
    """A remark on an edition, on a field by its path, or on a passage of it. `@` and a handle name a colleague."""

    text: str
    field: str = ""
    quote: QuoteAsk | None = None


class ReplyAsk(Wire):
    """An answer to a remark."""

    text: str


class RemarkPassage(Wire):
    """Where a passage is by now: characters of a leaf (by its place in the text), or that it is gone."""

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


class Remark(Shortened):
    """A remark with its answers."""

    locale: str
    field: str
    label: str
    by: str
    handle: str
    by_kind: str
    at: str
    text: str
    passage: RemarkPassage | None
    replies: list[Reply]
    resolved_by: str
    resolved_at: str


class Remarks(Page):
    """The remarks on an edition, in their order."""

    items: list[Remark]


class RemarkMade(Wire):
    """The id of a new remark."""

    id: str


class AssignAsk(Wire):
    """Who gets an edition into their hands, and by which day."""

    handle: str
    due: str = Field(default="", description="A day, as 2030-01-31.")
    note: str = ""


class AssignmentEnd(Wire):
    """Whether an assignment is done, or only not needed any more."""

    done: bool = True


class PresenceAsk(Wire):
    """Where somebody is: a page of a browser (any id of its own), the field with the cursor, whether they type."""

    page: str = Field(min_length=8, max_length=64)
    locale: str
    field: str = Field(default="", max_length=200)
    typing: bool = False


class Present(Wire):
    """Somebody who has an entry open."""

    page: str
    handle: str
    name: str
    locale: str
    field: str
    typing: bool
    since: str


class Presence(Page):
    """Everybody who has an entry open."""

    items: list[Present]


class NoticeLine(Wire):
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


class Notices(Page):
    """Notices, newest first; `new` says how many were not seen, up to 100."""

    items: list[NoticeLine]
    new: int


class NoticesSeen(Wire):
    """Which notices were seen: all up to one, or those about an entry."""

    upto: int = 0
    entry: str = ""


class NoticeKind(Wire):
    """How somebody hears of a kind of notice."""

    kind: str
    label: str
    way: str


class NoticeChoices(Wire):
    """How somebody hears of each kind, and the local hour of the digest."""

    kinds: list[NoticeKind]
    ways: list[str]
    digest_hour: int


class NoticeChoose(Wire):
    """Ways to hear of kinds, and the hour of the digest."""

    ways: dict[str, str] = {}
    digest_hour: int | None = None
