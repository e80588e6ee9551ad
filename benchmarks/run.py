"""`make bench`: ratios against floors that are built and measured in the same run."""

from __future__ import annotations

import argparse
import functools
import json
import random
import shutil
import sqlite3
import statistics
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

import httpx
from fastapi.testclient import TestClient
from rich.console import Console
from rich.table import Table

from benchmarks import hostile, library, made, merging, pages, quiet
from benchmarks.figures import Figure, free_port, interleaved, load, started
from hawthorn.core import timeline
from hawthorn.core.timeline import SECOND
from hawthorn.operations.access import people as act_people
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.delivery import reading, rendering
from hawthorn.operations.runtime.act import SCHEDULER, Act, Desk
from hawthorn.operations.search import finding
from hawthorn.service.app import create_app
from hawthorn.service.settings import Settings
from hawthorn.store import connection, people

HERE = Path(__file__).parent


def figure_reads(folder: Path) -> dict[str, Figure]:
    """A released entry over HTTP, and its 304, against a bare route."""
    path = folder / "read.sqlite"
    desk = made.open_desk(path)
    pages = made.pages(desk, 2000)
    made.plan(desk, pages[:200], desk.clock.now())
    desk.write(_scheduler(desk), lambda _: None)
    uuid = pages[100][2]
    view = desk.read(_scheduler(desk), lambda v: rendering.render(v, uuid, "en", reading.Place()))
    desk.db.close()
    floor_file = folder / "floor.sqlite"
    with sqlite3.connect(floor_file) as conn:
        conn.execute(
            "CREATE TABLE stored (uuid TEXT, locale TEXT, etag TEXT, bytes BLOB, PRIMARY KEY (uuid, locale))"
        )
        conn.executemany(
            "INSERT INTO stored VALUES (?, 'en', ?, ?)", [(p[2], view.etag, view.data) for p in pages]
        )
    conn.close()
    ours_port, floor_port = free_port(), free_port()
    target = f"/read/entries/{uuid}?locale=en"
    serve = [sys.executable, "-m", "hawthorn.cli.app", "serve", "--file", str(path), "--port", str(ours_port)]
    servers = [
        started([*serve, "--no-followers"], ours_port, target),
        started(
            [sys.executable, "-m", "benchmarks.floor", str(floor_file), str(floor_port)], floor_port, target
        ),
    ]
    try:
        etag = httpx.get(f"http://127.0.0.1:{ours_port}{target}").headers["etag"]
        assert httpx.get(f"http://127.0.0.1:{floor_port}{target}").headers["etag"] == etag
        ours, floor = interleaved(lambda: load(ours_port, target), lambda: load(floor_port, target), 5)
        ours304, floor304 = interleaved(
            lambda: load(ours_port, target, etag), lambda: load(floor_port, target, etag), 5
        )
    finally:
        for server in servers:
            server.terminate()
            server.wait(60)
    return {
        "read a released entry over HTTP": Figure(ours, floor, ours / floor, 0.8, "higher", "requests/s"),
        "the same with If-None-Match (304)": Figure(
            ours304, floor304, ours304 / floor304, 1.0, "higher", "requests/s"
        ),
    }


def _scheduler(desk: Desk) -> permission.Identity:
    with desk.db.read() as conn:
        return permission.identity_of(conn, SCHEDULER)


def figure_save(folder: Path, count: int = 300, rounds: int = 7) -> dict[str, Figure]:
    """A save of a 2 KB body through operations against the same rows in a bare transaction."""
    desk = made.open_desk(folder / "save.sqlite")
    pages = made.pages(desk, 200)
    with desk.db.read() as conn:
        wim = permission.identity_of(conn, made.people.by_handle(conn, "wim")["id"])  # type: ignore[index]
    rng = random.Random(3)
    bodies = [made.text(rng, 2000) for _ in range(40)]
    heads: dict[str, entries.Base] = {}

    def save(n: int) -> None:
        uuid = pages[n % len(pages)][2]
        body = bodies[n % len(bodies)]
        base = heads.get(uuid) or desk.read(wim, lambda v: _base(v.conn, uuid))
        heads[uuid] = desk.write(wim, lambda a: entries.save(a, uuid, "en", {"body": body}, base, "")).base

    at = 0

    def ours() -> float:
        nonlocal at
        start = time.perf_counter()
        for _ in range(count):
            save(at)
            at += 1
        return count / (time.perf_counter() - start)

    bare = _Bare(folder, desk, pages)
    rates = interleaved(ours, lambda: bare.run(count), rounds)
    desk.db.close()
    bare.conn.close()
    return {
        "save a draft of 2 KB": Figure(rates[0], rates[1], rates[0] / rates[1], 0.35, "higher", "saves/s"),
    }


