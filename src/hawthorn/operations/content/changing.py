"""Changing content types and field sets while entries exist: what a change would do, said first, and the doing of it."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, field, replace
from typing import Any

from hawthorn.core import compact, contenttypes, fields, slots
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import COMMON, ContentType, FieldSet
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound, StaleRevision
from hawthorn.core.fields import Field
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.operations.access import permission
from hawthorn.operations.release import applying, drafts, filters, workflows
from hawthorn.operations.runtime.act import Act, View, setup_changed
from hawthorn.operations.search import indexing
from hawthorn.store import bodies, people, revisions
from hawthorn.store import definitions as store
from hawthorn.store import entries as entry_store
from hawthorn.store.entries import Entry

Values = Mapping[str, Mapping[str, Any]]


@dataclass(frozen=True, slots=True)
class Effect:
    """One thing that a change would do, to how many entries, with some of them by name. `refuses`: it cannot be done."""

    type: str
    field: str
    what: str
    entries: int = 0
    examples: tuple[dict[str, str], ...] = ()
    refuses: bool = False


@dataclass(slots=True)
class Impact:
    """What a definition would do to what is there."""

    effects: list[Effect] = field(default_factory=list)
    entries: int = 0

    @property
    def refused(self) -> bool:
        """Whether something makes the change impossible."""
        return any(e.refuses for e in self.effects)


@dataclass(slots=True)
class _Entry:
    uuid: str
    id: int
    source: str
    title: str
    drafts: dict[str, dict[str, Any]]

    def own(self, name: str) -> list[Any]:
        """What every edition holds under a name."""
        return [v[name] for v in self.drafts.values() if name in v]


def check_type(view: View, definition: Mapping[str, Any]) -> Impact:
    """What a definition of a type would do; nothing is changed."""
    permission.require(view, "configure", Subject())
    return _impact(view, _made(view, definition))


def define_type(act: Act, definition: Mapping[str, Any]) -> ContentType:
    """Define a content type, or a new version of one. Raises `InTheWay` with what stands against it.

    A definition that names its `version` must name the one in force: then exactly what was looked at is changed.
    """
    permission.require(act, "configure", Subject())
    made = _made(act, definition)
    before = act.setup.types.get(made.name)
    _not_stale(before.version if before else 0, definition, made.label)
    return _put(act, made, _impact(act, made))


def check_set(view: View, definition: Mapping[str, Any]) -> Impact:
    """What a definition of a field set would do to all types that use it; nothing is changed."""
    permission.require(view, "configure", Subject())
    made = contenttypes.set_from_dict(definition)
    whole = Impact()
    for kind in _with_set(view, made):
        one = _impact(view, kind)
        whole.effects += one.effects
        whole.entries += one.entries
    return whole


def define_set(act: Act, definition: Mapping[str, Any]) -> FieldSet:
    """Define a field set, or a new version of one; every type that uses it changes with it."""
    permission.require(act, "configure", Subject())
    made = contenttypes.set_from_dict(definition)
    before = act.setup.sets.get(made.name)
    _not_stale(before.version if before else 0, definition, made.label)
    if before is not None:
        was = {f.name: f for f in before.fields}
        own = tuple(replace(f, was_shared=_was(was.get(f.name), f)) for f in made.fields)
        made = replace(made, fields=own)
    made = replace(made, version=before.version + 1 if before else 1)
    changed = [(kind, _impact(act, kind)) for kind in _with_set(act, made)]
    _not_refused([e for _, impact in changed for e in impact.effects])
    store.add_set(act.conn, made, act.now, act.identity.id)
    act.event("set.defined", [], {"set": made.name, "version": made.version})
    for kind, impact in changed:
        _put(act, kind, impact)
    setup_changed(act)
    return made


def _not_stale(version: int, definition: Mapping[str, Any], label: str) -> None:
    given = definition.get("version")
    if given is not None and given != version and version:
        raise StaleRevision("changing.stale", label=label, version=version, given=given)


def _made(view: View, definition: Mapping[str, Any]) -> ContentType:
    made = contenttypes.from_dict(definition, view.setup.sets)
    if made.workflow not in view.setup.workflows:
        raise Invalid("changing.no_workflow", name=made.workflow, known=list(view.setup.workflows))
    _require_layout(view, made)
    return _moved(view.setup.types.get(made.name), made)


def _require_layout(view: View, made: ContentType) -> None:
    """A layout is a type of exactly one entry, with a field of the same name and kind for each region."""
    if not made.layout:
        return
    layout = view.setup.types.get(made.layout)
    if layout is None or not layout.single:
        single = [n for n, k in view.setup.types.items() if k.single and n != made.name]
        code = "changing.no_layout" if single else "changing.no_layouts_yet"
        raise Invalid([FieldProblem("layout", said(code, name=made.layout, known=single))])
    problems = []
    for spec in made.regions:
        theirs = layout.field(spec.name)
        if theirs is None or theirs.kind != spec.kind:
            has = theirs.kind if theirs is not None else ""
            region = "changing.region_of_another_kind" if has else "changing.region_without_field"
            what = said(region, layout=layout.label, has=has, kind=spec.kind)
            problems.append(FieldProblem(f"fields.{spec.name}", what))
    if problems:
        raise Invalid(problems)


def _moved(before: ContentType | None, made: ContentType) -> ContentType:
    """The type with a mark on each field whose values lived in the other kind of edition before."""
    if before is None:
        return made
    return replace(
        made, fields=tuple(replace(f, was_shared=_was(before.field(f.name), f)) for f in made.fields)
    )


def _was(old: Field | None, now: Field) -> bool | None:
    if old is None:
        return None
    return old.was_shared if old.shared == now.shared else old.shared


def _with_set(view: View, made: FieldSet) -> list[ContentType]:
    sets = {**view.setup.sets, made.name: made}
    out = []
    for kind in view.setup.types.values():
        if made.name in kind.sets:
            out.append(_moved(kind, contenttypes.from_dict(contenttypes.to_dict(kind), sets)))
    return out


# -- what it would do ----------------------------------------------------------------------------------------------


def _impact(view: View, after: ContentType) -> Impact:
    before = view.setup.types.get(after.name)
    found = _drafts(view, after.name)
    whole = Impact(entries=len(found))

    def tell(
        name: str,
        code: str,
        touched: Iterable[_Entry],
        *,
        refuses: bool = False,
        always: bool = False,
        **facts: Any,
    ) -> None:
        some = list(touched)
        if some or always:
            untitled = view.say("common.untitled")
            shown = tuple({"id": e.uuid, "title": e.title or untitled} for e in some[:5])
            what = view.say(f"changing.{code}", **facts)
            whole.effects.append(Effect(after.label, name, what, len(some), shown, refuses and bool(some)))

    if before is None:
        return whole
    for spec in after.fields:
        old = before.field(spec.name)
        if old is None:
            _added(spec, found, tell)
        elif old != spec:
            _changed(old, spec, found, tell)
    for old in before.fields:
        if after.field(old.name) is None:
            holding = [e for e in found if e.own(old.name)]
            tell(old.name, "field_goes", holding, always=True, field=old.label)
            if old.kind == "planned":
                tell(old.name, "plans_stay", holding, field=old.label)
    if after.single and not before.single and len(found) > 1:
        tell("", "more_than_one", found, refuses=True)
    if before.translated and not after.translated:
        others = [e for e in found if any(t not in (COMMON, e.source) for t in e.drafts)]
        tell("", "not_translated", others)
    if after.retired and not before.retired:
        tell("", "retired", found, always=True)
    if after.read_only and not before.read_only:
        tell("", "read_only", found, always=True)
    if before.public and not after.public:
        tell("", "no_longer_public", found, always=True)
    if after.public and not before.public:
        tell("", "public", found, always=True)
    if before.workflow != after.workflow:
        tell("", "another_workflow", found, workflow=after.workflow)
    return whole


Tell = Callable[..., None]


def _added(spec: Field, found: list[_Entry], tell: Tell) -> None:
    name, label = spec.name, spec.label
    tell(name, "field_is_back", [e for e in found if e.own(name)], field=label)
    tell(name, "field_was_otherwise", _unfit(spec, found), refuses=True, field=label)
    if spec.required and not spec.derives:
        tell(name, "field_is_new_and_required", [e for e in found if not e.own(name)], field=label)
    else:
        tell(name, "field_is_new", [], always=True, field=label)


def _changed(old: Field, spec: Field, found: list[_Entry], tell: Tell) -> None:
    name, label = spec.name, spec.label
    if (old.kind, fields.is_many(old)) != (spec.kind, fields.is_many(spec)):
        tell(name, "another_kind", _unfit(spec, found), refuses=True, field=label)
    elif not fields.kind_of(spec).parts:
        tell(name, "new_bounds", _unfit(spec, found), field=label)
    elif old.blocks != spec.blocks or old.fields != spec.fields:
        tell(name, "made_up_differently", _unfit(spec, found), field=label)
    if spec.required and not old.required and not spec.derives:
        tell(name, "becomes_required", [e for e in found if not e.own(name)], field=label)
    if old.shared and not spec.shared:
        tell(name, "differs_by_locale", [e for e in found if name in e.drafts.get(COMMON, {})], field=label)
    if spec.shared and not old.shared:
        tell(name, "is_shared", [e for e in found if name in e.drafts.get(e.source, {})], field=label)
        differing = [e for e in found if len({json.dumps(v) for v in e.own(name)}) > 1]
        tell(name, "other_values_stay", differing, field=label)


def _unfit(spec: Field, found: list[_Entry]) -> list[_Entry]:
    """Entries with a value that a field does not take."""
    return [e for e in found if any(not _takes(spec, v) for v in e.own(spec.name))]


def _takes(spec: Field, value: Any) -> bool:
    try:
        fields.canonical_value(spec, value)
    except fields.Wrong:
        return False
    return True


def _drafts(view: View, type: str) -> list[_Entry]:
    """Every entry of a type with the values of its drafts."""
    rows = entry_store.drafts_of_type(view.conn, type)
    out: dict[int, _Entry] = {}
    for row in rows:
        one = out.setdefault(row.id, _Entry(row.uuid, row.id, row.source_locale, "", {}))
        one.drafts[row.locale] = compact.read(row.fields)
        if row.locale == row.source_locale:
            one.title = row.title
    return list(out.values())


# -- doing it ------------------------------------------------------------------------------------------------------


def _not_refused(effects: list[Effect]) -> None:
    against = [e for e in effects if e.refuses]
    if against:
        raise InTheWay(
            "changing.refused",
            why=[said("changing.so_many", what=e.what, count=e.entries) for e in against],
            effects=[asdict(e) for e in against],
        )


def _put(act: Act, made: ContentType, impact: Impact) -> ContentType:
    _not_refused(impact.effects)
    before = act.setup.types.get(made.name)
    made = replace(made, version=before.version + 1 if before else 1)
    store.add_type(act.conn, made, act.now, act.identity.id)
    setup_changed(act)
    act.event("type.defined", [], {"type": made.name, "version": made.version})
    act.redefined.add(made.name)
    if before is not None and before.workflow != made.workflow:
        workflows.follow_type(act, made)
    if before is not None:
        moved = [f for f in made.fields if (old := before.field(f.name)) and old.shared != f.shared]
        if moved or _asks(before) != _asks(made):
            rows = entry_store.of_type(act.conn, made.name)
            for row in rows:
                _carry(act, made, row, moved)
            entry_store.flag(act.conn, [row.id for row in rows])
        if (before.dated, before.pinned) != (made.dated, made.pinned):
            applying.list_anew(act, made, [e.id for e in _drafts(act, made.name)])
        if _searched(before) != _searched(made):
            indexing.anew(act, made)
        if _filters(before) != _filters(made):
            filters.keep_anew(act, made)
        if before.public != made.public:
            bodies.clear(act.conn)
        bodies.forget_needs_of_type(act.conn, made.name)
        bodies.forget_type(act.conn, made.name)
    return made


def _searched(kind: ContentType) -> list[Any]:
    """By what words entries of a type are found: its title's, and those of its fields with what these hold."""
    held = [(f.name, f.kind, f.shared, f.fields, f.blocks) for f in kind.fields]
    return [kind.title, kind.internal, *held]


