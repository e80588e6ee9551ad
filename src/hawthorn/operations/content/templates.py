"""Starting from what is there: copies of entries, and templates made from them."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from hawthorn.core import naming, revision
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import FieldProblem, Invalid, NotFound
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.core.timeline import iso
from hawthorn.operations.access import permission
from hawthorn.operations.content import entries
from hawthorn.operations.release import drafts, fitting
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import entries as store
from hawthorn.store import revisions, short, templates
from hawthorn.store.entries import Entry
from hawthorn.store.templates import Template


def make(act: Act, uuid: str, name: str) -> str:
    """Make a template from an entry as its drafts stand now; returns the template's UUID."""
    entry = permission.find(act, uuid)
    kind = act.setup.type(entry.type)
    permission.require(act, "write", permission.subject(act, entry, entry.source_locale))
    if not name.strip() or len(name) > 120:
        raise Invalid([FieldProblem("name", said("templates.length"))])
    made = new_uuid(act.now)
    content = {t: _stored(c) for t, c in _contents(act, entry, kind).items()}
    templates.add(
        act.conn,
        made,
        naming.line("name", " ".join(name.split())),
        kind.name,
        entry.source_locale,
        json.dumps(content, ensure_ascii=False),
        entry.id,
        act.identity.id,
        act.now,
    )
    act.event("template.made", [entry.id], {"template": made, "name": name, "entry": uuid})
    return made


@dataclass(frozen=True, slots=True)
class TemplateShown:
    """A template that was made from an entry."""

    id: str
    short: str
    name: str
    type: str
    locales: list[str]
    by: str
    at: str


def listing(view: View) -> list[TemplateShown]:
    """The templates of types that whoever asks may write."""
    rows = templates.every(view.conn)
    return [
        TemplateShown(
            id=r.uuid,
            short=short.of(view.conn, "template", r.uuid),
            name=r.name,
            type=r.type,
            locales=sorted(t for t in json.loads(r.content) if t != COMMON),
            by=r.by_name,
            at=iso(r.at),
        )
        for r in rows
        if permission.may(view, "write", Subject(type=r.type, own=True))
    ]


def end(act: Act, uuid: str) -> None:
    """End a template; entries that were started from it stay as they are."""
    row = _find(act, uuid)
    if row.actor != act.identity.id:
        permission.require(act, "configure", Subject())
    templates.end(act.conn, act.now, row.id)
    act.event("template.ended", [], {"template": uuid, "name": row.name})


def _find(view: View, uuid: str) -> Template:
    row: Template | None = templates.by_uuid(view.conn, uuid)
    if row is None:
        raise NotFound("templates.not_there", id=uuid)
    return row


def start(act: Act, uuid: str, locale: str, values: Mapping[str, Any], note: str = "") -> str:
    """Start an entry from a template, in any locale: with its words in that locale where it has them, else in its own."""
    row = _find(act, uuid)
    kind = act.setup.type(row.type)
    tag = act.setup.locale(locale)
    kept = {t: _content(c) for t, c in json.loads(row.content).items()}
    stored = _as_now(kind, kept, row.source_locale)
    own = stored.get(tag) or stored.get(row.source_locale) or Content({})
    contents = {COMMON: stored.get(COMMON, Content({})), tag: own}
    return _started(act, kind, tag, contents, values, note or act.keep("notes.from_template", name=row.name))


def copy(act: Act, uuid: str, values: Mapping[str, Any], note: str = "") -> str:
    """Start an entry as a copy of another, in all its locales; what is typed is laid over its source."""
    entry = permission.find(act, uuid)
    kind = act.setup.type(entry.type)
    source = entry.source_locale
    contents = _as_now(kind, _contents(act, entry, kind), source)
    title = str(contents[source].fields.get(kind.title) or "")
    own = (
        {kind.title: act.keep("templates.copy", title=title)[: _limit(kind)], **values}
        if title
        else dict(values)
    )
    note = note or act.keep("notes.copied" if title else "notes.copied_untitled", title=title)
    return _started(act, kind, source, contents, own, note)


