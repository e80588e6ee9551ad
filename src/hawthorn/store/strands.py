"""Strands beside the draft, and what was picked from them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable

from hawthorn.core.dispatch import COMING
from hawthorn.core.quick import dataclass
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

    @property
    def written(self) -> bool:
        """Whether anything was written on it since it was forked."""
        return self.head != self.forked_from


@dataclass(frozen=True, slots=True)
class StrandLine(Strand):
    """The same as the entry shows it."""

    by_name: str
    number: int
    changed_at: int
    forked_number: int
    dispatch_uuid: str | None
    dispatch_name: str | None


def add(
    conn: sqlite3.Connection,
    edition: int,
    name: str,
    head: int,
    actor: int,
    at: int,
    note: str,
    dispatch: int | None = None,
) -> int:
    """Fork a strand from a revision of an edition, inside a dispatch where one is named."""
    cursor = conn.execute(
        "INSERT INTO strand (edition, name, head, forked_from, actor, created_at, note, dispatch) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (edition, name, head, head, actor, at, note, dispatch),
    )
    return int(cursor.lastrowid or 0)


def of_entry(conn: sqlite3.Connection, entry: int, locale: str) -> list[StrandLine]:
    """The strands of an edition beside its draft, open ones first, each with the numbers of its ends."""
    return shaped.every(
        StrandLine,
        conn.execute(
            "SELECT s.*, a.name AS by_name, r.number, r.at AS changed_at, f.number AS forked_number, p.uuid AS dispatch_uuid, "
            "p.name AS dispatch_name FROM edition d "
            "JOIN strand s ON s.edition = d.id AND s.name <> 'draft' LEFT JOIN actor a ON a.id = s.actor "
            "LEFT JOIN revision r ON r.id = s.head LEFT JOIN revision f ON f.id = s.forked_from "
            "LEFT JOIN dispatch p ON p.id = s.dispatch "
            "WHERE d.entry = ? AND d.locale = ? ORDER BY s.closed_at IS NOT NULL, s.id DESC",
            (entry, locale),
        ),
    )


def name_of(conn: sqlite3.Connection, strand: int) -> str:
    """What a strand is called."""
    return str(conn.execute("SELECT name FROM strand WHERE id = ?", (strand,)).fetchone()[0])


def open_names(conn: sqlite3.Connection, entry: int) -> set[str]:
    """The names of the open strands of an entry, in any locale."""
    rows = conn.execute(
        "SELECT s.name FROM edition d JOIN strand s ON s.edition = d.id AND s.closed_at IS NULL WHERE d.entry = ?",
        (entry,),
    ).fetchall()
    return {row[0] for row in rows}


def attach(conn: sqlite3.Connection, dispatch: int, heads: Iterable[int]) -> None:
    """Let the open strands beside drafts with some heads belong to a dispatch, with those of the same name in their entries."""
    conn.execute(
        "UPDATE strand SET dispatch = ?1 WHERE id IN (SELECT o.id FROM json_each(?2) j CROSS JOIN revision r ON r.id = j.value "
        "JOIN strand s ON s.edition = r.edition AND s.head = r.id AND s.name <> 'draft' AND s.closed_at IS NULL "
        "JOIN edition d ON d.id = s.edition JOIN edition x ON x.entry = d.entry "
        "JOIN strand o ON o.edition = x.id AND o.name = s.name AND o.closed_at IS NULL)",
        (dispatch, json.dumps(list(heads))),
    )


def put_inside(conn: sqlite3.Connection, dispatch: int, entry: int, locale: str, name: str) -> None:
    """Let the open strand of a name belong to a dispatch, where it belongs to none."""
    conn.execute(
        "UPDATE strand SET dispatch = ?1 WHERE id IN (SELECT s.id FROM edition d JOIN strand s ON s.edition = d.id AND s.name = ?4 "
        "AND s.name <> 'draft' AND s.closed_at IS NULL AND s.dispatch IS NULL WHERE d.entry = ?2 AND d.locale = ?3)",
        (dispatch, entry, locale, name),
    )


def ending_in(conn: sqlite3.Connection, head: int) -> int | None:
    """The open strand beside a draft that ends in a revision."""
    row = conn.execute(
        "SELECT s.id FROM revision r JOIN strand s ON s.edition = r.edition AND s.head = r.id AND s.name <> 'draft' "
        "AND s.closed_at IS NULL WHERE r.id = ?",
        (head,),
    ).fetchone()
    return None if row is None else int(row[0])


def opened_with(conn: sqlite3.Connection, strand: int) -> list[int]:
    """The other open strands of the same name in an entry on which nothing was written."""
    rows = conn.execute(
        "SELECT o.id FROM strand s JOIN edition d ON d.id = s.edition JOIN edition x ON x.entry = d.entry "
        "JOIN strand o ON o.edition = x.id AND o.name = s.name AND o.closed_at IS NULL AND o.head = o.forked_from "
        "WHERE s.id = ? AND o.id <> s.id",
        (strand,),
    ).fetchall()
    return [row[0] for row in rows]


def detach(conn: sqlite3.Connection, strand: int) -> None:
    """Let a strand belong to no dispatch."""
    conn.execute("UPDATE strand SET dispatch = NULL WHERE id = ?", (strand,))


def of_dispatch(conn: sqlite3.Connection, dispatch: int) -> list[Strand]:
    """The open strands of a dispatch, shared fields first."""
    return shaped.every(
        Strand,
        conn.execute(
            "SELECT s.* FROM strand s JOIN edition d ON d.id = s.edition WHERE s.dispatch = ? AND s.closed_at IS NULL "
            "ORDER BY d.locale <> '*', s.id",
            (dispatch,),
        ),
    )


@dataclass(frozen=True, slots=True)
class Kept:
    """How a place of a strand was settled beforehand: what is taken, a value of somebody's own as JSON, and a hash of both sides."""

    place: str
    sides: str
    take: str
    value: str


