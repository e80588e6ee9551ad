"""Commissions are sent: a job is made for each locale that has something to translate."""

from __future__ import annotations

import json
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from hawthorn.core import access, naming
from hawthorn.core.access import Grant, Identity
from hawthorn.core.errors import FieldProblem, HawthornError, InTheWay, Invalid
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.core.translation import counting, keeping, offers
from hawthorn.operations.access import permission
from hawthorn.operations.delivery import previews
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.operations.translation import orders, table
from hawthorn.operations.translation.orders import Estimate, Order, Part
from hawthorn.store import bureaus, people
from hawthorn.store import commissions as store
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as job_store
from hawthorn.store.bureaus import Bureau
from hawthorn.store.entries import Entry
from hawthorn.store.jobs import JobEntry


@dataclass(frozen=True, slots=True)
class Doer:
    """Who translates: a bureau by its name, a person by handle, or, where both are empty, whoever writes that locale."""

    bureau: str = ""
    person: str = ""


@dataclass(frozen=True, slots=True)
class Found:
    """The same by their numbers."""

    bureau: int | None = None
    person: int | None = None


def found(view: View, tag: str, doer: Doer, field: str = "") -> Found:
    """Who is meant, as a field names them; raises `Invalid`, which names who could be, where there is nobody of that name, or they may not
    write that locale."""
    field = field or f"targets.{tag}"
    if doer.bureau and doer.person:
        raise Invalid([FieldProblem(field, said("commissions.one_of_both"))])
    if doer.bureau:
        at_work: dict[str, Bureau] = {b.name: b for b in bureaus.in_use(view.conn)}
        if doer.bureau not in at_work:
            raise Invalid([no_bureau(doer.bureau, at_work)])
        return Found(bureau=at_work[doer.bureau].id)
    if doer.person:
        row = people.by_handle(view.conn, doer.person)
        if row is None or row.kind != "person" or not writes(view, row.id, tag):
            raise Invalid(
                [
                    FieldProblem(
                        field,
                        said("commissions.not_a_translator", name=doer.person[:80], locale=tag),
                    )
                ]
            )
        return Found(person=row.id)
    return Found()


def no_bureau(name: str, known: Collection[str]) -> FieldProblem:
    """That no bureau has a name, and which there are."""
    code = "commissions.no_bureau" if known else "commissions.no_bureaus"
    return FieldProblem("bureau", said(code, name=name, known=list(known)))


def writes(view: View, actor: int, tag: str) -> bool:
    """Whether somebody may write anything in a locale."""
    return bool(_writing(permission.identity_of(view.conn, actor), tag))


def _writing(who: Identity, tag: str) -> list[Grant]:
    """The grants by which somebody may write in a locale."""
    return [g for _, g in who.grants if g.verb == "write" and (not g.locales or tag in g.locales)]


@dataclass(frozen=True, slots=True)
class Translator:
    """Somebody who may write a locale."""

    locale: str
    handle: str
    name: str


def translators(view: View) -> list[Translator]:
    """Who may write which locale: those who are there for it alone first."""
    found: list[tuple[int, str, Translator]] = []
    people_there = {row.id: row for row in people.all_holdings(view.conn) if row.kind == "person"}
    for row in people_there.values():
        who = permission.identity_of(view.conn, row.id)
        for tag in view.setup.locales:
            fitting = [len(g.locales) or len(view.setup.locales) for g in _writing(who, tag)]
            if fitting:
                found.append((min(fitting), row.name, Translator(tag, row.handle, row.name)))
    return [one for _, _, one in sorted(found, key=lambda each: each[:2])]


def commission(act: Act, order: Order) -> str:
    """Order translations at once: one job per locale, holding only what is missing or has changed. Returns the UUID.

    Jobs for a bureau are sent as soon as this commits; others wait to be translated at the table, or exported by hand.
    """
    order = replace(order, name=naming.line("name", order.name), note=naming.note("note", order.note))
    orders.check(act, order)
    tags = [act.setup.locale(locale) for locale in order.locales]
    doers = {tag: found(act, tag, Doer(order.bureau)) for tag in tags}
    how = {"also_away": order.again, "also_current": order.current}
    return _made(act, order, doers, act.identity.id, how)


