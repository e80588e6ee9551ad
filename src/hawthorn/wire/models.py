"""What crosses HTTP, for service and client alike. Instants are RFC 3339 in UTC."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from hawthorn import wire
from hawthorn.wire.problems import Problem


class Wire(BaseModel):
    """A message; unknown members are refused, so that a typing mistake is not silently dropped."""

    model_config = ConfigDict(extra="forbid", defer_build=wire.DEFER)


class LogIn(Wire):
    """Who logs in; `code` is that of the second factor, where there is one."""

    handle: str
    password: str
    code: str = ""


class RoleHeld(Wire):
    """A role as somebody holds it; no locales means all, and no sections means all."""

    name: str
    label: str
    locales: list[str] = []
    sections: list[str] = []


class Me(Wire):
    """Who the caller is."""

    handle: str
    name: str
    kind: str
    zone: str
    roles: list[str]
    verbs: list[str]


class Session(Wire):
    """A session; the token is also set as a cookie."""

    token: str
    me: Me


class Person(Wire):
    """Somebody who works here."""

    handle: str
    name: str
    kind: str
    roles: list[RoleHeld]
    email: str = Field(default="", description="For whoever sets up people.")
    zone: str = ""
    state: str = Field(default="", description="“invited” or “cannot log in”, for whoever sets up people.")
    second_factor: bool = False


class BlockSpec(Wire):
    """One kind of block."""

    name: str
    label: str
    fields: list[FieldSpec]
    help: str
    arranges: str = ""


class FieldSpec(Wire):
    """One field of a content type, of a group, or of a kind of block."""

    name: str
    kind: str
    label: str
    required: bool
    shared: bool
    many: bool
    limit: int | None
    least: int | None = None
    minimum: float | None = None
    maximum: float | None = None
    help: str
    types: list[str]
    choices: list[str]
    follows: str
    derives: str = ""
    default: Any = None
    fields: list[FieldSpec] = []
    blocks: list[BlockSpec] = []
    set: str = ""
    was_shared: bool | None = None
    counts_as_alt: bool
    option: bool = False
    region: bool = False


class TypeSpec(Wire):
    """A content type in its newest version."""

    name: str
    label: str
    title: str
    version: int
    workflow: str
    section: bool
    single: bool = False
    translated: bool = True
    sets: list[str] = []
    internal: str = ""
    pinned: str = ""
    dated: str = ""
    search_title: str = ""
    search_words: str = ""
    search_picture: str = ""
    site: bool = False
    common: bool = False
    menu: bool = False
    layout: str = ""
    help: str
    fields: list[FieldSpec]


class OwnCheck(Wire):
    """A team's own check: an expression over fields, and what is said when it does not hold."""

    name: str
    holds: str
    says: str


class GateSpec(Wire):
    """What must hold before a revision may stand at a stage."""

    sign_offs: int = 0
    roles: list[str] = []
    people: list[str] = []
    author: str = "no"
    checks: list[str] = []
    own: list[OwnCheck] = []
    embedded: str = "warn"
    pass_roles: list[str] = []
    pass_people: list[str] = []


class StageSpec(Wire):
    """A stage of a workflow with the gate before it."""

    name: str
    label: str
    rung: int
    gate: GateSpec


class WorkflowSpec(Wire):
    """A workflow."""

    name: str
    label: str
    version: int
    stages: list[StageSpec]


class WorkflowChoice(Wire):
    """Which workflow is followed: by entries of a type, in a locale, in a section (its id); empty means any."""

    workflow: str
    type: str = ""
    locale: str = ""
    section: str = ""


class CheckSpec(Wire):
    """A check that gates may ask for."""

    name: str
    label: str


class LocaleSpec(Wire):
    """A locale of this house."""

    tag: str
    name: str
    rtl: bool


class SetSpec(Wire):
    """A field set: fields that are defined once and used in many types."""

    name: str
    label: str
    version: int
    help: str
    fields: list[FieldSpec]


