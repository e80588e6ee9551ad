"""Trials that can go on for as long as they are told: each returns what it counted, and raises where a promise was broken."""

from __future__ import annotations

import json
import random
import sqlite3
import threading
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx

from hawthorn.core.timeline import SECOND
from hawthorn.followers import outgoing
from hawthorn.followers.carrier import Carrier
from hawthorn.followers.mail import Mail
from hawthorn.operations.release.dispatches import make
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.translation import sending
from hawthorn.operations.translation.orders import Order
from hawthorn.store import bureaus, definitions, migrate, outbox, people, pool
from hawthorn.store.bureaus import Written
from hawthorn.store.database import Database
from tests.core import test_moved
from tests.followers.partners import Anything, Postbox
from tests.followers.test_followers import Options
from tests.service.made import Clock, House
from tests.store.test_pool import open_files
from tests.torture.carried import carried_killed
from tests.torture.fuzz import fuzz
from tests.torture.hostile import hostile, readers
from tests.torture.inside import inside_killed
from tests.torture.promises import GOES, Broken, expect, killed, sound
from tests.torture.returned import returns_killed
from tests.torture.told import webhooks_killed

Trial = Callable[[Path, float, random.Random], Counter[str]]


_SAVES = """
import sys, pathlib, time
from tests.service.made import House, Clock
from hawthorn.operations.content import entries
from hawthorn.store import entries as store
house = House(pathlib.Path(sys.argv[1]), Clock(time.time_ns() // 1000))
house.desk.clock.now = lambda: time.time_ns() // 1000
page = sys.argv[2]
print("ready", flush=True)
n = 0
while True:
    n += 1
    def save(act):
        base = entries.current_base(act, store.entry(act.conn, page).id, "en")
        return entries.save(act, page, "en", {"body": f"<p>{sys.argv[3]} {n}</p>"}, base)
    done = house.desk.write(house.who("ida"), save)
    print(done.revisions["en"], n, flush=True)
"""


