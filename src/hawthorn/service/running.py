"""Running the service under uvicorn."""

from __future__ import annotations

import contextlib
import ctypes
import logging
import resource
import sys

import structlog

from hawthorn.service.front import Front
from hawthorn.service.settings import Settings
from hawthorn.service.stopping import server_for

_M_TRIM_THRESHOLD, _M_MMAP_THRESHOLD, _M_ARENA_MAX = -1, -3, -8
"""Numbers of settings of the C library (malloc.h)."""


def set_up_logs(style: str, level: int = logging.INFO) -> None:
    """Logs as JSON or readable, to standard error."""
    # Tracebacks as they are: to draw them with what every name held takes seconds, and tells what is nobody's to read.
    # Texts are quoted, so that no end of a line in one begins another line.
    readable = structlog.dev.ConsoleRenderer(
        exception_formatter=structlog.dev.plain_traceback, repr_native_str=True
    )
    renderer = structlog.processors.JSONRenderer() if style == "json" else readable
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso"),
            structlog.processors.format_exc_info,
            renderer,
        ],
        wrapper_class=structlog.make_filtering_bound_logger(level),
        logger_factory=structlog.PrintLoggerFactory(file=sys.stderr),
    )


def _as_many_files_as_allowed() -> None:
    """Each console that listens is an open file, and the usual limit of a shell is 1,024."""
    _, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    with contextlib.suppress(ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_NOFILE, (hard, hard))


def _give_memory_back() -> None:
    """Large blocks go back to the system when they are no longer needed, and threads share what they keep.

    Left to itself, the C library of Linux keeps up to 32 MB of each thread that once had so much (mallopt(3)).
    """
    with contextlib.suppress(OSError, AttributeError):
        mallopt = ctypes.CDLL(None).mallopt
        mallopt(_M_MMAP_THRESHOLD, 1 << 17)
        mallopt(_M_TRIM_THRESHOLD, 1 << 18)
        mallopt(_M_ARENA_MAX, 2)


def set_up_process(settings: Settings) -> None:
    """What a process that answers needs before it begins."""
    set_up_logs(settings.log)
    _as_many_files_as_allowed()
    _give_memory_back()


def serve(settings: Settings) -> None:
    """Serve until stopped."""
    set_up_process(settings)
    if settings.workers > 1:
        from hawthorn.service.workers import Workers

        if not Workers(settings).run():
            raise SystemExit(1)
        return
    front = Front(settings)
    server = server_for(front, front, settings.host, settings.port, headers=settings.on_each_answer)
    front.server = server
    server.run()
    if server.failed:
        raise SystemExit(1)
