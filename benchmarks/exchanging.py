"""A house going out and coming in elsewhere, with its history, against bare SQLite moving the very same rows."""

from __future__ import annotations

import hashlib
import os
import random
import shutil
import sqlite3
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from uuid import UUID

from benchmarks import made
from benchmarks.figures import Figure, begun_by, own_memory
from hawthorn.core import aligning, chain, compact, richtext
from hawthorn.core.exchange import lines, receipt, signed
from hawthorn.core.exchange.lines import (
    EditionLine,
    EntryLine,
    PersonLine,
    RevisionLine,
    SignOffLine,
    StandingLine,
    StrandLine,
)
from hawthorn.core.exchange.package import ENTRIES, FILES, PEOPLE, SETUP, Writing
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.exchange import at_work, exporting, packages, receipts
from hawthorn.operations.exchange.exporting import Choice
from hawthorn.operations.exchange.report import Wish
from hawthorn.operations.runtime.act import Desk, new_uuid
from hawthorn.store import connection, events, exchange, migrate

REVISIONS = 4
_MINUTE = 60_000_000


def package(path: Path, count: int, seed: int = 3) -> None:
    """A package of so many pages, each with four revisions of its text, of which the third is out and the fourth is being written."""
    with path.open("wb") as file:
        out = Writing(file, history=True)
        out.lines(ENTRIES, map(lines.told, _entries(count, random.Random(seed))))
        out.lines(SETUP, [compact.written({"version": 1})])
        out.lines(FILES, [])
        out.lines(PEOPLE, [lines.told(PersonLine(name, name.title(), "person")) for name in ("oda", "wim")])
        out.close()