def _as_now(kind: ContentType, contents: Mapping[str, Content], source: str) -> dict[str, Content]:
    """Contents with each field where it lives now, as what it is now, and nothing of what it left behind where it lived before."""
    common = contents.get(COMMON, revision.EMPTY)
    out: dict[str, Content] = {}
    for tag, content in {COMMON: common, **contents}.items():
        whole = revision.together(kind, common, contents.get(source, common) if tag == COMMON else content)
        here = {spec.name for spec in kind.belonging(tag)}
        out[tag] = revision.snapshot(kind, {k: v for k, v in whole.items() if k in here}, content)
    return out


def _limit(kind: ContentType) -> int:
    spec = kind.field(kind.title)
    return (spec.limit if spec else None) or 500


def _contents(view: View, entry: Entry, kind: ContentType) -> dict[str, Content]:
    """What an entry's drafts hold, but for their addresses."""
    out: dict[str, Content] = {}
    for edition in store.editions(view.conn, entry.id):
        if edition.head is not None:
            content = revisions.content(view.conn, edition.head)
            drop = {kind.slug.name} if kind.slug else set()
            out[edition.locale] = replace(
                content, fields={k: v for k, v in content.fields.items() if k not in drop and kind.field(k)}
            )
    return out


def _started(
    act: Act,
    kind: ContentType,
    source: str,
    contents: Mapping[str, Content],
    values: Mapping[str, Any],
    note: str,
) -> str:
    """A new entry with given contents, but for what these plan; typed values are laid over those of the source and the common edition."""
    contents, out = _fitting(act, kind, contents)
    if out:
        note = act.keep("common.sentences", sentences=[note, act.keep("fitting.left_out", fields=out)])
    shared = {f.name for f in kind.fields if f.shared}
    first = {**contents.get(COMMON, Content({})).fields, **contents[source].fields, **values}
    uuid = entries.start(act, kind.name, source, {k: v for k, v in first.items() if kind.field(k)}, note)
    entry = store.entry(act.conn, uuid)
    assert entry is not None
    for tag, content in contents.items():
        if tag in (COMMON, source) or not kind.translated:
            continue
        permission.require(act, "write", permission.subject(act, entry, tag))
        store.add_edition(act.conn, entry.id, tag)
        edition = store.edition(act.conn, entry.id, tag)
        assert edition is not None
        own = {k: v for k, v in content.fields.items() if k not in shared}
        drafts.follow_title(act, kind, entry, tag, Content({}), own, {kind.title: True})
        drafts.append(act, kind, entry, edition, replace(content, fields=own), [], note, "start")
    return uuid


def _fitting(
    act: Act, kind: ContentType, contents: Mapping[str, Content]
) -> tuple[dict[str, Content], list[str]]:
    """Contents without what they plan, and without what does not fit its field by now or leads to what was removed; with the labels of the
    fields that lost anything by that."""
    plans = {spec.name for spec in kind.planning}
    made: dict[str, Content] = {}
    out: dict[str, str] = {}
    for tag, content in contents.items():
        kept: dict[str, Any] = {}
        for name, value in content.fields.items():
            spec = kind.field(name)
            if spec is None or name in plans:
                continue
            left = fitting.left_of(act, kind, spec, value)
            if left is not None:
                kept[name] = left
            if left != value:
                out[name] = spec.label
        made[tag] = replace(content, fields=kept)
    return made, list(out.values())


def _stored(content: Content) -> dict[str, Any]:
    return {
        "fields": content.fields,
        "paragraph_ids": revision.paragraph_ids_to_json(content.paragraph_ids),
        "unit_map": json.dumps(content.unit_map),
        "revision": content.id,
    }


def _content(stored: Mapping[str, Any]) -> Content:
    return Content(
        stored["fields"],
        revision.paragraph_ids_from_json(stored["paragraph_ids"]),
        revision.unit_map_from_json(stored["unit_map"]),
        # Earlier ones do not say.
        stored.get("revision", 0),
    )
