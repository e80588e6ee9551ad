"""Placements in the outline, as they are and as they were: which entries stand below one, in order."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Sequence
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Top:
    """An entry at the top of the outline, and its rank."""

    entry: int
    rank: str


@dataclass(frozen=True, slots=True)
class Place:
    """Where an entry stands at a stage: below which entry (0 at the root), and its rank."""

    entry: int
    stage: int
    parent: int
    rank: str


def below(
    conn: sqlite3.Connection,
    stage: int,
    parent: int,
    start: tuple[str, int],
    limit: int,
    at: int | None = None,
) -> list[Place]:
    """Up to `limit` entries below one at a stage, by rank, after a rank and entry; as it was at an instant when given."""
    if at is None:
        return shaped.every(
            Place,
            conn.execute(
                "SELECT p.entry, p.stage, p.parent, p.rank FROM placed p WHERE p.stage = ? AND p.parent = ? AND p.until IS NULL "
                "AND (p.rank, p.entry) > (?, ?) ORDER BY p.rank, p.entry LIMIT ?",
                (stage, parent, *start, limit),
            ),
        )
    # What stands still, and began by then, is in the index of now; the rest is in that of what ended.
    still = shaped.every(
        Place,
        conn.execute(
            "SELECT p.entry, p.stage, p.parent, p.rank FROM placed p WHERE p.stage = ? AND p.parent = ? AND p.until IS NULL "
            "AND p.since <= ? AND (p.rank, p.entry) > (?, ?) ORDER BY p.rank, p.entry LIMIT ?",
            (stage, parent, at, *start, limit),
        ),
    )
    ended = shaped.every(
        Place,
        conn.execute(
            "SELECT p.entry, p.stage, p.parent, p.rank FROM placed p WHERE p.stage = ? AND p.parent = ? AND p.until IS NOT NULL "
            "AND p.since <= ? AND p.until > ? AND (p.rank, p.entry) > (?, ?) ORDER BY p.rank, p.entry LIMIT ?",
            (stage, parent, at, at, *start, limit),
        ),
    )
    return sorted([*still, *ended], key=lambda p: (p.rank, p.entry))[:limit]


def above(
    conn: sqlite3.Connection, stage: int, parent: int, start: tuple[str, int], limit: int
) -> list[Place]:
    """Up to `limit` entries before a rank and entry, the nearest first."""
    return shaped.every(
        Place,
        conn.execute(
            "SELECT p.entry, p.stage, p.parent, p.rank FROM placed p WHERE p.stage = ? AND p.parent = ? AND p.until IS NULL "
            "AND (p.rank, p.entry) < (?, ?) ORDER BY p.rank DESC, p.entry DESC LIMIT ?",
            (stage, parent, *start, limit),
        ),
    )


def of(conn: sqlite3.Connection, entry: int, stages: Sequence[int], at: int | None = None) -> Place | None:
    """Where an entry stands at the first of some stages at which it is placed."""
    for stage in stages:
        if at is None:
            cursor = conn.execute(
                "SELECT entry, stage, parent, rank FROM placed WHERE entry = ? AND stage = ? AND until IS NULL",
                (entry, stage),
            )
        else:
            cursor = conn.execute(
                "SELECT entry, stage, parent, rank FROM placed WHERE entry = ? AND stage = ? AND since <= ? "
                "AND (until IS NULL OR until > ?) ORDER BY since DESC LIMIT 1",
                (entry, stage, at, at),
            )
        found = shaped.one(Place, cursor)
        if found is not None:
            return found
    return None


def parents(conn: sqlite3.Connection, entries: Sequence[int], stages: Sequence[int]) -> set[int]:
    """Those of some entries below which something is placed at any of the stages now."""
    rows = conn.execute(
        "SELECT j.value FROM json_each(?1) j WHERE EXISTS (SELECT 1 FROM json_each(?2) s CROSS JOIN placed p "
        "ON p.stage = s.value AND p.parent = j.value AND p.until IS NULL)",
        (json.dumps(list(entries)), json.dumps(list(stages))),
    ).fetchall()
    return {row[0] for row in rows}


def tops(conn: sqlite3.Connection, types: Collection[Any]) -> list[Top]:
    """The placed entries of some types, in order."""
    return shaped.every(
        Top,
        conn.execute(
            "SELECT DISTINCT p.entry, p.rank FROM json_each(?) j CROSS JOIN entry e ON e.type = j.value AND e.removed_at IS NULL "
            "CROSS JOIN placed p ON p.entry = e.id AND p.stage IN (1, 2) AND p.until IS NULL ORDER BY p.rank, p.entry",
            (json.dumps(list(types)),),
        ),
    )


def namesakes(
    conn: sqlite3.Connection, entries: Iterable[int], stage: int, locales: Iterable[str]
) -> list[int]:
    """The entries that have the same slug at the same place as some in another language: who has none of that language's is found there by its source's,
    until somebody has it."""
    rows = conn.execute(
        "SELECT DISTINCT o.entry FROM json_each(?1) j CROSS JOIN address a ON a.entry = j.value AND a.stage = ?2 AND a.until IS NULL "
        "CROSS JOIN json_each(?3) l CROSS JOIN address o INDEXED BY address_ever ON o.stage = a.stage AND o.locale = l.value "
        "AND o.parent = a.parent AND o.slug = a.slug AND o.until IS NULL AND o.entry <> a.entry",
        (json.dumps(sorted(entries)), stage, json.dumps([*locales])),
    ).fetchall()
    return [row[0] for row in rows]
