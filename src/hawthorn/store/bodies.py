"""Rendered bodies of what is out: one SELECT answers a read, and says whether the body is still fresh."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence

from hawthorn.core import groups
from hawthorn.core.quick import dataclass
from hawthorn.store import definitions, events

FRESH = """
SELECT b.etag, b.bytes, b.since, b.groups FROM entry e JOIN body b ON b.entry = e.id AND b.wanted_locale = ? AND b.stage = 2 AND b.until IS NULL
WHERE e.uuid = ? AND b.ends > ? AND NOT EXISTS (
  SELECT 1 FROM dep d JOIN change c ON c.target = d.target AND c.stage = 2 AND c.facet = d.facet AND c.seq > b.seq
  WHERE d.body = b.id)
"""


@dataclass(frozen=True, slots=True)
class Kept:
    """A body that is kept: its ETag, when it was made, and the names of the groups with which caches let go of it, with spaces between them."""

    etag: str
    data: bytes
    since: int
    groups: str


def fresh(conn: sqlite3.Connection, uuid: str, locale: str, now: int) -> Kept | None:
    """A released entry's body, if one is kept, still holds, and nothing it depends on has changed."""
    row = conn.execute(FRESH, (locale, uuid, now)).fetchone()
    return Kept(row[0], row[1], row[2], row[3]) if row else None


_FRESH_ONES = """
SELECT e.uuid, e.type, b.bytes, b.ends, b.groups FROM json_each(?1) j CROSS JOIN entry e ON e.uuid = j.value JOIN body b ON b.entry = e.id AND b.wanted_locale = ?2 AND b.stage = 2
AND b.until IS NULL AND b.ends > ?3 WHERE NOT EXISTS (
  SELECT 1 FROM dep d JOIN change c ON c.target = d.target AND c.stage = 2 AND c.facet = d.facet AND c.seq > b.seq WHERE d.body = b.id)
"""


def fresh_ones(
    conn: sqlite3.Connection, uuids: Sequence[str], locale: str, now: int
) -> dict[str, tuple[str, bytes, int, str]]:
    """The type and the bytes of those of some released entries that are kept and still hold, until when they do, and their groups, by UUID."""
    rows = conn.execute(_FRESH_ONES, (json.dumps(list(uuids)), locale, now))
    return {row[0]: (row[1], row[2], row[3], row[4]) for row in rows}


def keep(
    conn: sqlite3.Connection,
    entry: int,
    locale: str,
    seq: int,
    since: int,
    etag: str,
    data: bytes,
    deps: Iterable[tuple[int, str]],
    ends: int,
) -> None:
    """Keep a rendered body in place of the one before it; it holds until `ends`. One that was made before bodies were let go (`seq`, the last event
    that was seen) is left out, as it may show what is not for everybody any more."""
    if seq < int(definitions.setting(conn, _FROM) or 0):
        return
    old = conn.execute(
        "SELECT id, seq FROM body WHERE entry = ? AND wanted_locale = ? AND stage = 2 AND until IS NULL",
        (entry, locale),
    ).fetchone()
    if old and old["seq"] > seq:
        return
    if old:
        conn.execute("DELETE FROM dep WHERE body = ?", (old["id"],))
        conn.execute("DELETE FROM body WHERE id = ?", (old["id"],))
    deps = list(deps)
    made = conn.execute(
        "INSERT INTO body (entry, wanted_locale, stage, since, seq, etag, bytes, ends, groups) VALUES (?, ?, 2, ?, ?, ?, ?, ?, ?)",
        (entry, locale, since, seq, etag, data, ends, " ".join(groups_of(conn, entry, deps))),
    ).lastrowid
    conn.executemany("INSERT OR IGNORE INTO dep VALUES (?, ?, ?)", [(made, t, f) for t, f in deps])


def groups_of(conn: sqlite3.Connection, entry: int, deps: Iterable[tuple[int, str]]) -> list[str]:
    """The groups of a body (`core.groups`): its entry (0 for none) and those that it depends on, and the lists that it holds."""
    some = list(deps)
    ids = list(dict.fromkeys([entry, *sorted(target for target, _ in some if target)]))
    rows = conn.execute(
        "SELECT e.uuid FROM json_each(?) j CROSS JOIN entry e ON e.id = j.value ORDER BY j.key",
        (json.dumps(ids),),
    ).fetchall()
    lists = sorted(facet[5:] for target, facet in some if not target and facet.startswith("list:"))
    return [groups.entry(row[0]) for row in rows] + [groups.lists(one) for one in lists]


