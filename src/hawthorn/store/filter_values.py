"""By what readers filter and sort: the values that types mark for it, of what is out and of drafts."""

from __future__ import annotations

import json
import math
import sqlite3
from collections.abc import Iterator, Mapping, Sequence

from hawthorn.core.fields import Filtered

_CELL = 10
"""So many cells of a degree."""


def cell_of(latitude: float, longitude: float) -> int:
    """The number of the cell in which a place lies."""
    return math.floor((latitude + 90) * _CELL) * 360 * _CELL + math.floor((longitude + 180) * _CELL) % (
        360 * _CELL
    )


def cells_near(latitude: float, longitude: float, within: float, most: int) -> list[int] | None:
    """The cells that touch a circle of some kilometres around a place; None where there are too many."""
    high = within / 111.0
    narrow = max(math.cos(math.radians(min(abs(latitude) + high, 89.9))), 0.01)
    wide = min(high / narrow, 180.0)
    rows = range(math.floor((latitude - high + 90) * _CELL), math.floor((latitude + high + 90) * _CELL) + 1)
    columns = range(
        math.floor((longitude - wide + 180) * _CELL), math.floor((longitude + wide + 180) * _CELL) + 1
    )
    if len(rows) * len(columns) > most:
        return None
    return sorted({row * 360 * _CELL + column % (360 * _CELL) for row in rows for column in columns})


def replace(
    conn: sqlite3.Connection,
    stage: int,
    entries: Sequence[int],
    values: Mapping[int, Mapping[str, Sequence[Filtered]]],
) -> None:
    """Keep what is found of the editions of some entries at a stage, and nothing else of these entries; what is kept already stays."""
    wanted = {
        (edition, field, ord): _row(one)
        for edition, by_field in values.items()
        for field, some in by_field.items()
        for ord, one in enumerate(some)
    }
    have = {
        (row[0], row[1], row[2]): tuple(row[3:])
        for row in conn.execute(
            "SELECT v.edition, v.field, v.ord, v.text, v.number, v.other, v.cell FROM json_each(?) j "
            "JOIN edition d ON d.entry = j.value JOIN filter_value v ON v.edition = d.id AND v.stage = ?",
            (json.dumps(list(entries)), stage),
        )
    }
    gone = [(stage, *key) for key in have.keys() - wanted.keys()]
    conn.executemany(
        "DELETE FROM filter_value WHERE stage = ? AND edition = ? AND field = ? AND ord = ?", gone
    )
    conn.executemany(
        "INSERT OR REPLACE INTO filter_value (stage, edition, field, ord, text, number, other, cell) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        [(stage, *key, *row) for key, row in wanted.items() if have.get(key) != row],
    )


def _row(one: Filtered) -> tuple[str, float | None, float | None, int | None]:
    cell = None if one.other is None or one.number is None else cell_of(one.number, one.other)
    return one.text, one.number, one.other, cell


def every(conn: sqlite3.Connection) -> Iterator[tuple[int, int, str, int, Filtered]]:
    """All that is kept of entries that are not removed: stage, edition, field, which of its values, and by what that is found."""
    rows = conn.execute(
        "SELECT v.stage, v.edition, v.field, v.ord, v.text, v.number, v.other FROM filter_value v JOIN edition d ON d.id = v.edition "
        "JOIN entry e ON e.id = d.entry WHERE e.removed_at IS NULL"
    )
    return ((row[0], row[1], row[2], row[3], Filtered(row[4], row[5], row[6])) for row in rows)
