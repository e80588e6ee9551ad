"""Bureaus: who translates outside, where to reach them, and how they call our locales."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import field
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Bureau:
    """A bureau, how it is reached, and how much work it has."""

    id: int
    name: str
    url: str
    actor: int
    codes: str
    rates: str
    secret: str = field(repr=False)
    ended_at: int | None
    created_at: int
    jobs: int
    open: int


_ROW = """
SELECT b.*, a.created_at, (SELECT count(*) FROM job j WHERE j.bureau = b.id) AS jobs,
  (SELECT count(*) FROM job j WHERE j.bureau = b.id AND j.state IN ('waiting', 'sent', 'in work')) AS open
FROM bureau b JOIN actor a ON a.id = b.actor
"""


def add(
    conn: sqlite3.Connection,
    name: str,
    url: str,
    actor: int,
    codes: Mapping[str, str],
    secret: str = "",
    rates: Mapping[str, Any] | None = None,
) -> int:
    """Add a bureau that acts as `actor`; `codes` maps our locales to its own, `secret` is sealed."""
    cursor = conn.execute(
        "INSERT INTO bureau (name, url, actor, codes, secret, rates) VALUES (?, ?, ?, ?, ?, ?)",
        (name, url, actor, json.dumps(codes, sort_keys=True), secret, json.dumps(rates or {})),
    )
    return int(cursor.lastrowid or 0)


def change(
    conn: sqlite3.Connection,
    id: int,
    name: str,
    url: str,
    codes: Mapping[str, str],
    secret: str,
    rates: Mapping[str, Any],
) -> None:
    """Change all of a bureau; one that had ended is there again."""
    conn.execute(
        "UPDATE bureau SET name = ?, url = ?, codes = ?, secret = ?, rates = ?, ended_at = NULL WHERE id = ?",
        (name, url, json.dumps(codes, sort_keys=True), secret, json.dumps(rates), id),
    )
    conn.execute("UPDATE actor SET name = ? WHERE id = (SELECT actor FROM bureau WHERE id = ?)", (name, id))


def move_all(conn: sqlite3.Connection, url: str) -> None:
    """Every bureau listens at another address."""
    conn.execute("UPDATE bureau SET url = ?", (url,))


def end(conn: sqlite3.Connection, id: int, at: int) -> None:
    """End a bureau; what it did stays under its name."""
    conn.execute("UPDATE bureau SET ended_at = ?, secret = '' WHERE id = ?", (at, id))


def in_use(conn: sqlite3.Connection) -> list[Bureau]:
    """The bureaus that take jobs, by name, with how many jobs each had and has open."""
    return shaped.every(Bureau, conn.execute(_ROW + "WHERE b.ended_at IS NULL ORDER BY b.name"))


def get(conn: sqlite3.Connection, id: int) -> Bureau | None:
    """A bureau that takes jobs."""
    return shaped.one(Bureau, conn.execute(_ROW + "WHERE b.id = ? AND b.ended_at IS NULL", (id,)))


def named(conn: sqlite3.Connection, name: str) -> Bureau | None:
    """A bureau by name, also one that has ended."""
    return shaped.one(Bureau, conn.execute(_ROW + "WHERE b.name = ?", (name,)))
