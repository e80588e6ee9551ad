"""People, roles and keys: who holds which grants, and who may give them."""

from __future__ import annotations

import json
import re
import secrets
from collections.abc import Mapping, Sequence
from typing import Any, TypedDict

from hawthorn.core import access, limited, naming, passwords, timeline
from hawthorn.core.access import Grant, Subject
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import iso, zone
from hawthorn.operations.access import permission
from hawthorn.operations.access.logging_in import hashed, invite, password_hash, waiting_invitations
from hawthorn.operations.runtime.act import Act, View, setup_changed
from hawthorn.store import definitions, entries, provider, second_factors, sessions
from hawthorn.store import people as store
from hawthorn.store.people import Actor, Holding

_FASTEST = 1_000_000
_NAME = re.compile(r"[a-z][a-z0-9-]{0,39}")


def issue_key(
    act: Act,
    name: str,
    role: str,
    kind: str,
    stages: Sequence[str],
    expires: str = "",
    audiences: Sequence[str] = (),
    a_minute: int | None = None,
) -> tuple[KeyShown, str]:
    """Issue a key to a program or assistant of its own, until a day or instant or for good; returns it and its secret, which is
    shown only once. It reads what is limited to its audiences, and no more than so many times a minute."""
    permission.require(act, "configure", Subject())
    problems: list[FieldProblem] = []
    if kind not in ("program", "assistant"):
        problems.append(FieldProblem("kind", said("people.program_or_assistant")))
    roles = {r.name: r for r in store.roles(act.conn)}
    if role not in roles:
        problems.append(FieldProblem("role", said("common.none_of", known=list(roles))))
    for stage in stages:
        if stage not in act.setup.stages:
            problems.append(
                FieldProblem(
                    "stages", said("common.value_none_of", value=stage, known=list(act.setup.stages))
                )
            )
    name = naming.line("name", name)
    if not name:
        problems.append(FieldProblem("name", said("people.key_without_name")))
    ends = timeline.day_or_instant(expires) if expires else None
    if ends is not None and ends <= act.now:
        problems.append(FieldProblem("expires", said("people.past", now=iso(act.now))))
    if a_minute is not None and not 1 <= a_minute <= _FASTEST:
        problems.append(FieldProblem("a_minute", said("common.between", least=1, most=_FASTEST)))
    if problems:
        raise Invalid(problems)
    audiences = limited.audiences(audiences)
    permission.require_own(act, [access.grant_from_dict(g) for g in json.loads(roles[role].grants)])
    secret = f"hw_{secrets.token_urlsafe(32)}"
    handle = f"{kind}-{secrets.token_hex(4)}"
    actor = store.add_actor(act.conn, kind, handle, name.strip(), "", "", "UTC", act.now)
    store.hold(act.conn, actor, role)
    id = store.add_key(
        act.conn, hashed(secret), secret[:9], name.strip(), actor, stages, act.now, ends, audiences, a_minute
    )
    act.event(
        "key.issued",
        [],
        {
            "key": id,
            "name": name.strip(),
            "role": role,
            "stages": list(stages),
            "until": iso(ends) if ends else "",
            "audiences": list(audiences),
        },
    )
    shown = next(k for k in keys(act) if k.id == id)
    return shown, secret


@dataclass(frozen=True, slots=True)
class KeyShown:
    """A key without its secret."""

    id: int
    name: str
    start: str
    stages: list[str]
    created_at: str
    expires_at: str | None
    expired: bool
    handle: str
    kind: str
    roles: list[str]
    audiences: list[str]
    a_minute: int | None


def keys(view: View) -> list[KeyShown]:
    """The keys there are, without their secrets."""
    permission.require(view, "configure", Subject())
    return [
        KeyShown(
            id=row.id,
            name=row.name,
            start=row.start,
            stages=json.loads(row.stages),
            created_at=iso(row.created_at),
            expires_at=iso(row.expires_at) if row.expires_at is not None else None,
            expired=row.expires_at is not None and row.expires_at <= view.now,
            handle=row.handle,
            kind=row.kind,
            roles=[h.role for h in store.holdings(view.conn, row.actor)],
            audiences=json.loads(row.audiences),
            a_minute=row.a_minute,
        )
        for row in store.keys(view.conn)
    ]


def end_key(act: Act, id: int) -> None:
    """End a key at once."""
    permission.require(act, "configure", Subject())
    if not store.end_key(act.conn, id, act.now):
        raise NotFound("people.no_key", id=id)
    act.event("key.ended", [], {"key": id})


