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
    kind: str
    url: str
    actor: int
    codes: str
    rates: str
    offer: str
    offered_at: int | None
    secret: str = field(repr=False)
    signing: str = field(repr=False)
    ended_at: int | None
    created_at: int
    jobs: int
    open: int


_ROW = """
SELECT b.*, a.created_at, (SELECT count(*) FROM job j WHERE j.bureau = b.id) AS jobs,
  (SELECT count(*) FROM job j WHERE j.bureau = b.id AND j.state IN ('waiting', 'sent', 'in work')) AS open
FROM bureau b JOIN actor a ON a.id = b.actor
"""


@dataclass(frozen=True, slots=True)
class Written:
    """What is kept of a bureau: `codes` maps our locales to its own and `rates` are what it asks (JSON both); its key and the secret that
    signs are sealed."""

    name: str
    kind: str
    url: str
    codes: str = "{}"
    secret: str = field(default="", repr=False)
    signing: str = field(default="", repr=False)
    rates: str = "{}"


def add(conn: sqlite3.Connection, actor: int, one: Written) -> int:
    """Add a bureau that acts as `actor`."""
    cursor = conn.execute(
        "INSERT INTO bureau (name, kind, url, codes, secret, signing, rates, actor) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (*_values(one), actor),
    )
    return int(cursor.lastrowid or 0)


def change(conn: sqlite3.Connection, id: int, one: Written) -> None:
    """Change all of a bureau; one that had ended is there again."""
    conn.execute(
        "UPDATE bureau SET name = ?, kind = ?, url = ?, codes = ?, secret = ?, signing = ?, rates = ?, ended_at = NULL WHERE id = ?",
        (*_values(one), id),
    )
    conn.execute(
        "UPDATE actor SET name = ? WHERE id = (SELECT actor FROM bureau WHERE id = ?)", (one.name, id)
    )


def _values(one: Written) -> tuple[str, ...]:
    return one.name, one.kind, one.url, one.codes, one.secret, one.signing, one.rates


def offered(conn: sqlite3.Connection, id: int, offer: str, at: int, rates: Mapping[str, Any]) -> None:
    """Keep what a bureau offers (`core.translation.offers`), and what it asks."""
    conn.execute(
        "UPDATE bureau SET offer = ?, offered_at = ?, rates = ? WHERE id = ?",
        (offer, at, json.dumps(rates), id),
    )


def move_all(conn: sqlite3.Connection, url: str) -> None:
    """Every bureau that has an address listens at another."""
    conn.execute("UPDATE bureau SET url = ? WHERE kind = 'http'", (url,))


def end(conn: sqlite3.Connection, id: int, at: int) -> None:
    """End a bureau; what it did stays under its name."""
    conn.execute("UPDATE bureau SET ended_at = ?, secret = '', signing = '' WHERE id = ?", (at, id))


def in_use(conn: sqlite3.Connection) -> list[Bureau]:
    """The bureaus that take jobs, by name, with how many jobs each had and has open."""
    return shaped.every(Bureau, conn.execute(_ROW + "WHERE b.ended_at IS NULL ORDER BY b.name"))


def name_of(conn: sqlite3.Connection, id: int) -> str:
    """What a bureau is called, also one that has ended."""
    name: str = conn.execute("SELECT name FROM bureau WHERE id = ?", (id,)).fetchone()[0]
    return name


def get(conn: sqlite3.Connection, id: int) -> Bureau | None:
    """A bureau that takes jobs."""
    return shaped.one(Bureau, conn.execute(_ROW + "WHERE b.id = ? AND b.ended_at IS NULL", (id,)))


def named(conn: sqlite3.Connection, name: str) -> Bureau | None:
    """A bureau by name, also one that has ended."""
    return shaped.one(Bureau, conn.execute(_ROW + "WHERE b.name = ?", (name,)))
