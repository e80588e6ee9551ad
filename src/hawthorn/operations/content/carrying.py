"""Bringing what is written in line with a changed type: values of fields that are of another kind from now on, are shared by all locales, or
differ by them."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence

from hawthorn.core import contenttypes
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.fields import Field
from hawthorn.core.revision import EMPTY, Content, brought, snapshot, taking
from hawthorn.operations.release import drafts
from hawthorn.operations.runtime.act import Act
from hawthorn.store import entries as entry_store
from hawthorn.store import revisions, strands
from hawthorn.store.entries import DRAFT_STRAND, Edition, Entry


def carry(
    act: Act, kind: ContentType, entry: Entry, changed: Sequence[Field], moved: Sequence[Field]
) -> None:
    """Bring the drafts of one entry in line with a changed type, and what is written beside them: some fields are others by now, of which some
    moved."""
    editions = {e.locale: e for e in entry_store.editions(act.conn, entry.id)}
    contents = {t: revisions.content(act.conn, e.head) for t, e in editions.items() if e.head is not None}
    note = act.keep("notes.type_changed", type=kind.label, fields=[f.label for f in changed])
    made = _carried(kind, moved, contents, editions, entry.source_locale)
    for tag, content in made.items():
        drafts.record(act, kind, entry, editions[tag], content, note, "type changed")
    for tag, edition in editions.items():
        if tag not in made and tag in contents:
            lacking = json.dumps(contenttypes.missing(kind, tag, contents[tag].fields))
            entry_store.set_missing(act.conn, lacking, edition.id)
    if changed:
        _carry_beside(act, kind, entry, moved, contents, note)


def _carried(
    kind: ContentType,
    moved: Sequence[Field],
    contents: Mapping[str, Content],
    editions: Mapping[str, Edition],
    source: str,
) -> dict[str, Content]:
    """What editions hold by now, where that is something else, or fields moved there in which anything was written."""
    there = {tag: brought(kind, content) for tag, content in contents.items()}
    out = {tag: content for tag, content in there.items() if content != contents[tag] and tag in editions}
    for spec in moved:
        for tag, whence in _whence(spec, there, source).items():
            if tag in editions:
                out[tag] = taking(out.get(tag) or there.get(tag, EMPTY), spec.name, whence)
    return {tag: snapshot(kind, content.fields, content) for tag, content in out.items()}


def _whence(spec: Field, contents: Mapping[str, Content], source: str) -> dict[str, Content]:
    """Where each edition to which a field moved takes what it begins with. Where all shared what the source had brought, and nobody
    changed it meanwhile, each locale has its own value back."""
    held = {tag: content.fields.get(spec.name) for tag, content in contents.items()}
    if all(value is None for value in held.values()):
        return {}
    if spec.shared:
        return {COMMON: contents.get(source, EMPTY)}
    shared = contents.get(COMMON, EMPTY)
    as_it_was = held.get(COMMON) is not None and held.get(COMMON) == held.get(source)
    back = {tag for tag, value in held.items() if as_it_was and value is not None}
    return {tag: content if tag in back else shared for tag, content in contents.items() if tag != COMMON}


def _carry_beside(
    act: Act,
    kind: ContentType,
    entry: Entry,
    moved: Sequence[Field],
    drafted: Mapping[str, Content],
    note: str,
) -> None:
    """The same of each open strand, which goes by the draft where it has no edition of its own."""
    for name in sorted(strands.open_names(act.conn, entry.id) - {DRAFT_STRAND}):
        found = {tag: entry_store.edition(act.conn, entry.id, tag, name) for tag in drafted}
        rows = {tag: one for tag, one in found.items() if one is not None}
        beside = {tag: revisions.content(act.conn, one.tip) for tag, one in rows.items()}
        made = _carried(kind, moved, {**drafted, **beside}, rows, entry.source_locale)
        for tag, content in made.items():
            row = rows[tag]
            new = drafts.add_revision(act, kind, row.id, row.strand, content, [row.tip], note, "type changed")
            entry_store.move_head(act.conn, row.strand, row.head, new)
