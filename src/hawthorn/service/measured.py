"""What programs that watch a service ask for: `/metrics`, in the text format of Prometheus (and OpenMetrics 1.0, where that is asked for).

It holds what `/api/health` tells, as numbers; what is planned, late and waiting to be sent; how long requests take by route, and writers wait for one another;
and what the process takes of its machine.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from itertools import accumulate
from typing import TYPE_CHECKING

from starlette.requests import Request
from starlette.responses import Response

from hawthorn import __version__
from hawthorn.core.errors import NotLoggedIn
from hawthorn.core.timeline import SECOND
from hawthorn.operations.runtime.act import Desk
from hawthorn.operations.views.health import trouble
from hawthorn.service.context import bears
from hawthorn.service.shared import EDGES, Shared
from hawthorn.store import checks, events, outbox
from hawthorn.store.outbox import Work

if TYPE_CHECKING:
    from prometheus_client import CollectorRegistry
    from prometheus_client.metrics_core import Metric


_LEAST = ("process_start_time_seconds", "process_max_fds")
"""Of these, several processes have the least and not the sum."""


def _added(a: float, b: float) -> float:
    return a + b


class Measures:
    """The measures of one service."""

    def __init__(self, desk: Desk, shared: Shared, key: str = "") -> None:
        self._desk = desk
        self._shared = shared
        self._key = key
        self._registry: CollectorRegistry | None = None

    async def answer(self, request: Request) -> Response:
        """All of them, as they are now. Short reads, on the loop itself: they are asked while every thread may be at work."""
        if self._key and not bears(request, self._key):
            raise NotLoggedIn("service.metrics_key")
        # Loaded when somebody asks: most services are watched by nobody.
        from prometheus_client.exposition import choose_encoder

        if self._registry is None:
            self._registry = self._made()
        encode, media_type = choose_encoder(request.headers.get("accept", ""))
        return Response(
            encode(self._registry), headers={"Content-Type": media_type, "Cache-Control": "no-store"}
        )

    def _made(self) -> CollectorRegistry:
        from prometheus_client import CollectorRegistry

        registry = CollectorRegistry()
        registry.register(_Told(self._processes))
        registry.register(_Told(self._numbers))
        return registry

    def _processes(self) -> Iterator[Metric]:
        """What the process takes of its machine; of several workers, all of them together."""
        from prometheus_client import ProcessCollector

        found: dict[str, Metric] = {}
        for pid in self._shared.processes:
            for family in ProcessCollector(pid=partial(int, pid), registry=None).collect():
                one = found.setdefault(family.name, family)
                if one is not family:
                    together = min if family.name in _LEAST else _added
                    one.samples = [
                        a._replace(value=together(a.value, b.value))
                        for a, b in zip(one.samples, family.samples, strict=True)
                    ]
        yield from found.values()

    def _numbers(self) -> Iterator[Metric]:
        from prometheus_client.metrics_core import CounterMetricFamily, GaugeMetricFamily, InfoMetricFamily

        db = self._desk.db
        with db.read() as conn:
            term, seq = checks.position(conn)
            newest = events.last(conn)[1] / SECOND
            work = outbox.work(conn, self._desk.clock.now())
        replicated = db.replica.behind(db.read, self._desk.clock.now()) if db.replica is not None else None
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
        if replicated is not None:
            yield GaugeMetricFamily(
                "hawthorn_replica_behind_seconds",
                "For how long something is written that is not in the replica.",
                replicated,
            )
        yield GaugeMetricFamily(
            "hawthorn_readers", "Connections that the process that answers has open for reading.", db.readers
        )
        yield GaugeMetricFamily("hawthorn_workers", "Processes that answer.", len(self._shared.processes))
        yield CounterMetricFamily(
            "hawthorn_workers_begun_again",
            "How often one of them ended by itself and was begun again.",
            self._shared.again,
        )
        yield from self._work(work, seq)
        yield from self._requests()

    def _work(self, work: Work, newest: int) -> Iterator[Metric]:
        """What is planned and done by itself, and how far that is behind; and how writers wait for one another."""
        from prometheus_client.metrics_core import CounterMetricFamily, GaugeMetricFamily

        yield GaugeMetricFamily("hawthorn_dispatches_planned", "Dispatches that are planned.", work.planned)
        yield GaugeMetricFamily(
            "hawthorn_dispatch_overdue_seconds",
            "How long the oldest planned dispatch should have gone; 0 where none should.",
            work.overdue / SECOND,
        )
        yield GaugeMetricFamily(
            "hawthorn_dispatch_last_late_seconds",
            "How late the dispatch was that went last.",
            work.last_late / SECOND,
        )
        behind = GaugeMetricFamily(
            "hawthorn_follower_behind_events",
            "How many events a follower has not come to yet.",
            labels=["follower"],
        )
        for follower, cursor in work.cursors.items():
            behind.add_metric([follower], max(0, newest - cursor))
        yield behind
        waiting = GaugeMetricFamily(
            "hawthorn_outbox", "What is to be sent, by follower and state.", labels=["follower", "state"]
        )
        for (follower, state), count in work.outbox.items():
            waiting.add_metric([follower, state], count)
        yield waiting
        waits, seconds = self._shared.waited
        yield CounterMetricFamily("hawthorn_write_lock_waits", "How often somebody wrote.", waits)
        yield CounterMetricFamily(
            "hawthorn_write_lock_wait_seconds", "How long writers waited for one another altogether.", seconds
        )

    def _requests(self) -> Iterator[Metric]:
        """How long requests took, by method, route and status; what is answered from what is kept in front is not among them."""
        from prometheus_client.metrics_core import HistogramMetricFamily

        family = HistogramMetricFamily(
            "hawthorn_request_seconds", "How long requests took.", labels=["method", "route", "status"]
        )
        for key, one in sorted(self._shared.times().items()):
            sums = [*accumulate(one.within)]
            buckets = [(str(edge), n) for edge, n in zip((*EDGES, "+Inf"), sums, strict=True)]
            family.add_metric([*key], buckets, one.seconds)
        yield family


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
