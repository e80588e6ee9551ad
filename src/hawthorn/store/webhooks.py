"""Webhooks, what was sent to them, and every try."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import field

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped, wake

FOLLOWER = "webhooks"
"""The name of their follower, and of their rows in the outbox."""


@dataclass(frozen=True, slots=True)
class Webhook:
    """Somebody who is told of events. What is chosen is JSON: each kind with the event after which it is told; empty lists mean all."""

    id: int
    uuid: str
    name: str
    url: str
    kinds: str
    types: str
    sections: str
    stages: str
    secret: str = field(repr=False)
    secret_before: str = field(repr=False)
    before_until: int
    state: str
    trouble: str
    from_seq: int
    actor: int
    at: int
    by_name: str


@dataclass(frozen=True, slots=True)
class Sent:
    """Something that was sent, or waits to be."""

    id: int
    stable_id: str
    seq: int
    payload: str
    state: str
    tries: int
    next_at: int
    trouble: str


@dataclass(frozen=True, slots=True)
class Try:
    """One try to send something: the status that was answered (0 for none) and how long it took, in milliseconds."""

    outgoing: int
    at: int
    status: int
    took: int
    trouble: str


_ROW = "SELECT w.*, a.name AS by_name FROM webhook w JOIN actor a ON a.id = w.actor WHERE w.state <> 'ended'"


def every(conn: sqlite3.Connection) -> list[Webhook]:
    """Those that were not ended, by name."""
    return shaped.every(Webhook, conn.execute(f"{_ROW} ORDER BY w.name, w.id"))


def switched_on(conn: sqlite3.Connection) -> list[Webhook]:
    """Those that are told."""
    return shaped.every(Webhook, conn.execute(f"{_ROW} AND w.state = 'on' ORDER BY w.id"))


def by_uuid(conn: sqlite3.Connection, uuid: str) -> Webhook | None:
    """One that was not ended."""
    return shaped.one(Webhook, conn.execute(f"{_ROW} AND w.uuid = ?", (uuid,)))


def add(
    conn: sqlite3.Connection,
    uuid: str,
    name: str,
    url: str,
    kinds: Mapping[str, int],
    limits: Sequence[Sequence[str]],
    secret: str,
    from_seq: int,
    actor: int,
    at: int,
) -> None:
    """Keep one that is told of each kind of events after one of them; `limits` are types, sections and stages."""
    conn.execute(
        "INSERT INTO webhook (uuid, name, url, kinds, types, sections, stages, secret, state, from_seq, actor, at) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, 'on', ?, ?, ?)",
        (uuid, name, url, json.dumps(kinds), *map(_listed, limits), secret, from_seq, actor, at),
    )


def change(
    conn: sqlite3.Connection,
    id: int,
    name: str,
    url: str,
    kinds: Mapping[str, int],
    limits: Sequence[Sequence[str]],
) -> None:
    """Give one another name, address or choice."""
    conn.execute(
        "UPDATE webhook SET name = ?, url = ?, kinds = ?, types = ?, sections = ?, stages = ? WHERE id = ?",
        (name, url, json.dumps(kinds), *map(_listed, limits), id),
    )


def _listed(chosen: Sequence[str]) -> str:
    return json.dumps(list(chosen))


def set_secret(conn: sqlite3.Connection, id: int, secret: str, before: str, until: int) -> None:
    """Give one another secret; the one before it is good until an instant."""
    conn.execute(
        "UPDATE webhook SET secret = ?, secret_before = ?, before_until = ? WHERE id = ?",
        (secret, before, until, id),
    )


def put(
    conn: sqlite3.Connection, id: int, state: str, trouble: str = "", from_seq: int | None = None
) -> None:
    """Switch one on (for what happens after an event) or off, or end it."""
    conn.execute(
        "UPDATE webhook SET state = ?, trouble = ?, from_seq = coalesce(?, from_seq) WHERE id = ?",
        (state, trouble[:500], from_seq, id),
    )


def sent_to(conn: sqlite3.Connection, uuid: str, before: int, limit: int) -> list[Sent]:
    """What was sent to one, or waits to be, newest first, before a number."""
    return shaped.every(
        Sent,
        conn.execute(
            "SELECT id, stable_id, seq, payload, state, tries, next_at, trouble FROM outbox "
            "WHERE follower = 'webhooks' AND recipient = ? AND id < ? ORDER BY id DESC LIMIT ?",
            (uuid, before, limit),
        ),
    )


def sent(conn: sqlite3.Connection, uuid: str, id: int) -> Sent | None:
    """One thing that was sent to one."""
    return next(iter(sent_to(conn, uuid, id + 1, 1)), None)


def again(conn: sqlite3.Connection, id: int, now: int) -> None:
    """Send something once more, under the same id."""
    conn.execute(
        "UPDATE outbox SET state = 'waiting', tries = 0, next_at = ?, trouble = '' WHERE id = ? AND follower = 'webhooks'",
        (now, id),
    )
    wake.tell(conn, f"outbox.{FOLLOWER}")


def drop_waiting(conn: sqlite3.Connection, uuid: str, trouble: str) -> None:
    """Give up what waits for one that is told no more."""
    conn.execute(
        "UPDATE outbox SET state = 'given up', trouble = ? WHERE follower = 'webhooks' AND recipient = ? AND state = 'waiting'",
        (trouble[:500], uuid),
    )


def tried(conn: sqlite3.Connection, outgoing: int, at: int, status: int, took: int, trouble: str) -> None:
    """Keep a try."""
    conn.execute(
        "INSERT INTO webhook_try (outgoing, at, status, took, trouble) VALUES (?, ?, ?, ?, ?)",
        (outgoing, at, status, took, trouble[:500]),
    )


def tries_of(conn: sqlite3.Connection, outgoing: Iterable[int]) -> list[Try]:
    """Every try of some things, oldest first."""
    return shaped.every(
        Try,
        conn.execute(
            "SELECT outgoing, at, status, took, trouble FROM webhook_try "
            "WHERE outgoing IN (SELECT value FROM json_each(?)) ORDER BY id",
            (json.dumps(list(outgoing)),),
        ),
    )


def forget(conn: sqlite3.Connection, uuid: str, keep: int) -> None:
    """Forget what was settled long ago: all but the newest of what was sent to one."""
    conn.execute(
        "DELETE FROM outbox WHERE follower = 'webhooks' AND recipient = ?1 AND state <> 'waiting' AND id <= "
        "(SELECT id FROM outbox WHERE follower = 'webhooks' AND recipient = ?1 ORDER BY id DESC LIMIT 1 OFFSET ?2)",
        (uuid, keep),
    )


def move_all(conn: sqlite3.Connection, url: str) -> None:
    """Every receiver listens at another address."""
    conn.execute("UPDATE webhook SET url = ?", (url,))
