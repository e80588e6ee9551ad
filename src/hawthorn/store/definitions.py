"""Locales, content types, stages, workflows and settings."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping
from dataclasses import asdict, replace
from functools import lru_cache

from hawthorn.core import contenttypes, pictures, shapes, workflow
from hawthorn.core import sites as places
from hawthorn.core.contenttypes import ContentType, FieldSet
from hawthorn.core.contenttypes.former import Mark
from hawthorn.core.dispatch import COMING
from hawthorn.core.errors import Invalid
from hawthorn.core.fields import Field
from hawthorn.core.locales import Locale
from hawthorn.core.pictures import Crop
from hawthorn.core.quick import dataclass
from hawthorn.core.sites import Site
from hawthorn.core.workflow import Choice, Workflow
from hawthorn.store import shaped


@dataclass(frozen=True, slots=True)
class KnownStage:
    """A stage: its name, what people call it, and its order."""

    id: int
    name: str
    label: str
    ord: int


def set_setting(conn: sqlite3.Connection, name: str, value: str) -> None:
    """Keep a setting in the file."""
    conn.execute(
        "INSERT INTO setting VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value",
        (name, value),
    )


def setting(conn: sqlite3.Connection, name: str, default: str = "") -> str:
    """A setting kept in the file."""
    row = conn.execute("SELECT value FROM setting WHERE name = ?", (name,)).fetchone()
    return row[0] if row else default


def add_locale(conn: sqlite3.Connection, tag: str, name: str) -> None:
    """Add a locale after those there are."""
    conn.execute(
        "INSERT OR IGNORE INTO locale (tag, name, ord) VALUES (?, ?, (SELECT coalesce(max(ord), 0) + 1 FROM locale))",
        (tag, name),
    )


def locales(conn: sqlite3.Connection) -> dict[str, Locale]:
    """The locales by tag, in their order; not those that have ended."""
    rows = conn.execute(
        "SELECT tag, name, direction, fallback FROM locale WHERE ended_at IS NULL ORDER BY ord"
    ).fetchall()
    return {
        row["tag"]: Locale(row["tag"], row["name"], row["direction"], tuple(json.loads(row["fallback"])))
        for row in rows
    }


def ended_locales(conn: sqlite3.Connection) -> set[str]:
    """The tags of locales that there were."""
    return {row[0] for row in conn.execute("SELECT tag FROM locale WHERE ended_at IS NOT NULL").fetchall()}


def set_locales(conn: sqlite3.Connection, wanted: Iterable[Locale], at: int) -> None:
    """Put locales in place of those there are, in this order; the others end."""
    some = list(wanted)
    for n, one in enumerate(some, 1):
        conn.execute(
            "INSERT INTO locale (tag, name, ord, direction, fallback) VALUES (?1, ?2, ?3, ?4, ?5) ON CONFLICT (tag) DO UPDATE SET "
            "name = ?2, ord = ?3, direction = ?4, fallback = ?5, ended_at = NULL",
            (one.tag, one.name, n, one.direction, json.dumps(list(one.fallback))),
        )
    conn.execute(
        "UPDATE locale SET ended_at = ? WHERE ended_at IS NULL AND tag NOT IN (SELECT value FROM json_each(?))",
        (at, json.dumps([one.tag for one in some])),
    )


def uses_of_locale(conn: sqlite3.Connection, tag: str) -> tuple[int, int, int, int, int]:
    """How many editions a locale has, how many of them are out, of how many entries it is the source, how many jobs
    into it are not finished, and how many dispatches with something of it may go yet."""
    row = conn.execute(
        "SELECT (SELECT count(*) FROM edition d JOIN entry e ON e.id = d.entry AND e.removed_at IS NULL WHERE d.locale = ?1), "
        "(SELECT count(*) FROM edition d JOIN standing s ON s.edition = d.id AND s.stage = 2 AND s.until IS NULL "
        "WHERE d.locale = ?1), (SELECT count(*) FROM entry WHERE source_locale = ?1 AND removed_at IS NULL), "
        "(SELECT count(*) FROM job WHERE locale = ?1 AND state NOT IN ('accepted', 'cancelled')), "
        "(SELECT count(DISTINCT p.id) FROM dispatch p JOIN move m ON m.dispatch = p.id JOIN edition d ON d.id = m.edition "
        "WHERE p.state IN (SELECT value FROM json_each(?2)) AND d.locale = ?1)",
        (tag, json.dumps(COMING)),
    ).fetchone()
    return row[0], row[1], row[2], row[3], row[4]


def add_type(conn: sqlite3.Connection, kind: ContentType, at: int, actor: int | None) -> None:
    """Record a version of a content type."""
    conn.execute(
        "INSERT INTO content_type VALUES (?, ?, ?, ?, ?)",
        (kind.name, kind.version, json.dumps(contenttypes.to_dict(kind)), at, actor),
    )


def uses_of_type(conn: sqlite3.Connection, name: str) -> tuple[int, int, int, int]:
    """How many entries are of a type, how many removed ones, and how many templates and saved lists name it."""
    row = conn.execute(
        "SELECT count(*) FILTER (WHERE removed_at IS NULL), count(*) FILTER (WHERE removed_at IS NOT NULL), "
        "(SELECT count(*) FROM template WHERE type = ?1 AND ended_at IS NULL), "
        "(SELECT count(*) FROM saved_list WHERE json_extract(query, '$.type') = ?1) FROM entry WHERE type = ?1",
        (name,),
    ).fetchone()
    return row[0], row[1], row[2], row[3]


def beside_drafts(conn: sqlite3.Connection, type: str) -> list[tuple[int, int, str]]:
    """What stands of entries of a type, or is to go, and is no head of a draft: each entry with the revision and its fields, as JSON."""
    rows = conn.execute(
        "SELECT e.id, r.id, r.fields FROM entry e JOIN edition d ON d.entry = e.id "
        "LEFT JOIN strand x ON x.edition = d.id AND x.name = 'draft' JOIN revision r ON r.edition = d.id AND r.id IS NOT x.head "
        "WHERE e.type = ?1 AND e.removed_at IS NULL AND r.id IN ("
        "SELECT s.revision FROM standing s WHERE s.edition = d.id AND s.until IS NULL UNION ALL SELECT m.revision FROM move m "
        "JOIN dispatch p ON p.id = m.dispatch AND p.state IN (SELECT value FROM json_each(?2)) WHERE m.edition = d.id)",
        (type, json.dumps(COMING)),
    ).fetchall()
    return [tuple(row) for row in rows]


def delete_type(conn: sqlite3.Connection, name: str) -> None:
    """Let a type go, in all its versions."""
    conn.execute("DELETE FROM content_type WHERE name = ?", (name,))
    conn.execute("DELETE FROM field_mark WHERE type = ?", (name,))


def delete_set(conn: sqlite3.Connection, name: str) -> None:
    """Let a field set go, in all its versions."""
    conn.execute("DELETE FROM field_set WHERE name = ?", (name,))


def add_set(conn: sqlite3.Connection, made: FieldSet, at: int, actor: int | None) -> None:
    """Record a version of a field set."""
    conn.execute(
        "INSERT INTO field_set VALUES (?, ?, ?, ?, ?)",
        (made.name, made.version, json.dumps(asdict(made)), at, actor),
    )


_KNOWN = 500
"""So many definitions are kept as they were understood: a change of one is no reason to read all of them again."""


def _set_definitions(conn: sqlite3.Connection) -> tuple[str, ...]:
    rows = conn.execute(
        "SELECT definition FROM field_set t WHERE version = "
        "(SELECT max(version) FROM field_set WHERE name = t.name) ORDER BY name"
    )
    return tuple(row[0] for row in rows)


@lru_cache(_KNOWN)
def _set(definition: str) -> FieldSet:
    return contenttypes.set_from_dict(json.loads(definition))


@lru_cache(_KNOWN)
def _type(definition: str, sets: tuple[str, ...]) -> ContentType:
    return contenttypes.from_dict(json.loads(definition), {one.name: one for one in map(_set, sets)})


def sets(conn: sqlite3.Connection) -> dict[str, FieldSet]:
    """The newest version of every field set, by name."""
    return {one.name: one for one in map(_set, _set_definitions(conn))}


def types(conn: sqlite3.Connection) -> dict[str, ContentType]:
    """The newest version of every content type, by name."""
    rows = conn.execute(
        "SELECT definition FROM content_type t WHERE version = "
        "(SELECT max(version) FROM content_type WHERE name = t.name) ORDER BY name"
    ).fetchall()
    known = _set_definitions(conn)
    before = marks(conn)
    made = {kind.name: kind for kind in (_type(row[0], known) for row in rows)}
    return {name: replace(one, marks=before[name]) if name in before else one for name, one in made.items()}


def marks(conn: sqlite3.Connection) -> dict[str, dict[str, list[Mark]]]:
    """What fields of types were before, by type and field, the oldest first."""
    out: dict[str, dict[str, list[Mark]]] = {}
    for type, field, revision, definition in conn.execute(
        "SELECT type, field, revision, definition FROM field_mark ORDER BY type, field, revision"
    ):
        out.setdefault(type, {}).setdefault(field, []).append(Mark(revision, _field(definition)))
    return out


@lru_cache(_KNOWN)
def _field(definition: str) -> Field:
    made, problems = shapes.shaped(Field, json.loads(definition), "field")
    if made is None:
        raise Invalid(problems)
    return made


def mark(conn: sqlite3.Connection, type: str, fields: Iterable[Field]) -> None:
    """Note what fields of a type were in all revisions that there are."""
    conn.executemany(
        "INSERT OR IGNORE INTO field_mark SELECT ?1, ?2, coalesce(max(id), 0), ?3 FROM revision",
        [(type, one.name, json.dumps(asdict(one))) for one in fields],
    )


def last_field(conn: sqlite3.Connection, type: str, name: str, before: int) -> Field | None:
    """What a field of a type was that it had no more before an instant, of its own or of a set: as it was last."""
    own = conn.execute(
        "SELECT f.value FROM content_type t, json_each(t.definition, '$.fields') f "
        "WHERE t.name = ? AND json_extract(f.value, '$.name') = ? AND t.at < ? ORDER BY t.version DESC LIMIT 1",
        (type, name, before),
    ).fetchone()
    found = (
        own
        or conn.execute(
            "SELECT f.value FROM field_set s, json_each(s.definition, '$.fields') f WHERE s.name IN "
            "(SELECT n.value FROM content_type t, json_each(t.definition, '$.sets') n WHERE t.name = ?) "
            "AND json_extract(f.value, '$.name') = ? AND s.at < ? ORDER BY s.at DESC LIMIT 1",
            (type, name, before),
        ).fetchone()
    )
    return _field(found[0]) if found is not None else None


def add_workflow(conn: sqlite3.Connection, flow: Workflow, at: int) -> None:
    """Record a version of a workflow, and its stages; a stage has one order in all workflows and is called as here last."""
    for stage in flow.stages:
        conn.execute(
            "INSERT INTO stage (name, label, ord) VALUES (?, ?, ?) ON CONFLICT (name) DO UPDATE SET label = excluded.label",
            (stage.name, stage.label, stage.order),
        )
    conn.execute(
        "INSERT INTO workflow (name, version, definition, at) VALUES (?, ?, ?, ?)",
        (flow.name, flow.version, json.dumps(workflow.to_dict(flow)), at),
    )


def last_version(conn: sqlite3.Connection, name: str) -> int:
    """The newest version of a workflow, ended or not; 0 when there never was one of that name."""
    version: int = conn.execute(
        "SELECT coalesce(max(version), 0) FROM workflow WHERE name = ?", (name,)
    ).fetchone()[0]
    return version


def end_workflow(conn: sqlite3.Connection, name: str, at: int) -> None:
    """End a workflow; its versions stay on record."""
    conn.execute("UPDATE workflow SET ended_at = ? WHERE name = ? AND ended_at IS NULL", (at, name))


def workflows(conn: sqlite3.Connection) -> dict[str, Workflow]:
    """The newest version of every workflow that has not ended, by name."""
    rows = conn.execute(
        "SELECT definition FROM workflow w WHERE version = "
        "(SELECT max(version) FROM workflow WHERE name = w.name) AND ended_at IS NULL ORDER BY name"
    )
    made = (workflow.from_dict(json.loads(row[0])) for row in rows)
    return {flow.name: flow for flow in made}


def set_choices(conn: sqlite3.Connection, made: Iterable[Choice]) -> None:
    """Keep which workflows are followed, in place of what was before."""
    set_setting(conn, "choices", json.dumps([asdict(c) for c in made], ensure_ascii=False))


def choices(conn: sqlite3.Connection) -> tuple[Choice, ...]:
    """Which workflows are followed, besides those that types name."""
    return tuple(Choice(**raw) for raw in json.loads(setting(conn, "choices", "[]")))


def set_crops(conn: sqlite3.Connection, crops: Mapping[str, Crop]) -> None:
    """Keep the crops in place of those before."""
    set_setting(conn, "crops", json.dumps(pictures.to_list(crops.values()), ensure_ascii=False))


def crops(conn: sqlite3.Connection) -> dict[str, Crop]:
    """The crops in which pictures are shown, by name."""
    return pictures.from_list(json.loads(setting(conn, "crops", "[]")))


def set_sites(conn: sqlite3.Connection, made: Mapping[str, Site]) -> None:
    """Keep the sites in place of those before."""
    set_setting(conn, "sites", json.dumps(places.to_list(made.values()), ensure_ascii=False))


def sites(
    conn: sqlite3.Connection, types: Mapping[str, ContentType], stages: Iterable[str]
) -> dict[str, Site]:
    """Where pages are seen, by name. An address for a type or with a field that is no more is left out."""
    found = json.loads(setting(conn, "sites", "[]"))
    for one in found:
        one["addresses"] = {
            type: template
            for type, template in one["addresses"].items()
            if not places.problems_of(type, template, types, type)
        }
    kept = [one for one in found if one["addresses"]]
    return places.from_list(kept, types, [*stages])


def stages(conn: sqlite3.Connection) -> dict[str, KnownStage]:
    """All stages by name."""
    found = shaped.every(KnownStage, conn.execute("SELECT * FROM stage ORDER BY ord"))
    return {one.name: one for one in found}
