"""What crosses HTTP about reviews, gates that are ahead, and dispatches."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from hawthorn.wire.base import Page, Shortened, Wire

DispatchAct = Literal[
    "change",
    "plan",
    "replan",
    "send",
    "reopen",
    "cancel",
    "describe",
    "undo",
    "submit",
    "sign",
    "send-back",
    "take-back",
]


class Bead(Wire):
    """One bead of the rail."""

    stage: str
    label: str
    state: Literal["head", "older", "none"]
    revision: int | None
    behind: int
    text: str
    since: str | None = None


class Planned(Wire):
    """A planned move of an edition."""

    dispatch: str
    name: str
    verb: str
    instant: str
    wall: str
    zone: str
    revision: int | None
    goes: bool = True


class Missing(Wire):
    """A required field that is empty."""

    field: str
    label: str


class Review(Wire):
    """The newest submission of an edition."""

    stage: str
    revision: int
    common_revision: int | None = None
    by: str
    at: str
    note: str
    outcome: str
    decided_by: str
    decided_at: str
    reason: str


class SignOff(Wire):
    """Somebody's approval of one revision."""

    by: str
    at: str
    stage: str
    revision: int
    covers_head: bool
    covers_common: bool
    note: str


class WorkflowFollowed(Wire):
    """The workflow that an edition follows, and why."""

    name: str
    label: str
    why: str


class UnmetAhead(Wire):
    """One condition that does not hold."""

    code: str
    what: str
    where: str
    verb: str


class GateAhead(Wire):
    """The gate before the next stage, and what it finds missing in what waits, or of the draft."""

    stage: str
    label: str
    sign_offs: int
    given: list[str]
    unmet: list[UnmetAhead]
    moved: list[str] = Field(description="What the text shows that moved on after it was signed off.")
    embedded: str
    may_override: bool = Field(description="Whether the caller may override it.")
    common_revision: int | None = None


class OverrideLine(Wire):
    """Somebody overrode a gate for a revision."""

    by: str
    at: str
    stage: str
    revision: int
    reason: str


class SignedBefore(Wire):
    """A revision that somebody signed off."""

    revision: int
    at: str


class SignOffAsk(Wire):
    """The number of the revision that was looked at, which must be the one in review."""

    revision: int
    common_revision: int | None = None
    note: str = ""


class SendBack(Wire):
    """Why it is sent back."""

    reason: str


class Note(Wire):
    """A note to go with an act."""

    note: str = ""


class MoveAsk(Wire):
    """A move: an entry in a locale, and what to do with it."""

    id: str
    locale: str
    verb: str = "release"
    revision: int | None = None
    regress: Annotated[bool, Field(description="Going back behind what is out is meant.")] = False
    payload: dict[str, Any] = Field(default_factory=dict)
    follows: bool = False


class WhenAsk(Wire):
    """An instant with its offset, or a wall time in a zone; `fold` chooses at a clock change."""

    instant: str = ""
    wall: str = ""
    zone: str = ""
    fold: Literal["", "earlier", "later"] = ""


class DispatchAsk(Wire):
    """A dispatch to make; without `when` it goes now, unless it stays `open`."""

    moves: list[MoveAsk]
    when: WhenAsk | None = None
    name: str = ""
    note: str = ""
    with_needs: bool = False
    open: bool = False
    owner: str = ""
    partial: bool = False
    override_quiet: bool = False
    until: WhenAsk | None = None


class DispatchChange(Wire):
    """What to change of a dispatch; what is not named stays."""

    name: str | None = None
    note: str | None = None
    owner: str | None = None
    partial: bool | None = None


class MovesAsk(Wire):
    """Moves to put into an open dispatch."""

    moves: list[MoveAsk] = Field(min_length=1)
    below: bool = False


class NamedEdition(Wire):
    """An entry in a locale."""

    id: str
    locale: str = ""


class MovesDrop(Wire):
    """What to take out of an open dispatch."""

    moves: list[NamedEdition] = Field(min_length=1)


class WriteAsk(Wire):
    """The entry to write inside a dispatch, and in which locale."""

    id: str
    locale: str


class SignedMove(NamedEdition):
    """An entry in a locale, with the revision that was looked at."""

    revision: int | None = None


class SignAsk(Wire):
    """What of a dispatch is signed off: all that it brings, or what is named (in every locale without one)."""

    moves: list[SignedMove] = []
    note: str = ""


class DispatchReason(Wire):
    """Why a dispatch is sent back."""

    reason: str


class NoteAsk(Wire):
    """What whoever reviews should know."""

    note: str = ""


class PlanAsk(Wire):
    """When an open dispatch is to go; without a time at the one that it has."""

    when: WhenAsk | None = None
    with_needs: bool = False
    override_quiet: bool = False


