"""Assembling the service."""

from __future__ import annotations

import asyncio
import os
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from functools import partial

from fastapi import FastAPI
from starlette.routing import Route
from uvicorn.middleware.proxy_headers import ProxyHeadersMiddleware

from hawthorn import __version__
from hawthorn.core.bounds import Bounds
from hawthorn.core.errors import NotLoggedIn, Refused
from hawthorn.core.translation import segmentation, srx
from hawthorn.followers.running import Followers
from hawthorn.messages import Spoken
from hawthorn.operations.access import logging_in
from hawthorn.operations.media import files
from hawthorn.operations.media.renditions import Maker
from hawthorn.operations.runtime.act import Clock, Desk, SystemClock
from hawthorn.operations.runtime.bootstrap import found
from hawthorn.operations.runtime.pacing import Pace
from hawthorn.operations.runtime.refusals import Refusals
from hawthorn.operations.search import indexing
from hawthorn.operations.translation import coverage
from hawthorn.operations.views import assembled
from hawthorn.service import agent, console, directory, openapi, problems, tracing
from hawthorn.service.agent import Agent
from hawthorn.service.cached import CachedReads
from hawthorn.service.encoding import Coded, Encoding
from hawthorn.service.kept import Kept
from hawthorn.service.limits import Limits
from hawthorn.service.live import Hub
from hawthorn.service.measured import Measures
from hawthorn.service.methods import Heads
from hawthorn.service.provider import Provider
from hawthorn.service.rates import Rates
from hawthorn.service.routes.access import assistants as assistant_routes
from hawthorn.service.routes.access import passkeys, people, sessions
from hawthorn.service.routes.access import provider as provider_routes
from hawthorn.service.routes.collaboration import comments, reassigning, stream
from hawthorn.service.routes.content import entries, setup, strands
from hawthorn.service.routes.delivery import (
    described,
    feeds,
    limiting,
    outline,
    previews,
    reading,
    reading_lists,
)
from hawthorn.service.routes.delivery import webhooks as webhook_routes
from hawthorn.service.routes.exchange import backups, mappings, packages, receipts, rights, set_up, sheets
from hawthorn.service.routes.media import library
from hawthorn.service.routes.release import calendars, inside, quiet_periods, workflows
from hawthorn.service.routes.release import dispatches as dispatch_routes
from hawthorn.service.routes.search import lists
from hawthorn.service.routes.translation import (
    bureaus,
    commissions,
    glossaries,
    jobs,
    memories,
    own_files,
    standing_commissions,
    suggestions,
)
from hawthorn.service.routes.translation import coverage as coverage_routes
from hawthorn.service.routes.translation import files as job_files
from hawthorn.service.routes.translation import table as table_routes
from hawthorn.service.routes.views import figures
from hawthorn.service.routing import Shortcut
from hawthorn.service.settings import Settings
from hawthorn.service.shared import Shared
from hawthorn.service.speaking import Speaking
from hawthorn.service.stopping import Stopping
from hawthorn.service.timed import Timed
from hawthorn.service.trying import Trying
from hawthorn.store import file_store, scanner, vault
from hawthorn.store.database import Database
from hawthorn.store.renditions import Renditions
from hawthorn.store.vault import Vault

_ABOUT = """Drafts, reviews, translations and planned releases, going out exactly as approved.

`/api` is for people and programs that work, `/read` for those that read. Log in with `POST /api/session`, or send
a key as a bearer token. Errors are problem details (RFC 9457) that say what was wrong and what to do."""


def open_desk(settings: Settings, clock: Clock | None = None, db: Database | None = None) -> Desk:
    """The desk of the record file that the settings name, or that is open already; a new file gets what every file needs."""
    bounds = Bounds(settings.text_characters, settings.text_paragraphs, settings.text_depth)
    at = db or Database(settings.file)
    keys = Vault(settings.key_file) if settings.key_file else Vault.beside(settings.file)
    desk = assembled.desk(
        at,
        clock or SystemClock(),
        Spoken(settings.language),
        bounds=bounds,
        pace=Pace(settings.assistant_acts, settings.assistant_entries),
        vault=keys,
        file_store=file_store.opened(settings.file_store),
        scanner=scanner.opened(settings.scanner),
    )
    segmentation.follow(srx.read(settings.segmentation.read_bytes()) if settings.segmentation else None)
    if at.writes:
        _bring_up_to_date(desk)
    return desk


