"""Lists of entries, a page at a time."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped
from hawthorn.store.filters import Filter


@dataclass(frozen=True, slots=True)
class Listed:
    """An edition as a list finds it: its summary, its entry, and who changed it last."""

    edition: int
    entry: int
    type: str
    locale: str
    title: str
    missing: str
    updated_at: int
    actor: int
    internal: str
    incomplete: int
    behind: int
    shown: int | None
    pinned: int
    is_source: int
    uuid: str
    source_locale: str
    section: int | None
    owner: int
    author: str
    handle: str
    common_missing: str
    common_internal: str


@dataclass(frozen=True, slots=True)
class Found(Listed):
    """The same, found by words: where in the index, and at which stage."""

    found: int
    found_at: int


@dataclass(frozen=True, slots=True)
class Sorted:
    """An edition in a list that sites read, by what it is sorted by."""

    entry: int
    uuid: str
    pinned: int
    sort: int
    edition: int


@dataclass(frozen=True, slots=True)
class Named:
    """An entry that was looked up by name."""

    uuid: str
    type: str
    source_locale: str
    title: str


def drafts(
    conn: sqlite3.Connection,
    types: str,
    pinned: int,
    sort: int,
    edition: int,
    limit: int,
    alone: int,
    locale: str,
) -> list[Sorted]:
    """The drafts of a page of a list, after a place in it."""
    return shaped.every(
        Sorted,
        conn.execute(
            "SELECT e.id AS entry, e.uuid, s.pinned, coalesce(s.shown, s.updated_at) AS sort, s.edition FROM summary s "
            "JOIN entry e ON e.id = s.entry WHERE s.locale = iif(?6, ?7, e.source_locale) AND s.locale <> '*' AND e.removed_at IS NULL "
            "AND e.archived_at IS NULL AND (?1 = '[]' OR s.type IN (SELECT value FROM json_each(?1))) "
            "AND (s.pinned, coalesce(s.shown, s.updated_at), s.edition) < (?2, ?3, ?4) "
            "ORDER BY s.pinned DESC, coalesce(s.shown, s.updated_at) DESC, s.edition DESC LIMIT ?5",
            (types, pinned, sort, edition, limit, alone, locale),
        ),
    )


def drafts_at(
    conn: sqlite3.Connection,
    types: str,
    sort: int,
    edition: int,
    at: int,
    limit: int,
    alone: int,
    locale: str,
) -> list[Sorted]:
    """The same as it was at an instant."""
    return shaped.every(
        Sorted,
        conn.execute(
            "SELECT e.id AS entry, e.uuid, 0 AS pinned, e.created_at AS sort, d.id AS edition FROM entry e "
            "JOIN edition d ON d.entry = e.id AND d.locale = iif(?6, ?7, e.source_locale) WHERE e.created_at <= ?4 "
            "AND (e.removed_at IS NULL OR e.removed_at > ?4) AND (e.archived_at IS NULL OR e.archived_at > ?4) AND (?1 = '[]' OR e.type IN (SELECT value FROM json_each(?1))) "
            "AND (e.created_at, d.id) < (?2, ?3) ORDER BY e.created_at DESC, d.id DESC LIMIT ?5",
            (types, sort, edition, at, limit, alone, locale),
        ),
    )


def stood(
    conn: sqlite3.Connection,
    types: str,
    locales: str,
    stages: str,
    start: tuple[int, int, int],
    limit: int,
    at: int,
    alone: int,
    *,
    past: bool,
) -> list[Sorted]:
    """What stands at one of some stages, or stood there at an instant that is `past`, after a place in the list; each entry
    in the first of some locales (JSON) in which it does, else (unless it is in those `alone`) in its source."""
    held = (
        "{0}.since <= ?8 AND ({0}.until IS NULL OR {0}.until > ?8)"
        if past
        else "{0}.until IS NULL AND ?8 = ?8"
    )
    return shaped.every(
        Sorted,
        conn.execute(
            "SELECT e.id AS entry, e.uuid, l.pinned, l.sort, l.edition FROM listed l JOIN entry e ON e.id = l.entry "
            f"WHERE l.stage IN (SELECT value FROM json_each(?3)) AND {held.format('l')} "
            "AND (?1 = '[]' OR l.type IN (SELECT value FROM json_each(?1))) "
            "AND (?9 = 0 AND l.locale = e.source_locale OR l.locale IN (SELECT value FROM json_each(?2))) "
            "AND NOT EXISTS (SELECT 1 FROM listed o JOIN json_each(?2) w ON w.value = o.locale WHERE o.entry = l.entry "
            f"AND o.stage IN (SELECT value FROM json_each(?3)) AND {held.format('o')} "
            "AND w.key < ifnull((SELECT key FROM json_each(?2) WHERE value = l.locale), 1000)) "
            "AND (l.pinned, l.sort, l.edition) < (?7, ?4, ?5) GROUP BY l.entry "
            "ORDER BY l.pinned DESC, l.sort DESC, l.edition DESC LIMIT ?6",
            (types, locales, stages, start[1], start[2], limit, start[0], at, alone),
        ),
    )


_COLUMNS = (
    "SELECT s.*, e.uuid, e.source_locale, e.section, e.actor AS owner, a.name AS author, a.handle, "
    "coalesce(c.missing, '[]') AS common_missing, coalesce(c.internal, '') AS common_internal{more} "
)
_JOINS = (
    "JOIN entry e ON e.id = s.entry JOIN edition d ON d.id = s.edition JOIN actor a ON a.id = s.actor "
    "LEFT JOIN summary c ON c.entry = e.id AND c.locale = '*' "
)


@dataclass(frozen=True, slots=True)
class Order:
    """An order of lists: by a column, forwards or backwards, what is equal by edition."""

    column: str
    backwards: bool = False

    @property
    def by(self) -> str:
        """As `ORDER BY` wants it."""
        way = " DESC" if self.backwards else ""
        return f"s.{self.column}{way}, s.edition{way}"

    def after(self, at: int, edition: int) -> tuple[str, tuple[int, ...]]:
        """What comes after a place in the list: when it was changed there, and the edition."""
        way = "<" if self.backwards else ">"
        if self.column == "updated_at":
            return f"(s.updated_at, s.edition) {way} (?, ?)", (at, edition)
        # The first condition is what the index is entered by.
        there = "(SELECT {0} FROM summary WHERE edition = ?)"
        return (
            f"s.{self.column} {way}= {there.format(self.column)} "
            f"AND (s.{self.column}, s.edition) {way} {there.format(f'{self.column}, edition')}",
            (edition, edition),
        )


CHANGED_LAST = Order("updated_at", backwards=True)


def page(
    conn: sqlite3.Connection,
    allowed: tuple[str, Sequence[Any]],
    filters: Iterable[Filter],
    among: Sequence[int] | None,
    order: Order,
    after: tuple[int, int] | None,
    limit: int,
) -> list[Listed]:
    """Summaries of editions that may be read and that every filter leaves, in an order: of all, or `among` some, after a place
    (when it was changed, edition) in the list."""
    source, parts, values = left(allowed, filters, among)
    if after is not None:
        place, given = order.after(*after)
        parts.append(place)
        values += given
    # The page is found among narrow rows first; what a list shows is fetched for its lines alone.
    return shaped.every(
        Listed,
        conn.execute(
            _COLUMNS.format(more="")
            + f"FROM (SELECT s.edition AS page FROM {source} WHERE {' AND '.join(parts)} ORDER BY {order.by} LIMIT ?) "
            f"CROSS JOIN summary s ON s.edition = page {_JOINS}ORDER BY {order.by}",
            (*values, limit),
        ),
    )


def counted(
    conn: sqlite3.Connection,
    allowed: tuple[str, Sequence[Any]],
    filters: Iterable[Filter],
    among: Sequence[int] | None,
    most: int,
) -> int:
    """How many editions may be read and every filter leaves, as far as `most`."""
    source, parts, values = left(allowed, filters, among)
    return int(
        conn.execute(
            f"SELECT count(*) FROM (SELECT 1 FROM {source} WHERE {' AND '.join(parts)} LIMIT ?)",
            (*values, most),
        ).fetchone()[0]
    )


def left(
    allowed: tuple[str, Sequence[Any]], filters: Iterable[Filter], among: Sequence[int] | None
) -> tuple[str, list[str], list[Any]]:
    """What lists look through: the tables, the conditions and their values."""
    filters = list(filters)
    parts = [allowed[0], "s.locale <> '*'", *(f.sql for f in filters)]
    values: list[Any] = [*allowed[1], *(v for f in filters for v in f.values)]
    source = "summary s"
    if among is not None:
        source = "json_each(?) j CROSS JOIN summary s ON s.edition = j.value"
        values = [json.dumps(list(among)), *values]
    return f"{source} JOIN entry e ON e.id = s.entry", parts, values


def of_entries(
    conn: sqlite3.Connection, allowed: tuple[str, Sequence[Any]], some: Sequence[int], locale: str
) -> list[Listed]:
    """Summaries of entries that may be read, in their source and in a locale, the latter last."""
    return shaped.every(
        Listed,
        conn.execute(
            _COLUMNS.format(more="")
            + f"FROM json_each(?) j CROSS JOIN summary s ON s.entry = j.value {_JOINS}"
            f"WHERE s.locale IN (?, e.source_locale) AND e.removed_at IS NULL AND {allowed[0]} ORDER BY s.locale = ?",
            (json.dumps(list(some)), locale, *allowed[1], locale),
        ),
    )


# The draft and what is out may both have the words: an edition is listed once, by its draft.
_ONCE = (
    "AND (r.stage = 1 OR NOT EXISTS (SELECT 1 FROM search_row w CROSS JOIN search_text x ON x.rowid = w.id "
    "WHERE w.edition = r.edition AND w.stage = 1 AND x.search_text MATCH ?))"
)


def with_words(
    conn: sqlite3.Connection,
    match: str,
    allowed: tuple[str, Sequence[Any]],
    filters: Iterable[Filter],
    among: Sequence[int] | None,
    before: int | None,
    limit: int,
) -> list[Found]:
    """Summaries of editions whose texts match, the text indexed last first (`found` is its place, `found_at` its stage)."""
    parts, values = _matching(allowed, filters, among)
    if before is not None:
        parts.append("t.rowid < ?")
        values.append(before)
    return shaped.every(
        Found,
        conn.execute(
            _COLUMNS.format(more=", t.rowid AS found, r.stage AS found_at")
            + f"{_FOUND}{_JOINS}WHERE t.search_text MATCH ? AND {' AND '.join(parts)} {_ONCE} ORDER BY t.rowid DESC LIMIT ?",
            (match, *values, match, limit),
        ),
    )


def counted_with_words(
    conn: sqlite3.Connection,
    match: str,
    allowed: tuple[str, Sequence[Any]],
    filters: Iterable[Filter],
    among: Sequence[int] | None,
    most: int,
) -> int:
    """How many editions' texts match, as far as `most`."""
    parts, values = _matching(allowed, filters, among)
    return int(
        conn.execute(
            f"SELECT count(*) FROM (SELECT 1 {_FOUND}JOIN entry e ON e.id = s.entry JOIN edition d ON d.id = s.edition "
            f"WHERE t.search_text MATCH ? AND {' AND '.join(parts)} {_ONCE} LIMIT ?)",
            (match, *values, match, most),
        ).fetchone()[0]
    )


