"""Passkeys: adding and ending one's own, and logging in with one."""

from __future__ import annotations

from urllib.parse import urlsplit

from fastapi import Request, Response

from hawthorn import wire
from hawthorn.core.errors import NotLoggedIn
from hawthorn.operations.access import logging_in
from hawthorn.operations.access import passkeys as operations
from hawthorn.operations.access.passkeys import House
from hawthorn.operations.runtime.act import SCHEDULER_SELF, Act
from hawthorn.service.context import (
    NOBODY,
    Answer,
    AtDesk,
    Who,
    check_origin,
    confirmed,
    guessed,
    lasts_of,
    refusals_noted,
    settings_of,
    source_of,
    token_of,
)
from hawthorn.service.paging import Paged
from hawthorn.service.routes.access.sessions import opened
from hawthorn.service.routing import REFUSALS, area
from hawthorn.store import people as store
from hawthorn.store.people import Actor

router = area("/api", "sessions")


def _house(request: Request) -> House:
    """For whom keys are made: this service at its public address, or at the one that it was asked at where that is no more than a number."""
    settings = settings_of(request)
    scheme = "https" if settings.secured else request.url.scheme
    at = urlsplit(f"{scheme}://{request.headers.get('host', '')}")
    public = urlsplit(settings.public)
    if operations.is_name(public.hostname or ""):
        at = public
    return House(at.hostname or "", (f"{at.scheme}://{at.netloc}", *settings.origins))


@router.get("/account/passkeys", response_model=wire.access.Passkeys, operation_id="list_passkeys")
def passkeys(me: Who, desk: AtDesk, paged: Paged) -> Answer:
    """One's own passkeys, the newest first."""
    return paged.of(desk.read(me, operations.mine), lambda one: one.id)


@router.post(
    "/account/passkeys/begin",
    response_model=wire.access.PasskeyQuestion,
    operation_id="begin_passkey",
    responses=REFUSALS,
)
def begin_passkey(body: wire.access.Password, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Begin to add a passkey, with the password: what the device is asked for (Web Authentication, section 5.1.8)."""

    def do(act: Act) -> Answer:
        return operations.begin(act, _house(request), body.password)

    return confirmed(desk, request, me, do)


@router.post(
    "/account/passkeys",
    status_code=201,
    response_model=wire.access.PasskeyAdded,
    operation_id="add_passkey",
    responses=REFUSALS,
)
def add_passkey(body: wire.access.PasskeyWish, me: Who, desk: AtDesk, request: Request) -> Answer:
    """Keep the passkey that the device made. The first one turns a second factor on where there is none: it answers with spare codes then, and one's other
    sessions end."""
    token, _ = token_of(request)

    def do(act: Act) -> Answer:
        return operations.add(act, _house(request), body.state, body.answer, body.name, token)

    return desk.write(me, do)


@router.put(
    "/account/passkeys/{id}",
    response_model=wire.access.Passkey,
    operation_id="rename_passkey",
    responses=REFUSALS,
)
def rename_passkey(id: str, body: wire.access.PasskeyName, me: Who, desk: AtDesk) -> Answer:
    """Call one of one's own passkeys otherwise."""
    return desk.write(me, lambda act: operations.rename(act, id, body.name))


@router.post("/account/passkeys/{id}/end", status_code=204, operation_id="end_passkey", responses=REFUSALS)
def end_passkey(id: str, body: wire.access.Password, me: Who, desk: AtDesk, request: Request) -> None:
    """Let nobody log in with one of one's own passkeys any more, with the password; one's other sessions end. With the last one, a second factor that was
    shown by passkeys alone is off."""
    token, _ = token_of(request)

    def do(act: Act) -> None:
        operations.end(act, id, body.password, token)

    confirmed(desk, request, me, do)


@router.post(
    "/session/passkey/begin",
    response_model=wire.access.PasskeyQuestion,
    operation_id="begin_passkey_log_in",
    responses=REFUSALS,
)
def begin_passkey_log_in(body: wire.access.PasskeyLogIn, request: Request, desk: AtDesk) -> Answer:
    """What a device is asked that somebody logs in with (Web Authentication, section 5.1.9): alone, or with handle and password as what comes after
    them. It needs no log-in."""
    check_origin(request)
    person: Actor | None = None
    if body.handle or body.password:

        def look() -> Actor | None:
            found = desk.read(NOBODY, lambda view: store.by_handle(view.conn, body.handle))
            return logging_in.fits(found, body.password)

        person = guessed(desk, request, body.handle, look, lambda found: found is None)
        if person is None:
            raise NotLoggedIn("sessions.wrong_password")
    return desk.read(NOBODY, lambda view: operations.ask(view, _house(request), person))


@router.post(
    "/session/passkey",
    status_code=201,
    response_model=wire.access.Session,
    operation_id="log_in_with_passkey",
    responses=REFUSALS,
)
def log_in_with_passkey(
    body: wire.access.PasskeyAnswer, request: Request, response: Response, desk: AtDesk
) -> Answer:
    """Log in with what a device answered; each answer is taken once. It needs no log-in."""
    check_origin(request)
    source, agent = source_of(request), request.headers.get("user-agent", "")

    def do(act: Act) -> tuple[int, str]:
        row, by = operations.show(act, _house(request), body.state, body.answer)
        return row.id, logging_in.log_in(act, row, agent, lasts_of(request), source, by)

    def owner() -> str:
        return desk.read(NOBODY, lambda view: operations.owner(view, body.answer))

    with refusals_noted(desk, request, "passkey", owner):
        actor, token = desk.write(SCHEDULER_SELF, do)
    return opened(request, response, desk, actor, token)
