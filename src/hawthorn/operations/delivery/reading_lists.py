"""Lists that sites and programs read: chosen by what types mark for it, in an order, a page at a time, with what they relate to; and counts.

What is out now, and drafts as they are now, are answered from kept values. Anywhere else (an instant, a strand, a dispatch, another stage) lists are walked
newest first, and so far at most; in the order of a field, and to be counted, they are looked through whole, where they are no longer than that.
"""

from __future__ import annotations

import base64
import binascii
import json
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import field, replace
from typing import Any
from zlib import crc32

from hawthorn.core import access, contenttypes, filtering, timeline
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.fields import Filtered
from hawthorn.core.filtering import DATE, Condition, Order
from hawthorn.core.limited import LOCKED
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content, together
from hawthorn.operations.delivery import reading
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.runtime.act import View
from hawthorn.store import entries, revisions
from hawthorn.store import reading_lists as store
from hawthorn.store.entries import Entry
from hawthorn.store.reading_lists import Asked, LetIn
from hawthorn.store.standings import DRAFT

MOST = 100
"""So many entries of a page."""
DEEPEST = 3
"""So far relations are followed."""
MOST_INCLUDED = 500
"""So many entries are included in one answer."""
MOST_REFERRING = 50
"""So many entries that refer to one are given."""
MOST_COUNTS = 500
WALKED = 2_000
"""So many entries are looked at where lists are walked."""
_STEP = 200


@dataclass(frozen=True, slots=True)
class Wish:
    """What a reader asks for. `where` are conditions as they are written (`core.filtering`), `include` paths of relations, `referring` names of a type and a
    field of it that refers here; `fields` those that are wanted of each entry, all where none is named; `texts` the form of rich texts; `groups` whether each is to say what it
    depends on."""

    types: tuple[str, ...] = ()
    locale: str = ""
    where: tuple[tuple[str, str], ...] = ()
    sort: str = ""
    limit: int = 20
    cursor: str = ""
    fallback: bool = True
    ids: tuple[str, ...] = ()
    fields: tuple[str, ...] = ()
    include: tuple[str, ...] = ()
    referring: tuple[str, ...] = ()
    texts: str = "html"
    groups: bool = False


@dataclass(frozen=True, slots=True)
class Page:
    """The entries of a page, by their UUIDs, in the wanted locale, and the cursor of the next."""

    uuids: list[str]
    locale: str
    next: str = ""


@dataclass(frozen=True, slots=True)
class Count:
    """A value (an entry's UUID, a tag, a word, a month), what it is called, and how many entries have it."""

    value: str
    title: str
    count: int


@dataclass(slots=True)
class _Question:
    """A wish that was looked through."""

    kinds: dict[str, ContentType]
    asked: Asked
    conditions: list[Condition]
    order: Order
    mark: int
    specs: Mapping[str, Any] = field(default_factory=dict)


def page(view: View, where: Place, wish: Wish) -> Page:
    """A page of a list. Raises `Invalid` for what cannot be asked, naming it, and for a cursor of another question."""
    if where.limited:
        where = Place()
    question = _question(view, where, wish)
    if wish.ids:
        return _by_ids(view, where, wish, question)
    if not question.kinds:
        return Page([], question.asked.locale)
    after = _place(wish.cursor, question.mark)
    if _kept(view, where):
        walk = store.page(
            view.conn, question.asked, question.conditions, question.order, after, wish.limit + 1
        )
        lines, stopped = walk.lines, walk.stopped
        last = lines[wish.limit - 1].key if len(lines) > wish.limit else stopped
        found = [line.uuid for line in lines[: wish.limit]]
        return Page(found, question.asked.locale, _cursor(question.mark, last) if last else "")
    return _walked(view, where, wish, question, after)


def _kept(view: View, where: Place) -> bool:
    """Whether a list is answered from kept values."""
    if where.plain:
        return True
    now = where.at is None and not where.strand and not where.dispatch
    return now and where.stage == DRAFT and access.reads_all_at(view.identity, "draft")