class KindSpec(Wire):
    """A kind of field there is."""

    name: str
    label: str
    listed: bool
    parts: bool


class Effect(Wire):
    """One thing that a change of a definition would do; `refuses` means that it cannot be done."""

    type: str
    field: str
    what: str
    entries: int
    examples: list[dict[str, str]]
    refuses: bool


class Impact(Wire):
    """What a definition would do to the entries there are."""

    effects: list[Effect]
    entries: int
    refused: bool


class CropSpec(Wire):
    """A size in pixels in which the site shows pictures, and where; a height of 0 keeps the whole picture."""

    name: str
    label: str = ""
    width: int
    height: int = 0
    use: str = ""


class SiteSpec(Wire):
    """A place where pages are seen: what it shows by itself, and the address of the pages of each type."""

    name: str
    label: str = ""
    stage: str = "release"
    addresses: dict[str, str]


class Setup(Wire):
    """What there is to work with."""

    locales: list[LocaleSpec]
    types: list[TypeSpec]
    sets: list[SetSpec]
    kinds: list[KindSpec]
    workflows: list[WorkflowSpec]
    bureaus: list[str]
    site: str = Field(description="The address of the public site, if one is known.")
    crops: list[CropSpec]
    choices: list[WorkflowChoice]
    checks: list[CheckSpec]
    sites: list[SiteSpec]


class Definition(BaseModel):
    """A definition of a content type or workflow, as its guide describes it."""

    model_config = ConfigDict(extra="allow")

    name: str


class EntryStart(Wire):
    """A new entry."""

    type: str
    locale: str = "en"
    fields: dict[str, Any] = {}
    note: str = ""


class TemplateStart(Wire):
    """A new entry from a template."""

    locale: str = "en"
    fields: dict[str, Any] = {}
    note: str = ""


class CopyStart(Wire):
    """A new entry as a copy; what is typed is laid over it."""

    fields: dict[str, Any] = {}
    note: str = ""


class TemplateAsk(Wire):
    """A name for a template."""

    name: str


class Template(Wire):
    """A template that was made from an entry."""

    id: str
    name: str
    type: str
    locales: list[str]
    by: str
    at: str


class Templates(Wire):
    """The templates there are."""

    items: list[Template]


class EntrySave(Wire):
    """Typed fields as a merge patch (RFC 7396): what is not named stays, null empties."""

    fields: dict[str, Any]
    note: str = ""
    strand: str = Field(default="draft", description="The strand to save in.")


class Decision(Wire):
    """How one conflict is settled: ours is what was typed, theirs what was saved meanwhile."""

    take: Literal["ours", "theirs", "both", "own"]
    value: Any = None


class Settle(Wire):
    """Decisions for the places in conflict, by place; `typed` as the conflict gave it."""

    typed: dict[str, int]
    decisions: dict[str, Decision]
    strand: str = "draft"


class Missing(Wire):
    """A required field that is empty."""

    field: str
    label: str


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


class Revision(Wire):
    """A revision, without its values."""

    id: int
    number: int
    at: str
    author: str
    author_kind: str
    note: str
    origin: str


class Review(Wire):
    """The newest submission of an edition."""

    stage: str
    revision: int
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
    note: str


class LocaleStanding(Wire):
    """Where the edition in one locale stands."""

    locale: str
    name: str
    exists: bool
    source: bool
    rail: list[Bead]


class ActOffer(Wire):
    """An act, whether it may be done now, and why not."""

    act: str
    allowed: bool
    why: str


class Named(Wire):
    """An entry by name."""

    id: str
    type: str
    title: str
    file: str = ""


class Section(Wire):
    """A section of the site."""

    id: str
    title: str


class JobLine(Wire):
    """A translation job as a list shows it."""

    id: str
    commission: str
    name: str
    locale: str
    locale_name: str
    source_locale: str
    state: str
    bureau: str
    percent: int
    units: int
    words: int
    due: str
    by: str
    created_at: str
    changed_at: str
    trouble: str
    entries: list[Named]


