"""A dispatch of many moves against the same rows in bare SQL, and what others notice while it goes."""

from __future__ import annotations

import os
import shutil
import sqlite3
import statistics
import sys
import time
from pathlib import Path

import uvloop

from benchmarks import made
from benchmarks.figures import Figure, copied, free_port, serving
from benchmarks.load import Answered, run
from hawthorn.core.timeline import SECOND
from hawthorn.operations.access import permission
from hawthorn.operations.release import dispatches, gathering, undoing
from hawthorn.operations.release.lines import MoveRequest
from hawthorn.operations.release.records import About
from hawthorn.store import connection


def figure_dispatch(folder: Path, moves: int = 10_000) -> dict[str, Figure]:
    """A dispatch of many moves against the same rows in bare SQL, and readers served meanwhile."""
    path, before = folder / "dispatch.sqlite", folder / "before.sqlite"
    desk = made.open_desk(path)
    pages = made.pages(desk, moves // 2)
    extra = made.pages(desk, 20, seed=11)
    made.plan(desk, extra, desk.clock.now())
    identity = made.scheduler(desk)
    desk.write(identity, lambda _: None)
    id = made.plan(desk, pages, desk.clock.now() + 3600 * SECOND)
    copied(path, before)
    ours_times, floor_times = [], []
    for n in range(3):
        turn = folder / f"turn{n}.sqlite"
        shutil.copy(before, turn)
        trial = made.open_desk(turn)
        due = trial.clock.now()
        trial.db.write(lambda c, at=due: c.execute("UPDATE dispatch SET instant = ? WHERE id = ?", (at, id)))  # type: ignore[misc]
        start = time.perf_counter()
        trial.write(identity, lambda _: None)
        ours_times.append(time.perf_counter() - start)
        trial.db.close()
        floor_times.append(_replayed(turn, before, folder / f"floor{n}.sqlite", id))
    desk.db.close()
    ours, floor = statistics.median(ours_times), statistics.median(floor_times)
    copies = [shutil.copy(before, folder / f"reads{n}.sqlite") for n in range(3)]
    # What was written to make them is on the disk before anything is measured.
    os.sync()
    reads = [_reads_meanwhile(copy, id, extra[0][2]) for copy in copies]
    # One dispatch is over in a second, so that a few reads make the percentile: the middle one of three.
    idle, busy = sorted(reads, key=lambda one: one[1] / one[0])[1]
    return {
        f"dispatch of {moves:,} moves": Figure(ours, floor, ours / floor, 4.0, "lower", "seconds"),
        "reads while it goes, 99th percentile, against idle": Figure(
            busy, idle, busy / idle, 2.0, "lower", "ms"
        ),
    }


def figure_undo(folder: Path, moves: int = 10_000, checked: int = 1_000) -> dict[str, Figure]:
    """Undoing a dispatch of many moves against doing it; checking one of many entries that is being put together."""
    path = folder / "undo.sqlite"
    desk = made.open_desk(path)
    pages = [MoveRequest(uuid, "en") for _, _, uuid in made.pages(desk, moves // 2)]
    with desk.db.read() as conn:
        chief = permission.identity_of(conn, made.people.by_handle(conn, "oda").id)  # type: ignore[union-attr]
    doing, undoing_times, checks = [], [], []
    for _ in range(3):
        start = time.perf_counter()
        id = desk.write(chief, lambda act: dispatches.make(act, pages))
        doing.append(time.perf_counter() - start)
        start = time.perf_counter()
        desk.write(chief, lambda act, id=id: undoing.undo(act, id))  # type: ignore[misc]
        undoing_times.append(time.perf_counter() - start)
    id = desk.write(chief, lambda act: gathering.start(act, About("Many"), pages[:checked]))
    for _ in range(3):
        start = time.perf_counter()
        found = desk.read(chief, lambda view: dispatches.check(view, id))
        checks.append(time.perf_counter() - start)
        if len(found.lines) != 2 * checked or found.blocked:
            raise RuntimeError("the check did not find what it should")
    desk.db.close()
    did, undid, check = (statistics.median(times) for times in (doing, undoing_times, checks))
    return {
        f"undo of {moves:,} moves, against doing it": Figure(
            undid, did, undid / did, 1.2, "lower", "seconds"
        ),
        f"check of a dispatch of {checked:,} entries, against a second": Figure(
            check, 1.0, check, 1.0, "lower", "seconds"
        ),
    }


_REPLAYED = {
    "standing": "SELECT * FROM standing WHERE opened_by = ?1",
    "listed": "SELECT * FROM listed WHERE since = ?2",
    "address": "SELECT * FROM address WHERE since = ?2",
    "placed": "SELECT * FROM placed WHERE since = ?2",
    "change": "SELECT * FROM change WHERE since = ?2",
    "event": "SELECT * FROM event WHERE kind = 'dispatch.gone' ORDER BY seq DESC LIMIT 1",
    "event_payload": "SELECT * FROM event_payload ORDER BY seq DESC LIMIT 1",
    "event_about": "SELECT * FROM event_about WHERE seq = (SELECT max(seq) FROM event)",
}


def _replayed(after: Path, before: Path, target: Path, id: int) -> float:
    """How long the rows that a dispatch wrote take in one bare transaction."""
    shutil.copy(before, target)
    done = sqlite3.connect(after)
    instant = done.execute("SELECT instant FROM dispatch WHERE id = ?", (id,)).fetchone()[0]
    rows = {
        table: done.execute(
            sql,
            tuple(v for v, mark in ((id, "?1"), (instant, "?2")) if mark in sql)
            if "?2" not in sql
            else (id, instant),
        ).fetchall()
        for table, sql in _REPLAYED.items()
    }
    closed = done.execute("SELECT until, closed_by, id FROM standing WHERE closed_by = ?", (id,)).fetchall()
    done.close()
    conn = connection.open_writer(target)
    start = time.perf_counter()
    conn.execute("BEGIN IMMEDIATE")
    conn.executemany("UPDATE standing SET until = ?, closed_by = ? WHERE id = ?", closed)
    for table, values in rows.items():
        if values:
            conn.executemany(f"INSERT INTO {table} VALUES ({', '.join('?' * len(values[0]))})", values)
    conn.execute("UPDATE dispatch SET state = 'gone' WHERE id = ?", (id,))
    conn.execute("COMMIT")
    took = time.perf_counter() - start
    conn.close()
    if len(rows["standing"]) < 100 or len(rows["address"]) < 100:
        raise RuntimeError("the floor wrote too little")
    return took


def _reads_meanwhile(path: Path, id: int, uuid: str) -> tuple[float, float]:
    """The 99th percentile of reads, in milliseconds, of a service with nothing else to do, and while a dispatch goes in it."""
    port = free_port()
    target = f"/read/entries/{uuid}?locale=en"
    serve = [sys.executable, "-m", "hawthorn.cli.app", "serve", "--file", str(path), "--port", str(port)]
    with serving((serve, port, target)):
        until = time.monotonic() + 3
        idle = uvloop.run(run(port, target, {}, 4, lambda: time.monotonic() > until))
        _due(path, id)
        conn = connection.open_reader(path)
        busy = uvloop.run(run(port, target, {}, 4, lambda: _gone(conn, id)))
        began: int = conn.execute(
            "SELECT at FROM event WHERE kind = 'dispatch.gone' ORDER BY seq DESC"
        ).fetchone()[0]
        conn.close()
    return _worst(idle), _worst([one for one in busy if one.at >= began / 1e6])


def _due(path: Path, id: int) -> None:
    """Let a dispatch be due now; the scheduler is woken by a dispatch that is planned."""
    with sqlite3.connect(path, timeout=20) as conn:
        conn.execute("UPDATE dispatch SET instant = ? WHERE id = ?", (time.time_ns() // 1000, id))
    conn.close()


def _gone(conn: sqlite3.Connection, id: int) -> bool:
    return bool(conn.execute("SELECT state = 'gone' FROM dispatch WHERE id = ?", (id,)).fetchone()[0])


def _worst(answers: list[Answered]) -> float:
    if not all(one.right for one in answers):
        raise RuntimeError("there were wrong answers")
    return statistics.quantiles((one.took * 1000 for one in answers), n=100)[98]