def types_behind(conn: sqlite3.Connection, uuids: Sequence[str], locale: str) -> list[str]:
    """The types of all that the kept bodies of some entries depend on."""
    rows = conn.execute(
        "SELECT DISTINCT t.type FROM json_each(?) j CROSS JOIN entry e ON e.uuid = j.value JOIN body b ON b.entry = e.id AND b.wanted_locale = ? "
        "AND b.stage = 2 AND b.until IS NULL JOIN dep d ON d.body = b.id JOIN entry t ON t.id = d.target",
        (json.dumps(list(uuids)), locale),
    )
    return sorted(row[0] for row in rows)


_FROM = "bodies_from"
"""The event from which on bodies may be kept; what was made before it is on its way, and comes too late."""


def _let_go(conn: sqlite3.Connection) -> None:
    definitions.set_setting(conn, _FROM, str(events.last(conn)[0] + 1))


def clear(conn: sqlite3.Connection) -> None:
    """Let all bodies go; they are made anew when they are asked for."""
    _let_go(conn)
    conn.execute("DELETE FROM dep")
    conn.execute("DELETE FROM body")


_KEPT_OF = "FROM body WHERE entry = ? AND until IS NULL"


def forget_needs_of_type(conn: sqlite3.Connection, type: str) -> None:
    """Forget what the kept bodies of a type depend on."""
    conn.execute(
        "DELETE FROM dep WHERE body IN (SELECT b.id FROM body b JOIN entry e ON e.id = b.entry WHERE e.type = ?)",
        (type,),
    )


def forget_entry(conn: sqlite3.Connection, entry: int) -> None:
    """Forget the kept bodies of an entry."""
    conn.execute(f"DELETE FROM dep WHERE body IN (SELECT id {_KEPT_OF})", (entry,))
    conn.execute(f"DELETE {_KEPT_OF}", (entry,))


def forget_type(conn: sqlite3.Connection, type: str) -> None:
    """Forget the kept bodies of a type."""
    _let_go(conn)
    conn.execute("DELETE FROM body WHERE entry IN (SELECT id FROM entry WHERE type = ?)", (type,))


def changed_with(conn: sqlite3.Connection, seq: int, most: int) -> list[tuple[int, str]]:
    """What changed of what is out with an event: the lists (0) of some types, and entries, each with its facet; at most so many."""
    rows = conn.execute(
        "SELECT target, facet FROM change WHERE seq = ? AND stage = 2 AND (target = 0 OR facet IN ('out', 'address')) "
        "ORDER BY target LIMIT ?",
        (seq, most),
    ).fetchall()
    return [(row[0], row[1]) for row in rows]


def depending_by(conn: sqlite3.Connection, entries: Iterable[int], most: int) -> list[tuple[int, int, str]]:
    """The kept bodies that depend on any of some entries: that entry, and the body's own with its locale."""
    rows = conn.execute(
        "SELECT DISTINCT j.value, b.entry, b.wanted_locale FROM json_each(?) j CROSS JOIN dep d ON d.target = j.value "
        "AND d.facet IN ('out', 'address') JOIN body b ON b.id = d.body AND b.entry <> j.value LIMIT ?",
        (json.dumps(sorted(entries)), most),
    ).fetchall()
    return [(row[0], row[1], row[2]) for row in rows]


def depending_on(
    conn: sqlite3.Connection, changed: Iterable[tuple[int, str]], most: int
) -> list[tuple[int, str]]:
    """The kept bodies, by entry and locale, that depend on any of some things."""
    rows = conn.execute(
        "SELECT DISTINCT b.entry, b.wanted_locale FROM json_each(?) j CROSS JOIN dep d ON d.target = j.value ->> 0 "
        "AND d.facet = j.value ->> 1 JOIN body b ON b.id = d.body LIMIT ?",
        (json.dumps(list(changed)), most),
    ).fetchall()
    return [(row[0], row[1]) for row in rows]
