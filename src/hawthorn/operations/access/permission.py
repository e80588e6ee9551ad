"""Permission: asked here and nowhere else, by grants alone, and every answer can be explained."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Sequence
from dataclasses import replace
from functools import lru_cache
from typing import Any, TypedDict

from hawthorn.core import access
from hawthorn.core.access import Grant, Identity, Subject
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import NotFound, Refused
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.operations.runtime.act import View
from hawthorn.store import dispatches, entries, people
from hawthorn.store.entries import Entry
from hawthorn.store.people import Holding, HoldingOf
from hawthorn.store.shaped import OfEntry


def identity_of(
    conn: sqlite3.Connection,
    actor: int,
    stages: Sequence[str] = (),
    audiences: Sequence[str] = (),
    a_minute: int = 0,
) -> Identity:
    """Somebody with all grants that their roles give; a key narrows them to stages, reads for audiences and has a rate."""
    row = people.actor(conn, actor)
    if row is None:
        raise NotFound("permission.account_ended")
    grants: list[tuple[str, Grant]] = []
    held = people.holdings(conn, actor)
    for holding in held:
        grants += [(holding.label, g) for g in _grants(holding)]
    if stages or row.kind == "program":
        # A program without stages reads what is out, like everybody.
        listed = tuple(stages) or (("release",) if row.kind == "program" else ())
        grants = [(label, n) for label, g in grants if (n := access.at_stages(g, listed)) is not None]
    return Identity(
        row.id,
        row.kind,
        row.name,
        row.handle,
        tuple(grants),
        tuple(stages),
        row.zone,
        tuple(h.role for h in held),
        tuple(audiences),
        (),
        a_minute,
        row.language,
    )


def seen_by(view: View, actor: int) -> View:
    """The same, as somebody else sees it. Raises `NotFound` for an account that is not there."""
    return View(view.conn, identity_of(view.conn, actor), view.now, view.setup)


def _grants(holding: Holding) -> tuple[Grant, ...]:
    return _held(holding.grants, holding.locales, holding.sections)


@lru_cache(maxsize=1024)
def _held(grants: str, locales: str, sections: str) -> tuple[Grant, ...]:
    """A role's grants as one person holds them, from the JSON of the records: asked of everybody with each request, and the same until
    somebody changes a role."""
    within = json.loads(locales), json.loads(sections)
    made = (access.grant_from_dict(g) for g in json.loads(grants))
    return tuple(n for g in made if (n := access.narrowed(g, *within)) is not None)


def subject(view: View, entry: OfEntry, locale: str | None, stage: str | None = None) -> Subject:
    """An entry in a locale, as grants see it. Shared fields count as the source's."""
    return Subject(
        type=entry.type,
        locale=entry.source_locale if locale == "*" else locale,
        section=entry.section,
        stage=stage,
        own=entry.owner == view.identity.id,
        within=entries.within(view.conn, entry.section),
    )


def around(view: View, entry: int, section: int | None) -> set[int | None]:
    """An entry with the section that it lies in and all above that."""
    return {entry, section, *entries.within(view.conn, section)}


def may(view: View, verb: str, about: Subject) -> bool:
    """Whether whoever looks or acts holds a grant for it."""
    return access.allowing(view.identity, verb, about) is not None and not _shut(view, verb, about)


def _shut(view: View, verb: str, about: Subject) -> bool:
    """Whether the type itself lets nobody do it: what is read-only is not written, whoever one is."""
    kind = view.setup.types.get(about.type or "")
    return verb == "write" and kind is not None and kind.read_only


WORKING = "draft"
"""The stage at which everybody works, and which the working side shows."""


def readable(view: View, entry: OfEntry, locale: str | None = None, stage: str = WORKING) -> bool:
    """Whether an edition may be read at a stage: the one rule for single entries (`readable_sql` says it to the database).

    The common edition, and an entry without a locale, may be read where any of its editions may. So may an edition that is
    not there yet, by those who may read its locale: nobody knows of it who may read nothing of the entry.
    """
    if access.reads_all(view.identity):
        return True
    about = subject(view, entry, None, stage)
    id = entry.entry
    there = [e.locale for e in entries.editions(view.conn, id) if e.locale != COMMON]

    def by(tag: str) -> bool:
        return may(view, "read", replace(about, locale=tag))

    if locale in there:
        return by(str(locale))
    return any(by(tag) for tag in there) and (locale in (None, COMMON) or by(str(locale)))


def first_locale(view: View, entry: Entry) -> str:
    """The locale in which an entry is shown where none was asked for: its source's, or else the first that may be read."""
    tags = [e.locale for e in entries.editions(view.conn, entry.id) if e.locale != COMMON]
    tags.sort(key=lambda tag: tag != entry.source_locale)
    source: str = entry.source_locale
    return next((tag for tag in tags if readable(view, entry, tag)), source)