def saves_killed(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Kills during saves: what was acknowledged is there."""
    house = House(folder, Clock(time.time_ns() // 1000))
    page = house.page("Lamp")
    house.close()
    counted: Counter[str] = Counter()
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        out = killed(_SAVES, [str(folder), page, str(counted["kills"])], rng.uniform(0.0, 0.25))
        said = [line.split() for line in out.splitlines()[1:] if line.count(" ") == 1]
        with sqlite3.connect(house.path) as conn:
            for revision, n in said:
                row = conn.execute("SELECT fields FROM revision WHERE id = ?", (revision,)).fetchone()
                expect(
                    row and json.loads(row[0])["body"] == f"<p>{counted['kills']} {n}</p>", "a save was lost"
                )
        conn.close()
        counted["kills"] += 1
        counted["saves acknowledged and kept"] += len(said)
    sound(house.path)
    return counted


def dispatches_killed(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Kills during dispatches of many moves (400, or 40 for a moment): whole or not at all, and once."""
    moves = 400 if seconds > 30 else 40
    counted: Counter[str] = Counter()
    house = House(folder)
    pages = [house.signed(f"Page {n}") for n in range(moves)]
    until = time.monotonic() + seconds
    verb = "release"
    while time.monotonic() < until:
        at = house.clock.at + 3600 * SECOND
        when = When(instant=_iso(at))
        requests = [MoveRequest(p, "en", verb) for p in pages]
        uuid = house.do("ida", lambda a, w=requests, t=when: make(a, w, t))
        house.close()
        killed(GOES, [str(folder), str(at)], rng.uniform(0.0, 0.4))
        house = House(folder, Clock(at))
        with house.desk.db.read() as conn:
            state = conn.execute("SELECT state FROM dispatch WHERE uuid = ?", (uuid,)).fetchone()[0]
        out = sum(house.is_out(p) for p in pages)
        before = 0 if verb == "release" else moves
        expect(
            (state, out) in (("planned", before), ("gone", moves - before)),
            f"half a dispatch: {state}, {out} of {moves}",
        )
        counted[f"killed {'before it went' if state == 'planned' else 'after it went'}"] += 1
        house.later(1)
        expect(house.state(uuid) == "gone", "a dispatch did not go afterwards")
        with house.desk.db.read() as conn:
            gone = conn.execute(
                "SELECT count(*) FROM event e JOIN event_payload p ON p.seq = e.seq WHERE e.kind = 'dispatch.gone' AND p.json LIKE ?",
                (f"%{uuid}%",),
            ).fetchone()[0]
        expect(gone == 1, "a dispatch went twice")
        counted["kills"] += 1
        verb = "withdraw" if verb == "release" else "release"
    house.close()
    sound(house.path)
    return counted


def _iso(at: int) -> str:
    from hawthorn.core.timeline import iso

    return iso(at)


_MAILS = """
import sys, pathlib, time
from tests.service.made import House, Clock
from tests.followers.test_followers import Options
from hawthorn.followers.mail import Mail
house = House(pathlib.Path(sys.argv[1]), Clock(int(sys.argv[3])))
print("ready", flush=True)
Mail(house.desk, Options(smtp_port=int(sys.argv[2]))).step(sys.argv[3])
"""


def mails_killed(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Kills while mail is sent: every mail arrives; one goes twice only where a kill fell between sending and noting it."""
    counted: Counter[str] = Counter()
    house = House(folder)
    box = Postbox(slow=0.01)
    until = time.monotonic() + seconds
    number = 0
    with box.running() as port:
        while time.monotonic() < until:

            def put(conn: sqlite3.Connection, first: int = number, now: int = house.clock.now()) -> None:
                for n in range(first, first + 20):
                    payload = '{"subject": "Hello", "body": "Read this."}'
                    outbox.put(conn, "mail", f"m{n}", 0, f"r{n}@x.example", payload, now)

            house.desk.db.write(put)
            number += 20
            house.clock.at += outbox.CLAIM
            at = house.clock.at
            house.close()
            killed(_MAILS, [str(folder), str(port), str(at)], rng.uniform(0.0, 0.3))
            house = House(folder, Clock(at + outbox.CLAIM + outbox.LEASE))
            counted["kills"] += 1
        for _ in range(200):
            Mail(house.desk, Options(smtp_port=port)).step("last")
            house.clock.at += outbox.CLAIM
            with house.desk.db.read() as conn:
                if conn.execute("SELECT count(*) FROM outbox WHERE state = 'waiting'").fetchone()[0] == 0:
                    break
    expect(set(box.taken) == {f"r{n}@x.example" for n in range(number)}, "a mail never arrived")
    twice = sum(n - 1 for n in Counter(box.taken).values())
    expect(twice <= counted["kills"], f"{twice} mails went twice in {counted['kills']} kills")
    counted["mails"] = number
    counted["sent again after a kill"] = twice
    house.close()
    return counted


_MIGRATES = """
import sys, pathlib
from hawthorn.store.bureaus import Written
from hawthorn.store.database import Database
print("ready", flush=True)
Database(pathlib.Path(sys.argv[1])).close()
"""


def migrations_killed(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Kills while a file is brought up: it can always be opened afterwards, with all that was in it."""
    counted: Counter[str] = Counter()
    older = folder / "older.sqlite"
    whole = migrate.steps
    migrate.steps = lambda: whole()[:1]  # type: ignore[assignment]
    try:
        Database(older).close()
    finally:
        migrate.steps = whole  # type: ignore[assignment]
    with sqlite3.connect(older) as conn:
        conn.executemany(
            "INSERT INTO setting VALUES (?, ?)", [(f"kept {n}", "x" * 2000) for n in range(2000)]
        )
    conn.close()
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        path = folder / "trial.sqlite"
        for old in folder.glob("trial.sqlite*"):
            if old.is_file():
                old.unlink()
        path.write_bytes(older.read_bytes())
        killed(_MIGRATES, [str(path)], rng.uniform(0.0, 0.08))
        Database(path).close()
        with sqlite3.connect(path) as conn:
            expect(
                conn.execute("SELECT count(*) FROM setting WHERE name LIKE 'kept %'").fetchone()[0] == 2000,
                "lost",
            )
            expect(
                conn.execute("SELECT count(*) FROM migration").fetchone()[0] == len(whole()), "half migrated"
            )
            expect(conn.execute("PRAGMA integrity_check").fetchone()[0] == "ok", "damaged")
        conn.close()
        counted["kills"] += 1
    return counted


def crowds(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Several processes save on one file at once: nothing acknowledged is lost, and nobody is told that it is locked."""
    house = House(folder, Clock(time.time_ns() // 1000))
    pages = [house.page(f"Page {n}") for n in range(4)]
    house.close()
    counted: Counter[str] = Counter()
    outs: list[str] = []
    threads = [
        threading.Thread(
            target=lambda p=page, n=n: outs.append(killed(_SAVES, [str(folder), p, str(n)], seconds))
        )
        for n, page in enumerate(pages)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    with sqlite3.connect(house.path) as conn:
        for out in outs:
            said = [line.split() for line in out.splitlines()[1:] if line.count(" ") == 1]
            expect(said, "one of the processes did not get to save at all")
            for revision, _ in said:
                expect(
                    conn.execute("SELECT 1 FROM revision WHERE id = ?", (revision,)).fetchone(),
                    "a save was lost",
                )
            counted["saves"] += len(said)
    conn.close()
    counted["processes"] = len(pages)
    sound(house.path)
    return counted


def bursts(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Threads that come, read at once, and go: no file stays open for them."""
    counted: Counter[str] = Counter()
    db = Database(folder / "bursts.sqlite")
    db.write(lambda c: definitions.set_setting(c, "a", "1"))

    def read() -> None:
        with db.read() as conn:
            conn.execute("SELECT count(*) FROM setting").fetchone()

    files: list[int] = []
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        threads = [threading.Thread(target=read) for _ in range(rng.randint(2, 30))]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        counted["bursts"] += 1
        counted["readers"] += len(threads)
        files.append(open_files(folder / "bursts.sqlite"))
        time.sleep(rng.uniform(0.0, 0.02))
    expect(files[-1] <= 3 * (pool.MOST + 2), f"{files[0]} files became {files[-1]}")
    db.close()
    return counted


_ANSWERS: list[Any] = [
    '{"state": "accepted"}', '{"state": null}', "{}", "[]", "null", "", "<html>Maintenance</html>", 200, 302, 400, 404, 408, 429, 500, 503,
    '{"state": "in work", "done": 1}', '{"state": "in work", "done": null}', '{"state": "in work", "done": 1e999}',
    '{"state": "finished"}', '{"state": "failed", "reason": "ill"}', '{"state": "offered"}', '{"state": 7}', '{"done": {}}',
    '{"state": "in work", "parts": [{"id": "1", "sha256": "%s"}]}' % ("0" * 64), '{"state": "in work", "parts": [{"id": "../x", "sha256": ""}]}',
    '{"state": "in work", "questions": [{"id": "q", "file": "x", "unit": "y", "text": "What is it?"}]}',
]  # fmt: skip


def partners(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """A bureau that answers at random: the connector never fails, and every job ends or is still being asked about."""
    counted: Counter[str] = Counter()
    house = House(folder)

    def set_up(conn: sqlite3.Connection) -> None:
        definitions.add_locale(conn, "fr", "Français")
        definitions.set_setting(conn, "setup", "50")
        actor = people.add_actor(conn, "bureau", "odd", "Odd", "", "", "UTC", 1)
        people.hold(conn, actor, "bureau")
        bureaus.add(conn, actor, Written("Odd", "http", "http://odd.example"))

    house.desk.db.write(set_up)

    def answering(request: httpx.Request) -> Any:
        counted["answers"] += 1
        if rng.random() < 0.1:
            raise httpx.ReadError("the line broke", request=request)
        return rng.choice(_ANSWERS)

    whole = outgoing.caller
    outgoing.caller = lambda *_: httpx.Client(transport=Anything(answering))  # type: ignore[assignment]
    try:
        carrier = Carrier(house.desk, Options(allow_hosts=["odd.example"]))
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            page = house.page(f"Page {counted['jobs']}")
            house.do("ida", lambda a, p=page: sending.commission(a, Order((p,), ("fr",), bureau="Odd")))
            counted["jobs"] += 1
            for _ in range(6):
                carrier.step("one")
                house.clock.at += rng.randint(1, 1000) * SECOND
        for _ in range(60):
            carrier.step("one")
            house.clock.at += 1000 * SECOND
        carrier.close()
    finally:
        outgoing.caller = whole  # type: ignore[assignment]
    with house.desk.db.read() as conn:
        stuck = conn.execute(
            "SELECT count(*) FROM job j WHERE (j.state = 'waiting' AND NOT EXISTS (SELECT 1 FROM outbox o WHERE o.payload ->> 'job' = j.uuid "
            "AND o.state = 'waiting')) OR (j.state IN ('sent', 'in work') AND j.remote = '')"
        ).fetchone()[0]
        for state, n in conn.execute("SELECT state, count(*) FROM job GROUP BY state"):
            counted[f"jobs that are {state}"] = n
    expect(stuck == 0, f"{stuck} jobs wait for nobody")
    house.close()
    return counted


def merges(folder: Path, seconds: float, rng: random.Random) -> Counter[str]:
    """Random edits of two people: joins, splits, moves, nested lists, blocks, in several scripts."""
    counted: Counter[str] = Counter()
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        seed = rng.getrandbits(40)
        for name, check in (("texts", test_moved.check), ("pages of blocks", test_moved.check_blocks)):
            try:
                check(seed)
            except Exception as error:
                raise Broken(f"merging {name} with seed {seed}: {error}") from error
            counted[name] += 1
    return counted


TRIALS: dict[str, Trial] = {
    "kills during saves": saves_killed,
    "kills during dispatches": dispatches_killed,
    "kills while what is written inside a dispatch goes": inside_killed,
    "kills during returns of translations": returns_killed,
    "kills while bureaus are asked": carried_killed,
    "kills during mails": mails_killed,
    "kills while receivers are told": webhooks_killed,
    "kills during migrations": migrations_killed,
    "several processes": crowds,
    "bursts of readers": bursts,
    "odd bureaus": partners,
    "random merges": merges,
    "hostile input": hostile,
    "readers": readers,
    "the whole API": fuzz,
}
