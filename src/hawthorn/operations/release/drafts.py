"""Drafts: what was typed in its stored form, revisions appended to a draft, and what follows from its head: how lists show it,
what it refers to, what is found in it, and where it would be.

They stand beside how things go out, as what goes out from a strand comes into the draft."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from slugify import slugify

from hawthorn.core import contenttypes, fields, revision, slots
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid
from hawthorn.core.kinds.file import focus_of
from hawthorn.core.kinds.parent import parent_of
from hawthorn.core.messages import said
from hawthorn.core.revision import Content
from hawthorn.operations.access import permission, sections
from hawthorn.operations.release import applying, filters, workflows
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.search import indexing
from hawthorn.store import entries as store
from hawthorn.store import files, put_away, revisions, standings
from hawthorn.store.entries import Edition, Entry
from hawthorn.store.standings import DRAFT, RELEASE


def slug_of(text: str) -> str:
    return slugify(text, replacements=[("'", ""), ("’", "")])


def drafted(view: View, entry: int, locale: str) -> Content:
    """What the draft of an entry holds in a locale; nothing where there is none."""
    edition = store.edition(view.conn, entry, locale)
    return revisions.content(view.conn, edition.head) if edition and edition.head else revision.EMPTY


def record(
    act: Act,
    kind: ContentType,
    entry: Entry,
    edition: Edition,
    content: Content,
    note: str,
    origin: str,
) -> int:
    """Append a content that was made elsewhere (a translation that returned) to the draft; returns the revision. In the archive it is found
    by it, and has no address; what follows from the draft of an entry that was removed is worked out when that is brought back."""
    parents = [edition.head] if edition.head else []
    if not entry.put_away:
        return append(act, kind, entry, edition, content, parents, note, origin)
    made = _laid_down(act, kind, edition, content, parents, note, origin)
    if entry.removed_at is None:
        _keep_found(act, kind, entry, edition.id, edition.locale, replace(content, id=made))
    return made


def append(
    act: Act,
    kind: ContentType,
    entry: Entry,
    edition: Edition,
    content: Content,
    parents: list[int],
    note: str,
    origin: str,
) -> int:
    """Append a content with given parents to the draft; returns the revision."""
    require_at_work(entry)
    require_place(act, kind, edition, content)
    made = _laid_down(act, kind, edition, content, parents, note, origin)
    keep_up(act, kind, entry, edition.id, edition.locale, content, made)
    if edition.locale == COMMON:
        follow_section(act, entry.id)
    return made


def _laid_down(
    act: Act,
    kind: ContentType,
    edition: Edition,
    content: Content,
    parents: list[int],
    note: str,
    origin: str,
) -> int:
    made = add_revision(act, kind, edition.id, edition.strand, content, parents, note, origin)
    store.move_head(act.conn, edition.strand, edition.head, made)
    return made


def in_stored_form(
    act: View, kind: ContentType, entry: Entry, locale: str, under: Content, patch: Mapping[str, Any]
) -> Content:
    """The base with what was typed laid over it, each value in its stored form."""
    typed = contenttypes.canonical_fields(kind, patch, act.setup.bounds)
    # What is kept as it was typed has lost nothing.
    brought = {k: v for k, v in patch.items() if k in typed and typed[k] != v}
    act.notes += map(act.say, contenttypes.lost(kind, brought))
    values = {k: v for k, v in under.fields.items() if k not in patch} | typed
    follow_title(act, kind, entry, locale, under, values, patch)
    check_targets(act, kind, entry, patch, values)
    return revision.snapshot(kind, values, under)


def require_at_work(entry: Entry) -> None:
    """What is in the archive is not written until it is brought back."""
    if entry.archived_at is not None:
        raise InTheWay("drafts.in_archive")


def require_fillable(view: View, kind: ContentType, patch: Mapping[str, Any], head: int | None) -> None:
    """What only programs fill is not changed by a person."""
    filled = [f.name for f in kind.fields if f.read_only and f.name in patch]
    if view.identity.kind != "person" or not filled:
        return
    before = revisions.content(view.conn, head).fields if head is not None else {}
    changed = [
        FieldProblem(name, said("entries.filled_by_programs"))
        for name in filled
        if (patch[name] or None) != (before.get(name) or None)
    ]
    if changed:
        raise Invalid(changed, remedy=said("entries.leave_it"))


def follow_title(
    act: View,
    kind: ContentType,
    entry: Entry,
    locale: str,
    under: Content,
    values: dict[str, Any],
    patch: Mapping[str, Any],
) -> None:
    """Let the slug follow the title until somebody types one, or the edition is out."""
    slug = kind.slug
    if (
        slug is None
        or not slug.follows
        or locale == COMMON
        or patch.get(slug.name)
        or slug.follows not in patch
    ):
        return
    before = fields.slug_from(str(under.fields.get(slug.follows) or ""), slug_of)
    if under.fields.get(slug.name) not in (None, "", before):
        return
    if standings.address_of(act.conn, entry.id, RELEASE, locale):
        return
    followed = fields.slug_from(str(values.get(slug.follows) or ""), slug_of)
    if followed:
        values[slug.name] = followed
    else:
        values.pop(slug.name, None)


def check_targets(
    act: View, kind: ContentType, entry: Entry, patch: Mapping[str, Any], values: dict[str, Any]
) -> None:
    """References lead to entries of the right type, files are there, nothing is below itself."""
    problems = wrong_targets(act, kind, entry.id, patch, values)
    if problems:
        raise Invalid(problems)


def wrong_targets(
    act: View, kind: ContentType, entry: int, patch: Mapping[str, Any], values: Mapping[str, Any]
) -> list[FieldProblem]:
    """What of some values of an entry (0 for one that is not there yet) leads nowhere, or where it may not."""
    problems: list[FieldProblem] = []
    typed = [f for f in kind.fields if f.name in patch]
    for slot in slots.filled(typed, values):
        spec, name = slot.spec, slot.path
        for value in slot.value if isinstance(slot.value, list) else [slot.value]:
            if value is None:
                continue
            if spec.kind in ("reference", "parent"):
                named = parent_of(value) if spec.kind == "parent" else value
                if named is None:
                    continue
                target = store.entry(act.conn, named)
                if target is None or (spec.types and target.type not in spec.types):
                    code = "drafts.refers_to_another_type" if spec.types else "drafts.refers_to_nothing"
                    what = said(code, label=slot.label, id=named, types=list(spec.types))
                    problems.append(FieldProblem(name, what))
                elif spec.kind == "parent" and (wrong := _wrong_above(act, entry, target)):
                    title = permission.title(act, target.id) or said("common.untitled")
                    problems.append(FieldProblem(name, said(f"drafts.placed_below.{wrong}", entry=title)))
            elif spec.kind == "file":
                row = files.find(act.conn, value["sha256"])
                if row is None:
                    problems.append(FieldProblem(name, said("drafts.not_uploaded")))
                else:
                    focus = {k: value[k] for k in ("focus",) if k in value}
                    value.clear()
                    value.update(row.value() | focus)
    return problems


def require_place(view: View, kind: ContentType, edition: Edition, content: Content) -> None:
    """What comes into the draft from elsewhere places an entry where it can stand among drafts, unless it stands there already."""
    wrong = newly_misplaced(view, kind, edition, content)
    if wrong is not None and kind.parent is not None:
        raise InTheWay("drafts.misplaced", why=wrong.what, field=kind.parent.label)


def newly_misplaced(view: View, kind: ContentType, edition: Edition, content: Content) -> FieldProblem | None:
    """Why an entry cannot be drafted where a content would place it, in place of what the draft of an edition holds."""
    if edition.locale != COMMON or kind.parent is None:
        return None
    here = revisions.content(view.conn, edition.head).fields if edition.head is not None else {}
    if contenttypes.placement(kind, content.fields)[0] == contenttypes.placement(kind, here)[0]:
        return None
    return misplaced(view, kind, edition.entry, content.fields)


def misplaced(view: View, kind: ContentType, entry: int, values: Mapping[str, Any]) -> FieldProblem | None:
    """Why an entry cannot be drafted where values place it: below something that is put away, or that stands below it."""
    uuid, _ = contenttypes.placement(kind, values)
    if kind.parent is None or uuid is None:
        return None
    above = store.entry(view.conn, uuid)
    wrong = "removed" if above is None else _wrong_above(view, entry, above)
    title = (permission.title(view, above.id) if above is not None else "") or said("common.untitled")
    return FieldProblem(kind.parent.name, said(f"drafts.why_not.{wrong}", entry=title)) if wrong else None


def _wrong_above(view: View, entry: int, above: Entry) -> str:
    if above.archived_at is not None:
        return "archived"
    return "itself" if _is_above(view, entry, above.id) else ""


def _is_above(view: View, entry: int, below: int) -> bool:
    seen: set[int] = set()
    at: int | None = below
    while at is not None and at not in seen:
        if at == entry:
            return True
        seen.add(at)
        at = sections.parent_of(view, at)
    return False


def follow_section(act: Act, entry: int) -> None:
    """The section follows the placement, and the workflow may follow the section."""
    workflows.restand(act, sections.follow(act, entry))


def add_revision(
    act: Act,
    kind: ContentType,
    edition: int,
    strand: int | None,
    content: Content,
    parents: list[int],
    note: str,
    origin: str,
) -> int:
    made = revisions.add_revision(
        act.conn,
        edition=edition,
        strand=strand,
        content=content,
        parents=parents,
        content_hash=revision.content_hash(edition, kind.version, content.fields),
        type_version=kind.version,
        actor=act.identity.id,
        actor_kind=act.identity.kind,
        at=act.now,
        note=note,
        origin=origin,
    )
    uses = [
        (one["sha256"], focus_of(one))
        for slot in slots.filled(kind.fields, content.fields)
        if slot.spec.kind == "file" and slot.value
        for one in (slot.value if isinstance(slot.value, list) else [slot.value])
    ]
    if uses:
        revisions.use_files(act.conn, made, uses)
    return made


def revive(act: Act, uuids: Sequence[str]) -> None:
    """Bring entries that were removed, or are in the archive, back as drafts, with all their history. One that would stand below itself by now
    is at the top, and a revision says so; what names one as what it stands below comes to stand there again."""
    put_away.set_removed(act.conn, uuids, None)
    put_away.set_archived(act.conn, uuids, None)
    back = set(uuids)
    for uuid in uuids:
        row = store.entry(act.conn, uuid)
        assert row is not None
        kind = act.setup.type(row.type)
        for edition in store.editions(act.conn, row.id):
            if edition.head is not None:
                content, head = _as_it_comes_back(act, kind, row, edition, edition.head)
                keep_up(act, kind, row, edition.id, edition.locale, content, head)
                store.summary_as_of(act.conn, edition.id, head)
        follow_section(act, row.id)
        for below in put_away.drafted_below_before(act.conn, uuid):
            if below.uuid in back:
                # It finds its place itself.
                continue
            kind, common = act.setup.type(below.type), drafted(act, below.id, COMMON)
            if contenttypes.placement(kind, common.fields)[0] == uuid:
                _follow_place(act, kind, below, common)
                follow_section(act, below.id)


def bring_to_the_top(act: Act) -> None:
    """Let what is drafted below something that was erased stand at the top."""
    for entry in put_away.drafted_below_nothing(act.conn):
        _follow_place(act, act.setup.type(entry.type), entry, drafted(act, entry.id, COMMON))
        follow_section(act, entry.id)


def _as_it_comes_back(
    act: Act, kind: ContentType, entry: Entry, edition: Edition, head: int
) -> tuple[Content, int]:
    """What the draft of an entry that comes back holds, and its revision: one without its place, where that is below itself by now."""
    content = revisions.content(act.conn, head)
    above = sections.above(act, kind, content.fields) if edition.locale == COMMON else None
    if kind.parent is None or above is None or not _is_above(act, entry.id, above):
        return content, head
    content = revision.snapshot(
        kind, {k: v for k, v in content.fields.items() if k != kind.parent.name}, content
    )
    note = act.keep("notes.at_the_top")
    return content, _laid_down(act, kind, edition, content, [head], note, "restored")


def keep_up(
    act: Act, kind: ContentType, entry: Entry, edition: int, locale: str, content: Content, made: int
) -> None:
    """Bring in line what is derived from a draft's head."""
    content = replace(content, id=made)
    if kind.planning:
        act.drafted.add(edition)
    _keep_found(act, kind, entry, edition, locale, content)
    if locale == COMMON:
        _follow_place(act, kind, entry, content)
    elif kind.slug:
        _follow_draft_address(act, kind, entry, locale, content)


