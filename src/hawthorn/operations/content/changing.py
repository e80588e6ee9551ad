"""Changing content types and field sets while entries exist: what a change would do, said first, and the doing of it."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import asdict, field, replace
from typing import Any

from hawthorn.core import compact, contenttypes, fields, slots
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import COMMON, ContentType, FieldSet, former
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound, StaleRevision
from hawthorn.core.fields import Field
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content, brought
from hawthorn.operations.access import permission
from hawthorn.operations.content import carrying
from hawthorn.operations.release import applying, filters, fitting, workflows
from hawthorn.operations.runtime.act import Act, View, setup_changed
from hawthorn.operations.search import indexing
from hawthorn.store import bodies, moves, people
from hawthorn.store import definitions as store
from hawthorn.store import entries as entry_store

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
    others: list[tuple[Field, Field]] = field(default_factory=list)
    """The fields of which values are read otherwise from then on, or elsewhere: as they were last, and as they would be."""

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
    beside: list[dict[str, Any]]

    def own(self, name: str) -> list[Any]:
        """What every edition holds under a name."""
        return [v[name] for v in self.drafts.values() if name in v]

    def every(self, name: str) -> list[Any]:
        """The same with what stands of it, or is to go, and with what dispatches are to set."""
        return self.own(name) + [v[name] for v in self.beside if v.get(name) is not None]


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
    return _put(act, before, made, _impact(act, made))


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
    made = replace(made, version=before.version + 1 if before else 1)
    changed = [(act.setup.type(kind.name), kind, _impact(act, kind)) for kind in _with_set(act, made)]
    _not_refused([e for *_, impact in changed for e in impact.effects])
    store.add_set(act.conn, made, act.now, act.identity.id)
    act.event("set.defined", [], {"set": made.name, "version": made.version})
    for was, kind, impact in changed:
        _put(act, was, kind, impact)
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
    return made


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


def _with_set(view: View, made: FieldSet) -> list[ContentType]:
    sets = {**view.setup.sets, made.name: made}
    out = []
    for kind in view.setup.types.values():
        if made.name in kind.sets:
            out.append(contenttypes.from_dict(contenttypes.to_dict(kind), sets))
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
    whole.others = _others(view, before, after)
    if any(former.form(was) != former.form(now) for was, now in whole.others):
        _with_what_is_beside(view, before, found)
    for spec in after.fields:
        old = before.field(spec.name)
        if old is None:
            _added(view, after.name, spec, found, tell)
        elif old != spec:
            _changed(view, old, spec, found, tell)
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


def _added(view: View, type: str, spec: Field, found: list[_Entry], tell: Tell) -> None:
    name, label = spec.name, spec.label
    was = store.last_field(view.conn, type, name, view.now) or spec
    tell(name, "field_is_back", [e for e in found if e.own(name)], field=label)
    tell(name, "field_was_otherwise", _not_brought(view, was, spec, found), refuses=True, field=label)
    if spec.required and not spec.derives:
        tell(name, "field_is_new_and_required", [e for e in found if not e.own(name)], field=label)
    else:
        tell(name, "field_is_new", [], always=True, field=label)


def _changed(view: View, old: Field, spec: Field, found: list[_Entry], tell: Tell) -> None:
    name, label = spec.name, spec.label
    if (old.kind, fields.is_many(old)) != (spec.kind, fields.is_many(spec)):
        tell(name, "another_kind", _not_brought(view, old, spec, found), refuses=True, field=label)
    elif not fields.kind_of(spec).parts:
        tell(name, "new_bounds", _unfit(view, old, spec, found), field=label)
    elif old.blocks != spec.blocks or old.fields != spec.fields:
        tell(name, "another_kind", _lost(old, spec, found), refuses=True, field=label)
        tell(name, "made_up_differently", _unfit(view, old, spec, found), field=label)
    if former.form(old) != former.form(spec):
        turned = (e for e in found if any(former.kept(old, spec, v) not in (None, v) for v in e.own(name)))
        tell(name, "is_turned", turned, field=label)
    if spec.required and not old.required and not spec.derives:
        tell(name, "becomes_required", [e for e in found if not e.own(name)], field=label)
    if old.shared and not spec.shared:
        tell(name, "differs_by_locale", [e for e in found if name in e.drafts.get(COMMON, {})], field=label)
    if spec.shared and not old.shared:
        tell(name, "is_shared", [e for e in found if name in e.drafts.get(e.source, {})], field=label)
        differing = [e for e in found if len({json.dumps(v) for v in e.own(name)}) > 1]
        tell(name, "other_values_stay", differing, field=label)


def _not_brought(view: View, was: Field, now: Field, found: list[_Entry]) -> list[_Entry]:
    """Entries with a value that does not fit what a field is of another kind now, or that stands or is to go and cannot be brought into it."""
    out = {e.id for e in (*_unfit(view, was, now, found), *_lost(was, now, found))}
    return [e for e in found if e.id in out]


def _lost(was: Field, now: Field, found: list[_Entry]) -> list[_Entry]:
    if former.form(was) == former.form(now):
        return []
    return [e for e in found if any(not _becomes(was, now, v) for v in e.every(now.name))]


def _becomes(was: Field, now: Field, value: Any) -> bool:
    """Whether a value can be brought into what a field is now, whatever its bounds."""
    try:
        former.brought(was, now, value)
    except fields.Wrong:
        return False
    return True


def _unfit(view: View, was: Field, spec: Field, found: list[_Entry]) -> list[_Entry]:
    """Entries with a value that a field does not take, or that leads to an entry of a type to which it does not lead."""
    same = former.form(was) == former.form(spec)
    held = {e.id: [v if same else former.kept(was, spec, v) for v in e.own(spec.name)] for e in found}
    led = {id: [one for v in some if v is not None for one in _leads(spec, v)] for id, some in held.items()}
    of = entry_store.types_there(view.conn, {uuid for some in led.values() for uuid, _ in some})
    return [
        e
        for e in found
        if not all(v is not None and fitting.takes(spec, v) for v in held[e.id])
        or any(of.get(uuid, types[0]) not in types for uuid, types in led[e.id])
    ]


def _leads(spec: Field, value: Any) -> Iterator[tuple[str, tuple[str, ...]]]:
    """The entries that a value leads to from fields that take some types only, with these."""
    for slot in slots.filled([spec], {spec.name: value}):
        if slot.spec.types and slot.spec.kind in ("reference", "parent"):
            for uuid in fields.references(slot.spec, slot.value):
                yield uuid, tuple(slot.spec.types)


def _drafts(view: View, type: str) -> list[_Entry]:
    """Every entry of a type with the values of its drafts."""
    rows = entry_store.drafts_of_type(view.conn, type)
    out: dict[int, _Entry] = {}
    for row in rows:
        one = out.setdefault(row.id, _Entry(row.uuid, row.id, row.source_locale, "", {}, []))
        one.drafts[row.locale] = compact.read(row.fields)
        if row.locale == row.source_locale:
            one.title = row.title
    return list(out.values())


def _with_what_is_beside(view: View, before: ContentType, found: list[_Entry]) -> None:
    """What else of entries would be read otherwise: what is out, or planned, may be older than a draft."""
    by_id = {one.id: one for one in found}
    for entry, revision, text in store.beside_drafts(view.conn, before.name):
        if entry in by_id:
            held = brought(before, Content(compact.read(text), id=revision))
            by_id[entry].beside.append(dict(held.fields))
    for entry, payload in moves.to_be_set(view.conn, before.name):
        if entry in by_id:
            by_id[entry].beside.append(json.loads(payload).get("fields", {}))


# -- doing it ------------------------------------------------------------------------------------------------------


def _not_refused(effects: list[Effect]) -> None:
    against = [e for e in effects if e.refuses]
    if against:
        raise InTheWay(
            "changing.refused",
            why=[said("changing.so_many", what=e.what, count=e.entries) for e in against],
            effects=[asdict(e) for e in against],
        )


def _put(act: Act, before: ContentType | None, made: ContentType, impact: Impact) -> ContentType:
    _not_refused(impact.effects)
    made = replace(made, version=before.version + 1 if before else 1)
    store.add_type(act.conn, made, act.now, act.identity.id)
    store.mark(act.conn, made.name, [was for was, _ in impact.others])
    made = replace(made, marks=store.marks(act.conn).get(made.name, {}))
    setup_changed(act)
    act.event("type.defined", [], {"type": made.name, "version": made.version})
    act.redefined.add(made.name)
    if before is not None and before.workflow != made.workflow:
        workflows.follow_type(act, made)
    if before is not None:
        changed = [now for _, now in impact.others]
        moved = [now for was, now in impact.others if was.shared != now.shared]
        if changed or _asks(before) != _asks(made):
            rows = entry_store.of_type(act.conn, made.name)
            for row in rows:
                carrying.carry(act, made, row, changed, moved)
            entry_store.flag(act.conn, [row.id for row in rows])
        if (before.dated, before.pinned) != (made.dated, made.pinned):
            applying.list_anew(act, made, [e.id for e in _drafts(act, made.name)])
        if _searched(before) != _searched(made):
            indexing.anew(act, made)
        if _filters(before) != _filters(made):
            filters.keep_anew(act, made)
        if before.public != made.public:
            bodies.clear(act.conn)
        if _listed(before) != _listed(made):
            act.reshaped.add(made.name)
        bodies.forget_needs_of_type(act.conn, made.name)
        bodies.forget_type(act.conn, made.name)
    return made


def _others(view: View, before: ContentType, made: ContentType) -> list[tuple[Field, Field]]:
    """The fields of which values are read otherwise from now on, or elsewhere: as they were last, and as they are."""
    out: list[tuple[Field, Field]] = []
    for now in made.fields:
        was = before.field(now.name) or store.last_field(view.conn, made.name, now.name, view.now)
        if was is not None and (was.shared, former.form(was)) != (now.shared, former.form(now)):
            out.append((was, now))
    return out


def _searched(kind: ContentType) -> list[Any]:
    """By what words entries of a type are found: its title's, and those of its fields with what these hold."""
    held = [(f.name, f.kind, f.shared, f.fields, f.blocks) for f in kind.fields]
    return [kind.title, kind.internal, *held]


def _filters(kind: ContentType) -> list[tuple[str, str, bool]]:
    """By what readers find entries of a type."""
    return [(f.name, f.kind, f.shared) for f in kind.filtered]


def _listed(kind: ContentType) -> list[Any]:
    """By what entries of a type are called, placed, addressed and referred to."""
    roles = [kind.title, kind.internal, kind.search_title, kind.meta_description, kind.site, kind.addressed]
    placed = [one.name if one is not None else "" for one in (kind.slug, kind.parent)]
    held = [(f.name, former.form(f), f.shared) for f in kind.fields if _refers(f)]
    return [*roles, *placed, *held]


def _refers(spec: Field) -> bool:
    return spec.kind == "tags" or fields.kind_of(spec).may_refer


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
            filter=False,
            schema_property="",
        )
        for f in kind.fields
    ]


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
