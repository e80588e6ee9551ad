"""Logging in through an identity provider."""

from __future__ import annotations

from typing import Annotated

import structlog
from fastapi import Form, Request, Response
from fastapi.responses import JSONResponse

from hawthorn import wire
from hawthorn.core.errors import NotLoggedIn
from hawthorn.messages import WORDS
from hawthorn.operations.access import provider as operations
from hawthorn.operations.runtime.act import SCHEDULER_SELF
from hawthorn.service.context import (
    Answer,
    AtDesk,
    Who,
    check_origin,
    lasts_of,
    refusals_noted,
    settings_of,
    source_of,
)
from hawthorn.service.provider import provider_of
from hawthorn.service.routes.access.sessions import opened
from hawthorn.service.routing import REFUSALS, area
from hawthorn.wire.problems import Problem

router = area("/api", "sessions")
log = structlog.get_logger(__name__)
COOKIE = "hawthorn_leaving"
_PATH = "/api/session/provider"
_FAILS = {**REFUSALS, 502: {"model": Problem}}


_WORD = {"logout_token": "eyJhbGciOiJFUzI1NiJ9.eyJzdWIiOiJ1bWEifQ.c2lnbmVk"}


@router.get("/session/provider", response_model=wire.access.Provider, operation_id="provider")
async def provider(request: Request) -> Answer:
    """The identity provider through which people log in, beside passwords; it needs no log-in."""
    return {"name": settings_of(request).provider_called}


@router.post(
    "/session/provider/begin",
    response_model=wire.access.ProviderAddress,
    operation_id="leave_for_provider",
    responses=_FAILS,
)
def leave_for_provider(request: Request, response: Response, desk: AtDesk) -> Answer:
    """Begin to log in through the provider; the browser goes to the address, and comes back to the console with a code. It needs no log-in."""
    check_origin(request)
    at = provider_of(request.app.state)
    leaving = desk.write(SCHEDULER_SELF, operations.begin)
    address = at.address(leaving)
    response.set_cookie(
        COOKIE,
        leaving.browser,
        max_age=600,
        httponly=True,
        samesite="strict",
        secure=settings_of(request).secured,
        path=_PATH,
    )
    return {"address": address}


@router.post(
    "/session/provider",
    status_code=201,
    response_model=wire.access.Session,
    operation_id="return_from_provider",
    responses=_FAILS,
)
def return_from_provider(
    body: wire.access.ProviderAnswer, request: Request, response: Response, desk: AtDesk
) -> Answer:
    """Log in with what the provider sent back; each code is taken once, from the browser that was sent there. It needs no log-in."""
    check_origin(request)
    at = provider_of(request.app.state)
    begun = desk.write(SCHEDULER_SELF, lambda act: operations.take(act, body.state))
    response.delete_cookie(COOKIE, path=_PATH)
    name = ""
    with refusals_noted(desk, request, "provider", lambda: name):
        leaving = operations.returned(desk.vault, begun, body.state, request.cookies.get(COOKIE, ""))
        claims = at.claims(body.code, leaving, body.issuer)
        name = claims.username or claims.email or claims.name
        agent, source = request.headers.get("user-agent", ""), source_of(request)
        who = desk.write(
            SCHEDULER_SELF,
            lambda act: operations.arrive(act, claims, at.rules, agent, lasts_of(request), source),
        )
        if not who.token:
            raise desk.read(SCHEDULER_SELF, lambda view: operations.no_role(view, who.person))
    return opened(request, response, desk, who.person.id, who.token)


@router.post(
    "/session/provider/ended",
    operation_id="end_sessions_by_provider",
    responses={**_FAILS, 400: {"model": wire.access.ProviderUnheard}},
    openapi_extra={"requestBody": {"content": {"application/x-www-form-urlencoded": {"example": _WORD}}}},
)
def end_sessions_by_provider(
    request: Request,
    desk: AtDesk,
    logout_token: Annotated[str, Form(max_length=20_000, description="What the provider signed.")],
) -> Response:
    """Sessions end at the provider's word (OpenID Connect Back-Channel Logout 1.0, section 2.5); it needs no log-in."""
    at = provider_of(request.app.state)
    try:
        subject, session, word = at.ended(logout_token)
        ended = desk.write(SCHEDULER_SELF, lambda act: operations.end(act, at.issuer, subject, session, word))
    except NotLoggedIn as error:
        why = WORDS.text(error.message)
        return JSONResponse(
            {"error": "invalid_request", "error_description": why}, 400, {"Cache-Control": "no-store"}
        )
    log.info("the provider ended sessions", count=ended)
    return Response(status_code=200, headers={"Cache-Control": "no-store"})


@router.delete(
    "/people/{handle}/provider", status_code=204, operation_id="disconnect_person", responses=REFUSALS
)
def disconnect_person(handle: str, desk: AtDesk, me: Who) -> None:
    """Let nobody log in as somebody through the provider any more; their sessions end. Whoever sets up people does it."""
    desk.write(me, lambda act: operations.disconnect(act, handle))