class StrandLine(Wire):
    """A strand beside the draft; `ended` is "came in" or "dropped" for one that is not open."""

    name: str
    note: str
    by: str
    at: str | None
    forked_from: int | None
    revision: int | None
    changed_at: str | None
    open: bool
    ended: str
    ended_at: str | None


class Strands(Wire):
    """The strands of an edition."""

    items: list[StrandLine]


class StrandAsk(Wire):
    """A strand to fork; from the head of the draft when no revision is named."""

    name: str
    revision: int | None = None
    note: str = ""


class SearchCheck(Wire):
    """One thing wrong with what a page says to searches."""

    field: str
    code: Literal["missing", "too-long", "twice"]
    text: str
    others: list[Named] = []


class SearchText(Wire):
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


class WorkflowFollowed(Wire):
    """The workflow that an edition follows, and why."""

    name: str
    label: str
    why: str


class GateAhead(Wire):
    """The gate before the next stage, and what it lacks of what waits, or of the draft."""

    stage: str
    label: str
    sign_offs: int
    given: list[str]
    unmet: list[UnmetAhead]
    moved: list[str] = Field(description="What the text shows that moved on after it was signed off.")
    embedded: str
    may_pass: bool = Field(description="Whether the caller may let it through without.")


class UnmetAhead(Wire):
    """One condition that does not hold."""

    code: str
    what: str
    where: str
    verb: str


class PassLine(Wire):
    """Somebody let a revision through a gate without some of what it asks."""

    by: str
    at: str
    stage: str
    revision: int
    reason: str


class SignedBefore(Wire):
    """A revision that somebody signed off."""

    revision: int
    at: str


class Assignment(Wire):
    """Who has an edition in hand; `state` is “due” or “late” or nothing."""

    holder: str
    handle: str
    by: str
    at: str
    due: str
    state: str
    note: str


class Entry(Wire):
    """An entry in one locale."""

    id: str
    type: str
    type_label: str
    locale: str
    source_locale: str
    title: str
    section: Section | None
    etag: str
    strand: str
    strands: list[StrandLine]
    internal: str
    derived: dict[str, str]
    shown_date: str | None
    exists: bool
    fields: dict[str, Any]
    source_fields: dict[str, Any]
    shared: list[str]
    missing: list[Missing]
    revision: Revision | None
    common_revision: Revision | None
    rail: list[Bead]
    planned: list[Planned]
    review: Review | None
    sign_offs: list[SignOff]
    locales: list[LocaleStanding]
    acts: list[ActOffer]
    references: dict[str, Named]
    referred_by: list[Named]
    path: str | None
    page: bool = Field(description="Whether it has a page of its own.")
    menus: list[Named] = Field(description="The menus that lead to it.")
    layout: LayoutPart | None
    search: SearchText | None
    warnings: list[str]
    workflow: WorkflowFollowed
    gate: GateAhead | None
    deciders: list[str] = Field(description="Whose sign-off what waits needs.")
    passes: list[PassLine]
    signed_before: SignedBefore | None = Field(description="What whoever looks signed off last.")
    assignment: Assignment | None
    remarks_open: int
    created_at: str
    jobs: list[JobLine]

    def act(self, name: str) -> ActOffer:
        """One of the acts."""
        return next(a for a in self.acts if a.act == name)


class MergedWith(Wire):
    """Whose save a save was merged with."""

    number: int
    author: str


class SaveResult(Wire):
    """What came of a save."""

    entry: Entry
    changed: bool
    merged_with: list[MergedWith]


class Piece(Wire):
    """A stretch of words: agreed `text`, or a contested place with what each side has there."""

    text: str
    contested: bool
    base: str
    ours: str
    theirs: str


