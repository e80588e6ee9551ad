"""Finding entries: by words, by filters, by name, and what they lack. Lists hold only what may be read, by the grants themselves.

Where a filter leaves few entries, those are looked at one by one; where every filter leaves many, the newest are walked
and the first that fit make the page. Either way a page costs the same whether there are two thousand entries or many more.
"""

from __future__ import annotations

import json
import re
import sqlite3
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from hawthorn.core import contenttypes, moves, numbers, searching
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import Invalid
from hawthorn.core.kinds.tags import one_form
from hawthorn.core.revision import Content
from hawthorn.core.timeline import day_or_instant
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.operations.search import indexing
from hawthorn.store import people, search

FEW = 1000
"""Up to so many entries are looked at one by one."""
VALIDITY = ("ends", "endless", "over")


@dataclass(frozen=True, slots=True)
class Query:
    """What is asked for. Empty members ask for nothing.

    `stage` is a stage at which something stands, or "draft" where nothing stands anywhere. `topic` is the UUID of an entry
    that is referred to, with those below it; `tag` a word. `since` and `until` bound the last change of the draft (an
    instant or a date). `library` leaves what holds a file, `folder` what lies in a folder of the library ("none": in none).
    `validity`: "ends" has a planned end, "endless" is out without one, "over" was out and no longer is.
    """

    words: str = ""
    type: str = ""
    locale: str = ""
    stage: str = ""
    person: str = ""
    section: str = ""
    topic: str = ""
    tag: str = ""
    since: str = ""
    until: str = ""
    validity: str = ""
    incomplete: bool = False
    behind: bool = False
    planned: bool = False
    library: bool = False
    folder: str = ""

    def given(self) -> dict[str, Any]:
        """What is asked for, without what is empty."""
        return {k: v for k, v in asdict(self).items() if v}


@dataclass(frozen=True, slots=True)
class _Filter:
    """One filter: a condition on `s` (summary) and `e` (entry), and how to get the editions that it leaves, if few."""

    sql: str
    values: tuple[Any, ...] = ()
    few: str = ""


_COLUMNS = (
    "SELECT s.*, e.uuid, e.source_locale, e.section, e.actor AS owner, a.name AS author, a.handle, "
    "coalesce(c.missing, '[]') AS common_missing, coalesce(c.internal, '') AS common_internal{more} "
)
_JOINS = (
    "JOIN entry e ON e.id = s.entry JOIN edition d ON d.id = s.edition JOIN actor a ON a.id = s.actor "
    "LEFT JOIN summary c ON c.entry = e.id AND c.locale = '*' "
)


def listing(
    view: View, query: Query | None = None, *, limit: int = 50, cursor: str = ""
) -> tuple[list[sqlite3.Row], str]:
    """Editions by when their draft last changed, newest first, and the cursor of the next page.

    Without a locale each entry is listed once, in its source; a search by words finds every locale.
    """
    asked = query or Query()
    if asked.words.strip():
        return _searched(view, asked, limit, cursor)
    allowed, values = permission.readable_sql(view, locale="s")
    filters = _filters(view, asked)
    few, narrowest = _fewest(view, filters)
    if not asked.locale:
        filters.append(_Filter("s.locale = e.source_locale"))
    kept = [f for f in filters if f is not narrowest]
    parts = [allowed, "e.removed_at IS NULL", "s.locale <> '*'", *(f.sql for f in kept)]
    values += [v for f in kept for v in f.values]
    source = "summary s"
    if few is not None:
        source = "json_each(?) j CROSS JOIN summary s ON s.edition = j.value"
        values = [json.dumps(few), *values]
    if cursor:
        parts.append("(s.updated_at, s.edition) < (?, ?)")
        values += _cursor(cursor)
    # The page is found among narrow rows first; what a list shows is fetched for its lines alone.
    rows = view.conn.execute(
        _COLUMNS.format(more="")
        + f"FROM (SELECT s.edition AS page FROM {source} JOIN entry e ON e.id = s.entry "
        f"WHERE {' AND '.join(parts)} ORDER BY s.updated_at DESC, s.edition DESC LIMIT ?) CROSS JOIN summary s "
        f"ON s.edition = page {_JOINS}ORDER BY s.updated_at DESC, s.edition DESC",
        (*values, limit + 1),
    ).fetchall()
    more = f"{rows[limit - 1]['updated_at']}.{rows[limit - 1]['edition']}" if len(rows) > limit else ""
    return rows[:limit], more


