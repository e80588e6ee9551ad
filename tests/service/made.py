"""A desk with a clock that the test moves, without a service around it."""

from __future__ import annotations

import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any, TypeVar

from hawthorn.core.access import Identity
from hawthorn.core.errors import HawthornError
from hawthorn.core.timeline import SECOND
from hawthorn.messages import WORDS
from hawthorn.operations.access import logging_in, people, permission
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.runtime.act import SCHEDULER, Act, setup_changed
from hawthorn.operations.runtime.bootstrap import found
from hawthorn.operations.runtime.pacing import Pace
from hawthorn.operations.translation import coverage
from hawthorn.operations.views import assembled, show
from hawthorn.service.app import create_asgi
from hawthorn.service.settings import Settings
from hawthorn.service.stopping import Server, server_for
from hawthorn.store import definitions
from hawthorn.store import people as people_store
from hawthorn.store.database import Database
from hawthorn.store.file_store import FileStore

T = TypeVar("T")
START = 1_800_000_000 * SECOND


class Clock:
    """A clock that stands still until it is moved."""

    def __init__(self, at: int = START) -> None:
        self.at = at

    def now(self) -> int:
        """The instant it was moved to."""
        return self.at


@cache
def _begun() -> bytes:
    """The record file of a house that has just been made; made once and copied for every test."""
    with tempfile.TemporaryDirectory() as folder:
        House(Path(folder), Clock(START)).close()
        return (Path(folder) / "house.sqlite").read_bytes()


