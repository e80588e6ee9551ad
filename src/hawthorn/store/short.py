"""Short forms of ids: the start that no other of its kind has, for whoever types one."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable

SHORTEST = 8
_TABLES = ("entry", "job", "dispatch", "template", "comment")


def of(conn: sqlite3.Connection, table: str, uuid: str) -> str:
    """The shortest start of a UUID (of eight characters or more) that no other one in a table has."""
    return among(conn, table, [uuid])[uuid]


def among(conn: sqlite3.Connection, table: str, uuids: Iterable[str]) -> dict[str, str]:
    """The same of several, by UUID."""
    assert table in _TABLES
    rows = conn.execute(
        f"SELECT j.value, (SELECT max(uuid) FROM {table} WHERE uuid < j.value), "
        f"(SELECT min(uuid) FROM {table} WHERE uuid > j.value) FROM json_each(?) j",
        (json.dumps(list(uuids)),),
    ).fetchall()
    return {row[0]: _start(*row) for row in rows}


def _start(uuid: str, before: str | None, after: str | None) -> str:
    end = max(_same(uuid, before or "") + 1, _same(uuid, after or "") + 1, SHORTEST)
    # Not to end with a hyphen.
    return uuid[: end + (uuid[end - 1 : end] == "-")]


def _same(one: str, other: str) -> int:
    if one[:SHORTEST] != other[:SHORTEST]:
        return 0  # Wherever they differ, the shortest form tells them apart.
    shorter = min(len(one), len(other))
    return next((n for n in range(SHORTEST, shorter) if one[n] != other[n]), shorter)
