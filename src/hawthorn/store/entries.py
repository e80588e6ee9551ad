"""Entries, editions, revisions and strands."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Sequence
from typing import Any

from hawthorn.core.errors import StaleRevision
from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Entry:
    """An entry as it is kept."""

    id: int
    uuid: str
    type: str
    source_locale: str
    section: int | None
    created_at: int
    actor: int
    removed_at: int | None
    archived_at: int | None
    limited: str

    @property
    def entry(self) -> int:
        """Its number, as what belongs to it names it."""
        return self.id

    @property
    def owner(self) -> int:
        """Whoever began it."""
        return self.actor

    @property
    def put_away(self) -> bool:
        """Whether it was removed, or is in the archive."""
        return self.removed_at is not None or self.archived_at is not None


@dataclass(frozen=True, slots=True)
class Edition:
    """An entry in one locale, or its common edition, with the strand that is looked at and its head."""

    id: int
    entry: int
    locale: str
    strand: int
    strand_name: str
    head: int | None
    head_number: int | None

    @property
    def tip(self) -> int:
        """Its head, once something is written; an edition that was only just added has none."""
        assert self.head is not None
        return self.head

    @property
    def tip_number(self) -> int:
        """The number of that."""
        assert self.head_number is not None
        return self.head_number


@dataclass(frozen=True, slots=True)
class DraftText:
    """The fields of a draft as JSON, with the entry and its title."""

    id: int
    uuid: str
    source_locale: str
    locale: str
    fields: str
    title: str


@dataclass(frozen=True, slots=True)
class Referring:
    """An edition that refers to something."""

    entry: int
    uuid: str
    type: str
    locale: str
    title: str


@dataclass(frozen=True, slots=True)
class Placed:
    """An entry that is placed below another."""

    uuid: str
    id: int


def add_entry(
    conn: sqlite3.Connection,
    uuid: str,
    type: str,
    source_locale: str,
    section: int | None,
    at: int,
    actor: int,
) -> int:
    """Add an entry without editions."""
    cursor = conn.execute(
        "INSERT INTO entry (uuid, type, source_locale, section, created_at, actor) VALUES (?, ?, ?, ?, ?, ?)",
        (uuid, type, source_locale, section, at, actor),
    )
    return int(cursor.lastrowid or 0)


def add_edition(conn: sqlite3.Connection, entry: int, locale: str) -> tuple[int, int]:
    """Add an edition with its draft strand; returns the ids of both."""
    edition = int(
        conn.execute("INSERT INTO edition (entry, locale) VALUES (?, ?)", (entry, locale)).lastrowid or 0
    )
    strand = conn.execute("INSERT INTO strand (edition, name) VALUES (?, 'draft')", (edition,)).lastrowid
    return edition, int(strand or 0)


def entry(conn: sqlite3.Connection, uuid: str) -> Entry | None:
    """An entry by its UUID, removed ones left out."""
    return shaped.one(
        Entry, conn.execute("SELECT * FROM entry WHERE uuid = ? AND removed_at IS NULL", (uuid,))
    )


def entry_by_id(conn: sqlite3.Connection, id: int) -> Entry:
    """An entry by its number."""
    return shaped.known(Entry, conn.execute("SELECT * FROM entry WHERE id = ?", (id,)))


DRAFT_STRAND = "draft"
"""The name of the strand that every edition has."""
_EDITION = """
SELECT d.id, d.entry, d.locale, s.id AS strand, s.name AS strand_name, s.head, r.number AS head_number
FROM edition d JOIN strand s ON s.edition = d.id AND s.name = 'draft' AND s.closed_at IS NULL
LEFT JOIN revision r ON r.id = s.head
"""
_ON_STRAND = _EDITION.replace("'draft'", "?")


def edition(conn: sqlite3.Connection, entry: int, locale: str, strand: str = DRAFT_STRAND) -> Edition | None:
    """An edition with the id and head of its draft, or of another strand that is open; None without one."""
    return shaped.one(
        Edition, conn.execute(_ON_STRAND + "WHERE d.entry = ? AND d.locale = ?", (strand, entry, locale))
    )


def editions_among(
    conn: sqlite3.Connection, entries: Iterable[int], locales: Iterable[str]
) -> dict[tuple[int, str], Edition]:
    """The editions of some entries in some locales, and their common ones, by entry and locale; each as `edition` gives it."""
    rows = shaped.every(
        Edition,
        conn.execute(
            _EDITION + "WHERE d.entry IN (SELECT value FROM json_each(?)) "
            "AND (d.locale = '*' OR d.locale IN (SELECT value FROM json_each(?)))",
            (json.dumps(list(entries)), json.dumps(sorted(locales))),
        ),
    )
    return {(row.entry, row.locale): row for row in rows}


def drafts_of(conn: sqlite3.Connection, editions: Iterable[int]) -> dict[int, Edition]:
    """Some editions with their drafts, by edition."""
    rows = shaped.every(
        Edition,
        conn.execute(
            _EDITION + "WHERE d.id IN (SELECT value FROM json_each(?))", (json.dumps(list(editions)),)
        ),
    )
    return {row.id: row for row in rows}


def readable_among(
    conn: sqlite3.Connection, some: Iterable[int], allowed: str, values: Sequence[Any]
) -> set[tuple[int, str]]:
    """The editions of some entries that are allowed, by entry and locale."""
    rows = conn.execute(
        "SELECT d.entry, d.locale FROM json_each(?) j CROSS JOIN edition d ON d.entry = j.value "
        f"CROSS JOIN entry e ON e.id = d.entry WHERE {allowed}",
        (json.dumps(list(some)), *values),
    ).fetchall()
    return {(row[0], row[1]) for row in rows}


def by_ids(conn: sqlite3.Connection, ids: Iterable[int]) -> dict[int, Entry]:
    """Entries by their number."""
    rows = shaped.every(
        Entry,
        conn.execute(
            "SELECT e.* FROM json_each(?) j CROSS JOIN entry e ON e.id = j.value", (json.dumps(list(ids)),)
        ),
    )
    return {row.id: row for row in rows}


def edition_by_id(conn: sqlite3.Connection, id: int) -> Edition:
    """An edition by its number."""
    return shaped.known(Edition, conn.execute(_EDITION + "WHERE d.id = ?", (id,)))


def editions(conn: sqlite3.Connection, entry: int) -> list[Edition]:
    """All editions of an entry, the common one first."""
    return shaped.every(Edition, conn.execute(_EDITION + "WHERE d.entry = ? ORDER BY d.locale", (entry,)))


def move_head(conn: sqlite3.Connection, strand: int, before: int | None, after: int) -> None:
    """Compare and swap a strand's head; raises `StaleRevision` when it is not where it was."""
    changed = conn.execute(
        "UPDATE strand SET head = ? WHERE id = ? AND head IS ?", (after, strand, before)
    ).rowcount
    if not changed:
        raise StaleRevision("entries.saved_between")


