"""Revisions: what they hold, what they came from, and how a history shows them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Iterable, Sequence

from hawthorn.core import compact, revision
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Revision:
    """A revision as it is kept, with its author."""

    id: int
    edition: int
    number: int
    content_hash: str
    type_version: int
    fields: str
    paragraph_ids: str
    unit_map: str
    strand: int | None
    actor: int
    actor_kind: str
    at: int
    note: str
    origin: str
    author: str
    handle: str


@dataclass(frozen=True, slots=True)
class HistoryLine:
    """A revision as a history shows it; `parents` are numbers of revisions as JSON."""

    id: int
    number: int
    at: int
    note: str
    origin: str
    actor_kind: str
    strand: int | None
    strand_name: str | None
    author: str
    handle: str
    parents: str


@dataclass(frozen=True, slots=True)
class At:
    """A revision and when it was made."""

    id: int
    at: int


def numbers(conn: sqlite3.Connection, revisions: Iterable[int]) -> dict[int, int]:
    """The numbers that people know revisions by."""
    rows = conn.execute(
        "SELECT r.id, r.number FROM json_each(?) j CROSS JOIN revision r ON r.id = j.value",
        (json.dumps(list(revisions)),),
    ).fetchall()
    return {row[0]: row[1] for row in rows}


def add_revision(
    conn: sqlite3.Connection,
    *,
    edition: int,
    strand: int | None,
    content: Content,
    parents: Sequence[int],
    content_hash: str,
    type_version: int,
    actor: int,
    actor_kind: str,
    at: int,
    note: str,
    origin: str,
) -> int:
    """Append a revision; it stands on no strand until the strand's head is moved to it."""
    cursor = conn.execute(
        "INSERT INTO revision (edition, number, content_hash, type_version, fields, paragraph_ids, unit_map, strand, "
        "actor, actor_kind, at, note, origin) VALUES "
        "(?1, (SELECT coalesce(max(number), 0) + 1 FROM revision WHERE edition = ?1), ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            edition,
            content_hash,
            type_version,
            compact.written(content.fields),
            revision.paragraph_ids_to_json(content.paragraph_ids),
            compact.names(content.unit_map),
            strand,
            actor,
            actor_kind,
            at,
            note,
            origin,
        ),
    )
    made = int(cursor.lastrowid or 0)
    if parents:
        conn.executemany(
            "INSERT INTO revision_parent VALUES (?, ?, ?)", [(made, n, p) for n, p in enumerate(parents)]
        )
    return made


def by_id(conn: sqlite3.Connection, id: int) -> Revision | None:
    """A revision with its author's name."""
    return shaped.one(
        Revision,
        conn.execute(
            "SELECT r.*, a.name AS author, a.handle FROM revision r JOIN actor a ON a.id = r.actor WHERE r.id = ?",
            (id,),
        ),
    )


def content(conn: sqlite3.Connection, id: int) -> Content:
    """What a revision holds."""
    row = conn.execute(
        "SELECT fields, paragraph_ids, unit_map, id FROM revision WHERE id = ?", (id,)
    ).fetchone()
    return _content(*row)


def contents(conn: sqlite3.Connection, ids: Iterable[int]) -> dict[int, Content]:
    """What some revisions hold."""
    rows = conn.execute(
        "SELECT r.id, r.fields, r.paragraph_ids, r.unit_map, r.id FROM json_each(?) j CROSS JOIN revision r "
        "ON r.id = j.value",
        (json.dumps(list(ids)),),
    ).fetchall()
    return {row[0]: _content(*row[1:]) for row in rows}


def _content(fields: str, paragraph_ids: str, unit_map: str, id: int) -> Content:
    return Content(
        compact.read(fields),
        revision.paragraph_ids_from_json(paragraph_ids),
        revision.unit_map_from_json(unit_map),
        id,
    )


def parents(conn: sqlite3.Connection, id: int) -> list[int]:
    """The parents of a revision in order."""
    rows = conn.execute(
        "SELECT parent FROM revision_parent WHERE revision = ? ORDER BY ord", (id,)
    ).fetchall()
    return [row[0] for row in rows]


def upwards(conn: sqlite3.Connection) -> Callable[[int], list[int]]:
    """The way from a revision to those that it came from, for whoever walks up."""
    return lambda one: parents(conn, one)


