"""What revisions hold as their type is now: a field that is of another kind since one was written comes as that, and one that moved between
the common edition and those of locales comes with what it held then, from where it lived."""

from __future__ import annotations

import sqlite3
from dataclasses import replace

from hawthorn.core import revision
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.fields import Field
from hawthorn.core.revision import EMPTY, Content
from hawthorn.store import entries, revisions, strands
from hawthorn.store.entries import DRAFT_STRAND
from hawthorn.store.revisions import Revision


def content(conn: sqlite3.Connection, kind: ContentType, id: int) -> Content:
    """What a revision holds, by which it can be merged with what was written since, and written on."""
    found = revisions.content(conn, id)
    if id > kind.marked:
        return found
    row = revisions.by_id(conn, id)
    assert row is not None
    locale = entries.edition_by_id(conn, row.edition).locale
    late = [one for one in kind.belonging(locale) if _moved_since(kind, one, id)]
    other = _beside(conn, row, locale) if late else EMPTY
    out = revision.brought(kind, found)
    for spec in late:
        whence = revision.home(kind, spec, found, other)
        out = revision.taking(out, spec.name, revision.brought(kind, whence))
    return replace(out, id=0)


def _moved_since(kind: ContentType, spec: Field, id: int) -> bool:
    return any(
        one.revision >= id and one.field.shared != spec.shared for one in kind.marks.get(spec.name, ())
    )


def _beside(conn: sqlite3.Connection, row: Revision, locale: str) -> Content:
    """What stood in the other edition when a revision was written: of the same strand, where that is there."""
    entry = entries.entry_by_id(conn, entries.edition_by_id(conn, row.edition).entry)
    other = entries.edition(conn, entry.id, entry.source_locale if locale == COMMON else COMMON)
    if other is None:
        return EMPTY
    name = strands.name_of(conn, row.strand) if row.strand is not None else DRAFT_STRAND
    same = strands.last(conn, other.id, name) if name != DRAFT_STRAND else None
    then = revisions.as_of(conn, other.id, row.at, same.id) if same is not None else None
    then = then or revisions.as_of(conn, other.id, row.at, other.strand)
    return revisions.content(conn, then) if then is not None else EMPTY
