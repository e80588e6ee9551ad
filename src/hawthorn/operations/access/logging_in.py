"""Logging in and out: passwords, sessions, second factors and invitations."""

from __future__ import annotations

import hashlib
import json
import secrets
import sqlite3
from base64 import b32encode
from collections.abc import Sequence
from functools import cache

import pyotp
from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError

from hawthorn.core import passwords
from hawthorn.core.access import Identity, Means, Subject
from hawthorn.core.errors import CodeNeeded, FieldProblem, InTheWay, Invalid, NotFound, NotLoggedIn, Refused
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND, iso
from hawthorn.operations.access import attempts, permission
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import assistants, outbox, passkeys, previews, second_factors
from hawthorn.store import people as store
from hawthorn.store import sessions as session_store
from hawthorn.store.people import Actor, Invited

INVITATION_LASTS = 7 * 86400 * SECOND


@dataclass(frozen=True, slots=True)
class Lasts:
    """How long a session lasts, in microseconds: without being used, and in any case."""

    idle: int = 12 * 3600 * SECOND
    longest: int = 14 * 86400 * SECOND


USUAL = Lasts()
STEP = 30
"""Seconds for which a code holds (RFC 6238, section 4.1)."""
_SEEN_EVERY = 600 * SECOND
_HASHER = PasswordHasher(time_cost=9, memory_cost=12 * 1024, parallelism=1)
"""Argon2id (RFC 9106) with 12 MB and three times the passes that are advised for so much: dear to whoever guesses, and no burden on others while somebody logs in."""


@cache
def _nobodys() -> str:
    """What is compared with for a name that is not there; made once, and not before somebody logs in."""
    return _HASHER.hash("nobody has this password")


def hashed(token: str) -> str:
    """How a session token or key is kept; both are random, so a fast hash is enough."""
    return hashlib.sha256(token.encode()).hexdigest()


def password_hash(password: str) -> str:
    """A password as kept: Argon2id (RFC 9106)."""
    with attempts.HASHING:
        return _HASHER.hash(password)


def is_password(kept: str, password: str) -> bool:
    """Whether a password is the one that is kept so."""
    try:
        with attempts.HASHING:
            return _HASHER.verify(kept, password)
    except (Argon2Error, InvalidHashError):
        return False


def check_password(view: View, handle: str, password: str) -> Actor | None:
    """The person whose handle and password these are. Takes as long for a name that is not there."""
    return fits(store.by_handle(view.conn, handle), password)


def fits(row: Actor | None, password: str) -> Actor | None:
    """The same of somebody who was looked up: done where many may wait for it without keeping anybody from reading."""
    try:
        with attempts.HASHING:
            kept = row.password if row is not None and row.password else _nobodys()
            _HASHER.verify(kept, password)
    except (Argon2Error, InvalidHashError):
        return None
    return row if row is not None and row.password else None


def refused(act: Act, handle: str, source: str, by: Means = "password", why: str = "") -> None:
    """Note in the log that somebody could not log in, or confirm who they are: by what name, from where, by which means, and why."""
    act.event("session.refused", [], {"handle": handle[:80], "from": source, "by": by, "why": why})


def log_in(
    act: Act, row: Actor, agent: str = "", lasts: Lasts = USUAL, source: str = "", by: Means = "password"
) -> str:
    """Open a session for somebody who showed who they are by some means, from somewhere; returns its token, which is kept only hashed."""
    token = secrets.token_urlsafe(32)
    session_store.open_session(
        act.conn,
        hashed(token),
        row.id,
        act.now,
        act.now + min(lasts.idle, lasts.longest),
        secrets.token_hex(16),
        agent[:200],
    )
    who = act.by(permission.identity_of(act.conn, row.id))
    who.event("session.opened", [], {"handle": row.handle, "from": source, "by": by, "with": agent[:200]})
    act.resume(who)
    return token


def log_out(act: Act, token: str) -> None:
    """End a session, and the previews that were open in the console: their addresses lie in the browser's history."""
    session_store.end_session(act.conn, hashed(token), act.now)
    previews.end_panes(act.conn, act.identity.id, act.now)
    act.event("session.ended", [], {"handle": act.identity.handle})


