"""Helpers that look through a package: they find what is found without them, in the same order; lost or left alone, they take nothing with them."""

from __future__ import annotations

import itertools
import json
import os
import random
import select
import signal
import subprocess
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import pytest

from hawthorn.core.exchange.looked import Looked, Looker, Numbered, Unsound
from hawthorn.core.exchange.package import ENTRIES, Package
from hawthorn.core.timeline import SECOND
from hawthorn.operations.exchange import helping
from hawthorn.operations.exchange.helping import Found, Helper
from hawthorn.operations.runtime.act import SCHEDULER_SELF
from tests.conftest import Running, more_open_than_select_takes
from tests.exchange.made import altered, derived, exported, given, imported, trouble, work
from tests.service.made import House


@pytest.fixture
def begun(monkeypatch: pytest.MonkeyPatch) -> Iterator[list[Helper]]:
    """Two helpers for however short a package, a few lines at once: those that were begun."""
    all_of: list[Helper] = []

    class Known(Helper):
        helped = 0

        def __init__(self, looker: Looker) -> None:
            super().__init__(looker)
            all_of.append(self)
            assert self._heard.poll(40_000), "it does not begin"

        def answer(self) -> helping._Plain | None:
            found = super().answer()
            Known.helped += sum(one is not None for one in found or ())
            return found

    monkeypatch.setattr(helping, "Helper", Known)
    monkeypatch.setattr(helping, "WORTH", 0)
    monkeypatch.setattr(os, "cpu_count", lambda: 3)
    monkeypatch.setattr("hawthorn.operations.exchange.bringing.LOOKED_AT_ONCE", 2)
    yield all_of
    assert Known.helped


def pages(house: House, tmp_path: Path, count: int = 12) -> tuple[Looker, list[Numbered]]:
    """What the lines of a package are held against, and the lines."""
    for n in range(count):
        house.page(f"Page {n}", body=f"<p>Lamp {n}.</p><ul><li>Rope</li><li>Tar</li></ul>")
    with exported(house.desk, house.who("ida"), tmp_path / "pages.zip").open("rb") as file:
        package = Package(file)
        raw, handles = [*package.raw(ENTRIES)], frozenset(one.handle for one in package.people())
    named = frozenset({json.loads(raw[1][1])["id"]})
    setup = house.desk.read(house.who("ida"), lambda view: view.setup)
    return Looker(setup.types, setup.bounds, handles, named), raw


def batches(raw: Sequence[Numbered], at_once: int = 3) -> Iterator[Sequence[Numbered]]:
    for start in range(0, len(raw), at_once):
        yield raw[start : start + at_once]


def as_told(line: Numbered, pick: random.Random) -> Numbered:
    """A line, or one that is altered: left as it is, not fitting, to be cleaned, or none at all."""
    number, raw = line
    told: dict[str, Any] = json.loads(raw)
    fields = told["editions"][-1]["revisions"][-1]["fields"]
    how = pick.choice(["", "", "", "cleaned", "misfit", "type", "person", "cut"])
    if how == "cleaned":
        fields["body"] = f'<p onclick="x()">{number}</p>'
    elif how == "misfit":
        fields["title"] = {"not": "a line"}
    elif how == "type":
        told["type"] = "ferry"
    elif how == "person" and number > 6:
        told["by"] = "stranger"
    elif how == "cut" and number > 6:
        return number, raw[:-20]
    return number, json.dumps(told).encode()


@pytest.mark.parametrize("seed", range(3))
def test_they_find_what_is_found_without_them_in_the_same_order(
    house: House, tmp_path: Path, begun: list[Helper], seed: int
) -> None:
    looker, raw = pages(house, tmp_path)
    pick = random.Random(seed)
    altered = [as_told(line, pick) for line in raw * 4]
    found = [*helping.looked(looker, batches(altered), len(altered))]
    assert found == [looker.look(some) for some in batches(altered)]
    assert len(begun) == 2
    kinds = {type(one) for some in found for one in some}
    assert kinds == {Looked, Unsound}
    named = [one for some in found for one in some if isinstance(one, Looked) and one.editions]
    assert {one.id for one in named} == looker.named


