"""Finding entries: by words, by filters, by name, and what is missing in them. Lists hold only what may be read, by the grants themselves.

Where a filter leaves few entries, those are looked at one by one; where every filter leaves many, the newest are walked
and the first that fit make the page. Either way a page costs the same whether there are two thousand entries or many more.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Sequence
from dataclasses import asdict
from typing import Any, TypedDict

from hawthorn.core import contenttypes, moves, numbers, searching
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.fields import Reading
from hawthorn.core.kinds.tags import one_form
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.core.timeline import day_or_instant
from hawthorn.operations.access import permission
from hawthorn.operations.runtime.act import View
from hawthorn.operations.search import indexing
from hawthorn.store import filters, gates, listings, people, search
from hawthorn.store.filters import Filter
from hawthorn.store.listings import Found, Listed, Named, Order

FEW = 1000
"""Up to so many entries are looked at one by one."""
ARCHIVE: dict[str, Filter | None] = {"": filters.NOT_ARCHIVED, "only": filters.ARCHIVED, "with": None}
"""What is found of the archive, by how it is asked for."""
VALIDITY = ("ends", "endless", "over")
SORTS = {
    "-changed": listings.CHANGED_LAST,
    "changed": Order("updated_at"),
    "title": Order("title COLLATE NOCASE"),
    "-title": Order("title COLLATE NOCASE", backwards=True),
}
"""The orders of lists, by name: backwards with a `-` (JSON:API 1.1, section on sorting)."""
COUNTED = 1000
"""Up to so many are counted; beyond it, it is said that there are more."""


@dataclass(frozen=True, slots=True)
class Query:
    """What is asked for. Empty members ask for nothing.

    `stage` is a stage at which something stands, or "draft" where nothing stands anywhere. `topic` is the UUID of an entry
    that is referred to, with those below it; `tag` a word. `since` and `until` bound the last change of the draft (an
    instant or a date). `library` leaves what holds a file, `folder` what lies in a folder of the library ("none": in none).
    `sort` is one of `SORTS`, the last changed first when empty; what is found by words has an order of its own.
    `archived`: "only" what is in the archive, "with" that as well; without it, what is not.
    `at` is an instant, past or to come: what was there then, at the stages where it stood or will stand; without it, now.
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
    archived: str = ""
    at: str = ""
    sort: str = ""

    def given(self) -> dict[str, Any]:
        """What is asked for, without what is empty."""
        return {k: v for k, v in asdict(self).items() if v}


def listing(
    view: View,
    query: Query | None = None,
    *,
    limit: int = 50,
    cursor: str = "",
    also: Sequence[Filter] = (),
) -> tuple[Sequence[Listed], str]:
    """Editions in the order that is asked for, and the cursor of the next page; of those alone that what is asked `also` leaves.

    Without a locale each entry is listed once, in its source; a search by words finds every locale.
    """
    asked = query or Query()
    order = _order(asked)
    if asked.words.strip():
        return _searched(view, asked, limit, cursor, also)
    kept, few = kept_by(view, asked, also)
    after = _cursor(cursor) if cursor else None
    allowed = permission.readable_sql(view, locale="s")
    rows = listings.page(view.conn, allowed, kept, few, order, after, limit + 1)
    more = f"{rows[limit - 1].updated_at}.{rows[limit - 1].edition}" if len(rows) > limit else ""
    return rows[:limit], more


@dataclass(frozen=True, slots=True)
class Count:
    """How many a list has: so many, or `more`."""

    count: int
    more: bool


def count(view: View, query: Query | None = None) -> Count:
    """How many editions the whole list has, counted up to `COUNTED`."""
    asked = query or Query()
    _order(asked)
    if asked.words.strip():
        found = _searching(view, asked)
        if found is None:
            return Count(0, False)
        match, wanted, few = found
        allowed = permission.readable_sql(view)
        many = listings.counted_with_words(view.conn, match, allowed, wanted, few, COUNTED + 1)
    else:
        kept, few = kept_by(view, asked)
        allowed = permission.readable_sql(view, locale="s")
        many = listings.counted(view.conn, allowed, kept, few, COUNTED + 1)
    return Count(min(many, COUNTED), many > COUNTED)


def _order(asked: Query) -> Order:
    if asked.sort and asked.words.strip():
        raise Invalid("finding.words_have_an_order")
    if asked.sort and asked.sort not in SORTS:
        raise Invalid("finding.no_sort", value=asked.sort[:80], known=list(SORTS))
    return SORTS[asked.sort or "-changed"]


def kept_by(view: View, asked: Query, also: Sequence[Filter] = ()) -> tuple[list[Filter], list[int] | None]:
    """The filters that are left to look at, among the few that the narrowest leaves where they are few."""
    wanted = [*_filters(view, asked), *also]
    few, narrowest = _fewest(view, wanted)
    if not asked.locale:
        wanted.append(filters.IN_SOURCE)
    return [f for f in wanted if f is not narrowest], few


