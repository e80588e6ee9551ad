"""Followers' leases and cursors, and what waits to go out of the service.

A lease only spares work: two processes that both believe to hold it still never do the same twice, as cursors and rows of
the outbox are taken by compare-and-swap.
"""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import SECOND
from hawthorn.store import shaped, wake


@dataclass(frozen=True, slots=True)
class Outgoing:
    """Something that is to be sent."""

    id: int
    follower: str
    stable_id: str
    seq: int
    recipient: str
    payload: str
    state: str
    tries: int
    next_at: int
    trouble: str


LEASE = 20 * SECOND
"""How long a lease lasts unless it is renewed. One that claims to last longer was written by a clock that was wrong."""
CLAIM = 180 * SECOND
"""How long a row is its sender's own. Whoever sends gives up well before."""
LONGEST_PAUSE = 900 * SECOND
"""The longest pause between two tries."""


def take_lease(conn: sqlite3.Connection, name: str, holder: str, now: int) -> int | None:
    """Take or renew a follower's lease; returns its cursor, or None while another process holds it."""
    conn.execute("INSERT OR IGNORE INTO follower (name, cursor) VALUES (?, 0)", (name,))
    changed = conn.execute(
        "UPDATE follower SET holder = ?1, lease_until = ?2 WHERE name = ?3 AND "
        "(holder IN (?1, '') OR lease_until <= ?4 OR lease_until > ?4 + ?5)",
        (holder, now + LEASE, name, now, LEASE),
    ).rowcount
    return cursor(conn, name) if changed else None


def cursor(conn: sqlite3.Connection, name: str) -> int:
    """How far a follower has come in the log."""
    row = conn.execute("SELECT cursor FROM follower WHERE name = ?", (name,)).fetchone()
    return row[0] if row else 0


def advance(conn: sqlite3.Connection, name: str, holder: str, before: int, after: int) -> bool:
    """Compare and swap a follower's cursor."""
    return (
        conn.execute(
            "UPDATE follower SET cursor = ? WHERE name = ? AND holder = ? AND cursor = ?",
            (after, name, holder, before),
        ).rowcount
        > 0
    )


def holds(conn: sqlite3.Connection, name: str, holder: str) -> bool:
    """Whether a process holds a follower's lease still."""
    row = conn.execute("SELECT holder FROM follower WHERE name = ?", (name,)).fetchone()
    return row is not None and row[0] == holder


def release_leases(conn: sqlite3.Connection, holder: str) -> None:
    """Give back every lease of a process that stops."""
    conn.execute("UPDATE follower SET holder = '', lease_until = 0 WHERE holder = ?", (holder,))


def put(
    conn: sqlite3.Connection,
    follower: str,
    stable_id: str,
    seq: int,
    recipient: str,
    payload: str,
    next_at: int,
) -> None:
    """Put something into the outbox; the same stable id is never put twice."""
    conn.execute(
        "INSERT OR IGNORE INTO outbox (follower, stable_id, seq, recipient, payload, state, next_at) "
        "VALUES (?, ?, ?, ?, ?, 'waiting', ?)",
        (follower, stable_id, seq, recipient, payload, next_at),
    )
    wake.tell(conn, f"outbox.{follower}")


_DUE = "follower = ?1 AND state = 'waiting' AND (next_at <= ?2 OR next_at > ?2 + ?3)"


def waiting(
    conn: sqlite3.Connection, follower: str, now: int, longest: int = LONGEST_PAUSE, limit: int = 50
) -> list[Outgoing]:
    """What a follower should send now, oldest first. A time further off than any pause was set by a clock that was wrong."""
    return shaped.every(
        Outgoing,
        conn.execute(
            f"SELECT * FROM outbox WHERE {_DUE} ORDER BY id LIMIT ?4", (follower, now, longest, limit)
        ),
    )


def next_time(conn: sqlite3.Connection, follower: str) -> int | None:
    """The instant at which something waits to be sent next."""
    row = conn.execute(
        "SELECT min(next_at) FROM outbox WHERE follower = ? AND state = 'waiting'", (follower,)
    ).fetchone()
    return row[0] if row else None


def claim(conn: sqlite3.Connection, row: Outgoing, now: int) -> bool:
    """Make one row one's own for the time of a try, which is counted; False when somebody else has it, or it is settled."""
    return (
        conn.execute(
            "UPDATE outbox SET next_at = ?, tries = tries + 1 WHERE id = ? AND state = 'waiting' AND next_at = ?",
            (now + CLAIM, row.id, row.next_at),
        ).rowcount
        > 0
    )


