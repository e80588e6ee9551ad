"""Copies that read, kept up by the real program: whole states only, never back in time for anybody, and nothing written; and a standby that takes over."""

from __future__ import annotations

import fcntl
import os
import random
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager, suppress
from pathlib import Path
from typing import Any, TypeVar

import httpx
import pytest
from prometheus_client.parser import text_string_to_metric_families

from hawthorn.client import Client, Refusal
from hawthorn.core import positions
from hawthorn.core.errors import BadStore, Busy, Fenced, HawthornError, InTheWay, Invalid, OnlyReads
from hawthorn.operations.access import permission
from hawthorn.operations.content import changing, entries
from hawthorn.operations.delivery import previews
from hawthorn.operations.delivery.previews import LinkWish
from hawthorn.operations.release import dispatches
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.runtime.act import Act, Desk, SystemClock
from hawthorn.service import alongside, litestream, taking_over
from hawthorn.service.alongside import Alongside
from hawthorn.service.app import create_asgi, open_desk
from hawthorn.service.copying import BEHIND, LEAST, POSITION, WRITER
from hawthorn.service.settings import Settings
from hawthorn.service.stopping import server_for
from hawthorn.store import checks, connection, events, outbox, people, terms
from hawthorn.store.copies import TURN, Copy
from tests.conftest import eventually
from tests.service.made import House

T = TypeVar("T")
NOTE: dict[str, Any] = {
    "name": "note",
    "label": "Note",
    "workflow": "short",
    "fields": [{"name": "title", "kind": "line", "required": True}, {"name": "body", "kind": "rich"}],
}


class Service:
    """A service as it is started by command, in a thread."""

    def __init__(self, beside: Alongside, desk: Desk, url: str) -> None:
        self.beside, self.desk, self.url = beside, desk, url

    def do(self, act: Callable[[Act], T]) -> T:
        """Let the managing editor do something."""
        with self.desk.db.read() as conn:
            row = people.by_handle(conn, "ida")
            assert row is not None
            identity = permission.identity_of(conn, row.id)
        return self.desk.write(identity, act)

    def started(self, title: str) -> str:
        uuid: str = self.do(lambda a: entries.start(a, "note", "en", {"title": title}))
        return uuid

    def out(self, *uuids: str) -> None:
        self.do(lambda a: dispatches.make(a, [MoveRequest(u, "en") for u in uuids]))

    def renamed(self, uuids: list[str], title: str) -> None:
        """All at once under another title, in one dispatch."""

        def do(act: Act) -> None:
            for uuid in uuids:
                entries.save(act, uuid, "en", {"title": title}, entries.base_now(act, uuid, "en"))

        self.do(do)
        self.out(*uuids)

    @property
    def position(self) -> tuple[int, int]:
        with self.desk.db.read() as conn:
            return checks.position(conn)


@contextmanager
def serving(settings: Settings) -> Iterator[Service]:
    beside = alongside.begin(settings)
    desk = open_desk(settings, db=beside.db)
    app = create_asgi(settings, desk)
    server = server_for(app.stopping, beside.in_front(app), "127.0.0.1", 0, "error")
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    try:
        eventually(lambda: server.started)
        port = server.servers[0].sockets[0].getsockname()[1]
        yield Service(beside, desk, f"http://127.0.0.1:{port}")
    finally:
        server.stop()
        thread.join(30)
        beside.db.close()
        beside.stop()


class Fleet:
    """A service that writes, with a replica, and copies of it."""

    def __init__(self, folder: Path, replica: str = "") -> None:
        self.folder = folder
        self.replica = replica or (folder / "replica").as_uri()
        house = House(folder, SystemClock())  # type: ignore[arg-type]
        self.path = house.path
        house.close()
        self._open = ExitStack()
        self.writer = self.write(self.path)
        self.writer.do(lambda a: changing.define_type(a, NOTE))

    def write(self, file: Path) -> Service:
        settings = Settings(file=file, followers=False, replica=self.replica)
        return self._open.enter_context(serving(settings))

    def copy(self, name: str, **more: Any) -> Service:
        given = {"follow": self.replica, "writer": self.writer.url, "followers": False, **more}
        return self._open.enter_context(serving(Settings(file=self.folder / name, **given)))

    def close(self) -> None:
        self._open.close()


