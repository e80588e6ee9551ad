"""Planned dispatches: on time, once, whole; over restarts, crashes and two processes."""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from hawthorn.core.errors import BadStore, BadTime, GateUnmet, InTheWay
from hawthorn.core.timeline import SECOND
from hawthorn.operations.content import entries
from hawthorn.operations.release import dispatches, review
from hawthorn.operations.release.lines import MoveRequest, When
from hawthorn.operations.release.workflows import define as define_workflow
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.runtime.bootstrap import STANDARD
from hawthorn.operations.views.health import health
from hawthorn.store.database import Database
from tests.service.made import Clock, House


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    with made.desk.db.read() as conn:
        wrong = made.desk.read(made.who("ida"), health)
        assert conn.execute("PRAGMA foreign_key_check").fetchall() == []
    assert wrong == []
    made.close()


def test_a_release_happens_at_its_instant_and_not_before(house: House) -> None:
    page = house.signed("Lamp")
    dispatch = house.plan([page], 60)
    house.later(59)
    assert not house.is_out(page)
    due = house.clock.at + SECOND
    house.later(1)
    assert house.is_out(page)
    assert house.standing(page)[-1][2] == due
    assert house.state(dispatch) == "gone"
    assert house.events().count(("dispatch.gone", "scheduler")) == 1
    house.later(60)
    assert house.events().count(("dispatch.gone", "scheduler")) == 1


def test_what_came_due_while_nothing_ran_goes_when_it_runs_again_and_says_that_it_was_late(
    tmp_path: Path,
) -> None:
    clock = Clock()
    house = House(tmp_path, clock)
    page = house.signed("Lamp")
    dispatch = house.plan([page], 60)
    due = clock.at + 60 * SECOND
    house.close()
    clock.at += 3600 * SECOND
    again = House(tmp_path, clock)
    again.later(0)
    assert again.is_out(page)
    assert again.standing(page)[-1][2] == due
    with again.desk.db.read() as conn:
        late = conn.execute("SELECT late_by FROM dispatch WHERE uuid = ?", (dispatch,)).fetchone()[0]
    assert late >= 3500 * SECOND
    again.close()


def test_all_moves_go_or_none_does(house: House) -> None:
    first, second = house.signed("One"), house.signed("Two")
    dispatch = house.plan([first, second], 60)
    house.do("oda", lambda a: review.send_back(a, second, "en", "Not like this."))
    house.later(120)
    assert house.state(dispatch) == "held"
    assert not house.is_out(first)
    assert not house.is_out(second)
    assert ("dispatch.held", "scheduler") in house.events()


def test_a_gate_that_was_made_stricter_holds_what_was_planned_before(house: House) -> None:
    page = house.signed("Lamp")
    dispatch = house.plan([page], 60)
    stricter = {
        **STANDARD,
        "stages": [*STANDARD["stages"][:2], {**STANDARD["stages"][2], "gate": {"sign_offs": 2}}],
    }
    house.do("ida", lambda a: define_workflow(a, stricter))
    house.later(120)
    assert house.state(dispatch) == "held"
    assert not house.is_out(page)


def test_what_is_due_goes_before_anything_that_touches_it(house: House) -> None:
    page = house.signed("Lamp")
    house.plan([page], 60)
    house.clock.at += 120 * SECOND
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", "withdraw")]))
    out = [row for row in house.standing(page) if row[0] == "release"]
    assert len(out) == 1
    assert out[0][3] is not None
    assert out[0][2] < out[0][3]


def test_withdrawing_is_planned_too_and_can_be_cancelled_or_moved(house: House) -> None:
    page = house.signed("Lamp")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    off = house.plan([page], 60, "withdraw")
    house.do("ida", lambda a: dispatches.cancel(a, off))
    house.later(120)
    assert house.is_out(page)
    with pytest.raises(InTheWay, match="cancelled"):
        house.do("ida", lambda a: dispatches.cancel(a, off))
    moved = house.plan([page], 60, "withdraw")
    from hawthorn.core.timeline import iso

    house.do("ida", lambda a: dispatches.replan(a, moved, When(instant=iso(house.clock.at + 600 * SECOND))))
    house.later(300)
    assert house.is_out(page)
    house.later(301)
    assert not house.is_out(page)
    assert not house.is_out(page, "*")