def test_what_lines_are_held_against_is_told_whole(running: Running) -> None:
    desk = running.demo.desk
    setup = desk.read(SCHEDULER_SELF, lambda view: view.setup)
    looker = Looker(setup.types, setup.bounds, frozenset({"ida"}), frozenset({"x"}))
    again = helping._looker(helping._write(looker))
    assert again == looker
    assert [*map(repr, again.types.values())] == [*map(repr, looker.types.values())]


def test_short_packages_need_none(house: House, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    looker, raw = pages(house, tmp_path, 2)

    def none(_: Looker) -> Helper:
        raise AssertionError("a helper was begun")

    monkeypatch.setattr(helping, "Helper", none)
    assert [*helping.looked(looker, batches(raw), len(raw))] == [looker.look(some) for some in batches(raw)]


@pytest.mark.parametrize("at", [0, 3, 8])
def test_what_a_lost_one_had_is_looked_at_here(
    house: House, tmp_path: Path, begun: list[Helper], at: int
) -> None:
    looker, raw = pages(house, tmp_path)
    lines = raw * 5

    def until_lost() -> Iterator[Sequence[Numbered]]:
        for n, some in enumerate(batches(lines)):
            if n == at:
                begun[0]._process.kill()
            yield some

    found: list[Found] = [*helping.looked(looker, until_lost(), len(lines))]
    assert found == [looker.look(some) for some in batches(lines)]


def test_a_package_is_brought_with_them_as_without(
    house: House, other: House, tmp_path: Path, begun: list[Helper]
) -> None:
    pages(house, tmp_path)
    _, seen, done = imported(other.desk, other.who("ida"), tmp_path / "pages.zip")
    assert (seen["entries"], seen["as_is"], done["added"]) == (12, True, 12)
    assert derived(other.desk) == derived(house.desk)
    assert trouble(other.desk) == []
    assert len(begun) == 2
    assert all(one._process.returncode is not None for one in begun)


def test_they_are_heard_however_much_is_open(house: House, tmp_path: Path, begun: list[Helper]) -> None:
    looker, raw = pages(house, tmp_path)
    with more_open_than_select_takes():
        found = [*helping.looked(looker, batches(raw), len(raw))]
    assert found == [looker.look(some) for some in batches(raw)]
    assert len(begun) == 2


def test_broken_off_or_refused_it_leaves_none_behind(
    house: House, other: House, tmp_path: Path, begun: list[Helper], monkeypatch: pytest.MonkeyPatch
) -> None:
    _, raw = pages(house, tmp_path)
    uuid = given(other.desk, other.who("ida"), tmp_path / "pages.zip")
    ticking, turns = itertools.count(other.clock.at, SECOND), iter([True, True])
    monkeypatch.setattr(other.clock, "now", lambda: next(ticking))
    assert work(other.desk, uuid, lambda: next(turns, False)).state == "looking"
    assert next(turns, None) is None
    wrong = raw[-1][1].replace(b'"by":"wim"', b'"by":"stranger"')
    bad = altered(tmp_path / "pages.zip", tmp_path / "bad.zip", lambda m: {**m, ENTRIES: m[ENTRIES] + wrong})
    refused = work(other.desk, given(other.desk, other.who("ida"), bad))
    assert (refused.state, "stranger" in refused.trouble) == ("failed", True)
    assert len(begun) == 4
    assert all(one._process.returncode is not None for one in begun)


def test_they_end_with_whoever_began_them(house: House, tmp_path: Path) -> None:
    """However that ended: nothing stays behind of a service that was killed."""
    begin = (
        "import sys, time; from hawthorn.core.bounds import Bounds\n"
        "from hawthorn.core.exchange.looked import Looker\n"
        "from hawthorn.operations.exchange.helping import Helper\n"
        "one = Helper(Looker({}, Bounds(), frozenset(), frozenset())); one.given([(1, b'{}')])\n"
        "print(one._process.pid, flush=True); one.answer(); print('answered', flush=True); time.sleep(600)"
    )
    with subprocess.Popen([sys.executable, "-c", begin], stdout=subprocess.PIPE, text=True) as parent:
        assert parent.stdout is not None
        helper = int(parent.stdout.readline())
        assert parent.stdout.readline() == "answered\n"
        ended = os.pidfd_open(helper)
        parent.send_signal(signal.SIGKILL)
    try:
        assert select.select([ended], [], [], 40)[0], "it is still there"
    finally:
        os.close(ended)
