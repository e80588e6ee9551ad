"""Previews: seeing pages before they are out, in the console beside the form or by a link for somebody without an account."""

from __future__ import annotations

import hashlib
import secrets
import sqlite3
from collections.abc import Iterable, Mapping
from typing import Any, TypedDict

from itsdangerous import BadSignature, Signer

from hawthorn.core import contenttypes, timeline
from hawthorn.core.access import Identity
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound, Refused
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import permission
from hawthorn.operations.delivery import addressing, reading
from hawthorn.operations.delivery.addressing import PageAddress
from hawthorn.operations.delivery.reading import Limits, Place
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import definitions, entries, jobs, people
from hawthorn.store import moves as move_store
from hawthorn.store import previews as store
from hawthorn.store.previews import Link
from hawthorn.store.vault import Vault

PANE_LASTS = 12 * 3600 * SECOND
"""A preview in the console holds for so long."""
LONGEST = 90 * 86_400 * SECOND
"""A link holds for so long at most."""
SCOPES = ("entry", "section", "strand", "dispatch")
"""What a link may be for."""
QUIET = 60 * SECOND
"""The same use again within so long is not noted twice."""
USES = 1000
"""So many uses of a link are kept, the newest."""


@dataclass(frozen=True, slots=True)
class Opened:
    """A preview that may be looked at: whose it is, and where it shows what."""

    row: Link
    identity: Identity
    where: Place


def token(view: View, uuid: str) -> str:
    """The signed word that opens a preview. It says nothing and is worth nothing once the preview has ended."""
    return _signer(view.vault.open(definitions.setting(view.conn, "preview_secret"))).sign(uuid).decode()


def _signer(secret: str) -> Signer:
    return Signer(secret, salt="hawthorn.preview", digest_method=hashlib.sha256)


def _require_secret(act: Act) -> None:
    if not definitions.setting(act.conn, "preview_secret"):
        definitions.set_setting(act.conn, "preview_secret", act.vault.seal(secrets.token_urlsafe(32)))


def opened(conn: sqlite3.Connection, vault: Vault, now: int, word: str) -> Opened:
    """The preview that a signed word opens; raises `Refused` when it is none, has ended, or its maker may no longer see it."""
    row = None
    kept = definitions.setting(conn, "preview_secret")
    if kept and len(word) < 200:
        secret = vault.open(kept)
        try:
            uuid = _signer(secret).unsign(word).decode()
            # Some ends of a signature decode alike; only the one that was given is the address.
            row = store.find(conn, uuid) if _signer(secret).sign(uuid).decode() == word else None
        except (BadSignature, UnicodeDecodeError):
            row = None
    if row is None:
        raise Refused("previews.no_address", missing="preview")
    if _over(row, now):
        code = (
            "previews.has_expired"
            if row.ended_at is None and row.expires_at <= now
            else "previews.was_taken_back"
        )
        raise Refused(code, by=row.by_name, missing="preview")
    try:
        identity = permission.identity_of(conn, row.actor)
    except NotFound:
        raise Refused("previews.giver_is_gone", missing="preview") from None
    along: frozenset[int] = frozenset()
    if row.entry and row.at is not None and row.at > now:
        along = move_store.going_with(conn, row.at, row.entry, whole_section=row.scope == "section")
    if row.dispatch is not None:
        along = frozenset(move_store.entries(conn, row.dispatch))
    if row.job is not None:
        along = frozenset(part.entry for part in jobs.entries(conn, row.job))
    limits = Limits(row.id if row.pane else 0, row.scope, row.entry or 0, along)
    return Opened(row, identity, Place(row.stage, row.at, row.strand, limits, row.dispatch or 0))


def _over(row: Link, now: int) -> bool:
    """Whether a link opens nothing any more: taken back, expired, or of a job that has ended."""
    return row.ended_at is not None or row.expires_at <= now or row.job_state in ("accepted", "cancelled")


def place(view: View, name: str, at: str) -> Place:
    """A stage and an instant (nothing for now) that whoever looks may see all of."""
    if name not in view.setup.stages:
        raise Invalid([FieldProblem("stage", said("common.one_of", known=list(view.setup.stages)))])
    permission.require_somewhere(view, "read", name)
    return Place(view.setup.stages[name], timeline.parse_instant(at) if at else None)


