"""Translation memories: their sentences, found exactly by their words and nearly by what is rare in them."""

from __future__ import annotations

import itertools
import json
import sqlite3
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Memory:
    """A translation memory."""

    id: int
    uuid: str
    name: str
    note: str
    section: int | None
    actor: int
    at: int
    by_name: str


@dataclass(frozen=True, slots=True)
class Known:
    """A sentence of a memory with one translation."""

    id: int
    memory: int
    source: int
    locale: str
    text: str
    context: str
    origin: str
    batch: int | None
    actor: int
    at: int
    source_locale: str
    source_text: str
    memory_name: str
    by_name: str


@dataclass(frozen=True, slots=True)
class New:
    """A sentence to keep: the source and the target as they are kept, the hash and the marks of the source's words."""

    source_locale: str
    source: str
    hash: str
    marks: Sequence[str]
    locale: str
    target: str
    context: str = ""
    at: int = 0


_MEMORY = "SELECT m.*, a.name AS by_name FROM memory m JOIN actor a ON a.id = m.actor "


def every(conn: sqlite3.Connection) -> list[Memory]:
    """The memories, by name."""
    return shaped.every(Memory, conn.execute(_MEMORY + "ORDER BY m.name"))


def by_uuid(conn: sqlite3.Connection, uuid: str) -> Memory | None:
    """A memory."""
    return shaped.one(Memory, conn.execute(_MEMORY + "WHERE m.uuid = ?", (uuid,)))


def named(conn: sqlite3.Connection, name: str) -> Memory | None:
    """A memory by its name."""
    return shaped.one(Memory, conn.execute(_MEMORY + "WHERE m.name = ?", (name,)))


def count(conn: sqlite3.Connection, id: int) -> int:
    """How many sentences a memory has."""
    found: int = conn.execute("SELECT count(*) FROM memory_unit WHERE memory = ?", (id,)).fetchone()[0]
    return found


def add(
    conn: sqlite3.Connection, uuid: str, name: str, note: str, section: int | None, actor: int, at: int
) -> int:
    """Add a memory without sentences."""
    cursor = conn.execute(
        "INSERT INTO memory (uuid, name, note, section, actor, at) VALUES (?, ?, ?, ?, ?, ?)",
        (uuid, name, note, section, actor, at),
    )
    return int(cursor.lastrowid or 0)


def change(conn: sqlite3.Connection, id: int, name: str, note: str, section: int | None) -> None:
    """Change what is said of a memory."""
    conn.execute("UPDATE memory SET name = ?, note = ?, section = ? WHERE id = ?", (name, note, section, id))


def keep(
    conn: sqlite3.Connection,
    memory: int,
    some: Iterable[New],
    origin: str,
    actor: int,
    at: int,
    batch: int | None = None,
) -> tuple[int, int]:
    """Keep sentences; returns how many are new, and how many were known already: those are the younger now, and in this context."""
    added = known = 0
    for one in some:
        source = _source(conn, one)
        row = conn.execute(
            "SELECT id, context FROM memory_unit WHERE source = ? AND locale = ? AND memory = ? AND text = ?",
            (source, one.locale, memory, one.target),
        ).fetchone()
        if row is not None:
            known += 1
            if batch is None:
                conn.execute(
                    "UPDATE memory_unit SET at = ?, context = ?, origin = ?, actor = ?, batch = NULL WHERE id = ?",
                    (at, one.context or row["context"], origin, actor, row["id"]),
                )
            continue
        added += 1
        conn.execute(
            "INSERT INTO memory_unit (memory, source, locale, text, context, origin, batch, actor, at) "
            "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (memory, source, one.locale, one.target, one.context, origin, batch, actor, one.at or at),
        )
    return added, known


def has(
    conn: sqlite3.Connection, memory: int, hash: str, source: tuple[str, str], target: tuple[str, str]
) -> bool:
    """Whether a memory has a sentence (locale and text, with the hash of its words) with a translation (locale and text)."""
    row = conn.execute(
        "SELECT 1 FROM memory_source s JOIN memory_unit u ON u.source = s.id AND u.locale = ? AND u.memory = ? AND u.text = ? "
        "WHERE s.hash = ? AND s.locale = ? AND s.text = ?",
        (target[0], memory, target[1], hash, *source),
    ).fetchone()
    return row is not None


def _source(conn: sqlite3.Connection, one: New) -> int:
    row = conn.execute(
        "SELECT id FROM memory_source WHERE hash = ? AND locale = ? AND text = ?",
        (one.hash, one.source_locale, one.source),
    ).fetchone()
    if row is not None:
        return int(row["id"])
    cursor = conn.execute(
        "INSERT INTO memory_source (locale, hash, text) VALUES (?, ?, ?)",
        (one.source_locale, one.hash, one.source),
    )
    id = int(cursor.lastrowid or 0)
    conn.execute("INSERT INTO memory_marks (rowid, marks) VALUES (?, ?)", (id, " ".join(one.marks)))
    return id