class House:
    """A record file with a writer, an editor and a managing editor."""

    def __init__(
        self,
        folder: Path,
        clock: Clock | None = None,
        file_store: FileStore | None = None,
        pace: Pace = Pace(),
    ) -> None:
        self.clock = clock or Clock()
        self.path = folder / "house.sqlite"
        if clock is None and not self.path.exists():
            self.path.write_bytes(_begun())
        self.desk = assembled.desk(Database(self.path), self.clock, WORDS, file_store=file_store, pace=pace)
        found(self.desk)
        coverage.catch_up(self.desk)
        with self.desk.db.read() as conn:
            new = people_store.by_handle(conn, "ida") is None
        if new:
            for handle, role in (("ida", "managing-editor"), ("oda", "section-editor"), ("wim", "writer")):
                self.by_scheduler(self._adding(handle, role))

    @staticmethod
    def _adding(handle: str, role: str) -> Callable[[Act], Any]:
        return lambda act: people.add_person(
            act, handle, handle.title(), f"{handle}@x.example", "long enough", [{"name": role}]
        )

    def who(self, handle: str) -> Identity:
        """Somebody by handle."""
        with self.desk.db.read() as conn:
            row = people_store.by_handle(conn, handle)
            assert row is not None
            return permission.identity_of(conn, row.id)

    def do(self, handle: str, act: Callable[[Act], T]) -> T:
        """Let somebody do something, a second after what was before."""
        self.clock.at += SECOND
        return self.desk.write(self.who(handle), act)

    def would_end(self, handle: str, act: Callable[[Act], Any]) -> HawthornError | None:
        """What an act of somebody would end with, None where it would be done; nothing of it is kept."""

        def tried(a: Act) -> None:
            with a.trying() as trial:
                act(a)
                trial.keep(False)

        try:
            self.do(handle, tried)
        except HawthornError as error:
            return error
        return None

    def log_in(self, handle: str) -> str:
        """A session of somebody: its token."""

        def opened(act: Act) -> str:
            row = people_store.by_handle(act.conn, handle)
            assert row is not None
            return logging_in.log_in(act, row)

        return self.do("ida", opened)

    def by_scheduler(self, act: Callable[[Act], T]) -> T:
        """Let the scheduler do something."""
        with self.desk.db.read() as conn:
            identity = permission.identity_of(conn, SCHEDULER)
        return self.desk.write(identity, act)

    def speaks(self, **languages: str) -> None:
        """Add languages by their tags, with what they are called."""

        def add(act: Act) -> None:
            for tag, name in languages.items():
                definitions.add_locale(act.conn, tag, name)
            setup_changed(act)

        self.do("ida", add)

    def page(self, title: str, **fields: Any) -> str:
        """A page in draft."""
        return self.do(
            "wim",
            lambda a: entries.start(a, "page", "en", {"title": title, "body": "<p>Words.</p>", **fields}),
        )

    def signed(self, title: str, **fields: Any) -> str:
        """A page that was signed off."""
        uuid = self.page(title, **fields)
        self.do("wim", lambda a: review.submit(a, uuid, "en"))
        self.do("oda", lambda a: review.sign_off(a, uuid, "en", 1))
        return uuid

    def plan(self, uuids: list[str], seconds: float, verb: str = "release") -> str:
        """Plan something so many seconds ahead; returns the dispatch."""
        from hawthorn.core.timeline import iso

        when = When(instant=iso(self.clock.at + round((seconds + 1) * SECOND)))
        return self.do("ida", lambda a: dispatches.make(a, [MoveRequest(u, "en", verb) for u in uuids], when))

    def later(self, seconds: float) -> None:
        """Let time pass, and the scheduler look."""
        self.clock.at += round(seconds * SECOND)
        self.by_scheduler(lambda _: None)

    def standing(self, uuid: str, locale: str = "en") -> list[tuple[str, int, int, int | None]]:
        """Everything that stood of an edition: (stage, revision number, since, until)."""
        with self.desk.db.read() as conn:
            rows = conn.execute(
                "SELECT g.name, r.number, s.since, s.until FROM standing s JOIN stage g ON g.id = s.stage "
                "JOIN revision r ON r.id = s.revision JOIN edition d ON d.id = s.edition JOIN entry e ON e.id = d.entry "
                "WHERE e.uuid = ? AND d.locale = ? ORDER BY s.id",
                (uuid, locale),
            ).fetchall()
        return [tuple(row) for row in rows]

    def is_out(self, uuid: str, locale: str = "en") -> bool:
        """Whether an edition is out."""
        return any(stage == "release" and until is None for stage, _, _, until in self.standing(uuid, locale))

    def revision(self, uuid: str, locale: str = "en") -> show.Revision:
        """The newest revision of a draft, as the managing editor sees it."""
        found = self.desk.read(self.who("ida"), lambda view: show.entry(view, uuid, locale))["revision"]
        assert found is not None
        return found

    def state(self, dispatch: str) -> str:
        """The state of a dispatch."""
        with self.desk.db.read() as conn:
            return str(conn.execute("SELECT state FROM dispatch WHERE uuid = ?", (dispatch,)).fetchone()[0])

    def events(self) -> list[tuple[str, str]]:
        """All events as (kind, kind of actor)."""
        with self.desk.db.read() as conn:
            return [
                tuple(r) for r in conn.execute("SELECT kind, actor_kind FROM event ORDER BY seq").fetchall()
            ]

    def close(self) -> None:
        """Close the file."""
        self.desk.db.close()


@contextmanager
def serving(house: House, **settings: Any) -> Iterator[tuple[Server, str]]:
    """The service on a house, over real HTTP on loopback, in a thread: the server and its address."""
    chosen = Settings(file=house.path, followers=False, **settings)
    app = create_asgi(chosen, house.desk)
    server = server_for(app.stopping, app, "127.0.0.1", 0, "error", chosen.on_each_answer)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    until = time.monotonic() + 20
    while not server.started:
        if time.monotonic() > until or not thread.is_alive():
            raise AssertionError("the service did not start")
        time.sleep(0.01)
    port = server.servers[0].sockets[0].getsockname()[1]
    try:
        yield server, f"http://127.0.0.1:{port}"
    finally:
        server.stop()
        thread.join(60)
