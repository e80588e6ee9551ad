"""What stands where and when, and the narrow rows for lists and addresses that follow from it."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import Standing
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class StandingLine:
    """A standing as a history shows it."""

    id: int
    edition: int
    stage: int
    revision: int
    since: int
    until: int | None
    committed_at: int
    opened_by: int | None
    closed_by: int | None
    stage_name: str
    number: int


@dataclass(frozen=True, slots=True)
class InTheWay:
    """What has an address already."""

    entry: int
    slug: str
    locale: str
    stage: int


@dataclass(frozen=True, slots=True)
class There:
    """An edition at a stage: its slug, if it has one, and for shared fields all of them, as JSON."""

    entry: int
    type: str
    locale: str
    slug: str | None
    fields: str | None


@dataclass(frozen=True, slots=True)
class LocaleOut:
    """A locale in which an entry is out."""

    entry: int
    locale: str


@dataclass(frozen=True, slots=True)
class AddressIn:
    """An address in a locale, below an entry."""

    locale: str
    parent: int
    slug: str


@dataclass(frozen=True, slots=True)
class Rival:
    """What else has an address, at which stage."""

    entry: int
    stage: int


@dataclass(frozen=True, slots=True)
class Values:
    """The fields of an edition, as JSON, with its source's locale."""

    edition: int
    entry: int
    type: str
    locale: str
    source_locale: str
    fields: str
    revision: int


DRAFT, RELEASE = 1, 2


def now_at(conn: sqlite3.Connection, editions: Iterable[int]) -> dict[int, dict[int, Standing]]:
    """Everything that stands now, by edition and stage id."""
    rows = conn.execute(
        "SELECT s.* FROM json_each(?) j CROSS JOIN standing s ON s.edition = j.value AND s.until IS NULL",
        (json.dumps(list(editions)),),
    )
    out: dict[int, dict[int, Standing]] = {}
    for one in shaped.every(Standing, rows):
        out.setdefault(one.edition, {})[one.stage] = one
    return out


def stood_at(
    conn: sqlite3.Connection, editions: Iterable[int], instant: int
) -> dict[int, dict[int, Standing]]:
    """Everything that stood at an instant, by edition and stage id: of each the latest since, if it had not ended by then."""
    rows = conn.execute(
        "SELECT s.* FROM json_each(?1) j CROSS JOIN stage g JOIN standing s ON s.id = (SELECT t.id FROM standing t "
        "WHERE t.edition = j.value AND t.stage = g.id AND t.since <= ?2 ORDER BY t.since DESC, t.id DESC LIMIT 1) "
        "WHERE s.until IS NULL OR s.until > ?2",
        (json.dumps(list(editions)), instant),
    )
    out: dict[int, dict[int, Standing]] = {}
    for one in shaped.every(Standing, rows):
        out.setdefault(one.edition, {})[one.stage] = one
    return out


def at_stage(conn: sqlite3.Connection, editions: Iterable[int], stage: int) -> set[int]:
    """Those of some editions that stand at a stage now."""
    rows = conn.execute(
        "SELECT s.edition FROM json_each(?) j CROSS JOIN standing s ON s.edition = j.value AND s.stage = ? AND s.until IS NULL",
        (json.dumps(list(editions)), stage),
    ).fetchall()
    return {row[0] for row in rows}


def editions_out(conn: sqlite3.Connection, entries: Iterable[int]) -> set[tuple[int, int]]:
    """The editions of some entries that are out, without those of shared fields, as (entry, edition)."""
    rows = conn.execute(
        "SELECT d.entry, d.id FROM json_each(?) j CROSS JOIN edition d ON d.entry = j.value AND d.locale <> '*' "
        "JOIN standing s ON s.edition = d.id AND s.stage = ? AND s.until IS NULL",
        (json.dumps(list(entries)), RELEASE),
    ).fetchall()
    return {(row[0], row[1]) for row in rows}


def at(conn: sqlite3.Connection, edition: int, stage: int, instant: int) -> Standing | None:
    """What stood at a stage at an instant, by the latest since."""
    cursor = conn.execute(
        "SELECT * FROM standing WHERE edition = ? AND stage = ? AND since <= ? ORDER BY since DESC, id DESC LIMIT 1",
        (edition, stage, instant),
    )
    found = shaped.one(Standing, cursor)
    return found if found and (found.until is None or found.until > instant) else None


