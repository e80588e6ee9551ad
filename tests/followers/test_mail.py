"""Mail among odd servers: each row is tried and settled by itself, and what is settled is never sent again."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest

from hawthorn.core.timeline import SECOND
from hawthorn.followers import mail
from hawthorn.followers.mail import Mail
from hawthorn.operations.access import people
from hawthorn.operations.collaboration import notifications
from hawthorn.operations.release import review
from hawthorn.store import outbox
from hawthorn.store.database import Database
from tests.followers.partners import Postbox
from tests.followers.test_followers import Options
from tests.service.made import House

FIVE = [f"reader{n}@x.example" for n in range(5)]


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    yield made
    made.close()


def five_mails(house: House) -> None:
    payload = '{"subject": "Hello", "body": "Read this."}'

    def put(conn: sqlite3.Connection) -> None:
        for n, to in enumerate(FIVE):
            outbox.put(conn, "mail", f"mail-{n}", 0, to, payload, house.clock.now())

    house.desk.db.write(put)


def states(db: Database) -> list[tuple[str, int]]:
    with db.read() as conn:
        return [tuple(r) for r in conn.execute("SELECT state, tries FROM outbox ORDER BY id").fetchall()]


def several_steps(house: House, port: int, count: int = 6) -> None:
    for _ in range(count):
        Mail(house.desk, Options(smtp_port=port)).step("one")
        house.clock.at += 600 * SECOND


@pytest.mark.parametrize("at_quit", ["221 Goodbye", "500 what?", ""])
def test_one_refused_address_holds_up_and_repeats_no_other(house: House, at_quit: str) -> None:
    five_mails(house)
    box = Postbox({FIVE[2]: "550 nobody here"}, at_quit)
    with box.running() as port:
        several_steps(house, port)
    assert sorted(x for x in box.taken if x in FIVE) == sorted(x for x in FIVE if x != FIVE[2])
    assert states(house.desk.db)[:5] == [("done", 1), ("done", 1), ("given up", 1), ("done", 1), ("done", 1)]
    with house.desk.db.read() as conn:
        said = [row[0] for row in conn.execute("SELECT payload FROM outbox ORDER BY id")][:5]
    assert ["Read this." in one for one in said] == [False, False, True, False, False], (
        "what was sent is not kept"
    )


def test_a_mail_that_is_given_up_is_said_to_those_who_can_help_and_starts_no_circle(house: House) -> None:
    roles = [{"name": "writer"}]
    house.do(
        "ida", lambda a: people.invite_person(a, "una", "Una", "una@x.example", roles, "UTC", "http://h")
    )
    box = Postbox({"una@x.example": "550 nobody here", "ida@x.example": "550 full"})
    with box.running() as port:
        several_steps(house, port, 8)
    told = house.desk.read(house.who("ida"), lambda v: notifications.mine(v))["items"]
    assert [(n["kind"], n["says"]) for n in told] == [("mail", "Not sent: the invitation to una@x.example")]
    assert "550 nobody here" in told[0]["body"]
    assert [state for state, _ in states(house.desk.db)] == ["given up", "given up"]
    with house.desk.db.read() as conn:
        assert conn.execute("SELECT count(*) FROM event WHERE kind = 'mail.given-up'").fetchone()[0] == 1
        assert conn.execute("SELECT count(*) FROM outbox WHERE payload LIKE '%token=%'").fetchone()[0] == 0


def test_an_address_that_is_refused_for_now_is_tried_again(house: House) -> None:
    five_mails(house)
    box = Postbox({FIVE[2]: "450 greylisted"})
    with box.running() as port:
        several_steps(house, port, 2)
        box.refuse.clear()
        several_steps(house, port, 1)
    assert box.taken.count(FIVE[2]) == 1
    assert len(box.taken) == 5


def test_a_server_slower_than_a_lease_gets_nothing_twice(house: House) -> None:
    """Two processes; the clock moves past the lease while the first of them still sends."""
    five_mails(house)
    box = Postbox(slow=0.15)
    with box.running() as port:
        stop = threading.Event()

        def time_goes_by() -> None:
            while not stop.wait(0.02):
                house.clock.at += 2 * SECOND

        clock = threading.Thread(target=time_goes_by)
        clock.start()
        both = [
            threading.Thread(
                target=lambda n=n: [Mail(house.desk, Options(smtp_port=port)).step(n) for _ in range(4)]
            )
            for n in ("one", "two")
        ]
        for thread in both:
            thread.start()
        for thread in both:
            thread.join(30)
        stop.set()
        clock.join()
    assert sorted(box.taken) == FIVE


def test_a_server_that_never_ends_its_answer_is_left(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(mail, "LONGEST", 0.4)
    five_mails(house)
    box = Postbox(mumbles=True)
    with box.running() as port:
        several_steps(house, port, 1)
    assert {state for state, _ in states(house.desk.db)} == {"waiting"}
    assert states(house.desk.db)[0][1] == 1


def test_a_claim_of_a_process_that_died_is_taken_over_once(house: House) -> None:
    five_mails(house)
    with house.desk.db.read() as conn:
        first = outbox.waiting(conn, "mail", house.clock.now())[0]
    now = house.clock.now()
    assert house.desk.db.write(lambda c: outbox.claim(c, first, now))
    assert not house.desk.db.write(lambda c: outbox.claim(c, first, now)), "nobody else has it meanwhile"
    box = Postbox()
    with box.running() as port:
        Mail(house.desk, Options(smtp_port=port)).step("two")
        assert FIVE[0] not in box.taken
        house.clock.at += outbox.CLAIM
        Mail(house.desk, Options(smtp_port=port)).step("two")
    assert sorted(box.taken) == FIVE


def test_what_a_wrong_clock_set_far_ahead_stops_nobody(house: House) -> None:
    """The clock leapt a year ahead and came back: leases and pauses of that year are ignored."""
    year = 365 * 86_400 * SECOND
    five_mails(house)
    house.clock.at += year
    with house.desk.db.read() as conn:
        first = outbox.waiting(conn, "mail", house.clock.now())[0]
    house.desk.db.write(lambda c: outbox.take_lease(c, "mail", "dead", house.clock.now()))
    house.desk.db.write(lambda c: outbox.claim(c, first, house.clock.now()))
    house.clock.at -= year
    box = Postbox()
    with box.running() as port:
        several_steps(house, port, 1)
    assert sorted(box.taken) == FIVE


def test_an_event_that_cannot_be_told_of_stops_no_other(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    telling = dict(notifications.TELLING)

    def broken(*_: object) -> list[object]:
        raise KeyError("stage")

    monkeypatch.setattr(notifications, "TELLING", {**telling, "review.submitted": broken})
    pages = [house.page(f"Page {n}") for n in range(2)]
    house.do("wim", lambda a: review.submit(a, pages[0], "en"))
    monkeypatch.setattr(notifications, "TELLING", {**telling, "review.submitted": broken})
    box = Postbox()
    with box.running() as port:
        several_steps(house, port, 1)
        monkeypatch.setattr(notifications, "TELLING", telling)
        house.do("wim", lambda a: review.submit(a, pages[1], "en"))
        several_steps(house, port, 1)
    assert sorted(box.taken) == ["ida@x.example", "oda@x.example"]


def test_a_step_with_nothing_to_do_writes_nothing(house: House) -> None:
    five_mails(house)
    box = Postbox()
    with box.running() as port:
        several_steps(house, port, 1)
        with house.desk.db.read() as conn:
            before = conn.execute("PRAGMA data_version").fetchone()[0]
        follower = Mail(house.desk, Options(smtp_port=port))
        for _ in range(5):
            house.clock.at += 60 * SECOND
            assert follower.step("one") >= 10
        with house.desk.db.read() as conn:
            assert conn.execute("PRAGMA data_version").fetchone()[0] == before
