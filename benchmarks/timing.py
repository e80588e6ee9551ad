"""Time: a page of the timetable among many dispatches, reading in the past, and how late what is planned goes."""

from __future__ import annotations

import sqlite3
import statistics
import sys
import time
from pathlib import Path

from benchmarks import made
from benchmarks.figures import Figure, free_port, serving
from hawthorn.core.timeline import SECOND
from hawthorn.operations.access import permission
from hawthorn.operations.delivery import rendering
from hawthorn.operations.delivery.reading import Place
from hawthorn.operations.release import listing
from hawthorn.operations.views import show_dispatches
from hawthorn.store.standings import RELEASE

DAY = 24 * 3600 * SECOND
_MONTH = 31 * DAY
_PAGE = 50


def figure_timetable(folder: Path) -> dict[str, Figure]:
    """A page of a month of the timetable with 10,000 dispatches in the file, and with 100; and against the rows alone."""
    few, many = (_timetable(folder / f"timetable-{n}.sqlite", n) for n in (100, 10_000))
    return {
        "a page of the timetable, 10,000 dispatches against 100": Figure(
            many[0], few[0], many[0] / few[0], 1.5, "lower", "seconds"
        ),
        "a page of the timetable, 10,000 dispatches, against its rows alone": Figure(
            many[0], many[1], many[0] / many[1], 15.0, "lower", "seconds"
        ),
    }


def _timetable(path: Path, count: int) -> tuple[float, float]:
    """The seconds of a page of a month with a hundred dispatches, others before and after it; and of its rows alone."""
    desk = made.open_desk(path)
    pages = made.pages(desk, 100)
    start = desk.clock.now() + 400 * DAY
    for n in range(count):
        inside = n < 100
        at = start + n * (_MONTH // 101) if inside else start + (1 + n) * DAY // 24 + _MONTH
        made.plan(desk, [pages[n % 100]], at)
    with desk.db.read() as conn:
        chief = permission.identity_of(conn, made.people.by_handle(conn, "oda").id)  # type: ignore[union-attr]

    def look() -> None:
        def read(view: object) -> list[object]:
            rows, _ = listing.between(view, start, start + _MONTH, _PAGE)  # type: ignore[arg-type]
            return [show_dispatches.dispatch(view, row, whole=False) for row in rows]  # type: ignore[arg-type]

        if len(desk.read(chief, read)) != _PAGE:
            raise RuntimeError("the page was not whole")

    def rows() -> None:
        with desk.db.read() as conn:
            conn.execute(
                "SELECT d.*, m.*, e.uuid FROM (SELECT * FROM dispatch WHERE instant >= ? ORDER BY instant, id LIMIT ?) d "
                "JOIN move m ON m.dispatch = d.id JOIN edition x ON x.id = m.edition JOIN entry e ON e.id = x.entry",
                (start, _PAGE),
            ).fetchall()

    ours, floor = _median(look), _median(rows)
    desk.db.close()
    return ours, floor


def _median(what: object, rounds: int = 15) -> float:
    times = []
    for _ in range(rounds):
        began = time.perf_counter()
        what()  # type: ignore[operator]
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def figure_past(folder: Path, standings: int = 1_000) -> dict[str, Figure]:
    """Reading a page as it was among many standings, against reading it as it is; both are rendered."""
    desk = made.open_desk(folder / "past.sqlite")
    ((own, common, uuid),) = made.pages(desk, 1)
    now = desk.clock.now()
    first = now - standings * DAY

    def stand(conn: sqlite3.Connection) -> None:
        heads = dict(conn.execute("SELECT edition, head FROM strand").fetchall())
        conn.executemany(
            "INSERT INTO standing (edition, stage, revision, since, until, committed_at) VALUES (?, ?, ?, ?, ?, ?)",
            [
                (edition, RELEASE, heads[edition], at, None if n == standings - 1 else at + DAY, at)
                for edition in (own, common)
                for n, at in ((n, first + n * DAY) for n in range(standings))
            ],
        )

    desk.db.write(stand)
    identity = made.scheduler(desk)

    def reading(where: Place) -> float:
        def read() -> None:
            desk.read(identity, lambda view: rendering.render(view, uuid, "en", where))

        return _median(read, 60)

    was, is_now = [], []
    for _ in range(5):
        was.append(reading(Place(RELEASE, first + standings // 2 * DAY + 5)))
        is_now.append(reading(Place()))
    desk.db.close()
    ours, floor = statistics.median(was), statistics.median(is_now)
    return {
        f"reading in the past, {standings:,} standings, against now": Figure(
            ours, floor, ours / floor, 1.2, "lower", "seconds"
        )
    }


def figure_lateness(folder: Path, count: int = 1_000) -> dict[str, Figure]:
    """How late dispatches go of which many are due within a minute: from the instant that was planned until it was committed."""
    path = folder / "late.sqlite"
    desk = made.open_desk(path)
    pages = made.pages(desk, count)
    warm = made.pages(desk, 1, seed=3)
    made.plan(desk, warm, desk.clock.now())
    desk.write(made.scheduler(desk), lambda _: None)
    start = desk.clock.now() + 12 * SECOND
    step = 60 * SECOND // count
    for n, page in enumerate(pages):
        made.plan(desk, [page], start + n * step)
    desk.db.close()
    port = free_port()
    serve = [sys.executable, "-m", "hawthorn.cli.app", "serve", "--file", str(path), "--port", str(port)]
    with serving((serve, port, f"/read/entries/{warm[0][2]}?locale=en")):
        late = _followed(path, start + 62 * SECOND)
    if len(late) != count:
        raise RuntimeError(f"only {len(late)} went")
    worst = statistics.quantiles(late, n=100)[98] / 1_000
    return {
        f"lateness of {count:,} dispatches due within a minute, 99th percentile, against 50 ms": Figure(
            worst, 50.0, worst / 50.0, 1.0, "lower", "ms"
        )
    }


def _followed(path: Path, until: int) -> list[int]:
    """How late each went, in microseconds, as somebody sees it who looks at the file all the time."""
    seen: dict[int, int] = {}
    conn = sqlite3.connect(f"file:{path}?mode=ro", uri=True, timeout=20)
    while time.time_ns() // 1_000 < until:
        rows = conn.execute(
            "SELECT id, instant FROM dispatch WHERE state = 'gone' AND id > 1 AND id NOT IN "
            "(SELECT value FROM json_each(?))",
            (str([*seen]),),
        ).fetchall()
        at = time.time_ns() // 1_000
        for id, instant in rows:
            seen[id] = at - instant
        time.sleep(0.004)
    conn.close()
    return [*seen.values()]