@pytest.fixture
def fleet(tmp_path: Path) -> Iterator[Fleet]:
    made = Fleet(tmp_path)
    yield made
    made.close()


def db_of(service: Service) -> Copy:
    assert isinstance(service.desk.db, Copy)
    return service.desk.db


def follower_of(service: Service) -> litestream.Following:
    found: litestream.Following = service.beside.stop.__self__  # type: ignore[attr-defined]
    return found


class Reader(threading.Thread):
    """Reads from any copy, with what it has seen; notes what was torn or went back."""

    def __init__(self, urls: list[str], count: int, until: float) -> None:
        super().__init__(daemon=True)
        self.urls, self.count, self.until = urls, count, until
        self.seen = (0, 0)
        self.newest = 0
        self.reads = self.passed_on = 0
        self.wrong: list[str] = []

    def run(self) -> None:
        rng = random.Random(self.name)
        with httpx.Client(timeout=30) as http:
            while time.monotonic() < self.until:
                url = f"{rng.choice(self.urls)}/read/entries?type=note&limit=100"
                headers = {LEAST: f"{self.seen[0]}.{self.seen[1]}"}
                answer = http.get(url, headers=headers)
                if answer.status_code == 307:
                    self.passed_on += 1
                    answer = http.get(answer.headers["location"], headers=headers)
                if answer.status_code == 503 and "retry-after" in answer.headers:
                    # The copy was lost in the midst of it.
                    continue
                if answer.status_code != 200:
                    self.wrong.append(f"{answer.status_code} {answer.text[:300]}")
                    continue
                self._look(answer)
                # Room for whoever writes, and for the programs.
                time.sleep(0.01)

    def _look(self, answer: httpx.Response) -> None:
        self.reads += 1
        titles = {one["title"] for one in answer.json()["items"]}
        if len(titles) != 1 or len(answer.json()["items"]) != self.count:
            self.wrong.append(f"torn: {sorted(titles)}, {len(answer.json()['items'])} items")
            return
        number = int(titles.pop())
        if number < self.newest:
            self.wrong.append(f"back from {self.newest} to {number}")
        self.newest = max(self.newest, number)
        self.seen = max(self.seen, positions.parse(answer.headers[POSITION]))


def titles_at(url: str) -> list[str]:
    """What a copy shows; nothing while it is made anew."""
    found = httpx.get(f"{url}/read/entries?type=note&limit=100").json()
    return [one["title"] for one in found.get("items", [])]


def measures(http: httpx.Client) -> dict[str, Any]:
    """What a service tells those who watch it, as the reader of Prometheus reads it; of information what it says."""
    answer = http.get("/metrics")
    assert answer.headers["content-type"].startswith("text/plain")
    found: dict[str, Any] = {}
    for family in text_string_to_metric_families(answer.text):
        for one in family.samples:
            found[one.name] = one.labels or one.value
    return found


def test_whoever_reads_sees_whole_dispatches_and_never_goes_back(fleet: Fleet) -> None:
    """Three copies, a writer at work, programs killed and held up: what is read is one dispatch throughout, and no older than what was read before."""
    uuids = [fleet.writer.started("0") for _ in range(40)]
    fleet.writer.out(*uuids)
    some = [fleet.copy(f"copy{n}.sqlite") for n in range(3)]
    urls = [one.url for one in some]
    for url in urls:
        eventually(lambda u=url: len(titles_at(u)) == 40)
    until = time.monotonic() + 6
    readers = [Reader(urls, 40, until) for _ in range(3)]
    for one in readers:
        one.start()
    rng = random.Random(7)
    number = 0
    while time.monotonic() < until - 1:
        number += 1
        fleet.writer.renamed(uuids, str(number))
        unlucky = follower_of(rng.choice(some))._child
        assert unlucky is not None
        with suppress(ProcessLookupError):
            if number % 3 == 0:
                os.kill(unlucky.pid, signal.SIGKILL)
            elif number % 3 == 1:
                os.kill(unlucky.pid, signal.SIGSTOP)
                time.sleep(rng.random() / 3)
                os.kill(unlucky.pid, signal.SIGCONT)
    for one in readers:
        one.join(60)
    assert [wrong for one in readers for wrong in one.wrong] == []
    assert number > 1
    assert sum(one.reads for one in readers) > 9
    # In the end all of them come to the same, and nobody keeps the file open.
    for copy in some:
        eventually(lambda u=copy.url: set(titles_at(u)) == {str(number)})
        eventually(lambda c=copy: db_of(c).readers == 0)
    eventually(lambda: not [t for t in threading.enumerate() if t.name == "hawthorn-turns"])