def _question(view: View, where: Place, wish: Wish) -> _Question:
    tag = view.setup.locale(wish.locale) if wish.locale else next(iter(view.setup.locales))
    types = [view.setup.type(name).name for name in wish.types]
    open_ones = [name for name in types or view.setup.types if not reading.closed(view, name)]
    kinds = {name: view.setup.types[name] for name in open_ones}
    if len(wish.ids) > MOST:
        raise Invalid([FieldProblem("id", said("reading_lists.too_many_ids", most=MOST))])
    specs = filtering.known(view.setup.types[name] for name in types or view.setup.types)
    conditions = filtering.read(specs, wish.where, view.now)
    order = filtering.ordered(specs, wish.sort) if wish.sort else Order()
    whole = len(open_ones) == len(view.setup.types)
    stage = where.stage if where.stage == DRAFT else store.RELEASE
    let_in = LetIn(
        everything=not where.plain,
        audiences=view.identity.audiences,
        unlocked=view.identity.unlocked,
        asks=bool(order.field) or any(one.field != DATE for one in conditions),
    )
    listed = () if whole and not types else tuple(open_ones)
    asked = Asked(stage, listed, tag, view.setup.stand_ins(tag), not wish.fallback, let_in)
    mark = crc32(repr((types, tag, sorted(wish.where), wish.sort, wish.fallback)).encode())
    _check_fields(kinds, wish)
    return _Question(kinds, asked, conditions, order, mark, specs)


def _check_fields(kinds: Mapping[str, ContentType], wish: Wish) -> None:
    """Refuse fields that no type of the list has."""
    known = {spec.name for kind in kinds.values() for spec in kind.fields if spec.public}
    wrong = [name for name in wish.fields if name not in known]
    if wrong and kinds:
        raise Invalid(
            [FieldProblem("fields", said("reading_lists.no_field", name=wrong[0][:80], known=sorted(known)))]
        )


def _by_ids(view: View, where: Place, wish: Wish, question: _Question) -> Page:
    """Those that are named and fit, in the order in which they are named."""
    out: list[str] = []
    for uuid in dict.fromkeys(wish.ids):
        row = entries.entry(view.conn, uuid)
        if row is None or row.type not in question.kinds or not _shows(view, where, row, question):
            continue
        if question.conditions and not _fits(view, where, row, question):
            continue
        out.append(row.uuid)
    return Page(out, question.asked.locale)


@dataclass(frozen=True, slots=True)
class _Found:
    """An entry of a list where nothing is kept, and what it has there to be chosen and sorted by."""

    uuid: str
    edition: int
    have: dict[str, list[Filtered]]


def _walked(view: View, where: Place, wish: Wish, question: _Question, after: tuple[Any, ...] | None) -> Page:
    """The same where nothing is kept: entry by entry, newest first."""
    if question.order.field:
        return _sorted(view, where, wish, question, after)
    start = (after[0], after[1], after[2]) if after else reading.END
    types, tag = tuple(question.kinds), question.asked.locale
    out: list[str] = []
    looked = 0
    while len(out) < wish.limit and looked < WALKED:
        some = reading.candidates(view, where, types, tag, _STEP, start, alone=not wish.fallback)
        for one in some:
            looked += 1
            start = (one.pinned, one.sort, one.edition)
            row = entries.entry_by_id(view.conn, one.entry)
            if _shows(view, where, row, question) and _fits(view, where, row, question, one.sort):
                out.append(one.uuid)
                if len(out) == wish.limit:
                    break
        if len(some) < _STEP:
            ended = not some or start == (some[-1].pinned, some[-1].sort, some[-1].edition)
            return Page(out, tag, "" if ended else _cursor(question.mark, start))
    return Page(out, tag, _cursor(question.mark, start))


def _sorted(view: View, where: Place, wish: Wish, question: _Question, after: tuple[Any, ...] | None) -> Page:
    """A page in the order of a field where nothing is kept; what has nothing in it is not among them."""
    order = question.order
    lines: list[tuple[tuple[Any, int], str]] = []
    for one in _all(view, where, wish, question, "sort"):
        first = next(iter(one.have.get(order.field, ())), None)
        key = None if first is None else first.number if order.numeric else first.text
        if key is not None:
            lines.append(((key, one.edition), one.uuid))
    lines.sort(reverse=order.backwards)
    if after is not None:
        lines = [line for line in lines if (line[0] < after if order.backwards else line[0] > after)]
    last = lines[wish.limit - 1][0] if len(lines) > wish.limit else None
    found = [uuid for _, uuid in lines[: wish.limit]]
    return Page(found, question.asked.locale, _cursor(question.mark, last) if last else "")


