"""What crosses HTTP about delivery: the outline, sites, previews, what searches show, and webhooks."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from hawthorn.wire.base import Named, Page, Wire
from hawthorn.wire.release import Bead, Planned


class SiteSpec(Wire):
    """A place where pages are seen: what it shows by itself, and the address of the pages of each type."""

    name: str
    label: str = ""
    stage: str = "release"
    addresses: dict[str, str]


class SearchCheck(Wire):
    """One thing wrong with what a page says to searches."""

    field: str
    code: Literal["missing", "too-long", "twice"]
    text: str
    others: list[Named] = []


class SearchAndSharing(Wire):
    """What a page says to searches, and the room that it takes and there is."""

    title: str
    description: str
    picture: str | None
    title_room: list[int]
    description_room: list[int]
    fields: dict[str, str]
    checks: list[SearchCheck]


class LayoutPart(Wire):
    """The layout that an entry follows: what stands in for each region that it leaves empty."""

    id: str
    title: str
    values: dict[str, Any]


class OutlineLine(Wire):
    """An entry in the outline at a stage and instant. `locale` is that of the title: the wanted one, else the source's."""

    id: str
    type: str
    type_label: str
    title: str
    locale: str
    rank: str
    incomplete: bool
    behind: bool
    has_below: bool
    movable: bool = Field(description="Whether its type has a place that can be changed.")
    rail: list[Bead]
    planned: list[Planned]


class OutlineLevel(Page):
    """The entries below one, in order, and the types that may be started there."""

    items: list[OutlineLine]
    allowed: list[str]


class OutlineTrail(Wire):
    """An entry and all above it, the topmost first."""

    items: list[OutlineLine]


class OutlineMatch(Wire):
    """A page that was found, with the titles of what is above it."""

    line: OutlineLine
    above: list[str]


class OutlineMatches(Page):
    """Pages that were found."""

    items: list[OutlineMatch]


class OutlineMove(Wire):
    """Where to place an entry: below another (empty for the top), before or after one of those there, else last. Without
    `below` it comes to stand beside the one that it is placed before or after. Or `placement`, as an earlier answer gave it, to
    put it back."""

    below: str | None = None
    before: str = ""
    after: str = ""
    placement: Any = Field(default=None, description="What undoes a move; then the rest is not looked at.")
    undo: bool = False


class OutlineMoved(Wire):
    """What a move did. `was` is the placement before it, as `placement` takes it."""

    line: OutlineLine | None
    was: Any
    etag: str


class OutlineCopyAsk(Wire):
    """Where the copy comes to stand: below an entry, at the top (empty), or beside the original (nothing)."""

    below: str | None = None


class OutlineCopied(Wire):
    """The copy of an entry and of all below it."""

    id: str
    entries: int


class Sites(Wire):
    """Where pages are seen."""

    sites: list[SiteSpec]


class SiteTrialAsk(Wire):
    """A site to try, saved or not, on an entry (else one of ours)."""

    site: SiteSpec
    entry: str = ""
    locale: str = ""


class SiteFinding(Wire):
    """One thing that was tried at an address, what was found, and how to mend it."""

    code: Literal["value", "answer", "framing", "script", "draft", "cookie"]
    well: bool
    what: str
    remedy: str


class SiteTrial(Wire):
    """What trying an address found."""

    url: str
    title: str
    findings: list[SiteFinding]


class PageAddress(Wire):
    """The address of a page at one site. `missing` names the values that are missing in the entry for it."""

    site: str
    label: str
    stage: str
    url: str
    missing: list[str]


class PaneAsk(Wire):
    """A preview for oneself: at a stage, at an instant, on a strand, or as if a dispatch had gone."""

    stage: str = "draft"
    at: str = ""
    strand: str = ""
    dispatch: str = ""


class Pane(Wire):
    """A preview for oneself. `token` is what addresses carry."""

    id: str
    token: str
    expires_at: str


class PageAddresses(Wire):
    """The addresses of an entry's page at every site."""

    items: list[PageAddress]


