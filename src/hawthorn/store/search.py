"""The search index: the words of every draft, and of what is out where the draft has moved on."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Sequence
from typing import Any

from hawthorn.core import searching
from hawthorn.core.quick import dataclass
from hawthorn.store import shaped
from hawthorn.store.entries import Entry


@dataclass(frozen=True, slots=True)
class OutOfStep:
    """What is out and what is drafted of an edition, as the index has to follow it."""

    id: int
    locale: str
    type: str
    revision: int | None
    head: int | None
    kept: int | None


@dataclass(frozen=True, slots=True)
class Said(Entry):
    """An entry and what its draft says to searches."""

    edition: int
    tag: str
    title: str


@dataclass(frozen=True, slots=True)
class SaidTwice(Entry):
    """Another entry that says the same."""

    said: str


@dataclass(frozen=True, slots=True)
class TagCount:
    """A tag, and how many entries use it."""

    tag: str
    entries: int


@dataclass(frozen=True, slots=True)
class Topic:
    """An entry of a tree of topics, and how many refer to it."""

    id: int
    uuid: str
    title: str
    parent: int
    entries: int


_MOST_FORMS = 40


def put(
    conn: sqlite3.Connection, edition: int, stage: int, title: Sequence[str], text: Sequence[str], facets: str
) -> None:
    """Index a text as the newest; one that holds the very same words stays where it is."""
    named, body = " ".join(title), " ".join(text)
    row = conn.execute(
        "SELECT r.id, t.title, t.body, t.facets FROM search_row r JOIN search_text t ON t.rowid = r.id "
        "WHERE r.edition = ? AND r.stage = ?",
        (edition, stage),
    ).fetchone()
    fresh = {*title, *text}
    if row is not None:
        if (row["title"], row["body"], row["facets"]) == (named, body, facets):
            return
        fresh.difference_update(row["title"].split(" "), row["body"].split(" "))
        conn.execute("DELETE FROM search_text WHERE rowid = ?", (row["id"],))
        conn.execute("DELETE FROM search_row WHERE id = ?", (row["id"],))
    made = conn.execute(
        "INSERT INTO search_row (id, edition, stage) VALUES ((SELECT coalesce(max(id), 0) + 1 FROM search_row), ?, ?)",
        (edition, stage),
    ).lastrowid
    conn.execute(
        "INSERT INTO search_text (rowid, title, body, facets) VALUES (?, ?, ?, ?)",
        (made, named, body, facets),
    )
    conn.executemany("INSERT OR IGNORE INTO search_term VALUES (?)", [(t,) for t in searching.terms(fresh)])


def has(conn: sqlite3.Connection, edition: int, stage: int) -> bool:
    """Whether a text is indexed."""
    return (
        conn.execute("SELECT 1 FROM search_row WHERE edition = ? AND stage = ?", (edition, stage)).fetchone()
        is not None
    )


def say(conn: sqlite3.Connection, edition: int, locale: str, title: str, words: str) -> None:
    """Keep what an edition's draft says to searches, folded."""
    conn.execute(
        "INSERT INTO search_said VALUES (?1, ?2, ?3, ?4) ON CONFLICT (edition) DO UPDATE SET title = ?3, words = ?4 "
        "WHERE title <> ?3 OR words <> ?4",
        (edition, locale, title, words),
    )


def drop(conn: sqlite3.Connection, editions: Iterable[int], stage: int | None = None) -> None:
    """Take texts out of the index; of all stages when none is named."""
    rows = conn.execute(
        "SELECT r.id FROM json_each(?1) j CROSS JOIN search_row r ON r.edition = j.value WHERE ?2 IS NULL OR r.stage = ?2",
        (json.dumps(list(editions)), stage),
    ).fetchall()
    for row in rows:
        conn.execute("DELETE FROM search_text WHERE rowid = ?", (row["id"],))
        conn.execute("DELETE FROM search_row WHERE id = ?", (row["id"],))


def begun(conn: sqlite3.Connection, some: Iterable[searching.Wanted]) -> dict[str, list[str]]:
    """How words that are only begun go on, by the words that there are."""
    out: dict[str, list[str]] = {}
    for one in some:
        if one.begun and (len(one.parts[0]) > 1 or not one.parts[0].isascii()):
            start = one.parts[0]
            rows = conn.execute(
                "SELECT term FROM search_term WHERE term >= ? AND term < ? ORDER BY length(term), term LIMIT ?",
                (start, start + "\U0010ffff", _MOST_FORMS),
            ).fetchall()
            out[start] = [row[0] for row in rows]
    return out


