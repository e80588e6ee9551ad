"""What programs that watch a service ask for: `/metrics`, in the text format of Prometheus (and OpenMetrics 1.0, where that is asked for).

It holds what `/api/health` tells, as numbers, and what the process takes of its machine.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from starlette.requests import Request
from starlette.responses import Response

from hawthorn import __version__
from hawthorn.core.timeline import SECOND
from hawthorn.operations.runtime.act import Desk
from hawthorn.operations.views.health import trouble
from hawthorn.store import checks, events

if TYPE_CHECKING:
    from prometheus_client import CollectorRegistry
    from prometheus_client.metrics_core import Metric


class Measures:
    """The measures of one service."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self._registry: CollectorRegistry | None = None

    async def answer(self, request: Request) -> Response:
        """All of them, as they are now. Short reads, on the loop itself: they are asked while every thread may be at work."""
        # Loaded when somebody asks: most services are watched by nobody.
        from prometheus_client.exposition import choose_encoder

        if self._registry is None:
            self._registry = self._made()
        encode, media_type = choose_encoder(request.headers.get("accept", ""))
        return Response(
            encode(self._registry), headers={"Content-Type": media_type, "Cache-Control": "no-store"}
        )

    def _made(self) -> CollectorRegistry:
        from prometheus_client import CollectorRegistry, ProcessCollector

        registry = CollectorRegistry()
        ProcessCollector(registry=registry)
        registry.register(_Told(self._numbers))
        return registry

    def _numbers(self) -> Iterator[Metric]:
        from prometheus_client.metrics_core import GaugeMetricFamily, InfoMetricFamily

        db = self._desk.db
        with db.read() as conn:
            term, seq = checks.position(conn)
            newest = events.last(conn)[1] / SECOND
        kind = "copy" if not db.writes else "writer"
        yield InfoMetricFamily("hawthorn", "The service.", {"version": __version__, "kind": kind})
        yield GaugeMetricFamily(
            "hawthorn_troubles", "How many things are wrong, as health says.", len(trouble(self._desk))
        )
        yield GaugeMetricFamily("hawthorn_position_term", "Which term of writing the records are of.", term)
        yield GaugeMetricFamily("hawthorn_position_event", "The number of the newest event.", seq)
        yield GaugeMetricFamily(
            "hawthorn_newest_event_timestamp_seconds", "When the newest event happened.", newest
        )
        if db.behind is not None:
            yield GaugeMetricFamily("hawthorn_behind_seconds", "By how much a copy is behind.", db.behind)
        yield GaugeMetricFamily("hawthorn_readers", "Connections that are open for reading.", db.readers)


class _Told:
    """A collector that asks when it is asked."""

    def __init__(self, numbers: Callable[[], Iterator[Metric]]) -> None:
        self._numbers = numbers

    def collect(self) -> Iterator[Metric]:
        """The measures."""
        return self._numbers()

    def describe(self) -> list[Metric]:
        """Nothing: what there is is known when it is asked for."""
        return []