_KNOWN = """
SELECT u.*, s.locale AS source_locale, s.text AS source_text, m.name AS memory_name, a.name AS by_name
FROM memory_unit u JOIN memory_source s ON s.id = u.source JOIN memory m ON m.id = u.memory JOIN actor a ON a.id = u.actor
"""


def exact(
    conn: sqlite3.Connection, hash: str, source: str, locale: str, memories: Sequence[int]
) -> list[Known]:
    """The translations of sentences with the same words, the newest first."""
    return shaped.every(
        Known,
        conn.execute(
            _KNOWN
            + "WHERE s.hash = ? AND s.locale = ? AND u.locale = ? AND u.memory IN (SELECT value FROM json_each(?)) "
            "ORDER BY u.at DESC, u.id DESC LIMIT 50",
            (hash, source, locale, json.dumps(list(memories))),
        ),
    )


def translated(
    conn: sqlite3.Connection, sources: Sequence[int], locale: str, memories: Sequence[int]
) -> list[Known]:
    """The translations of some sources, the newest first."""
    return shaped.every(
        Known,
        conn.execute(
            _KNOWN + "WHERE u.source IN (SELECT value FROM json_each(?)) AND u.locale = ? AND u.memory IN "
            "(SELECT value FROM json_each(?)) ORDER BY u.at DESC, u.id DESC",
            (json.dumps(list(sources)), locale, json.dumps(list(memories))),
        ),
    )


def has_any(conn: sqlite3.Connection) -> bool:
    """Whether any sentence is kept at all."""
    return conn.execute("SELECT 1 FROM memory_unit LIMIT 1").fetchone() is not None


COMMON = 800
"""What so many sentences have in common finds none of them."""
_ENOUGH = 6
"""With fewer marks than so many that are rare enough, pairs of common ones are looked for together."""
_LOOKED_AT = 150
"""So many sentences are compared that share the rarest marks, and so many that share the most."""


class Finder:
    """Finds sentences that may be alike. It remembers which marks are common, so that they are not asked for again."""

    def __init__(self) -> None:
        self._common: set[str] = set()

    def near(self, conn: sqlite3.Connection, marks: Sequence[str], locale: str) -> list[tuple[int, str]]:
        """The sources of a language, with their numbers, that share what is rare in a sentence."""
        lists: list[list[int]] = []
        common: list[str] = []
        for mark in marks:
            found = None if mark in self._common else _having(conn, mark, COMMON + 1)
            if found is None or len(found) > COMMON:
                self._common.add(mark)
                common.append(mark)
            elif found:
                lists.append(found)
        if len(lists) < _ENOUGH:
            pairs = itertools.pairwise(common)
            lists += [_having(conn, f"{one} AND {other}", COMMON) for one, other in pairs]
        lists.sort(key=len)
        rare: set[int] = set()
        shared: Counter[int] = Counter()
        for some in lists:
            if len(rare) < _LOOKED_AT:
                rare.update(some[:_LOOKED_AT])
            shared.update(some)
        chosen = rare | {id for id, _ in shared.most_common(_LOOKED_AT)}
        rows = conn.execute(
            "SELECT id, text FROM memory_source WHERE id IN (SELECT value FROM json_each(?)) AND locale = ?",
            (json.dumps(list(chosen)), locale),
        ).fetchall()
        return [(row[0], row[1]) for row in rows]


def _having(conn: sqlite3.Connection, asked: str, most: int) -> list[int]:
    rows = conn.execute("SELECT rowid FROM memory_marks WHERE memory_marks MATCH ? LIMIT ?", (asked, most))
    return [row[0] for row in rows.fetchall()]


def sources(conn: sqlite3.Connection) -> Iterator[tuple[int, str, str, str]]:
    """All sources, each with its number, language, hash and text."""
    yield from map(tuple, conn.execute("SELECT id, locale, hash, text FROM memory_source ORDER BY id"))


def mark_anew(conn: sqlite3.Connection, some: Iterable[tuple[int, str, Sequence[str]]]) -> None:
    """Let sources (number, hash, marks) be found by what they are given here, and by nothing else."""
    conn.execute("INSERT INTO memory_marks (memory_marks) VALUES ('delete-all')")
    for id, digest, marks in some:
        conn.execute("INSERT INTO memory_marks (rowid, marks) VALUES (?, ?)", (id, " ".join(marks)))
        conn.execute("UPDATE memory_source SET hash = ?1 WHERE id = ?2 AND hash <> ?1", (digest, id))


def finds(conn: sqlite3.Connection, mark: str, id: int) -> bool:
    """Whether a mark leads to a source."""
    asked = "SELECT 1 FROM memory_marks WHERE memory_marks MATCH ? AND rowid = ?"
    return conn.execute(asked, (mark, id)).fetchone() is not None


