"""What gates look at, asked for many editions at once: values, ancestry, what is shown, addresses and places."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Sequence
from functools import lru_cache

from hawthorn.core.quick import dataclass
from hawthorn.core.workflow import SignOff
from hawthorn.store import dispatches, shaped
from hawthorn.store.put_away import AT_WORK


@dataclass(frozen=True, slots=True)
class Address:
    """An address that an entry has at a stage."""

    entry: int
    locale: str
    parent: int
    slug: str


@dataclass(frozen=True, slots=True)
class Below:
    """An edition with an address below an entry."""

    parent: int
    entry: int
    locale: str


@dataclass(frozen=True, slots=True)
class GoingEdition:
    """An edition that is to go, with its entry."""

    edition: int
    locale: str
    entry: int
    uuid: str
    type: str
    source_locale: str
    section: int | None
    removed_at: int | None
    archived_at: int | None


@dataclass(frozen=True, slots=True)
class EntryName:
    """An entry with its type."""

    id: int
    uuid: str
    type: str
    source_locale: str


@dataclass(frozen=True, slots=True)
class NotOut:
    """An edition whose draft holds something that is not out."""

    edition: int
    entry: int
    uuid: str
    type: str
    locale: str
    title: str


@dataclass(frozen=True, slots=True)
class Holder:
    """Who has an address."""

    stage: int
    locale: str
    parent: int
    slug: str
    entry: int


@dataclass(frozen=True, slots=True)
class SharedFields:
    """The shared fields of an entry at a stage, as JSON."""

    entry: int
    type: str
    fields: str


@dataclass(frozen=True, slots=True)
class PlannedAddress:
    """An entry that is planned to go to an address, and the dispatch."""

    entry: int
    name: str
    title: str


@dataclass(frozen=True, slots=True)
class Referred:
    """An edition of an entry that is referred to: what is out of it, and its values as JSON."""

    id: int
    uuid: str
    type: str
    source_locale: str
    edition: int
    locale: str
    revision: int | None
    fields: str
    title: str


def editions(conn: sqlite3.Connection, ids: Iterable[int]) -> list[GoingEdition]:
    """Editions with their entries."""
    return shaped.every(
        GoingEdition,
        conn.execute(
            "SELECT d.id AS edition, d.locale, e.id AS entry, e.uuid, e.type, e.source_locale, e.section, e.removed_at, "
            "e.archived_at FROM json_each(?) j CROSS JOIN edition d ON d.id = j.value JOIN entry e ON e.id = d.entry",
            (json.dumps(list(ids)),),
        ),
    )


def signed(
    conn: sqlite3.Connection, revisions: Iterable[int], until: int
) -> dict[int, dict[str, tuple[SignOff, ...]]]:
    """The sign-offs of revisions up to an instant where the hash still fits, by revision and by the stage that they are for."""
    given = conn.execute(
        "SELECT s.revision, s.stage, s.actor, s.roles, s.seen FROM json_each(?) j CROSS JOIN sign_off s ON s.revision = j.value "
        "JOIN revision r ON r.id = s.revision AND r.content_hash = s.content_hash WHERE s.at <= ? ORDER BY s.id",
        (json.dumps(list(revisions)), until),
    ).fetchall()
    stages = dict(conn.execute("SELECT id, name FROM stage").fetchall())
    people = {
        id: (name, handle)
        for id, name, handle in conn.execute(
            "SELECT a.id, a.name, a.handle FROM json_each(?) j CROSS JOIN actor a ON a.id = j.value",
            (json.dumps(sorted({row[2] for row in given})),),
        ).fetchall()
    }
    out: dict[int, dict[str, tuple[SignOff, ...]]] = {}
    for revision, stage, actor, roles, seen in given:
        mine, name = out.setdefault(revision, {}), stages[stage]
        mine[name] = (*mine.get(name, ()), _sign_off(actor, *people[actor], roles, seen))
    return out


@lru_cache(maxsize=1024)
def _sign_off(person: int, name: str, handle: str, roles: str, seen: str) -> SignOff:
    """One sign-off; few differ among those of many texts that show nothing of others."""
    return SignOff(
        person, name, tuple(json.loads(roles)), handle, {int(k): v for k, v in json.loads(seen).items()}
    )


def values(conn: sqlite3.Connection, revisions: Iterable[int]) -> dict[int, tuple[str, int]]:
    """The fields of revisions as JSON, and the version of the type that they were written in."""
    rows = conn.execute(
        "SELECT r.id, r.fields, r.type_version FROM json_each(?) j CROSS JOIN revision r ON r.id = j.value",
        (json.dumps(list(revisions)),),
    ).fetchall()
    return {row["id"]: (row["fields"], row["type_version"]) for row in rows}


def authors(conn: sqlite3.Connection, editions: Iterable[int]) -> dict[int, dict[int, int]]:
    """By edition and revision, who made it."""
    out: dict[int, dict[int, int]] = {}
    for row in conn.execute(
        "SELECT r.edition, r.id, r.actor FROM json_each(?) j CROSS JOIN revision r ON r.edition = j.value",
        (json.dumps(list(editions)),),
    ).fetchall():
        out.setdefault(row[0], {})[row[1]] = row[2]
    return out


def parents(conn: sqlite3.Connection, editions: Iterable[int]) -> dict[int, dict[int, tuple[int, ...]]]:
    """By edition and revision, the revisions that it came from, in order."""
    out: dict[int, dict[int, tuple[int, ...]]] = {}
    for row in conn.execute(
        "SELECT r.edition, p.revision, p.parent FROM json_each(?) j CROSS JOIN revision r ON r.edition = j.value "
        "JOIN revision_parent p ON p.revision = r.id ORDER BY p.revision, p.ord",
        (json.dumps(list(editions)),),
    ).fetchall():
        mine = out.setdefault(row[0], {})
        mine[row[1]] = (*mine.get(row[1], ()), row[2])
    return out


def referred(conn: sqlite3.Connection, uuids: Collection[str]) -> list[Referred]:
    """The editions of entries that are referred to: what is out of each, with the values of that, else of its draft."""
    return shaped.every(
        Referred,
        conn.execute(
            "SELECT e.id, e.uuid, e.type, e.source_locale, d.id AS edition, d.locale, st.revision, r.fields, m.title "
            "FROM json_each(?) j CROSS JOIN entry e ON e.uuid = j.value JOIN edition d ON d.entry = e.id "
            "LEFT JOIN standing st ON st.edition = d.id AND st.stage = 2 AND st.until IS NULL "
            "LEFT JOIN strand x ON x.edition = d.id AND x.name = 'draft' AND x.closed_at IS NULL "
            "LEFT JOIN revision r ON r.id = coalesce(st.revision, x.head) LEFT JOIN summary m ON m.edition = d.id",
            (json.dumps(sorted(uuids)),),
        ),
    )


def referring_to_any(conn: sqlite3.Connection, uuids: Collection[str], most: int) -> list[tuple[str, int]]:
    """The entries whose drafts refer to any of some entries, as (UUID that is referred to, entry)."""
    rows = conn.execute(
        "SELECT DISTINCT j.value, d.entry FROM json_each(?) j CROSS JOIN reference x ON x.target = j.value "
        "JOIN edition d ON d.id = x.edition JOIN entry e ON e.id = d.entry AND e.removed_at IS NULL LIMIT ?",
        (json.dumps(sorted(uuids)), most),
    ).fetchall()
    return [(row[0], row[1]) for row in rows]


def single(conn: sqlite3.Connection, types: Collection[str]) -> dict[str, str]:
    """The entry (UUID) of each type that has one."""
    rows = conn.execute(
        "SELECT type, uuid FROM entry WHERE removed_at IS NULL AND type IN (SELECT value FROM json_each(?))",
        (json.dumps(sorted(types)),),
    ).fetchall()
    return {row["type"]: row["uuid"] for row in rows}


def commons_out(conn: sqlite3.Connection, entries: Collection[int]) -> set[int]:
    """The entries whose shared fields are out."""
    rows = conn.execute(
        "SELECT DISTINCT d.entry FROM json_each(?) j CROSS JOIN edition d ON d.entry = j.value AND d.locale = '*' "
        "JOIN standing s ON s.edition = d.id AND s.stage = 2 AND s.until IS NULL",
        (json.dumps(sorted(entries)),),
    ).fetchall()
    return {row[0] for row in rows}


def entries(conn: sqlite3.Connection, ids: Collection[int]) -> list[EntryName]:
    """Entries with their types."""
    return shaped.every(
        EntryName,
        conn.execute(
            "SELECT e.id, e.uuid, e.type, e.source_locale FROM json_each(?) j CROSS JOIN entry e ON e.id = j.value",
            (json.dumps(sorted(ids)),),
        ),
    )


def ids(conn: sqlite3.Connection, uuids: Collection[str]) -> dict[str, int]:
    """Entries by UUID."""
    rows = conn.execute(
        "SELECT e.id, e.uuid FROM json_each(?) j CROSS JOIN entry e ON e.uuid = j.value",
        (json.dumps(sorted(uuids)),),
    ).fetchall()
    return {row["uuid"]: row["id"] for row in rows}


def moved_by(conn: sqlite3.Connection, verbs: Collection[str], at: int, but: int = 0) -> set[tuple[int, str]]:
    """Entries and locales that dispatches planned up to an instant, all but one, move with one of some verbs."""
    rows = conn.execute(
        "SELECT DISTINCT d.entry, d.locale FROM dispatch p CROSS JOIN move m ON m.dispatch = p.id "
        "AND m.verb IN (SELECT value FROM json_each(?)) JOIN edition d ON d.id = m.edition "
        f"WHERE p.state = 'planned' AND p.instant <= ? AND p.id <> ? AND {dispatches.GOES}",
        (json.dumps(list(verbs)), at, but),
    ).fetchall()
    return {(row["entry"], row["locale"]) for row in rows}


def moved_after(
    conn: sqlite3.Connection, editions: Iterable[int], verbs: Collection[str], at: int, beside: int = 0
) -> set[int]:
    """Which of some editions a dispatch that is planned after an instant moves with one of some verbs; `beside` is not looked at."""
    rows = conn.execute(
        "SELECT DISTINCT m.edition FROM json_each(?) j CROSS JOIN move m ON m.edition = j.value "
        "AND m.verb IN (SELECT value FROM json_each(?)) "
        "JOIN dispatch p ON p.id = m.dispatch AND p.state = 'planned' AND p.instant > ? AND p.id != ?",
        (json.dumps(list(editions)), json.dumps(list(verbs)), at, beside),
    ).fetchall()
    return {row[0] for row in rows}


def planned_at(
    conn: sqlite3.Connection, verbs: Collection[str], locale: str, parent: int, slug: str
) -> list[PlannedAddress]:
    """Entries that are drafted with an address and planned to go there, with the dispatch of each."""
    return shaped.every(
        PlannedAddress,
        conn.execute(
            "SELECT a.entry, p.name, s.title FROM address a JOIN edition d ON d.entry = a.entry AND d.locale = a.locale "
            "JOIN move m ON m.edition = d.id AND m.verb IN (SELECT value FROM json_each(?)) "
            "JOIN dispatch p ON p.id = m.dispatch AND p.state = 'planned' "
            "JOIN summary s ON s.edition = d.id WHERE a.stage = 1 AND a.locale = ? AND a.parent = ? AND a.slug = ? "
            "AND a.until IS NULL",
            (json.dumps(list(verbs)), locale, parent, slug),
        ),
    )


def not_out(conn: sqlite3.Connection, entries: Collection[int]) -> list[NotOut]:
    """The editions of some entries whose drafts hold something that is not out, in the order of entries and locales."""
    return shaped.every(
        NotOut,
        conn.execute(
            "SELECT d.id AS edition, d.entry, e.uuid, e.type, d.locale, coalesce(m.title, '') AS title FROM json_each(?) j "
            f"CROSS JOIN entry e ON e.id = j.value AND {AT_WORK} "
            "JOIN edition d ON d.entry = e.id AND d.locale <> '*' "
            "JOIN strand x ON x.edition = d.id AND x.name = 'draft' AND x.head IS NOT NULL "
            "LEFT JOIN standing s ON s.edition = d.id AND s.stage = 2 AND s.until IS NULL LEFT JOIN summary m ON m.edition = d.id "
            "WHERE s.revision IS NULL OR s.revision <> x.head ORDER BY d.entry, d.locale",
            (json.dumps(sorted(entries)),),
        ),
    )


def placed_below(conn: sqlite3.Connection, entries: Collection[int]) -> dict[int, int]:
    """What is placed right below some entries in its draft: each with the one that it is below."""
    rows = conn.execute(
        "SELECT p.entry, p.parent FROM json_each(?) j CROSS JOIN placed p ON p.parent = j.value AND p.stage = 1 AND p.until IS NULL",
        (json.dumps(sorted(entries)),),
    ).fetchall()
    return {row[0]: row[1] for row in rows}


def holders(conn: sqlite3.Connection, wanted: Iterable[tuple[int, str, int, str]]) -> list[Holder]:
    """Who has each of some addresses: stage, locale, parent and slug."""
    return shaped.every(
        Holder,
        conn.execute(
            "SELECT a.stage, a.locale, a.parent, a.slug, a.entry FROM json_each(?) j CROSS JOIN address a "
            "ON a.stage = j.value ->> 0 AND a.locale = j.value ->> 1 AND a.parent = j.value ->> 2 AND a.slug = j.value ->> 3 "
            "AND a.until IS NULL",
            (json.dumps([list(one) for one in wanted]),),
        ),
    )


def addresses(conn: sqlite3.Connection, entries: Collection[int], stage: int) -> list[Address]:
    """The addresses that entries have at a stage."""
    return shaped.every(
        Address,
        conn.execute(
            "SELECT a.entry, a.locale, a.parent, a.slug FROM json_each(?) j CROSS JOIN address a ON a.entry = j.value AND a.stage = ? "
            "AND a.until IS NULL",
            (json.dumps(sorted(entries)), stage),
        ),
    )


def addresses_below(
    conn: sqlite3.Connection, parents: Collection[int], locales: Sequence[str], stage: int
) -> list[Below]:
    """What has an address below some entries at a stage."""
    return shaped.every(
        Below,
        conn.execute(
            "SELECT a.parent, a.entry, a.locale FROM json_each(?1) j CROSS JOIN json_each(?2) l CROSS JOIN address a ON a.stage = ?3 "
            "AND a.locale = l.value AND a.parent = j.value AND a.until IS NULL ORDER BY a.parent, a.entry, a.locale",
            (json.dumps(sorted(parents)), json.dumps(list(locales)), stage),
        ),
    )


def parent(conn: sqlite3.Connection, entry: int, stage: int) -> int:
    """The entry that one is placed below at a stage; 0 at the root."""
    row = conn.execute(
        "SELECT parent FROM placed WHERE entry = ? AND stage = ? AND until IS NULL", (entry, stage)
    ).fetchone()
    return row[0] if row else 0


def placements(conn: sqlite3.Connection, entries: Collection[int], stage: int) -> list[SharedFields]:
    """The shared fields of entries as they stand at a stage, which say where each is placed."""
    return shaped.every(
        SharedFields,
        conn.execute(
            "SELECT d.entry, e.type, r.fields FROM json_each(?) j CROSS JOIN edition d ON d.entry = j.value AND d.locale = '*' "
            "JOIN entry e ON e.id = d.entry JOIN standing s ON s.edition = d.id AND s.stage = ? AND s.until IS NULL "
            "JOIN revision r ON r.id = s.revision",
            (json.dumps(sorted(entries)), stage),
        ),
    )
