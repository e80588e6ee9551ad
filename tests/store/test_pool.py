"""Reading connections: bounded, given back, never closed under whoever uses them; and the log that long readers hold up."""

from __future__ import annotations

import os
import sqlite3
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path

import pytest

from hawthorn.core.errors import Busy
from hawthorn.store import connection, definitions, pool, wake
from hawthorn.store.database import Database
from hawthorn.store.renditions import Renditions
from tests.conftest import eventually


@pytest.fixture
def db(tmp_path: Path) -> Iterator[Database]:
    made = Database(tmp_path / "records.sqlite")
    yield made
    made.close()


def open_files(path: Path) -> int:
    """How often this process has a record file, its log or its index open."""
    count = 0
    for name in os.listdir("/proc/self/fd"):
        with suppress(FileNotFoundError):
            count += os.readlink(f"/proc/self/fd/{name}").startswith(str(path))
    return count


def burst(db: Database, threads: int) -> None:
    """So many threads that read at once and then end, as idle workers do."""
    together = threading.Barrier(threads)

    def read() -> None:
        together.wait(10)
        with db.read() as conn:
            conn.execute("SELECT count(*) FROM setting").fetchone()

    running = [threading.Thread(target=read) for _ in range(threads)]
    for thread in running:
        thread.start()
    for thread in running:
        thread.join(10)


def test_bursts_with_pauses_leave_no_files_open(db: Database, tmp_path: Path) -> None:
    for _ in range(60):
        burst(db, 12)
    # SQLite closes a file only when no lock of the process is held on it: up to one for each that may be open.
    assert 0 < open_files(tmp_path / "records.sqlite") <= 3 * (pool.MOST + 2)
    assert db.readers <= pool.MOST