def _all(view: View, where: Place, wish: Wish, question: _Question, name: str) -> Iterator[_Found]:
    """All of a list where nothing is kept. Raises `Invalid` for the parameter that asks for all where there are too many to be looked through."""
    types, tag = tuple(question.kinds), question.asked.locale
    found = reading.candidates(view, where, types, tag, WALKED + 1, alone=not wish.fallback)
    if len(found) > WALKED:
        raise Invalid([FieldProblem(name, said("reading_lists.too_many_here", most=WALKED))])
    for one in found:
        row = entries.entry_by_id(view.conn, one.entry)
        if not _shows(view, where, row, question):
            continue
        have = _have(view, where, row, question, one.sort)
        if have is not None and all(filtering.fits(condition, have) for condition in question.conditions):
            yield _Found(one.uuid, one.edition, have)


def _shows(view: View, where: Place, row: Entry, question: _Question) -> bool:
    """Whether an entry is one of a list for whoever reads: not where it is hidden from them, nor where its being there would tell what a locked
    one holds."""
    if not row.limited or reading.lets(view, row, where):
        return True
    return row.limited == LOCKED and not question.asked.let_in.asks


def _fits(view: View, where: Place, row: Entry, question: _Question, sort: int | None = None) -> bool:
    """Whether an entry is such as is asked for, by its values where it is read."""
    if not question.conditions:
        return True
    have = _have(view, where, row, question, sort)
    return have is not None and all(filtering.fits(one, have) for one in question.conditions)


def _have(
    view: View, where: Place, row: Entry, question: _Question, sort: int | None = None
) -> dict[str, list[Filtered]] | None:
    """What an entry has where it is read, by which it can be chosen, sorted and counted; None where it does not stand there, as something else will
    have taken it away by then."""
    kind = view.setup.types[row.type]
    there = reading.place_of(view, row, where)
    own: Content | None = None
    for tag in view.setup.chain(question.asked.locale, row.source_locale):
        edition = entries.edition(view.conn, row.id, tag)
        found = reading.revision_at(view, edition.id, there) if edition else None
        if found is not None:
            own = revisions.content(view.conn, found[0])
            sort = found[1] if sort is None else sort
            break
    if own is None:
        return None
    values = together(kind, reading.content_at(view, row.id, COMMON, there), own)
    have = filtering.values_of(kind, values)
    shown = contenttypes.shown_date(kind, values)
    instant = timeline.day_or_instant(shown) if shown else sort
    if instant is not None:
        have[DATE] = [Filtered(number=instant)]
    return have


def counts(view: View, where: Place, wish: Wish, by: str) -> list[Count]:
    """How many entries of a list there are by the values of a field, or by month: `month` of the date that is shown, `month.FIELD` of a day or an instant.
    Values that are entries come with their titles."""
    if where.limited:
        where = Place()
    question = _question(view, where, wish)
    if not question.kinds:
        return []
    name, _, of = by.partition(".")
    month = name == "month"
    spec = question.specs.get(of if month else by)
    if not (month and not of) and (spec is None or spec.kind not in (_DATED if month else _COUNTED)):
        raise _no_counts(question, by)
    if by != "month":
        # What asks for the values of a field.
        question.asked = replace(question.asked, let_in=replace(question.asked.let_in, asks=True))
    count = _counted_kept if _kept(view, where) else _counted_walked
    found = count(view, where, wish, question, by)
    if month or spec is None or spec.kind != "reference":
        return [Count(value, value, count) for value, count in found]
    titles = {value: _title(view, where, value, question.asked.locale) for value, _ in found}
    return [Count(value, titles[value] or "", count) for value, count in found if titles[value] is not None]


def _counted_kept(
    view: View, where: Place, wish: Wish, question: _Question, by: str
) -> list[tuple[str, int]]:
    name, _, of = by.partition(".")
    if name == "month":
        return store.counted_by_month(view.conn, question.asked, question.conditions, of or DATE, MOST_COUNTS)
    return store.counted_by_value(view.conn, question.asked, question.conditions, by, MOST_COUNTS)