def _base(conn: sqlite3.Connection, uuid: str) -> entries.Base:
    rows = dict(
        conn.execute(
            "SELECT d.locale, s.head FROM entry e JOIN edition d ON d.entry = e.id JOIN strand s ON s.edition = d.id "
            "WHERE e.uuid = ?",
            (uuid,),
        ).fetchall()
    )
    return entries.Base(rows["en"], rows["*"])


class _Bare:
    """The rows that a save writes, written again as they are: no check, no hash, no merge, no log chain."""

    def __init__(self, folder: Path, desk: Desk, pages: list[tuple[int, int, str]]) -> None:
        path = folder / "bare.sqlite"
        desk.db.write(lambda conn: None)
        with sqlite3.connect(folder / "save.sqlite") as source, sqlite3.connect(path) as copy:
            source.backup(copy)
        source.close()
        copy.close()
        self.conn = connection.open_writer(path)
        self.pages = pages
        self.at = 0
        self.seq = self.conn.execute("SELECT coalesce(max(seq), 0) FROM event").fetchone()[0]
        rng = random.Random(4)
        body = made.text(rng, 2000)
        self.fields = json.dumps({"title": "Page", "slug": "page", "body": body})
        self.ids = json.dumps({"body": [["p123456789", "0123456789abcdef"]] * 7})

    def run(self, count: int) -> float:
        """Saves a second."""
        start = time.perf_counter()
        for _ in range(count):
            self._one(self.pages[self.at % len(self.pages)][0])
            self.at += 1
        return count / (time.perf_counter() - start)

    def _one(self, edition: int) -> None:
        c = self.conn
        self.seq += 1
        c.execute("BEGIN IMMEDIATE")
        strand, head, entry = c.execute(
            "SELECT s.id, s.head, d.entry FROM strand s JOIN edition d ON d.id = s.edition WHERE s.edition = ?",
            (edition,),
        ).fetchone()
        made_id = c.execute(
            "INSERT INTO revision (edition, number, content_hash, type_version, fields, paragraph_ids, unit_map, strand, actor, "
            "actor_kind, at, note, origin) VALUES (?1, (SELECT max(number) + 1 FROM revision WHERE edition = ?1), ?, 1, ?, "
            "?, '{}', ?, 2, 'person', ?, '', 'save')",
            (edition, "0" * 64, self.fields, self.ids, strand, self.seq),
        ).lastrowid
        c.execute("INSERT INTO revision_parent VALUES (?, 0, ?)", (made_id, head))
        c.execute("UPDATE strand SET head = ? WHERE id = ?", (made_id, strand))
        c.execute("UPDATE summary SET title = 'Page', updated_at = ? WHERE edition = ?", (self.seq, edition))
        c.execute(
            "INSERT INTO event VALUES (?, ?, 'entry.saved', 2, 'person', ?, ?, ?)",
            (self.seq, self.seq, "0" * 64, "0" * 64, "0" * 64),
        )
        c.execute(
            "INSERT INTO event_payload VALUES (?, ?)",
            (self.seq, '{"entry": "x", "locale": "en", "title": "Page"}' * 4),
        )
        c.execute("INSERT INTO event_about VALUES (?, ?)", (entry, self.seq))
        c.execute("COMMIT")


