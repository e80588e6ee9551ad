"""Where people are: kept while their pages are open."""

from __future__ import annotations

import sqlite3

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Seen:
    """Where somebody was seen last."""

    page: str
    entry: int
    locale: str
    strand: str
    field: str
    typing: int
    at: int


@dataclass(frozen=True, slots=True)
class Present:
    """Somebody who has an entry open."""

    page: str
    actor: int
    entry: int
    locale: str
    strand: str
    field: str
    typing: int
    since: int
    at: int
    handle: str
    name: str


@dataclass(frozen=True, slots=True)
class Page:
    """What an open page shows."""

    entry: int
    locale: str
    strand: str
    field: str
    typing: int


def let_go(conn: sqlite3.Connection, before: int) -> int:
    """Forget who has not been seen since an instant; how many."""
    return conn.execute("DELETE FROM presence WHERE at < ?", (before,)).rowcount


def of_page(conn: sqlite3.Connection, page: str, actor: int) -> Page | None:
    """Where somebody is in a page of their browser."""
    return shaped.one(
        Page,
        conn.execute(
            "SELECT entry, locale, strand, field, typing FROM presence WHERE page = ? AND actor = ?",
            (page, actor),
        ),
    )


def keep(conn: sqlite3.Connection, page: str, actor: int, where: Page, at: int) -> None:
    """Keep where somebody is."""
    conn.execute(
        "INSERT INTO presence (page, actor, entry, locale, strand, field, typing, since, at) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?8) "
        "ON CONFLICT (page) DO UPDATE SET entry = excluded.entry, locale = excluded.locale, strand = excluded.strand, "
        "field = excluded.field, typing = excluded.typing, since = CASE WHEN entry = excluded.entry AND locale = excluded.locale "
        "AND strand = excluded.strand THEN since ELSE excluded.since END, at = excluded.at WHERE actor = excluded.actor",
        (page, actor, where.entry, where.locale, where.strand, where.field, where.typing, at),
    )


def leave(conn: sqlite3.Connection, page: str, actor: int) -> None:
    """A page was closed."""
    conn.execute("DELETE FROM presence WHERE page = ? AND actor = ?", (page, actor))


def leave_window(conn: sqlite3.Connection, prefix: str, length: int, actor: int) -> int:
    """All pages of a window were closed; how many."""
    return conn.execute(
        "DELETE FROM presence WHERE substr(page, 1, ?2) = ?1 AND actor = ?3", (prefix, length, actor)
    ).rowcount


def in_window(conn: sqlite3.Connection, prefix: str, length: int) -> bool:
    """Whether anything is open in a window."""
    row = conn.execute(
        "SELECT EXISTS (SELECT 1 FROM presence WHERE substr(page, 1, ?2) = ?1)", (prefix, length)
    ).fetchone()
    return bool(row[0])


def of_entry(conn: sqlite3.Connection, entry: int, since: int) -> list[Present]:
    """Who has an entry open, seen since an instant."""
    return shaped.every(
        Present,
        conn.execute(
            "SELECT p.*, a.handle, a.name FROM presence p JOIN actor a ON a.id = p.actor WHERE p.entry = ? AND p.at >= ? "
            "ORDER BY p.since, p.page",
            (entry, since),
        ),
    )


def everybody(conn: sqlite3.Connection, since: int) -> list[Seen]:
    """Who is anywhere, seen since an instant."""
    return shaped.every(
        Seen,
        conn.execute(
            "SELECT page, entry, locale, strand, field, typing, at FROM presence WHERE at >= ? ORDER BY page",
            (since,),
        ),
    )