def said_twice(
    conn: sqlite3.Connection, column: str, locale: str, folded: str, entry: int
) -> list[SaidTwice]:
    """Other entries that say the same in a column."""
    return shaped.every(
        SaidTwice,
        conn.execute(
            f"SELECT e.*, s.title AS said FROM search_said x JOIN edition d ON d.id = x.edition "
            "JOIN entry e ON e.id = d.entry AND e.removed_at IS NULL JOIN summary s ON s.edition = d.id "
            f"WHERE x.locale = ? AND x.{column} = ? AND x.{column} <> '' AND d.entry <> ? LIMIT 10",
            (locale, folded, entry),
        ),
    )


def said(
    conn: sqlite3.Connection, allowed: str, tag: str, before: int, values: Sequence[Any], limit: int
) -> list[Said]:
    """What drafts say to search engines, the newest first."""
    return shaped.every(
        Said,
        conn.execute(
            "SELECT x.edition, x.locale AS tag, e.*, s.title FROM search_said x JOIN edition d ON d.id = x.edition "
            "JOIN entry e ON e.id = d.entry AND e.removed_at IS NULL JOIN summary s ON s.edition = d.id "
            f"WHERE (? = '' OR x.locale = ?) AND x.edition < ? AND {allowed} ORDER BY x.edition DESC LIMIT ?",
            (tag, tag, before, *values, limit),
        ),
    )


def below_topic(conn: sqlite3.Connection, uuid: str) -> list[str]:
    """A topic and those below it."""
    rows = conn.execute(
        "WITH RECURSIVE tree (uuid, id) AS (SELECT uuid, id FROM entry WHERE uuid = ? UNION "
        "SELECT e.uuid, e.id FROM tree t JOIN placed p ON p.parent = t.id AND p.stage = 1 AND p.until IS NULL "
        "JOIN entry e ON e.id = p.entry AND e.removed_at IS NULL) SELECT uuid FROM tree LIMIT 2000",
        (uuid,),
    ).fetchall()
    return [row[0] for row in rows]


def tags(
    conn: sqlite3.Connection, allowed: str, values: Sequence[Any], start: str, end: str, limit: int
) -> list[TagCount]:
    """Tags from a start on, with how many entries have each."""
    return shaped.every(
        TagCount,
        conn.execute(
            "SELECT u.tag, count(DISTINCT d.entry) AS entries FROM tag_use u JOIN edition d ON d.id = u.edition "
            f"JOIN entry e ON e.id = d.entry WHERE e.removed_at IS NULL AND {allowed} AND u.tag >= ? AND u.tag < ? "
            "GROUP BY u.tag ORDER BY entries DESC, u.tag LIMIT ?",
            (*values, start, end, limit),
        ),
    )


def topics(
    conn: sqlite3.Connection,
    counted: str,
    allowed: str,
    first: Sequence[Any],
    type: str,
    values: Sequence[Any],
) -> list[Topic]:
    """The entries of a type as topics, with how many entries refer to each."""
    return shaped.every(
        Topic,
        conn.execute(
            "SELECT e.id, e.uuid, s.title, coalesce(p.parent, 0) AS parent, (SELECT count(DISTINCT x.entry) FROM reference r "
            f"JOIN edition x ON x.id = r.edition JOIN entry o ON o.id = x.entry AND o.removed_at IS NULL WHERE r.target = e.uuid AND {counted}) "
            "AS entries FROM entry e JOIN edition d ON d.entry = e.id AND d.locale = e.source_locale "
            "JOIN summary s ON s.edition = d.id LEFT JOIN placed p ON p.entry = e.id AND p.stage = 1 AND p.until IS NULL "
            f"WHERE e.type = ? AND e.removed_at IS NULL AND {allowed} ORDER BY s.title LIMIT 2000",
            (*first, type, *values),
        ),
    )


def out_of_step(
    conn: sqlite3.Connection, editions: Collection[Any], moved: Collection[Any]
) -> list[OutOfStep]:
    """Editions whose released text is to be kept, or no longer."""
    return shaped.every(
        OutOfStep,
        conn.execute(
            "SELECT d.id, d.locale, e.type, s.revision, x.head, r.id AS kept FROM json_each(?) j "
            "CROSS JOIN edition d ON d.id = j.value JOIN entry e ON e.id = d.entry "
            "LEFT JOIN strand x ON x.edition = d.id AND x.name = 'draft' AND x.closed_at IS NULL "
            "LEFT JOIN standing s ON s.edition = d.id AND s.stage = 2 AND s.until IS NULL "
            "LEFT JOIN search_row r ON r.edition = d.id AND r.stage = 2 "
            "WHERE d.locale <> '*' AND d.entry IN (SELECT value FROM json_each(?)) AND (r.id IS NOT NULL OR s.revision <> x.head)",
            (json.dumps(list(editions)), json.dumps(sorted(moved))),
        ),
    )