def test_a_copy_answers_those_who_read_and_passes_on_the_rest(fleet: Fleet) -> None:
    uuid = fleet.writer.started("One")
    fleet.writer.out(uuid)
    draft = fleet.writer.started("A draft")
    link = fleet.writer.do(lambda a: previews.give_link(a, LinkWish(scope="entry", entry=draft)))
    word = fleet.writer.do(lambda a: previews.token(a, link))
    key = fleet.path.with_name(f"{fleet.path.name}.key")
    copy, alone = fleet.copy("a.sqlite", key_file=key), fleet.copy("b.sqlite", writer="")
    with httpx.Client(base_url=copy.url) as http, Client(fleet.writer.url) as client:
        answer = eventually(
            lambda: (a := http.get(f"/read/entries/{uuid}?locale=en")).status_code == 200 and a
        )
        assert isinstance(answer, httpx.Response)
        assert answer.json()["title"] == "One"
        assert positions.parse(answer.headers[POSITION]) == fleet.writer.position
        assert http.get(f"/read/entries/{uuid}", headers={"Accept-Encoding": "gzip"}).json()["title"] == "One"
        had = http.get(f"/read/entries/{uuid}?locale=en", headers={"If-None-Match": answer.headers["etag"]})
        assert had.status_code == 304
        asked = http.post("/read/questions", json={"questions": {"n": {"types": ["note"]}}})
        assert [one["title"] for one in asked.json()["answers"]["n"]["items"]] == ["One"]
        for path in ("/read/outline", "/read/counts?by=month", "/api/health", "/read/entries?type=note"):
            assert http.get(path).status_code == 200, path
        assert http.get(f"/read/entries/{draft}").status_code == 404
        assert http.get(f"/read/entries/{draft}", params={"preview": word}).json()["title"] == "A draft"
        health = http.get("/api/health").json()
        assert (health["ok"], health["writer"], health["behind"]) == (True, fleet.writer.url, 0.0)
        watched = measures(http)
        assert watched["hawthorn_info"] == {"version": health["version"], "kind": "copy"}
        assert (watched["hawthorn_behind_seconds"], watched["hawthorn_troubles"]) == (0.0, 0.0)
        term, _, event = health["position"].partition(".")
        assert (watched["hawthorn_position_term"], watched["hawthorn_position_event"]) == (
            int(term),
            int(event),
        )
        with httpx.Client(base_url=fleet.writer.url) as writer:
            theirs = measures(writer)
        assert theirs["hawthorn_info"]["kind"] == "writer"
        assert "hawthorn_behind_seconds" not in theirs
        assert theirs["process_resident_memory_bytes"] > 1e7
        assert float(http.get("/read/outline").headers[BEHIND]) == 0
        for method, path in (
            ("POST", "/api/session"),
            ("PUT", f"/api/entries/{uuid}/limit"),
            ("GET", "/api/entries?words=a%20b"),
            ("GET", "/"),
            ("GET", "/read/changes?preview=x"),
            ("POST", f"/read/entries/{uuid}/unlock"),
        ):
            passed = http.request(method, path)
            assert (passed.status_code, passed.headers["location"]) == (307, f"{fleet.writer.url}{path}")
            assert passed.headers[WRITER] == fleet.writer.url
            refused = httpx.request(method, f"{alone.url}{path}")
            assert refused.status_code == 421, path
            assert refused.json()["type"].endswith("only-reads")
        with pytest.raises(OnlyReads):
            db_of(copy).write(lambda conn: None)
        # What somebody has just done they see, wherever they read next.
        client.log_in("ida", "long enough")
        before = copy.position
        made = client.start("note", {"title": "Two"}, locale="en")
        fleet.writer.out(made.id)
        least = ".".join(map(str, fleet.writer.position))
        seen = http.get(f"/read/entries/{made.id}", headers={LEAST: least})
        assert (seen.status_code, seen.json()["title"]) == (200, "Two")
        assert positions.parse(seen.headers[POSITION]) >= fleet.writer.position > before
        for wrong in ("x", "1", "-1.2", "1.2.3", "9" * 40):
            assert http.get(f"/read/entries/{uuid}", headers={LEAST: wrong}).status_code == 422
        ahead = http.get(f"/read/entries/{uuid}", headers={LEAST: "1.999999999"})
        assert ahead.status_code == 307
        late = httpx.get(f"{alone.url}/read/entries/{uuid}", headers={LEAST: "1.999999999"})
        assert (late.status_code, late.headers["retry-after"]) == (503, "2")
    # Whoever writes says how far it has come to whoever asks, and after each change.
    told = httpx.get(f"{fleet.writer.url}/read/entries/{uuid}", headers={LEAST: least})
    assert positions.parse(told.headers[POSITION]) == fleet.writer.position
    assert POSITION not in httpx.get(f"{fleet.writer.url}/read/entries/{uuid}?locale=en").headers


