"""Running the service under uvicorn."""

from __future__ import annotations

import logging

import structlog
import uvicorn

from hawthorn.service.app import create_asgi
from hawthorn.service.settings import Settings


def set_up_logs(style: str, level: int = logging.INFO) -> None:
    """Logs as JSON or readable, to standard error."""
    renderer = structlog.processors.JSONRenderer() if style == "json" else structlog.dev.ConsoleRenderer()
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso"),
            structlog.processors.format_exc_info,
            renderer,
        ],
        wrapper_class=structlog.make_filtering_bound_logger(level),
        logger_factory=structlog.PrintLoggerFactory(file=__import__("sys").stderr),
    )


def server_for(settings: Settings) -> uvicorn.Server:
    """A server that is ready to run."""
    config = uvicorn.Config(
        create_asgi(settings),
        host=settings.host,
        port=settings.port,
        log_level="warning",
        access_log=False,
        lifespan="on",
        timeout_graceful_shutdown=3,
    )
    return uvicorn.Server(config)


def serve(settings: Settings) -> None:
    """Serve until stopped."""
    set_up_logs(settings.log)
    server_for(settings).run()