class Typed(Wire):
    """What is being typed into an entry."""

    entry: str
    locale: str
    fields: dict[str, Any]


class TypedProblem(Wire):
    """A value that its field cannot take."""

    field: str
    problem: str


class TypedResult(Wire):
    """What of the typed text cannot be shown."""

    problems: list[TypedProblem]


class LinkAsk(Wire):
    """A link for somebody without an account. `lasts` is in seconds."""

    scope: Literal["entry", "section", "strand", "dispatch"]
    entry: str
    stage: str = "draft"
    at: str = ""
    strand: str = ""
    dispatch: str = ""
    lasts: int = Field(default=7 * 86_400, ge=60, le=90 * 86_400)
    name: str = Field(default="", max_length=120)


class LinkUse(Wire):
    """One use of a link."""

    at: str
    what: str
    agent: str


class Link(Wire):
    """A link that was given out."""

    id: str
    name: str
    scope: str
    entry: str
    title: str
    strand: str
    dispatch: str | None = Field(description="The dispatch whose changes it shows.")
    dispatch_name: str
    stage: str
    at: str | None
    by: str
    created_at: str
    expires_at: str
    ended_at: str | None
    over: bool
    addresses: list[PageAddress]
    uses: list[LinkUse]


class Links(Page):
    """Links that were given out."""

    items: list[Link]


class ShowingPage(Wire):
    """A page that shows an entry, or a block or layout through which pages do; and the locales in which it is out."""

    id: str
    type: str
    title: str
    locale: str
    out: list[str]
    page: bool


class Showing(Page):
    """The pages that show an entry and change with it."""

    items: list[ShowingPage]
    total: int
    out: int
    more: bool
    shown_whole: bool = Field(
        description="Whether pages show it whole, so that they change when it moves on."
    )


class SearchAndSharingLine(SearchAndSharing):
    """A page whose text for searches and sharing has something wrong with it."""

    id: str
    type: str
    locale: str
    name: str


class SearchAndSharingPage(Page):
    """Pages whose text for searches and sharing has something wrong with it."""

    items: list[SearchAndSharingLine]


class LastChange(Wire):
    """How far what happened is, and whether what a preview shows changed since the number that was given."""

    seq: int
    changed: bool


class WebhookAsk(Wire):
    """Who is told, and of what; empty lists mean all."""

    name: str
    url: str
    kinds: list[str] | None = Field(
        default=None, description="Of what; all after which readers see something else where it is not said."
    )
    types: list[str] = []
    sections: list[str] = []
    stages: list[str] = []


class WebhookChange(Wire):
    """What to change of a webhook; what is not named stays."""

    name: str | None = None
    url: str | None = None
    kinds: list[str] | None = None
    types: list[str] | None = None
    sections: list[str] | None = None
    stages: list[str] | None = None


class Webhook(Wire):
    """Somebody who is told of events over HTTP."""

    id: str
    name: str
    url: str
    kinds: list[str]
    types: list[str]
    sections: list[str]
    stages: list[str]
    state: Literal["on", "off"]
    trouble: str
    waiting: int
    both_until: str | None
    by: str
    at: str


class WebhookMade(Webhook):
    """A webhook with its secret, which is shown this once."""

    secret: str


class Webhooks(Page):
    """Who is told of events over HTTP."""

    items: list[Webhook]


class RotateAsk(Wire):
    """For how long what is sent is signed with both secrets."""

    seconds: int = 86_400


class WebhookTry(Wire):
    """One try to send something."""

    at: str
    status: int
    took: int
    trouble: str


class WebhookTrial(Wire):
    """What a receiver answered to a test."""

    answers: bool
    status: int
    took: int
    trouble: str


class Delivery(Wire):
    """Something that was sent to a webhook, or waits to be."""

    id: int
    message: str
    kind: str
    state: Literal["waiting", "delivered", "given up"]
    next_at: str | None
    body: str
    tries: list[WebhookTry]


class Deliveries(Page):
    """What was sent to a webhook, newest first."""

    items: list[Delivery]


class SwitchAsk(Wire):
    """Whether it is told of events."""

    on: bool
