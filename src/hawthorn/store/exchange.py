"""Packages on their way out and in: how far each is, what it found, and what it brought."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence

from hawthorn.core.quick import dataclass
from hawthorn.store import bodies, connection, search, shaped, wake


@dataclass(frozen=True, slots=True)
class Exchange:
    """A package on its way. `asked` and `report` are JSON."""

    id: int
    uuid: str
    way: str
    name: str
    state: str
    asked: str
    step: str
    done: int
    total: int
    report: str
    trouble: str
    bytes: int
    actor: int
    at: int
    changed_at: int
    ended_at: int | None
    by_name: str
    handle: str
    format: str = "package"


AT_WORK = ("looking", "running", "undoing")
"""The states in which there is something to do."""
_FOUND = "SELECT x.*, a.name AS by_name, a.handle FROM exchange x JOIN actor a ON a.id = x.actor "


def add(
    conn: sqlite3.Connection,
    uuid: str,
    way: str,
    name: str,
    state: str,
    asked: str,
    size: int,
    actor: int,
    at: int,
    format: str = "package",
) -> int:
    """Begin one."""
    wake.tell(conn, "exchange")
    return int(
        conn.execute(
            "INSERT INTO exchange (uuid, way, name, state, asked, bytes, actor, at, changed_at, format) "
            "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?8, ?)",
            (uuid, way, name, state, asked, size, actor, at, format),
        ).lastrowid
        or 0
    )


def by_uuid(conn: sqlite3.Connection, uuid: str) -> Exchange | None:
    """One of them."""
    return shaped.one(Exchange, conn.execute(_FOUND + "WHERE x.uuid = ?", (uuid,)))


def listing(conn: sqlite3.Connection, before: int, limit: int, actor: int | None = None) -> list[Exchange]:
    """Those there were, or the rows alone that somebody gave, the newest first."""
    asked = (
        _FOUND
        + "WHERE x.id < ? AND (?2 IS NULL OR (x.actor = ?2 AND x.format <> 'package')) ORDER BY x.id DESC LIMIT ?3"
    )
    return shaped.every(Exchange, conn.execute(asked, (before, actor, limit)))


def waiting_of(conn: sqlite3.Connection, actor: int) -> int:
    """How many files of rows somebody gave that are not brought yet."""
    asked = "SELECT count(*) FROM exchange WHERE actor = ? AND format <> 'package' AND state IN ('looking', 'looked', 'running')"
    return int(conn.execute(asked, (actor,)).fetchone()[0])


def next_at_work(conn: sqlite3.Connection) -> Exchange | None:
    """The oldest of which something is to be done."""
    return shaped.one(
        Exchange,
        conn.execute(_FOUND + "WHERE x.state IN ('looking', 'running', 'undoing') ORDER BY x.id LIMIT 1"),
    )


def went_on(conn: sqlite3.Connection, id: int, step: str, done: int, total: int, at: int) -> None:
    """Note how far one is."""
    conn.execute(
        "UPDATE exchange SET step = ?, done = ?, total = ?, changed_at = ? WHERE id = ?",
        (step, done, total, at, id),
    )


def set_state(
    conn: sqlite3.Connection, id: int, state: str, at: int, *, trouble: str = "", size: int | None = None
) -> None:
    """Let one be in another state, at its first step."""
    wake.tell(conn, "exchange")
    ended = None if state in (*AT_WORK, "looked") else at
    conn.execute(
        "UPDATE exchange SET state = ?, step = '', done = 0, trouble = ?, changed_at = ?, ended_at = ?, bytes = coalesce(?, bytes) "
        "WHERE id = ?",
        (state, trouble, at, ended, size, id),
    )


def set_actor(conn: sqlite3.Connection, id: int, actor: int) -> None:
    """Let somebody be the one who wants what is done with it."""
    conn.execute("UPDATE exchange SET actor = ? WHERE id = ?", (actor, id))


def set_asked(conn: sqlite3.Connection, id: int, asked: str) -> None:
    """Keep what is wanted of one."""
    conn.execute("UPDATE exchange SET asked = ? WHERE id = ?", (asked, id))


def set_report(conn: sqlite3.Connection, id: int, report: str) -> None:
    """Keep what was found."""
    conn.execute("UPDATE exchange SET report = ? WHERE id = ?", (report, id))


def drop(conn: sqlite3.Connection, id: int) -> None:
    """Forget one."""
    conn.execute("DELETE FROM exchange WHERE id = ?", (id,))


def old_ones(conn: sqlite3.Connection, way: str, before: int) -> list[str]:
    """Those that ended before an instant and are of one way."""
    rows = conn.execute(
        "SELECT uuid FROM exchange WHERE way = ? AND ended_at IS NOT NULL AND ended_at < ?", (way, before)
    ).fetchall()
    return [row[0] for row in rows]


def names(conn: sqlite3.Connection) -> set[str]:
    """All there are, by UUID."""
    return {row[0] for row in conn.execute("SELECT uuid FROM exchange")}


def brought(conn: sqlite3.Connection, id: int, rows: Iterable[tuple[int, str, str, str]]) -> None:
    """Note what one brought: entry, how, what is to be known of it, and what was done to it (JSON)."""
    conn.executemany(
        "INSERT INTO exchange_entry (exchange, entry, how, note, did) VALUES (?, ?, ?, ?, ?)",
        [(id, *row) for row in rows],
    )


def wrote(conn: sqlite3.Connection, id: int, entry: int, how: str, note: str, did: str) -> None:
    """Note what one did to an entry, which it may have done something to before."""
    conn.execute(
        "INSERT INTO exchange_entry (exchange, entry, how, note, did, settled) VALUES (?, ?, ?, ?, ?, 1) "
        "ON CONFLICT (exchange, entry) DO UPDATE SET how = iif(how = 'added', how, excluded.how), "
        "note = coalesce(nullif(excluded.note, ''), note), did = excluded.did",
        (id, entry, how, note, did),
    )


def done_to(conn: sqlite3.Connection, id: int, entry: int) -> str:
    """What one did to an entry already, as JSON; empty for nothing."""
    found = conn.execute(
        "SELECT did FROM exchange_entry WHERE exchange = ? AND entry = ?", (id, entry)
    ).fetchone()
    return found[0] if found else ""


def has(conn: sqlite3.Connection, id: int, entry: int) -> bool:
    """Whether one brought an entry."""
    asked = "SELECT 1 FROM exchange_entry WHERE exchange = ? AND entry = ?"
    return conn.execute(asked, (id, entry)).fetchone() is not None


def added(conn: sqlite3.Connection, id: int) -> list[int]:
    """The entries that one added."""
    rows = conn.execute(
        "SELECT entry FROM exchange_entry WHERE exchange = ? AND how = 'added' ORDER BY entry", (id,)
    ).fetchall()
    return [row[0] for row in rows]


def unsettled(conn: sqlite3.Connection, id: int, most: int) -> list[int]:
    """Entries that one added and from which nothing was derived yet."""
    rows = conn.execute(
        "SELECT entry FROM exchange_entry INDEXED BY exchange_entry_unsettled WHERE exchange = ? AND how = 'added' AND settled = 0 ORDER BY entry LIMIT ?",
        (id, most),
    ).fetchall()
    return [row[0] for row in rows]


def settled(conn: sqlite3.Connection, id: int, entries: Sequence[int]) -> None:
    """Note that what is derived from entries is there."""
    conn.execute(
        "UPDATE exchange_entry SET settled = 1 WHERE exchange = ? AND entry IN (SELECT value FROM json_each(?))",
        (id, json.dumps(list(entries))),
    )


def note(conn: sqlite3.Connection, id: int, entry: int, words: str) -> None:
    """Say what is to be known of an entry that one brought."""
    conn.execute("UPDATE exchange_entry SET note = ? WHERE exchange = ? AND entry = ?", (words, id, entry))


def counts(conn: sqlite3.Connection, id: int) -> dict[str, int]:
    """How many entries one added, merged, and brought beside what is there."""
    rows = conn.execute(
        "SELECT how, count(*) FROM exchange_entry WHERE exchange = ? GROUP BY how", (id,)
    ).fetchall()
    return {row[0]: row[1] for row in rows}


@dataclass(frozen=True, slots=True)
class Brought:
    """An entry that was brought, how, and what is to be known of it."""

    entry: int
    uuid: str
    how: str
    note: str
    did: str


def to_undo(conn: sqlite3.Connection, id: int, most: int) -> list[Brought]:
    """Some of what one brought, the youngest entries first."""
    return shaped.every(
        Brought,
        conn.execute(
            "SELECT x.entry, e.uuid, x.how, x.note, x.did FROM exchange_entry x JOIN entry e ON e.id = x.entry WHERE x.exchange = ? "
            "ORDER BY x.entry DESC LIMIT ?",
            (id, most),
        ),
    )


def noted(conn: sqlite3.Connection, id: int, most: int) -> list[Brought]:
    """The entries of which something is to be known, and those that are beside what is there."""
    return shaped.every(
        Brought,
        conn.execute(
            "SELECT x.entry, e.uuid, x.how, x.note, x.did FROM exchange_entry x JOIN entry e ON e.id = x.entry WHERE x.exchange = ? "
            "AND (x.note <> '' OR x.how = 'beside') ORDER BY x.entry LIMIT ?",
            (id, most),
        ),
    )


@dataclass(frozen=True, slots=True)
class BroughtDispatch:
    """A dispatch that came, or did not (no number): by its place in the package, with what is to be known of it."""

    ord: int
    name: str
    dispatch: int | None
    at: int
    note: str


def brought_dispatch(
    conn: sqlite3.Connection, id: int, place: int, name: str, dispatch: int | None, at: int, note: str
) -> None:
    """Note what came of a dispatch of a package."""
    conn.execute(
        "INSERT INTO exchange_dispatch (exchange, ord, name, dispatch, at, note) VALUES (?, ?, ?, ?, ?, ?)",
        (id, place, name, dispatch, at, note),
    )


def dispatches(conn: sqlite3.Connection, id: int) -> list[BroughtDispatch]:
    """What came of the dispatches of a package, those that came and those that did not."""
    return shaped.every(
        BroughtDispatch,
        conn.execute(
            "SELECT ord, name, dispatch, at, note FROM exchange_dispatch WHERE exchange = ? ORDER BY ord",
            (id,),
        ),
    )


def was_added(conn: sqlite3.Connection, id: int, entry: int) -> bool:
    """Whether an entry was not there before one brought it."""
    asked = "SELECT 1 FROM exchange_entry WHERE exchange = ? AND entry = ? AND how = 'added'"
    return conn.execute(asked, (id, entry)).fetchone() is not None


def forget(conn: sqlite3.Connection, id: int, entries: Iterable[int]) -> None:
    """Let entries count no more as brought."""
    conn.executemany(
        "DELETE FROM exchange_entry WHERE exchange = ? AND entry = ?", [(id, entry) for entry in entries]
    )


def touched_since(conn: sqlite3.Connection, id: int, entries: Sequence[int]) -> set[int]:
    """Those of some entries that one brought about which anything but their import, what somebody was reminded of, and what came of the dispatches that came
    with them and were called off, is in the log, after what it did itself (`upto`)."""
    rows = conn.execute(
        "SELECT DISTINCT b.entry FROM json_each(?) j CROSS JOIN exchange_entry x ON x.exchange = ? AND x.entry = j.value "
        "JOIN event_about b ON b.entry = j.value JOIN event e ON e.seq = b.seq "
        "WHERE e.kind NOT LIKE 'import.%' AND e.kind NOT IN ('assignment.due', 'assignment.late') AND e.seq > coalesce(x.did ->> '$.upto', 0) "
        "AND NOT EXISTS (SELECT 1 FROM exchange_dispatch g JOIN dispatch c ON c.id = g.dispatch AND c.state = 'cancelled' "
        "JOIN dispatch_event v ON v.dispatch = g.dispatch AND v.seq = e.seq WHERE g.exchange = x.exchange)",
        (json.dumps(list(entries)), id),
    ).fetchall()
    return {row[0] for row in rows}


_OF_REVISIONS = ("revision_parent", "revision_pick", "file_use", "sign_off", "override")
_OF_EDITIONS = (
    "standing", "submission", "summary", "reference", "tag_use", "filter_value", "search_said", "planned_field",
)  # fmt: skip
_OF_ENTRIES = (
    "address", "listed", "placed", "coverage", "coverage_detail", "entry_audience", "entry_phrase", "filed", "event_about",
  "row_key", "row_base", "assignment",
)  # fmt: skip


def erase(conn: sqlite3.Connection, entry: int) -> bool:
    """Take an entry out of the records with all that belongs to it; False, and nothing is done, where anything else needs it."""
    connection.mark(conn)
    try:
        _erase(conn, entry)
    except sqlite3.IntegrityError:
        connection.settle(conn, kept=False)
        return False
    connection.settle(conn, kept=True)
    return True


def _erase(conn: sqlite3.Connection, entry: int) -> None:
    editions = "(SELECT id FROM edition WHERE entry = ?)"
    revisions = f"(SELECT id FROM revision WHERE edition IN {editions})"
    conn.execute("DELETE FROM reply WHERE comment IN (SELECT id FROM comment WHERE entry = ?)", (entry,))
    conn.execute("DELETE FROM mention WHERE comment IN (SELECT id FROM comment WHERE entry = ?)", (entry,))
    conn.execute("DELETE FROM comment WHERE entry = ?", (entry,))
    for table in _OF_REVISIONS:
        conn.execute(f"DELETE FROM {table} WHERE revision IN {revisions}", (entry,))
    for table in _OF_EDITIONS:
        conn.execute(f"DELETE FROM {table} WHERE edition IN {editions}", (entry,))
    for table in _OF_ENTRIES:
        conn.execute(f"DELETE FROM {table} WHERE entry = ?", (entry,))
    bodies.forget_entry(conn, entry)
    indexed = conn.execute("SELECT id FROM edition WHERE entry = ?", (entry,)).fetchall()
    search.drop(conn, [row[0] for row in indexed])
    conn.execute("DELETE FROM section_within WHERE ancestor = ?1 OR section = ?1", (entry,))
    conn.execute("UPDATE entry SET section = NULL WHERE section = ?", (entry,))
    conn.execute(f"UPDATE strand SET head = NULL, forked_from = NULL WHERE edition IN {editions}", (entry,))
    conn.execute(f"UPDATE revision SET strand = NULL WHERE edition IN {editions}", (entry,))
    conn.execute(f"DELETE FROM strand WHERE edition IN {editions}", (entry,))
    conn.execute(f"DELETE FROM revision WHERE edition IN {editions}", (entry,))
    conn.execute("DELETE FROM edition WHERE entry = ?", (entry,))
    conn.execute("DELETE FROM exchange_entry WHERE entry = ?", (entry,))
    conn.execute("DELETE FROM entry WHERE id = ?", (entry,))
