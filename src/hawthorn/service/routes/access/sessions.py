"""Logging in and out, and who one is."""

from __future__ import annotations

from fastapi import Request, Response

from hawthorn import wire
from hawthorn.core.access import Identity, Means
from hawthorn.core.errors import CodeNeeded, NotLoggedIn
from hawthorn.operations.access import logging_in
from hawthorn.operations.runtime.act import SCHEDULER_SELF, Desk
from hawthorn.service.context import (
    NOBODY,
    Answer,
    AtDesk,
    Who,
    check_origin,
    cookie_name,
    guessed,
    lasts_of,
    settings_of,
    source_of,
    token_of,
    wants_factor,
)
from hawthorn.service.routing import area
from hawthorn.store import people as store
from hawthorn.store.people import Actor

router = area("/api", "sessions")


@router.post("/session", status_code=201, response_model=wire.access.Session, operation_id="log_in")
def log_in(body: wire.access.LogIn, request: Request, response: Response, desk: AtDesk) -> Answer:
    """Log in with handle (or mail address) and password; sets a cookie and returns the token."""
    check_origin(request)

    def look() -> tuple[Actor | None, bool]:
        found = desk.read(NOBODY, lambda view: store.by_handle(view.conn, body.handle))
        row = logging_in.fits(found, body.password)
        # A code is used up in a transaction of its own, so that a failed one is counted all the same.
        return row, row is not None and desk.write(
            SCHEDULER_SELF, lambda act: logging_in.require_code(act, row, body.code)
        )

    row, fits = guessed(desk, request, body.handle, look, lambda found: not found[1])
    if row is None:
        raise NotLoggedIn("sessions.wrong_password")
    if not fits:
        raise CodeNeeded("sessions.wrong_code")
    agent = request.headers.get("user-agent", "")
    by: Means = "password" if not body.code else "password and code"
    token = desk.write(
        SCHEDULER_SELF,
        lambda act: logging_in.log_in(act, row, agent, lasts_of(request), source_of(request), by),
    )
    return opened(request, response, desk, row.id, token)


def opened(request: Request, response: Response, desk: Desk, actor: int, token: str) -> Answer:
    """The answer that opens a session, with its cookie; without a token the caller has yet to log in."""
    if token:
        before = request.cookies.get(cookie_name(request), "")
        if before:
            desk.write(SCHEDULER_SELF, lambda act: logging_in.end_before(act, before))
        response.set_cookie(
            cookie_name(request),
            token,
            max_age=round(settings_of(request).session_longest * 3600),
            httponly=True,
            samesite="strict",
            secure=settings_of(request).secured,
            path="/",
        )
    identity = desk.read(SCHEDULER_SELF, lambda view: logging_in.somebody(view, actor))
    return {"token": token, "me": _me(identity, bool(token) and wants_factor(request, identity, token))}


@router.delete("/session", status_code=204, operation_id="log_out")
def log_out(request: Request, response: Response, desk: AtDesk, me: Who) -> None:
    """End this session."""
    token, _ = token_of(request)
    desk.write(me, lambda act: logging_in.log_out(act, token))
    name = cookie_name(request)
    response.delete_cookie(
        name, path="/", secure=settings_of(request).secured, httponly=True, samesite="strict"
    )
    # What the browser kept of answers goes; what was typed and not saved, the console takes away, after a question.
    response.headers["Clear-Site-Data"] = '"cache"'


@router.get("/me", response_model=wire.access.Me, operation_id="me")
def whoami(me: Who, request: Request) -> Answer:
    """Who the caller is and which verbs they hold anywhere."""
    return _me(me, wants_factor(request, me, token_of(request)[0]))


def _me(identity: Identity, wanting: bool) -> Answer:
    return {
        "handle": identity.handle,
        "name": identity.name,
        "kind": identity.kind,
        "zone": identity.zone,
        "language": identity.language,
        "roles": sorted({role for role, _ in identity.grants}),
        "verbs": sorted({grant.verb for _, grant in identity.grants}),
        "factor_wanted": wanting,
    }
