"""What follows from the head of a draft: how lists show it, what it refers to, what is found in it, and where it would be."""

from __future__ import annotations

from hawthorn.core import contenttypes
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.revision import Content
from hawthorn.operations.access import sections
from hawthorn.operations.release import applying
from hawthorn.operations.runtime.act import Act
from hawthorn.operations.search import indexing
from hawthorn.store import entries as store
from hawthorn.store import revisions, standings
from hawthorn.store.entries import Entry
from hawthorn.store.standings import DRAFT


def revive(act: Act, uuid: str) -> None:
    """Bring a removed entry back as a draft, with all its history."""
    store.set_removed(act.conn, [uuid], None)
    row = store.entry(act.conn, uuid)
    assert row is not None
    kind = act.setup.type(row.type)
    for edition in store.editions(act.conn, row.id):
        if edition.head is not None:
            content = revisions.content(act.conn, edition.head)
            keep_up(act, kind, row, edition.id, edition.locale, content, edition.head)
            store.summary_as_of(act.conn, edition.id, edition.head)


def keep_up(
    act: Act, kind: ContentType, entry: Entry, edition: int, locale: str, content: Content, made: int
) -> None:
    """Bring in line what is derived from a draft's head."""
    title = str(content.fields.get(kind.title) or "")
    lacking = contenttypes.missing(kind, locale, content.fields)
    internal = kind.field(kind.internal) if kind.internal else None
    named = str(content.fields.get(kind.internal) or "") if internal else ""
    store.summarise(
        act.conn, edition, entry.id, kind.name, locale, title, lacking, act.now, act.identity.id, named
    )
    if kind.dated or kind.pinned:
        applying.list_drafts(act, [entry.id])
    store.set_references(act.conn, edition, contenttypes.referred(kind, content.fields))
    store.set_tags(act.conn, edition, contenttypes.tags(kind, content.fields))
    indexing.follow(act, kind, entry, edition, locale, content)
    if locale == COMMON:
        indexing.place(act, kind, entry, content)
    else:
        indexing.say(act, kind, entry, edition, locale, content)
    if kind.slug and (locale != COMMON or kind.parent):
        _follow_draft_address(act, kind, entry, locale, content)


def _follow_draft_address(act: Act, kind: ContentType, entry: Entry, locale: str, content: Content) -> None:
    assert kind.slug is not None
    have = standings.addresses_of(act.conn, entry.id, DRAFT)
    slugs: dict[str, str | None] = {row.locale: row.slug for row in have}
    parent = have[0].parent if have else None
    if locale != COMMON:
        if slugs.get(locale) == content.fields.get(kind.slug.name) and parent is not None:
            return
        slugs[locale] = content.fields.get(kind.slug.name)
    if parent is None or locale == COMMON:
        parent = sections.parent_of(act, entry.id) or 0
    applying.draft_address(act, entry.id, slugs, parent)