def _filters(kind: ContentType) -> list[tuple[str, str, bool]]:
    """By what readers find entries of a type."""
    return [(f.name, f.kind, f.shared) for f in kind.filtered]


def _asks(kind: ContentType) -> list[Field]:
    """What of a type decides what is missing in its entries; words, help and bounds do not."""
    return [
        replace(
            f,
            label="",
            help="",
            limit=None,
            default=None,
            types=(),
            set="",
            was_shared=None,
            filter=False,
            schema_property="",
        )
        for f in kind.fields
    ]


def _carry(act: Act, kind: ContentType, entry: Entry, moved: list[Field]) -> None:
    """Bring the drafts of one entry in line with a changed type."""
    editions = {e.locale: e for e in entry_store.editions(act.conn, entry.id)}
    contents = {t: revisions.content(act.conn, e.head) for t, e in editions.items() if e.head is not None}
    changed: dict[str, Content] = {}
    for spec in moved:
        if spec.shared:
            value = contents.get(entry.source_locale, Content({})).fields.get(spec.name)
            goals = [COMMON]
        else:
            value = contents.get(COMMON, Content({})).fields.get(spec.name)
            goals = [t for t in editions if t != COMMON]
        for tag in goals:
            now = changed.get(tag) or contents.get(tag) or Content({})
            if value is not None and spec.name not in now.fields:
                changed[tag] = replace(now, fields={**now.fields, spec.name: value})
    for tag, content in changed.items():
        note = act.keep("notes.type_changed", type=kind.label, fields=[f.label for f in moved])
        drafts.record(act, kind, entry, editions[tag], content, note, "type changed")
    for tag, edition in editions.items():
        if tag not in changed and tag in contents:
            lacking = json.dumps(contenttypes.missing(kind, tag, contents[tag].fields))
            entry_store.set_missing(act.conn, lacking, edition.id)