class SendAsk(Wire):
    """Let a dispatch go now."""

    with_needs: bool = False
    override_quiet: bool = False


class ReplanAsk(WhenAsk):
    """Another time for a dispatch that was planned."""

    override_quiet: bool = False


class UndoAsk(Wire):
    """Undo a dispatch that went."""

    take_changed: bool = False
    note: str = ""


class UnmetCondition(UnmetAhead):
    """A condition of a gate that does not hold, and who could clear it."""

    who: list[str]


class HeldMove(Wire):
    """A move that held its dispatch, and why."""

    title: str
    entry: str
    locale: str
    unmet: list[UnmetAhead]


class SetValue(Wire):
    """A field that a move sets, with the value as it is read; empty where it is emptied."""

    field: str
    label: str
    text: str


class DispatchReview(Wire):
    """That a dispatch was submitted for review as one, and how it was decided."""

    by: str
    at: str
    note: str
    outcome: str
    decided_by: str
    decided_at: str
    reason: str
    mine: bool = Field(description="Whether whoever looks submitted it, and may take it back while it waits.")


class MoveLine(Wire):
    """A move with what it changes: revision numbers before and after."""

    verb: str
    id: str
    locale: str = Field(description="* for the fields shared by all locales.")
    source_locale: str
    title: str
    type: str
    before: int | None = Field(
        description="The revision that is there, or was until it went; null for nothing."
    )
    after: int | None
    stage: str
    head: int | None
    follows: bool
    along: bool
    to: str = Field(
        description="The name of the stage that it advances to, as people call it; empty for another move."
    )
    sets: list[SetValue] = Field(description="The fields that it sets.")
    strand: str = Field(
        description="The strand on which it is written inside the dispatch; empty where it is not."
    )
    unmet: list[UnmetCondition]


class Need(Wire):
    """Something referred to that is not out and does not go along."""

    id: str
    title: str
    type: str
    locale: str
    verb: str = "release"


class Offer(Need):
    """What could go along though nothing needs it."""

    why: str


class PlannedElsewhere(Wire):
    """What another planned dispatch does with an edition."""

    dispatch: str
    name: str
    instant: str
    verb: str
    title: str
    locale: str


class ChangingPage(Wire):
    """A page that does not go itself, and that readers see otherwise afterwards; `shows` says what it shows that changes."""

    id: str
    locale: str
    type: str
    title: str
    shows: list[str]


class DispatchCheck(Wire):
    """What a dispatch would do, what blocks it, and what else it depends on."""

    moves: list[MoveLine]
    needs: list[Need]
    offers: list[Offer]
    warnings: list[str]
    also: list[PlannedElsewhere]
    pages: list[ChangingPage]
    pages_total: int
    blocked: bool
    rest_goes: bool


class UndoCheck(DispatchCheck):
    """What undoing a dispatch would do, and what changed since it went."""

    changed: list[MoveLine]


class Dispatch(Shortened):
    """A dispatch."""

    name: str
    state: str
    instant: str | None
    wall: str
    zone: str
    by: str
    owner: str
    owner_name: str
    partial: bool
    override_quiet: bool
    undoes: str | None
    undone_by: str | None
    held_back_from: str | None
    held_back: str | None
    count: int
    acts: list[DispatchAct]
    note: str
    created_at: str
    ended_at: str | None
    late_by_seconds: float
    trouble: str = ""
    held: list[HeldMove]
    review: DispatchReview | None = Field(description="The newest review of it as one.")
    moves: list[MoveLine]


class DispatchList(Page):
    """Dispatches in order of time."""

    items: list[Dispatch]


class StandingLine(Wire):
    """What stood at a stage, from when until when."""

    stage: str
    revision: int
    since: str
    until: str | None
    committed_at: str


class OverrideAsk(Wire):
    """Override the gate before a stage for a revision, with a reason that is kept."""

    stage: str
    revision: int
    common_revision: int | None = None
    reason: str


class SpreadAsk(Wire):
    """Entries that go one after another; the moves of one entry go together."""

    moves: list[MoveAsk] = Field(min_length=1)
    begins: str
    zone: str = ""
    rule: str = "FREQ=DAILY"
    skip: list[str] = []
    fold: Literal["", "earlier", "later"] = ""
    name: str = ""
    note: str = ""
    override_quiet: bool = False


class SpreadStep(Wire):
    """One time of a spread, with what would go then."""

    instant: str
    wall: str
    zone: str
    moves: list[MoveLine]
    blocked: bool


class SpreadCheck(Wire):
    """When each would go, and what blocks it."""

    steps: list[SpreadStep]
    blocked: bool


class SpreadMade(Wire):
    """The dispatches that were planned, in order of time."""

    items: list[Dispatch]