def test_a_copy_that_may_be_half_of_something_is_not_read(fleet: Fleet, tmp_path: Path) -> None:
    uuid = fleet.writer.started("One")
    fleet.writer.out(uuid)
    copy = fleet.copy("a.sqlite")
    eventually(lambda: httpx.get(f"{copy.url}/read/entries/{uuid}").status_code == 200)
    db_of(copy).lost()
    for path in (f"/read/entries/{uuid}?locale=en", "/read/entries?type=note"):
        answer = httpx.get(f"{copy.url}{path}")
        assert (answer.status_code, answer.headers["location"]) == (307, f"{fleet.writer.url}{path}")
    db_of(copy).writer = ""
    answer = httpx.get(f"{copy.url}/read/entries/{uuid}?locale=en")
    assert (answer.status_code, answer.headers["retry-after"]) == (503, "2")
    with pytest.raises(Busy), db_of(copy).read():
        pass
    db_of(copy).moved(db_of(copy).path)
    assert httpx.get(f"{copy.url}/read/entries/{uuid}?locale=en").status_code == 200
    for settings in (
        Settings(file=tmp_path / "n.sqlite", follow=(tmp_path / "nowhere").as_uri()),
        Settings(file=tmp_path / "n.sqlite", follow="file:///"),
    ):
        with pytest.raises(BadStore) as error:
            alongside.begin(settings)
        assert error.value.message.code == "copies.no_replica"


