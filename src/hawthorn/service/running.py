"""Running the service under uvicorn."""

from __future__ import annotations

import logging

import structlog

from hawthorn.service.app import create_asgi
from hawthorn.service.settings import Settings
from hawthorn.service.stopping import server_for


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


def serve(settings: Settings) -> None:
    """Serve until stopped."""
    set_up_logs(settings.log)
    app = create_asgi(settings)
    server_for(app.stopping, app, settings.host, settings.port).run()
