"""Starting, saving, settling and finding entries."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import field, replace
from typing import Any

from hawthorn.core import contenttypes, fields, merge, numbers
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import COMMON, ContentType
from hawthorn.core.errors import HawthornError, InTheWay, Invalid, NotFound, StaleRevision
from hawthorn.core.merge import Conflict, Merged, Settlement
from hawthorn.core.quick import dataclass
from hawthorn.core.remembering import LONG
from hawthorn.core.revision import EMPTY, Content
from hawthorn.operations.access import permission, sections
from hawthorn.operations.release import drafts, planned_fields
from hawthorn.operations.release.drafts import add_revision, follow_section, in_stored_form, slug_of
from hawthorn.operations.runtime import as_now
from hawthorn.operations.runtime.act import Act, View, new_uuid
from hawthorn.store import entries as store
from hawthorn.store import reviews, revisions
from hawthorn.store.entries import Edition, Entry


@dataclass(frozen=True, slots=True)
class Base:
    """The revisions that somebody looked at when they began to type: of the edition and of the common one."""

    own: int | None
    common: int | None

    @property
    def etag(self) -> str:
        """The two as an entity tag."""
        return f'"{self.own or 0}-{self.common or 0}"'


@dataclass(slots=True)
class Saved:
    """What came of a save.

    With `conflicts`, nothing but `typed` was kept: by locale, the revision that holds what was typed.
    """

    uuid: str
    locale: str
    revisions: dict[str, int] = field(default_factory=dict)
    merged_with: list[dict[str, Any]] = field(default_factory=list)
    conflicts: list[tuple[str, Conflict]] = field(default_factory=list)
    typed: dict[str, int] = field(default_factory=dict)
    base: Base = field(default_factory=lambda: Base(None, None))
    strand: str = store.DRAFT_STRAND


def parse_etag(text: str) -> Base:
    """The revisions that an entity tag names; raises `Invalid` for anything else."""
    try:
        own, common = (numbers.whole(n) for n in text.strip().removeprefix("W/").strip('"').split("-"))
        if own is None or common is None:
            raise ValueError
        return Base(own or None, common or None)
    except ValueError:
        raise Invalid("entries.no_etag", text=text) from None


def start(
    act: Act, type: str, locale: str, values: Mapping[str, Any], note: str = "", uuid: str | None = None
) -> str:
    """Start an entry in a locale, which becomes its source; returns its UUID, a new one where none is given."""
    kind = act.setup.type(type)
    tag = act.setup.locale(locale)
    _require_room(act, kind)
    drafts.require_fillable(act, kind, values, None)
    section = sections.section_of(act, contenttypes.placement(kind, values)[0])
    about = Subject(kind.name, tag, section, own=True, within=store.within(act.conn, section))
    permission.require(act, "write", about)
    uuid = uuid or new_uuid(act.now)
    entry = store.add_entry(act.conn, uuid, kind.name, tag, section, act.now, act.identity.id)
    row = store.entry_by_id(act.conn, entry)
    for where in (COMMON, tag):
        edition, strand = store.add_edition(act.conn, entry, where)
        own = {f.name for f in kind.belonging(where)}
        patch = contenttypes.defaults(kind, where) | {k: v for k, v in values.items() if k in own}
        typed = in_stored_form(act, kind, row, where, EMPTY, patch)
        planned_fields.require_to_come(act, kind, {}, typed.fields)
        made = add_revision(act, kind, edition, strand, typed, [], note, "start")
        store.move_head(act.conn, strand, None, made)
        drafts.keep_up(act, kind, row, edition, where, typed, made)
    unknown = set(values) - {f.name for f in kind.fields}
    if unknown:
        contenttypes.canonical_fields(kind, {k: values[k] for k in unknown})
    follow_section(act, entry)
    act.event(
        "entry.started",
        [entry],
        {"entry": uuid, "type": type, "locale": tag, "title": store.title(act.conn, entry)},
    )
    return uuid


def _require_room(act: Act, kind: ContentType) -> None:
    """A type still takes entries, and one that allows exactly one has none yet."""
    if kind.retired:
        raise InTheWay("entries.type_retired", kind=kind.label)
    if not kind.single:
        return
    row = store.single(act.conn, kind.name)
    if row is not None:
        raise InTheWay("entries.one_already", kind=kind.label, entry=row.uuid)


def _require_translated(kind: ContentType, entry: Entry, tag: str) -> None:
    if not kind.translated and tag not in (COMMON, entry.source_locale):
        raise InTheWay("entries.no_other_locales", kind=kind.label)


def save(
    act: Act,
    uuid: str,
    locale: str,
    patch: Mapping[str, Any],
    base: Base,
    note: str = "",
    strand: str = store.DRAFT_STRAND,
) -> Saved:
    """Save typed fields over what the writer looked at, in the draft or in another strand.

    Where somebody saved in between, different places merge by themselves. The same place is a conflict:
    then what was typed is kept as a revision of its own, and the strand does not move.
    """
    entry = permission.find(act, uuid, None)
    drafts.require_at_work(entry)
    kind = act.setup.type(entry.type)
    tag = act.setup.locale(locale)
    _check_names(kind, patch)
    saved = Saved(uuid, tag, strand=strand)
    steps: list[_Step] = []
    for where, seen in ((COMMON, base.common), (tag, base.own)):
        own = {f.name for f in kind.belonging(where)}
        mine = {k: v for k, v in patch.items() if k in own}
        edition = store.edition(act.conn, entry.id, where, strand)
        if mine or edition is None:
            permission.require(act, "write", permission.subject(act, entry, where))
        if edition is None and strand != store.DRAFT_STRAND:
            raise NotFound("common.no_strand", name=strand)
        if edition is None:
            _require_translated(kind, entry, tag)
            store.add_edition(act.conn, entry.id, where)
            edition = store.edition(act.conn, entry.id, where)
            assert edition is not None
        if mine:
            drafts.require_fillable(act, kind, mine, edition.head)
            try:
                steps.append(_merge_in(act, kind, entry, edition, mine, seen, note))
            except Invalid:
                # Say everything that is wrong at once, in whichever edition it would be kept.
                contenttypes.canonical_fields(kind, patch)
                raise
    _finish(act, kind, entry, saved, steps, note)
    return saved


def take_back(
    act: Act,
    entry: Entry,
    where: str,
    span: tuple[int | None, int],
    note: str,
    strand: str = store.DRAFT_STRAND,
) -> Saved | None:
    """Bring back what an edition (`*` for the common one) held before a span of revisions, given as the one before it (None where there was none) and its
    last, merged with what was written since; None where they changed nothing."""
    before, last = span
    kind = act.setup.type(entry.type)
    had = as_now.content(act.conn, kind, before).fields if before is not None else {}
    has = as_now.content(act.conn, kind, last).fields
    had = planned_fields.gone_back(act, kind, had, has)
    patch = {name: had.get(name) for name in {*had, *has} if had.get(name) != has.get(name)}
    if not patch:
        return None
    base = Base(None, last) if where == COMMON else Base(last, None)
    locale = entry.source_locale if where == COMMON else where
    return save(act, entry.uuid, locale, patch, base, note, strand)


def work_out(
    view: View,
    uuid: str,
    locale: str,
    patch: Mapping[str, Any],
    base: Base,
    strand: str = store.DRAFT_STRAND,
) -> None:
    """Do beforehand what a save would do that takes long: bring long texts into their stored form, and merge them."""
    with suppress(HawthornError):
        entry = permission.find(view, uuid, None)
        kind = view.setup.type(entry.type)
        tag = view.setup.locale(locale)
        for where, seen in ((COMMON, base.common), (tag, base.own)):
            own = {f.name for f in kind.belonging(where)}
            mine = {k: v for k, v in patch.items() if k in own}
            edition = store.edition(view.conn, entry.id, where, strand)
            stale = edition is not None and edition.head is not None and seen != edition.head
            if not mine or not (stale or len(str(mine)) >= LONG):
                continue
            under = as_now.content(view.conn, kind, seen) if seen is not None else EMPTY
            typed = in_stored_form(view, kind, entry, where, under, mine)
            if stale and edition is not None:
                parents = [seen] if seen else []
                view.setup.mergings.of_typed(view, kind, edition.id, typed, parents, edition.tip)


def work_out_settling(
    view: View,
    uuid: str,
    locale: str,
    typed: Mapping[str, int],
    base: Base,
    strand: str = store.DRAFT_STRAND,
) -> None:
    """Merge beforehand what settling a conflict would merge."""
    with suppress(HawthornError):
        entry = permission.find(view, uuid, None)
        kind = view.setup.type(entry.type)
        for where, seen in ((COMMON, base.common), (view.setup.locale(locale), base.own)):
            edition = store.edition(view.conn, entry.id, where, strand)
            kept = revisions.by_id(view.conn, typed[where]) if where in typed else None
            if edition is None or kept is None or kept.edition != edition.id or edition.head != seen:
                continue
            view.setup.mergings.of_revision(view, kind, typed[where], edition.tip)


def settle(
    act: Act,
    uuid: str,
    locale: str,
    typed: Mapping[str, int],
    base: Base,
    settlements: Mapping[str, Settlement],
    strand: str = store.DRAFT_STRAND,
) -> Saved:
    """Settle a conflict: merge what was typed again, with decisions for every place that is unsettled."""
    entry = permission.find(act, uuid, None)
    drafts.require_at_work(entry)
    kind = act.setup.type(entry.type)
    tag = act.setup.locale(locale)
    saved = Saved(uuid, tag, strand=strand)
    steps: list[_Step] = []
    for where, seen in ((COMMON, base.common), (tag, base.own)):
        edition = store.edition(act.conn, entry.id, where, strand)
        if where not in typed or edition is None:
            continue
        permission.require(act, "write", permission.subject(act, entry, where))
        kept = revisions.by_id(act.conn, typed[where])
        if kept is None or kept.edition != edition.id:
            raise NotFound("entries.not_typed_here")
        if edition.head != seen:
            raise StaleRevision(
                "entries.saved_while_deciding", etag=current_base(act, entry.id, tag, strand).etag
            )
        merged = act.setup.mergings.of_revision(act, kind, typed[where], edition.tip)
        step = _join(kind, edition, merged, typed[where], settlements)
        if step.content is not None and strand == store.DRAFT_STRAND:
            drafts.require_place(act, kind, edition, step.content)
        steps.append(step)
    _finish(act, kind, entry, saved, steps, act.keep("notes.settled"))
    return saved


@dataclass(slots=True)
class _Step:
    edition: Edition
    content: Content | None
    parents: list[int]
    conflicts: tuple[Conflict, ...] = ()
    typed: int | None = None
    origin: str = "save"


def _merge_in(
    act: Act,
    kind: ContentType,
    entry: Entry,
    edition: Edition,
    patch: Mapping[str, Any],
    seen: int | None,
    note: str,
) -> _Step:
    head = edition.head
    if seen is not None and seen != head:
        row = revisions.by_id(act.conn, seen)
        if row is None or row.edition != edition.id:
            raise Invalid("entries.etag_of_another")
    under = as_now.content(act.conn, kind, seen) if seen is not None else EMPTY
    typed = in_stored_form(act, kind, entry, edition.locale, under, patch)
    planned_fields.require_to_come(act, kind, under.fields, typed.fields)
    if seen is not None and typed.fields == under.fields:
        # Nothing was typed, whatever somebody else saved since.
        return _Step(edition, None, [])
    if seen == head:
        return _Step(edition, typed, [head] if head else [])
    merged = act.setup.mergings.of_typed(act, kind, edition.id, typed, [seen] if seen else [], edition.tip)
    kept = add_revision(act, kind, edition.id, None, typed, [seen] if seen else [], note, "typed")
    return _join(kind, edition, merged, kept, {})


def _join(
    kind: ContentType, edition: Edition, merged: Merged, typed: int, settlements: Mapping[str, Settlement]
) -> _Step:
    following = _slug_that_follows(kind, merged.conflicts)
    if following:
        settlements = {**settlements, following: Settlement("theirs")}
    content, still_open = merge.settle(merged, settlements)
    if following and kind.slug:
        title = str(content.fields.get(kind.slug.follows) or "")
        content = replace(
            content, fields={**content.fields, kind.slug.name: fields.slug_from(title, slug_of)}
        )
    unsettled = tuple(c for c in merged.conflicts if c.place in still_open)
    origin = "settled" if merged.conflicts else "merge"
    return _Step(edition, content, [edition.tip, typed], unsettled, typed, origin)


def _slug_that_follows(kind: ContentType, conflicts: Sequence[Conflict]) -> str:
    """The slug's place, when both sides' slugs only followed their titles: then there is nothing to ask about it."""
    by_place = {c.place: c for c in conflicts}
    slug = by_place.get(kind.slug.name) if kind.slug else None
    title = by_place.get(kind.slug.follows) if kind.slug else None
    if slug is None or title is None:
        return ""
    pairs = ((slug.ours, title.ours), (slug.theirs, title.theirs))
    follows = all(s == fields.slug_from(str(t or ""), slug_of) for s, t in pairs)
    return slug.place if follows else ""


def _finish(act: Act, kind: ContentType, entry: Entry, saved: Saved, steps: list[_Step], note: str) -> None:
    saved.conflicts = [(s.edition.locale, c) for s in steps for c in s.conflicts]
    saved.typed = {s.edition.locale: s.typed for s in steps if s.typed is not None}
    if saved.conflicts:
        saved.base = current_base(act, entry.id, saved.locale, saved.strand)
        # A step of the other edition that would have gone through waits with the rest: keep what was typed.
        for step in steps:
            if step.typed is None and step.content is not None:
                kept = add_revision(
                    act, kind, step.edition.id, None, step.content, step.parents, note, "typed"
                )
                saved.typed[step.edition.locale] = kept
        act.event(
            "entry.conflict",
            [entry.id],
            {
                "entry": saved.uuid,
                "locale": saved.locale,
                "places": [c.place for _, c in saved.conflicts],
                "title": store.title(act.conn, entry.id, saved.locale),
            },
        )
        return
    for step in steps:
        if step.content is None:
            continue
        edition = step.edition
        if step.typed is not None:
            saved.merged_with.append(_whose(act, edition.tip))
        made = add_revision(
            act, kind, edition.id, edition.strand, step.content, step.parents, note, step.origin
        )
        store.move_head(act.conn, edition.strand, edition.head, made)
        saved.revisions[edition.locale] = made
        if saved.strand != store.DRAFT_STRAND:
            continue
        drafts.keep_up(act, kind, entry, edition.id, edition.locale, step.content, made)
        if edition.locale == COMMON:
            follow_section(act, entry.id)
    saved.base = current_base(act, entry.id, saved.locale, saved.strand)
    if saved.revisions:
        act.event(
            "entry.saved",
            [entry.id],
            {
                "entry": saved.uuid,
                "locale": saved.locale,
                "title": store.title(act.conn, entry.id, saved.locale),
                "revisions": saved.revisions,
                "merged": bool(saved.merged_with),
                **({"strand": saved.strand} if saved.strand != store.DRAFT_STRAND else {}),
                "note": note,
            },
        )


def current_base(view: View, entry: int, locale: str, strand: str = store.DRAFT_STRAND) -> Base:
    """The heads of an edition and of the common one now, on the draft or another strand."""
    own = store.edition(view.conn, entry, locale, strand)
    common = store.edition(view.conn, entry, COMMON, strand)
    return Base(own.head if own else None, common.head if common else None)


def base_now(view: View, uuid: str, locale: str = "", strand: str = store.DRAFT_STRAND) -> Base:
    """The same of an entry that may be read; in its source's locale when none is given."""
    row = permission.find(view, uuid, locale or None)
    return current_base(view, row.id, view.setup.locale(locale or row.source_locale), strand)


