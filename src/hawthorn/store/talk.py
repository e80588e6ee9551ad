"""Remarks, replies, mentions and assignments."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable


def add_remark(
    conn: sqlite3.Connection,
    uuid: str,
    entry: int,
    locale: str,
    field: str,
    passage: tuple[str, int, int, str] | None,
    revision: int | None,
    actor: int,
    kind: str,
    at: int,
    text: str,
) -> int:
    """Record a remark; `passage` is its leaf, first and past characters, and words."""
    block, first, past, quote = passage or ("", None, None, "")
    cursor = conn.execute(
        "INSERT INTO remark (uuid, entry, locale, field, block, first, past, quote, revision, actor, actor_kind, at, text) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (uuid, entry, locale, field, block, first, past, quote, revision, actor, kind, at, text),
    )
    return int(cursor.lastrowid or 0)


_REMARK = (
    "SELECT m.*, a.name, a.handle, b.name AS resolved_name FROM remark m JOIN actor a ON a.id = m.actor "
    "LEFT JOIN actor b ON b.id = m.resolved_by "
)


def remarks(conn: sqlite3.Connection, entry: int, locale: str) -> list[sqlite3.Row]:
    """The remarks on an edition and on the fields that all locales share, in their order."""
    return conn.execute(
        _REMARK + "WHERE m.entry = ? AND m.locale IN (?, '*') ORDER BY m.id LIMIT 500", (entry, locale)
    ).fetchall()


def remark(conn: sqlite3.Connection, uuid: str) -> sqlite3.Row | None:
    """One remark."""
    row: sqlite3.Row | None = conn.execute(_REMARK + "WHERE m.uuid = ?", (uuid,)).fetchone()
    return row


def open_remarks(conn: sqlite3.Connection, entry: int) -> int:
    """How many remarks on an entry are open."""
    count: int = conn.execute(
        "SELECT count(*) FROM remark WHERE entry = ? AND resolved_at IS NULL", (entry,)
    ).fetchone()[0]
    return count


def add_reply(
    conn: sqlite3.Connection, uuid: str, remark: int, actor: int, kind: str, at: int, text: str
) -> None:
    """Record a reply."""
    conn.execute(
        "INSERT INTO reply (uuid, remark, actor, actor_kind, at, text) VALUES (?, ?, ?, ?, ?, ?)",
        (uuid, remark, actor, kind, at, text),
    )


def replies(conn: sqlite3.Connection, remarks: Iterable[int]) -> dict[int, list[sqlite3.Row]]:
    """The replies to remarks, in their order."""
    out: dict[int, list[sqlite3.Row]] = {}
    for row in conn.execute(
        "SELECT r.*, a.name, a.handle FROM json_each(?) j JOIN reply r ON r.remark = j.value "
        "JOIN actor a ON a.id = r.actor ORDER BY r.id",
        (json.dumps(list(remarks)),),
    ).fetchall():
        out.setdefault(row["remark"], []).append(row)
    return out


def resolve(conn: sqlite3.Connection, remark: int, actor: int | None, at: int | None) -> None:
    """Resolve a remark, or open it again."""
    conn.execute("UPDATE remark SET resolved_at = ?, resolved_by = ? WHERE id = ?", (at, actor, remark))


def mention(conn: sqlite3.Connection, remark: int, actors: Iterable[int], at: int) -> None:
    """Record whom a remark or a reply to it names."""
    conn.executemany(
        "INSERT INTO mention VALUES (?, ?, ?) ON CONFLICT (remark, actor) DO UPDATE SET at = excluded.at",
        [(remark, actor, at) for actor in actors],
    )


def talkers(conn: sqlite3.Connection, remark: int) -> set[int]:
    """Who made a remark, replied to it or is named in it."""
    return {
        row[0]
        for row in conn.execute(
            "SELECT actor FROM remark WHERE id = ?1 UNION SELECT actor FROM reply WHERE remark = ?1 "
            "UNION SELECT actor FROM mention WHERE remark = ?1",
            (remark,),
        ).fetchall()
    }


def mentioning(conn: sqlite3.Connection, actor: int) -> list[sqlite3.Row]:
    """Open remarks that name somebody who has not answered since, the newest first."""
    return conn.execute(
        "SELECT m.*, a.name, n.at AS named_at, e.uuid AS entry_uuid, e.type, e.source_locale, e.section, e.actor AS owner "
        "FROM mention n JOIN remark m ON m.id = n.remark AND m.resolved_at IS NULL JOIN actor a ON a.id = m.actor "
        "JOIN entry e ON e.id = m.entry AND e.removed_at IS NULL WHERE n.actor = ?1 AND NOT EXISTS (SELECT 1 FROM reply r "
        "WHERE r.remark = m.id AND r.actor = ?1 AND r.at >= n.at) ORDER BY n.at DESC LIMIT 100",
        (actor,),
    ).fetchall()


_ASSIGNED = (
    "SELECT s.*, h.name AS holder_name, h.handle AS holder_handle, h.zone AS holder_zone, a.name AS by_name, "
    "a.handle AS by_handle, e.uuid AS entry_uuid, e.type, e.source_locale, e.section, e.actor AS owner "
    "FROM assignment s JOIN actor h ON h.id = s.holder JOIN actor a ON a.id = s.actor JOIN entry e ON e.id = s.entry "
)


def assignment(conn: sqlite3.Connection, entry: int, locale: str) -> sqlite3.Row | None:
    """Who has an edition in hand."""
    row: sqlite3.Row | None = conn.execute(
        _ASSIGNED + "WHERE s.entry = ? AND s.locale = ? AND s.ended_at IS NULL", (entry, locale)
    ).fetchone()
    return row


def assign(
    conn: sqlite3.Connection,
    uuid: str,
    entry: int,
    locale: str,
    holder: int,
    actor: int,
    at: int,
    due: str,
    note: str,
) -> None:
    """Record that an edition is in somebody's hands."""
    conn.execute(
        "INSERT INTO assignment (uuid, entry, locale, holder, actor, at, due, note) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (uuid, entry, locale, holder, actor, at, due, note),
    )


