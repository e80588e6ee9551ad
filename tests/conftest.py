"""The museum, running on loopback, for every test that goes over real HTTP."""

from __future__ import annotations

import atexit
import logging
import os
import resource
import shutil
import socket
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, nullcontext
from datetime import datetime, timedelta
from functools import cache
from pathlib import Path

import httpx
import pyotp
import pytest
import structlog
from argon2 import PasswordHasher
from httpx._transports import default
from hypothesis import core as hypothesis_core
from hypothesis import settings
from typer import testing

from hawthorn import wire
from hawthorn.cli import app
from hawthorn.client import Client
from hawthorn.core import timeline
from hawthorn.core.messages import MessageError
from hawthorn.demo import museum as made_up
from hawthorn.demo.parts import Demo
from hawthorn.demo.places import Doors
from hawthorn.messages import ENGLISH
from hawthorn.operations.access import logging_in
from hawthorn.operations.runtime.act import SystemClock
from hawthorn.store import migrate

# Examples are not timed, as the machine may be busy; CI tries the same ones each time, a developer new ones.
settings.register_profile("ci", deadline=None, derandomize=True)
settings.register_profile("here", deadline=None)
settings.load_profile("ci" if os.environ.get("CI") else "here")
# No example asks for chance by itself, only by its strategies: for each, what nobody asks would be put aside, begun anew and put back.
hypothesis_core.deterministic_PRNG = nullcontext  # type: ignore[assignment]
# In memory where there is room: no test takes the power away, and what is killed has written what it confirmed.
_MEMORY = Path("/dev/shm")
if _MEMORY.is_dir() and os.access(_MEMORY, os.W_OK) and shutil.disk_usage(_MEMORY).free > 4 << 30:
    os.environ.setdefault("PYTEST_DEBUG_TEMPROOT", str(_MEMORY))
MessageError.__str__ = lambda self: ENGLISH.text(self.message)  # type: ignore[method-assign]
# What is expected of an error is what people read.
REAL_HASHER = logging_in._HASHER
"""What passwords are hashed with outside of tests, where many people log in."""
logging_in._HASHER = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)
# The tree of commands is put together once for a process, not for each command that is tried.
app.assembled = cache(app.assembled)
testing._get_command = cache(testing._get_command)  # type: ignore[attr-defined]
# Whom to trust is read once, not for each of some thousand calls over loopback.
default.create_ssl_context = cache(default.create_ssl_context)  # type: ignore[attr-defined]
# What a fault says as it is: to draw it with what every name held takes seconds.
structlog.configure(
    processors=[
        *structlog.get_config()["processors"][:-1],
        structlog.dev.ConsoleRenderer(exception_formatter=structlog.dev.plain_traceback),
    ]
)
_MIGRATE, _STEPS = migrate.migrate, migrate.steps
_EMPTY, _ONE_AT_A_TIME = list[sqlite3.Connection](), threading.Lock()


def _migrated(conn: sqlite3.Connection, path: Path | None = None) -> list[migrate.Step]:
    """Bring a file up to date; a new one is copied from one that went through all migrations, which is done once a process."""
    new = conn.execute("SELECT count(*) FROM sqlite_master").fetchone()[0] == 0
    if path is None or not new or migrate.steps is not _STEPS:
        return _MIGRATE(conn, path)
    with _ONE_AT_A_TIME:
        if not _EMPTY:
            _EMPTY.append(sqlite3.connect(":memory:", check_same_thread=False))
            _EMPTY[0].row_factory = sqlite3.Row
            _EMPTY[0].isolation_level = None
            _MIGRATE(_EMPTY[0])
            atexit.register(_EMPTY[0].close)
        _EMPTY[0].backup(conn)
    return _STEPS()


migrate.migrate = _migrated
PICTURE_FIELDS = {"kind": "event"}


class Ahead(SystemClock):
    """The machine's clock, and as far ahead of it as a test moves it: what is planned need not be waited for."""

    def __init__(self) -> None:
        self.by = 0

    def now(self) -> int:
        """The instant in microseconds UTC."""
        return super().now() + self.by