def summaries(
    view: View, some: Sequence[int], locale: str = "", *, whole: bool = False
) -> dict[int, sqlite3.Row]:
    """What lists show of some entries that may be read (or of all, `whole`, for a caller that looks at that itself), by entry:
    in a locale where there is one, else in the source's."""
    allowed, values = ("1", []) if whole else permission.readable_sql(view)
    rows = view.conn.execute(
        _COLUMNS.format(more="") + f"FROM json_each(?) j CROSS JOIN summary s ON s.entry = j.value {_JOINS}"
        f"WHERE s.locale IN (?, e.source_locale) AND e.removed_at IS NULL AND {allowed} ORDER BY s.locale = ?",
        (json.dumps(list(some)), locale, *values, locale),
    ).fetchall()
    return {row["entry"]: row for row in rows}


def _searched(view: View, asked: Query, limit: int, cursor: str) -> tuple[list[sqlite3.Row], str]:
    some = searching.wanted(asked.words)
    if not some:
        return [], ""
    match = indexing.narrowed(searching.match(some, search.begun(view.conn, some)), asked.type, asked.locale)
    allowed, values = permission.readable_sql(view)
    filters = _filters(view, asked)
    parts = [allowed, "e.removed_at IS NULL", *(f.sql for f in filters)]
    values += [v for f in filters for v in f.values]
    few, _ = _fewest(view, filters)
    if few is not None:
        parts.append("r.edition IN (SELECT value FROM json_each(?))")
        values.append(json.dumps(few))
    if cursor:
        parts.append("t.rowid < ?")
        values.append(_cursor(cursor)[0])
    rows = view.conn.execute(
        _COLUMNS.format(more=", t.rowid AS found, r.stage AS found_at")
        + f"FROM search_text t CROSS JOIN search_row r ON r.id = t.rowid CROSS JOIN summary s ON s.edition = r.edition {_JOINS}"
        f"WHERE t.search_text MATCH ? AND {' AND '.join(parts)} {_ONCE} ORDER BY t.rowid DESC LIMIT ?",
        (match, *values, match, limit + 1),
    ).fetchall()
    more = f"{rows[limit - 1]['found']}.0" if len(rows) > limit else ""
    return rows[:limit], more


# The draft and what is out may both have the words: an edition is listed once, by its draft.
_ONCE = (
    "AND (r.stage = 1 OR NOT EXISTS (SELECT 1 FROM search_row w CROSS JOIN search_text x ON x.rowid = w.id "
    "WHERE w.edition = r.edition AND w.stage = 1 AND x.search_text MATCH ?))"
)


def _cursor(text: str) -> list[int]:
    at, _, edition = text.partition(".")
    found = [numbers.whole(part) for part in (at, edition)]
    if None in found:
        raise Invalid("The cursor is not one of ours.", remedy="Start from the first page.")
    return [n for n in found if n is not None]


def _filters(view: View, asked: Query) -> list[_Filter]:
    return [FILTERS[name](view, value) for name, value in asked.given().items() if name in FILTERS]


def _fewest(view: View, filters: list[_Filter]) -> tuple[list[int] | None, _Filter | None]:
    """The editions that the narrowest filter leaves, when they are few, and which it is; None when all leave many."""
    best: list[int] | None = None
    narrowest: _Filter | None = None
    for one in filters:
        if one.few:
            rows = view.conn.execute(f"{one.few} LIMIT {FEW + 1}", one.values).fetchall()
            if len(rows) <= FEW and (best is None or len(rows) < len(best)):
                best, narrowest = list(dict.fromkeys(row[0] for row in rows)), one
    return best, narrowest


def _type(view: View, value: str) -> _Filter:
    view.setup.type(value)
    return _Filter(
        "s.type = ?", (value,), "SELECT s.edition FROM summary s WHERE s.locale <> '*' AND s.type = ?"
    )