def history(conn: sqlite3.Connection, edition: int) -> list[StandingLine]:
    """Every standing of an edition, newest first, with what opened and closed it."""
    return shaped.every(
        StandingLine,
        conn.execute(
            "SELECT s.*, g.name AS stage_name, r.number FROM standing s JOIN stage g ON g.id = s.stage "
            "JOIN revision r ON r.id = s.revision WHERE s.edition = ? ORDER BY s.since DESC, s.id DESC",
            (edition,),
        ),
    )


def close(conn: sqlite3.Connection, ids: Sequence[int], until: int, dispatch: int | None) -> None:
    """Close standings. One that opened at or after that instant ends as it began."""
    conn.executemany(
        "UPDATE standing SET until = max(since, ?), closed_by = ? WHERE id = ? AND until IS NULL",
        [(until, dispatch, id) for id in ids],
    )


def open_all(
    conn: sqlite3.Connection,
    openings: Iterable[tuple[int, int, int]],
    since: int,
    committed: int,
    dispatch: int | None,
) -> None:
    """Open standings given as (edition, stage, revision)."""
    conn.executemany(
        "INSERT INTO standing (edition, stage, revision, since, committed_at, opened_by) VALUES (?, ?, ?, ?, ?, ?)",
        [(edition, stage, revision, since, committed, dispatch) for edition, stage, revision in openings],
    )


def relist(conn: sqlite3.Connection, entries: Sequence[int], stage: int, since: int) -> None:
    """Bring the list rows of some entries at a stage in line with what stands there."""
    ids = json.dumps(list(entries))
    conn.execute(
        "UPDATE listed SET until = ?1 WHERE stage = ?2 AND until IS NULL AND entry IN (SELECT value FROM json_each(?3)) "
        "AND NOT EXISTS (SELECT 1 FROM standing s WHERE s.edition = listed.edition AND s.stage = ?2 AND s.until IS NULL)",
        (since, stage, ids),
    )
    conn.execute(
        "INSERT INTO listed (section, stage, type, locale, sort, edition, entry, since) "
        "SELECT e.section, ?2, e.type, d.locale, "
        "(SELECT min(f.since) FROM standing f WHERE f.edition = d.id AND f.stage = ?2), d.id, e.id, ?1 "
        "FROM json_each(?3) j CROSS JOIN entry e ON e.id = j.value JOIN edition d ON d.entry = e.id "
        "JOIN standing s ON s.edition = d.id AND s.stage = ?2 AND s.until IS NULL "
        "WHERE d.locale <> '*' AND NOT EXISTS "
        "(SELECT 1 FROM listed l WHERE l.edition = d.id AND l.stage = ?2 AND l.until IS NULL)",
        (since, stage, ids),
    )


_VALUES = (
    "SELECT d.id AS edition, d.entry, e.type, d.locale, e.source_locale, r.fields, r.id AS revision "
    "FROM json_each(?) j CROSS JOIN entry e ON e.id = j.value AND e.type IN (SELECT value FROM json_each(?)) JOIN edition d ON d.entry = e.id "
)


def values_at(
    conn: sqlite3.Connection, entries: Iterable[int], types: Iterable[str], stage: int
) -> list[Values]:
    """The fields of the editions of entries of some types that stand at a stage."""
    return shaped.every(
        Values,
        conn.execute(
            _VALUES
            + "JOIN standing s ON s.edition = d.id AND s.stage = ? AND s.until IS NULL JOIN revision r ON r.id = s.revision",
            (json.dumps(list(entries)), json.dumps(sorted(types)), stage),
        ),
    )


def values_in_draft(conn: sqlite3.Connection, entries: Iterable[int], types: Iterable[str]) -> list[Values]:
    """The fields of the drafts of entries of some types."""
    return shaped.every(
        Values,
        conn.execute(
            _VALUES
            + "JOIN strand s ON s.edition = d.id AND s.name = 'draft' JOIN revision r ON r.id = s.head",
            (json.dumps(list(entries)), json.dumps(sorted(types))),
        ),
    )


