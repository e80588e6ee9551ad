"""Messages of what goes out of a house and comes in: set-up as a document, packages, receipts."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from hawthorn.wire.base import Page, Wire

Definitions = list[dict[str, Any]]


class SetupDocument(Wire):
    """What a house is set up with, as one document. A part that is left out is not touched, and so is what a part does not name."""

    version: int = Field(description="The version of the document; 1.")
    locales: Definitions | None = Field(default=None, description="The locales, in order.")
    field_sets: Definitions | None = Field(default=None, description="The field sets that types share.")
    types: Definitions | None = Field(
        default=None, description="The content types, as their own files have them."
    )
    roles: Definitions | None = Field(default=None, description="The roles with their grants.")
    workflows: Definitions | None = Field(
        default=None, description="The workflows with their stages and gates."
    )
    choices: Definitions | None = Field(
        default=None, description="Which workflow is followed where, in order."
    )
    crops: Definitions | None = Field(default=None, description="The crops in which pictures are shown.")
    sites: Definitions | None = Field(
        default=None, description="The sites with the addresses of their pages."
    )
    bureaus: Definitions | None = Field(
        default=None, description="The bureaus, without their keys and secrets."
    )


class SetupMember(Wire):
    """A member of a definition that differs."""

    path: str = Field(description="Where it is in the definition; things in lists by their names.")
    before: Any = Field(description="What stands there here; null for nothing.")
    after: Any = Field(description="What the document says; null for nothing.")


class SetupDifference(Wire):
    """What a document says of one thing."""

    part: str = Field(description="The part of the document.")
    name: str = Field(description="The name of the thing; * for the order of all of them.")
    how: Literal["added", "changed", "in the way", "only here"] = Field(
        description="Added or changed here; not possible, and then nothing is done; or left alone, as the document does not name it."
    )
    members: list[SetupMember] = Field(description="The members that differ.")
    effects: list[str] = Field(description="What it does to what is there, in words.")
    why: str = Field(description="Why it is not possible.")


class SetupDifferences(Wire):
    """What a document changes here; things that are the same already are left out."""

    items: list[SetupDifference]


class PackageAsk(Wire):
    """What goes into a package; all entries where nothing is chosen."""

    name: str = Field(default="", description="What the file is called.")
    types: list[str] = Field(default_factory=list, description="Entries of these types.")
    sections: list[str] = Field(
        default_factory=list, description="Entries in these sections and below (ids)."
    )
    entries: list[str] = Field(default_factory=list, description="These entries (ids).")
    linked: bool = Field(default=True, description="With what they refer to, however far that leads.")
    history: bool = Field(default=True, description="With all that ever was of them, or only what stands.")


class PackageWish(Wire):
    """How a package is brought."""

    new_ids: bool = Field(default=False, description="Under new ids, beside what is here.")
    as_drafts: bool = Field(default=False, description="As drafts, whatever stood elsewhere.")
    leave: bool = Field(default=False, description="Leave alone what is here already, rather than merge.")
    definitions: bool = Field(
        default=False, description="Also put types, workflows and the like in place that are otherwise here."
    )


class MappedColumn(Wire):
    """Where a column of rows goes."""

    column: str = Field(description="The column, as the file names it.")
    to: str = Field(
        default="",
        description="The field that it fills; or `entry.id`, `entry.key` (what an entry is known by where its rows come from), `entry.locale`, "
        "`entry.revision` (what a row was made from) or `entry.type`; empty where it is left out.",
    )
    between: str = Field(
        default="",
        description="What stands between several values in a cell; a semicolon unless something is named.",
    )


class RowMapping(Wire):
    """How rows become entries. A column that is not named is left out."""

    type: str = Field(description="The content type of the entries.")
    locale: str = Field(description="The locale of rows that do not say one themselves.")
    columns: list[MappedColumn] = Field(description="Where each column goes.")
    pictures: str = Field(
        default="",
        description="The content type of entries that show the pictures of pages; empty to leave these out.",
    )


class KeptMapping(Wire):
    """A mapping that is kept under a name."""

    name: str
    mapping: RowMapping = Field(description="How rows become entries.")
    by: str
    at: str


class KeptMappings(Page):
    """The mappings that are kept, by name."""

    items: list[KeptMapping]


class RowsWish(Wire):
    """How rows are brought; what is not said is proposed from their columns."""

    type: str = Field(default="", description="As entries of this content type.")
    locale: str = Field(default="", description="The locale of rows that do not say one themselves.")
    mapping: RowMapping | None = Field(default=None, description="By this mapping.")


class ColumnSeen(Wire):
    """A column of rows."""

    column: str = Field(description="The column, as the file names it.")
    samples: list[str] = Field(description="Some of what stands in it.")


class PackageDefinition(Wire):
    """A definition of a package that is not here, or otherwise."""

    part: str = Field(description="The part of the set-up: types, workflows and the like.")
    name: str
    how: Literal["added", "otherwise here"] = Field(description="Not here, or here with other members.")
    members: list[str] = Field(description="The members that differ.")


class PackageSeen(Wire):
    """An entry of which something is to be known."""

    id: str
    title: str
    why: str


class PackageReport(Wire):
    """What bringing a package would do; once it is done, what it did."""

    sha256: str = Field(default="", description="What the package is known by.")
    history: bool = Field(default=True, description="Whether it has all that ever was, or what stands.")
    entries: int = Field(default=0, description="The entries, or rows, in it.")
    added: int = Field(default=0, description="Those that are not here, and are added.")
    there: int = Field(default=0, description="Those that are here already.")
    same: int = Field(default=0, description="Of these, those of which all is here.")
    merged: int = Field(default=0, description="Those that are merged without a question.")
    asked: int = Field(
        default=0, description="Those where both changed the same place: somebody has to decide."
    )
    left: int = Field(default=0, description="Those that cannot be brought.")
    out: int = Field(default=0, description="Those that are out as soon as they are brought.")
    cleaned: int = Field(
        default=0, description="Revisions of which something is kept in another form here, or not at all."
    )
    as_is: bool = Field(default=True, description="Whether all contents are kept just as they are.")
    types: str = Field(default="", description="What stands for the definitions by which that was found.")
    files: int = Field(default=0, description="The files in it.")
    new_files: int = Field(default=0, description="Those that are not here.")
    people: int = Field(default=0, description="Whoever wrote in it.")
    new_people: list[str] = Field(
        default_factory=list, description="Those who are not here (handles): they come in by name alone."
    )
    sentences: int = Field(default=0, description="The sentences of translation memories in it.")
    new_sentences: int = Field(
        default=0, description="Those that are not here; once it is done, those that were added."
    )
    concepts: int = Field(default=0, description="The concepts of glossaries in it.")
    new_concepts: int = Field(
        default=0, description="Those that are not here; once it is done, those that were added."
    )
    dispatches: int = Field(default=0, description="The dispatches in it that are still to go.")
    new_dispatches: int = Field(
        default=0,
        description="Those that are not here; once it is done, those that were added, all of them open.",
    )
    definitions: list[PackageDefinition] = Field(
        default_factory=list,
        description="Definitions that its entries need and that are not here, or otherwise.",
    )
    named: list[PackageSeen] = Field(
        default_factory=list, description="Entries of which something is to be known, so many at most."
    )
    columns: list[ColumnSeen] = Field(
        default_factory=list, description="Of rows: the columns that they have."
    )
    mapping: RowMapping | None = Field(default=None, description="Of rows: how they become entries.")


class Package(Wire):
    """A package on its way."""

    id: str
    way: Literal["out", "in"] = Field(description="Made here, or given to be brought.")
    name: str
    state: Literal["looking", "looked", "running", "done", "failed", "cancelled", "undoing", "undone"] = (
        Field(
            description="Being looked through; looked through, and waiting for somebody to go on; under way; and how it ended."
        )
    )
    format: str = Field(description="`package`, or the format of rows: csv, xlsx, pages.")
    asked: PackageAsk | PackageWish | RowsWish = Field(description="What was asked for.")
    step: str = Field(description="What is being done.")
    done: int = Field(description="So many of the entries, or files, of this step are done.")
    total: int = Field(description="So many there are.")
    report: PackageReport = Field(description="What was found in it, or what came of it.")
    trouble: str = Field(description="Why it failed.")
    bytes: int
    by: str
    at: str
    ended_at: str


class Packages(Page):
    """The packages there were, the newest first."""

    items: list[Package]


class SignedReceipt(Wire):
    """A receipt as a JSON Web Signature (RFC 7515, section 7.2.2)."""

    payload: str = Field(description="What it says, as base64url of JSON.")
    protected: str = Field(description="How it was signed, as base64url of JSON.")
    signature: str = Field(description="The signature (Ed25519), as base64url.")


class ReceiptKey(Wire):
    """A public key of Ed25519 as a JSON Web Key (RFC 8037)."""

    kty: Literal["OKP"] = Field(description="The family of keys.")
    crv: Literal["Ed25519"] = Field(description="The curve.")
    x: str = Field(description="The key, as base64url.")
    kid: str = Field(description="What it is known by: its thumbprint (RFC 7638).")
    alg: Literal["EdDSA"] = Field(description="How it signs.")
    use: Literal["sig"] = Field(description="What it is for: signatures.")


class Backup(Wire):
    """A backup of the record file."""

    name: str
    at: str = Field(description="The instant of which it has everything.")
    events: int = Field(description="The newest event in it; 0 where its note is missing.")
    bytes: int
    encrypted: bool = Field(description="Whether a key is needed to restore it.")


class Backups(Page):
    """The backups there are, the newest first."""

    items: list[Backup]
    trouble: str = Field(description="Why the last that was due could not be made; empty where it was.")


class Forgotten(Wire):
    """What taking somebody's name out came to."""

    handle: str = Field(description="How they are known from now on.")
    name: str = Field(description="What they are called from now on.")
    events: int = Field(description="The events of the log in which they were named.")
    texts: int = Field(description="The comments, replies and messages in which they were named.")
