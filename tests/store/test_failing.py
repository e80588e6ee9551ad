"""A full disk, a file that cannot be written, a damaged file, a wrong clock: named, said, and nothing half-written."""

from __future__ import annotations

import re
import shutil
import sqlite3
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import pytest
from typer.testing import CliRunner

from hawthorn.cli.app import app as commands
from hawthorn.core.errors import BadStore, DiskFull, ReadOnly
from hawthorn.core.timeline import SECOND
from hawthorn.messages import ENGLISH
from hawthorn.operations.release import applying
from hawthorn.operations.views.health import examine
from hawthorn.store import connection, database, migrate
from hawthorn.store.database import Database
from tests.conftest import eventually
from tests.service.made import House, serving


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


@pytest.fixture
def http(house: House) -> Iterator[httpx.Client]:
    with serving(house) as (_, url), httpx.Client(base_url=url, timeout=30) as client:
        body = {"handle": "ida", "password": "long enough"}
        client.headers["Authorization"] = f"Bearer {client.post('/api/session', json=body).json()['token']}"
        yield client


def start(http: httpx.Client, title: str = "Lamp") -> tuple[int, dict[str, object]]:
    body = {"type": "page", "fields": {"title": title, "body": f"<p>{'x' * 200_000}</p>"}}
    answer = http.post("/api/entries", json=body)
    return answer.status_code, answer.json()


def test_a_full_disk_is_named_until_there_is_room_again_and_reading_goes_on(
    house: House, http: httpx.Client
) -> None:
    writer = house.desk.db._writer
    assert writer is not None
    pages = writer.execute("PRAGMA page_count").fetchone()[0]
    writer.execute(f"PRAGMA max_page_count = {pages + 4}")
    before = house.events()
    status, problem = start(http)
    assert status == 507
    assert str(problem["type"]).endswith("disk-full")
    assert "is full" in str(problem["detail"])
    assert "Free some space" in str(problem["remedy"])
    assert house.events() == before, "nothing of it is there"
    assert http.get("/api/entries").status_code == 200
    health = http.get("/api/health")
    assert (health.status_code, health.json()["ok"]) == (503, False)
    assert "is full" in health.json()["trouble"][0]
    writer.execute("PRAGMA max_page_count = 1000000")
    assert start(http)[0] == 201
    again = http.get("/api/health").json()
    assert (again["ok"], again["trouble"]) == (True, [])