def list_as(
    conn: sqlite3.Connection, stage: int, shown: Iterable[tuple[int, bool, int | None]], since: int
) -> None:
    """Let the list rows of entries say whether they are pinned and which date is shown (None: that of the first
    standing), given as (entry, pinned, sort). Rows that say so already stay open."""
    for entry, pinned, sort in shown:
        rows = conn.execute(
            "SELECT l.*, (SELECT min(f.since) FROM standing f WHERE f.edition = l.edition AND f.stage = l.stage) AS first "
            "FROM listed l WHERE l.entry = ? AND l.stage = ? AND l.until IS NULL",
            (entry, stage),
        ).fetchall()
        for row in rows:
            wanted = row["first"] if sort is None else sort
            if (row["pinned"], row["sort"]) == (int(pinned), wanted):
                continue
            conn.execute("UPDATE listed SET until = ? WHERE id = ?", (since, row["id"]))
            conn.execute(
                "INSERT INTO listed (section, stage, type, locale, sort, edition, entry, since, pinned) "
                "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
                (
                    row["section"],
                    stage,
                    row["type"],
                    row["locale"],
                    wanted,
                    row["edition"],
                    entry,
                    since,
                    int(pinned),
                ),
            )


def readdress(
    conn: sqlite3.Connection,
    wanted: dict[tuple[int, str], tuple[int, str]],
    entries: Sequence[int],
    stage: int,
    since: int,
) -> set[int]:
    """Bring addresses in line: `wanted` maps (entry, locale) to (parent, slug). All that changed close before any
    opens, so that swaps work; returns the entries whose address changed."""
    rows = conn.execute(
        "SELECT a.id, a.entry, a.locale, a.parent, a.slug FROM json_each(?) j CROSS JOIN address a ON a.entry = j.value "
        "AND a.stage = ? AND a.until IS NULL",
        (json.dumps(list(entries)), stage),
    ).fetchall()
    have = {(r["entry"], r["locale"]): (r["parent"], r["slug"]) for r in rows}
    moved = [r for r in rows if wanted.get((r["entry"], r["locale"])) != (r["parent"], r["slug"])]
    opening = {key: value for key, value in wanted.items() if have.get(key) != value}
    conn.executemany("UPDATE address SET until = ? WHERE id = ?", [(since, r["id"]) for r in moved])
    conn.executemany(
        "INSERT INTO address (stage, locale, parent, slug, entry, since) VALUES (?, ?, ?, ?, ?, ?)",
        [(stage, locale, parent, slug, entry, since) for (entry, locale), (parent, slug) in opening.items()],
    )
    return {r["entry"] for r in moved} | {entry for entry, _ in opening}


def replace_places(
    conn: sqlite3.Connection,
    wanted: dict[int, tuple[int, str]],
    entries: Sequence[int],
    stage: int,
    since: int,
) -> None:
    """Bring placements in the outline in line: `wanted` maps an entry to the entry it is below (0 at the root) and its
    rank."""
    rows = conn.execute(
        "SELECT p.id, p.entry, p.parent, p.rank FROM json_each(?) j CROSS JOIN placed p ON p.entry = j.value AND p.stage = ? "
        "AND p.until IS NULL",
        (json.dumps(list(entries)), stage),
    ).fetchall()
    have = {r["entry"]: (r["parent"], r["rank"]) for r in rows}
    closing = [(since, r["id"]) for r in rows if wanted.get(r["entry"]) != (r["parent"], r["rank"])]
    opening = [(e, stage, *place, since) for e, place in wanted.items() if have.get(e) != place]
    conn.executemany("UPDATE placed SET until = ? WHERE id = ?", closing)
    conn.executemany("INSERT INTO placed (entry, stage, parent, rank, since) VALUES (?, ?, ?, ?, ?)", opening)