def _whose(view: View, head: int) -> dict[str, Any]:
    row = revisions.by_id(view.conn, head)
    assert row is not None
    return {"number": row.number, "author": row.author}


def _check_names(kind: ContentType, patch: Mapping[str, Any]) -> None:
    unknown = [k for k in patch if kind.field(k) is None]
    if unknown:
        contenttypes.canonical_fields(kind, dict.fromkeys(unknown, ""))


def bring_back(act: Act, uuid: str) -> None:
    """Bring a removed entry, or one from the archive, back as a draft, with all its history; nothing of it goes out by that."""
    row = store.even_removed(act.conn, uuid)
    if row is None or not permission.readable(act, row):
        raise NotFound("common.no_entry", id=uuid)
    if row.removed_at is None and row.archived_at is None:
        raise InTheWay("entries.not_removed")
    permission.require(act, "write", permission.subject(act, row, row.source_locale))
    if row.removed_at is not None:
        _require_room(act, act.setup.type(row.type))
    drafts.revive(act, [uuid])
    for edition in store.editions(act.conn, row.id):
        # It is a draft: what waited stands nowhere any more.
        reviews.decide(act.conn, edition.id, "taken back", act.identity.id, act.now, "")
    act.event("entry.brought-back", [row.id], {"entry": uuid, "title": store.title(act.conn, row.id)})


