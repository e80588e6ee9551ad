"""Strands beside the draft, and what was picked from them."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from hawthorn.store import shaped
from hawthorn.store.revisions import At


@dataclass(frozen=True, slots=True)
class Strand:
    """A strand as it is kept."""

    id: int
    edition: int
    name: str
    head: int
    forked_from: int
    dispatch: int | None
    closed_at: int | None
    actor: int
    created_at: int
    note: str
    ended: str


@dataclass(frozen=True, slots=True)
class StrandLine(Strand):
    """The same as the entry shows it."""

    by_name: str
    number: int
    changed_at: int
    forked_number: int


def add(conn: sqlite3.Connection, edition: int, name: str, head: int, actor: int, at: int, note: str) -> int:
    """Fork a strand from a revision of an edition."""
    cursor = conn.execute(
        "INSERT INTO strand (edition, name, head, forked_from, actor, created_at, note) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (edition, name, head, head, actor, at, note),
    )
    return int(cursor.lastrowid or 0)


def of_entry(conn: sqlite3.Connection, entry: int, locale: str) -> list[StrandLine]:
    """The strands of an edition beside its draft, open ones first, each with the numbers of its ends."""
    return shaped.every(
        StrandLine,
        conn.execute(
            "SELECT s.*, a.name AS by_name, r.number, r.at AS changed_at, f.number AS forked_number FROM edition d "
            "JOIN strand s ON s.edition = d.id AND s.name <> 'draft' LEFT JOIN actor a ON a.id = s.actor "
            "LEFT JOIN revision r ON r.id = s.head LEFT JOIN revision f ON f.id = s.forked_from "
            "WHERE d.entry = ? AND d.locale = ? ORDER BY s.closed_at IS NOT NULL, s.id DESC",
            (entry, locale),
        ),
    )


def last(conn: sqlite3.Connection, edition: int, name: str) -> Strand | None:
    """The strand of that name that was open last, open or not."""
    return shaped.one(
        Strand,
        conn.execute(
            "SELECT * FROM strand WHERE edition = ? AND name = ? ORDER BY closed_at IS NULL DESC, id DESC LIMIT 1",
            (edition, name),
        ),
    )


def close(conn: sqlite3.Connection, strand: int, ended: str, at: int) -> None:
    """Close a strand that was merged or dropped."""
    conn.execute("UPDATE strand SET closed_at = ?, ended = ? WHERE id = ?", (at, ended, strand))


def open_again(conn: sqlite3.Connection, strand: int) -> None:
    """Open a closed strand where it ended."""
    conn.execute("UPDATE strand SET closed_at = NULL, ended = '' WHERE id = ?", (strand,))


def others_open(conn: sqlite3.Connection, entry: int, name: str) -> bool:
    """Whether a strand of that name is open in any locale of an entry."""
    row = conn.execute(
        "SELECT 1 FROM edition d JOIN strand s ON s.edition = d.id AND s.name = ? AND s.closed_at IS NULL "
        "WHERE d.entry = ? AND d.locale <> '*'",
        (name, entry),
    ).fetchone()
    return row is not None


def picked(conn: sqlite3.Connection, revision: int, source: int, paths: Iterable[str]) -> None:
    """Record that places of a revision were picked from another one, which is no parent of it."""
    conn.executemany("INSERT INTO revision_pick VALUES (?, ?, ?)", [(revision, source, p) for p in paths])


def picked_from(conn: sqlite3.Connection, edition: int) -> list[tuple[int, int, str]]:
    """What was picked into the revisions of an edition: (revision, the one that it was picked from, path), the oldest first."""
    rows = conn.execute(
        "SELECT p.revision, p.picked_from, p.path FROM revision r JOIN revision_pick p ON p.revision = r.id "
        "WHERE r.edition = ? ORDER BY p.revision, p.picked_from, p.path",
        (edition,),
    ).fetchall()
    return [(row[0], row[1], row[2]) for row in rows]


def picks(conn: sqlite3.Connection, edition: int) -> dict[int, list[str]]:
    """What was picked, by revision of an edition."""
    rows = conn.execute(
        "SELECT p.revision, p.path FROM revision r JOIN revision_pick p ON p.revision = r.id WHERE r.edition = ? "
        "ORDER BY p.revision, p.path",
        (edition,),
    ).fetchall()
    out: dict[int, list[str]] = {}
    for row in rows:
        out.setdefault(row["revision"], []).append(row["path"])
    return out


def head_of(conn: sqlite3.Connection, edition: int, name: str) -> At | None:
    """The head of an open strand, and its instant."""
    cursor = conn.execute(
        "SELECT r.id, r.at FROM strand s JOIN revision r ON r.id = s.head WHERE s.edition = ? AND s.name = ? "
        "AND s.closed_at IS NULL",
        (edition, name),
    )
    return shaped.one(At, cursor)


def draft_at(conn: sqlite3.Connection, at: int, edition: int) -> At | None:
    """The newest revision of the draft at an instant."""
    cursor = conn.execute(
        "SELECT r.id, r.at FROM strand s JOIN revision r ON r.edition = s.edition AND r.strand = s.id AND r.at <= ? "
        "WHERE s.edition = ? AND s.name = 'draft' ORDER BY r.id DESC LIMIT 1",
        (at, edition),
    )
    return shaped.one(At, cursor)
