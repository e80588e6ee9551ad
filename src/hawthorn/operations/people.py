"""Logging in and out, keys, roles and people."""

from __future__ import annotations

import hashlib
import json
import secrets
import sqlite3
from collections.abc import Mapping, Sequence
from typing import Any

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError

from hawthorn.core import access
from hawthorn.core.access import Identity, Subject
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound, NotLoggedIn, TooMany
from hawthorn.core.timeline import SECOND, iso, zone
from hawthorn.operations import permission
from hawthorn.operations.act import Act, View, setup_changed
from hawthorn.store import people as store
from hawthorn.store import previews

SESSION_LASTS = 14 * 86400 * SECOND
ATTEMPTS, WINDOW = 8, 300 * SECOND
_HASHER = PasswordHasher()
_NOBODY = _HASHER.hash("nobody has this password")


def hashed(token: str) -> str:
    """How a session token or key is kept; both are random, so a fast hash is enough."""
    return hashlib.sha256(token.encode()).hexdigest()


def password_hash(password: str) -> str:
    """A password as kept: Argon2id (RFC 9106)."""
    return _HASHER.hash(password)


def check_password(view: View, handle: str, password: str) -> sqlite3.Row | None:
    """The person whose handle and password these are. Takes as long for a name that is not there."""
    row = store.by_handle(view.conn, handle)
    try:
        _HASHER.verify(row["password"] if row is not None and row["password"] else _NOBODY, password)
    except (Argon2Error, InvalidHashError):
        return None
    return row if row is not None and row["password"] else None


def may_try(view: View, handle: str) -> None:
    """Refuse more log-in attempts than a person would make."""
    if store.attempts(view.conn, handle, view.now - WINDOW) >= ATTEMPTS:
        raise TooMany(
            f"There were {ATTEMPTS} failed log-ins for “{handle}” within five minutes.",
            remedy="Wait five minutes.",
        )


def log_in(act: Act, row: sqlite3.Row) -> str:
    """Open a session for somebody whose password was right; returns its token, which is kept only hashed."""
    token = secrets.token_urlsafe(32)
    store.open_session(act.conn, hashed(token), row["id"], act.now, act.now + SESSION_LASTS)
    who = act.by(permission.identity_of(act.conn, row["id"]))
    who.event("session.opened", [], {"handle": row["handle"]})
    act.resume(who)
    return token


def failed(act: Act, handle: str) -> None:
    """Note a failed log-in."""
    store.note_attempt(act.conn, handle, act.now, act.now - WINDOW)


def log_out(act: Act, token: str) -> None:
    """End a session, and the previews that were open in the console: their addresses lie in the browser's history."""
    store.end_session(act.conn, hashed(token), act.now)
    previews.end_panes(act.conn, act.identity.id, act.now)
    act.event("session.ended", [], {"handle": act.identity.handle})


def identify(conn: sqlite3.Connection, now: int, token: str) -> Identity:
    """Who a session token or key belongs to; raises `NotLoggedIn`."""
    digest = hashed(token)
    actor = store.session_actor(conn, digest, now)
    if actor is not None:
        return permission.identity_of(conn, actor)
    key = store.key(conn, digest)
    if key is None:
        raise NotLoggedIn(
            "The session has ended, or the key is not valid.", remedy="Log in again, or ask for a new key."
        )
    return permission.identity_of(conn, key["actor"], json.loads(key["stages"]))


def issue_key(act: Act, name: str, role: str, kind: str, stages: Sequence[str]) -> tuple[dict[str, Any], str]:
    """Issue a key to a program or assistant of its own; returns it and its secret, which is shown only once."""
    permission.require(act, "configure", Subject())
    problems: list[FieldProblem] = []
    if kind not in ("program", "assistant"):
        problems.append(FieldProblem("kind", "is program or assistant"))
    roles = {r["name"]: r for r in store.roles(act.conn)}
    if role not in roles:
        problems.append(FieldProblem("role", f"is none of {', '.join(roles)}"))
    for stage in stages:
        if stage not in act.setup.stages:
            problems.append(FieldProblem("stages", f"“{stage}” is none of {', '.join(act.setup.stages)}"))
    if not name.strip():
        problems.append(FieldProblem("name", "say what the key is for"))
    if problems:
        raise Invalid(problems)
    _may_give(act, json.loads(roles[role]["grants"]))
    secret = f"hw_{secrets.token_urlsafe(32)}"
    handle = f"{kind}-{secrets.token_hex(4)}"
    actor = store.add_actor(act.conn, kind, handle, name.strip(), "", "", "UTC", act.now)
    store.hold(act.conn, actor, role)
    id = store.add_key(act.conn, hashed(secret), secret[:9], name.strip(), actor, stages, act.now)
    act.event("key.issued", [], {"key": id, "name": name.strip(), "role": role, "stages": list(stages)})
    shown = next(k for k in keys(act) if k["id"] == id)
    return shown, secret