def end_assignment(conn: sqlite3.Connection, id: int, actor: int, at: int, outcome: str) -> None:
    """Record that it is not any more, and why."""
    conn.execute(
        "UPDATE assignment SET ended_at = ?, ended_by = ?, outcome = ? WHERE id = ? AND ended_at IS NULL",
        (at, actor, outcome, id),
    )


def assigned_to(conn: sqlite3.Connection, holder: int) -> list[sqlite3.Row]:
    """What is in somebody's hands, what is due first at the top."""
    return conn.execute(
        _ASSIGNED + "WHERE s.holder = ? AND s.ended_at IS NULL AND e.removed_at IS NULL "
        "ORDER BY s.due = '', s.due, s.id LIMIT 200",
        (holder,),
    ).fetchall()


def given_by(conn: sqlite3.Connection, actor: int) -> list[sqlite3.Row]:
    """What somebody gave into the hands of others."""
    return conn.execute(
        _ASSIGNED + "WHERE s.actor = ?1 AND s.holder <> ?1 AND s.ended_at IS NULL AND e.removed_at IS NULL "
        "ORDER BY s.due = '', s.due, s.id LIMIT 100",
        (actor,),
    ).fetchall()


def due_by(conn: sqlite3.Connection, day: str) -> list[sqlite3.Row]:
    """Open assignments that are due by a day and whose holder was not told all there is to tell."""
    return conn.execute(
        _ASSIGNED + "WHERE s.ended_at IS NULL AND s.due <> '' AND s.due <= ? AND s.told <> 'late' "
        "AND e.removed_at IS NULL ORDER BY s.id LIMIT 200",
        (day,),
    ).fetchall()


def told(conn: sqlite3.Connection, id: int, what: str) -> None:
    """Note what a holder was reminded of."""
    conn.execute("UPDATE assignment SET told = ? WHERE id = ?", (what, id))