def _entries(count: int, rng: random.Random) -> Iterator[EntryLine]:
    begin = 1_700_000_000_000_000
    for n in range(count):
        at = begin + n * _MINUTE
        id = str(UUID(int=(at // 1000) << 80 | 7 << 76 | 2 << 62 | rng.getrandbits(60)))
        yield EntryLine(
            id, "page", "en", iso(at), "wim", None, "", [], [], [_common(at), _own(n, at, rng)], []
        )


def _common(at: int) -> EditionLine:
    first = RevisionLine(1, 0, [], [], "wim", "person", iso(at), "", "start", {}, {}, {})
    return EditionLine("*", [_draft(1)], [first], [_out(1, at + 5)], [], [], [])


def _own(n: int, at: int, rng: random.Random) -> EditionLine:
    body = made.text(rng, 1_500)
    some = []
    ids = aligning.align(richtext.paragraphs(body), [], ())
    for number in range(1, REVISIONS + 1):
        changed = body.replace(".</p>", f" {rng.choice(made.WORDS)}.</p>", number)
        new = richtext.paragraphs(changed)
        ids = aligning.align(new, richtext.paragraphs(body), ids)
        body = changed
        told = [(one.id, one.hash) for one in ids]
        fields = {"title": f"Page {n}", "slug": f"page-{n}", "body": body}
        parents = [number - 1] if number > 1 else []
        when = iso(at + number)
        some.append(
            RevisionLine(
                number, 0, parents, [], "wim", "person", when, "", "save", fields, {"body": told}, {}
            )
        )
    signed = SignOffLine(3, "release", "standard", "oda", ["section-editor"], iso(at + 4), "", [])
    return EditionLine("en", [_draft(REVISIONS)], some, [_out(3, at + 5)], [signed], [], [])


def _draft(head: int) -> StrandLine:
    return StrandLine("draft", head, None, None, None, "", "", None)


def _out(revision: int, at: int) -> StandingLine:
    return StandingLine("release", revision, iso(at), None, iso(at))


def figure_exchange(folder: Path, count: int = 100_000) -> dict[str, Figure]:
    """Export and import of so many entries with history, looked through first, against bare SQLite reading the same rows of the same tables and
    writing them into a file with the same indexes; and by how much the process grows meanwhile."""
    first = folder / "first.zip"
    package(first, count)
    desk = made.open_desk(folder / "house.sqlite")
    again = folder / "again.zip"
    with _growing() as grew:
        begun = time.perf_counter()
        brought(desk, first)
        sent(desk, again)
        ours = time.perf_counter() - begun
    desk.db.close()
    # The better of two: where the disk is busy with what was written before, the floor is no excuse.
    floor = min(_moved(folder / "house.sqlite", folder / f"bare{n}.sqlite") for n in range(2))
    return {
        f"export and import of {count:,} entries with history, in place of bare SQLite": Figure(
            ours, floor, ours / floor, 4, "lower", "s"
        ),
        "memory that takes, in place of 300 MB": Figure(max(grew), 300, max(grew) / 300, 1, "lower", "MB"),
    }


def brought(desk: Desk, file: Path) -> None:
    """Look through a package and bring it."""
    me = made.somebody(desk, "wim")
    uuid = new_uuid(desk.clock.now())
    packages.folder(desk).mkdir(exist_ok=True)
    shutil.copy(file, packages.file_of(desk, uuid))
    desk.write(me, lambda act: packages.start_import(act, uuid, file.name, 1, Wish()))
    _work(desk, uuid, "looked")
    desk.write(me, lambda act: packages.run(act, uuid))
    _work(desk, uuid, "done")


def sent(desk: Desk, goal: Path) -> None:
    """Make a package of everything."""
    me = made.somebody(desk, "wim")
    uuid = desk.write(me, lambda act: packages.start_export(act, Choice(), goal.name))
    _work(desk, uuid, "done")
    packages.file_of(desk, uuid).rename(goal)


def _work(desk: Desk, uuid: str, wanted: str) -> None:
    with desk.db.read() as conn:
        row = exchange.by_uuid(conn, uuid)
    assert row is not None
    at_work.work(desk, row, lambda: True)
    with desk.db.read() as conn:
        found = exchange.by_uuid(conn, uuid)
    assert found is not None
    assert found.state == wanted, found.trouble


@contextmanager
def _growing() -> Iterator[list[float]]:
    """By how many MB the process grew at each look, with those that it began, while something goes on: without what the system keeps of the record
    file, which it drops where memory is wanted."""
    done, first, grew = threading.Event(), own_memory(os.getpid()), [0.0]

    def look() -> None:
        while not done.wait(0.05):
            others = 0.0
            for pid in begun_by(os.getpid()):
                with suppress(OSError, KeyError):  # it has just ended
                    others += own_memory(pid)
            grew.append(own_memory(os.getpid()) + others - first)

    looking = threading.Thread(target=look)
    looking.start()
    try:
        yield grew
    finally:
        done.set()
        looking.join()


def _moved(source: Path, target: Path) -> float:
    """Read all rows of one file and write them into another with the same tables and indexes, by transactions of as many as an import takes."""
    migrate.migrate(connection.open_writer(target))
    reading = sqlite3.connect(source)
    writing = connection.open_writer(target)
    writing.execute("PRAGMA foreign_keys = OFF")
    tables = [
        row[0]
        for row in reading.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
        if not row[0].startswith(("sqlite_", "search_text_", "memory_marks", "migration"))
    ]
    begun = time.perf_counter()
    for table in tables:
        columns = "rowid, title, body, facets" if table == "search_text" else "*"
        rows = reading.execute(f"SELECT {columns} FROM {table}")
        while some := rows.fetchmany(exporting.AT_ONCE * 5):
            writing.execute("BEGIN IMMEDIATE")
            names = f"({columns})" if table == "search_text" else ""
            writing.executemany(
                f"INSERT OR IGNORE INTO {table} {names} VALUES ({', '.join('?' * len(some[0]))})", some
            )
            writing.execute("COMMIT")
    return time.perf_counter() - begun


def figure_receipt(folder: Path, moves: int = 10_000) -> dict[str, Figure]:
    """A receipt for a dispatch of so many moves, made and verified, against two seconds."""
    desk = made.open_desk(folder / "house.sqlite")
    pages = made.pages(desk, moves // 2)
    number = made.plan(desk, pages, desk.clock.now() - 1)
    scheduler = made.scheduler(desk)
    desk.write(scheduler, lambda _: None)
    wim = made.somebody(desk, "wim")
    desk.write(wim, receipts.have_key)
    with desk.db.read() as conn:
        uuid = conn.execute("SELECT uuid FROM dispatch WHERE id = ?", (number,)).fetchone()[0]
    key = desk.read(wim, receipts.key)
    assert key is not None
    begun = time.perf_counter()
    document = desk.read(wim, lambda view: receipts.of_dispatch(view, uuid))
    found = receipt.read(signed.opened(document, key, receipt.KIND))
    wrong = [*receipt.wrong(found)]
    took = time.perf_counter() - begun
    desk.db.close()
    assert not wrong, wrong[:3]
    assert len({(one.entry, one.locale) for one in found.moves}) == moves
    return {
        f"a receipt for {moves:,} moves, made and verified, in place of 2 s": Figure(
            took, 2, took / 2, 1, "lower", "s"
        )
    }


def figure_backup(folder: Path, count: int = 20_000, seconds: float = 6.0) -> dict[str, Figure]:
    """Saves a second while a backup is made of a running service, against as many while none is."""
    desk = made.open_desk(folder / "house.sqlite")
    pages = made.pages(desk, count)
    wim = made.somebody(desk, "wim")
    uuid = pages[0][2]
    counter = [0]

    def save() -> None:
        counter[0] += 1
        row = desk.read(wim, lambda view: permission.find(view, uuid))
        base = desk.read(wim, lambda view: entries.current_base(view, row.id, "en"))
        desk.write(wim, lambda act: entries.save(act, uuid, "en", {"title": f"Page {counter[0]}"}, base))

    def saves(until: Callable[[], bool]) -> float:
        begun, done = time.perf_counter(), 0
        while not until():
            save()
            done += 1
        return done / (time.perf_counter() - begun)

    idle, busy = [], []
    for n in range(3):
        ends = time.perf_counter() + seconds
        idle.append(saves(lambda at=ends: time.perf_counter() > at))  # type: ignore[misc]
        command = [
            sys.executable,
            "-m",
            "hawthorn.cli.app",
            "backup",
            "make",
            "--file",
            str(folder / "house.sqlite"),
        ]
        running = subprocess.Popen(
            [*command, "--folder", str(folder / f"backups{n}")], stdout=subprocess.DEVNULL
        )
        busy.append(saves(lambda one=running: one.poll() is not None))  # type: ignore[misc]
        assert running.returncode == 0
    desk.db.close()
    ours, floor = statistics.median(busy), statistics.median(idle)
    return {
        "saves a second while a backup is made, of as many while none is": Figure(
            ours, floor, ours / floor, 0.8, "higher", "saves/s"
        )
    }


def figure_check(folder: Path, count: int = 1_000_000) -> dict[str, Figure]:
    """Walking the chain of so many events, with every payload, against hashing the same texts that are in memory already."""
    desk = made.open_desk(folder / "house.sqlite")
    desk.db.write(lambda conn: _events(conn, count))
    with desk.db.read() as conn:
        begun = time.perf_counter()
        assert not [*events.verify(conn)]
        ours = time.perf_counter() - begun
        floor = 0.0
        for start in range(0, count, 50_000):
            rows = conn.execute(
                "SELECT e.seq, e.at, e.kind, e.actor, e.actor_kind, e.payload_hash, e.prev, p.json FROM event e "
                "JOIN event_payload p ON p.seq = e.seq WHERE e.seq > ? ORDER BY e.seq LIMIT 50000",
                (start,),
            ).fetchall()
            some = [tuple(row) for row in rows]
            begun = time.perf_counter()
            for *link, body in some:
                hashlib.sha256(body.encode()).hexdigest()
                chain.link(*link)
            floor += time.perf_counter() - begun
    desk.db.close()
    return {
        f"checking {count:,} events, of hashing them alone": Figure(
            count / ours, count / floor, floor / ours, 0.5, "higher", "events/s"
        )
    }


def _events(conn: sqlite3.Connection, count: int) -> None:
    seq, at, prev = events.last(conn)
    rows, payloads = [], []
    for n in range(count):
        seq, at = seq + 1, at + 1
        body = f'{{"entry":"01a1b28b-47f0-7113-91fe-82b9c30a117a","locale":"en","title":"Page {n}","revisions":{{"en":{n}}},"merged":false}}'
        digest = hashlib.sha256(body.encode()).hexdigest()
        link = chain.link(seq, at, "entry.saved", 2, "person", digest, prev)
        rows.append((seq, at, "entry.saved", 2, "person", digest, prev, link))
        payloads.append((seq, body))
        prev = link
    conn.executemany("INSERT INTO event VALUES (?, ?, ?, ?, ?, ?, ?, ?)", rows)
    conn.executemany("INSERT INTO event_payload (seq, json) VALUES (?, ?)", payloads)