class Running:
    """A running museum and its people."""

    def __init__(self, demo: Demo, clock: Ahead) -> None:
        self.demo = demo
        self.clock = clock
        self.url = demo.ports.url("service")
        self._clients: dict[str, Client] = {}

    def as_(self, handle: str) -> Client:
        """A client logged in as somebody."""
        if handle not in self._clients:
            client = Client(self.url)
            client.log_in(handle, made_up.PASSWORD)
            self._clients[handle] = client
        return self._clients[handle]

    def id(self, title: str) -> str:
        """The id of an entry by its title."""
        return next(m.id for m in self.as_("ida").look_up(title).items if m.title == title)

    def notice(self, title: str, by: str = "wim", **more: object) -> wire.views.Entry:
        """A complete notice, drafted by a writer."""
        fields = {
            "title": title,
            "body": f"<p>{title} is at ten. Bring a coat.</p>",
            **PICTURE_FIELDS,
            **more,
        }
        return self.as_(by).start("notice", fields)

    def signed(self, title: str, **more: object) -> wire.views.Entry:
        """A notice that was submitted and signed off."""
        entry = self.notice(title, **more)
        self.as_("wim").submit(entry.id, "en", "Ready.")
        return self.as_("tomas").sign_off(entry.id, "en", 1)

    def out(self, title: str) -> wire.views.Entry:
        """A notice that is out."""
        entry = self.signed(title)
        self.as_("jonas").dispatch([{"id": entry.id, "locale": "en"}])
        return self.as_("wim").entry(entry.id, "en")

    def mails(self, subject: str) -> list[dict[str, str]]:
        """The mails that were caught with a subject."""
        return [m for m in self.demo.mailbox.mails if m["subject"] == subject]

    def soon(self) -> datetime:
        """Two minutes from the museum's now."""
        return timeline.to_datetime(self.clock.now()) + timedelta(minutes=2)

    def code(self, secret: str) -> str:
        """What an authenticator shows by the museum's clock."""
        return pyotp.TOTP(secret).at(self.clock.now() // timeline.SECOND)

    def pass_by(self, instant: datetime) -> None:
        """Move the clock to just after an instant that is soon, and wake whoever waits for it."""
        self.clock.by += max(timeline.from_datetime(instant) - self.clock.now(), 0) + 1
        self.demo.desk.db.bell.ring(["dispatch."])

    def close(self) -> None:
        """Close what was opened."""
        for client in self._clients.values():
            client.close()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Browser tests come last: the browser's driver leaves an event loop running in this thread. Of those, the many short ones
    end the run, so that no worker waits for another's long one."""

    def late(item: pytest.Item) -> tuple[bool, bool]:
        return item.path.parent.name == "console", item.path.name == "test_accessible.py"

    items.sort(key=late)


def eventually(look: Callable[[], object], seconds: float = 40) -> object:
    """Wait until something holds; fail when it does not in time."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        found = look()
        if found:
            return found
        time.sleep(0.05)
    raise AssertionError("it did not come true in time")


@contextmanager
def more_open_than_select_takes() -> Iterator[None]:
    """As much open as in a service to which more than a thousand listen (`select` takes no number of a file above 1,023)."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (hard, hard))
    opened: list[int] = []
    try:
        while not opened or opened[-1] < 1100:
            opened.append(os.open(os.devnull, os.O_RDONLY))
        yield
    finally:
        for one in opened:
            os.close(one)
        resource.setrlimit(resource.RLIMIT_NOFILE, (soft, hard))


def free_port() -> int:
    """A port that is free now, for a process that is told where to listen."""
    with socket.create_server(("127.0.0.1", 0)) as door:
        port: int = door.getsockname()[1]
        return port


@pytest.fixture(scope="session")
def running(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    """One museum for the whole session; tests make entries of their own."""
    folder: Path = tmp_path_factory.mktemp("museum")
    clock = Ahead()
    with socket.socket() as silent:
        # Bound and not listened to: whoever calls is refused, whatever runs on this machine.
        silent.bind(("127.0.0.1", 0))
        own_site = silent.getsockname()[1]
        demo = Demo(
            folder, Doors(), seconds_a_unit=0.05, pause=0.1, clock=clock, own_site=own_site, whole=False
        )
        demo.start()
        running = Running(demo, clock)
        yield running
        running.close()
        demo.stop()


@pytest.fixture(scope="session")
def _buckets() -> Iterator[str]:
    # Loaded by those who need it: it takes its time.
    from moto.server import ThreadedMotoServer

    logging.getLogger("werkzeug").setLevel(logging.ERROR)
    server = ThreadedMotoServer(ip_address="127.0.0.1", port=0, verbose=False)
    server.start()
    host, port = server.get_host_and_port()
    assert httpx.put(f"http://{host}:{port}/museum").status_code == 200
    yield f"http://{host}:{port}"
    server.stop()


@pytest.fixture
def endpoint(_buckets: str, monkeypatch: pytest.MonkeyPatch) -> str:
    """A small store of objects on loopback (the protocol of S3) with a bucket called museum, opened by what the environment holds."""
    for name in ("AWS_ACCESS_KEY_ID", "AWS_SECRET_ACCESS_KEY"):
        monkeypatch.setenv(name, "made-up")
    monkeypatch.setenv("AWS_REGION", "us-east-1")
    # With one Litestream cannot be begun, and nothing here is reached by HTTPS.
    monkeypatch.delenv("AWS_CA_BUNDLE", raising=False)
    return _buckets


@pytest.fixture
def http(running: Running) -> Iterator[httpx.Client]:
    """Plain HTTP to the service, as nobody."""
    with httpx.Client(base_url=running.url, follow_redirects=False) as client:
        yield client