def settlements(conn: sqlite3.Connection, strand: int) -> dict[str, Kept]:
    """How places of a strand were settled beforehand."""
    rows = shaped.every(
        Kept,
        conn.execute("SELECT place, sides, take, value FROM strand_settlement WHERE strand = ?", (strand,)),
    )
    return {row.place: row for row in rows}


def settle(conn: sqlite3.Connection, strand: int, kept: Iterable[Kept], actor: int, at: int) -> None:
    """Keep how places of a strand are settled, in place of what was kept before."""
    conn.executemany(
        "INSERT OR REPLACE INTO strand_settlement VALUES (?, ?, ?, ?, ?, ?, ?)",
        [(strand, one.place, one.sides, one.take, one.value, actor, at) for one in kept],
    )


def names_inside(conn: sqlite3.Connection, dispatch: int) -> dict[int, str]:
    """The open strands of a dispatch by edition."""
    return {strand.edition: strand.name for strand in of_dispatch(conn, dispatch)}


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


@dataclass(frozen=True, slots=True)
class GoesWith:
    """A dispatch that has not gone yet, with which a strand goes out."""

    dispatch: int
    name: str


def goes_with(conn: sqlite3.Connection, strands: Iterable[int | None]) -> GoesWith | None:
    """The dispatch that any of some strands belongs to, unless it has gone or was called off."""
    cursor = conn.execute(
        "SELECT p.id AS dispatch, p.name FROM json_each(?) j CROSS JOIN strand s ON s.id = j.value JOIN dispatch p ON p.id = s.dispatch "
        "WHERE p.state IN (SELECT value FROM json_each(?)) LIMIT 1",
        (json.dumps(list(strands)), json.dumps(COMING)),
    )
    return shaped.one(GoesWith, cursor)


def open_called(conn: sqlite3.Connection, entry: int, name: str) -> dict[str, int]:
    """The open strands of a name in the locales of an entry, that of its shared fields left out."""
    rows = conn.execute(
        "SELECT d.locale, s.id FROM edition d JOIN strand s ON s.edition = d.id AND s.name = ? AND s.closed_at IS NULL "
        "WHERE d.entry = ? AND d.locale <> '*'",
        (name, entry),
    ).fetchall()
    return {row[0]: row[1] for row in rows}


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


def is_open(conn: sqlite3.Connection, name: str) -> bool:
    """Whether some entry has an open strand of a name."""
    asked = "SELECT 1 FROM strand WHERE name = ? AND closed_at IS NULL AND name <> 'draft' LIMIT 1"
    return conn.execute(asked, (name,)).fetchone() is not None


def heads_among(conn: sqlite3.Connection, name: str, among: Iterable[int]) -> dict[tuple[int, str], int]:
    """The heads of the open strands of a name, by entry and locale."""
    cursor = conn.execute(
        "SELECT d.entry, d.locale, s.head FROM json_each(?) one CROSS JOIN edition d ON d.entry = one.value "
        "JOIN strand s ON s.edition = d.id AND s.name = ? AND s.closed_at IS NULL WHERE s.head IS NOT NULL",
        (json.dumps(list(among)), name),
    )
    return {(row[0], row[1]): row[2] for row in cursor}


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
