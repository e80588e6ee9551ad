"""Drawings of the week's report, in a process of their own: what draws takes much memory, and is needed once a week.

Run as `python -m hawthorn.followers.drawn`: drawings as JSON on its input, PNGs by name as JSON (base64) on its output.
"""

from __future__ import annotations

import base64
import io
import json
import os
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

import structlog

if TYPE_CHECKING:
    from hawthorn.operations.views.report import Drawing

log = structlog.get_logger(__name__)
PATIENCE = 60.0
"""Seconds that drawing may take."""
_COLOURS = ("#2f5d46", "#b2477a", "#7a5a12", "#2b6a9b", "#6b4ea0", "#a04a2b", "#1d2621")
_MARKS = ("o", "s", "^", "D", "v", "P", "X")
_DASHES = ("-", "--", "-.", ":")


def drawn(drawings: Sequence[Drawing]) -> dict[str, str]:
    """PNGs of drawings by name, in base64; none where they cannot be drawn, as what they show stands beside them in words."""
    if not drawings:
        return {}
    asked = json.dumps([asdict(one) for one in drawings]).encode()
    with tempfile.TemporaryDirectory() as folder:
        # It keeps what it knows of fonts where it is told to, not in somebody's home.
        around = {**os.environ, "MPLCONFIGDIR": folder, "MPLBACKEND": "agg"}
        command = [sys.executable, "-m", "hawthorn.followers.drawn"]
        try:
            made = subprocess.run(
                command, input=asked, capture_output=True, timeout=PATIENCE, check=True, env=around
            )
            found: dict[str, str] = json.loads(made.stdout)
        except (OSError, subprocess.SubprocessError, ValueError) as error:
            why = getattr(error, "stderr", None) or str(error).encode()
            log.warning("the drawings of a report could not be made", why=why[-300:].decode(errors="replace"))
            return {}
    return found


def draw(about: dict[str, Any]) -> bytes:
    """One drawing as a PNG, 1280 pixels wide: told apart without colour, by marks and dashes."""
    from matplotlib.figure import Figure

    figure = Figure(figsize=(8, 3.4), dpi=160, layout="constrained", facecolor="white")
    axes = figure.add_subplot()
    across: list[str] = about["across"]
    places = range(len(across))
    for n, (name, values) in enumerate(about["rows"].items()):
        heights = [float("nan") if one is None else one for one in values]
        colour = _COLOURS[n % len(_COLOURS)]
        if about["lines"]:
            mark, dash = _MARKS[n % len(_MARKS)], _DASHES[n % len(_DASHES)]
            axes.plot(places, heights, color=colour, marker=mark, linestyle=dash, linewidth=1.8, label=name)
        else:
            bars = axes.bar(places, heights, color=colour, width=0.62, label=name)
            axes.bar_label(bars, fmt="{:g}", fontsize=9, padding=2)
    axes.set_title(about["title"], loc="left", fontsize=12, fontweight="bold")
    axes.set_ylabel(about["unit"])
    axes.set_xticks(list(places), across, fontsize=9)
    axes.set_ylim(bottom=0)
    axes.margins(y=0.18)
    axes.spines[["top", "right"]].set_visible(False)
    axes.grid(axis="y", color="#e4e1d5")
    axes.set_axisbelow(True)
    if len(about["rows"]) > 1:
        axes.legend(fontsize=9, frameon=False, loc="upper left", bbox_to_anchor=(1.0, 1.0))
    out = io.BytesIO()
    figure.savefig(out, format="png", metadata={"Title": about["title"], "Description": about["says"]})
    return out.getvalue()


if __name__ == "__main__":
    asked: list[dict[str, Any]] = json.load(sys.stdin)
    json.dump({one["name"]: base64.b64encode(draw(one)).decode() for one in asked}, sys.stdout)
