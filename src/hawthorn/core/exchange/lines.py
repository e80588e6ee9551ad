"""What the lines of a package say, each a JSON object: people, files, and entries with all that belongs to them.

The schemas of `docs/package.schema.json` are made from these. Instants are RFC 3339 in UTC, to the microsecond; a revision is named by its
number, which counts within its edition; people by their handles.
"""

from __future__ import annotations

import re
from collections.abc import Hashable, Mapping
from functools import cache
from typing import Annotated, Any, Literal, TypeVar, cast

import msgspec

from hawthorn.core import compact
from hawthorn.core.errors import BadFile
from hawthorn.core.messages import Message, said

T = TypeVar("T")
Kind = Literal["person", "program", "assistant", "bureau", "scheduler"]
Outcome = Literal["taken back", "sent back", "signed off", "replaced"]
Pairs = list[tuple[str, str]]
Count = Annotated[int, msgspec.Meta(ge=0, le=2**53 - 1)]
"""A whole number that every reader of JSON takes for the same (RFC 8259, section 6)."""


class Line(msgspec.Struct, frozen=True, forbid_unknown_fields=True, gc=False):
    """What any line is: read and held against what it may have in one go, three times as fast as by the models of the API, of which there are few at once."""


class PersonLine(Line, frozen=True):
    """Somebody or something that did what the entries tell of. Nothing that lets anybody in is told."""

    handle: str
    name: str
    kind: Kind


class FileLine(Line, frozen=True):
    """A file, whose bytes lie in `files/` under its SHA-256."""

    sha256: str
    media_type: str
    name: str
    bytes: Count
    width: Count | None
    height: Count | None
    at: str
    by: str | None


class PickLine(Line, frozen=True):
    """A place that was taken from another revision, which is no parent."""

    revision: Count
    path: str


class RevisionLine(Line, frozen=True):
    """A revision: its number, the strand it was written on (by its place in the list; null for what was typed and did not merge), where it came
    from, by whom, and what it holds."""

    n: Count
    strand: Count | None
    parents: list[Count]
    picks: list[PickLine]
    by: str
    kind: Kind
    at: str
    note: str
    origin: str
    fields: dict[str, Any]
    paragraph_ids: dict[str, Pairs]
    unit_map: dict[str, Pairs]


class StrandLine(Line, frozen=True):
    """A strand, with its newest revision and the one it was forked from. Every edition has one called draft."""

    name: str
    head: Count | None
    forked_from: Count | None
    by: str | None
    at: str | None
    note: str
    ended: Literal["", "merged", "dropped"]
    closed_at: str | None


class StandingLine(Line, frozen=True):
    """That a revision stood at a stage, from an instant until another (null for: it stands there)."""

    stage: str
    revision: Count
    since: str
    until: str | None
    committed_at: str


class SeenLine(Line, frozen=True):
    """What was shown with a text that was signed off: an edition of another entry, and its revision then."""

    entry: str
    locale: str
    revision: Count


class SignOffLine(Line, frozen=True):
    """One person's approval of one revision."""

    revision: Count
    stage: str
    workflow: str
    by: str
    roles: list[str]
    at: str
    note: str
    seen: list[SeenLine]


class ReviewLine(Line, frozen=True):
    """That somebody asked for the review of a dispatch as one, and what became of it (null: it waits)."""

    by: str
    at: str
    note: str
    outcome: Outcome | None
    decided_by: str | None
    decided_at: str | None
    reason: str


class SubmissionLine(ReviewLine, frozen=True):
    """That a revision was submitted for review, and what became of it (null: it waits)."""

    revision: Count
    stage: str


class OverrideLine(Line, frozen=True):
    """That a gate was overridden for a revision, with a reason."""

    revision: Count
    stage: str
    by: str
    at: str
    reason: str
    conditions: Any


class EditionLine(Line, frozen=True):
    """An entry in one locale; `*` for the fields that all locales share."""

    locale: str
    strands: list[StrandLine]
    revisions: list[RevisionLine]
    standings: list[StandingLine]
    sign_offs: list[SignOffLine]
    submissions: list[SubmissionLine]
    overrides: list[OverrideLine]


class ReplyLine(Line, frozen=True):
    """An answer to a comment."""

    id: str
    by: str
    kind: Kind
    at: str
    text: str


class SaidLine(Line, frozen=True):
    """A comment, with its answers."""

    id: str
    by: str
    kind: Kind
    at: str
    text: str
    resolved_at: str | None
    resolved_by: str | None
    replies: list[ReplyLine]


class CommentLine(SaidLine, frozen=True):
    """A comment on an edition, on a field, or on a passage of it."""

    locale: str
    field: str
    block: str
    first: Count | None
    past: Count | None
    quote: str
    revision: Count | None


class AssignmentLine(Line, frozen=True):
    """That an edition is assigned to somebody, until a day (empty for none), and of what they were reminded. What ended is not told."""

    id: str
    locale: str
    to: str
    by: str
    at: str
    due: str
    note: str
    told: Literal["", "due", "late"]