def _made(act: Act, order: Order, doers: Mapping[str, Found], actor: int, how: Mapping[str, Any]) -> str:
    """Make a commission of somebody's, with what is kept of how (columns of it), and send it; returns the UUID."""
    uuid = new_uuid(act.now)
    made = store.add(act.conn, uuid, order.name, actor, act.now)
    store.change(act.conn, made, {"due": order.due, "note": order.note, **how})
    store.set_targets(act.conn, made, ((tag, who.bureau, who.person) for tag, who in doers.items()))
    some = [permission.find(act, entry).id for entry in order.entries]
    store.put(act.conn, made, some, actor, act.now)
    send(act, made, uuid, order, doers, fill=bool(how.get("fill")))
    return uuid


NOTHING = ("commissions.nothing_to_translate", "commissions.in_another_job")
"""Why there is nothing to send, where that is no fault."""


def commission_of(
    act: Act, order: Order, doers: Mapping[str, Found], actor: int, how: Mapping[str, Any]
) -> str:
    """Order translations for somebody, with what is kept of how (columns of a commission). Returns the UUID; empty where there is nothing to
    translate."""
    try:
        with act.trying():
            orders.check(act, order)
            return _made(act, order, doers, actor, how)
    except InTheWay as error:
        if error.message.code not in NOTHING:
            raise
        return ""


def send(
    act: Act, commission: int, uuid: str, order: Order, doers: Mapping[str, Found], *, fill: bool
) -> None:
    """Make the jobs of a commission. Raises `InTheWay` where there is nothing to translate, or another job has it all."""
    by_locale = {tag: orders.parts(act, order, tag) for tag in doers}
    with_units = {tag: some for tag, parts in by_locale.items() if (some := [p for p in parts if p.units])}
    if not with_units:
        away = sum(p.away for parts in by_locale.values() for p in parts)
        if away:
            raise InTheWay("commissions.in_another_job", away=away)
        raise InTheWay("commissions.nothing_to_translate")
    for tag, parts in with_units.items():
        _require_able(act, tag, doers[tag], parts)
    first = next(iter(with_units.values()))
    name = order.name or entry_store.title(act.conn, first[0].entry.id) or "Translation"
    store.change(act.conn, commission, {"name": name, "sent_at": act.now})
    actor = store.of(act.conn, commission).actor
    told: list[dict[str, Any]] = []
    about: set[int] = set()
    for tag, parts in with_units.items():
        job = _add_job(act, commission, actor, tag, doers[tag], parts)
        about |= {p.entry.id for p in parts}
        words = sum(u.words for p in parts for u in p.units)
        told.append({"job": job, "locale": tag, "words": words, "translator": doers[tag].person})
    names = {b.id: b.name for b in bureaus.in_use(act.conn)}
    act.event(
        "commission.made",
        sorted(about),
        {
            "commission": uuid,
            "name": name,
            "due": order.due,
            "bureau": next((names[d.bureau] for d in doers.values() if d.bureau is not None), ""),
            "jobs": told,
            "entries": [p.entry.uuid for p in first],
        },
    )
    for one in told if fill else []:
        table.fill(act, one["job"])


def estimate(view: View, order: Order) -> list[Estimate]:
    """What each locale of an order would hold, and what is in the way of that, before it is sent. Raises `BadTime` for a day that is over."""
    orders.check_due(view, order.due)
    out: list[Estimate] = []
    for tag in dict.fromkeys(view.setup.locale(one) for one in order.locales):
        parts = orders.parts(view, order, tag)
        doer = found(view, tag, Doer(order.bureau))
        error = in_the_way(view, order, tag, doer, parts)
        out.append(
            Estimate(
                locale=tag,
                entries=sum(1 for p in parts if p.units),
                units=sum(len(p.units) for p in parts),
                words=sum(u.words for p in parts for u in p.units),
                away=sum(p.away for p in parts),
                trouble=view.why(error) if error is not None else "",
            )
        )
    return out


