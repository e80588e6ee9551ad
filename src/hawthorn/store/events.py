"""The event log: append-only and hash-chained, with who was meant beside it."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

from hawthorn.core import chain
from hawthorn.core.messages import Message, said
from hawthorn.core.quick import dataclass
from hawthorn.store import shaped, wake


@dataclass(frozen=True, slots=True)
class Event:
    """Something that happened, by whom; `json` is its payload."""

    seq: int
    at: int
    kind: str
    actor: int
    actor_kind: str
    handle: str
    name: str
    hash: str
    json: str | None


def last(conn: sqlite3.Connection) -> tuple[int, int, str]:
    """The sequence, instant and hash of the newest event."""
    row = conn.execute("SELECT seq, at, hash FROM event ORDER BY seq DESC LIMIT 1").fetchone()
    return (row[0], row[1], row[2]) if row else (0, 0, chain.GENESIS)


def instant(conn: sqlite3.Connection, seq: int) -> int:
    """When an event happened; 0 for none."""
    row = conn.execute("SELECT at FROM event WHERE seq = ?", (seq,)).fetchone()
    return int(row[0]) if row else 0


def append(
    conn: sqlite3.Connection,
    tip: tuple[int, int, str],
    at: int,
    kind: str,
    actor: int,
    actor_kind: str,
    about: Iterable[int],
    payload: Mapping[str, Any],
) -> tuple[int, int, str]:
    """Append one event after the tip; returns the new tip."""
    body = json.dumps(payload, ensure_ascii=False, separators=(",", ":"))
    digest = hashlib.sha256(body.encode()).hexdigest()
    seq, prev = tip[0] + 1, tip[2]
    chained = chain.link(seq, at, kind, actor, actor_kind, digest, prev)
    conn.execute(
        "INSERT INTO event VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (seq, at, kind, actor, actor_kind, digest, prev, chained),
    )
    conn.execute("INSERT INTO event_payload (seq, json) VALUES (?, ?)", (seq, body))
    conn.executemany("INSERT OR IGNORE INTO event_about VALUES (?, ?)", [(entry, seq) for entry in about])
    if kind.startswith(("dispatch.", "comment.")):
        conn.execute(
            "INSERT OR IGNORE INTO dispatch_event SELECT id, ? FROM dispatch WHERE uuid IN (?, ?)",
            (seq, payload.get("dispatch"), payload.get("undoes")),
        )
    wake.tell(conn, kind)
    return seq, at, chained


_SHOWN = """
SELECT e.seq, e.at, e.kind, e.actor, e.actor_kind, a.handle, a.name, e.hash, p.json
FROM event e JOIN actor a ON a.id = e.actor LEFT JOIN event_payload p ON p.seq = e.seq
"""


def after(conn: sqlite3.Connection, seq: int, limit: int = 200) -> list[Event]:
    """Events after a sequence, oldest first."""
    return shaped.every(Event, conn.execute(_SHOWN + "WHERE e.seq > ? ORDER BY e.seq LIMIT ?", (seq, limit)))


def times_of(
    conn: sqlite3.Connection, actor: int, since: int, most: int, kinds: Sequence[str] = ()
) -> list[int]:
    """When somebody did something since an instant, the latest first, so many at most; of all kinds where none is named."""
    rows = conn.execute(
        "SELECT at FROM event WHERE actor = ? AND at > ? AND (? OR kind IN (SELECT value FROM json_each(?))) ORDER BY seq DESC LIMIT ?",
        (actor, since, not kinds, json.dumps(list(kinds)), most),
    )
    return [row[0] for row in rows]


def of_kinds(conn: sqlite3.Connection, seq: int, kinds: Sequence[str], limit: int = 200) -> list[Event]:
    """Events of some kinds after a sequence, oldest first, however many others lie between."""
    return shaped.every(
        Event,
        conn.execute(
            "SELECT e.seq, e.at, e.kind, e.actor, e.actor_kind, a.handle, a.name, e.hash, p.json "
            "FROM event e INDEXED BY event_by_kind JOIN actor a ON a.id = e.actor LEFT JOIN event_payload p ON p.seq = e.seq "
            "WHERE e.kind IN (SELECT value FROM json_each(?)) AND e.seq > ? ORDER BY e.seq LIMIT ?",
            (json.dumps(list(kinds)), seq, limit),
        ),
    )


def filtered(
    conn: sqlite3.Connection,
    kind: str,
    entry: int | None,
    dispatch: int | None,
    actor: int | None,
    since: int,
    until: int,
    before: int,
    limit: int,
) -> list[Event]:
    """Events before a sequence, newest first: of a kind (or the start of one), about an entry or a dispatch, by somebody, in a span."""
    seq = "b.seq" if entry is not None else "k.seq" if dispatch is not None else "e.seq"
    sql = _SHOWN + ("JOIN event_about b ON b.seq = e.seq AND b.entry = :entry " if entry is not None else "")
    sql += (
        "JOIN dispatch_event k ON k.seq = e.seq AND k.dispatch = :dispatch " if dispatch is not None else ""
    )
    sql += f"WHERE {seq} < :before AND e.at >= :since AND e.at < :until "
    if kind:
        sql += "AND e.kind >= :kind AND e.kind < :kind || char(0x10ffff) "
    if actor is not None:
        sql += "AND e.actor = :actor "
    given = {
        "kind": kind,
        "entry": entry,
        "dispatch": dispatch,
        "actor": actor,
        "since": since,
        "until": until,
        "before": before,
        "limit": limit,
    }
    return shaped.every(Event, conn.execute(f"{sql}ORDER BY {seq} DESC LIMIT :limit", given))


def by_kinds(
    conn: sqlite3.Connection,
    kinds: Sequence[str],
    by: tuple[int | None, str] | None,
    span: tuple[int, int],
    before: int,
    limit: int,
) -> list[Event]:
    """Events of some kinds before a sequence, newest first, in a span; `by` is somebody who did them, or whose handle they name."""
    narrowed = "AND (e.actor = :actor OR p.json ->> 'handle' = :handle) " if by is not None else ""
    actor, handle = by or (None, "")
    given: dict[str, object] = {"actor": actor, "handle": handle, "before": before, "limit": limit}
    given |= {"since": span[0], "until": span[1]} | {f"kind{n}": kind for n, kind in enumerate(kinds)}
    # Of each kind no more than a page is read, by its index.
    parts = (
        f"SELECT * FROM ({_SHOWN}WHERE e.kind = :kind{n} AND e.seq < :before AND e.at >= :since AND e.at < :until {narrowed}"
        "ORDER BY e.seq DESC LIMIT :limit)"
        for n in range(len(kinds))
    )
    return shaped.every(
        Event, conn.execute(f"{' UNION ALL '.join(parts)} ORDER BY seq DESC LIMIT :limit", given)
    )


@dataclass(frozen=True, slots=True)
class Linked(Event):
    """An event as it stands in the chain."""

    payload_hash: str
    prev: str


def of_dispatch(conn: sqlite3.Connection, dispatch: int, kind: str) -> Linked | None:
    """The newest event of a kind about a dispatch."""
    return shaped.one(
        Linked,
        conn.execute(
            "SELECT e.seq, e.at, e.kind, e.actor, e.actor_kind, a.handle, a.name, e.hash, iif(p.redacted, NULL, p.json) AS json, e.payload_hash, e.prev "
            "FROM dispatch_event k JOIN event e ON e.seq = k.seq JOIN dispatch d ON d.id = k.dispatch JOIN actor a ON a.id = e.actor "
            "LEFT JOIN event_payload p ON p.seq = e.seq WHERE k.dispatch = ? AND e.kind = ? AND p.json ->> 'dispatch' = d.uuid "
            "ORDER BY e.seq DESC LIMIT 1",
            (dispatch, kind),
        ),
    )


def entries_of(conn: sqlite3.Connection, seq: int, limit: int) -> list[int]:
    """The entries that an event is about, by number."""
    rows = conn.execute("SELECT entry FROM event_about WHERE seq = ? LIMIT ?", (seq, limit)).fetchall()
    return [row[0] for row in rows]


def about(conn: sqlite3.Connection, entry: int, before: int, limit: int) -> list[Event]:
    """Events about an entry before a sequence, newest first."""
    return shaped.every(
        Event,
        conn.execute(
            _SHOWN
            + "JOIN event_about b ON b.seq = e.seq WHERE b.entry = ? AND b.seq < ? ORDER BY b.seq DESC LIMIT ?",
            (entry, before, limit),
        ),
    )


_AT_ONCE = 500
_CHAIN = (
    "SELECT e.seq, e.at, e.kind, e.actor, e.actor_kind, e.payload_hash, e.prev, e.hash, iif(p.redacted, NULL, p.json) FROM event e "
    "LEFT JOIN event_payload p ON p.seq = e.seq WHERE e.seq BETWEEN ? AND ? ORDER BY e.seq"
)


def verify(conn: sqlite3.Connection) -> Iterator[Message]:
    """Walk the chain; yields what does not fit, in words. Events on a damaged page are named, and the walk goes on. A payload that was taken out, or out
    of which somebody's name was taken, is not held against its hash: the chain has that of what was there."""
    prev, unreadable = chain.GENESIS, set[int]()
    newest = conn.execute("SELECT max(seq) FROM event").fetchone()[0] or 0
    cursor = conn.cursor()
    # By place, not by name: of a million events that is half of the time.
    cursor.row_factory = None
    for start in range(1, newest + 1, _AT_ONCE):
        end = min(start + _AT_ONCE - 1, newest)
        lost: list[int] = []
        try:
            rows = cursor.execute(_CHAIN, (start, end)).fetchall()
        except sqlite3.DatabaseError:
            rows = []
            for seq in range(start, end + 1):
                try:
                    rows += cursor.execute(_CHAIN, (seq, seq)).fetchall()
                except sqlite3.DatabaseError:
                    lost.append(seq)
            unreadable.update(lost)
            yield said("events.unreadable", first=lost[0], last=lost[-1], count=len(lost))
        for seq, at, kind, actor, actor_kind, digest, before, link, body in rows:
            # What comes after something that cannot be read has nothing to be held against.
            known = before if seq - 1 in unreadable else prev
            if before != known or link != chain.link(seq, at, kind, actor, actor_kind, digest, known):
                yield said("events.does_not_follow", seq=seq)
            if body is not None and hashlib.sha256(body.encode()).hexdigest() != digest:
                yield said("events.altered", seq=seq)
            prev = link
