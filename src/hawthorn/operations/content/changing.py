"""Changing content types and field sets while entries exist: what a change would do, said first, and the doing of it."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import asdict, replace
from typing import Any

from hawthorn.core import contenttypes, fields, slots
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import ContentType, FieldSet, former
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound, StaleRevision
from hawthorn.core.fields import Field
from hawthorn.core.messages import said
from hawthorn.operations.access import permission
from hawthorn.operations.content import carrying, type_effects
from hawthorn.operations.content.type_effects import Effect, Impact
from hawthorn.operations.release import applying, filters, workflows
from hawthorn.operations.runtime.act import Act, View, setup_changed
from hawthorn.operations.search import indexing
from hawthorn.store import bodies, people
from hawthorn.store import definitions as store
from hawthorn.store import entries as entry_store


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
    return _put(act, before, made, type_effects.impact(act, made))


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
    changed = [
        (act.setup.type(kind.name), kind, type_effects.impact(act, kind)) for kind in _with_set(act, made)
    ]
    _not_refused([e for *_, impact in changed for e in impact.effects])
    store.add_set(act.conn, made, act.now, act.identity.id)
    act.event("set.defined", [], {"set": made.name, "version": made.version})
    for was, kind, impact in changed:
        _put(act, was, kind, impact)
    setup_changed(act)
    return made


def _impact(view: View, made: ContentType) -> Impact:
    """All that a definition of a type would do, for whoever only asks: what refuses it is said of entries alone."""
    whole = type_effects.impact(view, made)
    whole.effects += type_effects.outside_drafts(view, made, whole)
    return whole


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
            applying.list_anew(act, made, [e.id for e in type_effects.drafts(act, made.name)])
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