def taken(
    conn: sqlite3.Connection, stage: int, locale: str, parent: int, slug: str, at: int | None = None
) -> int | None:
    """The entry that has an address at a stage now, or had it at an instant."""
    if at is None:
        row = conn.execute(
            "SELECT entry FROM address WHERE stage = ? AND locale = ? AND parent = ? AND slug = ? AND until IS NULL "
            "ORDER BY since DESC LIMIT 1",
            (stage, locale, parent, slug),
        ).fetchone()
    else:
        row = conn.execute(
            "SELECT entry FROM address WHERE stage = ?1 AND locale = ?2 AND parent = ?3 AND slug = ?4 AND since <= ?5 "
            "AND (until IS NULL OR until > ?5) ORDER BY since DESC LIMIT 1",
            (stage, locale, parent, slug, at),
        ).fetchone()
    return row[0] if row else None


def formerly(conn: sqlite3.Connection, stage: int, locale: str, parent: int, slug: str) -> int | None:
    """The entry that had an address most lately and is still out."""
    row = conn.execute(
        "SELECT a.entry FROM address a WHERE a.stage = ?1 AND a.locale = ?2 AND a.parent = ?3 AND a.slug = ?4 "
        "AND EXISTS (SELECT 1 FROM address n WHERE n.entry = a.entry AND n.stage = ?1 AND n.until IS NULL) "
        "ORDER BY a.since DESC LIMIT 1",
        (stage, locale, parent, slug),
    ).fetchone()
    return row[0] if row else None


def is_out(conn: sqlite3.Connection, entry: int) -> bool:
    """Whether any edition of an entry is out now."""
    return (
        conn.execute(
            "SELECT 1 FROM edition d JOIN standing s ON s.edition = d.id AND s.stage = ? AND s.until IS NULL "
            "WHERE d.entry = ? AND d.locale <> '*' LIMIT 1",
            (RELEASE, entry),
        ).fetchone()
        is not None
    )


def address_of(
    conn: sqlite3.Connection, entry: int, stage: int, locale: str, at: int | None = None
) -> tuple[int, str] | None:
    """The parent and slug of an entry at a stage now, or at an instant."""
    if at is None:
        row = conn.execute(
            "SELECT parent, slug FROM address WHERE entry = ? AND stage = ? AND locale = ? AND until IS NULL",
            (entry, stage, locale),
        ).fetchone()
    else:
        row = conn.execute(
            "SELECT parent, slug FROM address WHERE entry = ?1 AND stage = ?2 AND locale = ?3 AND since <= ?4 "
            "AND (until IS NULL OR until > ?4) ORDER BY since DESC LIMIT 1",
            (entry, stage, locale, at),
        ).fetchone()
    return (row[0], row[1]) if row else None


def note_changes(
    conn: sqlite3.Connection, changes: Iterable[tuple[int, int, str]], seq: int, since: int
) -> None:
    """Record that something bodies may depend on changed: (stage, entry, facet)."""
    conn.executemany(
        "INSERT OR IGNORE INTO change (stage, target, facet, seq, since) VALUES (?, ?, ?, ?, ?)",
        [(stage, target, facet, seq, since) for stage, target, facet in changes],
    )


def stood(conn: sqlite3.Connection, entry: int) -> bool:
    """Whether anything of an entry ever stood at a stage."""
    row = conn.execute(
        "SELECT 1 FROM edition d JOIN standing s ON s.edition = d.id WHERE d.entry = ? LIMIT 1", (entry,)
    ).fetchone()
    return row is not None


def there(
    conn: sqlite3.Connection, entries: Iterable[int], stage: int, slugs: Mapping[str, str]
) -> list[There]:
    """What stands of some entries at a stage; `slugs` names the field that holds the slug, by type."""
    return shaped.every(
        There,
        conn.execute(
            "SELECT d.entry, e.type, d.locale, iif(d.locale <> '*', r.fields ->> k.value, NULL) AS slug, "
            "iif(d.locale = '*', r.fields, NULL) AS fields FROM json_each(?) j CROSS JOIN edition d ON d.entry = j.value "
            "JOIN standing s ON s.edition = d.id AND s.stage = ? AND s.until IS NULL JOIN revision r ON r.id = s.revision "
            "JOIN entry e ON e.id = d.entry LEFT JOIN json_each(?) k ON k.key = e.type",
            (json.dumps(list(entries)), stage, json.dumps({t: f"$.{name}" for t, name in slugs.items()})),
        ),
    )


