"""Commissions: what is ordered for translation, estimated, and made into a job for each locale."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import date
from typing import Any

from hawthorn.core import naming
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import BadTime, FieldProblem, InTheWay, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import EMPTY, Content
from hawthorn.core.translation import units
from hawthorn.core.translation.units import Unit
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import bureaus, revisions
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as store
from hawthorn.store.bureaus import Bureau
from hawthorn.store.entries import Entry


@dataclass(frozen=True, slots=True)
class Order:
    """What somebody wants translated. An empty bureau means that the files are carried by hand. What another job has already
    is left out, unless it shall go `again`."""

    entries: tuple[str, ...]
    locales: tuple[str, ...]
    name: str = ""
    due: str = ""
    note: str = ""
    bureau: str = ""
    again: bool = False


@dataclass(slots=True)
class _Part:
    entry: Entry
    kind: ContentType
    source_revision: int
    units: list[Unit]
    target_hashes: Mapping[str, str]
    away: int = 0
    """How many units are left out, as another job has them already."""


@dataclass(frozen=True, slots=True)
class Estimate:
    """What one locale of an order would hold."""

    locale: str
    entries: int
    units: int
    words: int
    away: int


def estimate(view: View, order: Order) -> list[Estimate]:
    """What each locale of an order would hold: entries, units and words, before it is sent."""
    out: list[Estimate] = []
    for locale in order.locales:
        parts = _parts(view, order, locale)
        out.append(
            Estimate(
                locale=view.setup.locale(locale),
                entries=sum(1 for p in parts if p.units),
                units=sum(len(p.units) for p in parts),
                words=sum(u.words for p in parts for u in p.units),
                away=sum(p.away for p in parts),
            )
        )
    return out


def left_out(view: View, order: Order) -> int:
    """How many units an order does not send, as another job has them already."""
    return sum(p.away for locale in order.locales for p in _parts(view, order, locale))


def commission(act: Act, order: Order) -> str:
    """Order translations: one job per locale, holding only what is missing or has changed. Returns the UUID.

    Jobs for a bureau are sent as soon as this commits; others wait to be exported by hand.
    """
    order = replace(order, name=naming.line("name", order.name), note=naming.note("note", order.note))
    _check_order(act, order)
    at_work = {b.name: b for b in bureaus.in_use(act.conn)}
    bureau = at_work.get(order.bureau)
    if order.bureau and bureau is None:
        code = "commissions.no_bureau" if at_work else "commissions.no_bureaus"
        raise Invalid([FieldProblem("bureau", said(code, name=order.bureau, known=list(at_work)))])
    found = {act.setup.locale(x): _parts(act, order, x) for x in order.locales}
    by_locale = {tag: [p for p in parts if p.units] for tag, parts in found.items()}
    if not any(by_locale.values()):
        if any(parts for parts in found.values()):
            raise InTheWay(
                "commissions.in_another_job", away=sum(p.away for parts in found.values() for p in parts)
            )
        raise InTheWay("commissions.nothing_to_translate")
    uuid = new_uuid(act.now)
    first = next(p for parts in by_locale.values() for p in parts)
    name = order.name or entry_store.title(act.conn, first.entry.id) or "Translation"
    made = store.add_commission(act.conn, uuid, name, order.due, order.note, act.identity.id, act.now)
    about: set[int] = set()
    listed: list[dict[str, Any]] = []
    for locale, parts in by_locale.items():
        if not parts:
            continue
        job = _add_job(act, made, locale, bureau, parts)
        about |= {p.entry.id for p in parts}
        listed.append({"job": job, "locale": locale, "words": sum(u.words for p in parts for u in p.units)})
    act.event(
        "commission.made",
        sorted(about),
        {
            "commission": uuid,
            "name": name,
            "due": order.due,
            "bureau": order.bureau,
            "jobs": listed,
            "entries": [p.entry.uuid for p in next(iter(v for v in by_locale.values() if v))],
        },
    )
    return uuid


def _add_job(act: Act, commission: int, locale: str, bureau: Bureau | None, parts: list[_Part]) -> str:
    uuid = new_uuid(act.now)
    total = sum(len(p.units) for p in parts)
    words = sum(u.words for p in parts for u in p.units)
    source = parts[0].entry.source_locale
    job = store.add_job(
        act.conn, uuid, commission, source, locale, bureau.id if bureau else None, total, words, act.now
    )
    for n, part in enumerate(parts):
        store.add_entry(act.conn, job, n, part.entry.id, part.source_revision)
        store.add_units(
            act.conn,
            job,
            part.entry.id,
            ((u.key, u.hash, part.target_hashes.get(u.key)) for u in part.units),
        )
    return uuid


def _check_order(act: Act, order: Order) -> None:
    problems: list[FieldProblem] = []
    if not order.entries:
        problems.append(FieldProblem("entries", said("commissions.no_entries")))
    if not order.locales:
        problems.append(FieldProblem("locales", said("commissions.no_locales")))
    if problems:
        raise Invalid(problems)
    if order.due:
        try:
            due = date.fromisoformat(order.due)
        except ValueError:
            raise Invalid([FieldProblem("due", said("commissions.no_date"))]) from None
        if due.toordinal() < date(1970, 1, 1).toordinal() + act.now // 86_400_000_000:
            raise BadTime("commissions.due_is_past", due=order.due)
    for uuid in order.entries:
        entry = permission.find(act, uuid)
        for locale in order.locales:
            tag = act.setup.locale(locale)
            if tag == entry.source_locale:
                raise Invalid([FieldProblem("locales", said("commissions.source_as_target", locale=tag))])
            permission.require(act, "commission", permission.subject(act, entry, tag))
    sources = {permission.find(act, u).source_locale for u in order.entries}
    if len(sources) > 1:
        raise Invalid([FieldProblem("entries", said("commissions.several_sources", locales=sorted(sources)))])


def _parts(view: View, order: Order, locale: str) -> list[_Part]:
    tag = view.setup.locale(locale)
    out: list[_Part] = []
    for uuid in dict.fromkeys(order.entries):
        entry = permission.find(view, uuid)
        kind = view.setup.type(entry.type)
        source = entry_store.edition(view.conn, entry.id, entry.source_locale)
        if source is None or source.head is None:
            continue
        target = drafted(view, entry.id, tag)
        content = revisions.content(view.conn, source.head)
        needed = units.needing(kind, content, target, entry.source_locale)
        away = store.away(view.conn, entry.id, tag)
        wanted = [u for u in needed if order.again or (u.key, u.hash) not in away]
        if needed:
            hashes = units.target_hashes(kind, target)
            out.append(_Part(entry, kind, source.head, wanted, hashes, len(needed) - len(wanted)))
    return out


def drafted(view: View, entry: int, locale: str) -> Content:
    edition = entry_store.edition(view.conn, entry, locale)
    return revisions.content(view.conn, edition.head) if edition and edition.head else EMPTY
