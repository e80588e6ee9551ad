"""What packages bring, written row by row."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Sequence
from dataclasses import astuple
from typing import Any

from hawthorn.core.quick import dataclass


def add_entries(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add entries: id, UUID, type, source locale, created, actor, archived, limited."""
    conn.executemany(
        "INSERT INTO entry (id, uuid, type, source_locale, created_at, actor, archived_at, limited) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        rows,
    )


def add_editions(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add editions: id, entry, locale."""
    conn.executemany("INSERT INTO edition (id, entry, locale) VALUES (?, ?, ?)", rows)


def add_strands(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add strands without their revisions, which name them: id, edition, name, closed, actor, created, note, ended."""
    conn.executemany(
        "INSERT INTO strand (id, edition, name, closed_at, actor, created_at, note, ended) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        rows,
    )


def set_heads(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Say which revisions strands end in and were forked from: head, forked from, id."""
    conn.executemany("UPDATE strand SET head = ?, forked_from = ? WHERE id = ?", rows)


def add_revisions(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add revisions: all columns, in their order."""
    conn.executemany(
        "INSERT INTO revision (id, edition, number, content_hash, type_version, fields, paragraph_ids, unit_map, strand, actor, "
        "actor_kind, at, note, origin) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        rows,
    )


def add_parents(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add parents of revisions: revision, which, parent."""
    conn.executemany("INSERT INTO revision_parent VALUES (?, ?, ?)", rows)


def add_picks(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add what was picked: revision, picked from, path."""
    conn.executemany("INSERT INTO revision_pick VALUES (?, ?, ?)", rows)


def add_file_uses(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add which files revisions hold: SHA-256, revision, focus."""
    conn.executemany("INSERT OR IGNORE INTO file_use VALUES (?, ?, ?)", rows)


def add_standings(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add standings: edition, stage, revision, since, until, committed."""
    conn.executemany(
        "INSERT INTO standing (edition, stage, revision, since, until, committed_at) VALUES (?, ?, ?, ?, ?, ?)",
        rows,
    )


def add_sign_offs(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add sign-offs: all columns but the id."""
    conn.executemany(
        "INSERT INTO sign_off (revision, content_hash, stage, workflow, workflow_version, actor, roles, at, seen, note) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        rows,
    )


def add_submissions(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add submissions: all columns but the id."""
    conn.executemany(
        "INSERT INTO submission (edition, stage, revision, actor, at, note, outcome, decided_by, decided_at, reason) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        rows,
    )


def add_overrides(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add overrides: all columns but the id."""
    conn.executemany(
        "INSERT INTO override (revision, content_hash, stage, actor, at, reason, conditions) VALUES (?, ?, ?, ?, ?, ?, ?)",
        rows,
    )


@dataclass(frozen=True, slots=True)
class On:
    """What a comment is on: an entry with the place in it, or a dispatch as a whole."""

    entry: int | None = None
    dispatch: int | None = None
    locale: str = ""
    field: str = ""
    block: str = ""
    first: int | None = None
    past: int | None = None
    quote: str = ""
    revision: int | None = None


def add_comment(conn: sqlite3.Connection, row: Sequence[Any], on: On) -> int:
    """Add a comment (UUID, actor, their kind, instant, text, when and by whom it was resolved) on something; returns its number."""
    return int(
        conn.execute(
            "INSERT INTO comment (uuid, actor, actor_kind, at, text, resolved_at, resolved_by, entry, dispatch, locale, field, block, first, past, quote, "
            "revision) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (*row, *astuple(on)),
        ).lastrowid
        or 0
    )


def add_assignments(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add assignments that have not ended (UUID, entry, locale, holder, actor, instant, day, note, of what they were reminded), but those that are here."""
    conn.executemany(
        "INSERT INTO assignment (uuid, entry, locale, holder, actor, at, due, note, told) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (uuid) DO NOTHING",
        rows,
    )


def add_replies(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add replies: all columns but the id."""
    conn.executemany(
        "INSERT INTO reply (uuid, comment, actor, actor_kind, at, text) VALUES (?, ?, ?, ?, ?, ?)", rows
    )


def add_audiences(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add audiences: entry, audience."""
    conn.executemany("INSERT INTO entry_audience VALUES (?, ?)", rows)


def add_filed(conn: sqlite3.Connection, rows: Iterable[Sequence[Any]]) -> None:
    """Add where entries lie: entry, folder."""
    conn.executemany("INSERT INTO filed VALUES (?, ?)", rows)


_COUNTED = ("entry", "edition", "strand", "revision")


def next_ids(conn: sqlite3.Connection) -> dict[str, int]:
    """The next free number of entries, editions, strands and revisions."""
    return {
        table: conn.execute(f"SELECT coalesce(max(id), 0) + 1 FROM {table}").fetchone()[0]
        for table in _COUNTED
    }


@dataclass(frozen=True, slots=True)
class There:
    """An entry of a package that is here, or was."""

    id: int
    uuid: str
    type: str
    removed: bool
    archived: bool


def there(conn: sqlite3.Connection, uuids: Collection[str]) -> dict[str, There]:
    """Which of some entries are here, also removed ones."""
    rows = conn.execute(
        "SELECT e.id, e.uuid, e.type, e.removed_at IS NOT NULL, e.archived_at IS NOT NULL FROM json_each(?) j CROSS JOIN entry e ON e.uuid = j.value",
        (json.dumps(list(uuids)),),
    ).fetchall()
    return {row[1]: There(row[0], row[1], row[2], bool(row[3]), bool(row[4])) for row in rows}


def comments_there(conn: sqlite3.Connection, uuids: Collection[str]) -> set[str]:
    """Which of some comments and replies are here."""
    rows = conn.execute(
        "SELECT m.uuid FROM json_each(?1) j CROSS JOIN comment m ON m.uuid = j.value UNION "
        "SELECT p.uuid FROM json_each(?1) j CROSS JOIN reply p ON p.uuid = j.value",
        (json.dumps(list(uuids)),),
    ).fetchall()
    return {row[0] for row in rows}


def seen_by_name(conn: sqlite3.Connection, editions: Sequence[int]) -> None:
    """Let sign-offs that name what was shown with them as packages do name it by number, as far as it is here."""
    conn.execute(
        "UPDATE sign_off SET seen = (SELECT json_group_object(d.id, r.id) FROM json_each(sign_off.seen) s "
        "JOIN entry e ON e.uuid = s.value ->> 'entry' JOIN edition d ON d.entry = e.id AND d.locale = s.value ->> 'locale' "
        "JOIN revision r ON r.edition = d.id AND r.number = s.value ->> 'revision') "
        "WHERE json_type(seen) = 'array' AND revision IN (SELECT r.id FROM json_each(?) j CROSS JOIN revision r ON r.edition = j.value)",
        (json.dumps(list(editions)),),
    )


def set_sections(conn: sqlite3.Connection, rows: Iterable[tuple[int | None, int]]) -> None:
    """Say in which sections entries lie: section, entry."""
    conn.executemany("UPDATE entry SET section = ? WHERE id = ?", rows)


def sections_within(conn: sqlite3.Connection, section: int, ancestors: Iterable[int]) -> None:
    """Say in which sections a section lies."""
    conn.execute("DELETE FROM section_within WHERE section = ?", (section,))
    conn.executemany("INSERT INTO section_within VALUES (?, ?)", [(one, section) for one in ancestors])
