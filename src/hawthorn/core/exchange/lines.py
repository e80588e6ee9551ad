"""What the lines of a package say, each a JSON object: people, files, and entries with all that belongs to them.

The schemas of `docs/package.schema.json` are made from these. Instants are RFC 3339 in UTC, to the microsecond; a revision is named by its
number, which counts within its edition; people by their handles.
"""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import asdict, dataclass, field
from functools import cache
from typing import Any, Literal, TypeVar, cast

from pydantic import ConfigDict, TypeAdapter, ValidationError, with_config

from hawthorn.core import compact
from hawthorn.core.errors import BadFile

T = TypeVar("T")
# Ids and hashes are no two alike: to look for each among those before costs more than it saves.
_STRICT = ConfigDict(extra="forbid", strict=True, cache_strings="keys")
Kind = Literal["person", "program", "assistant", "bureau", "scheduler"]
Pairs = list[tuple[str, str]]


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class PersonLine:
    """Somebody or something that did what the entries tell of. Nothing that lets anybody in is told."""

    handle: str
    name: str
    kind: Kind


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class FileLine:
    """A file, whose bytes lie in `files/` under its SHA-256."""

    sha256: str
    media_type: str
    name: str
    bytes: int
    width: int | None
    height: int | None
    at: str
    by: str | None


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class PickLine:
    """A place that was taken from another revision, which is no parent."""

    revision: int
    path: str


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class RevisionLine:
    """A revision: its number, the strand it was written on (by its place in the list; null for what was typed and did not merge), where it came
    from, by whom, and what it holds."""

    n: int
    strand: int | None
    parents: list[int]
    picks: list[PickLine]
    by: str
    kind: Kind
    at: str
    note: str
    origin: str
    fields: dict[str, Any]
    paragraph_ids: dict[str, Pairs]
    unit_map: dict[str, Pairs]


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class StrandLine:
    """A strand, with its newest revision and the one it was forked from. Every edition has one called draft."""

    name: str
    head: int | None
    forked_from: int | None
    by: str | None
    at: str | None
    note: str
    ended: Literal["", "merged", "dropped"]
    closed_at: str | None


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class StandingLine:
    """That a revision stood at a stage, from an instant until another (null for: it stands there)."""

    stage: str
    revision: int
    since: str
    until: str | None
    committed_at: str


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class SeenLine:
    """What was shown with a text that was signed off: an edition of another entry, and its revision then."""

    entry: str
    locale: str
    revision: int


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class SignOffLine:
    """One person's approval of one revision."""

    revision: int
    stage: str
    workflow: str
    by: str
    roles: list[str]
    at: str
    note: str
    seen: list[SeenLine]


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class SubmissionLine:
    """That a revision was submitted for review, and what became of it (null: it waits)."""

    revision: int
    stage: str
    by: str
    at: str
    note: str
    outcome: Literal["taken back", "sent back", "signed off", "replaced"] | None
    decided_by: str | None
    decided_at: str | None
    reason: str


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class OverrideLine:
    """That a gate was overridden for a revision, with a reason."""

    revision: int
    stage: str
    by: str
    at: str
    reason: str
    conditions: Any


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class EditionLine:
    """An entry in one locale; `*` for the fields that all locales share."""

    locale: str
    strands: list[StrandLine]
    revisions: list[RevisionLine]
    standings: list[StandingLine]
    sign_offs: list[SignOffLine]
    submissions: list[SubmissionLine]
    overrides: list[OverrideLine]


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class ReplyLine:
    """An answer to a comment."""

    id: str
    by: str
    kind: Kind
    at: str
    text: str


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class CommentLine:
    """A comment on an edition, on a field, or on a passage of it."""

    id: str
    locale: str
    field: str
    block: str
    first: int | None
    past: int | None
    quote: str
    revision: int | None
    by: str
    kind: Kind
    at: str
    text: str
    resolved_at: str | None
    resolved_by: str | None
    replies: list[ReplyLine]


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class AssignmentLine:
    """That an edition is assigned to somebody, until a day (empty for none), and of what they were reminded. What ended is not told."""

    id: str
    locale: str
    to: str
    by: str
    at: str
    due: str
    note: str
    told: Literal["", "due", "late"]


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class EntryLine:
    """An entry with all that belongs to it. `limited` says how readers get at it, and `folder` where it lies in the library, from the outermost folder
    on. The phrase that opens a locked entry is not told."""

    id: str
    type: str
    source_locale: str
    at: str
    by: str
    archived_at: str | None
    limited: str
    audiences: list[str]
    folder: list[str]
    editions: list[EditionLine]
    comments: list[CommentLine]
    assignments: list[AssignmentLine] = field(default_factory=list)


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class TimeLine:
    """When a dispatch is to go: the instant, and the wall time in its zone that it came from (empty where it was an instant that was named); `fold` says
    which of two at a clock change."""

    instant: str
    wall: str
    zone: str
    fold: str


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class MoveLine:
    """A move that was asked for. `revision` is the one that was chosen; null where it is whatever is approved by then. One that `follows` brings what is
    approved when it goes, one that may `regress` an older revision than stands there. `payload` is what its verb carries."""

    entry: str
    locale: str
    verb: str
    stage: str
    revision: int | None
    regress: bool
    follows: bool
    payload: dict[str, Any]
    by: str


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class InsideLine:
    """A strand that is written inside a dispatch."""

    entry: str
    locale: str
    strand: str


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class DispatchLine:
    """A dispatch that is still to go, with what it moves and what is written inside it. Whether it waits for its time or is being put together is not
    told: where it is brought, somebody plans it. `partial` says that what cannot go does not hold back the rest."""

    id: str
    name: str
    note: str
    by: str
    at: str
    owner: str
    partial: bool
    when: TimeLine | None
    moves: list[MoveLine]
    inside: list[InsideLine]


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class CollectionLine:
    """A translation memory or a glossary: what lies in it are lines of their own. `section` names the entry that heads the section whose it is; null
    for the house's."""

    id: str
    name: str
    note: str
    section: str | None
    by: str
    at: str


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class SentenceLine:
    """A sentence of a memory with one translation, their tags as in XLIFF; `context` stands for where it was said."""

    memory: str
    source_locale: str
    source: str
    locale: str
    target: str
    context: str
    origin: Literal["accepted", "imported", "edited"]
    by: str
    at: str


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class TermLine:
    """What a concept is called in a language."""

    locale: str
    text: str
    status: Literal["preferred", "admitted", "deprecated"]


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class ConceptLine:
    """A concept of a glossary, and who wrote it last."""

    glossary: str
    note: str
    terms: list[TermLine]
    by: str
    at: str


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class Part:
    """How many lines a part of the package has, and the SHA-256 of its bytes."""

    lines: int
    sha256: str


@with_config(_STRICT)
@dataclass(frozen=True, slots=True)
class Manifest:
    """What a package holds; `history` says whether it has all that ever was, or what stands."""

    format: Literal["hawthorn-package"]
    version: int
    history: bool
    parts: dict[str, Part] = field(default_factory=dict)


@cache
def _adapter(kind: Any) -> TypeAdapter[Any]:
    return TypeAdapter(kind)


def read(kind: type[T], line: bytes, part: str, number: int) -> T:
    """What a line says; raises `BadFile` with where and why it cannot be taken."""
    try:
        found: T = _adapter(cast(Hashable, kind)).validate_json(line)
        return found
    except ValidationError as error:
        first = error.errors(include_url=False, include_input=False)[0]
        where = ".".join(map(str, first["loc"])) or "."
        raise BadFile("package.bad_line", part=part, number=number, where=where, why=first["msg"]) from None


def told(line: Any) -> str:
    """A line of a package, without its end."""
    return compact.written(asdict(line))


def schema(kind: type[Any]) -> Mapping[str, Any]:
    """The JSON Schema (draft 2020-12) of a kind of line."""
    return _adapter(cast(Hashable, kind)).json_schema()
