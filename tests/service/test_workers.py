"""Several processes that answer for one service: as one they save, listen, count and limit; one that dies is begun again, and all stop together."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import httpx
import pytest
from prometheus_client.parser import text_string_to_metric_families
from pydantic import ValidationError

from hawthorn.client import Client
from hawthorn.core.errors import Fenced
from hawthorn.operations.access import people
from hawthorn.service import taking_over, workers
from hawthorn.service.settings import Settings
from hawthorn.service.shared import MOST, Shared, made_for
from tests.conftest import eventually, free_port
from tests.service.made import Clock, House
from tests.service.test_copies import serving as copying

PASSWORD = "long enough"
STARTS = 60.0
"""Seconds that a service may take to begin while tests run beside it."""


def house_at(folder: Path) -> House:
    return House(folder, Clock(time.time_ns() // 1000))


def alive(pid: int) -> bool:
    with suppress(OSError):
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    return False


def children(pid: int) -> list[int]:
    return [int(one) for one in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


def begun_as(pid: int) -> bytes:
    """What a process was begun with; nothing once it has ended, which it may do while it is looked at."""
    with suppress(OSError):
        return Path(f"/proc/{pid}/cmdline").read_bytes()
    return b""


class Several:
    """A service of several workers, as it is started by command."""

    def __init__(self, file: Path, count: int, *more: str) -> None:
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        command = [sys.executable, "-m", "hawthorn.cli.app", "serve", "--file", str(file)]
        self.process = subprocess.Popen(
            [*command, "--port", str(self.port), "--workers", str(count), *more],
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            text=True,
            cwd=file.parent,
        )
        try:
            eventually(lambda: self.process.poll() is not None or self.ready() == count, STARTS)
        except BaseException:
            self.process.kill()
            self.process.communicate()
            raise

    def workers(self) -> list[int]:
        """Their processes, the first one first."""
        return [pid for pid in children(self.process.pid) if b"hawthorn.service.worker" in begun_as(pid)]

    def ready(self) -> int:
        """How many of them answer."""
        with suppress(httpx.HTTPError):
            return round(self.told()["hawthorn_workers"])
        return 0

    def told(self) -> dict[str, float]:
        with httpx.Client(timeout=30) as http:
            answer = http.get(f"{self.url}/metrics").raise_for_status()
        sums: dict[str, float] = {}
        for family in text_string_to_metric_families(answer.text):
            for one in family.samples:
                if "le" not in one.labels:
                    # Of all routes together: which of them comes last depends on who was asked first.
                    sums[one.name] = sums.get(one.name, 0.0) + one.value
        return sums

    def client(self) -> Client:
        made = Client(self.url)
        made.log_in("ida", PASSWORD)
        return made

    def stop(self) -> int:
        self.process.terminate()
        return self.process.wait(60)


@contextmanager
def several(file: Path, count: int = 2, *more: str) -> Iterator[Several]:
    made = Several(file, count, *more)
    try:
        yield made
    finally:
        left = made.workers() if made.process.poll() is None else []
        made.process.kill()
        made.process.communicate()
        eventually(lambda: not any(map(alive, left)), STARTS)


def test_they_save_listen_count_and_limit_as_one(tmp_path: Path) -> None:
    house = house_at(tmp_path)
    pages = [house.page(f"Page {n}") for n in range(6)]
    _, secret = house.do(
        "ida", lambda a: people.issue_key(a, "A site", "reader", "program", ["draft"], "", [], 20)
    )
    house.close()
    with several(house.path, 3) as service:
        assert len(service.workers()) == 3
        heard: list[set[str]] = [set() for _ in range(6)]

        def listen(n: int) -> None:
            with service.client() as client, suppress(httpx.HTTPError):
                with client._http.stream("GET", "/events", timeout=60) as stream:
                    for line in stream.iter_lines():
                        heard[n].update(page for page in pages if page in line and "entry.saved" in line)
                        if "retry" in line or line.startswith(("event", "id", ":")):
                            begun[n].set()

        begun = [threading.Event() for _ in range(6)]
        listening = [threading.Thread(target=listen, args=(n,), daemon=True) for n in range(6)]
        for thread in listening:
            thread.start()
        assert all(event.wait(STARTS) for event in begun)
        wrong: list[object] = []

        def write(page: str) -> None:
            for n in range(8):
                # Each time by another connection, so by any of them; what was saved just now is there for all.
                with service.client() as client:
                    now = client.entry(page, "en")
                    client.save(page, "en", {"body": f"<p>Words {n}.</p>"}, etag=now.etag)
                with service.client() as client:
                    seen = client.entry(page, "en")
                    if seen.fields["body"] != f"<p>Words {n}.</p>":
                        wrong.append((page, n, seen))

        before = service.told()["hawthorn_write_lock_waits_total"]
        writing = [threading.Thread(target=write, args=(page,)) for page in pages]
        for thread in writing:
            thread.start()
        for thread in writing:
            thread.join(240)
        assert not wrong
        # Each of those who listen has heard of all, whoever saved.
        eventually(lambda: all(found == set(pages) for found in heard), STARTS)
        assert service.told()["hawthorn_write_lock_waits_total"] >= before + 48
        answers = []
        for _ in range(40):
            with httpx.Client(headers={"Authorization": f"Bearer {secret}"}, timeout=30) as http:
                answers.append(http.get(f"{service.url}/read/entries/{pages[0]}?locale=en&stage=draft"))
        codes = [answer.status_code for answer in answers]
        # Twenty, and what a minute gave meanwhile: not twenty of each worker.
        assert 20 <= codes.count(200) <= 30
        assert codes.count(200) + codes.count(429) == 40
        assert service.told()["hawthorn_workers"] == 3
        assert service.stop() == 0


def test_one_that_dies_is_begun_again_and_the_others_answer_meanwhile(tmp_path: Path) -> None:
    house = house_at(tmp_path)
    page = house.signed("Lamp")
    house.close()
    with several(house.path, 2) as service:
        first, second = service.workers()
        counted = service.told()["hawthorn_request_seconds_count"]
        os.kill(second, signal.SIGKILL)
        eventually(lambda: not alive(second))
        refused = 0
        for _ in range(30):
            try:
                assert httpx.get(f"{service.url}/api/health", timeout=30).status_code == 200
            except httpx.TransportError:
                # What it had let in, and nobody else.
                refused += 1
        assert refused <= 1
        eventually(lambda: len(service.workers()) == 2 and second not in service.workers(), STARTS)
        assert service.told()["hawthorn_workers_begun_again_total"] == 1
        # What was counted by the one that is gone stays counted.
        assert service.told()["hawthorn_request_seconds_count"] >= counted
        # The first one follows the log; whoever is begun in its place does so, too.
        os.kill(first, signal.SIGKILL)
        eventually(lambda: len(service.workers()) == 2 and first not in service.workers(), STARTS)
        with service.client() as client:
            client.dispatch([{"id": page, "locale": "en"}], when={"instant": _in(2)})
        eventually(lambda: httpx.get(f"{service.url}/read/entries/{page}").status_code == 200, STARTS)
        assert service.told()["hawthorn_workers_begun_again_total"] == 2


def _in(seconds: float) -> str:
    from datetime import UTC, datetime, timedelta

    return (datetime.now(UTC) + timedelta(seconds=seconds)).isoformat()


def test_nobody_is_left_when_whoever_began_them_is_killed_or_stopped(tmp_path: Path) -> None:
    house = house_at(tmp_path)
    house.close()
    for number in (signal.SIGKILL, signal.SIGTERM, signal.SIGINT):
        with several(house.path, 2) as service:
            pids = service.workers()
            begun, ended = threading.Event(), threading.Event()

            def listen(
                service: Several = service, begun: threading.Event = begun, ended: threading.Event = ended
            ) -> None:
                with suppress(httpx.HTTPError), service.client() as client:
                    with client._http.stream("GET", "/events", timeout=60) as stream:
                        begun.set()
                        for _ in stream.iter_lines():
                            pass
                ended.set()

            threading.Thread(target=listen, daemon=True).start()
            assert begun.wait(STARTS)
            os.kill(service.process.pid, number)
            code = service.process.wait(60)
            assert code == (-number if number == signal.SIGKILL else 0)
            eventually(lambda pids=pids: not any(map(alive, pids)), STARTS)
            assert ended.wait(30)


def test_a_replica_is_kept_of_what_any_of_them_wrote_and_all_are_fenced_off(tmp_path: Path) -> None:
    house = house_at(tmp_path)
    house.close()
    replica = (tmp_path / "replica").as_uri()
    with several(house.path, 2, "--replica", replica) as service:
        made = []
        for n in range(6):
            with service.client() as client:
                made.append(client.start("page", {"title": f"Told {n}", "body": "<p>Words.</p>"}).id)
        with copying(Settings(file=tmp_path / "copy.sqlite", follow=replica, followers=False)) as copy:

            def there() -> bool:
                with copy.desk.db.read() as conn:
                    known = {row[0] for row in conn.execute("SELECT uuid FROM entry")}
                return set(made) <= known

            eventually(there, STARTS)
        taking_over.take_over(replica, tmp_path / "taken.sqlite")
        for _ in range(8):
            with Client(service.url) as client, pytest.raises(Exception, match="taken over"):
                client.log_in("ida", PASSWORD)
        assert service.stop() == 0
    with pytest.raises(Fenced):
        workers.Workers(Settings(file=house.path, port=free_port(), workers=2, replica=replica))


def test_what_cannot_be_is_said_before_anything_is_begun(tmp_path: Path) -> None:
    house = house_at(tmp_path)
    house.close()
    with several(house.path, 2) as service:
        command = [sys.executable, "-m", "hawthorn.cli.app", "serve", "--file", str(house.path)]
        given = [*command, "--port", str(service.port), "--workers", "2"]
        found = subprocess.run(given, capture_output=True, text=True, timeout=60)
        assert found.returncode != 0
        assert f"port {service.port}" in found.stderr
        assert "Traceback" not in found.stderr
    for wrong in ({"workers": 0}, {"workers": MOST + 1}, {"workers": 2, "follow": "file:///replica"}):
        with pytest.raises(ValidationError):
            Settings(file=house.path, **wrong)  # type: ignore[arg-type]


def test_one_that_dies_again_and_again_is_waited_for_longer_each_time(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    house = house_at(tmp_path)
    house.close()
    service = workers.Workers(Settings(file=house.path, port=free_port(), workers=1))
    try:
        one = workers.Worker(subprocess.Popen(["true"]), time.monotonic())
        one.process.wait()
        pauses = []
        for _ in range(8):
            one.since = now = time.monotonic()
            service._ended(0, one)
            assert one.due is not None
            pauses.append(round(one.due - now))
        assert pauses == [1, 2, 4, 8, 16, 30, 30, 30]
        one.since = time.monotonic() - workers.SOUND - 1
        service._ended(0, one)
        assert one.due is not None
        assert one.due <= time.monotonic()
    finally:
        service.door.close()


def test_what_is_counted_in_memory_that_all_see_is_the_sum_of_all(tmp_path: Path) -> None:
    memory = made_for(3)
    each = [Shared(memory, 3, n) for n in range(3)]
    for one in each:
        one.begin()
    expected: dict[tuple[str, str, str], int] = {}
    for n in range(3_000):
        # More routes than there is room for are left out, and break nothing.
        key = ("GET", f"/one/{n % 2_500}" if n % 3 else "/all", "2xx")
        each[n % 3].add(key, n / 1000)
        expected[key] = expected.get(key, 0) + 1
    found = each[0].times()
    assert {key: one.count for key, one in found.items()} == expected
    assert sum(sum(one.within) for one in found.values()) == 3_000
    assert sum(one.seconds for one in found.values()) == pytest.approx(sum(range(3_000)) / 1000)
    # One that is begun again goes on counting where the one before it was.
    again = Shared(memory, 3, 0)
    again.begin()
    again.add(("GET", "/all", "2xx"), 1)
    assert each[1].times()["GET", "/all", "2xx"].count == expected["GET", "/all", "2xx"] + 1
    for _ in range(5_000):
        each[0].add(("GET", f"/made/{_}", "2xx"), 0)
    assert len(each[0].times()) <= 3 * 2_048
    os.close(memory)