def end_before(act: Act, token: str) -> None:
    """End the session that a browser came with when its owner, or somebody else, logs in over it; one that is over is left."""
    actor = session_store.session_actor(act.conn, hashed(token), act.now)
    if actor is not None:
        who = act.by(permission.identity_of(act.conn, actor))
        log_out(who, token)
        act.resume(who)


def identify(conn: sqlite3.Connection, now: int, token: str) -> Identity:
    """Who a session token or key belongs to; raises `NotLoggedIn`."""
    digest = hashed(token)
    actor = session_store.session_actor(conn, digest, now)
    if actor is not None:
        return permission.identity_of(conn, actor)
    key = store.key(conn, digest)
    if key is None:
        raise NotLoggedIn("logging_in.ended")
    if key.expires_at is not None and key.expires_at <= now:
        raise NotLoggedIn("logging_in.key_expired", key=key.name, at=iso(key.expires_at))
    pause = assistants.paused(conn, key.actor)
    if pause is not None:
        reason = pause.reason or said("assistants.no_reason")
        raise Refused(
            "assistants.paused",
            name=key.name,
            by=pause.by_name,
            reason=reason,
            missing="pause",
            who=[pause.by_name],
        )
    lists = (json.loads(key.stages), json.loads(key.audiences))
    return permission.identity_of(conn, key.actor, *lists, key.a_minute or 0)


def somebody(view: View, actor: int) -> Identity:
    """Somebody who has just shown who they are."""
    return permission.identity_of(view.conn, actor)


@dataclass(frozen=True, slots=True)
class SessionShown:
    """An open session."""

    id: str
    agent: str
    since: str
    seen_at: str
    until: str
    this: bool


def sessions(view: View, token: str, handle: str = "") -> list[SessionShown]:
    """The open sessions of whoever looks, the newest first; those of others for whoever may set up people."""
    actor = _whose(view, handle)
    mine = hashed(token)
    return [
        SessionShown(
            id=row.uuid,
            agent=row.agent,
            since=iso(row.created_at),
            seen_at=iso(row.seen_at),
            until=iso(row.expires_at),
            this=row.token_hash == mine,
        )
        for row in session_store.sessions(view.conn, actor, view.now)
    ]


def _whose(view: View, handle: str) -> int:
    if not handle or handle == view.identity.handle:
        return view.identity.id
    permission.require(view, "configure", Subject())
    row = store.by_handle(view.conn, handle)
    if row is None:
        raise NotFound("common.nobody", handle=handle)
    return int(row.id)


def end_session(act: Act, id: str) -> None:
    """End a session by its id: one's own, or anybody's for whoever may set up people."""
    row = session_store.session(act.conn, id)
    if row is None or (row.actor != act.identity.id and not permission.may(act, "configure", Subject())):
        raise NotFound("logging_in.no_session")
    session_store.end_session(act.conn, row.token_hash, act.now)
    act.event("session.ended", [], {"handle": row.handle})


def note_seen(act: Act, token: str, lasts: Lasts = USUAL) -> None:
    """Note that a session is in use, so that it goes on."""
    session_store.session_seen(act.conn, hashed(token), act.now, lasts.idle, lasts.longest)


def is_long_unseen(conn: sqlite3.Connection, now: int, token: str) -> bool:
    """Whether it is time to note that a session is in use."""
    return session_store.session_last_seen(conn, hashed(token)) < now - _SEEN_EVERY


def change_password(act: Act, token: str, before: str, after: str) -> None:
    """Change one's own password; every other session of one's own ends."""
    _only_people(act)
    _require_strong(after, store.actor(act.conn, act.identity.id))
    if check_password(act, act.identity.handle, before) is None:
        raise Invalid([FieldProblem("before", said("logging_in.not_your_password"))])
    store.set_password(act.conn, act.identity.id, password_hash(after))
    session_store.end_sessions(act.conn, act.identity.id, act.now, but=hashed(token))
    previews.end_all_of(act.conn, act.identity.id, act.now)
    act.event("person.password-changed", [], {"handle": act.identity.handle})


