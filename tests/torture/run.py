"""`make torture`: every trial for its share of the time, what each counted, and a status that says whether a promise was broken."""

from __future__ import annotations

import argparse
import random
import sys
import tempfile
import time
from pathlib import Path

from rich.console import Console
from rich.table import Table

from tests.torture.promises import Broken
from tests.torture.trials import TRIALS


def main() -> None:
    """Run all trials, or one, for as long as it is told."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=3600.0, help="how long in all (an hour)")
    parser.add_argument(
        "--seed", type=int, default=time.time_ns() % 1_000_000, help="what chance begins with"
    )
    parser.add_argument("--only", choices=[*TRIALS], help="one trial")
    given = parser.parse_args()
    chosen = {given.only: TRIALS[given.only]} if given.only else TRIALS
    console = Console()
    console.print(f"{len(chosen)} trials in {given.seconds:.0f} seconds, with seed {given.seed}.")
    table = Table("trial", "counted", "")
    broken = 0
    for n, (name, trial) in enumerate(chosen.items(), 1):
        with console.status(f"{name} ({n} of {len(chosen)})…"), tempfile.TemporaryDirectory() as folder:
            try:
                counted = trial(Path(folder), given.seconds / len(chosen), random.Random(given.seed))
                table.add_row(name, ", ".join(f"{v:,} {k}" for k, v in counted.items()), "held")
            except Broken as error:
                broken += 1
                table.add_row(name, str(error), "[bold]broken[/bold]")
    console.print(table)
    sys.exit(1 if broken else 0)


if __name__ == "__main__":
    main()