def open_pane(act: Act, stage: str = "draft", at: str = "", strand: str = "", dispatch: str = "") -> str:
    """Open a preview of everything for oneself, at a stage and instant, or as if a dispatch had gone; returns its UUID. What one types
    is sent to it."""
    where = reading.place(act, dispatch=dispatch) if dispatch else place(act, stage, at)
    _require_secret(act)
    store.sweep(act.conn, act.now)
    uuid = new_uuid(act.now)
    store.add(
        act.conn,
        uuid=uuid,
        pane=True,
        name="",
        scope="all",
        entry=None,
        strand="" if strand == entries.DRAFT_STRAND else strand,
        stage=where.stage,
        at=where.at,
        created_at=act.now,
        expires_at=act.now + PANE_LASTS,
        actor=act.identity.id,
        dispatch=where.dispatch or None,
    )
    return uuid


def type_into(
    act: Act, uuid: str, entry: str, locale: str, fields: Mapping[str, Any]
) -> list[dict[str, str]]:
    """Keep what is being typed into an entry, for one's own preview alone; returns what is wrong with it.

    A value that its field cannot take is left out, and the page shows what is saved there. Nothing of it is saved.
    """
    pane = own_pane(act, uuid)
    row = permission.find(act, entry, None)
    kind = act.setup.type(row.type)
    tag = act.setup.locale(locale)
    problems: list[dict[str, str]] = []
    kept: dict[str, dict[str, Any]] = {COMMON: {}, tag: {}}
    for name, value in fields.items():
        spec = kind.field(name)
        if spec is None:
            problems.append({"field": name, "problem": act.say("previews.no_field", kind=kind.label)})
            continue
        try:
            typed = contenttypes.canonical_fields(kind, {name: value}, act.setup.bounds)
        except Invalid as wrong:
            found = wrong.facts.get("problems", [])
            problems += [{"field": p.where, "problem": act.say(p.what)} for p in found]
            continue
        kept[COMMON if spec.shared else tag][name] = typed.get(name)
        problems += [
            {"field": name, "problem": act.say(lost)} for lost in contenttypes.lost(kind, {name: value})
        ]
    for where, values in kept.items():
        store.type(act.conn, pane.id, row.id, where, values, act.now)
    return problems


def own_pane(view: View, uuid: str) -> Link:
    """A preview of whoever asks that is not over."""
    row = store.find(view.conn, uuid)
    over = row is None or row.ended_at is not None or row.expires_at <= view.now
    if row is None or over or not row.pane or row.actor != view.identity.id:
        raise NotFound("previews.over")
    return row


def close_pane(act: Act, uuid: str) -> None:
    """Close one's own preview; what was typed in it goes."""
    store.end(act.conn, own_pane(act, uuid).id, act.now)


_VISITOR = "(preview)"
"""The handle of whoever opens a link; nobody can log in with it."""


@dataclass(frozen=True, slots=True)
class LinkWish:
    """A link that somebody asks for. `lasts` is in seconds; `scope` one of `SCOPES`."""

    scope: str
    entry: str
    stage: str = "draft"
    at: str = ""
    strand: str = ""
    dispatch: str = ""
    lasts: int = 7 * 86_400
    name: str = ""