def test_a_standby_takes_over_and_the_old_one_writes_no_more(fleet: Fleet, tmp_path: Path) -> None:
    copy = fleet.copy("a.sqlite")
    acknowledged: dict[str, float] = {}
    stopping = threading.Event()

    def writing() -> None:
        while not stopping.is_set():
            try:
                uuid = fleet.writer.started("Written")
            except HawthornError:
                return
            acknowledged[uuid] = time.monotonic()
            time.sleep(0.01)

    at_work = threading.Thread(target=writing, daemon=True)
    at_work.start()
    time.sleep(1.5)
    with fleet.writer.desk.db.read() as conn:
        assert outbox.parked(conn) == []
    fleet.writer.desk.db.write(lambda c: outbox.put(c, "mail", "m1", 1, "a@x.example", "{}", 0))
    rehearsed = taking_over.rehearse(fleet.replica)
    assert (rehearsed.term, terms.required(fleet.replica).latest()) == (2, 1)
    with pytest.raises(InTheWay):
        taking_over.take_over(fleet.replica, fleet.path)
    file = tmp_path / "new.sqlite"
    # What has still to be sent as the other takes over comes along.
    replicating = fleet.writer.beside.stop.__self__._child._running  # type: ignore[attr-defined]
    replicating.send_signal(signal.SIGSTOP)
    time.sleep(1.5)
    late = threading.Timer(0.9, replicating.send_signal, [signal.SIGCONT])
    late.start()
    begun = time.monotonic()
    found = taking_over.take_over(fleet.replica, file)
    took = time.monotonic() - begun
    at_work.join(10)
    assert not at_work.is_alive(), "the old one was refused while it ran"
    with pytest.raises(Fenced):
        fleet.writer.started("Too late")
    with Client(fleet.writer.url) as client, pytest.raises(Refusal) as refused:
        client.log_in("ida", "long enough")
    assert (refused.value.problem.status, refused.value.slug) == (503, "fenced")
    assert (found.term, found.parked) == (2, 1)
    assert took < 20
    # Nothing is lost but what was acknowledged in the last second before.
    new = fleet.write(file)
    conn = connection.open_still(file)
    have = {row[0] for row in conn.execute("SELECT uuid FROM entry")}
    last = max(acknowledged.values())
    lost = [at for uuid, at in acknowledged.items() if uuid not in have]
    late.join()
    assert all(last - at < 1 for at in lost), sorted(last - at for at in lost)
    assert len(acknowledged) > 20
    assert list(events.verify(conn)) == []
    conn.close()
    # All of it is for its owner alone, as the record file is.
    for holds in (tmp_path / "replica", db_of(copy).path.parent, db_of(copy).path, file):
        assert holds.stat().st_mode & 0o077 == 0, holds
    # The old one, coming back, refuses; the new one writes, and copies follow it by themselves.
    with pytest.raises(Fenced) as error:
        alongside.begin(Settings(file=fleet.path, replica=fleet.replica))
    assert error.value.facts["term"] == 2
    made = new.started("By the new one")
    new.out(made)
    assert new.position[0] == 2
    eventually(lambda: httpx.get(f"{copy.url}/read/entries/{made}").status_code == 200, 30)
    assert db_of(copy).position() == new.position
    # What waited was kept back, and is let go by whoever looked.
    with new.desk.db.read() as conn:
        assert [row.stable_id for row in outbox.parked(conn)] == ["m1"]
    assert new.desk.db.write(lambda c: outbox.end_parked(c, send=True, now=5)) == 1
    with new.desk.db.read() as conn:
        assert [r[0] for r in conn.execute("SELECT state FROM outbox WHERE stable_id = 'm1'")] == ["waiting"]


def test_of_two_who_take_over_at_once_one_does(fleet: Fleet, tmp_path: Path) -> None:
    fleet.writer.started("One")
    time.sleep(0.6)
    done: list[object] = []

    def take(name: str) -> None:
        try:
            done.append(taking_over.take_over(fleet.replica, tmp_path / name).term)
        except Fenced as error:
            done.append(error.message.code)

    both = [threading.Thread(target=take, args=(name,)) for name in ("x.sqlite", "y.sqlite")]
    for one in both:
        one.start()
    for one in both:
        one.join(60)
    assert sorted(map(str, done)) in (["2", "3"], ["2", "copies.taken_meanwhile"])
    # Whoever took over and ended before it wrote anything leaves what there was to the next.
    found = taking_over.take_over(fleet.replica, tmp_path / "z.sqlite")
    assert found.term == max(one for one in done if isinstance(one, int)) + 1


def test_who_writes_while_the_folder_cannot_be_reached_is_refused(fleet: Fleet, tmp_path: Path) -> None:
    folder = tmp_path / "replica"
    fleet.writer.started("One")
    folder.rename(tmp_path / "elsewhere")
    with pytest.raises(Fenced) as error:
        fleet.writer.started("Two")
    assert error.value.message.code == "copies.cannot_know"
    (tmp_path / "elsewhere").rename(folder)
    assert fleet.writer.started("Three")
    for url in ("sftp://host/x", "file://host/x", "https://x.example", "s3:///x"):
        with pytest.raises(Invalid):
            taking_over.rehearse(url)
    with pytest.raises(BadStore):
        taking_over.rehearse((tmp_path / "nothing").as_uri())