def _require_strong(password: str, row: Actor | None) -> None:
    own = (row.handle, row.name, row.email) if row is not None else ()
    weak = passwords.weak(password, own)
    if weak is not None:
        raise Invalid([FieldProblem("password", weak)])


def _only_people(view: View) -> None:
    if view.identity.kind != "person":
        raise InTheWay("logging_in.program_without_password")


def needs_code(view: View, actor: int) -> bool:
    """Whether somebody logs in with a code besides the password."""
    row = second_factors.second_factor(view.conn, actor)
    return row is not None and row.since is not None


def lacks_factor(conn: sqlite3.Connection, who: Identity, token: str) -> bool:
    """Whether somebody is here by a password alone, and has no second factor that could be asked for."""
    return who.kind == "person" and second_factors.lacks_factor(conn, who.id, hashed(token))


def use_code(act: Act, actor: int, code: str) -> bool:
    """Take a code of the second factor (RFC 6238), each at most once; one step early or late is taken. Spare codes too."""
    row = second_factors.second_factor(act.conn, actor)
    if row is None:
        return False
    said = "".join(code.split()).replace("-", "").casefold()
    if not said.isascii():
        return False
    step = act.now // SECOND // STEP
    secret = act.vault.open(row.secret)
    # Without a secret it is shown by passkeys and spare codes alone.
    for counter in (step, step - 1, step + 1) if secret else ():
        shows = pyotp.TOTP(secret, interval=STEP).generate_otp(counter)
        if counter > row.counter and secrets.compare_digest(shows, said):
            second_factors.use_step(act.conn, actor, counter)
            return True
    spare = json.loads(row.spare)
    if row.since is not None and hashed(said) in spare:
        spare.remove(hashed(said))
        second_factors.set_spare(act.conn, actor, spare)
        who = act.by(permission.identity_of(act.conn, actor))
        who.event("person.spare-code-used", [], {"left": len(spare)})
        act.resume(who)
        return True
    return False


def begin_second_factor(act: Act, house: str, password: str) -> dict[str, str]:
    """Begin to set up a second factor, with the password: its secret, and the address that an authenticator reads from a QR
    code."""
    require_own_password(act, password)
    if needs_code(act, act.identity.id):
        raise InTheWay("logging_in.factor_there")
    secret = pyotp.random_base32()
    second_factors.begin_second_factor(act.conn, act.identity.id, act.vault.seal(secret), act.now)
    uri = pyotp.TOTP(secret, interval=STEP).provisioning_uri(name=act.identity.handle, issuer_name=house)
    return {"secret": secret, "uri": uri}


def confirm_second_factor(act: Act, code: str, token: str = "") -> list[str]:
    """Turn the second factor on once a first code is right; every other session ends. Returns spare codes, which are shown
    this once."""
    row = second_factors.second_factor(act.conn, act.identity.id)
    if row is None or row.since is not None:
        raise InTheWay("logging_in.no_factor_begun")
    if not use_code(act, act.identity.id, code):
        raise Invalid([FieldProblem("code", said("logging_in.not_shown_now"))])
    return _on(act, token)


def turn_factor_on(act: Act, token: str = "") -> list[str]:
    """Turn a second factor on that is shown by passkeys, without an authenticator; the same otherwise."""
    second_factors.begin_second_factor(act.conn, act.identity.id, act.vault.seal(""), act.now)
    return _on(act, token)


def _on(act: Act, token: str) -> list[str]:
    spare = [b32encode(secrets.token_bytes(15)).decode().lower() for _ in range(10)]
    second_factors.confirm_second_factor(act.conn, act.identity.id, act.now, [hashed(s) for s in spare])
    session_store.end_sessions(act.conn, act.identity.id, act.now, but=hashed(token))
    act.event("person.second-factor-on", [], {"handle": act.identity.handle})
    return ["-".join(s[n : n + 4] for n in range(0, len(s), 4)) for s in spare]


