"""What whoever translates a job gave in place of files that differ by locale."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Given:
    """A file that was given for a field of an entry of a job, of which file of the source it is, by whom, and when."""

    entry: int
    field: str
    source_sha256: str
    sha256: str
    by: str
    at: int


def give(
    conn: sqlite3.Connection,
    job: int,
    place: tuple[int, str],
    source_sha256: str,
    sha256: str,
    actor: int,
    at: int,
) -> None:
    """Keep what was given for a field of an entry, in place of what was given before."""
    conn.execute(
        "INSERT OR REPLACE INTO own_file (job, entry, field, source_sha256, sha256, actor, at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (job, *place, source_sha256, sha256, actor, at),
    )


def given(conn: sqlite3.Connection, job: int) -> dict[tuple[int, str], Given]:
    """What was given for a job, by entry and field."""
    cursor = conn.execute(
        "SELECT x.entry, x.field, x.source_sha256, x.sha256, a.name AS by, x.at FROM own_file x "
        "JOIN actor a ON a.id = x.actor WHERE x.job = ?",
        (job,),
    )
    return {(one.entry, one.field): one for one in shaped.every(Given, cursor)}