def entries_with(view: View, words: str, type: str = "") -> Filter:
    """Entries with words in any locale that may be read, each once."""
    match = _match(view, words, type, "")
    if match is None:
        return filters.NOTHING
    return filters.entries_matching(match, permission.readable_sql(view, "o", "x"))


def _match(view: View, words: str, type: str, locale: str) -> str | None:
    """What the index is asked for some words; None where there is no word in them."""
    some = searching.wanted(words)
    if not some:
        return None
    return indexing.narrowed(searching.match(some, search.begun(view.conn, some)), type, locale)


def summaries(view: View, some: Sequence[int], locale: str = "", *, whole: bool = False) -> dict[int, Listed]:
    """What lists show of some entries that may be read (or of all, `whole`, for a caller that looks at that itself), by entry:
    in a locale where there is one, else in the source's."""
    allowed = ("1", ()) if whole else permission.readable_sql(view)
    rows = listings.of_entries(view.conn, allowed, some, locale)
    return {row.entry: row for row in rows}


def _searched(
    view: View, asked: Query, limit: int, cursor: str, also: Sequence[Filter]
) -> tuple[list[Found], str]:
    found = _searching(view, asked, also)
    if found is None:
        return [], ""
    match, wanted, few = found
    before = _cursor(cursor)[0] if cursor else None
    rows = listings.with_words(
        view.conn, match, permission.readable_sql(view), wanted, few, before, limit + 1
    )
    more = f"{rows[limit - 1].found}.0" if len(rows) > limit else ""
    return rows[:limit], more


def _searching(
    view: View, asked: Query, also: Sequence[Filter] = ()
) -> tuple[str, list[Filter], list[int] | None] | None:
    """What the index is asked, and what is asked of what it finds; None where there is no word in it."""
    match = _match(view, asked.words, asked.type, asked.locale)
    if match is None:
        return None
    wanted = [*_filters(view, asked), *also]
    return match, wanted, _fewest(view, wanted)[0]


def _cursor(text: str) -> tuple[int, int]:
    at, _, edition = text.partition(".")
    found = numbers.whole(at), numbers.whole(edition)
    if found[0] is None or found[1] is None:
        raise Invalid("common.cursor")
    return found[0], found[1]


def _filters(view: View, asked: Query) -> list[Filter]:
    if asked.archived not in ARCHIVE:
        raise Invalid("finding.no_archive", value=asked.archived[:80], known=[a for a in ARCHIVE if a])
    if asked.at:
        return _filters_then(view, asked, day_or_instant(asked.at))
    found = [FILTERS[name](view, value) for name, value in asked.given().items() if name in FILTERS]
    wanted = ARCHIVE[asked.archived]
    return [*found, filters.THERE, *([] if wanted is None else [wanted])]


NOW_ALONE = ("words", "validity", "incomplete", "behind", "planned", "tag", "topic")
"""What is known of drafts as they are now, and of no other instant."""


def _filters_then(view: View, asked: Query, at: int) -> list[Filter]:
    """The same at an instant; raises `Invalid` for what is known of now alone."""
    given = asked.given()
    alone = [name for name in given if name in NOW_ALONE]
    if alone or asked.stage == "draft":
        problems = [FieldProblem(name, said("finding.now_alone")) for name in alone or ["stage"]]
        raise Invalid(problems)
    found = [
        FILTERS[name](view, value) for name, value in given.items() if name in FILTERS and name != "stage"
    ]
    if asked.stage:
        found.append(_stage_then(view, asked.stage, at))
    if asked.archived == "only":
        found.append(filters.archived_by(moves.SHELVING, at) if at > view.now else filters.ARCHIVED)
    elif asked.archived != "with":
        found.append(filters.not_archived_at(at))
    if at > view.now:
        away = moves.ENDING if asked.archived else (*moves.ENDING, *moves.SHELVING)
        found.append(filters.not_to_go_by(away, at))
    return [*found, filters.existed(min(at, view.now))]


def _stage_then(view: View, value: str, at: int) -> Filter:
    if value not in view.setup.stages:
        raise Invalid("finding.no_stage", name=value[:80], known=list(view.setup.stages))
    stage = view.setup.stages[value]
    return (
        filters.stood_at(stage, at)
        if at <= view.now
        else filters.will_stand_at(stage, moves.LEADING, moves.CLEARING, at)
    )


def _fewest(view: View, wanted: list[Filter]) -> tuple[list[int] | None, Filter | None]:
    """The editions that the narrowest filter leaves, when they are few, and which it is; None when all leave many."""
    best: list[int] | None = None
    narrowest: Filter | None = None
    for one in wanted:
        if one.few:
            left = listings.left_by(view.conn, one, FEW + 1)
            if len(left) <= FEW and (best is None or len(left) < len(best)):
                best, narrowest = list(dict.fromkeys(left)), one
    return best, narrowest


def _type(view: View, value: str) -> Filter:
    view.setup.type(value)
    return filters.of_type(value)


def _locale(view: View, value: str) -> Filter:
    return filters.in_locale(view.setup.locale(value))