def restore(act: Act, uuid: str, locale: str, number: int, strand: str = store.DRAFT_STRAND) -> Saved:
    """Bring an older revision back as a new one of the draft, or of another strand; nothing is erased by going back. What it plans for a time that is over stays as it
    is now, and so does its place where it cannot stand any more where it did."""
    entry = permission.find(act, uuid, locale)
    drafts.require_at_work(entry)
    kind = act.setup.type(entry.type)
    tag = COMMON if locale == COMMON else act.setup.locale(locale)
    edition = store.edition(act.conn, entry.id, tag, strand)
    if edition is None and strand != store.DRAFT_STRAND:
        raise NotFound("common.no_strand", name=strand)
    row = revisions.numbered(act.conn, edition.id, number) if edition else None
    if edition is None or row is None:
        raise NotFound("common.no_revision", number=number)
    permission.require(act, "write", permission.subject(act, entry, tag))
    saved = Saved(uuid, tag, strand=strand)
    old = as_now.content(act.conn, kind, row.id)
    now = revisions.content(act.conn, edition.tip).fields
    old = replace(old, fields=planned_fields.gone_back(act, kind, old.fields, now))
    note = act.keep("notes.brought_back", number=number)
    drafted = tag == COMMON and strand == store.DRAFT_STRAND
    wrong = drafts.misplaced(act, kind, entry.id, old.fields) if drafted else None
    if wrong is not None:
        here = {wrong.where: now[wrong.where]} if wrong.where in now else {}
        old = replace(old, fields={k: v for k, v in old.fields.items() if k != wrong.where} | here)
        note = act.keep("notes.brought_back_here", number=number)
        act.notes.append(act.say("entries.place_stays", why=wrong.what))
    step = _Step(edition, old, [edition.tip], origin="restored")
    _finish(act, kind, entry, saved, [step], note)
    return saved
