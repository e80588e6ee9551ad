"""What searches and shared links show of each page, and what is wrong with it: missing, too long, said twice in the site."""

from __future__ import annotations

import unicodedata
from collections.abc import Mapping
from typing import Any, TypedDict

from hawthorn.core import contenttypes, numbers, searching
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import Invalid
from hawthorn.core.messages import quoted, said
from hawthorn.core.revision import together
from hawthorn.operations.access import permission
from hawthorn.operations.access.permission import Named
from hawthorn.operations.release.drafts import drafted
from hawthorn.operations.runtime.act import View
from hawthorn.store import search
from hawthorn.store.entries import Entry

ROOM = {"title": 60, "description": 160}
"""The characters for which searches have room; those of full width (UAX #11) count twice."""
_LOOKED_THROUGH = 2000
"""So many pages are looked through for one answer."""


def width(text: str) -> int:
    """How much room a text takes, in characters of half width."""
    return sum(2 if unicodedata.east_asian_width(c) in "WF" else 1 for c in text)


class SearchCheck(TypedDict):
    """One thing wrong with what a page says to searches: in which field, what in words, and which entries say the same."""

    field: str
    code: str
    text: str
    others: list[Named]


class SearchAndSharing(TypedDict):
    """What a page says to searches; rooms are what is taken and what there is, in characters; fields are named by what they are for."""

    title: str
    description: str
    picture: str | None
    title_room: list[int]
    description_room: list[int]
    fields: dict[str, str]
    checks: list[SearchCheck]


class SearchAndSharingLine(SearchAndSharing):
    """The same, of a page by name."""

    id: str
    type: str
    locale: str
    name: str


def of_entry(
    view: View, row: Entry, kind: ContentType, locale: str, values: Mapping[str, Any]
) -> SearchAndSharing | None:
    """What a page says to searches in a locale, with the room that it takes and what is wrong; None for what is no page."""
    if not kind.addressed:
        return None
    said = contenttypes.search_and_sharing(kind, {**values, **contenttypes.derived(kind, values)})
    return {
        "title": str(said["title"]),
        "description": str(said["description"]),
        "picture": said["picture"],
        "title_room": [width(str(said["title"])), ROOM["title"]],
        "description_room": [width(str(said["description"])), ROOM["description"]],
        "fields": {role: name for role, name in kind.for_searches.items() if name},
        "checks": _checks(view, row, kind, locale, values, said),
    }


def _checks(
    view: View,
    row: Entry,
    kind: ContentType,
    locale: str,
    values: Mapping[str, Any],
    told: Mapping[str, str | None],
) -> list[SearchCheck]:
    out: list[SearchCheck] = []
    for role in ("title", "description", "picture"):
        field = kind.for_searches[role]
        if field and not values.get(field):
            code = "missing_and_stood_for" if told[role] else "missing"
            out.append(_found(view, field, "missing", code, role))
        elif role == "description" and not told["description"]:
            out.append(_found(view, "", "missing", "no_text", role))
    for role, room in ROOM.items():
        field = kind.for_searches[role] or (kind.title if role == "title" else "")
        taken = width(str(told[role] or ""))
        if taken > room:
            out.append(_found(view, field, "too-long", "too_long", role, taken=taken, room=room))
        others = _twice(view, row.id, locale, role, str(told[role] or ""))
        if others:
            untitled = view.say("common.untitled")
            by = quoted(other["title"] or untitled for other in others[:3])
            out.append({**_found(view, field, "twice", "twice", role, by=by), "others": others})
    return out


def _found(view: View, field: str, code: str, what: str, role: str, **facts: Any) -> SearchCheck:
    text = view.say(f"search_and_sharing.{what}", role=said(f"search_and_sharing.the_{role}"), **facts)
    return {"field": field, "code": code, "text": text, "others": []}


def _twice(view: View, entry: int, locale: str, role: str, text: str) -> list[Named]:
    folded = " ".join(searching.fold(text))
    if not folded:
        return []
    column = {"title": "title", "description": "words"}[role]
    rows = search.said_twice(view.conn, column, locale, folded, entry)
    return [
        {"id": r.uuid, "type": r.type, "title": r.said, "file": ""}
        for r in rows
        if permission.readable(view, r, locale)
    ]


def overview(
    view: View, locale: str = "", *, limit: int = 50, cursor: str = ""
) -> tuple[list[SearchAndSharingLine], str]:
    """The pages whose text for searches and sharing has something wrong with it, in their drafts, and the cursor of the next page."""
    allowed, values = permission.readable_sql(view)
    tag = view.setup.locale(locale) if locale else ""
    at = numbers.whole(cursor) if cursor else 1 << 62
    if at is None:
        raise Invalid("common.cursor")
    rows = search.said(view.conn, allowed, tag, at, values, _LOOKED_THROUGH + 1)
    out: list[SearchAndSharingLine] = []
    for n, row in enumerate(rows[:_LOOKED_THROUGH]):
        kind = view.setup.type(row.type)
        found = of_entry(view, row, kind, row.tag, _draft(view, row.id, row.tag, kind))
        if found and found["checks"]:
            out.append(
                {
                    "id": row.uuid,
                    "type": row.type,
                    "locale": row.tag,
                    "name": row.title or view.say("common.untitled"),
                    **found,
                }
            )
        if len(out) == limit:
            return out, str(row.edition) if n + 1 < len(rows) else ""
    return out, str(rows[_LOOKED_THROUGH - 1].edition) if len(rows) > _LOOKED_THROUGH else ""


def _draft(view: View, entry: int, locale: str, kind: ContentType) -> dict[str, Any]:
    return together(kind, drafted(view, entry, COMMON), drafted(view, entry, locale))