def test_connections_that_a_busy_time_opened_are_closed_when_it_is_over(
    db: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    opened: list[int] = []
    real = db._pool._open
    monkeypatch.setattr(db._pool, "_open", lambda: (opened.append(1), real())[1])
    held = [db._pool.lend() for _ in range(pool.MOST)]
    for conn in held:
        db._pool.give_back(conn)
    # Whoever comes meanwhile finds them open.
    for _ in range(20):
        again = [db._pool.lend() for _ in range(pool.MOST)]
        for conn in again:
            db._pool.give_back(conn)
    assert len(opened) <= pool.MOST
    monkeypatch.setattr(pool, "REST", 0.3)
    listening = db.bell.listen(lambda _: None)
    eventually(lambda: db.readers == pool.KEPT)
    assert all(conn.execute("SELECT 1").fetchone() for conn, _ in db._pool._free)
    listening()


def test_kept_renditions_are_read_over_few_connections_too(tmp_path: Path) -> None:
    kept = Renditions(tmp_path / "records.sqlite", 1_000_000)
    kept.keep("a", "image/png", b"x", 1)
    for _ in range(100):
        thread = threading.Thread(target=lambda: kept.find("a", 1))
        thread.start()
        thread.join()
    assert 0 < open_files(tmp_path / "records.sqlite") <= 9
    assert kept.find("a", 1) == ("image/png", b"x")
    kept.close()


def test_a_read_inside_a_read_sees_the_same_state(db: Database) -> None:
    with db.read() as outer:
        outer.execute("SELECT count(*) FROM setting").fetchone()
        writer = threading.Thread(target=lambda: db.write(lambda c: definitions.set_setting(c, "a", "1")))
        writer.start()
        writer.join()
        with db.read() as inner:
            assert inner is outer
            assert definitions.setting(inner, "a", "none") == "none"
    with db.read() as conn:
        assert definitions.setting(conn, "a") == "1"


def test_whoever_finds_no_connection_for_long_is_told_to_come_again(
    db: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(pool, "WAITS", 0.1)
    lent = [db._pool.lend() for _ in range(pool.MOST)]
    with pytest.raises(Busy, match="Too many are reading"):
        db._pool.lend()
    for conn in lent:
        db._pool.give_back(conn)
    db._pool.give_back(db._pool.lend())


SLOW = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 100000000) SELECT count(*) FROM n"


def test_closing_waits_for_readers_then_interrupts_them_and_crashes_nothing(tmp_path: Path) -> None:
    """In a process of its own: closing a connection in use ended the whole process."""
    code = f"""
import pathlib, threading, time
from hawthorn.core.errors import HawthornError
from hawthorn.store.database import Database
for turn in range(4):
    db = Database(pathlib.Path({str(tmp_path / "records.sqlite")!r}))
    ended = []
    def read(sql, db=db):
        try:
            while True:
                with db.read() as conn:
                    for row in conn.execute(sql).fetchall(): pass
        except HawthornError as error:
            ended.append(error.slug)
    quick = [threading.Thread(target=read, args=("SELECT * FROM sqlite_master",)) for _ in range(4)]
    slow = [threading.Thread(target=read, args=({SLOW!r},)) for _ in range(turn % 2)]
    for t in quick + slow: t.start()
    time.sleep(0.05)
    started = time.monotonic()
    db.close()
    assert time.monotonic() - started < 8
    for t in quick + slow: t.join(10)
    assert ended == ["busy"] * len(quick + slow), ended
print("whole")
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=110)
    assert (done.returncode, done.stdout) == (0, "whole\n"), done.stderr


def test_a_write_under_way_is_kept_when_the_file_is_closed(tmp_path: Path) -> None:
    db = Database(tmp_path / "records.sqlite")
    inside = threading.Event()

    def act(conn: sqlite3.Connection) -> None:
        definitions.set_setting(conn, "a", "kept")
        inside.set()
        time.sleep(0.3)

    with ThreadPoolExecutor(1) as workers:
        writing = workers.submit(db.write, act)
        inside.wait(5)
        db.close()
        writing.result(5)
    again = Database(tmp_path / "records.sqlite")
    with again.read() as conn:
        assert definitions.setting(conn, "a") == "kept"
    again.close()
    with pytest.raises(Busy, match="stopping"):
        db.write(lambda c: None)
    with pytest.raises(Busy, match="stopping"), db.read():
        pass


def test_the_log_is_cut_back_after_a_long_reader_and_the_reader_is_ended(
    db: Database, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(pool.Pool.end_long, "__defaults__", (0.2,))
    log = tmp_path / "records.sqlite-wal"
    told: list[str] = []

    def read_long() -> None:
        try:
            with db.read() as conn:
                conn.execute(SLOW).fetchone()
        except Busy as busy:
            told.append(str(busy))

    reader = threading.Thread(target=read_long)
    reader.start()
    time.sleep(0.3)
    for n in range(30):
        db.write(lambda c, n=n: definitions.set_setting(c, f"big {n}", "x" * 1_000_000))  # type: ignore[misc]
    reader.join(10)
    assert told == ["Reading took too long and was ended."]
    for n in range(20):
        db.write(lambda c, n=n: definitions.set_setting(c, f"small {n}", "x" * 200_000))  # type: ignore[misc]
    assert log.stat().st_size <= connection._LOG + 4_500_000


def test_processes_that_come_and_go_never_take_the_folder_from_another(tmp_path: Path) -> None:
    path = tmp_path / "records.sqlite"
    Database(path).close()
    failed: list[BaseException] = []

    def come_and_go() -> None:
        try:
            for _ in range(40):
                bell = wake.Bell(path)
                assert bell._folder.parent == tmp_path
                bell.listen(lambda _: None)
                assert bell._in is not None, "it has a socket"
                bell.close()
        except BaseException as error:
            failed.append(error)

    threads = [threading.Thread(target=come_and_go) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
    assert failed == []
    assert not (tmp_path / "records.sqlite.wake").exists(), "the last one leaves nothing behind"


def test_what_killed_processes_left_is_swept_away(tmp_path: Path) -> None:
    path = tmp_path / "records.sqlite"
    Database(path).close()
    code = (
        "import pathlib, os, sys; from hawthorn.store.wake import Bell\n"
        "b = Bell(pathlib.Path(sys.argv[1])); b.listen(lambda _: None); os.kill(os.getpid(), 9)"
    )
    for _ in range(2):
        subprocess.run([sys.executable, "-c", code, str(path)], check=False)
    folder = tmp_path / "records.sqlite.wake"
    assert len(list(folder.iterdir())) == 1, "each start sweeps what the one before left"
    db = Database(path)
    heard = threading.Event()
    db.bell.listen(lambda _: heard.set(), ("dispatch.",))
    assert len(list(folder.iterdir())) == 1
    db.write(lambda c: wake.tell(c, "dispatch.gone"))
    assert heard.wait(2)
    db.close()
    assert not folder.exists()


def test_a_path_of_any_length_can_be_listened_at(tmp_path: Path) -> None:
    deep = tmp_path.joinpath(*["a folder with a long name"] * 6)
    db = Database(deep / "records.sqlite")
    heard = threading.Event()
    db.bell.listen(lambda _: heard.set())
    db.write(lambda c: wake.tell(c, "entry.saved"))
    assert heard.wait(0.8)
    db.close()


def test_a_commit_that_rings_nothing_is_seen_by_its_events_a_second_later(db: Database) -> None:
    """As of another program, or where a datagram was lost."""
    heard: list[frozenset[str]] = []
    db.bell.listen(heard.append, ("entry.",))
    time.sleep(0.2)
    outside = sqlite3.connect(db.path)
    with outside:
        outside.execute("INSERT INTO event VALUES (1, 1, 'entry.saved', 1, 'clockwork', '', '', '')")
    outside.close()
    until = time.monotonic() + 4
    while not heard and time.monotonic() < until:
        time.sleep(0.05)
    assert "entry.saved" in heard[0]
    time.sleep(1.5)
    assert len(heard) == 1, "and once"