def summarise(
    conn: sqlite3.Connection,
    edition: int,
    entry: int,
    type: str,
    locale: str,
    title: str,
    missing: Iterable[str],
    at: int,
    actor: int,
    internal: str = "",
) -> None:
    """Keep what lists show of an edition's draft. Whatever stands somewhere is older than this draft."""
    conn.execute(
        "INSERT INTO summary (edition, entry, type, locale, title, missing, updated_at, actor, internal, is_source) "
        "VALUES (?, ?2, ?, ?4, ?, ?, ?, ?, ?, ?4 = (SELECT source_locale FROM entry WHERE id = ?2)) ON CONFLICT (edition) DO UPDATE SET title = excluded.title, "
        "missing = excluded.missing, updated_at = excluded.updated_at, actor = excluded.actor, internal = excluded.internal",
        (edition, entry, type, locale, title, json.dumps(list(missing)), at, actor, internal),
    )
    flag(conn, [entry])


def list_as(conn: sqlite3.Connection, shown: Iterable[tuple[int, bool, int | None]]) -> None:
    """Let the lists of drafts say whether entries are pinned and which date is shown (None: when they were last changed),
    given as (entry, pinned, instant)."""
    conn.executemany(
        "UPDATE summary SET pinned = ?2, shown = ?3 WHERE entry = ?1 AND (pinned, shown) IS NOT (?2, ?3)",
        [(entry, int(pinned), instant) for entry, pinned, instant in shown],
    )


def behind(conn: sqlite3.Connection, entries: Iterable[int]) -> set[int]:
    """Those of some entries of which a stage held an older revision than the draft when it was last looked at."""
    rows = conn.execute(
        "SELECT DISTINCT s.entry FROM json_each(?) j CROSS JOIN summary s ON s.entry = j.value AND s.behind = 1",
        (json.dumps(list(entries)),),
    ).fetchall()
    return {row[0] for row in rows}


def not_heads(conn: sqlite3.Connection, some: Iterable[tuple[int, int]]) -> set[int]:
    """The entries of those editions, given as (edition, revision), whose draft's head is another revision."""
    rows = conn.execute(
        "SELECT d.entry FROM json_each(?) j CROSS JOIN strand x ON x.edition = j.value AND x.name = 'draft' "
        "AND x.closed_at IS NULL AND x.head <> CAST(j.key AS INTEGER) JOIN edition d ON d.id = x.edition",
        (json.dumps({revision: edition for edition, revision in some}),),
    ).fetchall()
    return {row[0] for row in rows}