def number(conn: sqlite3.Connection, revision: int) -> int:
    """The number that people know a revision by."""
    found: int = conn.execute("SELECT number FROM revision WHERE id = ?", (revision,)).fetchone()[0]
    return found


def numbered(conn: sqlite3.Connection, edition: int, number: int) -> At | None:
    """The revision of an edition with a number: its id and when it was made."""
    return shaped.one(
        At, conn.execute("SELECT id, at FROM revision WHERE edition = ? AND number = ?", (edition, number))
    )


def history(conn: sqlite3.Connection, edition: int, before: int, limit: int) -> list[HistoryLine]:
    """Revisions of an edition with a lower number, newest first, each with its parents' numbers."""
    return shaped.every(
        HistoryLine,
        conn.execute(
            "SELECT r.id, r.number, r.at, r.note, r.origin, r.actor_kind, r.strand, t.name AS strand_name, a.name AS author, a.handle, "
            "(SELECT json_group_array(p.number) FROM revision_parent x JOIN revision p ON p.id = x.parent "
            " WHERE x.revision = r.id) AS parents "
            "FROM revision r JOIN actor a ON a.id = r.actor LEFT JOIN strand t ON t.id = r.strand "
            "WHERE r.edition = ? AND r.number < ? "
            "ORDER BY r.number DESC LIMIT ?",
            (edition, before, limit),
        ),
    )


def use_files(conn: sqlite3.Connection, revision: int, uses: Iterable[tuple[str, str]]) -> None:
    """Record which stored files a revision holds, each with its focus."""
    conn.executemany(
        "INSERT OR IGNORE INTO file_use (sha256, revision, focus) VALUES (?, ?, ?)",
        [(digest, revision, focus) for digest, focus in uses],
    )


@dataclass(frozen=True, slots=True)
class DraftThen:
    """The newest revision of a draft at an instant."""

    edition: int
    id: int
    number: int
    at: int
    author: str


def drafts_at(conn: sqlite3.Connection, editions: Iterable[int], instant: int) -> dict[int, DraftThen]:
    """The newest revisions of the drafts of some editions at an instant, by edition."""
    rows = shaped.every(
        DraftThen,
        conn.execute(
            "SELECT r.edition, r.id, r.number, r.at, a.name AS author FROM json_each(?1) j "
            "CROSS JOIN strand w ON w.edition = j.value AND w.name = 'draft' JOIN revision r ON r.id = (SELECT x.id FROM revision x "
            "WHERE x.edition = j.value AND x.strand = w.id AND x.at <= ?2 ORDER BY x.id DESC LIMIT 1) "
            "JOIN actor a ON a.id = r.actor",
            (json.dumps(list(editions)), instant),
        ),
    )
    return {row.edition: row for row in rows}


def as_of(conn: sqlite3.Connection, edition: int, at: int, strand: int) -> int | None:
    """The newest revision of a strand at an instant."""
    row = conn.execute(
        "SELECT id FROM revision WHERE edition = ? AND at <= ? AND strand = ? ORDER BY id DESC LIMIT 1",
        (edition, at, strand),
    ).fetchone()
    return None if row is None else int(row[0])


def written_by(conn: sqlite3.Connection, strand: int, since: int, but: int) -> list[str]:
    """The names of those who wrote on a strand after an instant, but for one of them and for translations that returned."""
    rows = conn.execute(
        "SELECT DISTINCT a.name FROM revision r JOIN actor a ON a.id = r.actor "
        "WHERE r.edition = (SELECT edition FROM strand WHERE id = ?1) AND r.strand = ?1 AND r.at > ?2 AND r.actor != ?3 "
        "AND r.origin != 'return' ORDER BY a.name",
        (strand, since, but),
    ).fetchall()
    return [row[0] for row in rows]


def newest(conn: sqlite3.Connection, edition: int, limit: int) -> list[int]:
    """The revisions of an edition, the newest first, on whichever strand."""
    rows = conn.execute(
        "SELECT id FROM revision WHERE edition = ? ORDER BY number DESC LIMIT ?", (edition, limit)
    ).fetchall()
    return [row[0] for row in rows]
