"""Finding entries: by filters, by name, and what they lack. Lists hold only what may be read, by the grants themselves."""

from __future__ import annotations

import json
import sqlite3
from typing import Any

from hawthorn.core import contenttypes
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import Invalid
from hawthorn.operations import permission
from hawthorn.operations.act import View


def listing(
    view: View,
    *,
    type: str = "",
    locale: str = "",
    stage: str = "",
    person: str = "",
    words: str = "",
    incomplete: bool = False,
    section: str = "",
    limit: int = 50,
    cursor: str = "",
) -> tuple[list[sqlite3.Row], str]:
    """Editions by when their draft last changed, newest first, and the cursor of the next page."""
    allowed, values = permission.readable_sql(view)
    parts = [allowed, "e.removed_at IS NULL", "s.locale <> '*'"]
    filters: list[tuple[bool, str, list[Any]]] = [
        (bool(type), "s.type = ?", [type]),
        (bool(locale), "s.locale = ?", [locale]),
        (not locale, "s.locale = e.source_locale", []),
        (bool(person), "(a.handle = ?)", [person]),
        (incomplete, "(s.missing <> '[]' OR c.missing <> '[]')", []),
        (bool(section), "e.section = (SELECT id FROM entry WHERE uuid = ?)", [section]),
        (
            stage == "draft",
            "NOT EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.until IS NULL)",
            [],
        ),
        (
            bool(stage) and stage != "draft",
            "EXISTS (SELECT 1 FROM standing t WHERE t.edition = s.edition AND t.stage = ? AND t.until IS NULL)",
            [view.setup.stages.get(stage, 0)],
        ),
    ]
    for word in words.split()[:6]:
        like = "%" + word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
        filters.append((True, "s.title LIKE ? ESCAPE '\\'", [like]))
    for on, sql, bound in filters:
        if on:
            parts.append(sql)
            values += bound
    if cursor:
        at, _, edition = cursor.partition(".")
        parts.append("(s.updated_at, s.edition) < (?, ?)")
        try:
            values += [int(at), int(edition)]
        except ValueError:
            raise Invalid("The cursor is not one of ours.", remedy="Start from the first page.") from None
    rows = view.conn.execute(
        "SELECT s.*, e.uuid, e.source_locale, e.section, e.actor AS owner, a.name AS author, a.handle, "
        "coalesce(c.missing, '[]') AS common_missing FROM summary s JOIN entry e ON e.id = s.entry "
        "JOIN edition d ON d.id = s.edition JOIN actor a ON a.id = s.actor "
        "LEFT JOIN summary c ON c.entry = e.id AND c.locale = '*' "
        f"WHERE {' AND '.join(parts)} ORDER BY s.updated_at DESC, s.edition DESC LIMIT ?",
        (*values, limit + 1),
    ).fetchall()
    more = f"{rows[limit - 1]['updated_at']}.{rows[limit - 1]['edition']}" if len(rows) > limit else ""
    return rows[:limit], more


def lookup(view: View, text: str) -> list[sqlite3.Row]:
    """Entries by address, by the start of their id, or by a part of the title."""
    allowed, values = permission.readable_sql(view)
    slug = text.strip("/").rsplit("/", 1)[-1].casefold()
    like = "%" + text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
    return view.conn.execute(
        "SELECT DISTINCT e.uuid, e.type, e.source_locale, s.title FROM entry e JOIN edition d ON d.entry = e.id "
        "AND d.locale = e.source_locale JOIN summary s ON s.edition = d.id "
        f"WHERE {allowed} AND e.removed_at IS NULL AND (e.uuid LIKE ? ESCAPE '\\' OR s.title LIKE ? ESCAPE '\\' OR EXISTS "
        "(SELECT 1 FROM address x WHERE x.entry = e.id AND x.slug = ? AND x.until IS NULL)) ORDER BY "
        "s.title = ? COLLATE NOCASE DESC, s.updated_at DESC LIMIT 20",
        (*values, text.removeprefix("urn:uuid:").lower() + "%", like, slug, text),
    ).fetchall()


def missing_of(
    view: View, kind: ContentType, locale: str, names: str, common: str = "[]"
) -> list[dict[str, str]]:
    """What an edition and its common one lack, with labels."""
    listed = json.loads(names) + json.loads(common)
    return [
        {"field": n, "label": contenttypes.label_of(kind, n)} for n in listed if kind.field(n.split(":")[0])
    ]