def test_a_standby_takes_over_by_a_bucket_too(tmp_path: Path, endpoint: str) -> None:
    url = f"s3://museum/{tmp_path.name}?endpoint={endpoint}&forcePathStyle=true&region=us-east-1"
    fleet = Fleet(tmp_path, url)
    try:
        copy = fleet.copy("copy.sqlite")
        uuid = fleet.writer.started("One")
        fleet.writer.out(uuid)
        eventually(lambda: httpx.get(f"{copy.url}/read/entries/{uuid}").status_code == 200, 30)
        assert taking_over.rehearse(url).term == 2
        acknowledged: dict[str, float] = {}

        def writing() -> None:
            with suppress(Fenced):
                while True:
                    acknowledged[fleet.writer.started("Again")] = time.monotonic()
                    time.sleep(0.02)

        at_work = threading.Thread(target=writing, daemon=True)
        at_work.start()
        time.sleep(0.5)
        # What is sent late, and what is written in the second in which the old one has not looked, comes along.
        replicating = fleet.writer.beside.stop.__self__._child._running  # type: ignore[attr-defined]
        replicating.send_signal(signal.SIGSTOP)
        time.sleep(0.7)
        threading.Timer(2, replicating.send_signal, [signal.SIGCONT]).start()
        taken: list[object] = []

        def take(name: str) -> None:
            try:
                taken.append(taking_over.take_over(url, tmp_path / name).term)
            except Fenced as error:
                taken.append(error.message.code)

        both = [threading.Thread(target=take, args=(name,)) for name in ("x.sqlite", "y.sqlite")]
        for one in both:
            one.start()
        for one in both:
            one.join(60)
        assert sorted(map(str, taken)) in (["2", "3"], ["2", "copies.taken_meanwhile"])
        at_work.join(10)
        assert not at_work.is_alive(), "the old one was refused while it ran"
        # Whoever won has all that was acknowledged; who lost has no file.
        file = next(one for one in (tmp_path / "x.sqlite", tmp_path / "y.sqlite") if one.exists())
        conn = connection.open_still(file)
        have = {row[0] for row in conn.execute("SELECT uuid FROM entry")}
        assert len(acknowledged) > 5
        assert set(acknowledged) <= have
        conn.close()
        if "copies.taken_meanwhile" in taken:
            new = fleet.write(file)
            made = new.started("By the new one")
            new.out(made)
            assert new.position[0] == 2
            eventually(lambda: httpx.get(f"{copy.url}/read/entries/{made}").status_code == 200, 30)
        with pytest.raises(Fenced):
            alongside.begin(Settings(file=fleet.path, replica=url))
    finally:
        fleet.close()