def _bring_up_to_date(desk: Desk) -> None:
    """Give the record file what every file needs by now; copies get it from whoever writes."""
    found(desk)
    with desk.db.read() as conn:
        unsealed = vault.open_secrets(conn)
    if unsealed:
        desk.db.write(lambda conn: vault.seal_what_is_open(conn, desk.vault))
    indexing.catch_up(desk)
    coverage.catch_up(desk)


def create_app(settings: Settings, desk: Desk | None = None, shared: Shared | None = None) -> FastAPI:
    """The service as a FastAPI application, without the cached reads in front of it. `shared` is what it counts together with other workers."""
    own = desk is None
    at = desk or open_desk(settings)
    counted = shared or Shared()
    counted.begin()
    at.db.note_wait = counted.note_wait

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        followers = Followers(at, settings) if settings.followers and at.db.writes else None
        if followers:
            followers.start()
        try:
            yield
        finally:
            app.state.hub.end()
            await app.state.agent.end()
            if followers:
                followers.stop()
            app.state.maker.kept.close()
            if own:
                at.db.close()

    app = FastAPI(
        title="Hawthorn",
        version=__version__,
        description=_ABOUT,
        lifespan=lifespan,
        # A page that loads scripts from elsewhere has no place on an origin that people are logged in at.
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
    )
    app.state.settings = settings
    app.state.desk = at
    app.state.hub = Hub(at)
    app.state.rates = Rates(counted)
    app.state.provider = Provider(settings) if settings.provider else None
    app.state.setup_answered = {}
    app.state.kept = Kept(at.db)
    app.state.refusals = Refusals(at)
    app.state.maker = Maker(
        partial(files.whole, at),
        Renditions(settings.file, settings.renditions),
        max(1, (os.cpu_count() or 1) // counted.workers),
        at.file_store,
    )
    problems.install(app)
    for part in (
        sessions,
        passkeys,
        provider_routes,
        people,
        assistant_routes,
        workflows,
        quiet_periods,
        calendars,
        webhook_routes,
        comments,
        reassigning,
        lists,
        previews,
        entries,
        strands,
        outline,
        library,
        dispatch_routes,
        inside,
        commissions,
        jobs,
        job_files,
        table_routes,
        memories,
        glossaries,
        own_files,
        standing_commissions,
        suggestions,
        coverage_routes,
        figures,
        bureaus,
        setup,
        limiting,
        described,
        feeds,
        reading_lists,
        reading,
        stream,
        set_up,
        packages,
        mappings,
        sheets,
        receipts,
        backups,
        rights,
    ):
        # Joined, not included: the framework would work out each route of what it includes a second time.
        app.router.routes.extend(part.router.routes)
    app.router.routes.extend(limiting.readers.routes)
    openapi.install(app)
    app.router.routes.append(Route("/metrics", Measures(at, counted, settings.metrics_key).answer))
    people_at = f"{directory.PATH}/{{rest:path}}"
    methods = ["GET", "POST", "PUT", "PATCH", "DELETE"]
    app.router.routes.append(Route(people_at, directory.Directory(at, settings).answer, methods=methods))
    app.state.agent = Agent(app)
    app.router.routes.append(Route(agent.PATH, app.state.agent))
    console.install(app)
    app.router.routes.insert(0, Shortcut(app.router.routes))
    app.add_middleware(Trying)
    app.add_middleware(console.Guard)
    app.state.coded = Coded()
    app.add_middleware(Encoding, kept=app.state.coded)
    app.add_middleware(Heads)
    app.add_middleware(
        Timed, shared=counted, lines=settings.log_requests, span=tracing.spans(settings.traces)
    )
    return app


def create_asgi(settings: Settings, desk: Desk | None = None, shared: Shared | None = None) -> CachedReads:
    """The service whole: cached reads in front, everything else behind."""
    app = create_app(settings, desk, shared)
    at: Desk = app.state.desk

    def is_somebodys(token: str) -> bool:
        with at.db.read() as conn, suppress(NotLoggedIn, Refused):
            logging_in.identify(conn, at.clock.now(), token)
            return True
        return False

    async def known(token: str) -> bool:
        return bool(token) and await asyncio.to_thread(is_somebodys, token)

    largest = settings.largest_upload + settings.largest_body
    limits = Limits(
        app, known, settings.largest_body, largest, settings.largest_import, settings.largest_package
    )
    proxied = ProxyHeadersMiddleware(limits, os.environ.get("FORWARDED_ALLOW_IPS", "127.0.0.1"))  # type: ignore[arg-type]
    stopping = Stopping(Speaking(proxied, settings.language), app.state.hub.end)  # type: ignore[arg-type]
    state = app.state
    return CachedReads(
        app, stopping, state.desk.db, state.desk.clock, state.maker.kept, state.coded, settings
    )
