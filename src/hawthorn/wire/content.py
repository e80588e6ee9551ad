"""What crosses HTTP about content: types, entries, strands, templates, comparing, merging, and many at once."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from hawthorn.wire.access import Section
from hawthorn.wire.base import LocaleAsk, Page, Shortened, Wire
from hawthorn.wire.release import Bead, Missing, Planned, WhenAsk


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
    counts_as_alt: bool
    option: bool = False
    region: bool = False
    read_only: bool = Field(default=False, description="Filled by programs, and shown to people.")
    public: bool = Field(default=True, description="Whether readers get it.")
    translate: bool = Field(
        default=True, description="Whether its words are translated; else they go along as they are."
    )
    confidential: bool = Field(default=False, description="Whether its words are never sent to a machine.")
    filter: bool = Field(default=False, description="Whether readers filter and sort by it.")
    schema_property: str = Field(
        default="", description="What programs that read a page call it, in the words of schema.org."
    )
    move: str = Field(default="", description="What a planned field does at its time; empty for other kinds.")
    payload: dict[str, Any] = Field(default={}, description="What that move carries.")


class PolicySpec(Wire):
    """How entries of a type go out."""

    past: Literal["refuse", "next", "now"] = "refuse"
    hour: str = ""
    needs_date: bool = False
    needs_end: bool = False
    needs_note: bool = False


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
    meta_description: str = ""
    search_picture: str = ""
    schema_type: str = Field(
        default="",
        description="What programs that read a page take an entry for, in the words of schema.org.",
    )
    site: bool = False
    common: bool = False
    menu: bool = False
    layout: str = ""
    retired: bool = Field(default=False, description="Nobody starts entries of it any more.")
    read_only: bool = Field(default=False, description="What its entries hold is not changed by anybody.")
    confidential: bool = Field(
        default=False, description="Whether nothing of its entries is sent to a machine."
    )
    public: bool = Field(default=True, description="Whether its entries are read without a key.")
    policy: PolicySpec = PolicySpec()
    help: str
    fields: list[FieldSpec]


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
    filters: list[str] = Field(description="How readers may filter by it; nothing where they may not.")
    described: bool = Field(description="Whether programs that read a page may be told of it.")


class LocaleSpec(Wire):
    """A locale of this house."""

    tag: str
    name: str
    rtl: bool = Field(description="Whether it is written from right to left.")
    direction: str = Field(default="", description="ltr, rtl, or empty for that of its usual script.")
    fallback: list[str] = Field(
        default_factory=list,
        description="The locales whose text stands in where it has none, the best first.",
    )


class Locales(Wire):
    """The locales of a house, in order; the first is asked for where none is."""

    locales: list[LocaleAsk] = Field(min_length=1, max_length=100)


class LocaleChange(Wire):
    """What a definition does to one locale, and what is written in it."""

    tag: str
    name: str
    how: str = Field(description="added, back, changed or ended")
    editions: int
    out: int
    sources: int = Field(description="Entries that are written in it first.")
    jobs: int = Field(description="Translation jobs into it that are not finished.")
    dispatches: int = Field(description="Dispatches with something of it that may go yet.")
    in_the_way: str = Field(description="Why it cannot be; empty when it can.")


class LocalesDefined(Wire):
    """The locales there are, and what a definition changed or would change."""

    locales: list[LocaleSpec]
    changes: list[LocaleChange]


class Effect(Wire):
    """One thing that a change of a definition would do; `refuses` means that it cannot be done."""

    type: str
    field: str
    what: str
    entries: int
    examples: list[dict[str, str]]
    refuses: bool


class Uses(Wire):
    """What uses something, in words."""

    items: list[str] = Field(description="Each use; none means that it can be deleted.")


class Impact(Wire):
    """What a definition would do to the entries there are."""

    effects: list[Effect]
    entries: int
    refused: bool


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


class Template(Shortened):
    """A template that was made from an entry."""

    name: str
    type: str
    locales: list[str]
    by: str
    at: str


class Templates(Page):
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


class Revision(Wire):
    """A revision, without its values."""

    id: int
    number: int
    at: str
    author: str
    author_kind: str
    note: str
    origin: str


class StrandLine(Wire):
    """A strand beside the draft; `ended` is "merged" or "dropped" for one that is not open."""

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
    dispatch: str | None = Field(description="The dispatch that it goes out with.")
    dispatch_name: str


class Strands(Page):
    """The strands of an edition."""

    items: list[StrandLine]


class StrandAsk(Wire):
    """A strand to fork; from the head of the draft when no revision is named."""

    name: str
    revision: int | None = None
    note: str = ""


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
    paragraph: str
    why: str
    base: Any
    ours: Any
    theirs: Any
    pieces: list[Piece] = []


class MergedWith(Wire):
    """Whose save a save was merged with."""

    number: int
    author: str


class EntryLine(Shortened):
    """An edition as a list shows it."""

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


class EntryPage(Page):
    """A page of a list; `next` is the cursor of the page after it, or empty."""

    items: list[EntryLine]


class Side(Wire):
    """One side of a comparison."""

    name: str
    label: str
    revision: int | None
    common_revision: int | None = None


class Run(Wire):
    """A stretch of words: same, gone or new."""

    how: str
    text: str
    assistant: bool = Field(
        default=False, description="Whether an assistant wrote it, and nobody has signed it off since."
    )


class DiffPart(Wire):
    """One paragraph, or a plain field."""

    how: str
    tag: str
    paragraph: str
    label: str = ""
    path: str = Field(default="", description="Where it stands in the values of its entry.")
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
    """What merging a strand would do. Accept it with its ETag: then exactly this is done."""

    strand: str
    etag: str
    taken: list[FieldDiff]
    left: list[FieldDiff]
    places: list[Place]
    conflicts: list[Conflict]
    still_open: list[str]
    in_the_way: str


class SettlementsAsk(Wire):
    """How what both sides changed is settled, by place: ours is the strand's side."""

    decisions: dict[str, Decision] = {}


class ProposalAsk(SettlementsAsk):
    """What to take (all when not given), and how its conflicts are settled: ours is the strand's side."""

    take: list[str] | None = None
    note: str = ""


class Restore(Wire):
    """The number of the revision to bring back, as the newest of the draft or of another strand."""

    revision: int
    strand: str = "draft"


class BulkItem(Wire):
    """An entry in a locale, and for a sign-off the revisions that were looked at."""

    id: str = Field(description="The entry's id.")
    locale: str = Field(description="The locale of the edition.")
    revision: int | None = Field(default=None, description="The number of the revision that is signed off.")
    common_revision: int | None = None


class BulkAsk(Wire):
    """One act on many entries: each is submitted, signed off, released, planned, withdrawn, removed, tagged, or has a field set."""

    act: Literal["submit", "sign", "release", "plan", "withdraw", "remove", "tag", "untag", "set"]
    items: list[BulkItem]
    when: WhenAsk | None = Field(default=None, description="For plan: when each goes out.")
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
