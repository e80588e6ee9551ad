"""What packages hold, read in sets of entries."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Sequence

from hawthorn.core.quick import dataclass
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class EntryKept:
    """An entry as it is kept, with its folder."""

    id: int
    uuid: str
    type: str
    source_locale: str
    created_at: int
    actor: int
    archived_at: int | None
    limited: str
    folder: int | None


@dataclass(frozen=True, slots=True)
class EditionKept:
    """An edition."""

    id: int
    entry: int
    locale: str


@dataclass(frozen=True, slots=True)
class StrandKept:
    """A strand."""

    id: int
    edition: int
    name: str
    head: int | None
    forked_from: int | None
    closed_at: int | None
    actor: int | None
    created_at: int | None
    note: str
    ended: str


@dataclass(frozen=True, slots=True)
class RevisionKept:
    """A revision, its contents as JSON."""

    id: int
    edition: int
    number: int
    fields: str
    paragraph_ids: str
    unit_map: str
    strand: int | None
    actor: int
    actor_kind: str
    at: int
    note: str
    origin: str


@dataclass(frozen=True, slots=True)
class StandingKept:
    """A standing."""

    edition: int
    stage: int
    revision: int
    since: int
    until: int | None
    committed_at: int


@dataclass(frozen=True, slots=True)
class SignOffKept:
    """A sign-off; `roles` and `seen` are JSON."""

    edition: int
    revision: int
    stage: int
    workflow: str
    actor: int
    roles: str
    at: int
    seen: str
    note: str


@dataclass(frozen=True, slots=True)
class SubmissionKept:
    """A submission."""

    edition: int
    revision: int
    stage: int
    actor: int
    at: int
    note: str
    outcome: str | None
    decided_by: int | None
    decided_at: int | None
    reason: str


@dataclass(frozen=True, slots=True)
class OverrideKept:
    """An override; `conditions` is JSON."""

    edition: int
    revision: int
    stage: int
    actor: int
    at: int
    reason: str
    conditions: str


@dataclass(frozen=True, slots=True)
class AssignmentKept:
    """An assignment that has not ended."""

    uuid: str
    entry: int
    locale: str
    holder: int
    actor: int
    at: int
    due: str
    note: str
    told: str


@dataclass(frozen=True, slots=True)
class CommentKept:
    """A comment; `number` is that of its revision."""

    id: int
    uuid: str
    entry: int
    locale: str
    field: str
    block: str
    first: int | None
    past: int | None
    quote: str
    revision: int | None
    number: int | None
    actor: int
    actor_kind: str
    at: int
    text: str
    resolved_at: int | None
    resolved_by: int | None


@dataclass(frozen=True, slots=True)
class ReplyKept:
    """A reply."""

    uuid: str
    comment: int
    actor: int
    actor_kind: str
    at: int
    text: str


@dataclass(frozen=True, slots=True)
class Known:
    """Who or what there is: id, handle, name and kind."""

    id: int
    handle: str
    name: str
    kind: str


def chosen(
    conn: sqlite3.Connection,
    types: Sequence[str],
    sections: Sequence[int],
    uuids: Sequence[str],
    *,
    linked: bool,
) -> list[str]:
    """The entries (UUIDs, in order) of some types, in some sections and below, or named; all where nothing is asked. With what they refer to,
    however far that leads, where that is wanted."""
    asked = (json.dumps(list(types)), json.dumps(list(sections)), json.dumps(list(uuids)))
    rows = conn.execute(
        "WITH RECURSIVE chosen (uuid) AS (SELECT e.uuid FROM entry e WHERE e.removed_at IS NULL "
        "AND (?1 = '[]' OR e.type IN (SELECT value FROM json_each(?1))) "
        "AND (?2 = '[]' OR e.section IN (SELECT value FROM json_each(?2)) OR e.id IN (SELECT value FROM json_each(?2)) OR EXISTS "
        "(SELECT 1 FROM section_within w JOIN json_each(?2) j ON w.ancestor = j.value WHERE w.section = e.section)) "
        "AND (?3 = '[]' OR e.uuid IN (SELECT value FROM json_each(?3))) "
        "UNION SELECT x.target FROM chosen c JOIN entry e ON e.uuid = c.uuid JOIN edition d ON d.entry = e.id "
        "JOIN reference x ON x.edition = d.id JOIN entry t ON t.uuid = x.target AND t.removed_at IS NULL WHERE ?4) "
        "SELECT uuid FROM chosen ORDER BY uuid",
        (*asked, int(linked)),
    )
    return [row[0] for row in rows]


def how_many(conn: sqlite3.Connection) -> int:
    """How many entries there are."""
    return int(conn.execute("SELECT count(*) FROM entry WHERE removed_at IS NULL").fetchone()[0])


def everybody(conn: sqlite3.Connection) -> dict[int, Known]:
    """Whoever ever did something, by number."""
    found = shaped.every(Known, conn.execute("SELECT id, handle, name, kind FROM actor ORDER BY id"))
    return {one.id: one for one in found}


def folders(conn: sqlite3.Connection) -> dict[int, tuple[str, int]]:
    """The folders of the library: what each is called, and the one around it (0 for none)."""
    return {row[0]: (row[1], row[2]) for row in conn.execute("SELECT id, name, parent FROM folder")}


def entries(conn: sqlite3.Connection, uuids: Collection[str]) -> list[EntryKept]:
    """Some entries, in the order of their UUIDs."""
    return shaped.every(
        EntryKept,
        conn.execute(
            "SELECT e.id, e.uuid, e.type, e.source_locale, e.created_at, e.actor, e.archived_at, e.limited, f.folder "
            "FROM json_each(?) j CROSS JOIN entry e ON e.uuid = j.value LEFT JOIN filed f ON f.entry = e.id ORDER BY e.uuid",
            (json.dumps(list(uuids)),),
        ),
    )


def audiences(conn: sqlite3.Connection, some: Sequence[int]) -> list[tuple[int, str]]:
    """The audiences of entries."""
    rows = conn.execute(
        "SELECT a.entry, a.audience FROM json_each(?) j CROSS JOIN entry_audience a ON a.entry = j.value ORDER BY a.entry, a.audience",
        (json.dumps(list(some)),),
    ).fetchall()
    return [(row[0], row[1]) for row in rows]


_OF = "FROM json_each(?) j CROSS JOIN edition d ON d.entry = j.value "


def editions(conn: sqlite3.Connection, some: Sequence[int]) -> list[EditionKept]:
    """The editions of entries, by locale."""
    return shaped.every(
        EditionKept,
        conn.execute(
            f"SELECT d.id, d.entry, d.locale {_OF} ORDER BY d.entry, d.locale", (json.dumps(list(some)),)
        ),
    )


def strands(conn: sqlite3.Connection, some: Sequence[int]) -> list[StrandKept]:
    """Every strand of entries, in the order in which they were begun."""
    return shaped.every(
        StrandKept,
        conn.execute(
            "SELECT s.id, s.edition, s.name, s.head, s.forked_from, s.closed_at, s.actor, s.created_at, s.note, s.ended "
            f"{_OF} JOIN strand s ON s.edition = d.id ORDER BY s.edition, s.id",
            (json.dumps(list(some)),),
        ),
    )


def revisions(conn: sqlite3.Connection, some: Sequence[int]) -> list[RevisionKept]:
    """Every revision of entries, in order."""
    return shaped.every(
        RevisionKept,
        conn.execute(
            "SELECT r.id, r.edition, r.number, r.fields, r.paragraph_ids, r.unit_map, r.strand, r.actor, r.actor_kind, r.at, r.note, "
            f"r.origin {_OF} JOIN revision r ON r.edition = d.id ORDER BY r.edition, r.number",
            (json.dumps(list(some)),),
        ),
    )


def holding(conn: sqlite3.Connection, revisions: Iterable[int]) -> list[RevisionKept]:
    """Some revisions."""
    return shaped.every(
        RevisionKept,
        conn.execute(
            "SELECT r.id, r.edition, r.number, r.fields, r.paragraph_ids, r.unit_map, r.strand, r.actor, r.actor_kind, r.at, r.note, "
            "r.origin FROM json_each(?) j CROSS JOIN revision r ON r.id = j.value",
            (json.dumps(sorted(revisions)),),
        ),
    )


def parents(conn: sqlite3.Connection, some: Sequence[int]) -> list[tuple[int, int]]:
    """The parents of every revision of entries, in order: (revision, parent)."""
    rows = conn.execute(
        f"SELECT p.revision, p.parent {_OF} JOIN revision r ON r.edition = d.id JOIN revision_parent p ON p.revision = r.id "
        "ORDER BY p.revision, p.ord",
        (json.dumps(list(some)),),
    ).fetchall()
    return [(row[0], row[1]) for row in rows]


def picks(conn: sqlite3.Connection, some: Sequence[int]) -> list[tuple[int, int, str]]:
    """What was picked into revisions of entries: (revision, the one that it was picked from, path)."""
    rows = conn.execute(
        f"SELECT p.revision, p.picked_from, p.path {_OF} JOIN revision r ON r.edition = d.id JOIN revision_pick p ON p.revision = r.id "
        "ORDER BY p.revision, p.picked_from, p.path",
        (json.dumps(list(some)),),
    ).fetchall()
    return [(row[0], row[1], row[2]) for row in rows]


def standings(conn: sqlite3.Connection, some: Sequence[int]) -> list[StandingKept]:
    """Every standing of entries, in order."""
    return shaped.every(
        StandingKept,
        conn.execute(
            f"SELECT s.edition, s.stage, s.revision, s.since, s.until, s.committed_at {_OF} JOIN standing s ON s.edition = d.id "
            "ORDER BY s.edition, s.since, s.id",
            (json.dumps(list(some)),),
        ),
    )


def sign_offs(conn: sqlite3.Connection, some: Sequence[int]) -> list[SignOffKept]:
    """Every sign-off of entries that still fits its revision, in order."""
    return shaped.every(
        SignOffKept,
        conn.execute(
            f"SELECT d.id AS edition, s.revision, s.stage, s.workflow, s.actor, s.roles, s.at, s.seen, s.note {_OF} "
            "JOIN revision r ON r.edition = d.id JOIN sign_off s ON s.revision = r.id AND s.content_hash = r.content_hash "
            "ORDER BY d.id, s.id",
            (json.dumps(list(some)),),
        ),
    )


def submissions(conn: sqlite3.Connection, some: Sequence[int]) -> list[SubmissionKept]:
    """Every submission of entries, in order."""
    return shaped.every(
        SubmissionKept,
        conn.execute(
            "SELECT s.edition, s.revision, s.stage, s.actor, s.at, s.note, s.outcome, s.decided_by, s.decided_at, s.reason "
            f"{_OF} JOIN submission s ON s.edition = d.id ORDER BY s.edition, s.id",
            (json.dumps(list(some)),),
        ),
    )


def overrides(conn: sqlite3.Connection, some: Sequence[int]) -> list[OverrideKept]:
    """Every override of entries, in order."""
    return shaped.every(
        OverrideKept,
        conn.execute(
            f"SELECT d.id AS edition, o.revision, o.stage, o.actor, o.at, o.reason, o.conditions {_OF} "
            "JOIN revision r ON r.edition = d.id JOIN override o ON o.revision = r.id ORDER BY d.id, o.id",
            (json.dumps(list(some)),),
        ),
    )


def comments(conn: sqlite3.Connection, some: Sequence[int]) -> list[CommentKept]:
    """Every comment on entries, in order."""
    return shaped.every(
        CommentKept,
        conn.execute(
            "SELECT m.id, m.uuid, m.entry, m.locale, m.field, m.block, m.first, m.past, m.quote, m.revision, r.number, m.actor, "
            "m.actor_kind, m.at, m.text, m.resolved_at, m.resolved_by FROM json_each(?) j CROSS JOIN comment m ON m.entry = j.value "
            "LEFT JOIN revision r ON r.id = m.revision ORDER BY m.entry, m.id",
            (json.dumps(list(some)),),
        ),
    )


def assignments(conn: sqlite3.Connection, some: Sequence[int]) -> list[AssignmentKept]:
    """Every assignment of entries that has not ended, in order."""
    return shaped.every(
        AssignmentKept,
        conn.execute(
            "SELECT s.uuid, s.entry, s.locale, s.holder, s.actor, s.at, s.due, s.note, s.told FROM json_each(?) j "
            "CROSS JOIN assignment s ON s.entry = j.value AND s.ended_at IS NULL ORDER BY s.entry, s.locale",
            (json.dumps(list(some)),),
        ),
    )


def replies(conn: sqlite3.Connection, some: Sequence[int]) -> list[ReplyKept]:
    """Every reply to a comment on entries, in order."""
    return shaped.every(
        ReplyKept,
        conn.execute(
            "SELECT p.uuid, p.comment, p.actor, p.actor_kind, p.at, p.text FROM json_each(?) j CROSS JOIN comment m ON m.entry = j.value "
            "JOIN reply p ON p.comment = m.id ORDER BY p.comment, p.id",
            (json.dumps(list(some)),),
        ),
    )


def named(conn: sqlite3.Connection, revisions: Iterable[int]) -> dict[int, tuple[str, str, int]]:
    """Revisions as packages name them: the entry (UUID), the locale and the number."""
    rows = conn.execute(
        "SELECT r.id, e.uuid, d.locale, r.number FROM json_each(?) j CROSS JOIN revision r ON r.id = j.value "
        "JOIN edition d ON d.id = r.edition JOIN entry e ON e.id = d.entry",
        (json.dumps(sorted(set(revisions))),),
    ).fetchall()
    return {row[0]: (row[1], row[2], row[3]) for row in rows}


def files_of(conn: sqlite3.Connection, revisions: Iterable[int]) -> set[str]:
    """The files (SHA-256) that revisions hold."""
    rows = conn.execute(
        "SELECT DISTINCT u.sha256 FROM json_each(?) j CROSS JOIN file_use u ON u.revision = j.value",
        (json.dumps(list(revisions)),),
    ).fetchall()
    return {row[0] for row in rows}
