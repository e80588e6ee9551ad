"""The service that writes says for how long something is written that is not in the replica, without looking there for nothing."""

from __future__ import annotations

import os
import re
import signal
import subprocess
from pathlib import Path

import httpx
import pytest

from hawthorn.core.errors import FileStoreFails
from hawthorn.core.messages import said
from hawthorn.core.timeline import SECOND
from hawthorn.messages import ENGLISH
from hawthorn.operations.views import health
from hawthorn.service import doctor, litestream
from hawthorn.service.settings import Settings
from hawthorn.store import replica, terms
from hawthorn.store.replica import Replica
from tests.conftest import eventually, more_open_than_select_takes
from tests.service.made import House
from tests.service.test_copies import Fleet, fleet

__all__ = ["fleet"]


def test_what_is_written_and_not_in_the_replica_is_told_by_measures_and_health(
    fleet: Fleet, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(replica, "AGAIN", 0.1)
    monkeypatch.setattr(health, "MISSING", 1.0)
    writer = fleet.writer
    replicating: litestream.Replicating = writer.beside.stop.__self__  # type: ignore[attr-defined]
    running = replicating._child._running
    assert running is not None

    def behind() -> float:
        told = httpx.get(f"{writer.url}/metrics").text
        found = re.search(r"^hawthorn_replica_behind_seconds (\S+)", told, re.MULTILINE)
        assert found is not None
        return float(found[1])

    def trouble() -> str:
        return " ".join(httpx.get(f"{writer.url}/api/health").json()["trouble"])

    writer.started("There")
    eventually(lambda: behind() == 0)
    assert trouble() == ""
    os.kill(running.pid, signal.SIGSTOP)
    try:
        writer.started("Not there")
        eventually(lambda: behind() > 1.5)
        assert "not in the replica" in trouble()
    finally:
        os.kill(running.pid, signal.SIGCONT)
    eventually(lambda: behind() == 0)
    assert trouble() == ""
    found = {one.what.code for one in doctor._keeping(Settings(file=fleet.path, replica=fleet.replica))}
    assert "doctor.replica" in found
    monkeypatch.setattr(doctor, "MISSING", -1.0)
    assert "doctor.replica_behind.what" in {
        one.what.code for one in doctor._keeping(Settings(file=fleet.path, replica=fleet.replica))
    }


class Elsewhere(terms.Folder):
    """A place that says when its newest came, and counts who asks."""

    at = 0.0
    away = False
    asked = 0

    def newest(self, term: int) -> float:
        """As it is told."""
        self.asked += 1
        if self.away:
            raise FileStoreFails("file_store_fails.bucket", place="museum", error="503 Slow Down")
        return self.at


def test_nobody_looks_there_while_all_is_there_nor_more_often_than_now_and_then(tmp_path: Path) -> None:
    house, place = House(tmp_path), Elsewhere(tmp_path)
    kept = Replica(place, 1)

    def behind(seconds: float = 0) -> float | None:
        """As of so many seconds after the newest event."""
        return kept.behind(house.desk.db.read, house.clock.at + round(seconds * SECOND))

    house.do("ida", lambda act: act.event("person.left", [], {}))
    assert [round(behind(90) or 0) >= 90 for _ in range(5)] == [True] * 5
    assert place.asked == 1
    place.at = house.clock.at / SECOND
    kept._asked -= replica.AGAIN
    assert [behind(90) for _ in range(5)] == [0] * 5
    kept._asked -= replica.AGAIN
    assert behind(90) == 0
    assert place.asked == 2, "all is there"
    house.do("ida", lambda act: act.event("person.left", [], {}))
    assert behind(7) == 7
    assert place.asked == 3
    place.away = True
    kept._asked -= replica.AGAIN
    assert (behind(7), "Slow Down" in ENGLISH.text(said("common.words", words=kept.trouble))) == (None, True)
    house.desk.db.replica = kept
    assert any("how far the replica is" in one for one in health.trouble(house.desk))
    house.close()


def test_whether_it_ends_is_seen_however_much_is_open() -> None:
    with more_open_than_select_takes(), subprocess.Popen(["sleep", "600"]) as child:
        assert not litestream.ended_within(child.pid, 0.01)
        child.kill()
        assert litestream.ended_within(child.pid, 40)
