"""What a change of a content type would do to what is there: said before it is done."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator
from dataclasses import field, replace
from typing import Any

from hawthorn.core import compact, fields, slots
from hawthorn.core.contenttypes import COMMON, ContentType, former
from hawthorn.core.contenttypes.former import Mark
from hawthorn.core.fields import Field
from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content, brought
from hawthorn.operations.access import permission
from hawthorn.operations.release import fitting, held_then, workflow_effects
from hawthorn.operations.runtime.act import View
from hawthorn.store import definitions as store
from hawthorn.store import entries as entry_store
from hawthorn.store import moves

_EVERY = 1 << 62
"""Above the id of every revision."""


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
class Drafted:
    """An entry with the values of its drafts, by locale, and of what is beside these."""

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


def impact(view: View, after: ContentType) -> Impact:
    """What a definition of a type would do to its entries."""
    before = view.setup.types.get(after.name)
    found = drafts(view, after.name)
    whole = Impact(entries=len(found))

    def tell(
        name: str,
        code: str,
        touched: Iterable[Drafted],
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


def outside_drafts(view: View, after: ContentType, whole: Impact) -> list[Effect]:
    """What a definition of a type would do besides: what stands or is bound for a stage that another workflow has not, and what is
    planned and lacks something that it does not lack now, once values are read as the definition says."""
    before = view.setup.types.get(after.name)
    if before is None:
        return []
    marks = dict(before.marks)
    for was, now in whole.others:
        marks[now.name] = [*marks.get(now.name, ()), Mark(_EVERY, was)]
    setup = replace(view.setup, types={**view.setup.types, after.name: replace(after, marks=marks)})
    told: list[tuple[str, list[int]]] = []
    if before.workflow != after.workflow:
        told += [(w, [one.entry for one in ones]) for w, ones in workflow_effects.without_stage(view, setup)]
    lacking = held_then.lacking(view, setup, lambda move: move.type == after.name, apart=("no-stage",))
    told.append((view.say("changing.planned_lacks"), [one.entry for one in lacking]))
    return [_about(view, after, what, list(dict.fromkeys(some))) for what, some in told if some]


def _about(view: View, after: ContentType, what: str, some: list[int]) -> Effect:
    untitled = view.say("common.untitled")
    shown = tuple(
        {
            "id": entry_store.entry_by_id(view.conn, id).uuid,
            "title": permission.title(view, id) or untitled,
        }
        for id in some[:5]
    )
    return Effect(after.label, "", what, len(some), shown)


Tell = Callable[..., None]


def _added(view: View, type: str, spec: Field, found: list[Drafted], tell: Tell) -> None:
    name, label = spec.name, spec.label
    was = store.last_field(view.conn, type, name, view.now) or spec
    tell(name, "field_is_back", [e for e in found if e.own(name)], field=label)
    tell(name, "field_was_otherwise", _not_brought(view, was, spec, found), refuses=True, field=label)
    if spec.required and not spec.derives:
        tell(name, "field_is_new_and_required", [e for e in found if not e.own(name)], field=label)
    else:
        tell(name, "field_is_new", [], always=True, field=label)


def _changed(view: View, old: Field, spec: Field, found: list[Drafted], tell: Tell) -> None:
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


def _not_brought(view: View, was: Field, now: Field, found: list[Drafted]) -> list[Drafted]:
    """Entries with a value that does not fit what a field is of another kind now, or that stands or is to go and cannot be brought into it."""
    out = {e.id for e in (*_unfit(view, was, now, found), *_lost(was, now, found))}
    return [e for e in found if e.id in out]


def _lost(was: Field, now: Field, found: list[Drafted]) -> list[Drafted]:
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


def _unfit(view: View, was: Field, spec: Field, found: list[Drafted]) -> list[Drafted]:
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


def drafts(view: View, type: str) -> list[Drafted]:
    """Every entry of a type with the values of its drafts."""
    rows = entry_store.drafts_of_type(view.conn, type)
    out: dict[int, Drafted] = {}
    for row in rows:
        one = out.setdefault(row.id, Drafted(row.uuid, row.id, row.source_locale, "", {}, []))
        one.drafts[row.locale] = compact.read(row.fields)
        if row.locale == row.source_locale:
            one.title = row.title
    return list(out.values())


def _with_what_is_beside(view: View, before: ContentType, found: list[Drafted]) -> None:
    """What else of entries would be read otherwise: what is out, or planned, may be older than a draft."""
    by_id = {one.id: one for one in found}
    for entry, revision, text in store.beside_drafts(view.conn, before.name):
        if entry in by_id:
            held = brought(before, Content(compact.read(text), id=revision))
            by_id[entry].beside.append(dict(held.fields))
    for entry, payload in moves.to_be_set(view.conn, before.name):
        if entry in by_id:
            by_id[entry].beside.append(json.loads(payload).get("fields", {}))


def _others(view: View, before: ContentType, made: ContentType) -> list[tuple[Field, Field]]:
    """The fields of which values are read otherwise from now on, or elsewhere: as they were last, and as they are."""
    out: list[tuple[Field, Field]] = []
    for now in made.fields:
        was = before.field(now.name) or store.last_field(view.conn, made.name, now.name, view.now)
        if was is not None and (was.shared, former.form(was)) != (now.shared, former.form(now)):
            out.append((was, now))
    return out