def _locale(view: View, value: str) -> _Filter:
    return _Filter(
        "s.locale = ?", (view.setup.locale(value),), "SELECT s.edition FROM summary s WHERE s.locale = ?"
    )


def _person(view: View, value: str) -> _Filter:
    row = people.by_handle(view.conn, value)
    if row is None:
        raise Invalid(
            f"There is nobody called “{value[:80]}”.", remedy="Give the name that they log in with."
        )
    return _Filter(
        "s.actor = ?",
        (row["id"],),
        "SELECT s.edition FROM summary s WHERE s.locale <> '*' AND s.actor = ?",
    )


def _stage(view: View, value: str) -> _Filter:
    if value == "draft":
        return _Filter(
            "NOT EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.until IS NULL)"
        )
    if value not in view.setup.stages:
        have = ", ".join(view.setup.stages)
        raise Invalid(f"“{value[:80]}” is not a stage.", remedy=f"Choose one of {have}.")
    return _Filter(
        "EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.until IS NULL AND t.stage = ?)",
        (view.setup.stages[value],),
        "SELECT l.edition FROM listed l WHERE l.until IS NULL AND l.stage = ?",
    )


def _incomplete(view: View, value: bool) -> _Filter:
    return _Filter("s.lacks = 1", (), "SELECT s.edition FROM summary s WHERE s.lacks = 1")


def _behind(view: View, value: bool) -> _Filter:
    return _Filter("s.behind = 1", (), "SELECT s.edition FROM summary s WHERE s.behind = 1")


_PLANNED = "FROM dispatch p JOIN move m ON m.dispatch = p.id WHERE p.state = 'planned'"


def _planned(view: View, value: bool) -> _Filter:
    return _Filter(
        "EXISTS (SELECT 1 FROM move m JOIN dispatch p ON p.id = m.dispatch AND p.state = 'planned' "
        "WHERE m.edition = s.edition)",
        (),
        f"SELECT DISTINCT m.edition {_PLANNED}",
    )


def _validity(view: View, value: str) -> _Filter:
    leaving = json.dumps(moves.LEAVING)
    ends = (
        "EXISTS (SELECT 1 FROM move m JOIN dispatch p ON p.id = m.dispatch AND p.state = 'planned' "
        "WHERE m.edition = s.edition AND m.verb IN (SELECT value FROM json_each(?)))"
    )
    out = "EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.stage = 2 AND t.until IS NULL)"
    if value == "ends":
        those = f"SELECT DISTINCT m.edition {_PLANNED} AND m.verb IN (SELECT value FROM json_each(?))"
        return _Filter(ends, (leaving,), those)
    if value == "endless":
        return _Filter(f"{out} AND NOT {ends}", (leaving,))
    if value == "over":
        return _Filter(
            f"NOT {out} AND EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.stage = 2)",
            (),
            "SELECT DISTINCT t.edition FROM listed t WHERE t.stage = 2 AND t.until IS NOT NULL "
            "AND NOT EXISTS (SELECT 1 FROM listed n WHERE n.edition = t.edition AND n.stage = 2 AND n.until IS NULL)",
        )
    raise Invalid(f"“{value}” is not a validity.", remedy=f"Choose one of {', '.join(VALIDITY)}.")


def _section(view: View, value: str) -> _Filter:
    return _Filter(
        "e.section = (SELECT id FROM entry WHERE uuid = ?)",
        (value,),
        "SELECT d.id FROM entry e JOIN edition d ON d.entry = e.id AND d.locale <> '*' "
        "WHERE e.section = (SELECT id FROM entry WHERE uuid = ?)",
    )


def _tag(view: View, value: str) -> _Filter:
    return _Filter(
        "EXISTS (SELECT 1 FROM edition x CROSS JOIN tag_use u ON u.edition = x.id WHERE x.entry = s.entry AND u.tag = ?)",
        (one_form(value),),
        "SELECT o.id FROM tag_use u JOIN edition x ON x.id = u.edition JOIN edition o ON o.entry = x.entry "
        "AND o.locale <> '*' WHERE u.tag = ?",
    )


