"""Previews: what may be seen before it is out, by whom, for how long; and what is being typed in one."""

from __future__ import annotations

import json
import sqlite3
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Link:
    """A preview link and what it opens."""

    id: int
    uuid: str
    pane: int
    name: str
    scope: str
    entry: int | None
    strand: str
    stage: int
    at: int | None
    created_at: int
    expires_at: int
    ended_at: int | None
    actor: int
    dispatch: int | None
    job: int | None
    by_name: str
    stage_name: str
    job_state: str | None
    dispatch_uuid: str | None
    dispatch_name: str | None

    @property
    def about(self) -> int:
        """The entry that a link was given out for; only a pane may have none."""
        assert self.entry is not None
        return self.entry


@dataclass(frozen=True, slots=True)
class LinkLine(Link):
    """The same as a list shows it, with how often it was used."""

    entry_uuid: str
    uses: int
    used_at: int | None


@dataclass(frozen=True, slots=True)
class LinkUse:
    """One use of a preview link."""

    at: int
    what: str
    agent: str


def add(
    conn: sqlite3.Connection,
    *,
    uuid: str,
    pane: bool,
    name: str,
    scope: str,
    entry: int | None,
    strand: str,
    stage: int,
    at: int | None,
    created_at: int,
    expires_at: int,
    actor: int,
    dispatch: int | None = None,
    job: int | None = None,
) -> int:
    """Add a preview."""
    made = conn.execute(
        "INSERT INTO preview (uuid, pane, name, scope, entry, strand, stage, at, created_at, expires_at, actor, dispatch, job) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            uuid,
            int(pane),
            name,
            scope,
            entry,
            strand,
            stage,
            at,
            created_at,
            expires_at,
            actor,
            dispatch,
            job,
        ),
    )
    return int(made.lastrowid or 0)


def find(conn: sqlite3.Connection, uuid: str) -> Link | None:
    """A preview with the name of who made it."""
    return shaped.one(
        Link,
        conn.execute(
            "SELECT p.*, a.name AS by_name, g.name AS stage_name, d.uuid AS dispatch_uuid, d.name AS dispatch_name, j.state AS job_state "
            "FROM preview p JOIN actor a ON a.id = p.actor JOIN stage g ON g.id = p.stage LEFT JOIN dispatch d ON d.id = p.dispatch "
            "LEFT JOIN job j ON j.id = p.job WHERE p.uuid = ?",
            (uuid,),
        ),
    )


def of_job(conn: sqlite3.Connection, job: int) -> str:
    """The UUID of the link that a job has; empty where it has none."""
    row = conn.execute("SELECT uuid FROM preview WHERE job = ? AND ended_at IS NULL", (job,)).fetchone()
    return str(row[0]) if row else ""


def links(conn: sqlite3.Connection, entry: int | None = None, limit: int = 200) -> list[LinkLine]:
    """The links there are, newest first: of an entry, or all; each with how often it was used and when last."""
    return shaped.every(
        LinkLine,
        conn.execute(
            "SELECT p.*, a.name AS by_name, g.name AS stage_name, d.uuid AS dispatch_uuid, d.name AS dispatch_name, e.uuid AS entry_uuid, "
            "(SELECT j.state FROM job j WHERE j.id = p.job) AS job_state, "
            "(SELECT count(*) FROM preview_use u WHERE u.preview = p.id) AS uses, "
            "(SELECT max(u.at) FROM preview_use u WHERE u.preview = p.id) AS used_at "
            "FROM preview p JOIN actor a ON a.id = p.actor JOIN stage g ON g.id = p.stage LEFT JOIN entry e ON e.id = p.entry "
            "LEFT JOIN dispatch d ON d.id = p.dispatch "
            "WHERE p.pane = 0 AND (?1 IS NULL OR p.entry = ?1) ORDER BY p.id DESC LIMIT ?2",
            (entry, limit),
        ),
    )


def uses(conn: sqlite3.Connection, preview: int, limit: int = 100) -> list[LinkUse]:
    """When a preview was used and for what, newest first."""
    return shaped.every(
        LinkUse,
        conn.execute(
            "SELECT at, what, agent FROM preview_use WHERE preview = ? ORDER BY id DESC LIMIT ?",
            (preview, limit),
        ),
    )


