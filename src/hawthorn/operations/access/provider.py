"""Logging in through an identity provider: who it is that comes back from there, what roles they have by its word, and when it ends."""

from __future__ import annotations

import secrets

from hawthorn.core import naming
from hawthorn.core import provider as core
from hawthorn.core.access import Subject
from hawthorn.core.errors import InTheWay, NotFound, NotLoggedIn, ProviderFails, Refused
from hawthorn.core.messages import said
from hawthorn.core.provider import Claims, Rules
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND
from hawthorn.operations.access import logging_in, people, permission
from hawthorn.operations.access.logging_in import USUAL, Lasts, hashed
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import people as accounts
from hawthorn.store import previews, sessions
from hawthorn.store import provider as store
from hawthorn.store.people import Actor
from hawthorn.store.provider import Begun
from hawthorn.store.vault import Vault

LASTS = 600 * SECOND
"""So long somebody may take at the provider."""
WORD_LASTS = 3600 * SECOND
"""So long what ends a session is remembered, so that it is not taken twice."""


@dataclass(frozen=True, slots=True)
class Leaving:
    """A log-in that leads to the provider: `state` and `nonce` are what has to come back, `browser` is kept by the browser that left, and `verifier`
    proves that the code is exchanged by whoever asked for it (RFC 7636)."""

    state: str
    nonce: str
    verifier: str
    browser: str


@dataclass(frozen=True, slots=True)
class Arrived:
    """Who came back, and the token of their session; none where no role lets them in."""

    person: Actor
    token: str


def begin(act: Act) -> Leaving:
    """Begin a log-in that leads to the provider."""
    leaving = Leaving(*(secrets.token_urlsafe(32) for _ in range(4)))
    verifier = act.vault.seal(leaving.verifier)
    store.begin(
        act.conn,
        hashed(leaving.state),
        hashed(leaving.browser),
        leaving.nonce,
        verifier,
        act.now,
        act.now - LASTS,
    )
    return leaving


def take(act: Act, state: str) -> Begun | None:
    """The log-in that somebody comes back from, which is used up by that, whatever becomes of it."""
    return store.take(act.conn, hashed(state), act.now - LASTS)


