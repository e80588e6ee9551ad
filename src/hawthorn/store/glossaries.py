"""Glossaries: concepts, with what each is called in which language."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Iterator, Sequence

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Glossary:
    """A glossary; its version goes up with each change."""

    id: int
    uuid: str
    name: str
    note: str
    section: int | None
    actor: int
    at: int
    version: int
    by_name: str
    concepts: int


@dataclass(frozen=True, slots=True)
class Concept:
    """A concept, and who wrote it last."""

    id: int
    glossary: int
    note: str
    brought_by: int | None
    actor: int
    at: int
    by_name: str


@dataclass(frozen=True, slots=True)
class Term:
    """What a concept is called in a language."""

    concept: int
    ord: int
    locale: str
    text: str
    folded: str
    status: str


_ROW = (
    "SELECT g.*, a.name AS by_name, (SELECT count(*) FROM concept c WHERE c.glossary = g.id) AS concepts "
    "FROM glossary g JOIN actor a ON a.id = g.actor "
)


def every(conn: sqlite3.Connection) -> list[Glossary]:
    """All glossaries, by name."""
    return shaped.every(Glossary, conn.execute(_ROW + "ORDER BY g.name"))


def by_uuid(conn: sqlite3.Connection, uuid: str) -> Glossary | None:
    """A glossary, or None."""
    return shaped.one(Glossary, conn.execute(_ROW + "WHERE g.uuid = ?", (uuid,)))


def count(conn: sqlite3.Connection, id: int) -> int:
    """How many concepts a glossary has."""
    found: int = conn.execute("SELECT count(*) FROM concept WHERE glossary = ?", (id,)).fetchone()[0]
    return found


def named(conn: sqlite3.Connection, name: str) -> Glossary | None:
    """A glossary by its name."""
    return shaped.one(Glossary, conn.execute(_ROW + "WHERE g.name = ?", (name,)))


def add(
    conn: sqlite3.Connection, uuid: str, name: str, note: str, section: int | None, actor: int, at: int
) -> int:
    """Add an empty glossary."""
    cursor = conn.execute(
        "INSERT INTO glossary (uuid, name, note, section, actor, at) VALUES (?, ?, ?, ?, ?, ?)",
        (uuid, name, note, section, actor, at),
    )
    return int(cursor.lastrowid or 0)


def change(conn: sqlite3.Connection, id: int, name: str, note: str, section: int | None) -> None:
    """Change what is said of a glossary."""
    conn.execute(
        "UPDATE glossary SET name = ?, note = ?, section = ? WHERE id = ?", (name, note, section, id)
    )


def end(conn: sqlite3.Connection, id: int) -> None:
    """Remove a glossary with all that is in it."""
    conn.execute("DELETE FROM glossary WHERE id = ?", (id,))


def changed(conn: sqlite3.Connection, id: int) -> None:
    """What is in a glossary is another from now on."""
    conn.execute("UPDATE glossary SET version = version + 1 WHERE id = ?", (id,))


def move(conn: sqlite3.Connection, concepts: Sequence[int], glossary: int) -> None:
    """Put concepts into another glossary; who wrote them stays, and the import that brought them is no more theirs."""
    conn.executemany(
        "UPDATE concept SET glossary = ?, brought_by = NULL WHERE id = ?", [(glossary, id) for id in concepts]
    )


def put(
    conn: sqlite3.Connection,
    glossary: int,
    note: str,
    terms: Sequence[tuple[str, str, str, str]],
    actor: int,
    at: int,
    brought_by: int | None = None,
) -> int:
    """Add a concept with its terms: (locale, text, folded, status)."""
    cursor = conn.execute(
        "INSERT INTO concept (glossary, note, brought_by, actor, at) VALUES (?, ?, ?, ?, ?)",
        (glossary, note, brought_by, actor, at),
    )
    id = int(cursor.lastrowid or 0)
    _terms(conn, id, terms)
    return id


def write(
    conn: sqlite3.Connection,
    id: int,
    note: str,
    terms: Sequence[tuple[str, str, str, str]],
    actor: int,
    at: int,
) -> None:
    """Write a concept anew; undoing the import that brought it leaves it from now on."""
    conn.execute(
        "UPDATE concept SET note = ?, brought_by = NULL, actor = ?, at = ? WHERE id = ?",
        (note, actor, at, id),
    )
    conn.execute("DELETE FROM term WHERE concept = ?", (id,))
    _terms(conn, id, terms)


def _terms(conn: sqlite3.Connection, id: int, terms: Sequence[tuple[str, str, str, str]]) -> None:
    conn.executemany(
        "INSERT INTO term VALUES (?, ?, ?, ?, ?, ?)", [(id, n, *term) for n, term in enumerate(terms)]
    )


def drop(conn: sqlite3.Connection, ids: Iterable[int]) -> None:
    """Remove concepts."""
    conn.executemany("DELETE FROM concept WHERE id = ?", [(id,) for id in ids])


_CONCEPT = "SELECT c.*, a.name AS by_name FROM concept c JOIN actor a ON a.id = c.actor "


def concept(conn: sqlite3.Connection, glossary: int, id: int) -> Concept | None:
    """A concept of a glossary."""
    return shaped.one(Concept, conn.execute(_CONCEPT + "WHERE c.id = ? AND c.glossary = ?", (id, glossary)))


def listing(
    conn: sqlite3.Connection, glossary: int, folded: str, locale: str, after: int, limit: int
) -> list[Concept]:
    """The concepts of a glossary after one, in the order in which they came: with words in a term (`folded`; any when empty) and with a
    term in a locale (any when empty)."""
    return shaped.every(
        Concept,
        conn.execute(
            _CONCEPT
            + "WHERE c.glossary = ?1 AND c.id > ?2 AND (?3 = '' AND ?4 = '' OR EXISTS (SELECT 1 FROM term t "
            "WHERE t.concept = c.id AND instr(t.folded, ?3) > 0 AND (?4 = '' OR t.locale = ?4))) ORDER BY c.id LIMIT ?5",
            (glossary, after, folded, locale, limit),
        ),
    )


def folded_terms(conn: sqlite3.Connection) -> Iterator[tuple[int, str, str]]:
    """All terms, each with its concept, its text, and that as it is looked for."""
    yield from map(tuple, conn.execute("SELECT concept, text, folded FROM term ORDER BY concept, ord"))


def ids(conn: sqlite3.Connection, glossary: int) -> list[int]:
    """All concepts of a glossary, in the order in which they came."""
    rows = conn.execute("SELECT id FROM concept WHERE glossary = ? ORDER BY id", (glossary,))
    return [row[0] for row in rows]


def terms(conn: sqlite3.Connection, concepts: Iterable[int]) -> list[Term]:
    """The terms of some concepts, in their order."""
    return shaped.every(
        Term,
        conn.execute(
            "SELECT t.* FROM json_each(?) j CROSS JOIN term t ON t.concept = j.value ORDER BY t.concept, t.ord",
            (json.dumps(list(concepts)),),
        ),
    )


def in_locales(conn: sqlite3.Connection, glossary: int, locales: Iterable[str]) -> list[Term]:
    """All terms of a glossary in some locales."""
    return shaped.every(
        Term,
        conn.execute(
            "SELECT t.* FROM concept c JOIN term t ON t.concept = c.id AND t.locale IN (SELECT value FROM json_each(?)) "
            "WHERE c.glossary = ? ORDER BY t.concept, t.ord",
            (json.dumps(list(locales)), glossary),
        ),
    )


def fold_anew(conn: sqlite3.Connection, concept: int, text: str, folded: str) -> None:
    """Let a term be looked for in another form."""
    conn.execute("UPDATE term SET folded = ? WHERE concept = ? AND text = ?", (folded, concept, text))


def same(conn: sqlite3.Connection, glossary: int, locale: str, folded: str) -> list[int]:
    """The concepts of a glossary that are called something in a locale."""
    rows = conn.execute(
        "SELECT t.concept FROM term t JOIN concept c ON c.id = t.concept AND c.glossary = ? WHERE t.folded = ? AND t.locale = ?",
        (glossary, folded, locale),
    ).fetchall()
    return [row[0] for row in rows]


def drop_brought(conn: sqlite3.Connection, id: int, most: int) -> int:
    """Remove so many of what an import brought and nobody wrote anew since; returns how many concepts that were."""
    return conn.execute(
        "DELETE FROM concept WHERE id IN (SELECT id FROM concept WHERE brought_by = ? LIMIT ?)", (id, most)
    ).rowcount