_FOUND = "FROM search_text t CROSS JOIN search_row r ON r.id = t.rowid CROSS JOIN summary s ON s.edition = r.edition "


def _matching(
    allowed: tuple[str, Sequence[Any]], filters: Iterable[Filter], among: Sequence[int] | None
) -> tuple[list[str], list[Any]]:
    filters = list(filters)
    parts = [allowed[0], *(f.sql for f in filters)]
    values: list[Any] = [*allowed[1], *(v for f in filters for v in f.values)]
    if among is not None:
        parts.append("r.edition IN (SELECT value FROM json_each(?))")
        values.append(json.dumps(list(among)))
    return parts, values


def left_by(conn: sqlite3.Connection, one: Filter, limit: int) -> list[int]:
    """The editions that a filter leaves, up to so many."""
    return [row[0] for row in conn.execute(f"{one.few} LIMIT {limit}", one.values)]


def named(
    conn: sqlite3.Connection,
    allowed: tuple[str, Sequence[Any]],
    *,
    start: str,
    end: str,
    slug: str,
    match: str,
    title: str,
) -> list[Named]:
    """Entries that may be read by the start or the end ("~": none) of their id, by address, or by words of the title."""
    return shaped.every(
        Named,
        conn.execute(
            "WITH named (entry, ord) AS (SELECT id, 0 FROM entry WHERE uuid >= ?1 AND uuid < ?1 || 'g' AND length(?1) > 3 UNION ALL "
            "SELECT id, 0 FROM entry WHERE ?5 <> '~' AND substr(uuid, -length(?5)) = ?5 UNION ALL "
            "SELECT entry, 0 FROM address WHERE slug = ?2 AND until IS NULL UNION ALL SELECT * FROM (SELECT d.entry, 1 "
            "FROM search_text t CROSS JOIN search_row r ON r.id = t.rowid CROSS JOIN edition d ON d.id = r.edition "
            "WHERE t.search_text MATCH ?3 ORDER BY t.rowid DESC LIMIT 100)) "
            "SELECT e.uuid, e.type, e.source_locale, s.title FROM (SELECT entry, min(ord) AS ord FROM named GROUP BY entry) n "
            "JOIN entry e ON e.id = n.entry JOIN edition d ON d.entry = e.id AND d.locale = e.source_locale "
            f"JOIN summary s ON s.edition = d.id WHERE e.removed_at IS NULL AND {_numbered(allowed[0])} "
            "ORDER BY s.title = ?4 COLLATE NOCASE DESC, n.ord, s.updated_at DESC LIMIT 20",
            (start, slug, match, title, end, *allowed[1]),
        ),
    )


def _numbered(condition: str) -> str:
    """A condition whose values follow five numbered ones."""
    parts = condition.split("?")
    return "".join(f"{part}?{n + 6}" if n < len(parts) - 1 else part for n, part in enumerate(parts))
