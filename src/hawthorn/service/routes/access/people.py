"""People, roles and keys, and one's own account."""

from __future__ import annotations

import io
from typing import Annotated, Any, Literal

from fastapi import Query, Request, Response

from hawthorn import wire
from hawthorn.core import access, numbers
from hawthorn.operations.access import logging_in, people
from hawthorn.operations.content import first_run
from hawthorn.operations.runtime import bootstrap
from hawthorn.operations.runtime.act import SCHEDULER_SELF, Act, View
from hawthorn.operations.views import log_ins
from hawthorn.service.context import (
    NOBODY,
    Answer,
    AtDesk,
    Who,
    check_origin,
    confirmed,
    lasts_of,
    settings_of,
    source_of,
    token_of,
)
from hawthorn.service.paging import Paged, Since, Until
from hawthorn.service.routes.access.sessions import opened
from hawthorn.service.routing import REFUSALS, area
from hawthorn.store import people as store
from hawthorn.store import second_factors

router = area("/api", "people")
_HOUSE = "Hawthorn"


@router.get("/people", response_model=wire.access.People, operation_id="people")
def everybody(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """Everybody who works here, by name, with their roles."""
    return paged.of(desk.read(me, people.people), lambda one: one["handle"])


@router.post(
    "/people",
    status_code=201,
    response_model=wire.access.Invited,
    operation_id="invite_person",
    responses=REFUSALS,
)
def invite(body: wire.access.InviteAsk, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Add a person with roles and invite them by mail to choose a password."""

    def do(act: Act) -> Answer:
        roles = [r.model_dump() for r in body.roles]
        address = people.invite_person(
            act, body.handle, body.name, body.email, roles, body.zone, _base(request)
        )
        return {"address": address}

    return desk.write(me, do)


@router.post(
    "/people/{handle}/invitation",
    response_model=wire.access.Invited,
    operation_id="invite_again",
    responses=REFUSALS,
)
def invite_again(handle: str, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Invite somebody again to choose a password, also one who forgot it."""
    return desk.write(me, lambda act: {"address": people.invite_again(act, handle, _base(request))})


@router.put(
    "/people/{handle}/roles",
    response_model=wire.access.People,
    operation_id="set_roles_of",
    responses=REFUSALS,
)
def set_roles_of(handle: str, body: wire.access.Holdings, me: Who, desk: AtDesk) -> Answer:
    """Give somebody these roles in place of those before. Nobody gives what they do not have."""

    def do(act: Act) -> Answer:
        people.set_holdings(act, handle, [r.model_dump() for r in body.roles])
        return {"items": [p for p in people.people(act) if p["handle"] == handle]}

    return desk.write(me, do)


@router.delete("/people/{handle}", status_code=204, operation_id="end_person", responses=REFUSALS)
def end_person(handle: str, me: Who, desk: AtDesk) -> None:
    """Let somebody go; what they did stays under their name."""
    desk.write(me, lambda act: people.end_person(act, handle))


@router.delete(
    "/people/{handle}/second-factor", status_code=204, operation_id="end_factor_of", responses=REFUSALS
)
def end_factor_of(handle: str, me: Who, desk: AtDesk) -> None:
    """Turn off the second factor of somebody who lost it."""
    desk.write(me, lambda act: logging_in.end_factor_of(act, handle))


@router.get(
    "/people/{handle}/sessions",
    response_model=wire.access.Sessions,
    operation_id="sessions_of",
    responses=REFUSALS,
)
def sessions_of(handle: str, me: Who, desk: AtDesk, request: Request, paged: Paged) -> Answer:
    """The open sessions of somebody."""
    token, _ = token_of(request)
    return paged.of(desk.read(me, lambda view: logging_in.sessions(view, token, handle)), lambda one: one.id)


@router.get("/roles", response_model=wire.access.Roles, operation_id="list_roles")
def roles(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The roles with their grants, and the verbs that grants give."""
    verbs = [{"verb": v, "label": desk.words.text(access.verb_of(v))} for v in access.VERBS]
    return paged.of(desk.read(me, people.roles), lambda one: one.name, verbs=verbs)


@router.put(
    "/roles", response_model=wire.access.RolesDefined, operation_id="define_roles", responses=REFUSALS
)
def define_roles(body: wire.access.RolesAsk, me: Who, desk: AtDesk) -> Answer:
    """Define roles, all or none; those that are not named stay as they are."""
    given = [r.model_dump() for r in body.items]
    return {"changed": desk.write(me, lambda act: people.define_roles(act, given))}


@router.delete("/roles/{name}", status_code=204, operation_id="end_role", responses=REFUSALS)
def end_role(name: str, me: Who, desk: AtDesk) -> None:
    """End a role that nobody holds."""
    desk.write(me, lambda act: people.end_role(act, name))


@router.get("/why", response_model=wire.access.Why, operation_id="why")
def why(
    me: Who,
    desk: AtDesk,
    person: str,
    verb: str,
    type: str | None = None,
    locale: str | None = None,
    entry: str | None = None,
    stage: str | None = None,
) -> Answer:
    """Whether somebody may do something, and which grant says so or is missing."""
    about = {"type": type, "locale": locale, "entry": entry, "stage": stage}
    return desk.read(me, lambda view: people.why(view, person, verb, **about))


@router.get("/keys", response_model=wire.access.Keys, operation_id="list_keys", responses=REFUSALS)
def keys(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """The keys there are, without their secrets."""
    return paged.of(desk.read(me, people.keys), lambda one: one.id)


@router.post(
    "/keys",
    status_code=201,
    response_model=wire.access.KeyIssued,
    operation_id="issue_key",
    responses=REFUSALS,
)
def issue_key(body: wire.access.KeyAsk, me: Who, desk: AtDesk) -> Answer:
    """Issue a key; its secret is shown this once."""

    def do(act: Act) -> Answer:
        key, secret = people.issue_key(
            act, body.name, body.role, body.kind, body.stages, body.expires, body.audiences, body.a_minute
        )
        return {"key": key, "secret": secret}

    return desk.write(me, do)


@router.delete("/keys/{id}", status_code=204, operation_id="end_key", responses=REFUSALS)
def end_key(id: int, me: Who, desk: AtDesk) -> None:
    """End a key at once."""
    desk.write(me, lambda act: people.end_key(act, id))


@router.get("/account", response_model=wire.access.Account, operation_id="account")
def account(me: Who, desk: AtDesk) -> Answer:
    """One's own account."""
    return desk.read(me, _account)


def _account(view: View) -> dict[str, Any]:
    row = store.actor(view.conn, view.identity.id)
    assert row is not None
    factor = second_factors.has_second_factor(view.conn, row.id)
    return {
        "handle": row.handle,
        "name": row.name,
        "email": row.email,
        "zone": row.zone,
        "language": row.language,
        "second_factor": factor,
    }


@router.put("/account", response_model=wire.access.Account, operation_id="set_profile", responses=REFUSALS)
def set_profile(body: wire.access.Profile, me: Who, desk: AtDesk) -> Answer:
    """Change one's own name, time zone and language."""

    def do(act: Act) -> Answer:
        people.set_profile(act, body.name, body.zone, body.language)
        return _account(act)

    return desk.write(me, do)


@router.post("/account/password", status_code=204, operation_id="change_password", responses=REFUSALS)
def change_password(body: wire.access.PasswordChange, me: Who, desk: AtDesk, request: Request) -> None:
    """Change one's own password; one's other sessions end."""
    token, _ = token_of(request)

    def do(act: Act) -> None:
        logging_in.change_password(act, token, body.before, body.after)

    confirmed(desk, request, me, do)


@router.post(
    "/account/second-factor",
    response_model=wire.access.SecondFactor,
    operation_id="begin_second_factor",
    responses=REFUSALS,
)
def begin_second_factor(body: wire.access.Password, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Begin to set up a second factor (TOTP, RFC 6238), with the password; it is not asked for until it is confirmed."""
    import segno

    made = confirmed(
        desk, request, me, lambda act: logging_in.begin_second_factor(act, _HOUSE, body.password)
    )
    drawn = io.BytesIO()
    segno.make(made["uri"], error="m").save(drawn, kind="svg", border=2, scale=4, xmldecl=False, svgns=True)
    return {**made, "picture": drawn.getvalue().decode()}


@router.post(
    "/account/second-factor/confirm",
    response_model=wire.access.SpareCodes,
    operation_id="confirm_second_factor",
    responses=REFUSALS,
)
def confirm_second_factor(body: wire.access.Code, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Turn the second factor on with its first code; one's other sessions end. Answers with spare codes."""
    token, _ = token_of(request)

    def do(act: Act) -> Answer:
        return {"codes": logging_in.confirm_second_factor(act, body.code, token)}

    return confirmed(desk, request, me, do)


@router.post(
    "/account/second-factor/end", status_code=204, operation_id="end_second_factor", responses=REFUSALS
)
def end_second_factor(body: wire.access.Password, me: Who, desk: AtDesk, request: Request) -> None:
    """Turn one's own second factor off, with the password."""

    def do(act: Act) -> None:
        logging_in.end_second_factor(act, "", body.password)

    confirmed(desk, request, me, do)


@router.get("/account/sessions", response_model=wire.access.Sessions, operation_id="list_sessions")
def sessions(me: Who, desk: AtDesk, request: Request, paged: Paged) -> Answer:
    """One's own open sessions."""
    token, _ = token_of(request)
    return paged.of(desk.read(me, lambda view: logging_in.sessions(view, token)), lambda one: one.id)


@router.delete("/account/sessions/{id}", status_code=204, operation_id="end_session", responses=REFUSALS)
def end_session(id: str, me: Who, desk: AtDesk) -> None:
    """End a session: one's own, or anybody's for whoever sets up people."""
    desk.write(me, lambda act: logging_in.end_session(act, id))


@router.post(
    "/invitation",
    response_model=wire.access.Invitation,
    operation_id="look_at_invitation",
    responses=REFUSALS,
)
def look_at_invitation(body: wire.access.Token, desk: AtDesk) -> Answer:
    """Whom an invitation is for; it needs no log-in."""
    row = desk.read(NOBODY, lambda view: logging_in.invitation(view, body.token))
    return {"handle": row.handle, "name": row.name, "by": row.by_name}


@router.get("/log-ins", response_model=wire.access.LogIns, operation_id="log_ins", responses=REFUSALS)
def show_log_ins(
    me: Who,
    desk: AtDesk,
    paged: Paged,
    person: Annotated[
        str,
        Query(
            max_length=80, description="Only of this person (a handle), or with this name that is nobody's."
        ),
    ] = "",
    what: Annotated[
        Literal["", "opened", "refused", "ended", "changed"],
        Query(
            description="Only those who came in, were refused, or left; or what changed about how somebody gets in."
        ),
    ] = "",
    since: Since = "",
    until: Until = "",
) -> Answer:
    """Who came in, from where and by which means, who was refused and why, newest first; for whoever sets up people."""

    def look(view: View) -> Answer:
        wanted = log_ins.Wanted(person, what, since, until)
        return paged.answer(*log_ins.page(view, wanted, numbers.cursor(paged.cursor), paged.limit))

    return desk.read(me, look)


@router.post(
    "/invitation/accept",
    response_model=wire.access.Session,
    operation_id="accept_invitation",
    responses=REFUSALS,
)
def accept_invitation(body: wire.access.Join, request: Request, response: Response, desk: AtDesk) -> Answer:
    """Choose a password by an invitation and log in; it needs no log-in."""
    check_origin(request)
    agent = request.headers.get("user-agent", "")
    row = desk.read(NOBODY, lambda view: logging_in.invitation(view, body.token))
    token = desk.write(
        SCHEDULER_SELF,
        lambda act: logging_in.accept_invitation(
            act, body.token, body.password, agent, lasts_of(request), source_of(request)
        ),
    )
    return opened(request, response, desk, row.id, token)


@router.post(
    "/first-run", response_model=wire.access.FirstRun, operation_id="look_at_first_run", responses=REFUSALS
)
def look_at_first_run(body: wire.access.Token, desk: AtDesk) -> Answer:
    """What a new house offers to begin with, by the address that was printed when the service started; it needs no log-in."""
    desk.read(NOBODY, lambda view: first_run.require(view, body.token))
    kinds = [
        {"id": name, "type": name, "title": kind["label"]} for name, kind in bootstrap.FIRST_TYPES.items()
    ]
    return {"types": kinds}


@router.post(
    "/first-run/take",
    response_model=wire.access.Session,
    operation_id="make_first_person",
    responses=REFUSALS,
)
def make_first_person(
    body: wire.access.FirstPerson, request: Request, response: Response, desk: AtDesk
) -> Answer:
    """Make the first person, who may do everything, with the languages and a first type, and log in; it needs no log-in."""
    check_origin(request)
    desk.read(NOBODY, lambda view: first_run.require(view, body.token))
    person = {
        "handle": body.handle,
        "name": body.name,
        "email": body.email,
        "password": body.password,
        "zone": body.zone,
    }
    made, token = desk.write(
        SCHEDULER_SELF,
        lambda act: first_run.take(
            act,
            body.token,
            person,
            [one.model_dump() for one in body.locales],
            body.type,
            request.headers.get("user-agent", ""),
            lasts_of(request),
        ),
    )
    return opened(request, response, desk, made, token)


def _base(request: Request) -> str:
    """The address of the console, for a link in a mail: as it is set up, whatever the request says of its host."""
    settings = settings_of(request)
    return settings.public or f"http://{settings.host}:{settings.port}"
