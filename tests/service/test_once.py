"""A repeat with the same idempotency key, also after a restart and at the same time, is done once."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest

from hawthorn.core.errors import InTheWay, Invalid
from hawthorn.core.timeline import SECOND
from hawthorn.operations.content import entries
from hawthorn.operations.runtime.act import Act
from hawthorn.store.once import KEPT
from tests.service.made import Clock, House


def start(act: Act) -> dict[str, str]:
    return {"id": entries.start(act, "page", "en", {"title": "Once"})}


def count(house: House) -> int:
    with house.desk.db.read() as conn:
        return int(conn.execute("SELECT count(*) FROM entry").fetchone()[0])


def test_a_repeat_gives_the_first_answer_also_after_a_restart(tmp_path: Path) -> None:
    house = House(tmp_path)
    wim = house.who("wim")
    first = house.desk.once(wim, "k", "start", "body", start)
    house.close()
    again = House(tmp_path, Clock(house.clock.at + 10**6))
    assert again.desk.once(again.who("wim"), "k", "start", "body", start) == first
    assert count(again) == 1
    with pytest.raises(InTheWay, match="used for another request"):
        again.desk.once(again.who("wim"), "k", "start", "other body", start)
    assert again.desk.once(again.who("oda"), "k", "start", "body", start) != first
    assert again.desk.once(again.who("wim"), None, "start", "body", start) != first
    again.close()


def test_answers_are_kept_for_a_day_and_then_go(tmp_path: Path) -> None:
    house = House(tmp_path)
    wim = house.who("wim")

    def kept() -> int:
        with house.desk.db.read() as conn:
            return int(conn.execute("SELECT count(*) FROM idempotency").fetchone()[0])

    first = [house.desk.once(wim, f"k{n}", "start", "body", start) for n in range(50)]
    house.clock.at += KEPT - SECOND
    assert house.desk.once(wim, "later", "start", "body", start)
    assert [house.desk.once(wim, f"k{n}", "start", "body", start) for n in range(50)] == first
    house.clock.at += 2 * SECOND
    for n in range(3):
        house.desk.once(wim, f"new{n}", "start", "body", start)
    assert kept() == 4
    assert house.desk.once(wim, "k0", "start", "body", start) != first[0]
    house.close()


def test_a_request_that_was_refused_may_be_mended_under_the_same_key(tmp_path: Path) -> None:
    house = House(tmp_path)

    def wrong(act: Act) -> dict[str, str]:
        return {"id": entries.start(act, "page", "en", {"titel": "Once"})}

    with pytest.raises(Invalid):
        house.desk.once(house.who("wim"), "k", "start", "wrong", wrong)
    assert count(house) == 0
    assert house.desk.once(house.who("wim"), "k", "start", "right", start)
    assert count(house) == 1
    house.close()


def test_the_same_request_from_many_threads_is_done_once(tmp_path: Path) -> None:
    house = House(tmp_path)
    wim = house.who("wim")
    answers: list[str] = []
    threads = [
        threading.Thread(
            target=lambda: answers.append(house.desk.once(wim, "k", "start", "body", start)["id"])
        )
        for _ in range(6)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(set(answers)) == 1
    assert len(answers) == 6
    assert count(house) == 1
    house.close()
