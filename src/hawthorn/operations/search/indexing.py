"""Keeping the search index in step with drafts and with what is out."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from functools import lru_cache
from typing import Any

from hawthorn.core import contenttypes, fields, searching, slots
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.outline import natural
from hawthorn.core.revision import EMPTY, Content, together
from hawthorn.operations.access import sections
from hawthorn.operations.runtime.act import SCHEDULER_SELF, Act, Desk, View
from hawthorn.store import definitions, entries, revisions, search, standings
from hawthorn.store.entries import Edition, Entry
from hawthorn.store.standings import DRAFT, RELEASE


def follow(act: Act, kind: ContentType, entry: Entry, edition: int, locale: str, content: Content) -> None:
    """Index a draft that changed. Shared words are searched for with each locale's own."""
    editions = entries.editions(act.conn, entry.id)
    common = next((e for e in editions if e.locale == COMMON), None)
    shared = content if locale == COMMON else _content(act, common)
    for one in editions:
        if one.locale == COMMON or (locale != COMMON and one.id != edition):
            continue
        if one.id != edition and one.head is None:
            # A language of which nothing is written has nothing of its own to be found by.
            continue
        _keep_released(act, kind, one)
        _put_draft(act, kind, one, shared, content if one.id == edition else _content(act, one))


def _put_draft(act: Act, kind: ContentType, edition: Edition, shared: Content, own: Content) -> None:
    title, text = words(kind, together(kind, shared, own))
    search.put(act.conn, edition.id, DRAFT, title, text, facets(kind.name, edition.locale))


def follow_release(act: Act, editions: Collection[int], moved: set[int]) -> None:
    """Bring the index of what is out in line: a row of its own only where the draft has moved on, which it has or had
    in the entries `moved` alone."""
    if not moved:
        return
    rows = search.out_of_step(act.conn, editions, moved)
    search.drop(act.conn, [r.id for r in rows if r.kept is not None], RELEASE)
    for row in rows:
        if row.revision is not None and row.revision != row.head:
            _put_released(act, act.setup.type(row.type), row.id, row.locale, row.revision)


def anew(act: Act, kind: ContentType) -> None:
    """Index every entry of a type whose fields are others now."""
    for row in entries.of_type(act.conn, kind.name):
        editions = entries.editions(act.conn, row.id)
        shared = _content(act, next((e for e in editions if e.locale == COMMON), None))
        for one in editions:
            if one.locale == COMMON or one.head is None:
                continue
            _put_draft(act, kind, one, shared, _content(act, one))
            out = standings.revision_at(act.conn, one.id, RELEASE)
            if out is not None and search.has(act.conn, one.id, RELEASE):
                _put_released(act, kind, one.id, one.locale, out)


def _keep_released(act: Act, kind: ContentType, edition: Edition) -> None:
    """What is out stays found when its draft moves on."""
    out = standings.revision_at(act.conn, edition.id, RELEASE)
    if out is None or out == edition.head or search.has(act.conn, edition.id, RELEASE):
        return
    _put_released(act, kind, edition.id, edition.locale, out)


def _put_released(act: Act, kind: ContentType, edition: int, locale: str, revision: int) -> None:
    title, text = words(kind, revisions.content(act.conn, revision).fields)
    search.put(act.conn, edition, RELEASE, title, text, facets(kind.name, locale))


INDEXED = "2"
"""What a file is indexed for: 1 searching, 2 also what pages say to searches and where they stand before release."""


def catch_up(desk: Desk) -> int:
    """Index every draft of a file that was written before there was an index; returns how many entries that were."""

    def do(act: Act) -> int:
        if definitions.setting(act.conn, "indexed") == INDEXED:
            return 0
        first = not definitions.setting(act.conn, "indexed")
        rows = entries.every(act.conn)
        for row in rows:
            kind = act.setup.type(row.type)
            for edition in entries.editions(act.conn, row.id):
                if edition.head is None:
                    continue
                content = revisions.content(act.conn, edition.head)
                if edition.locale == COMMON:
                    place(act, kind, row, content)
                else:
                    say(act, kind, row, edition.id, edition.locale, content)
                if first:
                    entries.set_tags(act.conn, edition.id, contenttypes.tags(kind, content.fields))
                if first and edition.locale != COMMON:
                    follow(act, kind, row, edition.id, edition.locale, content)
        if first:
            entries.flag(act.conn, [row.id for row in rows])
        definitions.set_setting(act.conn, "indexed", INDEXED)
        return len(rows)

    with desk.db.read() as conn:
        if definitions.setting(conn, "indexed") == INDEXED:
            return 0
    return desk.write(SCHEDULER_SELF, do)


def place(act: Act, kind: ContentType, entry: Entry, common: Content) -> None:
    """Keep below which entry a draft is placed, and where among those beside it, for trees of topics and pages."""
    if kind.parent or kind.site:
        _, rank = contenttypes.placement(kind, common.fields)
        placed = (sections.above(act, kind, common.fields) or 0, rank or natural(entry.id))
        standings.replace_places(act.conn, {entry.id: placed}, [entry.id], DRAFT, act.now)


def say(act: Act, kind: ContentType, entry: Entry, edition: int, locale: str, content: Content) -> None:
    """Keep what a draft says to searches, folded, to find what the site says twice. Only pages are found by searches."""
    if kind.addressed:
        search.say(act.conn, edition, locale, *said(kind, content.fields))


def said(kind: ContentType, values: Mapping[str, Any]) -> tuple[str, str]:
    """What values say to searches, folded: the title and the description."""
    told = {role: values.get(name) for role, name in kind.for_searches.items()}
    title = str(told["title"] or values.get(kind.title) or "")
    first, second = (" ".join(searching.fold(str(t or ""))) for t in (title, told["description"]))
    return first, second


@lru_cache(maxsize=256)
def facets(type: str = "", locale: str = "") -> str:
    """What a search is narrowed by, as words of its own; nothing for what is not given."""
    return " ".join([f"{mark}{_plain(word)}" for mark, word in (("t", type), ("l", locale)) if word])


def _plain(text: str) -> str:
    """A name as one word of the index; whatever somebody asks for, it is nothing but letters and digits."""
    marked = text.lower().replace("_", "zz1").replace("-", "zz2")
    return "".join(c if c.isascii() and c.isalnum() else f"zz{ord(c):x}z" for c in marked)


def narrowed(query: str, type: str, locale: str) -> str:
    """A query for FTS5 with what it is narrowed by."""
    return " AND ".join([query, *(f'facets : "{word}"' for word in facets(type, locale).split())])


def _content(view: View, edition: Edition | None) -> Content:
    return revisions.content(view.conn, edition.head) if edition is not None and edition.head else EMPTY


def words(kind: ContentType, values: Mapping[str, Any]) -> tuple[list[str], list[str]]:
    """The words of a title, and those of the rest, as they are searched for."""
    title: list[str] = []
    text: list[str] = []
    for slot in slots.filled(kind.fields, values):
        words = searching.fold(fields.searched(slot.spec, slot.value))
        (title if slot.path in (kind.title, kind.internal) else text).extend(words)
    return title, text
