"""Templates to begin from."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Template:
    """What entries may begin with; `content` is JSON."""

    id: int
    uuid: str
    name: str
    type: str
    source_locale: str
    content: str
    made_from: int | None
    actor: int
    at: int
    ended_at: int | None


@dataclass(frozen=True, slots=True)
class TemplateLine(Template):
    """The same, with who made it."""

    by_name: str


def add(
    conn: sqlite3.Connection,
    uuid: str,
    name: str,
    type: str,
    source_locale: str,
    content: str,
    made_from: int,
    actor: int,
    at: int,
) -> None:
    """Keep a template; its content is JSON."""
    conn.execute(
        "INSERT INTO template (uuid, name, type, source_locale, content, made_from, actor, at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (uuid, name, type, source_locale, content, made_from, actor, at),
    )


def every(conn: sqlite3.Connection) -> list[TemplateLine]:
    """The templates that were not ended, by type and name."""
    return shaped.every(
        TemplateLine,
        conn.execute(
            "SELECT t.*, a.name AS by_name FROM template t JOIN actor a ON a.id = t.actor WHERE t.ended_at IS NULL "
            "ORDER BY t.type, t.name"
        ),
    )


def end(conn: sqlite3.Connection, at: int, id: int) -> None:
    """End a template."""
    conn.execute("UPDATE template SET ended_at = ? WHERE id = ?", (at, id))


def by_uuid(conn: sqlite3.Connection, uuid: str) -> Template | None:
    """A template that was not ended."""
    return shaped.one(
        Template, conn.execute("SELECT * FROM template WHERE uuid = ? AND ended_at IS NULL", (uuid,))
    )
