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
    """Keep by what the editions of some entries are found at a stage, and where they stand in lists; and nothing else of these entries. What is
    kept already stays."""
    places = _places(conn, stage, list(values))
    wanted = {
        (edition, field, ord): (*_row(one), *places.get(edition, (0, 0)))
        for edition, by_field in values.items()
        for field, some in by_field.items()
        for ord, one in enumerate(some)
    }
    have = {
        (row[0], row[1], row[2]): tuple(row[3:])
        for row in conn.execute(
            "SELECT v.edition, v.field, v.ord, v.text, v.number, v.other, v.cell, v.pinned, v.sort FROM json_each(?) j "
            "CROSS JOIN edition d ON d.entry = j.value CROSS JOIN filter_value v ON v.edition = d.id AND v.stage = ?",
            (json.dumps(list(entries)), stage),
        )
    }
    gone = [(stage, *key) for key in have.keys() - wanted.keys()]
    conn.executemany(
        "DELETE FROM filter_value WHERE stage = ? AND edition = ? AND field = ? AND ord = ?", gone
    )
    conn.executemany(
        "INSERT OR REPLACE INTO filter_value (stage, edition, field, ord, text, number, other, cell, pinned, sort) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        [(stage, *key, *row) for key, row in wanted.items() if have.get(key) != row],
    )


_LISTED = {
    1: "SELECT s.edition, s.pinned, coalesce(s.shown, s.updated_at) FROM json_each(?) j CROSS JOIN summary s ON s.edition = j.value",
    2: "SELECT l.edition, l.pinned, l.sort FROM json_each(?) j CROSS JOIN listed l ON l.edition = j.value AND l.stage = 2 AND l.until IS NULL",
}


def _places(conn: sqlite3.Connection, stage: int, editions: Sequence[int]) -> dict[int, tuple[int, int]]:
    rows = conn.execute(_LISTED[stage], (json.dumps(list(editions)),))
    return {row[0]: (row[1], row[2]) for row in rows}


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