def returned(vault: Vault, begun: Begun | None, state: str, browser: str) -> Leaving:
    """What was sent along with it. Raises `InTheWay` where it came back before, took too long, or was begun by another browser."""
    if begun is None:
        raise InTheWay("provider.used_or_over", minutes=LASTS // (60 * SECOND))
    if not secrets.compare_digest(begun.browser_hash, hashed(browser)):
        # Somebody is sent here with the log-in of another, to work under a name that is not theirs (RFC 9700, section 4.7).
        raise InTheWay("provider.another_browser")
    return Leaving(state, begun.nonce, vault.open(begun.verifier), browser)


def arrive(
    act: Act, claims: Claims, rules: Rules, agent: str = "", lasts: Lasts = USUAL, source: str = ""
) -> Arrived:
    """Let in whoever the provider vouches for, with the roles that it gives; nobody's session is opened where none does.

    Raises `Refused` for somebody who is not known here and may not be made, and `Invalid` for a name that cannot be one.
    """
    row = _known(act, claims, rules) or _made(act, claims, rules)
    follow_roles(act, row, claims, rules)
    if not accounts.holdings(act.conn, row.id):
        for token_hash, _ in store.sessions(act.conn, claims.issuer, claims.subject, "", act.now):
            sessions.end_session(act.conn, token_hash, act.now)
        return Arrived(row, "")
    token = logging_in.log_in(act, row, agent, lasts, source, "provider")
    store.note_session(act.conn, hashed(token), claims.issuer, claims.subject, claims.session)
    return Arrived(row, token)


def no_role(view: View, person: Actor) -> Refused:
    """What somebody is told whom no role lets in."""
    return Refused("provider.no_role", name=person.name, missing=said("provider.a_role"), who=_setters(view))


def end(act: Act, issuer: str, subject: str, session: str, word: str) -> int:
    """End sessions at the provider's word: those of one of its own, or all of somebody; returns how many. The same word is taken once.

    (OpenID Connect Back-Channel Logout 1.0, section 2.5.)
    """
    if not store.is_new(act.conn, hashed(word), act.now, act.now - WORD_LASTS):
        raise NotLoggedIn("provider.said_before")
    found = store.sessions(act.conn, issuer, subject, session, act.now)
    for token_hash, actor in found:
        sessions.end_session(act.conn, token_hash, act.now)
        previews.end_panes(act.conn, actor, act.now)
        who = act.by(permission.identity_of(act.conn, actor))
        who.event("session.ended", [], {"handle": who.identity.handle, "by": "provider"})
        act.resume(who)
    return len(found)


def disconnect(act: Act, handle: str) -> None:
    """Let nobody log in as somebody through the provider any more, and end the sessions there are; whoever sets up people does it."""
    permission.require(act, "configure", Subject())
    row = accounts.by_handle(act.conn, handle)
    if row is None or not store.disconnect(act.conn, row.id):
        raise NotFound("provider.not_connected", handle=handle)
    permission.require_no_more_than_own(act, row.id)
    sessions.end_sessions(act.conn, row.id, act.now)
    act.event("person.disconnected", [], {"handle": row.handle, "name": row.name})


def _known(act: Act, claims: Claims, rules: Rules) -> Actor | None:
    """Who it is, of those who are here; whoever is known by a verified address for the first time is so for good from then on."""
    actor = store.actor_of(act.conn, claims.issuer, claims.subject)
    if actor is not None:
        row = accounts.actor(act.conn, actor)
        if row is None:
            raise Refused(
                "provider.left", missing=said("provider.an_account"), who=_setters(act), name=claims.name[:80]
            )
        return row
    if not (rules.joins and claims.email_verified and claims.email):
        return None
    row = accounts.by_address(act.conn, claims.email)
    if row is not None:
        _connect(act, row, claims)
    return row


def _made(act: Act, claims: Claims, rules: Rules) -> Actor:
    """Somebody new, where the provider may make people and gives this one a role."""
    roles = _given(act, claims, rules)
    if not rules.makes or not roles:
        raise Refused(
            "provider.unknown", missing=said("provider.an_account"), who=_setters(act), name=claims.name[:80]
        )
    name = naming.line("name", claims.name or claims.username or claims.email)
    held = [{"name": role, "locales": locales} for role, locales in roles.items()]
    email = claims.email if claims.email_verified else ""
    if email and accounts.by_handle(act.conn, email) is not None:
        email = ""
    made = people.add_person(act, free_handle(act, claims), name, email, "", held)
    row = accounts.actor(act.conn, made)
    assert row is not None
    _connect(act, row, claims)
    return row


def _given(view: View, claims: Claims, rules: Rules) -> dict[str, list[str]]:
    """The roles that somebody's groups give, with their locales. Raises `ProviderFails` where the settings name what is not here."""
    given = core.roles_of(claims.groups, rules)
    known = {role.name for role in accounts.roles(view.conn)}
    named = {tag for locales in given.values() for tag in locales}
    strange = sorted(set(given) - known) + sorted(named - set(view.setup.locales))
    if strange:
        raise ProviderFails("provider.rules_wrong", what=strange)
    return given


def free_handle(view: View, claims: Claims) -> str:
    """A handle that nobody has or had."""
    wanted = core.handle_from(claims)
    if len(wanted) < 2:
        wanted = f"person-{hashed(claims.subject)[:6]}"
    tried, count = wanted, 1
    while accounts.handle_was_used(view.conn, tried):
        count += 1
        tried = f"{wanted}-{count}"
    return tried


def _connect(act: Act, row: Actor, claims: Claims) -> None:
    store.connect(act.conn, claims.issuer, claims.subject, row.id, act.now)
    who = act.by(permission.identity_of(act.conn, row.id))
    who.event("person.connected", [], {"handle": row.handle, "name": row.name, "issuer": claims.issuer})
    act.resume(who)


def follow_roles(act: Act, row: Actor, claims: Claims, rules: Rules) -> None:
    """Give and take the roles that the provider gives and takes. One who holds such a role keeps the sections it was narrowed to here."""
    governed = core.governed(rules)
    if not governed:
        return
    given = _given(act, claims, rules)
    held = {h.role: h for h in accounts.holdings(act.conn, row.id)}
    wanted: list[dict[str, object]] = []
    changed = False
    for role, holding in held.items():
        if role in governed and role not in given:
            changed = True
            continue
        before = people.held(holding)
        if role in given and set(before["locales"]) != set(given[role]):
            before["locales"] = given[role]
            changed = True
        wanted.append(before)
    for role in sorted(set(given) - set(held)):
        wanted.append({"name": role, "locales": given[role], "sections": []})
        changed = True
    if changed:
        people.follow_roles(act, row, wanted)


def _setters(view: View) -> list[str]:
    return [who.name for who in permission.people_who(view, "configure", Subject())]
