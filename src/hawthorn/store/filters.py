"""Filters of a list of entries: each a condition on `s` (summary) and `e` (entry), and how to get the editions that it leaves
where those may be few. Where a filter leaves few, those are looked at one by one; where all leave many, the newest are walked."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.store import dispatches


@dataclass(frozen=True, slots=True)
class Filter:
    """One filter: a condition, its values, and the statement (of the same values) that gives the editions it leaves, if few."""

    sql: str
    values: tuple[Any, ...] = ()
    few: str = ""


IN_SOURCE = Filter("s.is_source = 1")
THERE = Filter("e.removed_at IS NULL")
NOT_ARCHIVED = Filter("e.archived_at IS NULL")
ARCHIVED = Filter(
    "e.archived_at IS NOT NULL",
    (),
    "SELECT d.id FROM entry e JOIN edition d ON d.entry = e.id AND d.locale <> '*' WHERE e.archived_at IS NOT NULL",
)
IN_NO_STAGE = Filter("NOT EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.until IS NULL)")
INCOMPLETE = Filter("s.incomplete = 1", (), "SELECT s.edition FROM summary s WHERE s.incomplete = 1")
BEHIND = Filter("s.behind = 1", (), "SELECT s.edition FROM summary s WHERE s.behind = 1")
IN_NO_FOLDER = Filter("NOT EXISTS (SELECT 1 FROM filed x WHERE x.entry = s.entry)")

_PLANNED = "FROM dispatch p CROSS JOIN move m ON m.dispatch = p.id WHERE p.state = 'planned'"
PLANNED = Filter(
    "EXISTS (SELECT 1 FROM move m JOIN dispatch p ON p.id = m.dispatch AND p.state = 'planned' "
    "WHERE m.edition = s.edition)",
    (),
    f"SELECT DISTINCT m.edition {_PLANNED}",
)

_OUT = "EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.stage = 2 AND t.until IS NULL)"
_ENDS = (
    "EXISTS (SELECT 1 FROM move m JOIN dispatch p ON p.id = m.dispatch AND p.state = 'planned' "
    "WHERE m.edition = s.edition AND m.verb IN (SELECT value FROM json_each(?)))"
)
OVER = Filter(
    f"NOT {_OUT} AND EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.stage = 2)",
    (),
    "SELECT DISTINCT t.edition FROM listed t WHERE t.stage = 2 AND t.until IS NOT NULL "
    "AND NOT EXISTS (SELECT 1 FROM listed n WHERE n.edition = t.edition AND n.stage = 2 AND n.until IS NULL)",
)


def ending(verbs: Sequence[str]) -> Filter:
    """What is planned to be touched by one of some verbs."""
    few = f"SELECT DISTINCT m.edition {_PLANNED} AND m.verb IN (SELECT value FROM json_each(?))"
    return Filter(_ENDS, (json.dumps(list(verbs)),), few)


def endless(verbs: Sequence[str]) -> Filter:
    """What is out, and not planned to be touched by one of some verbs."""
    return Filter(f"{_OUT} AND NOT {_ENDS}", (json.dumps(list(verbs)),))


def of_type(type: str) -> Filter:
    """Entries of a type."""
    return Filter(
        "s.type = ?", (type,), "SELECT s.edition FROM summary s WHERE s.locale <> '*' AND s.type = ?"
    )


def of_types(types: Sequence[str]) -> Filter:
    """Entries of some types."""
    return Filter(
        "s.type IN (SELECT value FROM json_each(?))",
        (json.dumps(list(types)),),
        "SELECT s.edition FROM summary s WHERE s.locale <> '*' AND s.type IN (SELECT value FROM json_each(?))",
    )


def in_locale(locale: str) -> Filter:
    """Editions in a locale."""
    return Filter("s.locale = ?", (locale,), "SELECT s.edition FROM summary s WHERE s.locale = ?")


def changed_by(actor: int) -> Filter:
    """Editions whose draft somebody changed last."""
    return Filter(
        "s.actor = ?", (actor,), "SELECT s.edition FROM summary s WHERE s.locale <> '*' AND s.actor = ?"
    )


def at_stage(stage: int) -> Filter:
    """Editions that stand at a stage."""
    return Filter(
        "EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.until IS NULL AND t.stage = ?)",
        (stage,),
        "SELECT l.edition FROM listed l WHERE l.until IS NULL AND l.stage = ?",
    )


def existed(at: int) -> Filter:
    """Entries that had begun by an instant and were not removed."""
    return Filter("e.created_at <= ? AND (e.removed_at IS NULL OR e.removed_at > ?)", (at, at))


def not_archived_at(at: int) -> Filter:
    """Entries that were not in the archive at an instant."""
    return Filter("(e.archived_at IS NULL OR e.archived_at > ?)", (at,))


def stood_at(stage: int, at: int) -> Filter:
    """Editions that stood at a stage at an instant."""
    return Filter(
        "EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.stage = ? AND t.since <= ? "
        "AND (t.until IS NULL OR t.until > ?))",
        (stage, at, at),
    )


_BY = (
    "FROM move m JOIN dispatch p ON p.id = m.dispatch WHERE m.edition = s.edition AND p.state = 'planned' AND p.instant <= ? "
    f"AND {dispatches.GOES} AND "
)
"""What is planned for an edition until an instant."""


def will_stand_at(stage: int, leading: Sequence[str], clearing: Sequence[str], at: int) -> Filter:
    """Editions that will stand at a stage at an instant, by what is planned until then: the last move there decides, or the last with a verb
    that clears it of what led further on, or clears all; without any, what stands there now."""
    now = (
        "EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.until IS NULL AND t.stage = ?{})"
    )
    return Filter(
        "coalesce((SELECT CASE m.stage WHEN ? THEN m.verb IN (SELECT value FROM json_each(?)) ELSE "
        f"{now.format(' AND t.revision > m.revision AND NOT m.follows')} END {_BY} (m.stage = ? OR m.verb IN (SELECT value FROM json_each(?))) "
        f"ORDER BY p.instant DESC, p.id DESC LIMIT 1), {now.format('')})",
        (stage, json.dumps(list(leading)), stage, at, stage, json.dumps(list(clearing)), stage),
    )


_MOVED_BY = f"EXISTS (SELECT 1 {_BY} m.verb IN (SELECT value FROM json_each(?)))"


def not_to_go_by(verbs: Sequence[str], at: int) -> Filter:
    """Entries that are not planned to be put away, by one of some verbs, until an instant."""
    return Filter(f"NOT {_MOVED_BY}", (at, json.dumps(list(verbs))))


def archived_by(verbs: Sequence[str], at: int) -> Filter:
    """Entries that are in the archive, or planned to be put there, by one of some verbs, until an instant."""
    return Filter(f"(e.archived_at IS NOT NULL OR {_MOVED_BY})", (at, json.dumps(list(verbs))))


def in_section(uuid: str) -> Filter:
    """Entries of a section."""
    return Filter(
        "e.section = (SELECT id FROM entry WHERE uuid = ?)",
        (uuid,),
        "SELECT d.id FROM entry e JOIN edition d ON d.entry = e.id AND d.locale <> '*' "
        "WHERE e.section = (SELECT id FROM entry WHERE uuid = ?)",
    )


NOTHING = Filter("0")


def entries_matching(match: str, allowed: tuple[str, Sequence[Any]]) -> Filter:
    """Entries that the index of words finds in an edition that may be read (a condition on `o`, the entry, and `x`, the edition)."""
    found = (
        "SELECT o.id FROM search_text t CROSS JOIN search_row r ON r.id = t.rowid CROSS JOIN edition x ON x.id = r.edition "
        f"CROSS JOIN entry o ON o.id = x.entry WHERE t.search_text MATCH ? AND {allowed[0]}"
    )
    return Filter(
        f"s.entry IN ({found})",
        (match, *allowed[1]),
        f"SELECT d.id FROM (SELECT DISTINCT id FROM ({found})) f CROSS JOIN edition d ON d.entry = f.id AND d.locale <> '*'",
    )


def tagged(tag: str) -> Filter:
    """Entries that bear a tag, in any locale."""
    return Filter(
        "EXISTS (SELECT 1 FROM edition x CROSS JOIN tag_use u ON u.edition = x.id WHERE x.entry = s.entry AND u.tag = ?)",
        (tag,),
        "SELECT o.id FROM tag_use u JOIN edition x ON x.id = u.edition JOIN edition o ON o.entry = x.entry "
        "AND o.locale <> '*' WHERE u.tag = ?",
    )


def referring(uuids: Sequence[str]) -> Filter:
    """Entries that refer to one of some others."""
    return Filter(
        "EXISTS (SELECT 1 FROM edition x CROSS JOIN reference r ON r.edition = x.id WHERE x.entry = s.entry "
        "AND r.target IN (SELECT value FROM json_each(?)))",
        (json.dumps(list(uuids)),),
        "SELECT DISTINCT o.id FROM json_each(?) j CROSS JOIN reference r ON r.target = j.value JOIN edition x ON x.id = r.edition "
        "JOIN edition o ON o.entry = x.entry AND o.locale <> '*'",
    )


def changed_since(at: int) -> Filter:
    """Editions whose draft changed at an instant or later."""
    return Filter("s.updated_at >= ?", (at,))


def changed_before(at: int) -> Filter:
    """Editions whose draft changed last before an instant."""
    return Filter("s.updated_at < ?", (at,))


def in_folder(uuid: str) -> Filter:
    """Entries that lie in a folder of the library."""
    return Filter(
        "EXISTS (SELECT 1 FROM filed x JOIN folder f ON f.id = x.folder WHERE x.entry = s.entry AND f.uuid = ?)",
        (uuid,),
        "SELECT d.id FROM folder f JOIN filed x ON x.folder = f.id JOIN edition d ON d.entry = x.entry AND d.locale <> '*' "
        "WHERE f.uuid = ?",
    )