def is_by_passkeys_alone(view: View, actor: int) -> bool:
    """Whether a second factor is shown by passkeys, and by no authenticator."""
    row = second_factors.second_factor(view.conn, actor)
    return row is not None and row.since is not None and not view.vault.open(row.secret)


def require_own_password(view: View, password: str) -> None:
    """Refuse whoever does not know the password of whom they are logged in as."""
    _only_people(view)
    if check_password(view, view.identity.handle, password) is None:
        raise Invalid([FieldProblem("password", said("logging_in.not_yours"))])


def end_second_factor(act: Act, handle: str, password: str) -> None:
    """Turn a second factor off: one's own with the password, or for somebody who lost theirs by whoever sets up people."""
    actor = _whose(act, handle)
    if actor == act.identity.id:
        require_own_password(act, password)
    else:
        permission.require_no_more_than_own(act, actor)
        # What somebody lost, nobody else shall log in with.
        passkeys.end_all(act.conn, actor)
    turn_factor_off(act, actor)


def turn_factor_off(act: Act, actor: int) -> None:
    """The same, where whoever asks has shown that they may."""
    second_factors.end_second_factor(act.conn, actor)
    row = store.actor(act.conn, actor)
    assert row is not None
    act.event("person.second-factor-off", [], {"handle": row.handle})


def end_factor_of(act: Act, handle: str) -> None:
    """Turn off the second factor of somebody who lost it."""
    permission.require(act, "configure", Subject())
    end_second_factor(act, handle, "")


def require_code(act: Act, row: Actor, code: str) -> bool:
    """Whether a log-in may go on as far as the second factor goes; raises `CodeNeeded` when none was given."""
    if not needs_code(act, row.id):
        return True
    if not code.strip():
        raise CodeNeeded("logging_in.code_needed", passkey=passkeys.has(act.conn, row.id))
    return use_code(act, row.id, code)


def invite(act: Act, actor: int, base: str) -> str:
    """Invite somebody by mail to choose a password, in place of invitations before; returns the address, shown this once."""
    row = store.actor(act.conn, actor)
    assert row is not None
    token = secrets.token_urlsafe(32)
    store.add_invitation(act.conn, hashed(token), actor, act.identity.id, act.now, act.now + INVITATION_LASTS)
    address = f"{base.rstrip('/')}/invitation?token={token}"
    words = act.setup.words.to(row.language)
    facts = {"name": row.name, "by": act.identity.name, "handle": row.handle, "address": address}
    body = words.text(said("mails.invitation", **facts))
    seq = act.event("person.invited", [], {"handle": row.handle, "name": row.name})
    if row.email:
        subject = words.text(said("mails.invitation_subject"))
        payload = act.vault.seal(json.dumps({"subject": subject, "body": body}))
        outbox.put(act.conn, "mail", f"invitation-{seq}", seq, row.email, payload, act.now)
    return address


def invitation(view: View, token: str) -> Invited:
    """Whom an invitation is for; raises `NotFound` when it is used, over or was never given."""
    row = store.invitation(view.conn, hashed(token), view.now)
    if row is None:
        raise NotFound("logging_in.invitation_over")
    return row


def accept_invitation(
    act: Act, token: str, password: str, agent: str, lasts: Lasts = USUAL, source: str = ""
) -> str:
    """Choose a password by an invitation; returns the token of a session, or nothing when a code is needed to log in."""
    row = invitation(act, token)
    _require_strong(password, row)
    store.set_password(act.conn, row.id, password_hash(password))
    store.use_invitations(act.conn, row.id, act.now)
    session_store.end_sessions(act.conn, row.id, act.now)
    who = act.by(permission.identity_of(act.conn, row.id))
    who.event("person.joined", [], {"handle": row.handle})
    act.resume(who)
    return "" if needs_code(act, row.id) else log_in(act, row, agent, lasts, source, "invitation")


def waiting_invitations(conn: sqlite3.Connection, actors: Sequence[int], now: int) -> set[int]:
    """Of some people, those with an invitation that may still be used."""
    return {a for a in actors if store.has_invitation(conn, a, now)}
