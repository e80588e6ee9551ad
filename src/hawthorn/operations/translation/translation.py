"""Commissions and jobs: out to whoever translates, back unit by unit, and accepted."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

from hawthorn.core import access, contenttypes, formats, naming, numbers, richtext, slots
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import BadFile, BadTime, FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.fields import kind_of
from hawthorn.core.revision import EMPTY, Content
from hawthorn.core.translation import returns, units
from hawthorn.core.translation.returns import Returned, Sent
from hawthorn.core.translation.units import Unit
from hawthorn.core.workflow import Workflow
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.release import review, workflows
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import bureaus, standings
from hawthorn.store import entries as entry_store
from hawthorn.store import jobs as store
from hawthorn.store.standings import RELEASE


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
    entry: sqlite3.Row
    kind: ContentType
    source_revision: int
    units: list[Unit]
    target_hashes: Mapping[str, str]
    away: int = 0
    """How many units are left out, as another job has them already."""


def estimate(view: View, order: Order) -> list[dict[str, Any]]:
    """What each locale of an order would hold: entries, units and words, before it is sent."""
    out: list[dict[str, Any]] = []
    for locale in order.locales:
        parts = _parts(view, order, locale)
        out.append(
            {
                "locale": view.setup.locale(locale),
                "entries": sum(1 for p in parts if p.units),
                "units": sum(len(p.units) for p in parts),
                "words": sum(u.words for p in parts for u in p.units),
                "away": sum(p.away for p in parts),
            }
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
    at_work = {b["name"]: b for b in bureaus.in_use(act.conn)}
    bureau = at_work.get(order.bureau)
    if order.bureau and bureau is None:
        have = ", ".join(at_work) or "none"
        raise Invalid([FieldProblem("bureau", f"there is no bureau “{order.bureau}”; there are: {have}")])
    found = {act.setup.locale(x): _parts(act, order, x) for x in order.locales}
    by_locale = {tag: [p for p in parts if p.units] for tag, parts in found.items()}
    if not any(by_locale.values()):
        if any(parts for parts in found.values()):
            raise InTheWay(
                "All of it is in another job already, which has not returned or waits for a choice.",
                remedy="Wait for that job, or cancel it; or say that it shall go again.",
                away=sum(p.away for parts in found.values() for p in parts),
            )
        raise InTheWay(
            "There is nothing to translate: every text is there and up to date.",
            remedy="Change the source first, or choose other locales.",
        )
    uuid = new_uuid(act.now)
    first = next(p for parts in by_locale.values() for p in parts)
    name = order.name or entry_store.title(act.conn, first.entry["id"]) or "Translation"
    made = store.add_commission(act.conn, uuid, name, order.due, order.note, act.identity.id, act.now)
    about: set[int] = set()
    listed: list[dict[str, Any]] = []
    for locale, parts in by_locale.items():
        if not parts:
            continue
        job = _add_job(act, made, locale, bureau, parts)
        about |= {p.entry["id"] for p in parts}
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
            "entries": [p.entry["uuid"] for p in next(iter(v for v in by_locale.values() if v))],
        },
    )
    return uuid


def _add_job(act: Act, commission: int, locale: str, bureau: sqlite3.Row | None, parts: list[_Part]) -> str:
    uuid = new_uuid(act.now)
    total = sum(len(p.units) for p in parts)
    words = sum(u.words for p in parts for u in p.units)
    source = parts[0].entry["source_locale"]
    job = store.add_job(
        act.conn, uuid, commission, source, locale, bureau["id"] if bureau else None, total, words, act.now
    )
    for n, part in enumerate(parts):
        store.add_entry(act.conn, job, n, part.entry["id"], part.source_revision)
        store.add_units(
            act.conn,
            job,
            part.entry["id"],
            ((u.key, u.hash, part.target_hashes.get(u.key)) for u in part.units),
        )
    return uuid


def _check_order(act: Act, order: Order) -> None:
    problems: list[FieldProblem] = []
    if not order.entries:
        problems.append(FieldProblem("entries", "name at least one entry"))
    if not order.locales:
        problems.append(FieldProblem("locales", "choose at least one target locale"))
    if problems:
        raise Invalid(problems)
    if order.due:
        try:
            due = date.fromisoformat(order.due)
        except ValueError:
            raise Invalid([FieldProblem("due", "takes a date as year-month-day")]) from None
        if due.toordinal() < date(1970, 1, 1).toordinal() + act.now // 86_400_000_000:
            raise BadTime(f"The due date {order.due} is past.", remedy="Choose a later day.")
    for uuid in order.entries:
        entry = permission.find(act, uuid)
        for locale in order.locales:
            tag = act.setup.locale(locale)
            if tag == entry["source_locale"]:
                raise Invalid([FieldProblem("locales", f"{tag} is the source of this entry, not a target")])
            permission.require(act, "commission", permission.subject(act, entry, tag))
    sources = {permission.find(act, u)["source_locale"] for u in order.entries}
    if len(sources) > 1:
        raise Invalid(
            [FieldProblem("entries", f"have several source locales ({', '.join(sorted(sources))})")]
        )


def _parts(view: View, order: Order, locale: str) -> list[_Part]:
    tag = view.setup.locale(locale)
    out: list[_Part] = []
    for uuid in dict.fromkeys(order.entries):
        entry = permission.find(view, uuid)
        kind = view.setup.type(entry["type"])
        source = entry_store.edition(view.conn, entry["id"], entry["source_locale"])
        if source is None or source["head"] is None:
            continue
        target = _content(view, entry["id"], tag)
        content = entry_store.content(view.conn, source["head"])
        needed = units.needing(kind, content, target, entry["source_locale"])
        away = store.away(view.conn, entry["id"], tag)
        wanted = [u for u in needed if order.again or (u.key, u.hash) not in away]
        if needed:
            hashes = units.target_hashes(kind, target)
            out.append(_Part(entry, kind, source["head"], wanted, hashes, len(needed) - len(wanted)))
    return out


def _content(view: View, entry: int, locale: str) -> Content:
    edition = entry_store.edition(view.conn, entry, locale)
    return entry_store.content(view.conn, edition["head"]) if edition and edition["head"] else EMPTY


def find(view: View, uuid: str) -> sqlite3.Row:
    """A job all of whose entries may be read."""
    row = store.by_uuid(view.conn, uuid)
    if row is None or not readable(view, row):
        raise NotFound(f"There is no job {uuid} that you may see.", remedy="Check the address.")
    return row


def listing(view: View, limit: int = 100, cursor: str = "") -> tuple[list[sqlite3.Row], str]:
    """The jobs whose entries may be read, newest first, after a place in them; and where the next page begins."""
    before = numbers.cursor(cursor)
    found: list[sqlite3.Row] = []
    while len(found) <= limit:
        rows = store.newest(view.conn, limit + 1, before)
        found += [row for row in rows if readable(view, row)]
        if len(rows) <= limit:
            break
        before = rows[-1]["id"]
    more = str(found[limit - 1]["id"]) if len(found) > limit else ""
    return found[:limit], more


def readable(view: View, job: sqlite3.Row) -> bool:
    """Whether a job may be seen: each of its entries in both locales, as both texts lie in it."""
    return access.reads_all(view.identity) or all(
        permission.readable(view, e, tag)
        for e in store.entries(view.conn, job["id"])
        for tag in (job["source_locale"], job["locale"])
    )


def export(view: View, uuid: str, written: formats.Format = formats.USUAL) -> tuple[str, bytes]:
    """The job as a file of a format, with its file name."""
    job = find(view, uuid)
    files: list[formats.OutFile] = []
    for part in store.entries(view.conn, job["id"]):
        title = entry_store.title(view.conn, part["entry"])
        mine = tuple(s.unit for s in _sent(view, job, part).values())
        files.append(formats.OutFile(f"urn:uuid:{part['uuid']}", title, mine))
    source, target = _codes(job)
    document = formats.OutDocument(job["uuid"], source, target, tuple(files))
    return f"hawthorn-{job['uuid'][-12:]}-{job['locale']}.{written.ending}", written.write(document)


def _codes(job: sqlite3.Row) -> tuple[str, str]:
    """The locales as the bureau calls them."""
    codes: dict[str, str] = json.loads(job["codes"] or "{}")
    return codes.get(job["source_locale"], job["source_locale"]), codes.get(job["locale"], job["locale"])


def _sent(view: View, job: sqlite3.Row, part: sqlite3.Row) -> dict[str, Sent]:
    """The units of one entry as they went out, made again from the revision that was sent."""
    kind = view.setup.type(part["type"])
    content = entry_store.content(view.conn, part["source_revision"])
    by_key = {u.key: u for u in units.units_of(kind, content, part["source_locale"])}
    return {
        u["key"]: Sent(by_key[u["key"]], u["target_hash"])
        for u in store.units(view.conn, job["id"])
        if u["entry"] == part["entry"] and u["key"] in by_key
    }


def import_file(act: Act, uuid: str, file: bytes | formats.InDocument) -> dict[str, int]:
    """Import a translated file: every unit is checked first, then all is merged, or nothing. A file is best read before,
    while nobody waits.

    Returns how many units were applied, drifted, went into conflict, or lost their source. What came in the same words
    before is left as it stands, with whatever was decided about it since: the same file again does nothing.
    """
    job = find(act, uuid)
    require_carry(act, job)
    if job["state"] in ("accepted", "cancelled"):
        raise InTheWay(
            f"This job is {job['state']}.", remedy="Commission what has changed since as a new job."
        )
    texts = _checked(act, job, formats.read(file) if isinstance(file, bytes) else file)
    counts = {"applied": 0, "drifted": 0, "conflict": 0, "gone": 0}
    came = {(u["entry"], u["key"]): u["text"] for u in store.units(act.conn, job["id"]) if u["outcome"]}
    new = False
    for part in store.entries(act.conn, job["id"]):
        fresh = {k: t for k, t in texts[part["uuid"]].items() if came.get((part["entry"], k)) != t}
        if not fresh and came:
            continue
        new = True
        for how, n in _merge_returned(act, job, part, fresh).items():
            counts[how] += n
    if not new:
        return counts
    store.update(act.conn, job["id"], act.now, state="returned", done=job["total"], trouble="")
    _told(act, "job.returned", job, **counts)
    return counts


def most_units(job: sqlite3.Row) -> int:
    """How many units a file that returns may have: those of the job, and room to say which are not of it."""
    return min(2 * int(job["total"]) + 1_000, formats.MOST_UNITS)


def require_carry(act: View, job: sqlite3.Row) -> None:
    """Whoever imports a job is its bureau, or may commission or accept for that locale."""
    if act.identity.kind == "bureau" and act.identity.id == job["bureau_actor"]:
        return
    about = Subject(locale=job["locale"])
    if not permission.may(act, "accept", about):
        permission.require(act, "commission", about)


def _checked(act: Act, job: sqlite3.Row, document: formats.InDocument) -> dict[str, dict[str, str]]:
    if document.job and document.job != job["uuid"]:
        raise BadFile(
            f"This file belongs to another job ({document.job}).",
            remedy=f"Bring in the file of job {job['uuid']}.",
        )
    expected = _codes(job)
    have = (document.source_locale, document.target_locale)
    if have[1].lower() != expected[1].lower() or have[0].lower() != expected[0].lower():
        raise BadFile(
            f"The file goes from {have[0] or 'nothing'} to {have[1] or 'nothing'}; the job from {expected[0]} to {expected[1]}.",
            remedy="Bring in the file for this job's locales.",
        )
    returned: dict[str, list[Returned]] = {}
    for original, found in document.files:
        returned.setdefault(original.removeprefix("urn:uuid:"), []).extend(found)
    parts = {p["uuid"]: p for p in store.entries(act.conn, job["id"])}
    strange = [u for u in returned if u not in parts]
    if strange:
        raise BadFile(
            f"The file holds something that is not in this job ({strange[0] or 'a file without an original'}).",
            remedy="Bring in the file that was made from this job, with its <file> elements as they were.",
        )
    return {
        u: returns.verify(_sent(act, job, part), returned.get(u, []), job["locale"])
        for u, part in parts.items()
    }


def _merge_returned(
    act: Act, job: sqlite3.Row, part: sqlite3.Row, texts: Mapping[str, str]
) -> dict[str, int]:
    kind = act.setup.type(part["type"])
    entry = entry_store.entry_by_id(act.conn, part["entry"])
    sent = _sent(act, job, part)
    source = _content(act, entry["id"], entry["source_locale"])
    if entry_store.edition(act.conn, entry["id"], job["locale"]) is None:
        entry_store.add_edition(act.conn, entry["id"], job["locale"])
    edition = entry_store.edition(act.conn, entry["id"], job["locale"])
    assert edition is not None
    target = entry_store.content(act.conn, edition["head"]) if edition["head"] else EMPTY
    decided = returns.outcomes(kind, sent, texts, source, target, entry["source_locale"])
    merged = returns.merge(kind, source, target, decided, sent)
    merged = _without_gone(act, job, part, kind, source, merged)
    content = _finished(act, kind, entry, job["locale"], merged, source, target)
    made = edition["head"]
    if content != target:
        made = entries.record(act, kind, entry, edition, content, f"Returned: {job['name']}", "return")
    store.set_returned(act.conn, job["id"], entry["id"], made)
    counts: dict[str, int] = {}
    for outcome in decided:
        counts[outcome.how] = counts.get(outcome.how, 0) + 1
        store.set_unit(act.conn, job["id"], entry["id"], outcome.key, "translated", outcome.text, outcome.how)
    return counts


def _without_gone(
    act: Act, job: sqlite3.Row, part: sqlite3.Row, kind: ContentType, source: Content, merged: Content
) -> Content:
    """Drop texts whose source is gone and that stand as they came; about those that somebody edited it is asked."""
    gone = units.gone(kind, source, merged, part["source_locale"])
    have = units.target_hashes(kind, merged)
    drop: list[str] = []
    for key in gone:
        came = store.last_text(act.conn, part["entry"], job["locale"], key)
        if came is not None and units.kept_hash(came, "." in key) == have[key]:
            drop.append(key)
        elif not any(
            u["key"] == key and u["entry"] == part["entry"] for u in store.units(act.conn, job["id"])
        ):
            store.add_gone(act.conn, job["id"], part["entry"], key)
    return units.without(kind, source, merged, drop)


def _finished(
    act: Act,
    kind: ContentType,
    entry: sqlite3.Row,
    locale: str,
    content: Content,
    source: Content,
    before: Content,
) -> Content:
    """What has no words but belongs to an edition: references go along, the slug follows the translated title."""
    values = dict(content.fields)
    for spec in kind.belonging(locale):
        wordless = spec.kind != "slug" and not any(
            s.value and kind_of(s.spec).translatable for s in slots.walk([spec], source.fields)
        )
        if wordless and spec.name not in values and spec.name in source.fields:
            values[spec.name] = source.fields[spec.name]
    own = {f.name for f in kind.belonging(locale)}
    canonical = contenttypes.canonical_fields(kind, {k: v for k, v in values.items() if k in own})
    entries.follow_title(act, kind, entry, locale, before, canonical, {kind.title: True})
    return replace(content, fields=canonical)


def cancel(act: Act, uuid: str) -> None:
    """Cancel a job; what returns after that is refused."""
    job = find(act, uuid)
    permission.require(act, "commission", Subject(locale=job["locale"]))
    if job["state"] in ("accepted", "cancelled"):
        raise InTheWay(f"This job is {job['state']}.", remedy="Nothing needs to be done.")
    store.update(act.conn, job["id"], act.now, state="cancelled")
    _told(act, "job.cancelled", job)


def progress(
    act: Act, uuid: str, *, state: str, done: int, remote: str = "", trouble: str = "", asked: str = ""
) -> None:
    """Keep what the bureau says of a job; a job that has ended is left as it is, and so is one that was sent anew since
    the bureau was `asked` about it by another name."""
    job = find(act, uuid)
    if job["state"] in ("returned", "accepted", "cancelled") or (asked and job["remote"] != asked):
        return
    done = max(0, min(done, job["total"]))
    if (job["state"], job["done"], job["trouble"]) == (state, done, trouble) and not remote:
        return
    values: dict[str, Any] = {"state": state, "done": done, "trouble": trouble}
    if remote:
        values |= {"remote": remote, "failures": 0, "ask_at": 0}
    store.update(act.conn, job["id"], act.now, **values)
    kind = {"sent": "job.sent", "failed": "job.failed"}.get(state, "job.progress")
    if kind == "job.sent" and not remote:
        kind = "job.progress"
    _told(act, kind, job, done=done, total=job["total"], trouble=trouble)


def send_again(act: Act, uuid: str) -> None:
    """Send a failed job to its bureau once more."""
    job = find(act, uuid)
    permission.require(act, "commission", Subject(locale=job["locale"]))
    if job["state"] != "failed":
        raise InTheWay(f"This job is {job['state']}, not failed.", remedy="Only a failed job is sent again.")
    store.update(act.conn, job["id"], act.now, state="waiting", remote="", done=0, trouble="", failures=0)
    _told(act, "job.again", job)


def choose(act: Act, uuid: str, entry_uuid: str, key: str, take: str) -> None:
    """Settle a unit in conflict: "theirs" takes what returned, "ours" keeps the edition as it is."""
    job = find(act, uuid)
    permission.require(act, "accept", Subject(locale=job["locale"]))
    part = next((p for p in store.entries(act.conn, job["id"]) if p["uuid"] == entry_uuid), None)
    unit = next(
        (
            u
            for u in store.units(act.conn, job["id"])
            if part and u["entry"] == part["entry"] and u["key"] == key
        ),
        None,
    )
    if part is None or unit is None:
        raise NotFound(f"There is no unit {key} in this job.", remedy="Open the job again.")
    if unit["outcome"] != "conflict":
        raise InTheWay("This unit is not in conflict.", remedy="Nothing needs to be chosen.")
    if take not in ("ours", "theirs"):
        raise Invalid([FieldProblem("take", "is “ours” (keep the edition) or “theirs” (take what returned)")])
    kind = act.setup.type(part["type"])
    entry = entry_store.entry_by_id(act.conn, part["entry"])
    edition = entry_store.edition(act.conn, part["entry"], job["locale"])
    assert edition is not None
    source, target = (
        _content(act, entry["id"], entry["source_locale"]),
        entry_store.content(act.conn, edition["head"]),
    )
    written = units.rivals(kind, source, target).get(key, ())
    if take == "ours":
        kept = {k: v for k, v in target.unit_map.items() if k != key}
        # What has no source is a text of this edition's own from now on; what somebody wrote stands for its source.
        mine = written[0] if written else key
        have = kept.get(mine, ())
        claim = {mine: (*have, (key, unit["source_hash"]))} if unit["source_hash"] else {}
        content = replace(target, unit_map=kept | claim)
    elif not unit["source_hash"]:
        content = units.without(kind, source, target, {key})
    else:
        # All that stands in its place gives way to it.
        cleared = units.without(kind, source, target, set(written) - {key})
        content = units.compose(kind, source, cleared, {key: unit["text"]}, {key: unit["source_hash"]})
    made = entries.record(act, kind, entry, edition, content, f"Chose for {key}", "return")
    store.set_returned(act.conn, job["id"], entry["id"], made)
    store.set_unit(
        act.conn,
        job["id"],
        entry["id"],
        key,
        "translated",
        unit["text"],
        "applied" if take == "theirs" else "kept",
    )
    _told(act, "job.chosen", job, key=key, take=take)


def accept(act: Act, uuid: str, entry_uuid: str = "", key: str = "", note: str = "") -> dict[str, Any]:
    """Accept one unit, or all that is left. When all is accepted, each target edition is submitted and signed off
    by whoever accepted, so that it can be released."""
    job = find(act, uuid)
    permission.require(act, "accept", Subject(locale=job["locale"]))
    if job["state"] != "returned":
        raise InTheWay(f"This job is {job['state']}.", remedy="Only what has returned can be accepted.")
    rows = store.units(act.conn, job["id"])
    ids = {p["uuid"]: p["entry"] for p in store.entries(act.conn, job["id"])}
    clashing = [u for u in rows if u["outcome"] == "conflict"]
    chosen = [u for u in rows if not key or (u["key"] == key and u["entry"] == ids.get(entry_uuid))]
    if key and not chosen:
        raise NotFound(f"There is no unit {key} in this job.", remedy="Open the job again.")
    if any(u in clashing for u in chosen):
        raise InTheWay(
            f"{len(clashing)} units were edited here while they were away.",
            remedy="Choose for each of them first.",
        )
    moved_on = [u for u in rows if u["outcome"] in _NOT_APPLIED]
    if key and chosen[0] in moved_on:
        raise InTheWay(
            f"What returned for this {_NOT_APPLIED[chosen[0]['outcome']]}, so there is nothing to accept.",
            remedy="Commission what changed as a new job.",
        )
    accepted = [u for u in chosen if u not in moved_on]
    for unit in accepted:
        store.set_unit(
            act.conn, job["id"], unit["entry"], unit["key"], "final", unit["text"], unit["outcome"]
        )
    left = [
        u
        for u in store.units(act.conn, job["id"])
        if u["state"] != "final" and u["outcome"] not in _NOT_APPLIED
    ]
    said = _not_applied(moved_on)
    if left:
        return {"accepted": len(accepted), "left": len(left), "notes": said}
    store.update(act.conn, job["id"], act.now, state="accepted")
    _told(act, "job.accepted", job, note=note)
    notes = [n for p in store.entries(act.conn, job["id"]) if (n := _approve(act, job, p, note))]
    return {"accepted": len(accepted), "left": 0, "notes": [*said, *notes]}


_NOT_APPLIED = {"drifted": "has another source by now", "gone": "has no source any more"}
"""Outcomes of what returned and was not put in, in words."""


def _not_applied(some: Sequence[sqlite3.Row]) -> list[str]:
    return [
        f"{len(mine)} {'unit' if len(mine) == 1 else 'units'} returned too late, as each {why}: not applied, and not accepted. "
        "Commission what changed as a new job."
        for outcome, why in _NOT_APPLIED.items()
        if (mine := [u for u in some if u["outcome"] == outcome])
    ]


def _approve(act: Act, job: sqlite3.Row, part: sqlite3.Row, note: str) -> str:
    """Accepting is a sign-off of the target edition as it stands now; returns why it could not be one, if so."""
    flow: Workflow = workflows.of(act, entry_store.entry_by_id(act.conn, part["entry"]), job["locale"])
    edition = entry_store.edition(act.conn, part["entry"], job["locale"])
    title = entry_store.title(act.conn, part["entry"], job["locale"])
    if edition is None or edition["head"] is None or flow.stages[1] == flow.last:
        return ""
    problem = review.blocked_from(act, flow, edition, flow.stages[1])
    if problem:
        return f"“{title}” is accepted but not yet in review: {problem}"
    waits = review.stand_and_sign(
        act, part["entry"], edition, flow, note or f"Accepted translation: {job['name']}"
    )
    return f"“{title}” is accepted and in review, but not signed off: {waits}" if waits else ""


def units_shown(view: View, job: sqlite3.Row) -> list[dict[str, Any]]:
    """The units of a job: source beside what returned, what the edition holds, and what became of each."""
    out: list[dict[str, Any]] = []
    for part in store.entries(view.conn, job["id"]):
        kind = view.setup.type(part["type"])
        sent = _sent(view, job, part)
        title = entry_store.title(view.conn, part["entry"])
        target = _content(view, part["entry"], job["locale"])
        have = _texts(kind, target)
        source = _content(view, part["entry"], part["source_locale"])
        written = units.rivals(kind, source, target)
        for unit in store.units(view.conn, job["id"]):
            mine = sent.get(unit["key"])
            if unit["entry"] != part["entry"] or (mine is None and unit["source_hash"]):
                continue
            out.append(
                {
                    "entry": part["uuid"],
                    "title": title,
                    "key": unit["key"],
                    "label": mine.unit.label if mine else "Its source was removed",
                    "source": mine.unit.text if mine else "",
                    "returned": _plain(unit["text"], mine.unit.rich) if mine else "",
                    "current": "\n\n".join(
                        have.get(k, "") for k in (written.get(unit["key"]) or (unit["key"],))
                    ),
                    "state": unit["state"],
                    "outcome": unit["outcome"],
                    "words": mine.unit.words if mine else 0,
                }
            )
    return out


def _plain(text: str, rich: bool) -> str:
    return richtext.plain(text) if rich else text


def _texts(kind: ContentType, content: Content) -> dict[str, str]:
    return {u.key: u.text for u in units.units_of(kind, content, "en")}


def _told(act: Act, kind: str, job: sqlite3.Row, **facts: Any) -> None:
    about = [p["entry"] for p in store.entries(act.conn, job["id"])]
    act.event(
        kind,
        about,
        {
            "job": job["uuid"],
            "commission": job["commission_uuid"],
            "name": job["name"],
            "locale": job["locale"],
            "commissioned_by": job["actor"],
            **facts,
        },
    )


def grid(view: View, rows: Sequence[sqlite3.Row]) -> list[dict[str, Any]]:
    """Entries against locales: not there, in translation, behind the source, ready, or out."""
    out: list[dict[str, Any]] = []
    for row in rows:
        kind = view.setup.type(row["type"])
        source = _content(view, row["entry"], row["source_locale"])
        working = {
            j["locale"]
            for j in store.of_entry(view.conn, row["entry"])
            if j["state"] not in ("accepted", "cancelled")
        }
        cells: list[dict[str, str]] = []
        for tag in view.setup.locales:
            if tag == row["source_locale"]:
                continue
            target = _content(view, row["entry"], tag)
            edition = entry_store.edition(view.conn, row["entry"], tag)
            out_now = (
                edition is not None and standings.revision_at(view.conn, edition["id"], RELEASE) is not None
            )
            behind = units.drift(kind, source, target, row["source_locale"]) or units.needing(
                kind, source, target, row["source_locale"]
            )
            state = (
                "in translation"
                if tag in working
                else "not there"
                if not target.fields
                else "behind"
                if behind
                else "out"
                if out_now
                else "ready"
            )
            cells.append({"locale": tag, "state": state})
        out.append(
            {
                "id": row["uuid"],
                "title": row["title"] or "untitled",
                "type": row["type"],
                "source_locale": row["source_locale"],
                "cells": cells,
            }
        )
    return out
