"""Orders for translation: what each locale of one holds, counted before it is sent."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field

from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.translation import counting, rates, units
from hawthorn.core.translation.rates import KINDS
from hawthorn.core.translation.units import Unit
from hawthorn.operations.access import permission
from hawthorn.operations.release import drafts
from hawthorn.operations.release.drafts import drafted
from hawthorn.operations.runtime import days
from hawthorn.operations.runtime.act import View
from hawthorn.operations.translation import memories
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as store
from hawthorn.store import revisions
from hawthorn.store.bureaus import Bureau
from hawthorn.store.entries import Entry


@dataclass(frozen=True, slots=True)
class Order:
    """What somebody wants translated, and by which bureau; without one, by whoever writes that locale. Units that another job has are left out, unless they shall go `again`; and so are those whose
    translation is up to date, unless `current` ones shall go too. `memories` are looked into, all where none is named."""

    entries: tuple[str, ...]
    locales: tuple[str, ...]
    name: str = ""
    due: str = ""
    note: str = ""
    bureau: str = ""
    again: bool = False
    current: bool = False
    memories: tuple[int, ...] = ()


@dataclass(slots=True)
class Part:
    """An entry of an order in one locale: the units that go, and how many another job has already."""

    entry: Entry
    kind: ContentType
    source_revision: int
    units: list[Unit]
    target_hashes: Mapping[str, str]
    translated: frozenset[str]
    """The keys of units that were translated before."""
    away: int = 0


@dataclass(frozen=True, slots=True)
class Estimate:
    """What one locale of an order would hold, and why whoever looks could not send that."""

    locale: str
    entries: int
    units: int
    words: int
    away: int
    trouble: str = ""


def left_out(view: View, order: Order) -> int:
    """How many units an order does not send, as another job has them already."""
    return sum(p.away for locale in order.locales for p in parts(view, order, locale))


@dataclass(frozen=True, slots=True)
class EntryCount:
    """What an entry of an order holds in one locale: units, and words by how much of them is known (`rates.KINDS`)."""

    entry: str
    title: str
    units: int
    new: int
    changed: int
    away: int
    words: dict[str, int] = field(default_factory=dict)
    cost: str = ""


@dataclass(frozen=True, slots=True)
class Counted:
    """Some entries of an order in one locale, and the currency of what they cost; empty where there are no rates. `trouble` says why they
    could not be sent as they are."""

    entries: list[EntryCount]
    currency: str
    trouble: str = ""


@dataclass(frozen=True, slots=True)
class Looked:
    """A page of an order in one locale: its parts that have something to translate, the entries that were passed by for them, the
    sentences of what stands before, and where the next page begins."""

    parts: list[Part]
    passed: tuple[str, ...]
    seen: set[str]
    more: str


def look(view: View, order: Order, locale: str, limit: int, cursor: str) -> Looked:
    """A page of an order in one locale, which reads no more of it than that and what stands before."""
    tag = view.setup.locale(locale)
    start = int(cursor) if cursor.isdecimal() and len(cursor) < 10 else 0
    seen: set[str] = set()
    for uuid in order.entries[:start]:
        if (part := _part(view, order, uuid, tag)) is not None:
            seen.update(known for unit in part.units for known in counting.sentences(unit))
    out: list[Part] = []
    for at, uuid in enumerate(order.entries[start:], start):
        part = _part(view, order, uuid, tag)
        if part is not None and len(out) == limit:
            return Looked(out, order.entries[start:at], seen, str(at))
        if part is not None:
            out.append(part)
    return Looked(out, order.entries[start:], seen, "")


def counted(view: View, order: Order, locale: str, bureau: Bureau | None, looked: Looked) -> Counted:
    """A page of an order in one locale, counted with the memories, and what it costs by the rates of a bureau, as an amount."""
    seen = set(looked.seen)
    asked = rates.stored(bureau.rates) if bureau is not None else rates.Rates()
    out: list[EntryCount] = []
    for part in looked.parts:
        looking = memories.Looking(
            view, memories.FINDER, part.entry.source_locale, view.setup.locale(locale), order.memories
        )
        count = counting.count(part.units, part.translated, looking.percent, seen)
        out.append(
            EntryCount(
                entry=part.entry.uuid,
                title=entry_store.title(view.conn, part.entry.id),
                units=count.units,
                new=count.new,
                changed=count.changed,
                away=part.away,
                words={kind: count.words.get(kind, 0) for kind in KINDS},
                cost=str(asked.cost(count.words, locale)) if asked.currency else "",
            )
        )
    return Counted(out, asked.currency)


def check(view: View, order: Order) -> None:
    """Raise unless an order can be sent by whoever looks."""
    problems: list[FieldProblem] = []
    if not order.entries:
        problems.append(FieldProblem("entries", said("commissions.no_entries")))
    if not order.locales:
        problems.append(FieldProblem("locales", said("commissions.no_locales")))
    if problems:
        raise Invalid(problems)
    check_due(view, order.due)
    sources: set[str] = set()
    for uuid in order.entries:
        entry = permission.find(view, uuid)
        drafts.require_at_work(entry)
        sources.add(entry.source_locale)
        for locale in order.locales:
            tag = view.setup.locale(locale)
            if tag == entry.source_locale:
                raise Invalid([FieldProblem("locales", said("commissions.source_as_target", locale=tag))])
            permission.require(view, "commission", permission.subject(view, entry, tag))
    if len(sources) > 1:
        raise Invalid([FieldProblem("entries", said("commissions.several_sources", locales=sorted(sources)))])


def check_due(view: View, given: str) -> None:
    """Raise unless a day is none, or one that is not over where whoever looks is."""
    days.require_to_come(view, given, said("commissions.no_date"))


def parts(view: View, order: Order, locale: str) -> list[Part]:
    """The entries of an order that have something to translate into a locale."""
    tag = view.setup.locale(locale)
    found = (_part(view, order, uuid, tag) for uuid in dict.fromkeys(order.entries))
    return [part for part in found if part is not None]


def _part(view: View, order: Order, uuid: str, tag: str) -> Part | None:
    """An entry of an order in one locale; None where it has nothing to translate."""
    entry = permission.find(view, uuid)
    kind = view.setup.type(entry.type)
    source = entry_store.edition(view.conn, entry.id, entry.source_locale)
    if source is None or source.head is None or not kind.translated or entry.put_away:
        return None
    target = drafted(view, entry.id, tag)
    content = revisions.content(view.conn, source.head)
    if order.current:
        needed = units.units_of(kind, content, entry.source_locale)
    else:
        needed = units.needing(kind, content, target, entry.source_locale)
    if not needed:
        return None
    away = store.away(view.conn, entry.id, tag)
    wanted = [u for u in needed if order.again or (u.key, u.hash) not in away]
    hashes = units.target_hashes(kind, target)
    before = frozenset(units.made_from(target, hashes))
    return Part(entry, kind, source.head, wanted, hashes, before, len(needed) - len(wanted))