def addresses_of(conn: sqlite3.Connection, entry: int, stage: int) -> list[AddressIn]:
    """The addresses of an entry at a stage."""
    return shaped.every(
        AddressIn,
        conn.execute(
            "SELECT locale, parent, slug FROM address WHERE entry = ? AND stage = ? AND until IS NULL",
            (entry, stage),
        ),
    )


def locales_out(conn: sqlite3.Connection, entries: Collection[Any]) -> list[LocaleOut]:
    """The locales in which entries are out."""
    return shaped.every(
        LocaleOut,
        conn.execute(
            "SELECT d.entry, d.locale FROM json_each(?) j CROSS JOIN edition d ON d.entry = j.value AND d.locale <> '*' "
            "JOIN standing s ON s.edition = d.id AND s.stage = 2 AND s.until IS NULL ORDER BY d.locale",
            (json.dumps(list(entries)),),
        ),
    )


def in_the_way(conn: sqlite3.Connection, parent: int, entry: int) -> InTheWay | None:
    """What has the address already that an entry would get below another."""
    return shaped.one(
        InTheWay,
        conn.execute(
            "SELECT o.entry, o.slug, o.locale, o.stage FROM address a CROSS JOIN address o ON o.stage IN (1, 2) AND o.locale = a.locale "
            "AND o.parent = ? AND o.slug = a.slug AND o.until IS NULL AND o.entry <> a.entry "
            "JOIN entry e ON e.id = o.entry AND e.removed_at IS NULL "
            "WHERE a.entry = ? AND a.stage = 1 AND a.until IS NULL AND a.parent <> ? ORDER BY o.stage DESC LIMIT 1",
            (parent, entry, parent),
        ),
    )


def named_in_source(conn: sqlite3.Connection, stage: int, parent: int, slug: str, locale: str) -> int | None:
    """The entry that has an address in its source language and none in a locale."""
    row = conn.execute(
        "SELECT a.entry FROM address a JOIN entry e ON e.id = a.entry AND e.source_locale = a.locale "
        "WHERE a.stage = ? AND a.parent = ? AND a.slug = ? AND a.until IS NULL AND a.locale <> ? AND NOT EXISTS "
        "(SELECT 1 FROM address o WHERE o.entry = a.entry AND o.stage = a.stage AND o.locale = ? AND o.until IS NULL) LIMIT 1",
        (stage, parent, slug, locale, locale),
    ).fetchone()
    return None if row is None else int(row[0])


def first_out(conn: sqlite3.Connection, stage: int, entry: int, at: int) -> int | None:
    """When an entry first stood at a stage, up to an instant."""
    row = conn.execute(
        "SELECT min(s.since) FROM edition d JOIN standing s ON s.edition = d.id AND s.stage = ? "
        "WHERE d.entry = ? AND d.locale <> '*' AND s.since <= ?",
        (stage, entry, at),
    ).fetchone()
    return None if row[0] is None else int(row[0])


def revision_at(conn: sqlite3.Connection, edition: int, stage: int) -> int | None:
    """The revision of an edition at a stage."""
    row = conn.execute(
        "SELECT revision FROM standing WHERE edition = ? AND stage = ? AND until IS NULL", (edition, stage)
    ).fetchone()
    return None if row is None else int(row[0])


def rivals(conn: sqlite3.Connection, locale: str, parent: int, slug: str, entry: int) -> list[Rival]:
    """What else has an address, what is out first."""
    return shaped.every(
        Rival,
        conn.execute(
            "SELECT entry, stage FROM address WHERE locale = ? AND parent = ? AND slug = ? AND until IS NULL AND entry <> ? "
            "ORDER BY stage DESC LIMIT 1",
            (locale, parent, slug, entry),
        ),
    )


def parents_in_draft(conn: sqlite3.Connection, entries: Iterable[int]) -> dict[int, int]:
    """The entries below which others are drafted, for those that are not at the top."""
    rows = conn.execute(
        "SELECT p.entry, p.parent FROM json_each(?) j CROSS JOIN placed p ON p.entry = j.value AND p.stage = ? AND p.until IS NULL "
        "WHERE p.parent <> 0",
        (json.dumps(list(entries)), DRAFT),
    ).fetchall()
    return {row[0]: row[1] for row in rows}
