"""Short forms of ids: the start that no other of its kind has, for whoever types one."""

from __future__ import annotations

import sqlite3

SHORTEST = 8
_TABLES = ("entry", "job", "dispatch", "template", "comment")


def of(conn: sqlite3.Connection, table: str, uuid: str) -> str:
    """The shortest start of a UUID (of eight characters or more) that no other one in a table has."""
    assert table in _TABLES
    beside = conn.execute(
        f"SELECT (SELECT max(uuid) FROM {table} WHERE uuid < ?1), (SELECT min(uuid) FROM {table} WHERE uuid > ?1)",
        (uuid,),
    ).fetchone()
    same = max(_same(uuid, other or "") for other in beside)
    end = max(same + 1, SHORTEST)
    # Not to end with a hyphen.
    return uuid[: end + (uuid[end - 1 : end] == "-")]


def _same(one: str, other: str) -> int:
    pairs = zip(one, other, strict=False)
    return next((n for n, (a, b) in enumerate(pairs) if a != b), min(len(one), len(other)))
