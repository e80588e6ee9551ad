"""Changing content types and field sets while entries exist: what a change would do, said first, and the doing of it."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, dataclass, field, replace
from typing import Any

from hawthorn.core import contenttypes, fields, slots
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import COMMON, ContentType, FieldSet
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound, StaleRevision
from hawthorn.core.fields import Field
from hawthorn.core.revision import Content
from hawthorn.operations.access import permission
from hawthorn.operations.content import drafts
from hawthorn.operations.release import applying, workflows
from hawthorn.operations.runtime.act import Act, View, setup_changed
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
        raise StaleRevision(
            f"“{label}” is at version {version} by now; this definition was made from version {given}.",
            remedy="Look at it as it is now and change that, or leave the version out to put yours in its place.",
        )


def _made(view: View, definition: Mapping[str, Any]) -> ContentType:
    made = contenttypes.from_dict(definition, view.setup.sets)
    if made.workflow not in view.setup.workflows:
        raise Invalid(
            f"There is no workflow “{made.workflow}”.",
            remedy=f"Choose one of {', '.join(view.setup.workflows)}.",
        )
    _require_layout(view, made)
    return _moved(view.setup.types.get(made.name), made)


def _require_layout(view: View, made: ContentType) -> None:
    """A layout is a type of exactly one entry, with a field of the same name and kind for each region."""
    if not made.layout:
        return
    layout = view.setup.types.get(made.layout)
    if layout is None or not layout.single:
        single = ", ".join(n for n, k in view.setup.types.items() if k.single and n != made.name)
        raise Invalid(
            [
                FieldProblem(
                    "layout",
                    f"“{made.layout}” is not a type of exactly one entry; such types are {single or 'not there yet'}",
                )
            ]
        )
    problems = []
    for spec in made.regions:
        theirs = layout.field(spec.name)
        if theirs is None or theirs.kind != spec.kind:
            has = f"has it as {theirs.kind}" if theirs else "has no such field"
            problems.append(
                FieldProblem(
                    f"fields.{spec.name}",
                    f"is a region, and the layout “{layout.label}” {has}; give the layout a field of kind {spec.kind}",
                )
            )
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

    def say(
        name: str, what: str, touched: Iterable[_Entry], *, refuses: bool = False, always: bool = False
    ) -> None:
        some = list(touched)
        if some or always:
            shown = tuple({"id": e.uuid, "title": e.title or "untitled"} for e in some[:5])
            whole.effects.append(Effect(after.label, name, what, len(some), shown, refuses and bool(some)))

    if before is None:
        return whole
    for spec in after.fields:
        old = before.field(spec.name)
        if old is None:
            _added(after, spec, found, say)
        elif old != spec:
            _changed(after, old, spec, found, say)
    for old in before.fields:
        if after.field(old.name) is None:
            say(
                old.name,
                f"“{old.label}” goes. What was written in it stays in every revision and comes back if the field does; "
                "readers no longer get it",
                [e for e in found if e.own(old.name)],
                always=True,
            )
    if after.single and not before.single and len(found) > 1:
        say("", "The type would allow exactly one entry, and there are more", found, refuses=True)
    if before.translated and not after.translated:
        others = [e for e in found if any(t not in (COMMON, e.source) for t in e.drafts)]
        say("", "Other locales are no longer offered; what is written in them stays", others)
    if after.retired and not before.retired:
        say("", "No more entries of it are started; those there are go on as they were", found, always=True)
    if after.read_only and not before.read_only:
        say(
            "",
            "Nobody changes any more what its entries hold; they can still be released and withdrawn",
            found,
            always=True,
        )
    if before.public and not after.public:
        say(
            "",
            "Without a key its entries are no longer read, and pages no longer lead to them",
            found,
            always=True,
        )
    if after.public and not before.public:
        say("", "Everybody can read those of its entries that are out", found, always=True)
    if before.workflow != after.workflow:
        say(
            "",
            f"From now on entries follow the workflow “{after.workflow}”; what stands at a stage that it does not have moves to "
            "the one below, or back to draft",
            found,
        )
    return whole


Say = Callable[..., None]


def _added(kind: ContentType, spec: Field, found: list[_Entry], say: Say) -> None:
    had = [e for e in found if e.own(spec.name)]
    say(spec.name, f"“{spec.label}” comes back with what was written in it before", had)
    _fits(spec, found, say, f"“{spec.label}” was there before with values that do not fit")
    if spec.required and not spec.derives:
        lacking = [e for e in found if not e.own(spec.name)]
        say(
            spec.name,
            f"“{spec.label}” is new and required: entries without it are marked incomplete and go out again only with it",
            lacking,
        )
    else:
        say(spec.name, f"“{spec.label}” is new and empty at first", [], always=True)


def _changed(kind: ContentType, old: Field, spec: Field, found: list[_Entry], say: Say) -> None:
    if (old.kind, fields.is_many(old)) != (spec.kind, fields.is_many(spec)):
        _fits(spec, found, say, f"“{spec.label}” would be of another kind, which these values do not fit")
    elif not fields.kind_of(spec).parts:
        tighter = [e for e in found if any(not _takes(spec, v) for v in e.own(spec.name))]
        say(
            spec.name,
            f"“{spec.label}” gets new bounds. What does not fit stays as it is, and is mended when it is next changed",
            tighter,
        )
    elif old.blocks != spec.blocks or old.fields != spec.fields:
        say(
            spec.name,
            f"“{spec.label}” is made up differently. What no longer has a place is kept, and readers still get it",
            [e for e in found if any(not _takes(spec, v) for v in e.own(spec.name))],
        )
    if spec.required and not old.required and not spec.derives:
        lacking = [e for e in found if not e.own(spec.name)]
        say(spec.name, f"“{spec.label}” becomes required: entries without it are marked incomplete", lacking)
    if old.shared and not spec.shared:
        holding = [e for e in found if spec.name in e.drafts.get(COMMON, {})]
        say(
            spec.name,
            f"“{spec.label}” differs by locale from now on: each locale of an entry begins with the value that all shared, "
            "as a new revision of its draft",
            holding,
        )
    if spec.shared and not old.shared:
        holding = [e for e in found if spec.name in e.drafts.get(e.source, {})]
        say(
            spec.name,
            f"“{spec.label}” is shared by all locales from now on: the value of an entry's source becomes that of all",
            holding,
        )
        differing = [e for e in found if len({json.dumps(v) for v in e.own(spec.name)}) > 1]
        say(
            spec.name, f"Other values of “{spec.label}” stay in the history of their locales alone", differing
        )


def _fits(spec: Field, found: list[_Entry], say: Say, what: str) -> None:
    wrong = [e for e in found if any(not _takes(spec, v) for v in e.own(spec.name))]
    say(spec.name, f"{what}. Mend them first, or choose another name for the field", wrong, refuses=True)


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
        one.drafts[row.locale] = json.loads(row.fields)
        if row.locale == row.source_locale:
            one.title = row.title
    return list(out.values())


# -- doing it ------------------------------------------------------------------------------------------------------


def _not_refused(effects: list[Effect]) -> None:
    against = [e for e in effects if e.refuses]
    if against:
        raise InTheWay(
            "; ".join(f"{e.what} ({e.entries})" for e in against) + ".",
            remedy="Mend the entries that are named, or define it otherwise. Nothing was changed.",
            effects=[asdict(e) for e in against],
        )


def _put(act: Act, made: ContentType, impact: Impact) -> ContentType:
    _not_refused(impact.effects)
    before = act.setup.types.get(made.name)
    made = replace(made, version=before.version + 1 if before else 1)
    store.add_type(act.conn, made, act.now, act.identity.id)
    setup_changed(act)
    act.event("type.defined", [], {"type": made.name, "version": made.version})
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
        if before.public != made.public:
            bodies.clear(act.conn)
        bodies.forget_needs_of_type(act.conn, made.name)
        bodies.forget_type(act.conn, made.name)
    return made


def _asks(kind: ContentType) -> list[Field]:
    """What of a type decides what is missing in its entries; words, help and bounds do not."""
    return [
        replace(f, label="", help="", limit=None, default=None, types=(), set="", was_shared=None)
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
        note = f"“{kind.label}” was changed: {', '.join(f.label for f in moved)}"
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
        raise NotFound(
            f"There is no content type “{name}”.", remedy=f"There are: {', '.join(view.setup.types)}."
        )
    standing, removed, templates, lists = store.uses_of_type(view.conn, name)
    said = [f"{standing} entries are of it"] if standing else []
    said += [f"{removed} removed entries are of it, which may be brought back"] if removed else []
    said += [f"{templates} templates begin it"] if templates else []
    said += [f"{lists} saved lists show it"] if lists else []
    for other in view.setup.types.values():
        if other.name != name:
            led = sorted({spec.label for spec in slots.every(other.fields) if name in spec.types})
            said += [f"“{other.label}” may lead to it ({', '.join(led)})"] if led else []
            said += [f"it is the layout of “{other.label}”"] if other.layout == name else []
    said += [f"a choice of workflows names it ({c.workflow})" for c in view.setup.choices if c.type == name]
    said += [
        f"the site “{s.label or s.name}” has an address for it"
        for s in view.setup.sites.values()
        if name in s.addresses
    ]
    for role in people.roles(view.conn):
        if any(name in grant.get("types", ()) for grant in json.loads(role.grants)):
            said.append(f"the role “{role.label}” names it")
    return said


def delete_type(act: Act, name: str) -> None:
    """Delete a type that nothing uses. Raises `InTheWay` with all that does: such a type can be retired."""
    said = uses_of_type(act, name)
    if said:
        raise InTheWay(
            f"The type “{act.setup.types[name].label}” is in use: {'; '.join(said)}.",
            remedy="Retire it: then no more entries of it are started.",
            uses=said,
        )
    store.delete_type(act.conn, name)
    setup_changed(act)
    act.event("type.deleted", [], {"type": name})


def delete_set(act: Act, name: str) -> None:
    """Delete a field set that no type uses."""
    permission.require(act, "configure", Subject())
    made = set_of(act, name)
    using = [kind.label for kind in act.setup.types.values() if name in kind.sets]
    if using:
        raise InTheWay(
            f"The field set “{made.label}” is used by {', '.join(using)}.",
            remedy="Take it out there first.",
            uses=using,
        )
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
        have = ", ".join(view.setup.sets) or "none yet"
        raise NotFound(f"There is no field set “{name}”.", remedy=f"There are: {have}.")
    return found
