"""What receipts tell of revisions, and the workflows that were in force."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Kept:
    """A revision without what it holds."""

    id: int
    edition: int
    number: int
    content_hash: str
    type_version: int
    at: int
    handle: str


def texts(conn: sqlite3.Connection, revisions: Iterable[int]) -> dict[int, Kept]:
    """Some revisions, by number of the records."""
    found = shaped.every(
        Kept,
        conn.execute(
            "SELECT r.id, r.edition, r.number, r.content_hash, r.type_version, r.at, a.handle FROM json_each(?) j "
            "CROSS JOIN revision r ON r.id = j.value JOIN actor a ON a.id = r.actor",
            (json.dumps(sorted(revisions)),),
        ),
    )
    return {one.id: one for one in found}


def workflows_at(conn: sqlite3.Connection, at: int) -> dict[str, str]:
    """The definitions (JSON) of the workflows that were in force at an instant, by name."""
    rows = conn.execute(
        "SELECT name, definition FROM workflow w WHERE version = (SELECT max(version) FROM workflow WHERE name = w.name AND at <= ?)",
        (at,),
    ).fetchall()
    return {row[0]: row[1] for row in rows}
