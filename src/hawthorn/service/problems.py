"""Errors as problem details (RFC 9457): one place maps the error tree to statuses."""

from __future__ import annotations

import secrets
import sqlite3
from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.background import BackgroundTask
from starlette.exceptions import HTTPException

from hawthorn.core import errors
from hawthorn.core.errors import HawthornError
from hawthorn.core.messages import Message, said
from hawthorn.messages import WORDS
from hawthorn.service import models, routing
from hawthorn.service.context import settings_of
from hawthorn.service.stopping import SAFE, details
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
    errors.FileStoreFails: 503,
    errors.ScannerFails: 503,
    errors.ProviderFails: 502,
    errors.NoKey: 503,
    errors.Busy: 503,
    errors.OnlyReads: 421,
    errors.Fenced: 503,
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
    facts = WORDS.plain(error.facts)
    return _response(error.slug, status_of(error), error.message, facts, headers, WORDS.remedy(error))


def _response(
    slug: str,
    status: int,
    what: Message,
    facts: Mapping[str, Any] = MappingProxyType({}),
    headers: Mapping[str, str] | None = None,
    remedy: str = "",
) -> JSONResponse:
    body = {**facts, **details(slug, status, what, remedy)}
    told = {"Content-Language": WORDS.language, "Vary": "Accept-Language"}
    return JSONResponse(body, status, {**told, **(headers or {})}, media_type=problems.MEDIA_TYPE)


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
    wrong = [
        (".".join(str(p) for p in e["loc"] if p != "body") or "body", models.wrong(e)) for e in error.errors()
    ]
    named = [said("common.problem", where=where, what=what) for where, what in wrong]
    found = [{"where": where, "what": WORDS.text(what)} for where, what in wrong]
    return _response("invalid", 422, said("service.fields", problems=named), {"problems": found})


async def _http(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    path, headers = request.url.path, dict(error.headers or {})
    if error.status_code == 404:
        return _response("not-found", 404, said("service.nothing_at", path=path), headers=headers)
    if error.status_code == 405:
        what = said("service.no_method", path=path, method=request.method)
        # The framework names those of one route alone.
        if methods := routing.allowed(request.app.routes, request.scope):
            headers["Allow"] = ", ".join(methods)
        return _response("no-such-method", 405, what, headers=headers)
    return _response("http", error.status_code, said("service.http", what=str(error.detail)), headers=headers)


async def _too_large(_: Request, error: Exception) -> JSONResponse:
    why = "number_too_large" if isinstance(error, OverflowError) else "half_a_character"
    return answer(errors.Invalid("problems.unreadable", why=said(f"problems.{why}")))


async def _database(request: Request, error: Exception) -> JSONResponse:
    """What is wrong with the record file has a name of its own; anything else of SQLite is a fault of ours."""
    found = failing.meaning(error, settings_of(request).file)
    return await _fault(request, error) if found is None else answer(found)


async def _fault(request: Request, error: Exception) -> JSONResponse:
    """A fault of ours: what whoever asked is told, and the log, have a number in common."""
    number = getattr(request.state, "number", "") or secrets.token_hex(8)
    route = getattr(request.scope.get("route"), "path", request.url.path)
    log.error("a request failed", request=number, method=request.method, route=route, exc_info=error)
    what = said("service.failed_changing" if request.method not in SAFE else "service.failed", number=number)
    return _response("fault", 500, what, {"request": number})


def install(app: FastAPI) -> None:
    """Answer every error of an application with problem details."""
    app.add_exception_handler(HawthornError, _hawthorn)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(OverflowError, _too_large)
    app.add_exception_handler(UnicodeEncodeError, _too_large)
    app.add_exception_handler(sqlite3.DatabaseError, _database)
    app.add_exception_handler(Exception, _fault)
