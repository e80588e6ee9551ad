"""What is out of some types, in parts by their numbers, for the map of a site; and the addresses that their entries had."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator, Sequence
from itertools import groupby

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Formerly:
    """An address that an entry has no more."""

    entry: int
    locale: str
    parent: int
    slug: str


def parts(conn: sqlite3.Connection, types: Sequence[str], size: int) -> list[tuple[int, int]]:
    """The parts in which anything of some types is out, with the latest instant at which something in it came out."""
    rows = conn.execute(
        "SELECT l.entry / ? AS part, max(s.since) FROM listed l JOIN standing s ON s.edition = l.edition AND s.stage = 2 AND s.until IS NULL "
        "WHERE l.stage = 2 AND l.until IS NULL AND l.type IN (SELECT value FROM json_each(?)) "
        "AND l.entry NOT IN (SELECT id FROM entry WHERE limited = 'hidden') GROUP BY part ORDER BY part",
        (size, json.dumps(list(types))),
    )
    return [(row[0], row[1]) for row in rows]


def mapped(
    conn: sqlite3.Connection, types: Sequence[str], part: int, size: int
) -> Iterator[tuple[int, list[tuple[str, int]]]]:
    """The entries of a part, each with the locales in which it is out, and since when."""
    rows = conn.execute(
        "SELECT l.entry, l.locale, s.since FROM entry e CROSS JOIN listed l ON l.entry = e.id AND l.stage = 2 AND l.until IS NULL "
        "JOIN standing s ON s.edition = l.edition AND s.stage = 2 AND s.until IS NULL WHERE e.id >= ? AND e.id < ? AND e.limited <> 'hidden' "
        "AND l.type IN (SELECT value FROM json_each(?)) ORDER BY l.entry, l.locale",
        (part * size, (part + 1) * size, json.dumps(list(types))),
    ).fetchall()
    for entry, some in groupby(rows, key=lambda row: row[0]):
        yield entry, [(row[1], row[2]) for row in some]


def formerly(conn: sqlite3.Connection, types: Sequence[str]) -> list[Formerly]:
    """The addresses that entries of some types had where they are out, and that nothing has now."""
    return shaped.every(
        Formerly,
        conn.execute(
            "SELECT DISTINCT a.entry, a.locale, a.parent, a.slug FROM address a JOIN entry e ON e.id = a.entry "
            "WHERE a.stage = 2 AND a.until IS NOT NULL AND e.limited <> 'hidden' AND e.type IN (SELECT value FROM json_each(?)) AND NOT EXISTS (SELECT 1 FROM address n "
            "WHERE n.stage = 2 AND n.locale = a.locale AND n.parent = a.parent AND n.slug = a.slug AND n.until IS NULL) "
            "AND EXISTS (SELECT 1 FROM listed l WHERE l.entry = a.entry AND l.stage = 2 AND l.until IS NULL AND l.locale = a.locale) "
            "ORDER BY a.entry, a.locale, a.slug LIMIT 50000",
            (json.dumps(list(types)),),
        ),
    )