def _topic(view: View, value: str) -> _Filter:
    below = json.dumps(below_topic(view, value.strip().lower()))
    return _Filter(
        "EXISTS (SELECT 1 FROM edition x CROSS JOIN reference r ON r.edition = x.id WHERE x.entry = s.entry "
        "AND r.target IN (SELECT value FROM json_each(?)))",
        (below,),
        "SELECT DISTINCT o.id FROM json_each(?) j JOIN reference r ON r.target = j.value JOIN edition x ON x.id = r.edition "
        "JOIN edition o ON o.entry = x.entry AND o.locale <> '*'",
    )


def _since(view: View, value: str) -> _Filter:
    return _Filter("s.updated_at >= ?", (day_or_instant(value),))


def _until(view: View, value: str) -> _Filter:
    return _Filter("s.updated_at < ?", (day_or_instant(value),))


def _library(view: View, value: bool) -> _Filter:
    kinds = json.dumps([n for n, k in view.setup.types.items() if k.file is not None])
    return _Filter(
        "s.type IN (SELECT value FROM json_each(?))",
        (kinds,),
        "SELECT s.edition FROM summary s WHERE s.locale <> '*' AND s.type IN (SELECT value FROM json_each(?))",
    )


def _folder(view: View, value: str) -> _Filter:
    if value == "none":
        return _Filter("NOT EXISTS (SELECT 1 FROM filed x WHERE x.entry = s.entry)")
    return _Filter(
        "EXISTS (SELECT 1 FROM filed x JOIN folder f ON f.id = x.folder WHERE x.entry = s.entry AND f.uuid = ?)",
        (value,),
        "SELECT d.id FROM folder f JOIN filed x ON x.folder = f.id JOIN edition d ON d.entry = x.entry AND d.locale <> '*' "
        "WHERE f.uuid = ?",
    )


FILTERS: dict[str, Callable[[View, Any], _Filter]] = {
    "type": _type,
    "locale": _locale,
    "person": _person,
    "stage": _stage,
    "section": _section,
    "topic": _topic,
    "tag": _tag,
    "since": _since,
    "until": _until,
    "validity": _validity,
    "incomplete": _incomplete,
    "behind": _behind,
    "planned": _planned,
    "library": _library,
    "folder": _folder,
}


def below_topic(view: View, uuid: str) -> list[str]:
    """An entry and all that are placed below it in the drafts, by UUID."""
    rows = view.conn.execute(
        "WITH RECURSIVE tree (uuid, id) AS (SELECT uuid, id FROM entry WHERE uuid = ? UNION "
        "SELECT e.uuid, e.id FROM tree t JOIN placed p ON p.parent = t.id AND p.stage = 1 AND p.until IS NULL "
        "JOIN entry e ON e.id = p.entry AND e.removed_at IS NULL) SELECT uuid FROM tree LIMIT 2000",
        (uuid,),
    ).fetchall()
    return [row["uuid"] for row in rows] or [uuid]


def tags(view: View, start: str = "", limit: int = 50) -> list[dict[str, Any]]:
    """Tags that are used, with how many entries use each: those that begin so, the most used first."""
    allowed, values = permission.readable_sql(view)
    rows = view.conn.execute(
        "SELECT u.tag, count(DISTINCT d.entry) AS entries FROM tag_use u JOIN edition d ON d.id = u.edition "
        f"JOIN entry e ON e.id = d.entry WHERE e.removed_at IS NULL AND {allowed} AND u.tag >= ? AND u.tag < ? "
        "GROUP BY u.tag ORDER BY entries DESC, u.tag LIMIT ?",
        (*values, start, start + "\U0010ffff", limit),
    ).fetchall()
    return [{"tag": row["tag"], "entries": row["entries"]} for row in rows]