def give_link(act: Act, wish: LinkWish) -> str:
    """Give out a link to look at an entry, a section, a strand or all that a dispatch changes before it is out; returns its UUID. Who
    may write there may give one."""
    problems: list[FieldProblem] = []
    if wish.scope not in SCOPES:
        problems.append(FieldProblem("scope", said("common.one_of", known=list(SCOPES))))
    if not 60 <= wish.lasts <= LONGEST // SECOND:
        problems.append(FieldProblem("lasts", said("previews.lasts")))
    if wish.scope == "strand" and not wish.strand:
        problems.append(FieldProblem("strand", said("previews.names_no_strand")))
    if wish.scope == "dispatch" and not wish.dispatch:
        problems.append(FieldProblem("dispatch", said("previews.names_no_dispatch")))
    if len(wish.name) > 120:
        problems.append(FieldProblem("name", said("previews.note_length")))
    if problems:
        raise Invalid(problems)
    row = permission.find(act, wish.entry)
    permission.require(act, "write", permission.subject(act, row, row.source_locale))
    inside = wish.scope == "dispatch"
    where = reading.place(act, dispatch=wish.dispatch) if inside else place(act, wish.stage, wish.at)
    if inside and row.id not in move_store.entries(act.conn, where.dispatch):
        raise Invalid([FieldProblem("entry", said("previews.not_in_dispatch"))])
    if wish.scope == "section" and not act.setup.type(row.type).section:
        raise Invalid([FieldProblem("entry", said("previews.heads_no_section"))])
    strand = wish.strand if wish.scope == "strand" else ""
    if strand and not any(
        entries.edition(act.conn, row.id, e.locale, strand) for e in entries.editions(act.conn, row.id)
    ):
        raise NotFound("common.no_strand", name=strand)
    _require_secret(act)
    uuid = new_uuid(act.now)
    store.add(
        act.conn,
        uuid=uuid,
        pane=False,
        name=" ".join(wish.name.split()),
        scope=wish.scope,
        entry=row.id,
        strand=strand,
        stage=where.stage,
        at=where.at,
        created_at=act.now,
        expires_at=act.now + wish.lasts * SECOND,
        actor=act.identity.id,
        dispatch=where.dispatch or None,
    )
    act.event(
        "preview.given",
        [row.id],
        {
            "preview": uuid,
            "entry": wish.entry,
            "scope": wish.scope,
            "name": wish.name,
            "until": iso(act.now + wish.lasts * SECOND),
        },
    )
    return uuid


def give_for_job(act: Act, job: int, uuid: str, locale: str, entry: int, actor: int) -> None:
    """Give a job a link of its own, with which its translator sees the drafts of its pages until it has ended; with the rights of whoever
    commissioned it. It is called by the job's number: a title is not for everybody who sees one of its entries."""
    _require_secret(act)
    store.add(
        act.conn,
        uuid=new_uuid(act.now),
        pane=False,
        name=act.keep("previews.of_job", locale=locale, job=uuid[-8:]),
        scope="entry",
        entry=entry,
        strand="",
        stage=act.setup.stages["draft"],
        at=None,
        created_at=act.now,
        expires_at=act.now + LONGEST,
        actor=actor,
        job=job,
    )


def renew_for_job(act: Act, job: int, uuid: str, locale: str, entry: int) -> None:
    """Give a job a link anew, with the rights of whoever acts, where the one that it has does not hold any more."""
    if _held(act, job) is not None:
        return
    before = store.find(act.conn, store.of_job(act.conn, job))
    if before is not None:
        store.end(act.conn, before.id, act.now)
    give_for_job(act, job, uuid, locale, entry, act.identity.id)


def seen_by_job(view: View, job: int, some: Iterable[int]) -> dict[int, str]:
    """Where the translator of a job sees the drafts of entries, by their numbers: of those of which a site shows drafts, while the link holds."""
    row = _held(view, job)
    if row is None:
        return {}
    where, word, out = _where(row), token(view, row.uuid), dict[int, str]()
    for id in some:
        found = addressing.addresses(view, entries.entry_by_id(view.conn, id), "", where, word)
        shows = (str(one["url"]) for one in found if one["stage"] != "release" and not one["missing"])
        out[id] = next(shows, "")
    return out


def word_of_job(view: View, job: int) -> str:
    """The word with which the translator of a job sees what it is of; empty where the link does not hold any more."""
    row = _held(view, job)
    return token(view, row.uuid) if row else ""


def _held(view: View, job: int) -> Link | None:
    uuid = store.of_job(view.conn, job)
    row = store.find(view.conn, uuid) if uuid else None
    if row is None or _over(row, view.now) or people.actor(view.conn, row.actor) is None:
        return None
    return row


def find_link(view: View, uuid: str) -> Link:
    """A link whose entry may be read."""
    row = store.find(view.conn, uuid)
    if row is not None and not row.pane:
        entry = entries.entry_by_id(view.conn, row.about)
        if permission.readable(view, entry):
            return row
    raise NotFound("previews.no_link")


class LinkUse(TypedDict):
    """When a link was used, for what, and with which program."""

    at: str
    what: str
    agent: str


class LinkShown(TypedDict):
    """A link as those who work here see it: what it shows, until when, whether it is `over`, and its address at every site while it holds."""

    id: str
    name: str
    scope: str
    entry: str
    title: str
    strand: str
    dispatch: str | None
    dispatch_name: str
    stage: str
    at: str | None
    by: str
    created_at: str
    expires_at: str
    ended_at: str | None
    over: bool
    addresses: list[PageAddress]
    uses: list[LinkUse]