class Conflict(Wire):
    """Two sides changed one place: ours is what was typed, theirs what was saved meanwhile."""

    place: str
    field: str
    label: str
    kind: str
    locale: str
    leaf: str
    why: str
    base: Any
    ours: Any
    theirs: Any
    pieces: list[Piece] = []


class ConflictProblem(Problem):
    """The answer to a save that cannot merge: both texts, and the revisions that keep what was typed."""

    conflicts: list[Conflict]
    typed: dict[str, int]
    etag: str
    entry: Entry


class EntryLine(Wire):
    """An edition as a list shows it."""

    id: str
    type: str
    type_label: str
    locale: str
    source_locale: str
    title: str
    internal: str
    behind: bool
    missing: list[Missing]
    updated_at: str
    author: str
    rail: list[Bead]
    planned: list[Planned]
    section: Section | None


class EntryPage(Wire):
    """A page of a list; `next` is the cursor of the page after it, or empty."""

    items: list[EntryLine]
    next: str


class Matches(Wire):
    """Entries that a name may mean."""

    items: list[Named]


class HistoryRevision(Revision):
    """A revision in a history."""

    parents: list[int]
    on_draft: bool
    strand: str
    picked: list[str]


class StandingLine(Wire):
    """What stood at a stage, from when until when."""

    stage: str
    revision: int
    since: str
    until: str | None
    committed_at: str


class Event(Wire):
    """An entry of the event log."""

    seq: int
    at: str
    kind: str
    by: str
    by_kind: str
    what: dict[str, Any]
    hash: str


class History(Wire):
    """What happened to an entry, newest first."""

    revisions: list[HistoryRevision]
    standings: list[StandingLine]
    events: list[Event]


class EventPage(Wire):
    """Events, newest first."""

    items: list[Event]
    next: str


class Side(Wire):
    """One side of a comparison."""

    name: str
    label: str
    revision: int | None


class Run(Wire):
    """A stretch of words: same, gone or new."""

    how: str
    text: str


class DiffPart(Wire):
    """One paragraph, or a plain field."""

    how: str
    tag: str
    leaf: str
    label: str = ""
    runs: list[Run]


class FieldDiff(Wire):
    """One field that differs."""

    field: str
    label: str
    before: str
    after: str
    parts: list[DiffPart]


class Comparison(Wire):
    """Two revisions or stages, field by field."""

    before: Side
    after: Side
    fields: list[FieldDiff]


class Place(Wire):
    """Something that a strand changed and that can be taken by itself."""

    place: str
    label: str
    locale: str


class Proposal(Wire):
    """What bringing a strand in would do. Accept it with its ETag: then exactly this is done."""

    strand: str
    etag: str
    taken: list[FieldDiff]
    left: list[FieldDiff]
    places: list[Place]
    conflicts: list[Conflict]
    still_open: list[str]


class ProposalAsk(Wire):
    """What to take (all when not given), and how its conflicts are settled: ours is the strand's side."""

    take: list[str] | None = None
    decisions: dict[str, Decision] = {}
    note: str = ""


class TagLine(Wire):
    """A tag and how many entries have it."""

    tag: str
    entries: int


class Tags(Wire):
    """Tags in use."""

    items: list[TagLine]


class TopicLine(Wire):
    """An entry of a type that others refer to, with the one above it and how many refer to it."""

    id: str
    title: str
    parent: str | None
    entries: int


class Topics(Wire):
    """Topics as a tree, by title."""

    items: list[TopicLine]


class ListAsk(Wire):
    """A list to keep: the members of its query are those of the list of entries."""

    name: str
    query: dict[str, Any]
    shared: bool = False


class SavedList(Wire):
    """A list that somebody keeps."""

    id: str
    name: str
    shared: bool
    by: str
    own: bool
    query: dict[str, Any]


class SavedLists(Wire):
    """One's own lists and the shared ones."""

    items: list[SavedList]


class BulkItem(Wire):
    """An entry in a locale."""

    id: str
    locale: str


