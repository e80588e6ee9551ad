"""What a service tells those who watch it: what is planned, late and waiting, how long requests take by route, for whoever has the key."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from typing import Any

import httpx
import pytest
from prometheus_client.parser import text_string_to_metric_families

from hawthorn.core.timeline import SECOND
from hawthorn.followers.counter import Counter
from hawthorn.store import outbox
from tests.conftest import eventually
from tests.followers.test_followers import Options
from tests.service.made import House, serving


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def measures(http: httpx.Client) -> dict[tuple[str, ...], float]:
    answer = http.get("/metrics")
    assert answer.status_code == 200, answer.text
    return {
        (one.name, *one.labels.values()): one.value
        for family in text_string_to_metric_families(answer.text)
        for one in family.samples
    }


def test_what_is_planned_late_and_waiting_is_told_as_numbers(house: House) -> None:
    page = house.signed("Lamp")
    house.plan([page], 60)
    Counter(house.desk, Options()).step("one")
    house.desk.db.write(lambda conn: outbox.put(conn, "mail", "m1", 1, "wim", "{}", 1))
    with serving(house) as (_, url), httpx.Client(base_url=url) as http:
        told = measures(http)
        assert told["hawthorn_dispatches_planned",] == 1
        assert told["hawthorn_dispatch_overdue_seconds",] == 0
        assert told["hawthorn_follower_behind_events", "counter"] == 0
        assert told["hawthorn_outbox", "mail", "waiting"] == 1
        before = told["hawthorn_write_lock_waits_total",]
        house.page("Another")
        house.clock.at += 300 * SECOND
        told = measures(http)
        assert told["hawthorn_follower_behind_events", "counter"] > 0
        assert told["hawthorn_dispatch_overdue_seconds",] > 200
        assert told["hawthorn_write_lock_waits_total",] == before + 1
        assert told["hawthorn_write_lock_wait_seconds_total",] >= 0
        house.later(1)
        told = measures(http)
        assert told["hawthorn_dispatches_planned",] == 0
        assert told["hawthorn_dispatch_last_late_seconds",] > 200


def test_requests_are_counted_by_route_and_not_by_what_somebody_makes_up(house: House) -> None:
    token = house.log_in("wim")
    page = house.page("Lamp")
    with (
        serving(house) as (_, url),
        httpx.Client(base_url=url, headers={"Authorization": f"Bearer {token}"}) as http,
    ):
        for _ in range(3):
            assert http.get(f"/api/entries/{page}/en").status_code == 200
        assert http.get("/api/entries/nothing/en").status_code == 404
        for n in range(5):
            http.get(f"/made/up/{n}")
            http.post(f"/api/made-up/{n}")
        told = measures(http)
    route = "/api/entries/{id}/{locale}"
    assert told["hawthorn_request_seconds_count", "GET", route, "2xx"] == 3
    assert told["hawthorn_request_seconds_count", "GET", route, "4xx"] == 1
    assert told["hawthorn_request_seconds_bucket", "+Inf", "GET", route, "2xx"] == 3
    assert 0 < told["hawthorn_request_seconds_sum", "GET", route, "2xx"] < 30
    routes = {key[2] for key in told if key[0] == "hawthorn_request_seconds_count"}
    assert not [one for one in routes if "made" in one]
    assert len(routes) <= 4


def test_with_a_key_measures_are_told_to_whoever_has_it(house: House) -> None:
    with serving(house, metrics_key="hush") as (_, url), httpx.Client(base_url=url) as http:
        refused = http.get("/metrics")
        assert (refused.status_code, "metrics_key" in refused.text) == (401, True)
        assert http.get("/metrics", headers={"Authorization": "Bearer hus"}).status_code == 401
        assert http.get("/metrics", headers={"Authorization": "Bearer hush"}).status_code == 200
        assert http.get("/api/health").status_code == 200


def test_a_request_has_a_number_that_its_answer_and_the_log_share(
    house: House, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    def lost(*_: object) -> None:
        raise RuntimeError("a made-up fault")

    monkeypatch.setattr("hawthorn.service.routes.content.setup.my_work.my_work", lost)
    with serving(house, log_requests=True) as (_, url), httpx.Client(base_url=url) as http:
        http.headers["Authorization"] = f"Bearer {house.log_in('ida')}"
        ours = http.get("/api/me").headers["x-request-id"]
        assert len(ours) == 16
        assert (
            http.get("/api/me", headers={"X-Request-Id": "of-a-proxy-1"}).headers["x-request-id"]
            == "of-a-proxy-1"
        )
        for hostile in ("x", "a b", "n" * 65, "<i>", "a;b"):
            assert http.get("/api/me", headers={"X-Request-Id": hostile}).headers["x-request-id"] != hostile
        assert "x-request-id" not in http.get("/read/entries/nothing-there").headers
        failed = http.get("/api/my-work", headers={"X-Request-Id": "look-for-me"})
        assert failed.status_code == 500
        assert failed.json()["request"] == "look-for-me"
    written = capsys.readouterr().out
    assert "answered" in written
    assert ours in written
    assert "made-up fault" in written.split("a request failed")[1]
    assert "look-for-me" in written.split("a request failed")[1]


class Collector(BaseHTTPRequestHandler):
    """Takes what is traced."""

    took: list[bytes] = []

    def do_POST(self) -> None:
        """As a collector does."""
        self.took.append(self.rfile.read(int(self.headers["Content-Length"])))
        self.send_response(200)
        self.end_headers()

    def log_message(self, *_: object) -> None:
        """Nothing."""


def test_requests_are_traced_below_those_who_asked_without_what_is_secret(house: House) -> None:
    Collector.took.clear()
    server = HTTPServer(("127.0.0.1", 0), Collector)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    trace = "0af7651916cd43dd8448eb211c80319c"
    with (
        serving(house, traces=f"http://127.0.0.1:{server.server_port}/v1/traces") as (_, url),
        httpx.Client(base_url=url) as http,
    ):
        http.headers["Authorization"] = f"Bearer {house.log_in('ida')}"
        page = house.page("Lamp")
        assert http.get(
            f"/api/entries/{page}/en", headers={"traceparent": f"00-{trace}-b7ad6b7169203331-01"}
        ).is_success
        http.get("/api/health")
        http.get("/calendars/a-secret-address.ics")
        eventually(lambda: len(named(Collector.took)) >= 2)
    found = named(Collector.took)
    one = found["GET /api/entries/{id}/{locale}"]
    assert one.trace_id.hex() == trace
    assert one.parent_span_id.hex() == "b7ad6b7169203331"
    told = {a.key: a.value.string_value or a.value.int_value for a in one.attributes}
    assert told == {
        "http.request.method": "GET",
        "http.route": "/api/entries/{id}/{locale}",
        "http.response.status_code": 200,
    }
    everything = b"".join(Collector.took)
    assert b"secret-address" not in everything
    assert b"health" not in everything
    server.shutdown()
    server.server_close()


def named(took: list[bytes]) -> dict[str, Any]:
    """The spans that were taken, by name."""
    from opentelemetry.proto.collector.trace.v1.trace_service_pb2 import ExportTraceServiceRequest

    found = {}
    for data in took:
        for resource in ExportTraceServiceRequest.FromString(data).resource_spans:
            for scope in resource.scope_spans:
                found |= {span.name: span for span in scope.spans}
    return found
