"""`make bench`: ratios against floors that are built and measured in the same run."""

from __future__ import annotations

import argparse
import json
import sys
import tempfile
import time
from dataclasses import asdict
from pathlib import Path

from rich.console import Console
from rich.table import Table

from benchmarks import (
    assisting,
    entering,
    exchanging,
    figuring,
    finding,
    going,
    growing,
    hostile,
    listing,
    merging,
    model,
    pages,
    quiet,
    remembering,
    saving,
    serving,
    timing,
    translating,
    working,
)
from benchmarks import console as console_figures
from benchmarks.figures import Figure

HERE = Path(__file__).parent
GROUPS = {
    "reads": serving.figure_reads,
    "workers": serving.figure_workers,
    "lists": serving.figure_lists,
    "reading lists": listing.figure_reading_lists,
    "copies": growing.figure_copies,
    "dependents": growing.figure_dependents,
    "a million": growing.figure_million,
    "cached": growing.figure_cached,
    "model": model.figure_model,
    "figures": figuring.figure_page,
    "entering": entering.figure_entering,
    "save": saving.figure_save,
    "dispatch": going.figure_dispatch,
    "undo": going.figure_undo,
    "timetable": timing.figure_timetable,
    "past": timing.figure_past,
    "lateness": timing.figure_lateness,
    "finding": finding.figure_finding,
    "my work": working.figure_my_work,
    "grid": translating.figure_grid,
    "files": translating.figure_files,
    "memory": remembering.figure_memory,
    "renditions": pages.figure_renditions,
    "outline": pages.figure_outline,
    "preview": pages.figure_preview,
    "merging": merging.figure_merging,
    "assistant": assisting.figure_assistant,
    "exchange": exchanging.figure_exchange,
    "receipt": exchanging.figure_receipt,
    "check": exchanging.figure_check,
    "backup": exchanging.figure_backup,
    "hostile": hostile.figure_hostile,
    "idle": quiet.figure_idle,
    "listeners": quiet.figure_listeners,
    "bursts": quiet.figure_bursts,
    "start": quiet.figure_start,
    "console": console_figures.figure_console,
}


def main() -> None:
    """Measure everything, print a table, and write it down."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--only", choices=[*GROUPS], help="one group of figures")
    chosen = parser.parse_args().only
    console = Console()
    figures: dict[str, Figure] = {}
    failed: list[str] = []
    wanted = [name for name in GROUPS if chosen in (None, name)]
    for at, name in enumerate(wanted, start=1):
        measure, begun = GROUPS[name], time.monotonic()
        try:
            with console.status(f"Measuring: {name}…"), tempfile.TemporaryDirectory() as folder:
                found = measure(Path(folder))
        except Exception:
            # One group that cannot be measured takes no other with it.
            console.print_exception()
            failed.append(name)
            continue
        figures |= found
        _keep(found)
        # Nothing else is said for an hour where nobody looks at a terminal.
        console.print(f"{at} of {len(wanted)}: {name}, {time.monotonic() - begun:.0f} s")
    table = Table("figure", "ours", "floor", "unit", "ratio", "goal", "")
    for name, f in figures.items():
        goal = f"{'at least' if f.better == 'higher' else 'at most'} {f.goal:g}"
        table.add_row(
            name,
            f"{f.ours:,.3g}",
            f"{f.floor:,.3g}",
            f.unit,
            f"{f.ratio:.2f}",
            goal,
            "met" if f.met else "short",
        )
    console.print(table)
    if failed:
        console.print(f"Could not be measured: {', '.join(failed)}.")
        sys.exit(1)


def _keep(figures: dict[str, Figure]) -> None:
    """Write a group down as soon as it was measured; what others measured before stays as it was."""
    written = {n: {k: v for k, v in asdict(f).items() if k != "unit"} for n, f in figures.items()}
    latest = HERE / "latest.json"
    before = json.loads(latest.read_text("utf-8")) if latest.exists() else {}
    latest.write_text(json.dumps({**before, **written}, indent=2) + "\n", "utf-8")


if __name__ == "__main__":
    main()