def topics(view: View, type: str) -> list[dict[str, Any]]:
    """The entries of a type as a tree, each with how many entries refer to it."""
    view.setup.type(type)
    allowed, values = permission.readable_sql(view)
    counted, first = permission.readable_sql(view, "o", "x")
    rows = view.conn.execute(
        "SELECT e.id, e.uuid, s.title, coalesce(p.parent, 0) AS parent, (SELECT count(DISTINCT x.entry) FROM reference r "
        f"JOIN edition x ON x.id = r.edition JOIN entry o ON o.id = x.entry AND o.removed_at IS NULL WHERE r.target = e.uuid AND {counted}) "
        "AS entries FROM entry e JOIN edition d ON d.entry = e.id AND d.locale = e.source_locale "
        "JOIN summary s ON s.edition = d.id LEFT JOIN placed p ON p.entry = e.id AND p.stage = 1 AND p.until IS NULL "
        f"WHERE e.type = ? AND e.removed_at IS NULL AND {allowed} ORDER BY s.title LIMIT 2000",
        (*first, type, *values),
    ).fetchall()
    names = {row["id"]: row["uuid"] for row in rows}
    return [
        {
            "id": row["uuid"],
            "title": row["title"],
            "parent": names.get(row["parent"]),
            "entries": row["entries"],
        }
        for row in rows
    ]


def lookup(view: View, text: str) -> list[sqlite3.Row]:
    """Entries by address, by the start or the end of their id, or by words of the title."""
    allowed, values = permission.readable_sql(view)
    slug = text.strip("/").rsplit("/", 1)[-1].casefold()
    start = text.removeprefix("urn:uuid:").lower()
    # Only what can be the end of an id is looked for as one, as every id has to be looked at for it.
    end = start if re.fullmatch(r"[0-9a-f-]{6,36}", start) else "~"
    some = searching.wanted(text)
    match = searching.match(some, search.begun(view.conn, some), "title") if some else '"@"'
    return view.conn.execute(
        "WITH named (entry, ord) AS (SELECT id, 0 FROM entry WHERE uuid >= ?1 AND uuid < ?1 || 'g' AND length(?1) > 3 UNION ALL "
        "SELECT id, 0 FROM entry WHERE ?5 <> '~' AND substr(uuid, -length(?5)) = ?5 UNION ALL "
        "SELECT entry, 0 FROM address WHERE slug = ?2 AND until IS NULL UNION ALL SELECT * FROM (SELECT d.entry, 1 "
        "FROM search_text t CROSS JOIN search_row r ON r.id = t.rowid CROSS JOIN edition d ON d.id = r.edition "
        "WHERE t.search_text MATCH ?3 ORDER BY t.rowid DESC LIMIT 100)) "
        "SELECT e.uuid, e.type, e.source_locale, s.title FROM (SELECT entry, min(ord) AS ord FROM named GROUP BY entry) n "
        "JOIN entry e ON e.id = n.entry JOIN edition d ON d.entry = e.id AND d.locale = e.source_locale "
        f"JOIN summary s ON s.edition = d.id WHERE e.removed_at IS NULL AND {_numbered(allowed)} "
        "ORDER BY s.title = ?4 COLLATE NOCASE DESC, n.ord, s.updated_at DESC LIMIT 20",
        (start, slug, match, text, end, *values),
    ).fetchall()


def _numbered(condition: str) -> str:
    """A condition whose values follow five numbered ones."""
    parts = condition.split("?")
    return "".join(f"{part}?{n + 6}" if n < len(parts) - 1 else part for n, part in enumerate(parts))


def called(view: View, kind: ContentType, locale: str, *contents: Content) -> dict[str, str]:
    """What the entries that contents refer to or are placed below are called in a locale, by UUID."""
    uuids: set[str] = set()
    for content in contents:
        uuids |= contenttypes.referred(kind, content.fields)
        above, _ = contenttypes.placement(kind, content.fields)
        uuids |= {above} if above else set()
    rows = view.conn.execute(
        "SELECT e.id, e.uuid FROM json_each(?) j JOIN entry e ON e.uuid = j.value",
        (json.dumps(sorted(uuids)),),
    ).fetchall()
    return {row["uuid"]: permission.title(view, row["id"], locale) or "untitled" for row in rows}


def missing_of(
    view: View, kind: ContentType, locale: str, names: str, common: str = "[]"
) -> list[dict[str, str]]:
    """What an edition and its common one lack, with labels."""
    listed = json.loads(names) + json.loads(common)
    return [
        {"field": n, "label": contenttypes.label_of(kind, n)} for n in listed if kind.field(n.split(":")[0])
    ]
