"""Requests traced by OpenTelemetry, where that is switched on: a span each, below that of whoever asked (W3C Trace Context), named by method and route.

Attributes are those of the semantic conventions for HTTP servers, but for addresses: some are secrets. What people write, and who they are, is in no span.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from starlette.types import Scope

from hawthorn import __version__
from hawthorn.core.errors import InTheWay
from hawthorn.service.timed import NOWHERE, Span

_QUIET = ("/events", "/metrics", "/api/health")
"""What is asked all the time, or stays open, is not traced."""


def spans(to: str) -> Span | None:
    """What traces requests to a collector; None where nothing is traced. Raises `InTheWay` where what it takes is not installed."""
    if not to:
        return None
    try:
        from opentelemetry import propagate, trace
        from opentelemetry.exporter.otlp.proto.http.trace_exporter import OTLPSpanExporter
        from opentelemetry.sdk.resources import Resource
        from opentelemetry.sdk.trace import TracerProvider
        from opentelemetry.sdk.trace.export import BatchSpanProcessor
    except ImportError:
        raise InTheWay("tracing.not_installed") from None
    named = Resource.create({"service.name": "hawthorn", "service.version": __version__})
    provider = TracerProvider(resource=named)
    provider.add_span_processor(BatchSpanProcessor(OTLPSpanExporter(endpoint=to)))
    tracer = provider.get_tracer("hawthorn", __version__)

    @contextmanager
    def span(scope: Scope) -> Iterator[Callable[[str, int], None]]:
        if scope["path"] in _QUIET:
            yield lambda route, status: None
            return
        brought = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
        with tracer.start_as_current_span(
            scope["method"], context=propagate.extract(brought), kind=trace.SpanKind.SERVER
        ) as made:
            made.set_attribute("http.request.method", scope["method"])

            def ends(route: str, status: int) -> None:
                if route != NOWHERE:
                    made.update_name(f"{scope['method']} {route}")
                    made.set_attribute("http.route", route)
                made.set_attribute("http.response.status_code", status)
                if status >= 500:
                    made.set_status(trace.StatusCode.ERROR)

            yield ends

    return span