def listing(
    conn: sqlite3.Connection,
    memory: int,
    asked: tuple[str, str, str],
    limit: int,
    before: int,
) -> list[Known]:
    """The sentences of a memory, newest first, before a place: by words in the source or the target, and by the two locales."""
    words, source, target = asked
    return shaped.every(
        Known,
        conn.execute(
            _KNOWN
            + "WHERE u.memory = ?1 AND u.id < ?2 AND (?3 = '' OR s.locale = ?3) AND (?4 = '' OR u.locale = ?4) "
            "AND (?5 = '' OR instr(lower(s.text), lower(?5)) OR instr(lower(u.text), lower(?5))) ORDER BY u.id DESC LIMIT ?6",
            (memory, before, source, target, words, limit),
        ),
    )


def get(conn: sqlite3.Connection, memory: int, id: int) -> Known | None:
    """One sentence of a memory."""
    return shaped.one(Known, conn.execute(_KNOWN + "WHERE u.memory = ? AND u.id = ?", (memory, id)))


def edit(conn: sqlite3.Connection, id: int, text: str, actor: int, at: int) -> None:
    """Write another translation for a sentence; one that says the same already gives way to it."""
    conn.execute(
        "DELETE FROM memory_unit WHERE text = ?1 AND id <> ?2 AND (source, locale, memory) = "
        "(SELECT source, locale, memory FROM memory_unit WHERE id = ?2)",
        (text, id),
    )
    conn.execute(
        "UPDATE memory_unit SET text = ?, origin = 'edited', batch = NULL, actor = ?, at = ? WHERE id = ?",
        (text, actor, at, id),
    )


def drop(conn: sqlite3.Connection, ids: Sequence[int]) -> None:
    """Remove translations; what is a source of none any more goes too."""
    asked = json.dumps(list(ids))
    sources = [
        row[0]
        for row in conn.execute(
            "SELECT DISTINCT source FROM memory_unit WHERE id IN (SELECT value FROM json_each(?))", (asked,)
        )
    ]
    conn.execute("DELETE FROM memory_unit WHERE id IN (SELECT value FROM json_each(?))", (asked,))
    _drop_idle(conn, sources)


def _drop_idle(conn: sqlite3.Connection, sources: Sequence[int]) -> None:
    # A mark that leads to a source that is gone finds nothing, and is written anew with the whole index.
    conn.execute(
        "DELETE FROM memory_source WHERE id IN (SELECT value FROM json_each(?)) "
        "AND NOT EXISTS (SELECT 1 FROM memory_unit u WHERE u.source = memory_source.id)",
        (json.dumps(list(sources)),),
    )


def of_batch(conn: sqlite3.Connection, batch: int, limit: int) -> list[int]:
    """Sentences that came with an import and were not changed since."""
    rows = conn.execute("SELECT id FROM memory_unit WHERE batch = ? LIMIT ?", (batch, limit)).fetchall()
    return [row[0] for row in rows]


def of_memory(conn: sqlite3.Connection, memory: int, limit: int) -> list[int]:
    """Some sentences of a memory."""
    rows = conn.execute("SELECT id FROM memory_unit WHERE memory = ? LIMIT ?", (memory, limit)).fetchall()
    return [row[0] for row in rows]


def end(conn: sqlite3.Connection, memory: int) -> None:
    """Remove a memory that has no sentences any more."""
    conn.execute("DELETE FROM memory_import WHERE memory = ?", (memory,))
    conn.execute("DELETE FROM memory WHERE id = ?", (memory,))


def move(conn: sqlite3.Connection, memory: int, into: int) -> int:
    """Put all of a memory into another; what is in both is kept once. Returns how many came in."""
    conn.execute(
        "DELETE FROM memory_unit WHERE memory = ?1 AND EXISTS (SELECT 1 FROM memory_unit o WHERE o.source = memory_unit.source "
        "AND o.locale = memory_unit.locale AND o.memory = ?2 AND o.text = memory_unit.text)",
        (memory, into),
    )
    return conn.execute(
        "UPDATE memory_unit SET memory = ?, batch = NULL WHERE memory = ?", (into, memory)
    ).rowcount


def to_export(
    conn: sqlite3.Connection, memory: int, source: str, target: str, after: int, limit: int
) -> list[Known]:
    """The sentences of a memory, oldest first, after a place."""
    return shaped.every(
        Known,
        conn.execute(
            _KNOWN
            + "WHERE u.memory = ?1 AND u.id > ?2 AND (?3 = '' OR s.locale = ?3) AND (?4 = '' OR u.locale = ?4) "
            "ORDER BY u.id LIMIT ?5",
            (memory, after, source, target, limit),
        ),
    )