def figure_dispatch(folder: Path, moves: int = 10_000) -> dict[str, Figure]:
    """A dispatch of many moves against the same rows in bare SQL, and readers served meanwhile."""
    path, before = folder / "dispatch.sqlite", folder / "before.sqlite"
    desk = made.open_desk(path)
    pages = made.pages(desk, moves // 2)
    extra = made.pages(desk, 20, seed=11)
    made.plan(desk, extra, desk.clock.now())
    identity = _scheduler(desk)
    desk.write(identity, lambda _: None)
    id = made.plan(desk, pages, desk.clock.now() + 3600 * SECOND)
    _copy(path, before)
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
    idle, busy = _reads_meanwhile(path, id, extra[0][2])
    return {
        f"dispatch of {moves:,} moves": Figure(ours, floor, ours / floor, 8.0, "lower", "seconds"),
        "reads while it goes, against reads before": Figure(
            busy, idle, busy / idle, 0.2, "higher", "requests/s"
        ),
    }


def _copy(source: Path, target: Path) -> None:
    with sqlite3.connect(source) as a, sqlite3.connect(target) as b:
        a.backup(b)
    a.close()
    b.close()


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
    """Reads a second before a dispatch, and while it goes in the same process."""
    port = free_port()
    target = f"/read/entries/{uuid}?locale=en"
    serve = [sys.executable, "-m", "hawthorn.cli.app", "serve", "--file", str(path), "--port", str(port)]
    server = started(serve, port, target)
    try:
        idle = load(port, target, seconds=1.0, connections=4)
        due = time.time_ns() // 1000 + 400_000
        with sqlite3.connect(path, timeout=20) as conn:
            conn.execute("UPDATE dispatch SET instant = ? WHERE id = ?", (due, id))
        conn.close()
        counted: list[float] = []
        with httpx.Client(base_url=f"http://127.0.0.1:{port}") as http:
            stop = threading.Event()

            def read() -> None:
                while not stop.is_set():
                    if http.get(target).status_code == 200:
                        counted.append(time.time())

            reader = threading.Thread(target=read)
            reader.start()
            time.sleep(0.3)
            before = len(counted)
            idle_one = before / 0.3
            gone = _wait_gone(path, id)
            stop.set()
            reader.join()
        began = due / 1e6
        busy = sum(began <= at <= gone for at in counted) / max(gone - began, 0.001)
        return min(idle_one, idle), busy
    finally:
        server.terminate()
        server.wait(60)


def _wait_gone(path: Path, id: int) -> float:
    conn = connection.open_reader(path)
    until = time.monotonic() + 60
    while time.monotonic() < until:
        if conn.execute("SELECT state FROM dispatch WHERE id = ?", (id,)).fetchone()[0] == "gone":
            conn.close()
            return time.time()
        time.sleep(0.01)
    raise RuntimeError("the dispatch did not go")


SMALL, LARGE = 2_000, 200_000
QUESTIONS: dict[str, dict[str, Any]] = {
    "everything": {},
    "type": {"type": "talk"},
    "locale": {"locale": "ja"},
    "stage": {"stage": "review"},
    "out": {"stage": "release"},
    "drafts": {"stage": "draft"},
    "person": {"person": "p3"},
    "topic": {"topic": "topic"},
    "tag": {"tag": "tag 1"},
    "changed since": {"since": "since"},
    "ends": {"validity": "ends"},
    "endless": {"validity": "endless"},
    "over": {"validity": "over"},
    "incomplete": {"incomplete": True},
    "behind": {"behind": True},
    "planned": {"planned": True},
    "three together": {"type": "note", "locale": "en", "stage": "release"},
    "common word": {"words": "harbour"},
    "three words": {"words": "lamp rope keel"},
    "rare word": {"words": "“item1234”"},
    "begun word": {"words": "harb"},
    "side by side": {"words": "“lamp rope”"},
    "one character": {"words": "灯"},
    "two characters": {"words": "灯台"},
    "Arabic": {"words": "فنار"},
    "word and filters": {"words": "harbour", "type": "talk", "locale": "en", "stage": "release"},
    "no such word": {"words": "zebra"},
}


def figure_finding(folder: Path, rounds: int = 15) -> dict[str, Figure]:
    """The first page of each question, opening an entry, and saving: many entries against few, in one process."""
    desks = {n: library.built(folder / f"{n}.sqlite", n) for n in (SMALL, LARGE)}
    asks: dict[str, Callable[[Desk], object]] = {}
    for name, asked in QUESTIONS.items():
        given = {n: _given(desk, asked) for n, desk in desks.items()}
        asks[f"page: {name}"] = functools.partial(_page, asked={desks[n]: g for n, g in given.items()})
    asks |= {"opening an entry": _opened, "saving 2 KB": _saved}
    out: dict[str, Figure] = {}
    for name, ask in asks.items():
        took: dict[int, list[float]] = {SMALL: [], LARGE: []}
        for _ in range(rounds):
            for size, desk in desks.items():
                start = time.perf_counter()
                ask(desk)
                took[size].append(time.perf_counter() - start)
        large, small = (statistics.median(took[n]) * 1000 for n in (LARGE, SMALL))
        out[f"{LARGE:,} against {SMALL:,}: {name}"] = Figure(large, small, large / small, 2.0, "lower", "ms")
    for desk in desks.values():
        desk.db.close()
    return out


def _asker(desk: Desk) -> permission.Identity:
    with desk.db.read() as conn:
        wim = people.by_handle(conn, "wim")
        assert wim is not None
        return permission.identity_of(conn, wim["id"])


def _given(desk: Desk, asked: dict[str, Any]) -> finding.Query:
    """A question with what only the records know filled in."""
    given = dict(asked)
    with desk.db.read() as conn:
        if "topic" in given:
            given["topic"] = conn.execute("SELECT uuid FROM entry WHERE type = 'topic' LIMIT 1").fetchone()[0]
        if "since" in given:
            newest = conn.execute("SELECT max(updated_at) FROM summary").fetchone()[0]
            given["since"] = timeline.iso(newest - 1000 * timeline.SECOND)
    return finding.Query(**given)


def _page(desk: Desk, asked: dict[Desk, finding.Query]) -> None:
    answer = _asked(desk).get("/api/entries", params={**asked[desk].given(), "limit": 30})
    if answer.status_code != 200:
        raise RuntimeError(answer.text)


@functools.cache
def _asked(desk: Desk) -> TestClient:
    """The service on a desk, as a program with every right asks it."""
    _, secret = desk.write(
        _asker(desk),
        lambda act: act_people.issue_key(act, "bench", "managing-editor", "program", ["draft", "release"]),
    )
    app = create_app(Settings(file=desk.db.path, followers=False), desk)
    return TestClient(app, headers={"Authorization": f"Bearer {secret}"})


def _some(conn: sqlite3.Connection) -> sqlite3.Row:
    highest = conn.execute("SELECT max(id) FROM entry").fetchone()[0]
    row: sqlite3.Row = conn.execute(
        "SELECT * FROM entry WHERE id >= ? AND type <> 'topic' AND source_locale = 'en' LIMIT 1",
        (random.randint(50, highest - 100),),
    ).fetchone()
    return row


def _opened(desk: Desk) -> None:
    with desk.db.read() as conn:
        uuid = _some(conn)["uuid"]
    if _asked(desk).get(f"/api/entries/{uuid}/en").status_code != 200:
        raise RuntimeError("the entry did not open")


def _saved(desk: Desk) -> None:
    body = made.text(random.Random(), 2000)

    def do(act: Act) -> None:
        row = _some(act.conn)
        base = entries.current_base(act, row["id"], "en")
        entries.save(act, row["uuid"], "en", {"body": body}, base)

    desk.write(_asker(desk), do)


GROUPS = {
    "reads": figure_reads,
    "save": figure_save,
    "dispatch": figure_dispatch,
    "finding": figure_finding,
    "renditions": pages.figure_renditions,
    "outline": pages.figure_outline,
    "preview": pages.figure_preview,
    "merging": merging.figure_merging,
    "hostile": hostile.figure_hostile,
    "idle": quiet.figure_idle,
    "listeners": quiet.figure_listeners,
    "bursts": quiet.figure_bursts,
    "start": quiet.figure_start,
}


def main() -> None:
    """Measure everything, print a table, and write it down."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--only", choices=[*GROUPS], help="one group of figures")
    chosen = parser.parse_args().only
    console = Console()
    figures: dict[str, Figure] = {}
    failed: list[str] = []
    for name, measure in GROUPS.items():
        if chosen not in (None, name):
            continue
        try:
            with console.status(f"Measuring: {name}…"), tempfile.TemporaryDirectory() as folder:
                found = measure(Path(folder))
        except Exception:
            # One group that cannot be measured takes no other with it.
            console.print_exception()
            failed.append(name)
            continue
        figures |= found
        _keep(found)
    table = Table("figure", "ours", "floor", "unit", "ratio", "goal", "")
    for name, f in figures.items():
        goal = f"{'at least' if f.better == 'higher' else 'at most'} {f.goal:g}"
        table.add_row(
            name,
            f"{f.ours:,.3g}",
            f"{f.floor:,.3g}",
            f.unit,
            f"{f.ratio:.2f}",
            goal,
            "met" if f.met else "short",
        )
    console.print(table)
    if failed:
        console.print(f"Could not be measured: {', '.join(failed)}.")
        sys.exit(1)


def _keep(figures: dict[str, Figure]) -> None:
    """Write a group down as soon as it was measured; what others measured before stays as it was."""
    written = {n: {k: v for k, v in asdict(f).items() if k != "unit"} for n, f in figures.items()}
    latest = HERE / "latest.json"
    before = json.loads(latest.read_text("utf-8")) if latest.exists() else {}
    latest.write_text(json.dumps({**before, **written}, indent=2) + "\n", "utf-8")


if __name__ == "__main__":
    main()
