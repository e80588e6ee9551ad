"""What a house of some size asks of each part, by a model of a few rates; and the model held against a measured mix of reads.

`python -m benchmarks.model --editors 1000 --entries 10000000 --reads 100000` prints which parts are enough, and which is short first.
"""

from __future__ import annotations

import argparse
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import httpx

from benchmarks import made
from benchmarks.figures import Figure, free_port, load, service, serving

RATES = {
    "entry": 9_000.0,
    "list": 1_500.0,
    "made anew": 700.0,
    "cache": 40_000.0,
    "save": 570.0,
    "move": 8_000.0,
}
"""What one core of the machine that `docs/growing.md` tells of does in a second: kept entries and lists over HTTP, bodies made anew, answers of a
warm cache; and of the one writer, saves and moves of dispatches."""
BYTES_PER_ENTRY = 2_600
"""Of a record file with short texts, a title and three marked fields, in one language."""


@dataclass(frozen=True, slots=True)
class House:
    """What a house has, and what is asked of it."""

    editors: int
    entries: int
    reads: float
    lists: float = 0.2
    """The share of reads that are lists."""
    kept: float = 0.95
    """The share of reads that a cache in front answers."""
    saves_of_each: float = 1 / 30
    """Saves a second of an editor at work."""


@dataclass(frozen=True, slots=True)
class Need:
    """How many cores a part needs, of how many it can have; more than that is not to be had."""

    part: str
    cores: float
    most: float

    @property
    def enough(self) -> bool:
        """Whether it can be had."""
        return self.cores <= self.most


def cores_for(mix: Mapping[str, float], rates: Mapping[str, float] = RATES) -> float:
    """The cores that a mix of reads (each kind a second) keeps at work: each takes the reciprocal of its rate."""
    return sum(count / rates[kind] for kind, count in mix.items())


def needs(house: House, rates: Mapping[str, float] = RATES) -> list[Need]:
    """What each part needs, the scarcest first."""
    behind = house.reads * (1 - house.kept)
    mix = {"list": behind * house.lists, "entry": behind * (1 - house.lists)}
    saves = house.editors * house.saves_of_each
    found = [
        Need("writer: saves", saves / rates["save"], 1),
        # Readers of the console ask some twenty small questions a minute.
        Need("writer: the console", cores_for({"list": house.editors / 3}, rates), 4),
        Need("copies: what the cache does not have", cores_for(mix, rates), 64),
        Need("cache: what it has", cores_for({"cache": house.reads * house.kept}, rates), 64),
        Need("file, in 100 GB", house.entries * BYTES_PER_ENTRY / 1e11, 10),
    ]
    return sorted(found, key=lambda need: need.cores / need.most, reverse=True)


def figure_model(folder: Path) -> dict[str, Figure]:
    """A mix of entries and lists from one process: the cores that it takes by the model, which has the rate of each alone, against the one that it had."""
    path = folder / "read.sqlite"
    desk = made.open_desk(path)
    pages = made.pages(desk, 500)
    made.plan(desk, pages[:200], desk.clock.now())
    desk.write(made.scheduler(desk), lambda _: None)
    desk.db.close()
    port = free_port()
    targets = {
        "entry": f"/read/entries/{pages[10][2]}?locale=en",
        "list": "/read/entries?type=page&locale=en&limit=50",
    }
    with serving((service(path, port), port, targets["entry"])):
        for target in targets.values():
            httpx.get(f"http://127.0.0.1:{port}{target}").raise_for_status()
        rates = {kind: load(port, path=target, seconds=3) for kind, target in targets.items()}
        # Both at once, as different as they are.
        with ThreadPoolExecutor(2) as pool:
            entry = pool.submit(load, port, path=targets["entry"], seconds=4, connections=12)
            some = pool.submit(load, port, path=targets["list"], seconds=4, connections=4)
            mix = {"entry": entry.result(), "list": some.result()}
    used = cores_for(mix, rates)
    return {
        "a mix of reads: what it takes by the model ÷ the core that it had": Figure(
            used, 1, used, 0.8, "higher", "cores"
        )
    }


def main() -> None:
    """Print what a house needs."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--editors", type=int, default=1_000)
    parser.add_argument("--entries", type=int, default=10_000_000)
    parser.add_argument("--reads", type=float, default=100_000, help="a second")
    parser.add_argument("--kept", type=float, default=0.95, help="the share that a cache answers")
    given = parser.parse_args()
    for need in needs(House(given.editors, given.entries, given.reads, kept=given.kept)):
        print(f"{need.part:40} {need.cores:8.2f} of {need.most:g}{'' if need.enough else '   not to be had'}")


if __name__ == "__main__":
    main()