def test_a_second_release_replaces_the_first_and_never_takes_back_a_later_one(house: House) -> None:
    page = house.signed("Lamp")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))

    def base(act: Act) -> entries.Base:
        row = entries.store.entry(act.conn, page)
        assert row is not None
        return entries.current_base(act, row.id, "en")

    house.do("wim", lambda a: entries.save(a, page, "en", {"title": "Lamp two"}, base(a)))
    house.do("wim", lambda a: review.submit(a, page, "en"))
    house.do("oda", lambda a: review.sign_off(a, page, "en", 2))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en")]))
    released = [row for row in house.standing(page) if row[0] == "release"]
    assert [(n, until is None) for _, n, _, until in released] == [(1, False), (2, True)]
    assert released[0][3] == released[1][2]
    with pytest.raises(GateUnmet, match="take that back"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", revision=1)]))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(page, "en", revision=1, regress=True)]))
    assert house.standing(page)[-1][1] == 1


def test_addresses_that_swap_in_one_dispatch_swap(house: House) -> None:
    first, second = house.signed("East", slug="east"), house.signed("West", slug="west")
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(first, "en"), MoveRequest(second, "en")]))
    for page, slug in ((first, "west"), (second, "east")):

        def save(act: Act, page: str = page, slug: str = slug) -> None:
            row = entries.store.entry(act.conn, page)
            assert row is not None
            entries.save(act, page, "en", {"slug": slug}, entries.current_base(act, row.id, "en"))

        house.do("wim", save)
        house.do("wim", lambda a, p=page: review.submit(a, p, "en"))
        house.do("oda", lambda a, p=page: review.sign_off(a, p, "en", 2))
    with pytest.raises(GateUnmet, match="is taken"):
        house.do("ida", lambda a: dispatches.make(a, [MoveRequest(first, "en")]))
    house.do("ida", lambda a: dispatches.make(a, [MoveRequest(first, "en"), MoveRequest(second, "en")]))
    with house.desk.db.read() as conn:
        rows = conn.execute(
            "SELECT a.slug, e.uuid FROM address a JOIN entry e ON e.id = a.entry WHERE a.stage = 2 AND a.until IS NULL"
        ).fetchall()
    assert {r[0]: r[1] for r in rows} == {"west": first, "east": second}


def test_time_in_the_log_never_goes_back_when_the_clock_does(house: House) -> None:
    house.signed("Lamp")
    house.clock.at -= 7200 * SECOND
    house.page("Rope")
    with house.desk.db.read() as conn:
        times = [row[0] for row in conn.execute("SELECT at FROM event ORDER BY seq").fetchall()]
    assert times == sorted(set(times))


def test_the_past_is_refused_and_the_present_instant_is_not_guessed(house: House) -> None:
    page = house.signed("Lamp")
    with pytest.raises(BadTime, match="is past"):
        house.plan([page], -30)


_PROCESS = """
import sys, pathlib, time
from hawthorn.followers.scheduler import Scheduler
from hawthorn.messages import WORDS
from hawthorn.operations.release import going
from hawthorn.operations.runtime.act import Desk, SystemClock
from hawthorn.store.database import Database
db = Database(pathlib.Path(sys.argv[1]))
work = Scheduler(Desk(db, SystemClock(), WORDS, first=going.run_due), None)
print("ready", flush=True)
until = time.time() + float(sys.argv[2])
while time.time() < until:
    time.sleep(min(max(work.step("x"), 0), 0.02))
"""


def schedulers(path: Path, seconds: float, count: int) -> list[subprocess.Popen[str]]:
    made = [
        subprocess.Popen(
            [sys.executable, "-c", _PROCESS, str(path), str(seconds)], stdout=subprocess.PIPE, text=True
        )
        for _ in range(count)
    ]
    for process in made:
        assert process.stdout is not None
        assert process.stdout.readline() == "ready\n"
    return made