def test_who_writes_while_the_bucket_cannot_be_reached_is_refused(
    endpoint: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    place = terms.required(f"s3://museum/unreached?endpoint={endpoint}&region=us-east-1")
    place.begin(1)
    with pytest.raises(Fenced):
        place.begin(1)
    check = place.fence(1)
    check()
    place.begin(2)
    check()
    monkeypatch.setattr(terms, "_TRUSTED", 0.0)
    with pytest.raises(Fenced) as fenced:
        check()
    assert fenced.value.facts["term"] == 2
    nowhere = terms.required("s3://museum/unreached?endpoint=http://127.0.0.1:9&region=us-east-1").fence(1)
    with pytest.raises(Fenced) as fenced:
        nowhere()
    assert fenced.value.message.code == "copies.cannot_know"


def test_what_was_begun_before_somebody_took_over_is_not_kept_after(fleet: Fleet) -> None:
    place = terms.required(fleet.replica)

    def slow(act: Act) -> None:
        entries.start(act, "note", "en", {"title": "Begun before"})
        place.begin(2)

    with pytest.raises(Fenced):
        fleet.writer.do(slow)
    with fleet.writer.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM summary WHERE title = 'Begun before'").fetchone()[0] == 0


_LOCKING = """
import fcntl, random, sys, time
until = time.monotonic() + float(sys.argv[2])
with open(sys.argv[1], "r+b") as file:
    while time.monotonic() < until:
        begun = time.monotonic()
        # The bytes by which a file of SQLite is locked for writing (sqlite3 source, os.h: PENDING_BYTE, SHARED_FIRST, SHARED_SIZE).
        fcntl.lockf(file, fcntl.LOCK_EX, 1, 0x40000000)
        fcntl.lockf(file, fcntl.LOCK_EX, 510, 0x40000002)
        print(time.monotonic() - begun)
        # What it changes of the file: a number in its header (the file format of SQLite, section 1.3.14), not all at once.
        for at in range(60, 64):
            file.seek(at)
            file.write(bytes([random.randrange(100)]))
            file.flush()
            time.sleep(0.001)
        fcntl.lockf(file, fcntl.LOCK_UN, 510, 0x40000002)
        fcntl.lockf(file, fcntl.LOCK_UN, 1, 0x40000000)
        time.sleep(random.random() / 5)
"""


def test_whoever_keeps_a_copy_up_is_let_in_however_many_read(tmp_path: Path) -> None:
    house = House(tmp_path)
    house.page("One")
    house.close()
    copy = Copy(house.path)
    until = time.monotonic() + 30 * TURN
    ended = threading.Event()
    found: list[tuple[int, int]] = []

    def read() -> None:
        while time.monotonic() < until and not ended.is_set():
            version = copy.version()
            with copy.read() as conn:
                assert conn.execute("SELECT count(*) FROM entry").fetchone()[0] == 1
            number = copy.own().one("PRAGMA user_version")[0]
            if copy.version() == version:
                found.append((version, number))

    threads = [threading.Thread(target=read) for _ in range(6)]
    for one in threads:
        one.start()
    # As the program does, from a process of its own, at any time.
    asked = subprocess.run(
        [sys.executable, "-c", _LOCKING, str(house.path), str(10 * TURN)],
        capture_output=True,
        text=True,
        check=True,
    )
    ended.set()
    for one in threads:
        one.join()
    copy.close()
    with pytest.raises(Busy), copy.read():
        pass
    waited = [float(line) for line in asked.stdout.split()]
    assert len(waited) >= 4, waited
    # A version stands for one state of the file, and most of its states were seen.
    assert len(set(found)) == len({version for version, _ in found})
    assert len({number for _, number in found}) > len(waited) // 2


_HOLDING = """
import fcntl, sys, threading, time
file = open(sys.argv[1], "r+b")
fcntl.lockf(file, fcntl.LOCK_EX)
for _ in range(8):
    threading.Thread(target=time.sleep, args=(60,), daemon=True).start()
print("held", flush=True)
time.sleep(60)
"""


def test_whoever_gets_the_lock_of_a_killed_program_knows_that_it_was_killed(tmp_path: Path) -> None:
    """What it has left may be half of something: nobody may take it for one that goes on, not for an instant."""
    (tmp_path / "file").write_bytes(b"x")
    taken_for_alive = 0
    with (tmp_path / "file").open("r+b") as file:
        for _ in range(20):
            with subprocess.Popen(
                [sys.executable, "-c", _HOLDING, str(tmp_path / "file")], stdout=subprocess.PIPE
            ) as process:
                assert process.stdout is not None
                assert process.stdout.readline() == b"held\n"
                assert litestream.at_work(process.pid)
                process.kill()
                while True:
                    with suppress(OSError):
                        fcntl.lockf(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
                        break
                taken_for_alive += litestream.at_work(process.pid)
                fcntl.lockf(file, fcntl.LOCK_UN)
    assert taken_for_alive == 0


def test_two_processes_have_no_copy_in_common(fleet: Fleet) -> None:
    fleet.copy("a.sqlite")
    with pytest.raises(BadStore) as error:
        alongside.begin(Settings(file=fleet.folder / "a.sqlite", follow=fleet.replica))
    assert error.value.message.code == "copies.in_use"


def test_what_a_killed_process_has_left_at_work_is_ended_first(fleet: Fleet, tmp_path: Path) -> None:
    """Two programs on one file would undo each other's work."""
    uuid = fleet.writer.started("One")
    fleet.writer.out(uuid)
    settings = f"file={str(tmp_path / 'c.sqlite')!r}, follow={fleet.replica!r}"
    code = f"from hawthorn.service import alongside, settings; import time; alongside.begin(settings.Settings({settings})); print('begun', flush=True); time.sleep(60)"
    note = tmp_path / "c.sqlite.copies" / "following.pid"
    left: list[int] = []
    for _ in range(2):
        with subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE) as process:
            assert process.stdout is not None
            assert process.stdout.readline() == b"begun\n"
            left.append(int(note.read_text()))
            process.kill()
    copy = fleet.copy("c.sqlite")

    def runs(number: int) -> bool:
        at = Path(f"/proc/{number}/cmdline")
        # What has ended and was not waited for by anybody has none.
        return at.exists() and bool(at.read_bytes())

    assert not any(map(runs, left))
    eventually(lambda: httpx.get(f"{copy.url}/read/entries/{uuid}").status_code == 200)
    again = fleet.writer.started("Two")
    fleet.writer.out(again)
    eventually(lambda: httpx.get(f"{copy.url}/read/entries/{again}").status_code == 200)
