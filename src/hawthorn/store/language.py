"""The memories and glossaries of a house, with all that lies in them, as packages have them."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class CollectionKept:
    """A memory or a glossary; `section` is the UUID of the entry that heads it."""

    id: int
    uuid: str
    name: str
    note: str
    section: str | None
    actor: int
    at: int


@dataclass(frozen=True, slots=True)
class SentenceKept:
    """A sentence of a memory with one translation."""

    source_locale: str
    source: str
    locale: str
    target: str
    context: str
    origin: str
    actor: int
    at: int


@dataclass(frozen=True, slots=True)
class ConceptKept:
    """A concept of a glossary; `terms` is a JSON list of locales, texts and what each is."""

    note: str
    actor: int
    at: int
    terms: str


_COLLECTION = (
    "SELECT c.id, c.uuid, c.name, c.note, e.uuid AS section, c.actor, c.at FROM {of} c "
    "LEFT JOIN entry e ON e.id = c.section ORDER BY c.uuid"
)


def memories(conn: sqlite3.Connection) -> list[CollectionKept]:
    """The translation memories, by UUID."""
    return shaped.every(CollectionKept, conn.execute(_COLLECTION.format(of="memory")))


def glossaries(conn: sqlite3.Connection) -> list[CollectionKept]:
    """The glossaries, by UUID."""
    return shaped.every(CollectionKept, conn.execute(_COLLECTION.format(of="glossary")))


def sentences(conn: sqlite3.Connection, memory: int) -> Iterator[SentenceKept]:
    """The sentences of a memory, by their words."""
    return shaped.each(
        SentenceKept,
        conn.execute(
            "SELECT s.locale AS source_locale, s.text AS source, u.locale, u.text AS target, u.context, u.origin, u.actor, u.at "
            "FROM memory_unit u JOIN memory_source s ON s.id = u.source WHERE u.memory = ? "
            "ORDER BY s.locale, s.text, u.locale, u.text",
            (memory,),
        ),
    )


def concepts(conn: sqlite3.Connection, glossary: int) -> list[ConceptKept]:
    """The concepts of a glossary, each with its terms as JSON, in an order that follows from what they say."""
    return shaped.every(
        ConceptKept,
        conn.execute(
            "SELECT c.note, c.actor, c.at, (SELECT json_group_array(json_array(t.locale, t.text, t.status)) FROM "
            "(SELECT * FROM term WHERE concept = c.id ORDER BY ord) t) AS terms FROM concept c WHERE c.glossary = ? "
            "ORDER BY c.at, terms, c.note, c.id",
            (glossary,),
        ),
    )


def locales(conn: sqlite3.Connection) -> set[str]:
    """The locales that memories and glossaries speak."""
    rows = conn.execute(
        "SELECT locale FROM memory_source UNION SELECT locale FROM memory_unit UNION SELECT locale FROM term"
    )
    return {row[0] for row in rows}