def readable_id(view: View, entry: int, locale: str | None = None) -> bool:
    """The same of an entry by its number."""
    return access.reads_all(view.identity) or readable(view, entries.entry_by_id(view.conn, entry), locale)


def title(view: View, entry: int, locale: str | None = None) -> str:
    """The title of an entry, as `entries.title` chooses it among the editions that may be read."""
    if access.reads_all(view.identity):
        return entries.title(view.conn, entry, locale)
    row = entries.entry_by_id(view.conn, entry)
    titles: list[tuple[str, str]] = entries.titles(view.conn, entry, locale)
    return next((text for tag, text in titles if readable(view, row, tag)), hidden(view))


class Named(TypedDict):
    """An entry by name; `file` is the SHA-256 of its picture, empty for none."""

    id: str
    type: str
    title: str
    file: str


def named(view: View, entry: int, uuid: str, type: str) -> Named:
    """An entry by name, as far as whoever looks may know it."""
    return {
        "id": uuid,
        "type": type,
        "title": title(view, entry) or view.say("common.untitled"),
        "file": "",
    }


def hidden(view: View) -> str:
    """What is said in place of the title of what may not be read."""
    return view.say("permission.hidden")


def whole(view: View, dispatch: int) -> bool:
    """Whether all entries of a dispatch may be read: only then may it be known what it is called."""
    return dispatch in whole_among(view, {dispatch})


def whole_among(view: View, some: Collection[int]) -> set[int]:
    """Those of some dispatches of which the same is true."""
    if access.reads_all(view.identity) or not some:
        return set(some)
    return set(some) - dispatches.holding_others(view.conn, some, *readable_sql(view, "e", "x"))


def readable_among(view: View, some: Iterable[int]) -> set[tuple[int, str]]:
    """The editions of some entries that may be read, by entry and locale."""
    return entries.readable_among(view.conn, some, *readable_sql(view, "e", "d"))


def require(view: View, verb: str, about: Subject) -> None:
    """Refuse without a grant, naming what is missing and who holds it."""
    if may(view, verb, about):
        return
    raise refusal(view, verb, about)


def require_writable(view: View, type: str) -> None:
    """Raise `Refused` where the entries of a type are read-only, for what is written without a grant for each of them."""
    about = Subject(type=type)
    if _shut(view, "write", about):
        raise refusal(view, "write", about)


def may_somewhere(view: View, verb: str, stage: str | None = None) -> bool:
    """Whether whoever looks holds a grant for a verb, whatever its limits."""
    return any(
        access.allowing(view.identity, verb, about) is not None
        for _, grant in view.identity.grants
        if (about := Subject(section=next(iter(grant.sections), None), stage=stage, own=True))
    )


def require_somewhere(view: View, verb: str, stage: str | None = None) -> None:
    """Refuse without a grant for a verb, whatever its limits: for what belongs to no entry yet, or is looked at one by one."""
    if not may_somewhere(view, verb, stage):
        raise refusal(view, verb, Subject(stage=stage))


def refusal(view: View, verb: str, about: Subject) -> Refused:
    """The refusal that a missing grant deserves, or a type that lets nobody."""
    needed = access.needed(verb, about)
    if _shut(view, verb, about):
        who = holders(view, "configure", Subject())
        return Refused(
            "permission.read_only" if who else "permission.read_only_for_good",
            kind=view.setup.types[about.type or ""].label,
            missing=said("permission.no_read_only"),
            verb=verb,
            who=who,
        )
    if view.identity.kind == "assistant" and verb in access.NEVER_FOR_ASSISTANTS:
        return Refused(
            "permission.never_an_assistant", act=access.verb_of(verb), missing=needed, verb=verb, who=[]
        )
    who = holders(view, verb, about)
    return Refused(
        "permission.missing" if who else "permission.held_by_nobody",
        person=view.identity.name,
        act=access.verb_of(verb),
        missing=needed,
        verb=verb,
        who=who,
    )


def holders(view: View, verb: str, about: Subject, limit: int = 4) -> list[str]:
    """The people who hold a grant for it, each with the role that gives it."""
    out: list[str] = []
    for holding in people.all_holdings(view.conn):
        own = Subject(about.type, about.locale, about.section, about.stage, False, about.within)
        if holding.kind == "person" and any(access.covers(g, verb, own) for g in _grants(holding)):
            named = f"{holding.name} ({holding.label})"
            if named not in out:
                out.append(named)
    return out[:limit]


def people_who(view: View, verb: str, about: Subject) -> list[HoldingOf]:
    """The people who hold a grant for something that is not their own."""
    found: dict[int, HoldingOf] = {}
    for holding in people.all_holdings(view.conn):
        own = Subject(about.type, about.locale, about.section, about.stage, False, about.within)
        if holding.kind == "person" and any(access.covers(g, verb, own) for g in _grants(holding)):
            found.setdefault(holding.id, holding)
    return list(found.values())