def flag(conn: sqlite3.Connection, entries: Iterable[int]) -> None:
    """Note for every edition of some entries whether it or the common one misses something required, and whether a stage
    holds an older revision of either than the draft."""
    conn.execute(
        "UPDATE summary SET incomplete = n.incomplete, behind = n.behind FROM (SELECT s.edition, "
        "s.missing <> '[]' OR coalesce(c.missing, '[]') <> '[]' AS incomplete, EXISTS (SELECT 1 FROM standing t JOIN strand x "
        "ON x.edition = t.edition AND x.name = 'draft' AND x.closed_at IS NULL WHERE t.edition IN (s.edition, c.edition) "
        "AND t.until IS NULL AND t.revision <> x.head) AS behind FROM json_each(?) j "
        "JOIN summary s ON s.entry = j.value AND s.locale <> '*' LEFT JOIN summary c ON c.entry = s.entry AND c.locale = '*') n "
        "WHERE summary.edition = n.edition AND (summary.incomplete <> n.incomplete OR summary.behind <> n.behind)",
        (json.dumps(list(entries)),),
    )


def summary_as_of(conn: sqlite3.Connection, edition: int, revision: int) -> None:
    """Let a summary say who wrote the head and when, rather than who brought it back."""
    conn.execute(
        "UPDATE summary SET (updated_at, actor) = (SELECT at, actor FROM revision WHERE id = ?) WHERE edition = ?",
        (revision, edition),
    )


def set_tags(conn: sqlite3.Connection, edition: int, tags: set[str]) -> None:
    """Keep the tags that an edition's draft has."""
    rows = conn.execute("SELECT tag FROM tag_use WHERE edition = ?", (edition,)).fetchall()
    have = {row[0] for row in rows}
    if have != tags:
        conn.executemany(
            "DELETE FROM tag_use WHERE tag = ? AND edition = ?", [(t, edition) for t in have - tags]
        )
        conn.executemany("INSERT INTO tag_use VALUES (?, ?)", [(t, edition) for t in sorted(tags - have)])


def set_references(conn: sqlite3.Connection, edition: int, targets: set[str]) -> None:
    """Keep what an edition's draft refers to."""
    have = {
        row[0]
        for row in conn.execute("SELECT target FROM reference WHERE edition = ?", (edition,)).fetchall()
    }
    if have == targets:
        return
    conn.executemany(
        "DELETE FROM reference WHERE edition = ? AND target = ?", [(edition, t) for t in have - targets]
    )
    conn.executemany("INSERT INTO reference VALUES (?, ?)", [(edition, t) for t in sorted(targets - have)])


def referring(conn: sqlite3.Connection, uuid: str) -> list[Referring]:
    """The editions whose drafts refer to an entry."""
    return shaped.every(
        Referring,
        conn.execute(
            "SELECT e.id AS entry, e.uuid, e.type, d.locale, s.title FROM reference x JOIN edition d ON d.id = x.edition "
            "JOIN entry e ON e.id = d.entry JOIN summary s ON s.entry = e.id AND s.locale = e.source_locale WHERE x.target = ? "
            "AND e.removed_at IS NULL ORDER BY s.title LIMIT 200",
            (uuid,),
        ),
    )


def title(conn: sqlite3.Connection, entry: int, locale: str | None = None) -> str:
    """The title of an entry: in a locale, else in its source, else in any."""
    row = conn.execute(
        "SELECT s.title FROM summary s JOIN entry e ON e.id = s.entry WHERE s.entry = ?1 AND s.locale <> '*' "
        "ORDER BY s.locale = ?2 DESC, s.locale = e.source_locale DESC LIMIT 1",
        (entry, locale),
    ).fetchone()
    return row[0] if row else ""


def titles(conn: sqlite3.Connection, entry: int, locale: str | None = None) -> list[tuple[str, str]]:
    """The titles of an entry with their locales, in the order in which `title` chooses."""
    rows = conn.execute(
        "SELECT s.locale, s.title FROM summary s JOIN entry e ON e.id = s.entry WHERE s.entry = ?1 AND s.locale <> '*' "
        "ORDER BY s.locale = ?2 DESC, s.locale = e.source_locale DESC",
        (entry, locale),
    ).fetchall()
    return [(row[0], row[1]) for row in rows]


def set_section(conn: sqlite3.Connection, entry: int, section: int | None) -> None:
    """Keep which section an entry belongs to."""
    conn.execute("UPDATE entry SET section = ? WHERE id = ? AND section IS NOT ?", (section, entry, section))


def within(conn: sqlite3.Connection, section: int | None) -> tuple[int, ...]:
    """The sections above a section, itself left out."""
    if section is None:
        return ()
    rows = conn.execute("SELECT ancestor FROM section_within WHERE section = ?", (section,)).fetchall()
    return tuple(row[0] for row in rows)