def test_a_full_disk_holds_no_dispatch(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    """What is due waits for room, rather than being held for what it is not to blame for."""
    page = house.signed("Lamp")
    dispatch = house.plan([page], 60)

    def full(*_: object) -> None:
        error = sqlite3.OperationalError("database or disk is full")
        error.sqlite_errorname = "SQLITE_FULL"
        raise error

    with monkeypatch.context() as patch:
        patch.setattr(applying, "apply", full)
        with pytest.raises(DiskFull):
            house.later(61)
    assert house.state(dispatch) == "planned"
    house.later(1)
    assert house.state(dispatch) == "gone"


def test_a_file_that_cannot_be_written_is_named(house: House, http: httpx.Client) -> None:
    writer = house.desk.db._writer
    assert writer is not None
    writer.execute("PRAGMA query_only = ON")
    status, problem = start(http)
    assert status == 503
    assert "cannot be written" in str(problem["detail"])
    assert http.get("/api/entries").status_code == 200
    assert "cannot be written" in http.get("/api/health").json()["trouble"][0]
    with pytest.raises(ReadOnly):
        house.page("Rope")
    writer.execute("PRAGMA query_only = OFF")
    house.page("Rope")
    assert http.get("/api/health").status_code == 200


def test_a_clock_behind_the_log_is_said(house: House, http: httpx.Client) -> None:
    house.page("Lamp")
    house.clock.at -= 3600 * SECOND
    assert "behind the newest event" in http.get("/api/health").json()["trouble"][0]


def damaged(path: Path, table: str) -> Path:
    """A copy of a file in which the first page of a table is garbage."""
    with sqlite3.connect(path) as conn:
        conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        root = conn.execute("SELECT rootpage FROM sqlite_master WHERE name = ?", (table,)).fetchone()[0]
        size = conn.execute("PRAGMA page_size").fetchone()[0]
    conn.close()
    copy = path.with_name("damaged.sqlite")
    shutil.copy(path, copy)
    with copy.open("r+b") as file:
        file.seek((root - 1) * size)
        file.write(b"\xa5" * size)
    return copy


def test_a_damaged_file_is_named_and_checked_past_the_damage(house: House) -> None:
    for n in range(3):
        house.page(f"Page {n}")
    copy = damaged(house.path, "event_payload")
    # Something else is wrong too, in what is looked at after the damage.
    with sqlite3.connect(copy) as conn:
        conn.execute("UPDATE summary SET updated_at = updated_at + 1")
    conn.close()
    before = copy.read_bytes()
    looked = CliRunner().invoke(commands, ["check", "--file", str(copy)])
    said = " ".join(looked.output.split())
    assert looked.exit_code == 1
    assert "cannot be read" in said
    assert "not what follows from it: summary" in said, "it goes on past the damage"
    assert "Restore a backup" in said
    assert copy.read_bytes() == before
    db = Database(copy)
    with pytest.raises(BadStore, match="is damaged"), db.read() as reader:
        reader.execute("SELECT * FROM event_payload").fetchall()
    db.close()


def test_a_damaged_part_of_the_log_is_named_by_its_events(house: House) -> None:
    for n in range(900):
        house.desk.write(
            house.who("ida"),
            lambda act, n=n: act.event("list.saved", [], {"list": str(n), "name": "x" * 300}),
        )  # type: ignore[misc]
    with house.desk.db.read() as conn:
        newest = conn.execute("SELECT max(seq) FROM event").fetchone()[0]
        leaf = (
            conn.execute(
                "SELECT pageno FROM dbstat WHERE name = 'event_payload' AND pagetype = 'leaf' ORDER BY pageno LIMIT 1 OFFSET 20"
            ).fetchone()
            if _has_dbstat(conn)
            else None
        )
    if leaf is None:
        pytest.skip("this SQLite cannot say which page holds what")
    with sqlite3.connect(house.path) as conn:
        conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    conn.close()
    copy = house.path.with_name("damaged.sqlite")
    shutil.copy(house.path, copy)
    with copy.open("r+b") as file:
        file.seek((leaf[0] - 1) * 4096)
        file.write(b"\xa5" * 4096)
    still = connection.open_still(copy)
    found = [ENGLISH.text(one) for one in dict(examine(still))["events"]]
    still.close()
    lost = re.search(r"Of the events (\d+) to (\d+), (\d+) cannot be read", found[0])
    assert lost is not None
    assert int(lost[2]) < newest, "the rest was looked at"
    assert len(found) == 1, "and nothing else is wrong with it"


def _has_dbstat(conn: sqlite3.Connection) -> bool:
    try:
        conn.execute("SELECT 1 FROM dbstat LIMIT 1")
    except sqlite3.OperationalError:
        return False
    return True


def test_a_file_that_is_none_is_refused_in_a_sentence(tmp_path: Path) -> None:
    other = tmp_path / "letter.sqlite"
    other.write_text("Dear all, this is no record file." * 50)
    with pytest.raises(BadStore, match="not a Hawthorn record file"):
        Database(other)
    looked = CliRunner().invoke(commands, ["check", "--file", str(other)])
    assert looked.exit_code == 1


# -- migrations --------------------------------------------------------------------------------------------------


@pytest.fixture
def older(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A file as an earlier program left it."""
    path = tmp_path / "older.sqlite"
    whole = migrate.steps
    with monkeypatch.context() as patch:
        patch.setattr(migrate, "steps", lambda: whole()[:-1])
        Database(path).close()
    return path


def test_a_migration_keeps_a_copy_of_what_was_there_first(older: Path) -> None:
    with sqlite3.connect(older) as conn:
        was = conn.execute("SELECT number, checksum FROM migration ORDER BY number").fetchall()
    conn.close()
    Database(older).close()
    copy = migrate.copy_of(older, len(was) + 1)
    with sqlite3.connect(copy) as conn:
        assert conn.execute("SELECT number, checksum FROM migration ORDER BY number").fetchall() == was
        assert conn.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    conn.close()
    assert copy.stat().st_mode & 0o077 == 0, "it is nobody else's to read"
    at = copy.stat().st_mtime_ns
    Database(older).close()
    assert copy.stat().st_mtime_ns == at, "only when something is migrated"
    assert not list(older.parent.glob("*.begun"))


def test_without_room_for_the_copy_nothing_is_migrated(older: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*_: object) -> None:
        error = sqlite3.OperationalError("database or disk is full")
        error.sqlite_errorname = "SQLITE_FULL"
        raise error

    with monkeypatch.context() as patch:
        patch.setattr(migrate, "keep_copy", full)
        with pytest.raises(DiskFull):
            Database(older)
    conn = connection.open_still(older)
    assert migrate.pending(conn) == [migrate.steps()[-1].number]
    conn.close()


def test_a_disk_that_fills_up_in_the_middle_of_a_migration_leaves_the_file_as_it_was(
    older: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    whole, opened = migrate.steps(), connection.open_writer
    heavy = migrate.Step(
        len(whole) + 1,
        "heavy",
        "CREATE TABLE heavy (x BLOB NOT NULL) STRICT;\n"
        + "INSERT INTO heavy VALUES (randomblob(100000));\n" * 40,
    )

    def small(path: Path, waits: bool = True) -> connection.Writer:
        """The disk has room for a part of it."""
        conn = opened(path, waits)
        pages = conn.execute("PRAGMA page_count").fetchone()[0]
        conn.execute(f"PRAGMA max_page_count = {pages + 500}")
        return conn

    with monkeypatch.context() as patch:
        patch.setattr(migrate, "steps", lambda: [*whole, heavy])
        patch.setattr(connection, "open_writer", small)
        with pytest.raises(DiskFull):
            Database(older)
    conn = connection.open_still(older)
    assert migrate.pending(conn) == [whole[-1].number], "nor is anything left of the one before it"
    assert conn.execute("SELECT count(*) FROM sqlite_master WHERE name = 'heavy'").fetchone()[0] == 0
    assert conn.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    conn.close()
    # With room again it goes on as if nothing had been.
    Database(older).close()


def test_checking_an_older_file_migrates_nothing(older: Path) -> None:
    before = older.read_bytes()
    looked = CliRunner().invoke(commands, ["check", "--file", str(older)])
    assert "is older than this program" in " ".join(looked.output.split())
    assert older.read_bytes() == before
    assert not list(older.parent.glob("*.before-*"))


def test_a_new_file_needs_no_copy(tmp_path: Path) -> None:
    Database(tmp_path / "new.sqlite").close()
    assert not list(tmp_path.glob("*.before-*"))


class Stuck:
    """A disk that keeps what it is given only once it is let."""

    def __init__(self) -> None:
        self.given = threading.Event()
        self.let = threading.Event()

    def execute(self, conn: sqlite3.Connection, sql: str, *more: object) -> sqlite3.Cursor:
        """As SQLite does it, when its turn comes."""
        if sql == "COMMIT":
            self.given.set()
            assert self.let.wait(30)
        return sqlite3.Connection.execute(conn, sql, *more)


def test_on_a_slow_disk_readers_go_on_and_writers_are_told_to_come_again(
    house: House, http: httpx.Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name, value in (("PATIENCE", 1.0), ("MANY", 6), ("LONG", 0.5), ("SLOW", 0.2)):
        monkeypatch.setattr(database, name, value)
    disk = Stuck()
    before = house.events()
    with ThreadPoolExecutor(12) as people:
        with monkeypatch.context() as slowed:
            slowed.setattr(
                connection.Writer, "execute", lambda conn, sql, *more: disk.execute(conn, sql, *more)
            )
            first = people.submit(start, http, "First")
            assert disk.given.wait(10)
            others = [people.submit(start, http, f"Other {n}") for n in range(6)]
            eventually(lambda: house.desk.db._waiting == 6)
            eventually(lambda: house.desk.db.slow)
            # There is room for those who read, and whoever looks after it is told.
            assert http.get("/api/entries").status_code == 200
            health = http.get("/api/health")
            assert health.status_code == 503
            assert "takes" in health.json()["trouble"][0]
            eventually(lambda: time.monotonic() - house.desk.db._since > 0.5)
            began = time.monotonic()
            status, problem = start(http, "One too many")
            assert time.monotonic() - began < 5
            assert (status, problem["code"]) in {(503, "database.many_wait"), (503, "database.long_wait")}
            assert "nothing of this was kept" in str(problem["remedy"])
            for other in others:
                status, problem = other.result()
                assert (status, problem["code"]) == (503, "database.long_wait")
            disk.let.set()
            assert first.result()[0] == 201
    assert [kind for kind, _ in house.events()[len(before) :]] == ["entry.started"]
    # One that is quick says that the disk is well again.
    assert start(http, "Later")[0] == 201
    assert http.get("/api/health").json()["ok"]