def test_two_processes_on_one_file_do_it_once(tmp_path: Path) -> None:
    house = House(tmp_path, Clock(time.time_ns() // 1000 - 600 * SECOND))
    pages = [house.signed(f"Page {n}") for n in range(6)]
    house.clock.at = time.time_ns() // 1000 - 7 * SECOND
    planned = [house.plan([page], 7.5 - n + n / 20) for n, page in enumerate(pages)]
    processes = schedulers(house.path, 2.5, 2)
    for process in processes:
        assert process.wait(20) == 0
        process.stdout.close()  # type: ignore[union-attr]
    assert [house.state(d) for d in planned] == ["gone"] * 6
    assert house.events().count(("dispatch.gone", "scheduler")) == 6
    assert all(sum(row[0] == "release" for row in house.standing(p)) == 1 for p in pages)
    house.close()


_KILLED = """
import os, pathlib, signal, sys
from hawthorn.followers.scheduler import Scheduler
from hawthorn.messages import WORDS
from hawthorn.operations.release import going
from hawthorn.operations.runtime.act import Desk, SystemClock
from hawthorn.store.database import Database
db = Database(pathlib.Path(sys.argv[1]))
at, left = sys.argv[2], int(sys.argv[3])

def traced(statement):
    global left
    left -= statement.lstrip().startswith(at)
    if left == 0:
        os.kill(os.getpid(), signal.SIGKILL)

db._writer.set_trace_callback(traced)
work = Scheduler(Desk(db, SystemClock(), WORDS, first=going.run_due), None)
while work.step("x") == 0:
    pass
os.kill(os.getpid(), signal.SIGKILL)
"""
"""Kills itself before a statement of the dispatch's transaction, or after all of it."""


def test_a_process_that_is_killed_leaves_nothing_half_done(tmp_path: Path) -> None:
    house = House(tmp_path, Clock(time.time_ns() // 1000 - 600 * SECOND))
    pages = [house.signed(f"Page {n}") for n in range(25)]
    planned = house.plan(pages, 60)
    house.close()
    points = [
        ("UPDATE dispatch", 1),
        ("INSERT INTO standing", 13),
        ("INSERT INTO address", 25),
        ("INSERT INTO event ", 1),
        ("INSERT OR IGNORE INTO event_about", 20),
        ("COMMIT", 1),
        ("nothing", 1),
    ]
    for point, count in points:
        done = subprocess.run([sys.executable, "-c", _KILLED, str(house.path), point, str(count)], timeout=60)
        assert done.returncode == -signal.SIGKILL, point
        look = House(tmp_path, Clock(time.time_ns() // 1000 - 3600 * SECOND))
        went = point == "nothing"
        assert {look.is_out(page) for page in pages} == {went}, point
        assert look.state(planned) == ("gone" if went else "planned"), point
        assert look.events().count(("dispatch.gone", "scheduler")) == went
        assert look.desk.read(look.who("ida"), health) == []
        look.close()


def test_a_writer_that_raises_leaves_no_transaction_open(house: House) -> None:
    def fails(act: Act) -> None:
        act.conn.execute("INSERT INTO setting VALUES ('x', 'y')")
        raise RuntimeError("no")

    with pytest.raises(RuntimeError):
        house.do("ida", fails)
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT * FROM setting WHERE name = 'x'").fetchone() is None
    house.page("Still works")


def test_a_reader_sees_one_state_throughout_and_cannot_write(house: House) -> None:
    with house.desk.db.read() as conn:
        before = conn.execute("SELECT count(*) FROM entry").fetchone()[0]
        house.page("Meanwhile")
        assert conn.execute("SELECT count(*) FROM entry").fetchone()[0] == before
        with pytest.raises(Exception, match="readonly"):
            conn.execute("DELETE FROM event")


def test_a_newer_or_altered_file_is_refused_with_what_to_do(tmp_path: Path) -> None:
    house = House(tmp_path)
    house.desk.db.write(lambda c: c.execute("INSERT INTO migration VALUES (999, 'later', 'x', 'now')"))
    house.close()
    with pytest.raises(BadStore, match="newer Hawthorn"):
        Database(house.path)
    other = tmp_path / "not-one.sqlite"
    other.write_bytes(b"this is no database at all, but a text that is long enough" * 10)
    with pytest.raises(BadStore, match="not a Hawthorn record file"):
        Database(other)


def test_the_chain_shows_what_was_altered_and_outlives_a_deleted_payload(house: House) -> None:
    house.signed("Lamp")
    house.desk.db.write(lambda c: c.execute("DELETE FROM event_payload WHERE seq = 3"))
    assert house.desk.read(house.who("ida"), health) == []
    house.desk.db.write(lambda c: c.execute("UPDATE event SET actor = 2 WHERE seq = 4"))
    assert any("Event 4" in line for line in house.desk.read(house.who("ida"), health))
    house.desk.db.write(lambda c: c.execute("UPDATE event SET actor = 3 WHERE seq = 4"))
    with house.desk.db.read() as conn:
        actor = conn.execute("SELECT actor FROM event WHERE seq = 5").fetchone()[0]
    for candidate in {2, 3, 4, actor}:
        house.desk.db.write(
            lambda c, n=candidate: c.execute("UPDATE event SET actor = ? WHERE seq = 4", (n,))
        )
        if not house.desk.read(house.who("ida"), health):
            break
