"""Set-up as one document: what a house is set up with, given out, and put in place of what another has, with what that would do said first.

Things are named, and nothing that the document does not name is touched. They lean on one another (a type names its workflow, a gate the roles
that sign off), so each is tried until none gets any further; what is then left over is in the way, and nothing at all is done.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import asdict, field
from typing import Any

from hawthorn.core import contenttypes, locales, pictures, shapes, sites, workflow
from hawthorn.core.access import Subject
from hawthorn.core.errors import FieldProblem, HawthornError, InTheWay, Invalid
from hawthorn.core.exchange.differing import Differing, differing
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.operations.access import people, permission
from hawthorn.operations.content import changing
from hawthorn.operations.content import locales as locale_acts
from hawthorn.operations.delivery import page_addresses
from hawthorn.operations.media import renditions
from hawthorn.operations.release import workflow_effects, workflows
from hawthorn.operations.runtime.act import Act, View
from hawthorn.operations.translation import bureaus
from hawthorn.operations.translation.bureaus import BureauDetails
from hawthorn.store import bureaus as bureau_store

VERSION = 1
"""The version of the document; a newer one is refused, as nobody knows what it says."""
Definition = Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Part:
    """One kind of thing that a house is set up with: those there are, by name; how one is put in place; and what that would do to what is
    there, in words. `whole` says that all of them are put in place at once, and stand in an order."""

    have: Callable[[View], dict[str, dict[str, Any]]]
    put: Callable[[Act, Sequence[Definition]], object]
    effects: Callable[[View, Sequence[Definition]], Iterator[str]] = lambda view, some: iter(())
    whole: bool = False


@dataclass(slots=True)
class Difference:
    """What the document says of one thing: `added` or `changed` here, with the members that differ and what it does to what is there; `in the
    way` with why; or `only here`, where it does not name it."""

    part: str
    name: str
    how: str
    members: list[Differing] = field(default_factory=list)
    effects: list[str] = field(default_factory=list)
    why: str = ""


def document(view: View, parts: Sequence[str] = ()) -> dict[str, Any]:
    """What this house is set up with, all of it or some parts; no secret is in it, and nobody."""
    permission.require(view, "configure", Subject())
    _known_parts(parts)
    found = {name: [*part.have(view).values()] for name, part in PARTS.items() if not parts or name in parts}
    return {"version": VERSION, **found}


def apply(act: Act, given: Mapping[str, Any], trying: bool = False) -> list[Difference]:
    """Put what a document says in place. Only tried, what is in the way stands among the differences; otherwise it raises `InTheWay` with
    all of it. Raises `Invalid` for what is no such document."""
    permission.require(act, "configure", Subject())
    wanted = _read(given)
    before = {name: PARTS[name].have(act) for name in wanted}
    steps = [*_steps(wanted, before)]
    effects = {(step.part, name): found for step in steps for name, found in _try(act, step).items()}
    stuck = _carry_out(act, steps)
    if stuck and not trying:
        why = [
            said("set_up.of_thing", part=said(f"set_up.part.{s.part}"), name=s.name, why=e.message)
            for s, e in stuck
        ]
        raise InTheWay("set_up.in_the_way", why=why, things=[f"{s.part}/{s.name}" for s, _ in stuck])
    after = {name: PARTS[name].have(act) for name in wanted}
    out = [*_differences(before, after, wanted)]
    for one in out:
        one.effects = effects.get((one.part, one.name), []) if one.how in ("added", "changed") else []
    out += [Difference(s.part, s.name, "in the way", why=act.say(e.message)) for s, e in stuck]
    done = [d for d in out if d.how in ("added", "changed")]
    if done and not stuck:
        things = [{"part": d.part, "name": d.name, "how": d.how} for d in done]
        act.event("set-up.applied", [], {"things": things})
    return out


# -- reading the document ------------------------------------------------------------------------------------------------


def _known_parts(parts: Sequence[str]) -> None:
    unknown = [name for name in parts if name not in PARTS]
    if unknown:
        problems = [
            FieldProblem("parts", said("common.value_none_of", value=n, known=[*PARTS])) for n in unknown
        ]
        raise Invalid(problems)


def _read(given: Mapping[str, Any]) -> dict[str, dict[str, Definition]]:
    if given.get("version") != VERSION:
        raise Invalid([FieldProblem("version", said("set_up.version", version=VERSION))])
    problems = [
        FieldProblem(str(name), said("common.none_of", known=[*PARTS]))
        for name in given
        if name not in PARTS and name != "version"
    ]
    out: dict[str, dict[str, Definition]] = {}
    for part in PARTS:
        things = given.get(part)
        if things is None:
            continue
        if not isinstance(things, list):
            problems.append(FieldProblem(part, said("shapes.wants_list")))
            continue
        by_name = out.setdefault(part, {})
        for n, one in enumerate(things):
            name = name_of(part, one)
            if not name:
                problems.append(FieldProblem(f"{part}.{n}", said("set_up.without_name")))
            elif name in by_name:
                problems.append(FieldProblem(f"{part}.{name}", said("common.twice")))
            else:
                by_name[name] = one
    if problems:
        raise Invalid(problems)
    return out


def name_of(part: str, one: Any) -> str:
    """What a definition is called; empty for what has no name."""
    if not isinstance(one, Mapping):
        return ""
    if part == "choices":
        return "/".join(str(one.get(side) or "*") for side in ("type", "locale", "section"))
    name = one.get("tag" if part == "locales" else "name")
    return name if isinstance(name, str) else ""


# -- doing it ------------------------------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class _Step:
    part: str
    name: str
    some: tuple[Definition, ...]
    names: tuple[str, ...]


def _steps(
    wanted: Mapping[str, Mapping[str, Definition]], before: Mapping[str, Mapping[str, Definition]]
) -> Iterator[_Step]:
    """What is to be put in place: what is as the document says already is left alone."""
    for part, things in wanted.items():
        have = before[part]
        new = [n for n, one in things.items() if n not in have or any(differing(have[n], one))]
        if PARTS[part].whole:
            rest = {n: one for n, one in have.items() if n not in things}
            if new or [n for n in have if n in things] != [n for n in things if n in have]:
                yield _Step(part, "*", (*things.values(), *rest.values()), tuple(new))
        else:
            yield from (_Step(part, name, (things[name],), (name,)) for name in new)


def _try(act: Act, step: _Step) -> dict[str, list[str]]:
    """What a step would do to what is there, in words, as far as it can be said before the rest is done."""
    try:
        found = [*PARTS[step.part].effects(act, step.some)]
    except HawthornError:
        return {}
    return dict.fromkeys(step.names, found)


def _carry_out(act: Act, steps: Sequence[_Step]) -> list[tuple[_Step, HawthornError]]:
    """Take each step once what it leans on is there; those that cannot be taken, each with why."""
    left: list[tuple[_Step, HawthornError]] = []
    waiting = [*steps]
    while waiting:
        left = []
        for step in waiting:
            refused = _take(act, step)
            if refused is not None:
                left.append((step, refused))
        if len(left) == len(waiting) and not _stand_in(act, [s for s, _ in left]):
            return left
        waiting = [step for step, _ in left]
    return []


def _take(act: Act, step: _Step) -> HawthornError | None:
    try:
        with act.trying():
            PARTS[step.part].put(act, step.some)
    except HawthornError as refused:
        act.reread()
        return refused
    act.reread()
    return None


def _stand_in(act: Act, steps: Sequence[_Step]) -> bool:
    """A new type and its new workflow may each name the other: the type is begun with a workflow that is there already."""
    coming = {s.name for s in steps if s.part == "workflows"}
    for step in steps:
        new = step.part == "types" and step.name not in act.setup.types
        if new and step.some[0].get("workflow") in coming:
            there = next(iter(act.setup.workflows))
            if _take(act, _Step("types", step.name, ({**step.some[0], "workflow": there},), ())) is None:
                return True
    return False


def _differences(
    before: Mapping[str, Mapping[str, Definition]],
    after: Mapping[str, Mapping[str, Definition]],
    wanted: Mapping[str, Mapping[str, Definition]],
) -> Iterator[Difference]:
    for part, things in wanted.items():
        was, now = before[part], after[part]
        for name, one in now.items():
            if name not in was:
                yield Difference(part, name, "added")
            elif found := [*differing(was[name], one)]:
                yield Difference(part, name, "changed", found)
        if PARTS[part].whole and [n for n in now if n in was] != [n for n in was if n in now]:
            yield Difference(part, "*", "changed", [Differing("order", [*was], [*now])])
        yield from (Difference(part, name, "only here") for name in was if name not in things)


# -- the parts -----------------------------------------------------------------------------------------------------------


def _of_house(value: Any) -> Any:
    """A definition without what counts in one house alone: its version."""
    if isinstance(value, Mapping):
        return {k: _of_house(v) for k, v in value.items() if k != "version"}
    return [_of_house(one) for one in value] if isinstance(value, list | tuple) else value


def _by(some: Sequence[Mapping[str, Any]], name: str = "name") -> dict[str, dict[str, Any]]:
    return {one[name]: _of_house(one) for one in some}


def _put_each(put: Callable[[Act, Definition], object]) -> Callable[[Act, Sequence[Definition]], object]:
    def all_of(act: Act, some: Sequence[Definition]) -> None:
        for one in some:
            put(act, one)

    return all_of


def _types(view: View) -> dict[str, dict[str, Any]]:
    return _by([contenttypes.to_dict(kind) for kind in view.setup.types.values()])


def _sets(view: View) -> dict[str, dict[str, Any]]:
    return _by([asdict(one) for one in view.setup.sets.values()])


def _workflows(view: View) -> dict[str, dict[str, Any]]:
    return _by([workflow.to_dict(one) for one in view.setup.workflows.values()])


def _choices(view: View) -> dict[str, dict[str, Any]]:
    return {name_of("choices", one): one for one in map(asdict, view.setup.choices)}


def _roles(view: View) -> dict[str, dict[str, Any]]:
    shown = [{"name": r.name, "label": r.label, "grants": r.grants} for r in people.roles(view)]
    return _by(shown)


def _bureaus(view: View) -> dict[str, dict[str, Any]]:
    """Without their keys and secrets, which no document holds."""
    found = bureau_store.in_use(view.conn)
    return _by(
        [
            {
                "name": b.name,
                "kind": b.kind,
                "url": b.url,
                "codes": json.loads(b.codes),
                "rates": json.loads(b.rates),
            }
            for b in found
        ]
    )


@dataclass(frozen=True, slots=True)
class _Grant:
    verb: str
    own: bool = False
    types: list[str] = field(default_factory=list)
    locales: list[str] = field(default_factory=list)
    sections: list[str] = field(default_factory=list)
    stages: list[str] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class _Role:
    name: str
    label: str = ""
    grants: list[_Grant] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class _Bureau:
    name: str
    kind: str = bureaus.HTTP
    url: str = ""
    codes: Mapping[str, str] = field(default_factory=dict)
    rates: Mapping[str, Any] = field(default_factory=dict)


def _require_shape(kind: type[Any], one: Definition) -> None:
    """Raises `Invalid` for a definition that has other members than it can have, or other values in them."""
    problems = shapes.shaped(kind, one, str(one["name"]))[1]
    if problems:
        raise Invalid(problems)


def _put_role(act: Act, one: Definition) -> None:
    _require_shape(_Role, one)
    people.define_role(act, one["name"], one.get("label", ""), one.get("grants", []))


def _put_bureau(act: Act, one: Definition) -> None:
    _require_shape(_Bureau, one)
    given = dict(one)
    had = bureau_store.named(act.conn, one["name"])
    if had is not None and had.ended_at is None:
        bureaus.change(act, had.id, {k: v for k, v in given.items() if k != "kind"})
    else:
        bureaus.add(act, BureauDetails(**{"url": "", **given}))


def _type_effects(view: View, some: Sequence[Definition]) -> Iterator[str]:
    for one in some:
        for effect in changing.check_type(view, one).effects:
            yield view.say("changing.so_many", what=effect.what, count=effect.entries)


def _workflow_effects(view: View, some: Sequence[Definition]) -> Iterator[str]:
    for one in some:
        for effect in workflow_effects.check(view, one).effects:
            yield view.say("changing.so_many", what=effect.what, count=effect.editions)


def _bureau_effects(view: View, some: Sequence[Definition]) -> Iterator[str]:
    for one in some:
        had = bureau_store.named(view.conn, one["name"])
        if had is None or had.ended_at is not None:
            yield view.say("set_up.bureau_needs_a_key")


PARTS: dict[str, Part] = {
    "locales": Part(
        lambda view: _by(locales.to_list(view.setup.languages.values()), "tag"),
        locale_acts.define,
        whole=True,
    ),
    "field_sets": Part(_sets, _put_each(changing.define_set)),
    "types": Part(_types, _put_each(changing.define_type), _type_effects),
    "roles": Part(_roles, _put_each(_put_role)),
    "workflows": Part(_workflows, _put_each(workflows.define), _workflow_effects),
    "choices": Part(_choices, workflows.set_choices, whole=True),
    "crops": Part(
        lambda view: _by(pictures.to_list(view.setup.crops.values())), renditions.define_crops, whole=True
    ),
    "sites": Part(
        lambda view: _by(sites.to_list(view.setup.sites.values())), page_addresses.define, whole=True
    ),
    "bureaus": Part(_bureaus, _put_each(_put_bureau), _bureau_effects),
}
"""What a house is set up with, in the order in which it is put in place."""