def _counted_walked(
    view: View, where: Place, wish: Wish, question: _Question, by: str
) -> list[tuple[str, int]]:
    """The same where nothing is kept."""
    name, _, of = by.partition(".")
    counter: Counter[str] = Counter()
    for one in _all(view, where, wish, question, "by"):
        if name == "month":
            instants = (value.number for value in one.have.get(of or DATE, ()))
            counter.update({_month(instant) for instant in instants if instant is not None})
        else:
            counter.update({value.text for value in one.have.get(by, ()) if value.text is not None})
    # The latest month first; of values those of which there are most.
    ordered = (
        sorted(counter, reverse=True) if name == "month" else sorted(counter, key=lambda v: (-counter[v], v))
    )
    return [(value, counter[value]) for value in ordered[:MOST_COUNTS]]


def _month(instant: float) -> str:
    return f"{timeline.to_datetime(int(instant)):%Y-%m}"


_COUNTED = ("tags", "choice", "reference", "boolean")
_DATED = ("date", "instant")


def _no_counts(question: _Question, by: str) -> Invalid:
    can = ["month", *(n for n, s in question.specs.items() if s.kind in _COUNTED)]
    return Invalid([FieldProblem("by", said("reading_lists.no_counts", name=by[:80], known=can))])


def _title(view: View, where: Place, uuid: str, locale: str) -> str | None:
    """What an entry is called where somebody reads; None where it is not there for them."""
    row = entries.entry(view.conn, uuid)
    if row is None or reading.closed(view, row.type) or reading.hides(view, row, where):
        return None
    kind = view.setup.types[row.type]
    there = reading.place_of(view, row, where)
    for tag in view.setup.chain(locale, row.source_locale):
        edition = entries.edition(view.conn, row.id, tag)
        found = reading.revision_at(view, edition.id, there) if edition else None
        if found is not None:
            values = revisions.content(view.conn, found[0]).fields
            if kind.title in values:
                return str(values[kind.title])
    return None


def check_include(view: View, wish: Wish) -> None:
    """Refuse paths that are too long, and relations that no type has."""
    known = {
        s.name for k in view.setup.types.values() for s in k.fields if s.kind == "reference" and s.public
    }
    for path in wish.include:
        steps = path.split(".")
        if len(steps) > DEEPEST:
            raise Invalid([FieldProblem("include", said("reading_lists.too_deep", most=DEEPEST))])
        wrong = [one for one in steps if one not in known]
        if wrong:
            raise Invalid(
                [
                    FieldProblem(
                        "include", said("reading_lists.no_relation", name=wrong[0][:80], known=sorted(known))
                    )
                ]
            )
    for name in wish.referring:
        referring_by(view, name)


def referring_by(view: View, name: str) -> tuple[str, str]:
    """The type and the field of a relation that leads here, such as `talk.place`; refused where readers cannot filter by it."""
    type, _, by = name.partition(".")
    kind = view.setup.types.get(type)
    spec = kind.field(by) if kind else None
    if (
        kind is None
        or spec is None
        or spec.kind != "reference"
        or not spec.filter
        or reading.closed(view, type)
    ):
        can = [
            f"{k.name}.{s.name}"
            for k in view.setup.types.values()
            for s in k.filtered
            if s.kind == "reference" and not reading.closed(view, k.name)
        ]
        raise Invalid(
            [FieldProblem("referring", said("reading_lists.nothing_refers", name=name[:80], known=can))]
        )
    return type, by


def _place(text: str, mark: int) -> tuple[Any, ...] | None:
    if not text:
        return None
    try:
        found = json.loads(base64.urlsafe_b64decode(text.encode() + b"=="))
        if isinstance(found, list) and len(found) in (3, 4) and found[0] == mark and _plain(found):
            return tuple(found[1:])
    except (ValueError, binascii.Error):
        pass
    raise Invalid("common.cursor_of_another_list")


def _plain(some: Sequence[Any]) -> bool:
    small = all(not isinstance(one, int) or abs(one) < 1 << 63 for one in some)
    return small and all(isinstance(one, int | float | str) and not isinstance(one, bool) for one in some)


def _cursor(mark: int, place: Sequence[Any]) -> str:
    text = json.dumps([mark, *place], separators=(",", ":"))
    return base64.urlsafe_b64encode(text.encode()).decode().rstrip("=")