def _may_give(act: Act, grants: Sequence[Mapping[str, Any]]) -> None:
    """Nobody can give a right that they do not have."""
    for raw in grants:
        grant = access.grant_from_dict(raw)
        mine = [g for _, g in act.identity.grants if g.verb == grant.verb]
        wide = any(
            (not g.types or (set(grant.types) <= set(g.types) and grant.types))
            and (not g.locales or (set(grant.locales) <= set(g.locales) and grant.locales))
            and (not g.sections or (set(grant.sections) <= set(g.sections) and grant.sections))
            and (not g.own or grant.own)
            for g in mine
        )
        if not wide:
            raise permission.refusal(act, grant.verb, Subject())


def keys(view: View) -> list[dict[str, Any]]:
    """The keys there are, without their secrets."""
    permission.require(view, "configure", Subject())
    return [
        {
            "id": row["id"],
            "name": row["name"],
            "start": row["start"],
            "stages": json.loads(row["stages"]),
            "created_at": iso(row["created_at"]),
            "handle": row["handle"],
        }
        for row in store.keys(view.conn)
    ]


def end_key(act: Act, id: int) -> None:
    """End a key at once."""
    permission.require(act, "configure", Subject())
    if not store.end_key(act.conn, id, act.now):
        raise NotFound(f"There is no key {id}.", remedy="List the keys.")
    act.event("key.ended", [], {"key": id})


def people(view: View) -> list[dict[str, Any]]:
    """Everybody with their roles; who may see them is whoever is logged in."""
    return [
        {
            "handle": row["handle"],
            "name": row["name"],
            "kind": row["kind"],
            "roles": [
                {"name": h["role"], "label": h["label"], "locales": json.loads(h["locales"])}
                for h in store.holdings(view.conn, row["id"])
            ],
        }
        for row in store.all_actors(view.conn)
        if row["kind"] in ("person", "assistant")
    ]


def add_person(
    act: Act,
    handle: str,
    name: str,
    email: str,
    password: str,
    roles: Sequence[Mapping[str, Any]],
    zone_name: str = "UTC",
) -> int:
    """Add a person with roles, each perhaps only in certain locales."""
    if not handle.strip() or not name.strip():
        raise Invalid([FieldProblem("handle", "and name are both needed")])
    if len(password) < 8:
        raise Invalid([FieldProblem("password", "has fewer than eight characters")])
    zone(zone_name)
    if store.by_handle(act.conn, handle) is not None:
        raise InTheWay(
            f"There is already somebody called {handle}.", remedy="Choose another name to log in with."
        )
    known = {r["name"]: r for r in store.roles(act.conn)}
    for role in roles:
        if role["name"] not in known:
            raise Invalid([FieldProblem("roles", f"“{role['name']}” is none of {', '.join(known)}")])
    made = store.add_actor(
        act.conn, "person", handle, name, email, password_hash(password), zone_name, act.now
    )
    for role in roles:
        store.hold(act.conn, made, role["name"], role.get("locales", ()), role.get("sections", ()))
    act.event("person.added", [], {"handle": handle, "name": name, "roles": [r["name"] for r in roles]})
    return made


def define_role(act: Act, name: str, label: str, grants: Sequence[Mapping[str, Any]]) -> None:
    """Define a role as a list of grants."""
    for raw in grants:
        access.grant_from_dict(raw)
    store.set_role(act.conn, name, label, [dict(g) for g in grants])
    setup_changed(act)
    act.event("role.defined", [], {"role": name, "grants": list(grants)})
