"""Comments, replies to them, and whom they mention."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class Written:
    """A comment on an edition, on a passage of it, or on a dispatch, and who wrote it."""

    id: int
    uuid: str
    entry: int | None
    dispatch: int | None
    locale: str
    field: str
    block: str
    first: int | None
    past: int | None
    quote: str
    revision: int | None
    actor: int
    actor_kind: str
    at: int
    text: str
    resolved_at: int | None
    resolved_by: int | None
    name: str


@dataclass(frozen=True, slots=True)
class Comment(Written):
    """The same, with who resolved it, and the open strand beside the draft that it was made on; empty for the draft."""

    handle: str
    resolved_name: str | None
    strand: str


@dataclass(frozen=True, slots=True)
class Mention(Written):
    """A comment that names somebody, or has a reply that does, and the entry that it is about."""

    named_at: int
    entry: int
    entry_uuid: str
    type: str
    source_locale: str
    section: int | None
    owner: int


@dataclass(frozen=True, slots=True)
class DispatchMention(Written):
    """A comment that names somebody, or has a reply that does, and the dispatch that it is about."""

    named_at: int
    dispatch: int
    dispatch_uuid: str
    dispatch_name: str


@dataclass(frozen=True, slots=True)
class Reply:
    """An answer to a comment."""

    id: int
    uuid: str
    comment: int
    actor: int
    actor_kind: str
    at: int
    text: str
    name: str
    handle: str


def add(
    conn: sqlite3.Connection,
    uuid: str,
    entry: int,
    locale: str,
    field: str,
    passage: tuple[str, int, int, str] | None,
    revision: int | None,
    actor: int,
    kind: str,
    at: int,
    text: str,
) -> int:
    """Record a comment; `passage` is its paragraph, first and past characters, and words."""
    block, first, past, quote = passage or ("", None, None, "")
    cursor = conn.execute(
        "INSERT INTO comment (uuid, entry, locale, field, block, first, past, quote, revision, actor, actor_kind, at, text) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (uuid, entry, locale, field, block, first, past, quote, revision, actor, kind, at, text),
    )
    return int(cursor.lastrowid or 0)


_COMMENT = (
    "SELECT m.*, a.name, a.handle, b.name AS resolved_name, coalesce(s.name, '') AS strand FROM comment m "
    "JOIN actor a ON a.id = m.actor LEFT JOIN actor b ON b.id = m.resolved_by LEFT JOIN revision v ON v.id = m.revision "
    "LEFT JOIN strand s ON s.id = v.strand AND s.closed_at IS NULL AND s.name <> 'draft' "
)


def add_on_dispatch(
    conn: sqlite3.Connection, uuid: str, dispatch: int, actor: int, kind: str, at: int, text: str
) -> int:
    """Record a comment on a dispatch."""
    cursor = conn.execute(
        "INSERT INTO comment (uuid, dispatch, actor, actor_kind, at, text) VALUES (?, ?, ?, ?, ?, ?)",
        (uuid, dispatch, actor, kind, at, text),
    )
    return int(cursor.lastrowid or 0)


def of_edition(conn: sqlite3.Connection, entry: int, locale: str) -> list[Comment]:
    """The comments on an edition and on the fields that all locales share, in their order."""
    return shaped.every(
        Comment,
        conn.execute(
            _COMMENT + "WHERE m.entry = ? AND m.locale IN (?, '*') ORDER BY m.id LIMIT 5000", (entry, locale)
        ),
    )


def of_dispatch(conn: sqlite3.Connection, dispatch: int) -> list[Comment]:
    """The comments on a dispatch, in their order."""
    return shaped.every(
        Comment, conn.execute(_COMMENT + "WHERE m.dispatch = ? ORDER BY m.id LIMIT 5000", (dispatch,))
    )


def find(conn: sqlite3.Connection, uuid: str) -> Comment | None:
    """One comment."""
    return shaped.one(Comment, conn.execute(_COMMENT + "WHERE m.uuid = ?", (uuid,)))


def open_of(conn: sqlite3.Connection, entry: int) -> int:
    """How many comments on an entry are open."""
    count: int = conn.execute(
        "SELECT count(*) FROM comment WHERE entry = ? AND resolved_at IS NULL", (entry,)
    ).fetchone()[0]
    return count


def add_reply(
    conn: sqlite3.Connection, uuid: str, comment: int, actor: int, kind: str, at: int, text: str
) -> None:
    """Record a reply."""
    conn.execute(
        "INSERT INTO reply (uuid, comment, actor, actor_kind, at, text) VALUES (?, ?, ?, ?, ?, ?)",
        (uuid, comment, actor, kind, at, text),
    )


def replies(conn: sqlite3.Connection, comments: Iterable[int]) -> dict[int, list[Reply]]:
    """The replies to comments, in their order."""
    out: dict[int, list[Reply]] = {}
    for row in shaped.every(
        Reply,
        conn.execute(
            "SELECT r.*, a.name, a.handle FROM json_each(?) j CROSS JOIN reply r ON r.comment = j.value "
            "JOIN actor a ON a.id = r.actor ORDER BY r.id",
            (json.dumps(list(comments)),),
        ),
    ):
        out.setdefault(row.comment, []).append(row)
    return out


def resolve(conn: sqlite3.Connection, comment: int, actor: int | None, at: int | None) -> None:
    """Resolve a comment, or open it again."""
    conn.execute("UPDATE comment SET resolved_at = ?, resolved_by = ? WHERE id = ?", (at, actor, comment))


def mention(conn: sqlite3.Connection, comment: int, actors: Iterable[int], at: int) -> None:
    """Record whom a comment or a reply to it names."""
    conn.executemany(
        "INSERT INTO mention VALUES (?, ?, ?) ON CONFLICT (comment, actor) DO UPDATE SET at = excluded.at",
        [(comment, actor, at) for actor in actors],
    )


def taking_part(conn: sqlite3.Connection, comment: int) -> set[int]:
    """Who made a comment, replied to it or is named in it."""
    return {
        row[0]
        for row in conn.execute(
            "SELECT actor FROM comment WHERE id = ?1 UNION SELECT actor FROM reply WHERE comment = ?1 "
            "UNION SELECT actor FROM mention WHERE comment = ?1",
            (comment,),
        ).fetchall()
    }


_NAMED = (
    "FROM mention n JOIN comment m ON m.id = n.comment AND m.resolved_at IS NULL JOIN actor a ON a.id = m.actor {} "
    "WHERE n.actor = ?1 AND NOT EXISTS (SELECT 1 FROM reply r WHERE r.comment = m.id AND r.actor = ?1 AND r.at >= n.at) "
    "ORDER BY n.at DESC LIMIT 100"
)


def mentioning(conn: sqlite3.Connection, actor: int) -> list[Mention]:
    """Open comments on entries that name somebody who has not answered since, the newest first."""
    return shaped.every(
        Mention,
        conn.execute(
            "SELECT m.*, a.name, n.at AS named_at, e.uuid AS entry_uuid, e.type, e.source_locale, e.section, e.actor AS owner "
            + _NAMED.format("JOIN entry e ON e.id = m.entry AND e.removed_at IS NULL"),
            (actor,),
        ),
    )


def mentioning_of_dispatches(conn: sqlite3.Connection, actor: int) -> list[DispatchMention]:
    """The same of those on dispatches."""
    return shaped.every(
        DispatchMention,
        conn.execute(
            "SELECT m.*, a.name, n.at AS named_at, p.uuid AS dispatch_uuid, p.name AS dispatch_name "
            + _NAMED.format("JOIN dispatch p ON p.id = m.dispatch"),
            (actor,),
        ),
    )
