"""Whether an entry of a package hangs together: what its lines name is there, and its history could have been."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import field
from datetime import date, datetime
from typing import Any
from uuid import UUID

from hawthorn.core import aligning, limited, naming, richtext, slots, timeline
from hawthorn.core.bounds import Bounds
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import Invalid
from hawthorn.core.exchange.lines import EditionLine, EntryLine, RevisionLine
from hawthorn.core.fields import Field, Wrong, canonical_value, kind_of
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.core.richtext import ParagraphId, ParagraphIds

_INSTANT = re.compile(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d{1,6})?Z")
_NAME = re.compile(r"[A-Za-z0-9_-]{1,64}")
_EPOCH = date(1970, 1, 1)
_FIRST = _EPOCH.toordinal()
_MOST_REVISIONS = 100_000


def instant(text: str) -> int:
    """An instant as a package has it. Raises `ValueError` for what is none."""
    at = _read(text)
    seconds = ((at.toordinal() - _FIRST) * 24 + at.hour) * 3600 + at.minute * 60 + at.second
    return seconds * timeline.SECOND + at.microsecond


def wrong(line: EntryLine) -> Message | None:
    """The first thing about an entry that cannot be; nothing for a sound one."""
    return next(_wrong(line), None)


def _wrong(line: EntryLine) -> Iterator[Message]:
    if not is_id(line.id):
        yield said("package.no_id", id=line.id[:80])
    if line.limited not in limited.WAYS:
        yield said("package.no_way", way=line.limited[:80])
    try:
        limited.audiences(line.audiences)
        for name in line.folder:
            naming.line("folder", name)
        for one in line.assignments:
            naming.note("note", one.note)
    except Invalid as error:
        yield error.message
    if not all(map(is_instant, (line.at, *([line.archived_at] if line.archived_at else [])))):
        yield said("package.no_instant")
    locales = [one.locale for one in line.editions]
    if len(set(locales)) != len(locales) or COMMON not in locales:
        yield said("package.editions")
    for edition in line.editions:
        yield from _edition(edition)
    numbers = {one.locale: {r.n for r in one.revisions} for one in line.editions}
    for comment in line.comments:
        known = numbers.get(comment.locale or line.source_locale, set()) | numbers.get(COMMON, set())
        times = (comment.at, comment.resolved_at or comment.at, *(r.at for r in comment.replies))
        if not is_id(comment.id) or not all(is_id(r.id) for r in comment.replies):
            yield said("package.no_id", id=comment.id[:80])
        elif not all(map(is_instant, times)):
            yield said("package.no_instant")
        elif comment.revision is not None and comment.revision not in known:
            yield said("package.no_revision", locale=comment.locale, number=comment.revision)

    assigned = [one.locale for one in line.assignments]
    if len(set(assigned)) != len(assigned):
        yield said("package.assigned_twice")
    for one in line.assignments:
        if not is_id(one.id):
            yield said("package.no_id", id=one.id[:80])
        elif not is_instant(one.at) or not (one.due == "" or _is_day(one.due)):
            yield said("package.no_instant")


def _edition(one: EditionLine) -> Iterator[Message]:
    numbers = [r.n for r in one.revisions]
    known = set(numbers)
    if len(numbers) > _MOST_REVISIONS or sorted(known) != numbers or (numbers and numbers[0] < 1):
        yield said("package.numbers", locale=one.locale)
    drafts = [s for s in one.strands if s.name == "draft"]
    if len(drafts) != 1 or drafts[0].closed_at is not None:
        yield said("package.no_draft", locale=one.locale)
    open_ones = [s.name for s in one.strands if s.closed_at is None]
    if len(set(open_ones)) != len(open_ones):
        yield said("package.strands", locale=one.locale)
    named = [
        *(n for s in one.strands for n in (s.head, s.forked_from) if n is not None),
        *(n for r in one.revisions for n in (*r.parents, *(p.revision for p in r.picks))),
        *(s.revision for s in one.standings),
        *(s.revision for s in one.sign_offs),
        *(s.revision for s in one.submissions),
        *(s.revision for s in one.overrides),
    ]
    for number in named:
        if number not in known:
            yield said("package.no_revision", locale=one.locale, number=number)
    for line in one.revisions:
        if any(parent >= line.n for parent in line.parents):
            yield said("package.younger_parent", locale=one.locale, number=line.n)
        if line.strand is not None and not 0 <= line.strand < len(one.strands):
            yield said("package.strands", locale=one.locale)
    times = [
        *(r.at for r in one.revisions),
        *(t for s in one.strands for t in (s.at, s.closed_at) if t is not None),
        *(t for s in one.standings for t in (s.since, s.until, s.committed_at) if t is not None),
        *(s.at for s in one.sign_offs),
        *(s.at for s in one.submissions),
        *(s.at for s in one.overrides),
        *(s.decided_at for s in one.submissions if s.decided_at is not None),
    ]
    if not all(map(is_instant, times)):
        yield said("package.no_instant")
        return
    yield from _standings(one)
    if sum(s.outcome is None for s in one.submissions) > 1:
        yield said("package.submissions", locale=one.locale)
    signed = [(s.revision, s.stage, s.by) for s in one.sign_offs]
    if len(set(signed)) != len(signed):
        yield said("package.sign_offs", locale=one.locale)


def _standings(one: EditionLine) -> Iterator[Message]:
    """At each stage one revision stands at a time."""
    last: dict[str, int | None] = {}
    for standing in one.standings:
        since = instant(standing.since)
        until = instant(standing.until) if standing.until is not None else None
        before = last.get(standing.stage, 0)
        if before is None or since < before or (until is not None and until < since):
            yield said("package.standings", locale=one.locale, stage=standing.stage)
        last[standing.stage] = until


def is_id(text: str) -> bool:
    """Whether it is a UUID as packages have them."""
    try:
        return str(UUID(text)) == text
    except ValueError:
        return False


def _is_day(text: str) -> bool:
    try:
        return date.fromisoformat(text).isoformat() == text
    except ValueError:
        return False


def is_instant(text: str) -> bool:
    """Whether it is an instant as packages have them."""
    try:
        return _read(text).year >= _EPOCH.year
    except ValueError:
        return False


def _read(text: str) -> datetime:
    if not _INSTANT.fullmatch(text):
        raise ValueError
    return datetime.fromisoformat(text)


def as_it_came(line: RevisionLine) -> Content:
    """What a revision holds, as its line says it."""
    ids = {path: tuple(ParagraphId(*one) for one in some) for path, some in line.paragraph_ids.items()}
    return Content(line.fields, ids, {key: tuple(some) for key, some in line.unit_map.items()})


class Keeping:
    """The values of an entry as this house would keep them. What many revisions hold alike is looked at once."""

    def __init__(self, kind: ContentType, bounds: Bounds) -> None:
        self._kind = kind
        self._rich = [spec for spec in kind.fields if kind_of(spec).rich or kind_of(spec).parts]
        self._bounds = bounds
        self._known: dict[tuple[str, str], Any] = {}
        self._hashes: dict[str, list[str]] = {}
        self._paragraphs: dict[str, list[str]] = {}

    def kept(self, given: Mapping[str, Any]) -> tuple[dict[str, Any], list[Message]]:
        """The values in their stored form, and what does not fit its field. What no field has any more stays as it is, as where a type
        was changed; what does not fit stays, too."""
        out: dict[str, Any] = {}
        misfits: list[Message] = []
        for name, value in given.items():
            spec = self._kind.field(name)
            if spec is None or value is None:
                out[name] = value
                continue
            key = (name, value if isinstance(value, str) else repr(value))
            if key not in self._known:
                self._known[key] = self._stored(spec, value)
            found = self._known[key]
            if isinstance(found, Wrong):
                misfits.append(said("common.field_is_wrong", label=spec.label, wrong=found.message))
                out[name] = value
            elif found is not None:
                out[name] = found
        return out, misfits

    def content(self, line: RevisionLine, values: Mapping[str, Any]) -> Content | None:
        """What a revision holds; None where that is as it came. Its paragraphs keep the ids that they came with, where there is one for each of them."""
        others = dict(self._other_ids(line, values))
        if not others and values == line.fields:
            return None
        came = as_it_came(line)
        return Content(values, {**came.paragraph_ids, **others}, came.unit_map)

    def _other_ids(self, line: RevisionLine, values: Mapping[str, Any]) -> Iterator[tuple[str, ParagraphIds]]:
        """The ids of paragraphs that are not kept as they came, by the paths of their texts."""
        for slot in slots.filled(self._rich, values):
            text = slot.value
            if not isinstance(text, str) or not text or not kind_of(slot.spec).rich:
                continue
            if text not in self._hashes:
                self._hashes[text] = richtext.hashes(text, self._paragraphs)
            hashes, have = self._hashes[text], line.paragraph_ids.get(slot.path, ())
            named = [id for id, _ in have]
            if not (len(named) == len(hashes) == len(set(named)) and all(map(_NAME.fullmatch, named))):
                yield slot.path, aligning.align(richtext.paragraphs(text), [], ())
            elif [hash for _, hash in have] != hashes:
                yield slot.path, tuple(map(ParagraphId, named, hashes))

    def _stored(self, spec: Field, value: Any) -> Any:
        try:
            self._bounds.check({spec.name: value})
            return canonical_value(spec, value)
        except Wrong as misfit:
            return misfit
        except Invalid as error:
            return Wrong("package.too_much", why=error.message)
        except (TypeError, ValueError, KeyError, AttributeError):
            return Wrong("package.of_another_kind")


@dataclass(slots=True)
class Kept:
    """What the revisions of an entry hold, by locale and number, as this house keeps it (what is not there is as it came); in how many of them
    something had to be made so, and what does not fit its field in a revision that counts: the newest of a draft, or one that stands."""

    contents: dict[tuple[str, int], Content]
    cleaned: int = 0
    misfits: list[Message] = field(default_factory=list)

    @property
    def as_is(self) -> bool:
        """Whether all of it is as it came."""
        return not self.contents


def stored(kind: ContentType, bounds: Bounds, line: EntryLine) -> Kept:
    """An entry as a house with these definitions would keep it."""
    keeping = Keeping(kind, bounds)
    out = Kept({})
    for edition in line.editions:
        counts = {s.head for s in edition.strands}
        counts |= {s.revision for s in edition.standings if s.until is None}
        for one in edition.revisions:
            values, wrongly = keeping.kept(one.fields)
            if one.n in counts:
                out.misfits += wrongly
            content = keeping.content(one, values)
            if content is not None:
                out.cleaned += values != one.fields
                out.contents[edition.locale, one.n] = content
    return out