def _person(view: View, value: str) -> Filter:
    # Whoever left: what they wrote is looked for all the more.
    row = people.ever(view.conn, value)
    if row is None:
        raise Invalid("finding.nobody", handle=value[:80])
    return filters.changed_by(row.id)


def _stage(view: View, value: str) -> Filter:
    if value == "draft":
        return filters.IN_NO_STAGE
    if value not in view.setup.stages:
        raise Invalid("finding.no_stage", name=value[:80], known=list(view.setup.stages))
    return filters.at_stage(view.setup.stages[value])


def _validity(view: View, value: str) -> Filter:
    if value == "ends":
        return filters.ending(moves.LEAVING)
    if value == "endless":
        return filters.endless(moves.LEAVING)
    if value == "over":
        return filters.OVER
    raise Invalid("finding.no_validity", value=value, known=list(VALIDITY))


def _library(view: View, value: bool) -> Filter:
    return filters.of_types([n for n, k in view.setup.types.items() if k.file is not None])


FILTERS: dict[str, Callable[[View, Any], Filter]] = {
    "type": _type,
    "locale": _locale,
    "person": _person,
    "stage": _stage,
    "section": lambda view, value: filters.in_section(value),
    "topic": lambda view, value: filters.referring(below_topic(view, value.strip().lower())),
    "tag": lambda view, value: filters.tagged(one_form(value)),
    "since": lambda view, value: filters.changed_since(day_or_instant(value)),
    "until": lambda view, value: filters.changed_before(day_or_instant(value)),
    "validity": _validity,
    "incomplete": lambda view, value: filters.INCOMPLETE,
    "behind": lambda view, value: filters.BEHIND,
    "planned": lambda view, value: filters.PLANNED,
    "library": _library,
    "folder": lambda view, value: filters.IN_NO_FOLDER if value == "none" else filters.in_folder(value),
}


def below_topic(view: View, uuid: str) -> list[str]:
    """An entry and all that are placed below it in the drafts, by UUID."""
    return search.below_topic(view.conn, uuid) or [uuid]


@dataclass(frozen=True, slots=True)
class TagUse:
    """A tag and how many entries have it."""

    tag: str
    entries: int


def tags(view: View, start: str = "", limit: int = 50) -> list[TagUse]:
    """Tags that are used, with how many entries use each: those that begin so, the most used first."""
    allowed, values = permission.readable_sql(view)
    rows = search.tags(view.conn, allowed, values, start, start + "\U0010ffff", limit)
    return [TagUse(tag=row.tag, entries=row.entries) for row in rows]


@dataclass(frozen=True, slots=True)
class TopicUse:
    """An entry of a type that others refer to, with the one above it and how many refer to it."""

    id: str
    title: str
    parent: str | None
    entries: int


def topics(view: View, type: str) -> list[TopicUse]:
    """The entries of a type as a tree, each with how many entries refer to it."""
    view.setup.type(type)
    allowed, values = permission.readable_sql(view)
    counted, first = permission.readable_sql(view, "o", "x")
    rows = search.topics(view.conn, counted, allowed, first, type, values)
    names = {row.id: row.uuid for row in rows}
    return [
        TopicUse(id=row.uuid, title=row.title, parent=names.get(row.parent), entries=row.entries)
        for row in rows
    ]


def lookup(view: View, text: str) -> list[Named]:
    """Entries by address, by the start or the end of their id, or by words of the title."""
    slug = text.strip("/").rsplit("/", 1)[-1].casefold()
    start = text.removeprefix("urn:uuid:").lower()
    # Only what can be the end of an id is looked for as one, as every id has to be looked at for it.
    end = start if re.fullmatch(r"[0-9a-f-]{6,36}", start) else "~"
    some = searching.wanted(text)
    match = searching.match(some, search.begun(view.conn, some), "title") if some else '"@"'
    allowed = permission.readable_sql(view)
    return listings.named(view.conn, allowed, start=start, end=end, slug=slug, match=match, title=text)


def reading(view: View, kind: ContentType, locale: str, *contents: Content) -> Reading:
    """How the values of contents are read in a locale: with the titles of the entries that they refer to or are placed below."""
    uuids: set[str] = set()
    for content in contents:
        uuids |= contenttypes.referred(kind, content.fields)
        above, _ = contenttypes.placement(kind, content.fields)
        uuids |= {above} if above else set()
    found = gates.ids(view.conn, uuids)
    names = {
        uuid: permission.title(view, id, locale) or view.say("common.untitled") for uuid, id in found.items()
    }
    return Reading(names, view.say)


class Missing(TypedDict):
    """A field that is required and empty."""

    field: str
    label: str


def missing_of(kind: ContentType, names: str, common: str = "[]") -> list[Missing]:
    """What an edition and its common one are missing, with labels."""
    if names == common == "[]":
        return []
    listed = json.loads(names) + json.loads(common)
    return [
        {"field": n, "label": contenttypes.label_of(kind, n)} for n in listed if kind.field(n.split(":")[0])
    ]
