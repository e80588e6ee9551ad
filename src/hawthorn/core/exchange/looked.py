"""What the lines of entries are found to be, each by itself: that takes most of looking through a package, and needs nothing but what is given here."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import cast
from uuid import UUID

from hawthorn.core.bounds import Bounds
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import BadFile
from hawthorn.core.exchange import lines
from hawthorn.core.exchange.lines import EntryLine
from hawthorn.core.exchange.package import ENTRIES
from hawthorn.core.exchange.soundness import Kept, stored, wrong
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass

Numbered = tuple[int, bytes]
"""A line with its number in its part."""
_DRAFT = "draft"
_OUT = "release"


@dataclass(frozen=True, slots=True)
class EditionNames:
    """What others may name of an edition: the numbers of its revisions, and its strands that are open."""

    locale: str
    numbers: frozenset[int]
    strands: frozenset[str]


@dataclass(frozen=True, slots=True)
class Looked:
    """What an entry of a package was found to be by itself: `ids` are its own and those of what belongs to it, `misfit` is why it does not fit its type, `cleaned`
    in how many revisions something had to be made as it is kept here, and `as_is` whether nothing had. Of entries that are named elsewhere, their `editions`."""

    number: int
    id: str
    type: str
    title: str
    out: bool
    ids: tuple[bytes, ...]
    misfit: Message | None
    cleaned: int
    as_is: bool
    editions: tuple[EditionNames, ...]


@dataclass(frozen=True, slots=True)
class Unsound:
    """Why a package cannot be brought: what is wrong with one of its entries."""

    why: Message


@dataclass(frozen=True, slots=True)
class Looker:
    """What entries are held against: types, how much a text may hold, the people that the package knows, and the entries that are named elsewhere in it."""

    types: Mapping[str, ContentType]
    bounds: Bounds
    handles: frozenset[str]
    named: frozenset[str]

    def look(self, some: Iterable[Numbered]) -> list[Looked | Unsound]:
        """What some lines are found to be, up to the first that cannot be."""
        out: list[Looked | Unsound] = []
        for number, line in some:
            found = self._one(number, line)
            out.append(found)
            if isinstance(found, Unsound):
                break
        return out

    def _one(self, number: int, raw: bytes) -> Looked | Unsound:
        try:
            line = lines.read(EntryLine, raw, ENTRIES, number)
        except BadFile as error:
            return Unsound(error.message)
        why = wrong(line)
        if why is None and not (people := _people_of(line)) <= self.handles:
            why = said("package.unknown_person", handle=sorted(people - self.handles)[0])
        if why is not None:
            return Unsound(said("package.unsound", part=ENTRIES, number=number, id=line.id[:80], why=why))
        mine = [line.id, *(c.id for c in line.comments), *(r.id for c in line.comments for r in c.replies)]
        mine += [one.id for one in line.assignments]
        kind = self.types.get(line.type)
        kept = stored(kind, self.bounds, line) if kind is not None else Kept({})
        return Looked(
            number,
            line.id,
            line.type,
            title_of(line),
            _is_out(line),
            tuple(UUID(one).bytes for one in mine),
            kept.misfits[0] if kept.misfits else None,
            kept.cleaned,
            kept.as_is and not kept.misfits,
            tuple(_names(line)) if line.id in self.named else (),
        )


def sound(batches: Iterable[Sequence[Looked | Unsound]]) -> Iterator[list[Looked]]:
    """What was found, as long as it can be. Raises `BadFile` for the first that cannot, or whose id another had before: nothing of such a package is brought."""
    ids: set[bytes] = set()
    for some in batches:
        good: list[Looked] = []
        for one in some:
            if isinstance(one, Unsound):
                raise BadFile(one.why.code, **one.why.facts)
            short = set(one.ids)
            if len(short) != len(one.ids) or ids & short:
                raise BadFile("package.id_twice", part=ENTRIES, number=one.number, id=one.id)
            ids |= short
            good.append(one)
        yield good


def title_of(line: EntryLine) -> str:
    """What an entry is called, as far as its newest draft says."""
    for edition in sorted(line.editions, key=lambda one: one.locale != line.source_locale):
        head = next((s.head for s in edition.strands if s.name == _DRAFT), None)
        fields = next((r.fields for r in edition.revisions if r.n == head), {})
        named = fields.get("title") or next((v for v in fields.values() if isinstance(v, str)), "")
        if isinstance(named, str) and named and edition.locale != COMMON:
            return named[:200]
    return ""


def _names(line: EntryLine) -> Iterator[EditionNames]:
    for one in line.editions:
        open_ones = frozenset(s.name for s in one.strands if s.closed_at is None)
        yield EditionNames(one.locale, frozenset(r.n for r in one.revisions), open_ones)


def _is_out(line: EntryLine) -> bool:
    return any(
        s.stage == _OUT and s.until is None for e in line.editions if e.locale != COMMON for s in e.standings
    )


def _people_of(line: EntryLine) -> set[str]:
    out: set[str | None] = {line.by}
    for edition in line.editions:
        for some in (
            edition.revisions,
            edition.strands,
            edition.sign_offs,
            edition.submissions,
            edition.overrides,
        ):
            out.update([one.by for one in some])
        out.update([s.decided_by for s in edition.submissions])
    for comment in line.comments:
        out |= {comment.by, comment.resolved_by, *(r.by for r in comment.replies)}
    for one in line.assignments:
        out |= {one.to, one.by}
    out.discard(None)
    return cast(set[str], out)