def in_the_way(
    view: View, order: Order, tag: str, doer: Found, parts: Sequence[Part]
) -> HawthornError | None:
    """Why whoever looks could not send an order, or a page of one, into a locale; None where they could. `parts` are what it has to
    translate, as far as it has any."""
    try:
        if order.entries:
            orders.check(view, replace(order, locales=(tag,)))
        if with_units := [part for part in parts if part.units]:
            _require_able(view, tag, doer, with_units)
    except HawthornError as error:
        return error
    return None


def _require_able(view: View, tag: str, doer: Found, parts: Sequence[Part]) -> None:
    """Raise `InTheWay` where whoever was chosen to translate does not, or may not, do these."""
    _require_there(view, tag, doer)
    check_writer(view, tag, doer.person, [(p.entry.id, p.entry) for p in parts])
    if (why := not_offered(view, doer.bureau, parts[0].entry.source_locale, tag)) is not None:
        raise InTheWay("commissions.not_offered", why=why)


def _require_there(view: View, tag: str, doer: Found) -> None:
    """Raise `InTheWay` where whoever was chosen to translate has left since, or the bureau is not in use any more."""
    if doer.person is not None and people.actor(view.conn, doer.person) is None:
        name = people.name_of(view.conn, doer.person)
        raise InTheWay("commissions.translator_left", name=name, locale=tag)
    if doer.bureau is not None and bureaus.get(view.conn, doer.bureau) is None:
        name = bureaus.name_of(view.conn, doer.bureau)
        raise InTheWay("commissions.bureau_ended", name=name, locale=tag)


def not_offered(view: View, bureau: int | None, source: str, locale: str) -> Message | None:
    """Why a bureau does not translate from one locale into another, as far as it has said what it offers; nothing where it does."""
    row = bureaus.get(view.conn, bureau) if bureau is not None else None
    return offers.stored(row.offer).lacking(row.name, json.loads(row.codes), source, locale) if row else None


def check_writer(
    view: View, tag: str, person: int | None, some: Iterable[tuple[int, Entry | JobEntry]]
) -> None:
    """Whoever is to translate may read the source of each of some entries, and write them."""
    if person is None:
        return
    who = permission.identity_of(view.conn, person)
    for id, entry in some:
        source = permission.subject(view, entry, entry.source_locale, permission.WORKING)
        source, about = (
            replace(one, own=entry.owner == who.id) for one in (source, permission.subject(view, entry, tag))
        )
        if None in (access.allowing(who, "read", source), access.allowing(who, "write", about)):
            title = entry_store.title(view.conn, id)
            raise InTheWay("commissions.may_not_write", name=who.name, entry=title, locale=tag)


def _add_job(act: Act, commission: int, actor: int, locale: str, doer: Found, parts: Sequence[Part]) -> str:
    uuid = new_uuid(act.now)
    total = sum(len(p.units) for p in parts)
    words = sum(u.words for p in parts for u in p.units)
    source = parts[0].entry.source_locale
    who, size = (doer.bureau, doer.person), (total, words)
    job = job_store.add_job(act.conn, uuid, commission, source, locale, who, size, act.now)
    previews.give_for_job(act, job, uuid, locale, parts[0].entry.id, actor)
    copied = 0
    for n, part in enumerate(parts):
        job_store.add_entry(act.conn, job, n, part.entry.id, part.source_revision)
        job_store.add_units(
            act.conn,
            job,
            part.entry.id,
            ((u.key, u.hash, part.target_hashes.get(u.key)) for u in part.units),
        )
        for unit in part.units:
            if counting.wordless(unit.text):
                kept = keeping.kept(keeping.copied(unit))
                job_store.at_table(act.conn, job, part.entry.id, unit.key, "translated", kept)
                copied += 1
    if copied:
        job_store.update(act.conn, job, act.now, done=copied)
    return uuid