def links(view: View, entry: str = "") -> list[LinkShown]:
    """The links that were given out, newest first: for an entry, or for all that may be read."""
    own = permission.find(view, entry).id if entry else None
    return [
        shown(view, row)
        for row in store.links(view.conn, own)
        if permission.readable(view, entries.entry_by_id(view.conn, row.about))
    ]


def shown(view: View, row: Link) -> LinkShown:
    """A link as those who work here see it, with its address at every site while it holds."""
    over = _over(row, view.now)
    entry = entries.entry_by_id(view.conn, row.about)
    uses = store.uses(view.conn, row.id)
    mine = row.actor == view.identity.id
    ours = mine or permission.may(view, "write", permission.subject(view, entry, entry.source_locale))
    return {
        "id": row.uuid,
        "name": row.name,
        "scope": row.scope,
        "entry": entry.uuid,
        "title": permission.title(view, row.about) or view.say("common.untitled"),
        "strand": row.strand,
        "dispatch": row.dispatch_uuid,
        "dispatch_name": row.dispatch_name or "",
        "stage": row.stage_name,
        "at": iso(row.at) if row.at is not None else None,
        "by": row.by_name,
        "created_at": iso(row.created_at),
        "expires_at": iso(row.expires_at),
        "ended_at": iso(row.ended_at) if row.ended_at is not None else None,
        "over": over,
        # The address opens the preview, so only those who may give one see it again.
        "addresses": []
        if over or not ours
        else addressing.addresses(view, entry, "", _where(row), token(view, row.uuid)),
        "uses": [{"at": iso(u.at), "what": u.what, "agent": u.agent} for u in uses],
    }


def _where(row: Link) -> Place:
    return Place(row.stage, row.at, row.strand, dispatch=row.dispatch or 0)


def take_back(act: Act, uuid: str) -> None:
    """Take a link back: it opens nothing from now on."""
    row = find_link(act, uuid)
    entry = entries.entry_by_id(act.conn, row.about)
    if row.actor != act.identity.id:
        permission.require(act, "write", permission.subject(act, entry, entry.source_locale))
    if row.ended_at is not None:
        raise InTheWay("previews.taken_back")
    store.end(act.conn, row.id, act.now)
    act.event("preview.taken-back", [row.about], {"preview": uuid, "entry": entry.uuid, "name": row.name})


def note_use(act: Act, row: Link, what: str, agent: str) -> None:
    """Note that a link was used; the first use of an hour is in the log too."""
    last = store.last_use(act.conn, row.id)
    if store.use(act.conn, row.id, act.now, what[:200], agent[:200], QUIET, USES) and (
        last is None or last <= act.now - 3600 * SECOND
    ):
        entry = entries.entry_by_id(act.conn, row.about)
        visitor = act.by(_visitor(act))
        visitor.event(
            "preview.used",
            [row.about],
            {
                "preview": row.uuid,
                "entry": entry.uuid,
                "name": row.name,
                "given_by": row.by_name,
            },
        )
        act.resume(visitor)


def _visitor(act: Act) -> Identity:
    """Whoever has a link, of whom nothing is known: who gave it did not open it."""
    row = people.ever(act.conn, _VISITOR)
    id = (
        row.id
        if row is not None
        else people.add_actor(
            act.conn, "program", _VISITOR, act.keep("previews.visitor"), "", "", "UTC", act.now
        )
    )
    return Identity(id, "program", act.keep("previews.visitor"), _VISITOR)


def used_lately(conn: sqlite3.Connection, row: Link, now: int, what: str, agent: str) -> bool:
    """Whether the same use was noted a moment ago, so that nothing needs to be written."""
    return store.used_lately(conn, row.id, what[:200], agent[:200], now - QUIET)


def addresses_of(view: View, uuid: str, locale: str, preview: str = "") -> list[PageAddress]:
    """The addresses of an entry's page at every site, as drafted; with a preview of one's own, as that shows it, with its token."""
    row = permission.find(view, uuid, locale)
    where, word = Place(view.setup.stages["draft"]), ""
    if preview:
        pane = own_pane(view, preview)
        where, word = _where(pane), token(view, preview)
    return addressing.addresses(view, row, locale, where, word)