class RoleHeld(TypedDict):
    """A role as somebody holds it: in all locales and sections where none is named."""

    name: str
    label: str
    locales: list[str]
    sections: list[str]


class PersonShown(TypedDict):
    """Somebody with their roles; how to reach them, and how they log in, are empty for whoever does not set up people."""

    handle: str
    name: str
    kind: str
    roles: list[RoleHeld]
    email: str
    zone: str
    state: str
    connected: bool
    second_factor: bool


def people(view: View) -> list[PersonShown]:
    """Everybody with their roles, for whoever is logged in; how to reach them and how they log in for who sets up people."""
    rows = [row for row in store.all_actors(view.conn) if row.kind in ("person", "assistant")]
    setter = permission.may(view, "configure", Subject())
    ids = [r.id for r in rows]
    invited = waiting_invitations(view.conn, ids, view.now) if setter else set()
    connected = provider.connected(view.conn, ids) if setter else set()
    return [
        {
            "handle": row.handle,
            "name": row.name,
            "kind": row.kind,
            "roles": [
                {
                    "name": h.role,
                    "label": h.label,
                    "locales": json.loads(h.locales),
                    "sections": _sections_out(view, json.loads(h.sections)),
                }
                for h in store.holdings(view.conn, row.id)
            ],
            "email": row.email if setter else "",
            "zone": row.zone,
            "state": ("invited" if row.id in invited else "cannot log in")
            if setter and row.kind == "person" and not row.password and row.id not in connected
            else "",
            "connected": row.id in connected,
            "second_factor": setter and second_factors.has_second_factor(view.conn, row.id),
        }
        for row in rows
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
    """Add a person with roles, each perhaps only in certain locales or sections; without a password they cannot log in yet."""
    problems: list[FieldProblem] = []
    if not handle.strip() or not name.strip():
        raise Invalid([FieldProblem("handle", said("people.both_needed"))])
    handle, name = naming.handle("handle", handle), naming.line("name", name)
    email = naming.line("email", email)
    if email and not naming.is_mail_address(email):
        problems.append(FieldProblem("email", said("people.no_mail_address", email=email)))
    weak = passwords.weak(password, (handle, name, email)) if password else None
    if weak is not None:
        problems.append(FieldProblem("password", weak))
    if problems:
        raise Invalid(problems)
    zone(zone_name)
    if store.handle_was_used(act.conn, handle) or (email and store.by_handle(act.conn, email) is not None):
        raise InTheWay("people.taken", handle=handle)
    made = store.add_actor(
        act.conn,
        "person",
        handle,
        name,
        email,
        password_hash(password) if password else "",
        zone_name,
        act.now,
    )
    _hold(act, made, roles)
    act.event("person.added", [], {"handle": handle, "name": name, "roles": [dict(r) for r in roles]})
    return made


def invite_person(
    act: Act,
    handle: str,
    name: str,
    email: str,
    roles: Sequence[Mapping[str, Any]],
    zone_name: str,
    base: str,
) -> str:
    """Add a person and invite them by mail to choose a password; returns the address of the invitation, shown this once."""
    permission.require(act, "configure", Subject())
    if not email.strip():
        raise Invalid([FieldProblem("email", said("people.invitation_address"))])
    permission.require_own(act, [g for r in roles for g in _grants_of(act, r)])
    return invite(act, add_person(act, handle, name, email.strip(), "", roles, zone_name), base)


def invite_again(act: Act, handle: str, base: str) -> str:
    """Invite somebody again, also one who forgot the password; nobody can so become somebody with more rights."""
    permission.require(act, "configure", Subject())
    row = _person(act, handle)
    permission.require_no_more_than_own(act, row.id)
    return invite(act, row.id, base)


def set_holdings(act: Act, handle: str, roles: Sequence[Mapping[str, Any]]) -> None:
    """Give somebody these roles in place of those before; nobody gives what they do not have."""
    permission.require(act, "configure", Subject())
    row = _person(act, handle)
    before = permission.identity_of(act.conn, row.id)
    had = [g for _, g in before.grants]
    given = [g for r in roles for g in _grants_of(act, r)]
    # Nobody takes what they do not have, either.
    permission.require_own(act, [*(g for g in given if g not in had), *(g for g in had if g not in given)])
    store.drop_holdings(act.conn, row.id)
    _hold(act, row.id, roles)
    _require_a_setter(act)
    act.event(
        "person.roles-changed", [], {"handle": handle, "name": row.name, "roles": [dict(r) for r in roles]}
    )


def held(holding: Holding) -> dict[str, Any]:
    """A role as somebody holds it, as it is given."""
    return {
        "name": holding.role,
        "locales": json.loads(holding.locales),
        "sections": json.loads(holding.sections),
    }


def follow_roles(act: Act, row: Actor, roles: Sequence[Mapping[str, Any]]) -> None:
    """Give somebody the roles that follow from what the identity provider says of them, in place of those before."""
    store.drop_holdings(act.conn, row.id)
    _hold(act, row.id, roles)
    _require_a_setter(act)
    who = act.by(permission.identity_of(act.conn, row.id))
    shown = [{**role, "sections": _sections_out(act, role["sections"])} for role in roles]
    who.event("person.roles-followed", [], {"handle": row.handle, "name": row.name, "roles": shown})
    act.resume(who)


def end_person(act: Act, handle: str) -> None:
    """Let somebody go: they cannot log in any more; what they did stays under their name."""
    permission.require(act, "configure", Subject())
    row = _person(act, handle)
    permission.require_no_more_than_own(act, row.id)
    let_go(act, row)


def let_go(act: Act, row: Actor) -> None:
    """The same, where whoever asks has shown that they may. Raises `InTheWay` where nobody would be left who can set up."""
    store.end_actor(act.conn, row.id, act.now)
    sessions.end_sessions(act.conn, row.id, act.now)
    _require_a_setter(act)
    act.event("person.left", [], {"handle": row.handle, "name": row.name})


def set_profile(act: Act, name: str, zone_name: str, language: str | None = None) -> None:
    """Change one's own name, time zone, and the language in which one is spoken to: empty for that of the house, None to leave it."""
    name = naming.line("name", name)
    if not name:
        raise Invalid([FieldProblem("name", said("common.missing"))])
    zone(zone_name)
    before = store.actor(act.conn, act.identity.id)
    assert before is not None
    spoken = before.language if language is None else language
    known = act.setup.words.languages
    if spoken and spoken not in known:
        raise Invalid([FieldProblem("language", said("common.none_of", known=list(known)))])
    store.set_profile(act.conn, act.identity.id, name.strip(), zone_name, spoken)
    changed = {"handle": act.identity.handle, "name": name.strip(), "zone": zone_name, "language": spoken}
    act.event("person.changed", [], changed)


@dataclass(frozen=True, slots=True)
class RoleShown:
    """A role as a list of grants."""

    name: str
    label: str
    grants: list[dict[str, Any]]
    people: int


def roles(view: View) -> list[RoleShown]:
    """The roles with their grants, and how many hold each."""
    held = store.holders_of_roles(view.conn)
    return [
        RoleShown(
            name=row.name,
            label=row.label,
            grants=[_grant_out(view, g) for g in json.loads(row.grants)],
            people=held.get(row.name, 0),
        )
        for row in store.roles(view.conn)
    ]


def define_role(act: Act, name: str, label: str, grants: Sequence[Mapping[str, Any]]) -> None:
    """Define a role as a list of grants, or define it anew for all who hold it; nobody gives what they do not have."""
    permission.require(act, "configure", Subject())
    if not _NAME.fullmatch(name):
        raise Invalid([FieldProblem("name", said("people.role_name"))])
    kept = [_grant_in(act, g) for g in grants]
    made = [access.grant_from_dict(g) for g in kept]
    before = next((r for r in store.roles(act.conn) if r.name == name), None)
    had = [access.grant_from_dict(g) for g in json.loads(before.grants)] if before is not None else []
    permission.require_own(act, [*(g for g in made if g not in had), *(g for g in had if g not in made)])
    store.set_role(act.conn, name, naming.line("label", label) or name, kept)
    _require_a_setter(act)
    setup_changed(act)
    act.event("role.defined", [], {"role": name, "label": label, "grants": [dict(g) for g in grants]})


def why(view: View, handle: str, verb: str, **about: str | None) -> permission.Why:
    """Whether somebody may do something, and which grant says so or is missing (see `permission.why`)."""
    if verb not in access.VERBS:
        raise Invalid("people.no_verb", verb=verb, known=list(access.VERBS))
    return permission.why(view, handle, verb, **about)


def define_roles(act: Act, given: Sequence[Mapping[str, Any]]) -> list[str]:
    """Define roles from a file: those that differ; the others stay as they are. Returns the names of those."""
    permission.require(act, "configure", Subject())
    have = {role.name: role for role in roles(act)}
    changed = [
        r
        for r in given
        if r["name"] not in have
        or r["label"] != have[r["name"]].label
        or [_grant_in(act, g) for g in r["grants"]] != [_grant_in(act, g) for g in have[r["name"]].grants]
    ]
    for role in changed:
        define_role(act, role["name"], role["label"], role["grants"])
    return [r["name"] for r in changed]


def end_role(act: Act, name: str) -> None:
    """End a role that nobody holds."""
    permission.require(act, "configure", Subject())
    if name not in {r.name for r in store.roles(act.conn)}:
        raise NotFound("people.no_role", name=name)
    held = store.holders_of_roles(act.conn).get(name, 0)
    if held:
        raise InTheWay("people.role_held", count=held)
    named = [
        w.label
        for w in act.setup.workflows.values()
        for s in w.stages
        if name in s.gate.roles or name in s.gate.override_roles
    ]
    if named:
        raise InTheWay("people.role_at_gate", workflow=named[0])
    store.end_role(act.conn, name)
    act.event("role.ended", [], {"role": name})


def _require_a_setter(act: Act) -> None:
    """Somebody who can log in must be able to set everything up, or nobody could ever mend it."""
    for row in permission.people_who(act, "configure", Subject()):
        who = permission.identity_of(act.conn, row.id)
        whole = any(g == Grant("configure") for _, g in who.grants)
        account = store.actor(act.conn, row.id)
        if whole and account is not None and account.password:
            return
    raise InTheWay("people.nobody_left")


def _hold(act: Act, actor: int, roles: Sequence[Mapping[str, Any]]) -> None:
    known = {r.name for r in store.roles(act.conn)}
    for role in roles:
        if role["name"] not in known:
            raise Invalid(
                [FieldProblem("roles", said("common.value_none_of", value=role["name"], known=sorted(known)))]
            )
        locales = _locales_in(act, role)
        store.hold(act.conn, actor, role["name"], locales, _sections_in(act, role.get("sections", ())))


def _grants_of(view: View, role: Mapping[str, Any]) -> list[Grant]:
    """The grants that a role gives within locales and sections."""
    row = next((r for r in store.roles(view.conn) if r.name == role["name"]), None)
    if row is None:
        raise Invalid([FieldProblem("roles", said("people.not_a_role", name=role["name"]))])
    within = _locales_in(view, role), _sections_in(view, role.get("sections", ()))
    made = (access.narrowed(access.grant_from_dict(g), *within) for g in json.loads(row.grants))
    return [g for g in made if g is not None]


def _locales_in(view: View, role: Mapping[str, Any]) -> list[str]:
    """The locales of a role that somebody holds: rights in one that has ended rest until it is back."""
    ever = definitions.ended_locales(view.conn)
    return [tag if tag in ever else view.setup.locale(tag) for tag in role.get("locales", ())]


def _sections_in(view: View, uuids: Sequence[Any]) -> list[int]:
    out: list[int] = []
    for uuid in uuids:
        row = entries.even_removed(view.conn, str(uuid)) if not isinstance(uuid, int) else None
        if isinstance(uuid, int):
            out.append(uuid)
        elif row is None:
            raise Invalid([FieldProblem("sections", said("people.no_section", id=uuid))])
        else:
            out.append(row.id)
    return out


def _sections_out(view: View, ids: Sequence[int]) -> list[str]:
    return [entries.entry_by_id(view.conn, id).uuid for id in ids]


def _grant_in(view: View, raw: Mapping[str, Any]) -> dict[str, Any]:
    """A grant as kept: sections by number, empty sides left out."""
    made = {**raw, "sections": _sections_in(view, raw.get("sections", ()))}
    grant = access.grant_from_dict(made)
    problems = [
        FieldProblem(f"grants.{side}", said("people.whole_house", verb=access.verb_of(grant.verb)))
        for side in (access.limits(grant) if grant.verb in access.WHOLE else ())
    ]
    problems += [
        FieldProblem(f"grants.{side}", said("common.value_none_of", value=value, known=list(known)))
        for side, known in (
            ("types", view.setup.types),
            ("locales", {*view.setup.locales, *definitions.ended_locales(view.conn)}),
            ("stages", view.setup.stages),
        )
        for value in raw.get(side, ())
        if value not in known
    ]
    if problems:
        raise Invalid(problems)
    return {k: v for k, v in made.items() if v not in ([], (), False)}


def _grant_out(view: View, raw: Mapping[str, Any]) -> dict[str, Any]:
    return {**raw, "sections": _sections_out(view, raw.get("sections", ()))}


def _person(view: View, handle: str) -> Actor:
    row = store.by_handle(view.conn, handle)
    if row is None or row.kind not in ("person", "assistant"):
        raise NotFound("common.nobody", handle=handle)
    return row