class EntryLine(Line, frozen=True):
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
    assignments: list[AssignmentLine] = msgspec.field(default_factory=list)


class TimeLine(Line, frozen=True):
    """When a dispatch is to go: the instant, and the wall time in its zone that it came from (empty where it was an instant that was named); `fold` says
    which of two at a clock change."""

    instant: str
    wall: str
    zone: str
    fold: str


class MoveLine(Line, frozen=True):
    """A move that was asked for. `revision` is the one that was chosen; null where it is whatever is approved by then. One that `follows` brings what is
    approved when it goes, one that may `regress` an older revision than stands there. `payload` is what its verb carries."""

    entry: str
    locale: str
    verb: str
    stage: str
    revision: Count | None
    regress: bool
    follows: bool
    payload: dict[str, Any]
    by: str


class InsideLine(Line, frozen=True):
    """A strand that is written inside a dispatch."""

    entry: str
    locale: str
    strand: str


class LeavingLine(Line, frozen=True):
    """One person's approval that an edition leaves readers, as the dispatch moves it."""

    entry: str
    locale: str
    by: str
    roles: list[str]
    at: str
    note: str


class DispatchLine(Line, frozen=True):
    """A dispatch that is still to go, with what it moves, what is written inside it, and what was said and decided about it. Whether it waits for its time
    or is being put together is not told: where it is brought, somebody plans it. `partial` says that what cannot go does not hold back the rest."""

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
    sign_offs: list[LeavingLine] = msgspec.field(default_factory=list)
    reviews: list[ReviewLine] = msgspec.field(default_factory=list)
    comments: list[SaidLine] = msgspec.field(default_factory=list)


class CollectionLine(Line, frozen=True):
    """A translation memory or a glossary: what lies in it are lines of their own. `section` names the entry that heads the section whose it is; null
    for the house's."""

    id: str
    name: str
    note: str
    section: str | None
    by: str
    at: str


class SentenceLine(Line, frozen=True):
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


class TermLine(Line, frozen=True):
    """What a concept is called in a language."""

    locale: str
    text: str
    status: Literal["preferred", "admitted", "deprecated"]


class ConceptLine(Line, frozen=True):
    """A concept of a glossary, and who wrote it last."""

    glossary: str
    note: str
    terms: list[TermLine]
    by: str
    at: str


class Part(Line, frozen=True):
    """How many lines a part of the package has, and the SHA-256 of its bytes."""

    lines: Count
    sha256: str


class Manifest(Line, frozen=True):
    """What a package holds; `history` says whether it has all that ever was, or what stands."""

    format: Literal["hawthorn-package"]
    version: Count
    history: bool
    parts: dict[str, Part] = msgspec.field(default_factory=dict)


@cache
def _decoder(kind: Any) -> msgspec.json.Decoder[Any]:
    return msgspec.json.Decoder(kind)


def read(kind: type[T], line: bytes, part: str, number: int) -> T:
    """What a line says; raises `BadFile` with where and why it cannot be taken."""
    try:
        found: T = _decoder(cast(Hashable, kind)).decode(line)
        return found
    except (msgspec.MsgspecError, ValueError, RecursionError) as error:
        why, _, where = str(error).partition(" - at `")
        where = where.rstrip("`") or "$"
        raise BadFile("package.bad_line", part=part, number=number, where=where, why=_told(why)) from None


_KIND = re.compile(r"Expected `(\w+)`, got `(\w+)`")
_MISSING = re.compile(r"Object missing required field `(.*)`")
_UNKNOWN = re.compile(r"Object contains unknown field `(.*)`", re.DOTALL)
_VALUE = re.compile(r"Invalid enum value '(.*)'", re.DOTALL)
_BOUND = re.compile(r"Expected `(\w+)` (?:of length )?([<>=\d ]+)")
_BYTE = re.compile(r"JSON is malformed: .*\(byte (\d+)\)")


def _told(why: str) -> Message | str:
    """Why a line cannot be taken, of what the reader says in words of its own."""
    if found := _KIND.fullmatch(why):
        return said("package.other_kind", wanted=found[1], got=found[2])
    if found := _MISSING.fullmatch(why):
        return said("package.member_missing", name=found[1])
    if found := _UNKNOWN.fullmatch(why):
        return said("package.member_unknown", name=found[1][:80])
    if found := _VALUE.fullmatch(why):
        return said("package.no_such_value", value=found[1][:80])
    if found := _BOUND.fullmatch(why):
        return said("package.out_of_bounds", kind=found[1], bound=found[2])
    if found := _BYTE.fullmatch(why):
        if "surrogate" in why:
            return said("package.half_a_letter", byte=int(found[1]))
        return said("package.no_json", byte=int(found[1]))
    return said("package.line_ends") if "truncated" in why else why


def told(line: Line) -> str:
    """A line of a package, without its end."""
    return compact.written(msgspec.to_builtins(line))


def schema(kind: type[Line]) -> Mapping[str, Any]:
    """The JSON Schema (draft 2020-12) of a kind of line."""
    return msgspec.json.schema(kind)