def of_editions(conn: sqlite3.Connection, editions: Iterable[int]) -> dict[int, tuple[int, str]]:
    """The entry and the locale of each edition."""
    rows = conn.execute(
        "SELECT d.id, d.entry, d.locale FROM json_each(?) j CROSS JOIN edition d ON d.id = j.value",
        (json.dumps(sorted(editions)),),
    ).fetchall()
    return {row[0]: (row[1], row[2]) for row in rows}


def placed_below(conn: sqlite3.Connection, uuid: str, most: int = 50) -> list[Placed]:
    """What is placed below an entry in its draft, as far as it is there."""
    return shaped.every(
        Placed,
        conn.execute(
            "SELECT e.uuid, e.id FROM entry me JOIN placed p ON p.parent = me.id AND p.stage = 1 AND p.until IS NULL "
            "JOIN entry e ON e.id = p.entry AND e.removed_at IS NULL WHERE me.uuid = ? LIMIT ?",
            (uuid, most),
        ),
    )


def there(conn: sqlite3.Connection, uuids: Iterable[str]) -> set[str]:
    """Which of some entries are there, and not removed."""
    return {*types_there(conn, uuids)}


def types_there(conn: sqlite3.Connection, uuids: Iterable[str]) -> dict[str, str]:
    """The types of those of some entries that are there, and not removed."""
    return dict(
        conn.execute(
            "SELECT e.uuid, e.type FROM json_each(?) j CROSS JOIN entry e ON e.uuid = j.value AND e.removed_at IS NULL",
            (json.dumps(sorted(uuids)),),
        ).fetchall()
    )


def types_of(conn: sqlite3.Connection, entries: Iterable[int]) -> list[str]:
    """The types of entries, each once, in order."""
    rows = conn.execute(
        "SELECT DISTINCT e.type FROM json_each(?) j CROSS JOIN entry e ON e.id = j.value",
        (json.dumps(list(entries)),),
    ).fetchall()
    return sorted(row[0] for row in rows)


def drafts_of_type(conn: sqlite3.Connection, type: str) -> list[DraftText]:
    """The drafts of every entry of a type, with their values."""
    return shaped.every(
        DraftText,
        conn.execute(
            "SELECT e.id, e.uuid, e.source_locale, d.locale, r.fields, coalesce(s.title, '') AS title FROM entry e "
            "JOIN edition d ON d.entry = e.id JOIN strand x ON x.edition = d.id AND x.name = 'draft' AND x.closed_at IS NULL "
            "JOIN revision r ON r.id = x.head LEFT JOIN summary s ON s.edition = d.id "
            "WHERE e.type = ? AND e.removed_at IS NULL ORDER BY e.id",
            (type,),
        ),
    )


def of_type(conn: sqlite3.Connection, type: str) -> list[Entry]:
    """The entries of a type."""
    return shaped.every(
        Entry, conn.execute("SELECT * FROM entry WHERE type = ? AND removed_at IS NULL", (type,))
    )


def set_missing(conn: sqlite3.Connection, missing: str, edition: int) -> None:
    """Say what is missing in a draft, as JSON."""
    conn.execute(
        "UPDATE summary SET missing = ? WHERE edition = ? AND missing <> ?", (missing, edition, missing)
    )


def even_removed(conn: sqlite3.Connection, uuid: str) -> Entry | None:
    """An entry, even one that was removed."""
    return shaped.one(Entry, conn.execute("SELECT * FROM entry WHERE uuid = ?", (uuid,)))


def newest_of_types(conn: sqlite3.Connection, types: Collection[Any], most: int) -> list[Entry]:
    """The newest entries of some types."""
    return shaped.every(
        Entry,
        conn.execute(
            "SELECT * FROM entry WHERE type IN (SELECT value FROM json_each(?)) AND removed_at IS NULL ORDER BY id DESC LIMIT ?",
            (json.dumps(list(types)), most),
        ),
    )


def some_of_type(conn: sqlite3.Connection, type: str, out: int) -> Entry | None:
    """An entry of a type that changed lately, of those that are out only when that is asked."""
    return shaped.one(
        Entry,
        conn.execute(
            "SELECT e.* FROM summary s JOIN entry e ON e.id = s.entry WHERE s.type = ? AND s.locale = e.source_locale "
            "AND e.removed_at IS NULL AND (? = 0 OR EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition "
            "AND t.stage = 2 AND t.until IS NULL)) ORDER BY s.updated_at DESC LIMIT 1",
            (type, out),
        ),
    )


def single(conn: sqlite3.Connection, type: str) -> Entry | None:
    """The entry of a type that has one."""
    return shaped.one(
        Entry, conn.execute("SELECT * FROM entry WHERE type = ? AND removed_at IS NULL", (type,))
    )


def every(conn: sqlite3.Connection) -> list[Entry]:
    """Every entry."""
    return shaped.every(Entry, conn.execute("SELECT * FROM entry WHERE removed_at IS NULL ORDER BY id"))