def _follow_place(act: Act, kind: ContentType, entry: Entry, common: Content) -> None:
    indexing.place(act, kind, entry, common)
    if kind.slug and kind.parent:
        _follow_draft_address(act, kind, entry, COMMON, common)


def _keep_found(
    act: Act, kind: ContentType, entry: Entry, edition: int, locale: str, content: Content
) -> None:
    """Keep what a draft is listed by, what it refers to, and the words by which it is found."""
    title = str(content.fields.get(kind.title) or "")
    lacking = contenttypes.missing(kind, locale, content.fields)
    internal = kind.field(kind.internal) if kind.internal else None
    named = str(content.fields.get(kind.internal) or "") if internal else ""
    store.summarise(
        act.conn, edition, entry.id, kind.name, locale, title, lacking, act.now, act.identity.id, named
    )
    if kind.dated or kind.pinned:
        applying.list_drafts(act, [entry.id])
    if kind.filtered:
        filters.keep(act, [entry.id], DRAFT)
    store.set_references(act.conn, edition, contenttypes.referred(kind, content.fields))
    store.set_tags(act.conn, edition, contenttypes.tags(kind, content.fields))
    indexing.follow(act, kind, entry, edition, locale, content)
    if locale != COMMON:
        indexing.say(act, kind, entry, edition, locale, content)


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