class BulkAsk(Wire):
    """One act on many entries: submit, release, withdraw, remove, tag, untag or set."""

    act: Literal["submit", "release", "withdraw", "remove", "tag", "untag", "set"]
    items: list[BulkItem]
    note: str = ""
    tag: str = ""
    field: str = ""
    value: Any = None


class BulkLine(Wire):
    """What became of one entry, or what would."""

    id: str
    locale: str
    title: str
    done: bool
    what: str
    why: str
    remedy: str


class BulkResult(Wire):
    """A result for each entry."""

    items: list[BulkLine]
    done: int
    refused: int


class Note(Wire):
    """A note to go with an act."""

    note: str = ""


class SignOffAsk(Wire):
    """The number of the revision that was looked at, which must be the one in review."""

    revision: int
    note: str = ""


class SendBack(Wire):
    """Why it is sent back."""

    reason: str


class Restore(Wire):
    """The number of the revision to bring back."""

    revision: int


class MoveAsk(Wire):
    """A move: an entry in a locale to release or withdraw."""

    id: str
    locale: str
    verb: Literal["release", "withdraw", "remove"] = "release"
    revision: int | None = None
    regress: Annotated[bool, Field(description="Going back behind what is out is meant.")] = False


class WhenAsk(Wire):
    """An instant with its offset, or a wall time in a zone; `fold` chooses at a clock change."""

    instant: str = ""
    wall: str = ""
    zone: str = ""
    fold: Literal["", "earlier", "later"] = ""


class DispatchAsk(Wire):
    """A dispatch to make; without `when` it goes now."""

    moves: list[MoveAsk]
    when: WhenAsk | None = None
    name: str = ""
    note: str = ""
    with_needs: bool = False


class UnmetCondition(Wire):
    """A condition of a gate that does not hold, and who could clear it."""

    code: str
    what: str
    where: str
    verb: str
    who: list[str]


class MoveLine(Wire):
    """A move with what it changes: revision numbers before and after."""

    verb: str
    id: str
    locale: str
    title: str
    type: str
    before: int | None
    after: int | None
    along: bool
    unmet: list[UnmetCondition]


class Need(Wire):
    """Something referred to that is not out and does not go along."""

    id: str
    title: str
    type: str
    locale: str
    verb: str = "release"


class Outlook(Wire):
    """What a dispatch would do, what blocks it, and what else it depends on."""

    moves: list[MoveLine]
    needs: list[Need]
    warnings: list[str]
    blocked: bool


class Dispatch(Wire):
    """A dispatch."""

    id: str
    name: str
    state: str
    instant: str
    wall: str
    zone: str
    by: str
    note: str
    created_at: str
    ended_at: str | None
    late_by_seconds: float
    trouble: str = ""
    held: list[dict[str, Any]]
    moves: list[MoveLine]


class DispatchList(Wire):
    """Dispatches in order of time."""

    items: list[Dispatch]


class HandLine(Wire):
    """Something that waits."""

    kind: str
    id: str
    locale: str
    title: str
    type: str
    revision: int
    by: str
    at: str
    note: str
    who: list[str]
    job: str
    remark: str = ""
    due: str = ""
    state: str = ""


class InHand(Wire):
    """A person's page of what waits."""

    waiting: list[HandLine]
    in_your_hands: list[HandLine]
    with_others: list[HandLine]
    yours: list[EntryLine]
    you_wait_for: list[HandLine]
    next_out: list[Dispatch]


class CommissionAsk(Wire):
    """An order for translation; without a bureau its files are carried by hand."""

    entries: list[str]
    locales: list[str]
    name: str = ""
    due: str = ""
    note: str = ""
    bureau: str = ""


class Estimate(Wire):
    """What one locale of an order would hold."""

    locale: str
    entries: int
    units: int
    words: int


class Estimates(Wire):
    """An order before it is sent."""

    items: list[Estimate]


