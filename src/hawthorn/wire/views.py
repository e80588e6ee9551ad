"""What a page or a command shows at once: set-up, entry, history, log, my work, health."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from hawthorn.wire.access import Section
from hawthorn.wire.base import Named, Page, Shortened, Wire
from hawthorn.wire.collaboration import Assignment
from hawthorn.wire.content import (
    Conflict,
    EntryLine,
    KindSpec,
    LocaleSpec,
    MergedWith,
    Revision,
    SetSpec,
    StrandLine,
    TypeSpec,
)
from hawthorn.wire.delivery import LayoutPart, SearchAndSharing, SiteSpec
from hawthorn.wire.limiting import Limit
from hawthorn.wire.media import CropSpec
from hawthorn.wire.problems import Problem
from hawthorn.wire.release import (
    Bead,
    Dispatch,
    GateAhead,
    Missing,
    OverrideLine,
    Planned,
    Review,
    SignedBefore,
    SignOff,
    StandingLine,
    WorkflowFollowed,
)
from hawthorn.wire.translation import JobLine
from hawthorn.wire.workflows import CheckSpec, WorkflowChoice, WorkflowSpec


class FileFormat(Wire):
    """A format of translation files."""

    name: str = Field(description="By what it is asked for.")
    label: str = Field(description="What it is called.")
    ending: str = Field(description="How names of such files end.")


class Setup(Wire):
    """What there is to work with."""

    locales: list[LocaleSpec]
    types: list[TypeSpec]
    sets: list[SetSpec]
    kinds: list[KindSpec]
    workflows: list[WorkflowSpec]
    bureaus: list[str]
    formats: list[FileFormat] = Field(description="The formats in which jobs are exported and imported.")
    site: str = Field(description="The address of the public site, if one is known.")
    machine: bool = Field(description="Whether there is a machine that suggests translations.")
    crops: list[CropSpec]
    choices: list[WorkflowChoice]
    checks: list[CheckSpec]
    sites: list[SiteSpec]


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


class PlannedFieldState(Wire):
    """What came of a field that plans a move."""

    field: str
    verb: str
    state: str = Field(
        description="The state of its dispatch; `wish` while it waits for a sign-off; empty without a dispatch."
    )
    dispatch: str | None
    instant: str | None
    trouble: str


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
    search: SearchAndSharing | None
    warnings: list[str]
    workflow: WorkflowFollowed
    gate: GateAhead | None
    deciders: list[str] = Field(description="Whose sign-off what waits needs.")
    overrides: list[OverrideLine]
    signed_before: SignedBefore | None = Field(description="What whoever looks signed off last.")
    assignment: Assignment | None
    comments_open: int
    assisted: bool = Field(description="Whether an assistant wrote in it, and nobody signed that off since.")
    created_at: str
    at: str | None = Field(description="The instant at which it is shown; null for now.")
    planned_fields: list[PlannedFieldState] = Field(
        description="What came of its fields that plan something."
    )
    archived_at: str | None = Field(description="Since when it is in the archive.")
    limit: Limit = Field(description="Who may read it while it is out.")
    jobs: list[JobLine]

    def act(self, name: str) -> ActOffer:
        """One of the acts."""
        return next(a for a in self.acts if a.act == name)


class SaveResult(Wire):
    """What came of a save."""

    entry: Entry
    changed: bool
    merged_with: list[MergedWith]


class ConflictProblem(Problem):
    """The answer to a save that cannot merge: both texts, and the revisions that keep what was typed."""

    conflicts: list[Conflict]
    typed: dict[str, int]
    etag: str
    entry: Entry


class HistoryRevision(Revision):
    """A revision in a history."""

    parents: list[int]
    on_draft: bool
    strand: str
    picked: list[str]


class Event(Wire):
    """An entry of the event log."""

    seq: int
    at: str
    kind: str
    by: str
    by_kind: str
    locales: list[str] = Field(description="The locales that it was about, where it was about some alone.")
    what: dict[str, Any]
    hash: str


class History(Page):
    """What happened to an entry, newest first. Pages go by revisions."""

    revisions: list[HistoryRevision]
    standings: list[StandingLine]
    events: list[Event]


class EventPage(Page):
    """Events, newest first."""

    items: list[Event]


class WorkLine(Shortened):
    """Something that waits."""

    kind: str
    locale: str
    title: str
    type: str
    revision: int
    stage: str = ""
    by: str
    at: str
    note: str
    who: list[str]
    job: str
    comment: str = ""
    due: str = ""
    state: str = ""


class MyWork(Wire):
    """A person's page of what waits."""

    waiting: list[WorkLine]
    assigned_to_you: list[WorkLine]
    assigned_to_others: list[WorkLine]
    yours: list[EntryLine]
    you_wait_for: list[WorkLine]
    next_out: list[Dispatch]


class Health(Wire):
    """Whether the service works."""

    ok: bool
    version: str
    trouble: list[str] = []
    position: str = Field(
        default="", description="How far the records have come, as `Hawthorn-Position` has it."
    )
    newest: str = Field(default="", description="When the newest event happened (RFC 3339, UTC).")
    writer: str = Field(default="", description="On a copy, the address of the service that writes.")
    behind: float | None = Field(
        default=None,
        description="On a copy, by how many seconds it is behind; nothing where that is not known.",
    )