def use(
    conn: sqlite3.Connection, preview: int, at: int, what: str, agent: str, quiet: int, most: int
) -> bool:
    """Note a use, unless the same was noted less than `quiet` microseconds ago; keeps the newest `most`."""
    row = conn.execute(
        "SELECT max(at) FROM (SELECT at, what, agent FROM preview_use WHERE preview = ? ORDER BY id DESC LIMIT 50) "
        "WHERE what = ? AND agent = ?",
        (preview, what, agent),
    ).fetchone()
    if row[0] is not None and row[0] > at - quiet:
        return False
    conn.execute(
        "INSERT INTO preview_use (preview, at, what, agent) VALUES (?, ?, ?, ?)", (preview, at, what, agent)
    )
    conn.execute(
        "DELETE FROM preview_use WHERE preview = ?1 AND id <= "
        "(SELECT id FROM preview_use WHERE preview = ?1 ORDER BY id DESC LIMIT 1 OFFSET ?2)",
        (preview, most),
    )
    return True


def end(conn: sqlite3.Connection, id: int, at: int) -> None:
    """End a preview; what was typed in it goes."""
    conn.execute("UPDATE preview SET ended_at = ? WHERE id = ? AND ended_at IS NULL", (at, id))
    conn.execute("DELETE FROM preview_typed WHERE preview = ?", (id,))


def end_panes(conn: sqlite3.Connection, actor: int, at: int) -> None:
    """End every preview that somebody has open for themselves."""
    rows = conn.execute(
        "SELECT id FROM preview WHERE actor = ? AND pane = 1 AND ended_at IS NULL", (actor,)
    ).fetchall()
    for row in rows:
        end(conn, row["id"], at)


def end_all_of(conn: sqlite3.Connection, actor: int, at: int) -> None:
    """End every preview that somebody opened, and every link that they gave."""
    rows = conn.execute("SELECT id FROM preview WHERE actor = ? AND ended_at IS NULL", (actor,)).fetchall()
    for row in rows:
        end(conn, row["id"], at)


def sweep(conn: sqlite3.Connection, now: int) -> None:
    """Forget the panes that are over, with what was typed in them."""
    conn.execute(
        "DELETE FROM preview_typed WHERE preview IN (SELECT id FROM preview WHERE pane = 1 AND expires_at <= ?)",
        (now,),
    )
    conn.execute("DELETE FROM preview WHERE pane = 1 AND expires_at <= ?", (now,))


def type(
    conn: sqlite3.Connection, preview: int, entry: int, locale: str, fields: dict[str, Any], at: int
) -> None:
    """Keep what is being typed into an edition; nothing typed forgets it."""
    if not fields:
        conn.execute(
            "DELETE FROM preview_typed WHERE preview = ? AND entry = ? AND locale = ?",
            (preview, entry, locale),
        )
        return
    conn.execute(
        "INSERT INTO preview_typed VALUES (?1, ?2, ?3, ?4, ?5) ON CONFLICT (preview, entry, locale) "
        "DO UPDATE SET fields = ?4, at = ?5",
        (preview, entry, locale, json.dumps(fields, ensure_ascii=False), at),
    )


def typed(conn: sqlite3.Connection, preview: int, entry: int, locale: str) -> dict[str, Any]:
    """What is being typed into an edition and into the shared fields."""
    rows = conn.execute(
        "SELECT fields FROM preview_typed WHERE preview = ? AND entry = ? AND locale IN ('*', ?) ORDER BY locale",
        (preview, entry, locale),
    ).fetchall()
    out: dict[str, Any] = {}
    for row in rows:
        out |= json.loads(row[0])
    return out


def last_use(conn: sqlite3.Connection, preview: int) -> int | None:
    """When a link was last used."""
    row = conn.execute("SELECT max(at) FROM preview_use WHERE preview = ?", (preview,)).fetchone()
    return None if row[0] is None else int(row[0])


def used_lately(conn: sqlite3.Connection, preview: int, what: str, agent: str, since: int) -> bool:
    """Whether a link was used in the same way since an instant."""
    row = conn.execute(
        "SELECT 1 FROM (SELECT at, what, agent FROM preview_use WHERE preview = ? ORDER BY id DESC LIMIT 50) "
        "WHERE what = ? AND agent = ? AND at > ? LIMIT 1",
        (preview, what, agent, since),
    ).fetchone()
    return row is not None