# -- letting go ----------------------------------------------------------------------------------------------------


def uses_of_type(view: View, name: str) -> list[str]:
    """What uses a type, in words: while there is anything, it cannot be deleted."""
    permission.require(view, "configure", Subject())
    kind = view.setup.types.get(name)
    if kind is None:
        raise NotFound("changing.no_type", name=name, known=list(view.setup.types))
    standing, removed, templates, lists = store.uses_of_type(view.conn, name)
    counts = {"entries": standing, "removed": removed, "templates": templates, "lists": lists}
    uses = [said(f"changing.counted_{what}", count=count) for what, count in counts.items() if count]
    for other in view.setup.types.values():
        if other.name != name:
            led = sorted({spec.label for spec in slots.every(other.fields) if name in spec.types})
            uses += [said("changing.used_by_fields", kind=other.label, fields=led)] if led else []
            uses += [said("changing.used_as_layout", kind=other.label)] if other.layout == name else []
    choices = [c.workflow for c in view.setup.choices if c.type == name]
    uses += [said("changing.used_by_choice", workflow=workflow) for workflow in choices]
    sites = [s for s in view.setup.sites.values() if name in s.addresses]
    uses += [said("changing.used_by_site", site=s.label or s.name) for s in sites]
    for role in people.roles(view.conn):
        if any(name in grant.get("types", ()) for grant in json.loads(role.grants)):
            uses.append(said("changing.used_by_role", role=role.label))
    return [view.say(use) for use in uses]


