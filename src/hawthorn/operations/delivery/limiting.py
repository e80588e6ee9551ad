"""Who may read what is out where not everybody may: hidden and locked entries, their audiences, and phrases that open locked ones.

How an entry is limited is no part of its revisions: it holds at once, whatever stands, and stays through releases.
"""

from __future__ import annotations

import hashlib
import re
import secrets
import sqlite3
from collections.abc import Iterable, Sequence

from itsdangerous import BadSignature, Signer

from hawthorn.core import limited
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.limited import HIDDEN, LOCKED
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import logging_in, permission
from hawthorn.operations.release import applying
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import bodies, definitions, entries, standings
from hawthorn.store import limited as store
from hawthorn.store.entries import Entry
from hawthorn.store.standings import RELEASE
from hawthorn.store.vault import Vault

OPEN_FOR = 12 * 3600 * SECOND
"""For so long a phrase opens an entry for whoever gave it."""
MOST_OPEN = 20
"""So many entries one reader may bring with them as open."""
_SECRET = "unlock_secret"
_TOKEN = re.compile(r"([0-9a-f-]{36})\.(\d{1,9})\.(\d{1,17})")


@dataclass(frozen=True, slots=True)
class Limit:
    """How an entry is limited (not at all where `way` is empty), for whom it is all the same, and whether it has a phrase."""

    way: str
    audiences: tuple[str, ...] = ()
    has_phrase: bool = False


@dataclass(frozen=True, slots=True)
class Opened:
    """What a phrase gave: a token that stands for it until an instant."""

    token: str
    until: str


def lets(view: View, row: Entry, *, plain: bool) -> bool:
    """Whether whoever reads may read an entry whole. Not `plain` is where drafts or other instants are read: whoever may is let in there."""
    if not row.limited or not plain:
        return True
    if row.limited == LOCKED and row.uuid in view.identity.unlocked:
        return True
    return is_for(view, row.id)


def is_for(view: View, entry: int) -> bool:
    """Whether an entry is for an audience for whom somebody reads."""
    audiences = view.identity.audiences
    return bool(audiences) and store.admits(view.conn, entry, audiences)


def of(view: View, row: Entry) -> Limit:
    """How an entry is limited."""
    has = store.phrase(view.conn, row.id) is not None
    return Limit(row.limited, store.audiences(view.conn, row.id), has)


def phrase_hash(phrase: str) -> str:
    """A phrase that somebody sets, as it is kept; nothing for none. Takes a moment: done before there is an act, so that nobody waits for it."""
    return logging_in.password_hash(limited.new_phrase(phrase)) if phrase else ""


def limit(
    act: Act, uuid: str, way: str, audiences: Sequence[str] = (), phrase: str = ""
) -> tuple[Limit, Limit]:
    """Say who may read an entry while it is out; returns how it was limited before, and how it is now. A locked one needs a phrase (as `phrase_hash` has it): a new
    one ends what the one before it opened, and without one that which it has already goes on to hold. Only who may release it may say so."""
    row = permission.find(act, uuid)
    for locale in (e.locale for e in entries.editions(act.conn, row.id)):
        stage = act.setup.stage_names[RELEASE]
        permission.require(act, "release", permission.subject(act, row, locale, stage))
    before = of(act, row)
    names = limited.audiences(audiences)
    _check(way, names, phrase, before)
    if phrase:
        store.set_phrase(act.conn, row.id, phrase)
    after = Limit(way, names if way else (), before.has_phrase or bool(phrase))
    if after == before and not phrase:
        return before, before
    store.limit(act.conn, row.id, after.way, after.audiences)
    if not definitions.setting(act.conn, _SECRET):
        definitions.set_setting(act.conn, _SECRET, act.vault.seal(secrets.token_urlsafe(32)))
    applying.shown_anew(act, [(row.id, row.type)])
    bodies.forget_entry(act.conn, row.id)
    act.event(
        "entry.limited",
        [row.id],
        {
            "entry": uuid,
            "title": permission.title(act, row.id),
            "way": after.way or "open",
            "was": before.way or "open",
            "audiences": list(after.audiences),
            "phrase": "new" if phrase else "",
        },
    )
    return before, after


def _check(way: str, audiences: Sequence[str], phrase: str, before: Limit) -> None:
    problems: list[FieldProblem] = []
    if way not in limited.WAYS:
        known = [w for w in limited.WAYS if w]
        problems.append(FieldProblem("way", said("common.none_of", known=known)))
    elif way == HIDDEN and not audiences:
        problems.append(FieldProblem("audiences", said("limiting.hidden_from_all")))
    elif way == LOCKED and not phrase and not before.has_phrase:
        problems.append(FieldProblem("phrase", said("limiting.no_phrase")))
    if phrase and way != LOCKED:
        problems.append(FieldProblem("phrase", said("limiting.phrase_for_nothing")))
    if problems:
        raise Invalid(problems)


def known_audiences(view: View) -> list[str]:
    """The audiences that keys read for, or that entries name."""
    permission.require_somewhere(view, "read", permission.WORKING)
    return store.known_audiences(view.conn)


@dataclass(frozen=True, slots=True)
class Lock:
    """A locked entry as its phrase is tried."""

    entry: str
    hash: str
    number: int


def lock(view: View, uuid: str) -> Lock:
    """The lock of an entry that is out; what is hidden, or not out, is not there."""
    row = entries.entry(view.conn, uuid)
    found = store.phrase(view.conn, row.id) if row is not None else None
    if row is None or row.limited == HIDDEN or not standings.is_out(view.conn, row.id):
        raise NotFound("reading.not_there", name=uuid)
    if row.limited != LOCKED or found is None:
        raise InTheWay("limiting.not_locked")
    return Lock(row.uuid, found.hash, found.number)


def tried(view: View, lock: Lock, phrase: str) -> Opened:
    """What a phrase opens; raises `Invalid` for a wrong one. Takes a moment: phrases are hashed like passwords."""
    if not logging_in.is_password(lock.hash, limited.phrase(phrase)):
        raise Invalid([FieldProblem("phrase", said("limiting.wrong_phrase"))])
    until = view.now + OPEN_FOR
    word = f"{lock.entry}.{lock.number}.{until // SECOND}"
    return Opened(_signer(view.conn, view.vault).sign(word).decode(), iso(until))


def unlocked(conn: sqlite3.Connection, vault: Vault, now: int, tokens: Iterable[str]) -> tuple[str, ...]:
    """The entries (UUIDs) that some tokens open still: each until its time is over, or the entry has another phrase."""
    some = [token for token in tokens if len(token) < 200][:MOST_OPEN]
    if not some or not definitions.setting(conn, _SECRET):
        return ()
    signer = _signer(conn, vault)
    found = (_opens(conn, signer, now, token) for token in some)
    return tuple(sorted({uuid for uuid in found if uuid}))


def _opens(conn: sqlite3.Connection, signer: Signer, now: int, token: str) -> str:
    try:
        word = signer.unsign(token).decode()
    except (BadSignature, UnicodeDecodeError):
        return ""
    parts = _TOKEN.fullmatch(word)
    if parts is None or int(parts[3]) * SECOND <= now:
        return ""
    row = entries.entry(conn, parts[1])
    kept = store.phrase(conn, row.id) if row is not None else None
    return parts[1] if kept is not None and kept.number == int(parts[2]) else ""


def _signer(conn: sqlite3.Connection, vault: Vault) -> Signer:
    secret = vault.open(definitions.setting(conn, _SECRET))
    return Signer(secret, salt="hawthorn.unlock", digest_method=hashlib.sha256)
