"""Logging in and out, and who one is."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response

from hawthorn.core import access
from hawthorn.core.access import Identity, Subject
from hawthorn.core.errors import Invalid, NotLoggedIn
from hawthorn.operations import people, permission
from hawthorn.operations.act import CLOCKWORK, View
from hawthorn.service.context import COOKIE, NOBODY, Answer, AtDesk, Who, check_origin, settings_of, token_of
from hawthorn.wire import models as wire

router = APIRouter(tags=["sessions"])


@router.post("/session", status_code=201, response_model=wire.Session, operation_id="log_in")
def log_in(body: wire.LogIn, request: Request, response: Response, desk: AtDesk) -> Answer:
    """Log in with handle (or mail address) and password; sets a cookie and returns the token."""
    check_origin(request)
    clockwork = Identity(CLOCKWORK, "clockwork", "Clockwork", "clockwork")
    desk.read(NOBODY, lambda view: people.may_try(view, body.handle))
    row = desk.read(NOBODY, lambda view: people.check_password(view, body.handle, body.password))
    if row is None:
        desk.write(clockwork, lambda act: people.failed(act, body.handle))
        raise NotLoggedIn(
            "That name and password do not belong together.", remedy="Check both and try again."
        )
    token = desk.write(clockwork, lambda act: people.log_in(act, row))
    response.set_cookie(
        COOKIE,
        token,
        max_age=14 * 86400,
        httponly=True,
        samesite="strict",
        secure=settings_of(request).secure,
        path="/",
    )
    with desk.db.read() as conn:
        identity = permission.identity_of(conn, row["id"])
    return {"token": token, "me": _me(identity)}


@router.delete("/session", status_code=204, operation_id="log_out")
def log_out(request: Request, response: Response, desk: AtDesk, me: Who) -> None:
    """End this session."""
    token, _ = token_of(request)
    desk.write(me, lambda act: people.log_out(act, token))
    response.delete_cookie(COOKIE, path="/")


@router.get("/me", response_model=wire.Me, operation_id="me")
def whoami(me: Who) -> Answer:
    """Who the caller is and which verbs they hold anywhere."""
    return _me(me)


@router.get("/people", response_model=wire.People, operation_id="people")
def everybody(me: Who, desk: AtDesk) -> Answer:
    """Everybody who works here, with their roles."""
    return {"items": desk.read(me, people.people)}


@router.get("/why", response_model=wire.Why, operation_id="why")
def why(
    me: Who,
    desk: AtDesk,
    person: str,
    verb: str,
    type: str | None = None,
    locale: str | None = None,
    entry: str | None = None,
) -> Answer:
    """Whether somebody may do something, and which grant says so or is missing."""

    def look(view: View) -> Answer:
        if verb not in access.VERBS:
            raise Invalid(f"“{verb}” is not a verb.", remedy=f"Choose one of {', '.join(access.VERBS)}.")
        about = Subject(type, locale)
        if entry:
            about = permission.subject(view, permission.find(view, entry, locale), locale)
        return permission.why(view, person, verb, about)

    return desk.read(me, look)


def _me(identity: Identity) -> Answer:
    return {
        "handle": identity.handle,
        "name": identity.name,
        "kind": identity.kind,
        "zone": identity.zone,
        "roles": sorted({role for role, _ in identity.grants}),
        "verbs": sorted({grant.verb for _, grant in identity.grants}),
    }
