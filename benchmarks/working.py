"""My work, the page that everybody opens first, in a house that has signed off much."""

from __future__ import annotations

import sqlite3
import time
from pathlib import Path

from benchmarks import listing, made
from benchmarks.figures import Figure, interleaved
from hawthorn.core.access import Identity
from hawthorn.operations.runtime.act import Desk
from hawthorn.operations.views import my_work
from hawthorn.store.standings import RELEASE

ROUNDS = 5
_OFTEN = 20
_SIGNED = """
INSERT INTO submission (revision, edition, stage, actor, at, note, outcome, decided_at, decided_by)
SELECT s.revision, s.edition, g.id, ?1, s.since, '', 'signed off', s.since, ?1
FROM standing s JOIN edition d ON d.id = s.edition AND d.locale <> '*' JOIN stage g ON g.name = 'review'
WHERE s.stage = ?2 AND s.until IS NULL
"""


def figure_my_work(folder: Path, few: int = 1_000, many: int = 100_000) -> dict[str, Figure]:
    """What waits for somebody, looked for where so many entries were signed off and are out, against where few were."""
    large, small = (_house(folder / f"{count}.sqlite", count) for count in (many, few))
    times = interleaved(lambda: _time(*large), lambda: _time(*small), ROUNDS)
    for desk, _ in (large, small):
        desk.db.close()
    name = f"my work where {many:,} entries were signed off ÷ {few:,}"
    return {name: Figure(*times, times[0] / times[1], 1.5, "lower", "ms")}


def _house(path: Path, count: int) -> tuple[Desk, Identity]:
    desk, _ = listing.built(path, count)
    wim = made.somebody(desk, "wim")

    def sign(conn: sqlite3.Connection) -> None:
        if conn.execute(_SIGNED, (wim.id, RELEASE)).rowcount != count:
            raise RuntimeError("not all was signed off")

    desk.db.write(sign)
    return desk, wim


def _time(desk: Desk, who: Identity) -> float:
    start = time.perf_counter()
    for _ in range(_OFTEN):
        desk.read(who, my_work.my_work)
    return (time.perf_counter() - start) / _OFTEN * 1000