def delete_type(act: Act, name: str) -> None:
    """Delete a type that nothing uses. Raises `InTheWay` with all that does: such a type can be retired."""
    uses = uses_of_type(act, name)
    if uses:
        raise InTheWay("changing.type_in_use", kind=act.setup.types[name].label, uses=uses)
    store.delete_type(act.conn, name)
    setup_changed(act)
    act.event("type.deleted", [], {"type": name})


def delete_set(act: Act, name: str) -> None:
    """Delete a field set that no type uses."""
    permission.require(act, "configure", Subject())
    made = set_of(act, name)
    using = [kind.label for kind in act.setup.types.values() if name in kind.sets]
    if using:
        raise InTheWay("changing.set_in_use", name=made.label, by=list(using), uses=using)
    store.delete_set(act.conn, name)
    setup_changed(act)
    act.event("set.deleted", [], {"set": name})


def definition_of(view: View, name: str) -> dict[str, Any]:
    """The definition of a type as a file that `define_type` takes."""
    return contenttypes.to_dict(view.setup.type(name))


def set_of(view: View, name: str) -> FieldSet:
    """A field set by name."""
    found = view.setup.sets.get(name)
    if found is None:
        code = "changing.no_field_set" if view.setup.sets else "changing.no_field_sets_yet"
        raise NotFound(code, name=name, known=list(view.setup.sets))
    return found
