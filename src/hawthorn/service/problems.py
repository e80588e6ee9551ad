"""Errors as problem details (RFC 9457): one place maps the error tree to statuses."""

from __future__ import annotations

import sqlite3
from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.background import BackgroundTask
from starlette.exceptions import HTTPException

from hawthorn.core import errors
from hawthorn.core.errors import HawthornError
from hawthorn.core.messages import said
from hawthorn.messages import ENGLISH
from hawthorn.service.context import settings_of
from hawthorn.service.stopping import SAFE
from hawthorn.store import failing
from hawthorn.wire import problems

log = structlog.get_logger(__name__)
_STATUS: dict[type[HawthornError], int] = {
    errors.NotFound: 404,
    errors.NotLoggedIn: 401,
    errors.Refused: 403,
    errors.TooMany: 429,
    errors.Invalid: 422,
    errors.BaseNeeded: 428,
    errors.StaleRevision: 412,
    errors.Conflicting: 412,
    errors.GateUnmet: 409,
    errors.BadTime: 422,
    errors.BadFile: 422,
    errors.InTheWay: 409,
    errors.DiskFull: 507,
    errors.ReadOnly: 503,
    errors.NoKey: 503,
    errors.Busy: 503,
    errors.BadStore: 500,
}


def status_of(error: HawthornError) -> int:
    """The HTTP status of an error."""
    return next((status for kind, status in _STATUS.items() if isinstance(error, kind)), 500)


def answer(error: HawthornError) -> JSONResponse:
    """An error as a response."""
    headers = {"WWW-Authenticate": "Bearer"} if isinstance(error, errors.NotLoggedIn) else {}
    if isinstance(error, errors.Busy):
        headers["Retry-After"] = "2"
    if "retry_after" in error.facts:
        headers["Retry-After"] = str(error.facts["retry_after"])
    return _response(
        error.slug,
        ENGLISH.title(error),
        status_of(error),
        ENGLISH.text(error.message),
        ENGLISH.remedy(error),
        {**ENGLISH.plain(error.facts), "code": error.message.code},
        headers,
    )


def _response(
    slug: str,
    title: str,
    status: int,
    detail: str,
    remedy: str,
    facts: dict[str, Any],
    headers: dict[str, str],
) -> JSONResponse:
    body = {
        **facts,
        "type": problems.TYPE_BASE + slug,
        "title": title,
        "status": status,
        "detail": detail,
        "remedy": remedy,
    }
    return JSONResponse(body, status, headers, media_type=problems.MEDIA_TYPE)


async def _hawthorn(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HawthornError)
    made = answer(error)
    whose = getattr(request.state, "caller", None)
    if isinstance(error, errors.Refused) and whose is not None:
        # After the answer: whoever is refused need not wait for the log, and is refused even if it is full.
        route = request.scope.get("route")
        what = f"{request.method} {getattr(route, 'path', request.url.path)}"
        made.background = BackgroundTask(request.app.state.refusals.note, whose, what, error)
    return made


async def _invalid(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    found = [
        {"where": ".".join(str(p) for p in e["loc"] if p != "body") or "body", "what": e["msg"]}
        for e in error.errors()
    ]
    detail = "; ".join(f"{p['where']}: {p['what']}" for p in found)
    return _response(
        "invalid",
        ENGLISH.title(errors.Invalid),
        422,
        detail,
        "Mend what is named and send it again.",
        {"problems": found},
        {},
    )


async def _http(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    slug = {404: "not-found", 405: "no-such-method"}.get(error.status_code, "http")
    remedy = {404: "Check the address.", 405: "Use a method that the address allows."}.get(
        error.status_code, ""
    )
    return _response(
        slug, str(error.detail), error.status_code, str(error.detail), remedy, {}, dict(error.headers or {})
    )


async def _too_large(_: Request, error: Exception) -> JSONResponse:
    why = "number_too_large" if isinstance(error, OverflowError) else "half_a_character"
    return answer(errors.Invalid("problems.unreadable", why=said(f"problems.{why}")))


async def _database(request: Request, error: Exception) -> JSONResponse:
    """What is wrong with the record file has a name of its own; anything else of SQLite is a fault of ours."""
    found = failing.meaning(error, settings_of(request).file)
    return await _fault(request, error) if found is None else answer(found)


async def _fault(request: Request, error: Exception) -> JSONResponse:
    log.error("a request failed", exc_info=error)
    if request.method not in SAFE:
        return _response(
            "fault",
            "Something is wrong in the service",
            500,
            "The service failed at this. What you asked for may have been done or not.",
            "Look whether it was saved before you try again. If it fails again, tell whoever runs the service: its log "
            "says more.",
            {},
            {},
        )
    return _response(
        "fault",
        "Something is wrong in the service",
        500,
        "The service failed at this.",
        "Try again. If it happens again, tell whoever runs the service: its log says more.",
        {},
        {},
    )


def install(app: FastAPI) -> None:
    """Answer every error of an application with problem details."""
    app.add_exception_handler(HawthornError, _hawthorn)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(OverflowError, _too_large)
    app.add_exception_handler(UnicodeEncodeError, _too_large)
    app.add_exception_handler(sqlite3.DatabaseError, _database)
    app.add_exception_handler(Exception, _fault)