def hold_back(conn: sqlite3.Connection, follower: str, recipient: str) -> None:
    """Let all that waits for a recipient wait as long as what was tried last."""
    conn.execute(
        "UPDATE outbox SET next_at = (SELECT max(o.next_at) FROM outbox o WHERE o.follower = ?1 AND o.recipient = ?2 "
        "AND o.state = 'waiting' AND o.tries > 0) WHERE follower = ?1 AND recipient = ?2 AND state = 'waiting' AND EXISTS "
        "(SELECT 1 FROM outbox o WHERE o.follower = ?1 AND o.recipient = ?2 AND o.state = 'waiting' AND o.tries > 0)",
        (follower, recipient),
    )


def hurry(conn: sqlite3.Connection, follower: str, recipient: str, now: int) -> None:
    """Let all that waits for a recipient go now."""
    conn.execute(
        "UPDATE outbox SET next_at = ? WHERE follower = ? AND recipient = ? AND state = 'waiting'",
        (now, follower, recipient),
    )


def settle(conn: sqlite3.Connection, id: int, state: str, trouble: str = "") -> None:
    """End a row: "done" or "given up". What a mail said is not kept once it was sent, nor an invitation in any case: whoever holds it could use it."""
    conn.execute(
        "UPDATE outbox SET state = ?1, trouble = ?2, "
        "payload = CASE WHEN stable_id LIKE 'invitation-%' OR (follower = 'mail' AND ?1 = 'done') THEN '{}' ELSE payload END "
        "WHERE id = ?3 AND state = 'waiting'",
        (state, trouble[:500], id),
    )


def postpone(conn: sqlite3.Connection, id: int, next_at: int, trouble: str) -> None:
    """Let a row wait for another try."""
    conn.execute(
        "UPDATE outbox SET next_at = ?, trouble = ? WHERE id = ? AND state = 'waiting'",
        (next_at, trouble[:500], id),
    )


def waiting_count(conn: sqlite3.Connection) -> int:
    """How much waits to be sent."""
    count: int = conn.execute("SELECT count(*) FROM outbox WHERE state = 'waiting'").fetchone()[0]
    return count


def park(conn: sqlite3.Connection) -> int:
    """Keep back all that waits, until somebody has looked: whoever wrote before may have sent it. Returns how many there are."""
    return conn.execute("UPDATE outbox SET state = 'parked' WHERE state = 'waiting'").rowcount


@dataclass(frozen=True, slots=True)
class Work:
    """What is done by itself: how many dispatches are planned, by how many microseconds the oldest of them is overdue and the last that went was late, how far
    each follower has come in the log, and how many rows of the outbox each has in each state but done."""

    planned: int
    overdue: int
    last_late: int
    cursors: dict[str, int]
    outbox: dict[tuple[str, str], int]


def work(conn: sqlite3.Connection, now: int) -> Work:
    """What is to be done by itself, and how far that is."""
    planned, oldest = conn.execute(
        "SELECT count(*), min(instant) FROM dispatch INDEXED BY dispatch_due WHERE state = 'planned'"
    ).fetchone()
    last = conn.execute(
        "SELECT late_by FROM dispatch WHERE state IN ('gone', 'undone') ORDER BY ended_at DESC LIMIT 1"
    ).fetchone()
    cursors = conn.execute("SELECT name, cursor FROM follower WHERE cursor > 0").fetchall()
    rows = conn.execute(
        "SELECT follower, state, count(*) FROM outbox WHERE state <> 'done' GROUP BY follower, state"
    ).fetchall()
    return Work(
        planned,
        max(0, now - oldest) if oldest is not None else 0,
        (last[0] or 0) if last else 0,
        dict(cursors),
        {(follower, state): count for follower, state, count in rows},
    )


def overdue(conn: sqlite3.Connection, before: int) -> int:
    """How many planned dispatches should have gone before an instant."""
    found = conn.execute("SELECT count(*) FROM dispatch WHERE state = 'planned' AND instant < ?", (before,))
    return int(found.fetchone()[0])


def given_up(conn: sqlite3.Connection) -> dict[str, int]:
    """How many rows each follower has given up."""
    found = conn.execute(
        "SELECT follower, count(*) FROM outbox WHERE state = 'given up' GROUP BY follower ORDER BY follower"
    )
    return dict(found.fetchall())


def parked(conn: sqlite3.Connection) -> list[Outgoing]:
    """All that is kept back, the oldest first."""
    return shaped.every(Outgoing, conn.execute("SELECT * FROM outbox WHERE state = 'parked' ORDER BY id"))


def end_parked(conn: sqlite3.Connection, *, send: bool, now: int) -> int:
    """Let all that is kept back be sent, or be given up; returns how many there were."""
    state = "waiting" if send else "given up"
    count = conn.execute(
        "UPDATE outbox SET state = ?, tries = 0, next_at = ? WHERE state = 'parked'", (state, now)
    ).rowcount
    for (follower,) in conn.execute(
        "SELECT DISTINCT follower FROM outbox WHERE state = 'waiting'"
    ).fetchall():
        wake.tell(conn, f"outbox.{follower}")
    return count