def require_own(view: View, grants: Iterable[Grant]) -> None:
    """Nobody can give a right that they do not have: each grant must lie within one of one's own."""
    for grant in grants:
        mine = [g for _, g in view.identity.grants]
        if not any(access.within(grant, g, lambda s: entries.within(view.conn, s)) for g in mine):
            refused = refusal(view, grant.verb, Subject())
            raise Refused(
                "permission.more_than_own" if refused.facts["who"] else "permission.more_than_anybodys",
                person=view.identity.name,
                grant=grant.told(),
                missing=refused.facts["missing"],
                verb=grant.verb,
                who=refused.facts["who"],
            )


def require_no_more_than_own(view: View, actor: int) -> None:
    """Refuse to touch the account of somebody with rights that one does not have."""
    require_own(view, (g for _, g in identity_of(view.conn, actor).grants))


def roles_of(view: View, actor: int) -> tuple[str, ...]:
    """The roles that somebody holds, by name."""
    return tuple(h.role for h in people.holdings(view.conn, actor))


def find(view: View, uuid: str, locale: str | None = None) -> Entry:
    """An entry that may be read, or `NotFound`: what may not be seen is not there."""
    row = entries.entry(view.conn, uuid)
    if row is None or not readable(view, row, locale):
        raise NotFound("common.no_entry", id=uuid)
    return row


def readable_sql(
    view: View, alias: str = "e", locale: str = "d", stage: str = WORKING
) -> tuple[str, list[Any]]:
    """A condition for SQL that holds for what may be read at a stage: the rule of `readable`, said to the database. It is
    true or false and never unknown, so that it can be turned round.

    `alias` and `locale` name tables of the query (of entries, and of what has a locale) and come from code alone.
    """
    if access.reads_all(view.identity):
        return "1", []
    return granted_sql(view, "read", alias, locale, stage)


def granted_sql(
    view: View, verb: str, alias: str = "e", locale: str = "d", stage: str | None = None
) -> tuple[str, list[Any]]:
    """The same for what a verb is granted for, at a stage or at any: what may be done with a row is asked of it once more where it depends on
    its stage."""
    branches: list[str] = []
    values: list[Any] = []
    for _, grant in view.identity.grants:
        if grant.verb != verb or (grant.stages and stage is not None and stage not in grant.stages):
            continue
        parts = ["1"]
        if grant.types:
            parts.append(f"{alias}.type IN (SELECT value FROM json_each(?))")
            values.append(json.dumps(list(grant.types)))
        if grant.locales:
            parts.append(
                f"({locale}.locale IN (SELECT value FROM json_each(?)) OR ({locale}.locale = '*' AND EXISTS (SELECT 1 "
                f"FROM edition z WHERE z.entry = {alias}.id AND z.locale IN (SELECT value FROM json_each(?)))))"
            )
            values += [json.dumps(list(grant.locales))] * 2
        if grant.sections:
            parts.append(
                f"({alias}.section IS NOT NULL AND ({alias}.section IN (SELECT value FROM json_each(?)) OR EXISTS (SELECT 1 FROM section_within w "
                f"WHERE w.section = {alias}.section AND w.ancestor IN (SELECT value FROM json_each(?)))))"
            )
            values += [json.dumps(list(grant.sections))] * 2
        if grant.own:
            parts.append(f"{alias}.actor = ?")
            values.append(view.identity.id)
        branches.append("(" + " AND ".join(parts) + ")")
    return ("(" + " OR ".join(branches) + ")", values) if branches else ("0", [])


@dataclass(frozen=True, slots=True)
class Why:
    """Whether somebody may do something, and which grant says so or is missing."""

    allowed: bool
    reason: str
    role: str
    who: list[str]
    missing: str


def why(
    view: View,
    handle: str,
    verb: str,
    *,
    type: str | None = None,
    locale: str | None = None,
    entry: str | None = None,
    stage: str | None = None,
) -> Why:
    """For any person and act: allowed or not, and which grant says so or is missing."""
    row = people.by_handle(view.conn, handle)
    if row is None:
        raise NotFound("common.nobody", handle=handle)
    other = seen_by(view, row.id)
    who = other.identity
    about = Subject(type, locale, stage=stage)
    if entry:
        # Whether an entry is somebody's own is asked of them, not of whoever asks.
        about = subject(other, find(view, entry, locale), locale, stage)
    if verb == "read" and about.stage is None:
        about = replace(about, stage=WORKING)
    found = access.allowing(who, verb, about)
    if found and not _shut(other, verb, about):
        reason = view.say("permission.granted", person=who.name, role=found[0], grant=found[1].told())
        return Why(allowed=True, reason=reason, role=found[0], who=[], missing="")
    refused = refusal(other, verb, about)
    return Why(
        allowed=False,
        reason=view.say(refused.message),
        role="",
        who=refused.facts["who"],
        missing=view.say(refused.facts["missing"]),
    )