class Commission(Wire):
    """A commission with its jobs."""

    id: str
    name: str
    jobs: list[JobLine]


class JobUnit(Wire):
    """A unit: its source, what came home, and what the edition holds now."""

    entry: str
    title: str
    key: str
    label: str
    source: str
    returned: str
    current: str
    state: str
    outcome: str
    words: int


class Job(JobLine):
    """A job with its units."""

    units_shown: list[JobUnit]
    may_accept: bool
    may_carry: bool


class JobList(Wire):
    """Jobs, newest first."""

    items: list[JobLine]


class GridCell(Wire):
    """One locale of one entry."""

    locale: str
    state: str


class GridLine(Wire):
    """An entry against the locales."""

    id: str
    title: str
    type: str
    cells: list[GridCell]


class Grid(Wire):
    """Entries against locales."""

    items: list[GridLine]


class HomeResult(Wire):
    """What became of the units that came home."""

    applied: int
    drifted: int
    conflict: int
    gone: int
    job: JobLine


class Choose(Wire):
    """A unit in conflict, and which side stands: ours is the edition's, theirs what came home."""

    entry: str
    key: str
    take: Literal["ours", "theirs"]


class Accept(Wire):
    """One unit, or all that is left when no key is given."""

    entry: str = ""
    key: str = ""
    note: str = ""


class AcceptResult(Wire):
    """How many were accepted, how many are left, and what is worth knowing."""

    accepted: int
    left: int
    notes: list[str]


class FileValue(Wire):
    """A stored file, as a value for a file field."""

    sha256: str
    name: str
    media_type: str
    width: int | None = None
    height: int | None = None
    bytes: int
    focus: list[int] | None = None


class KeyAsk(Wire):
    """A key for a program or assistant."""

    name: str
    role: str
    kind: Literal["program", "assistant"] = "program"
    stages: list[str] = ["release"]


class Key(Wire):
    """A key without its secret."""

    id: int
    name: str
    start: str
    stages: list[str]
    created_at: str
    handle: str
    kind: str = ""
    roles: list[str] = []


class KeyIssued(Wire):
    """A new key; its secret is shown this once."""

    key: Key
    secret: str


class Keys(Wire):
    """The keys there are."""

    items: list[Key]


class People(Wire):
    """Everybody."""

    items: list[Person]


class Why(Wire):
    """Whether somebody may do something, and which grant says so or is missing."""

    allowed: bool
    reason: str
    role: str
    missing: str
    who: list[str]


class ReadReference(BaseModel):
    """Another entry that a read entry refers to."""

    id: str
    type: str
    locale: str
    title: str
    path: str | None = None
    file: dict[str, Any] | None = None
    fields: dict[str, Any] | None = Field(default=None, description="What a common block holds.")


class ReadLocale(BaseModel):
    """Another locale in which the entry can be read."""

    locale: str
    path: str | None


class ReadEntry(BaseModel):
    """An entry as those who read see it."""

    id: str
    type: str
    locale: str
    wanted_locale: str
    title: str
    path: str | None
    revision: int
    since: str
    fields: dict[str, Any]
    date: str | None = Field(
        default=None, description="The shown date; that of the first release where none is given."
    )
    pinned: bool = False
    openings: dict[str, str] = {}
    regions: dict[str, str] = Field(
        default={}, description="The regions that follow the layout, each with the layout's id."
    )
    search: dict[str, Any] = Field(
        default={}, description="Title, description and picture for searches and shared links."
    )
    references: dict[str, ReadReference]
    locales: list[ReadLocale]
    shown: dict[str, Any] | None = Field(
        default=None, description="Stage, instant and strand, where it is not simply what is out now."
    )


class ReadPage(BaseModel):
    """A page of entries; `next` is the cursor of the page after it, or empty."""

    items: list[ReadEntry]
    next: str


class Health(Wire):
    """Whether the service works."""

    ok: bool
    version: str
    trouble: list[str] = []
