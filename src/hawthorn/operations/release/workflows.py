"""Workflows: which one an edition follows and why, and changing them while editions stand at their stages."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import field, replace
from typing import Any

from hawthorn.core import expressions, shapes, workflow
from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import ContentType
from hawthorn.core.dispatch import Opening, Plan
from hawthorn.core.errors import FieldProblem, InTheWay, Invalid, NotFound, StaleRevision
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import Standing
from hawthorn.core.workflow import Choice, Workflow
from hawthorn.operations.access import permission, sections
from hawthorn.operations.release import applying
from hawthorn.operations.runtime.act import Act, Setup, View, setup_changed
from hawthorn.store import definitions as store
from hawthorn.store import entries, people, reviews, standings
from hawthorn.store.shaped import Described


def of(view: View, entry: Described, locale: str) -> Workflow:
    """The workflow that an edition follows, by its entry's type, source locale and section; shared fields follow that of the source."""
    return chosen(view, entry, locale)[0]


def chosen(view: View, entry: Described, locale: str) -> tuple[Workflow, str]:
    """The workflow that an edition follows, and why, in words."""
    kind = view.setup.types[entry.type]
    tag = entry.source_locale if locale == "*" else locale
    within: tuple[str, ...] = ()
    if any(c.section for c in view.setup.choices):
        within = sections.around(view, entry.section)
    found = workflow.choose(view.setup.choices, kind.name, tag, within)
    if found is None or found.workflow not in view.setup.workflows:
        flow = view.setup.workflows[kind.workflow]
        return flow, view.say("workflows.as_the_type_says", flow=flow.label, kind=kind.label)
    flow = view.setup.workflows[found.workflow]
    row = entries.entry(view.conn, found.section) if found.section else None
    title = permission.title(view, row.id) if row is not None else ""
    return flow, view.say("workflows.as_was_chosen", flow=flow.label, choice=found.told(title))


class Flows:
    """The workflows that editions follow, looked up once for all of one type, locale and section."""

    def __init__(self, view: View) -> None:
        self.view = view
        self._known: dict[tuple[Any, ...], Workflow] = {}

    def of(self, entry: Described, locale: str) -> Workflow:
        """The workflow of an edition, as `of` finds it."""
        key = (entry.type, entry.source_locale if locale == "*" else locale, entry.section)
        if key not in self._known:
            self._known[key] = of(self.view, entry, locale)
        return self._known[key]


@dataclass(frozen=True, slots=True)
class Effect:
    """One thing that a change of workflows would do: to how many editions, with some of them by name."""

    what: str
    editions: int = 0
    examples: tuple[dict[str, str], ...] = ()


@dataclass(slots=True)
class Impact:
    """What a change of workflows would do to what stands."""

    effects: list[Effect] = field(default_factory=list)
    editions: int = 0


@dataclass(frozen=True, slots=True)
class _Displaced:
    """An edition that stands or waits at a stage which its workflow will not have; `goal` is where it goes, or nothing."""

    edition: int
    entry: int
    locale: str
    stage: int
    goal: int | None


def check(view: View, definition: Mapping[str, Any]) -> Impact:
    """What a definition of a workflow would do to what stands; nothing is changed."""
    permission.require(view, "configure", Subject())
    made = _made(view, definition)
    return _impact(view, _with(view, made), made)


def define(act: Act, definition: Mapping[str, Any]) -> Workflow:
    """Define a workflow, or a new version of one; what stands at a stage that is no more moves to the one below it.

    A definition that names its `version` must name the one in force: then exactly what was looked at is changed.
    """
    permission.require(act, "configure", Subject())
    made = _made(act, definition)
    before = act.setup.workflows.get(made.name)
    given = definition.get("version")
    if before is not None and given is not None and given != before.version:
        raise StaleRevision("workflows.stale", name=before.label, version=before.version, given=given)
    made = replace(made, version=store.last_version(act.conn, made.name) + 1)
    moved = _displaced(act, _with(act, made))
    store.add_workflow(act.conn, made, act.now)
    act.event(
        "workflow.defined",
        [],
        {"workflow": made.name, "version": made.version, "definition": workflow.to_dict(made)},
    )
    _changed(act, moved, made.label)
    return made


def end(act: Act, name: str) -> None:
    """End a workflow that nothing follows any more."""
    permission.require(act, "configure", Subject())
    if name not in act.setup.workflows:
        raise NotFound("workflows.not_there", name=name)
    by = [said("workflows.by_type", kind=k.label) for k in act.setup.types.values() if k.workflow == name]
    by += [said("workflows.by_choice", choice=c.told()) for c in act.setup.choices if c.workflow == name]
    if by:
        raise InTheWay("workflows.followed", by=by[:4])
    store.end_workflow(act.conn, name, act.now)
    setup_changed(act)
    act.event("workflow.ended", [], {"workflow": name})


def check_choices(view: View, given: Sequence[Mapping[str, Any]]) -> Impact:
    """What other choices of workflows would do to what stands; nothing is changed."""
    permission.require(view, "configure", Subject())
    made = _choices(view, given)
    return _impact(view, replace(view.setup, choices=made), None)


def set_choices(act: Act, given: Sequence[Mapping[str, Any]]) -> None:
    """Choose workflows by type, locale and section, in place of what was chosen before."""
    permission.require(act, "configure", Subject())
    made = _choices(act, given)
    moved = _displaced(act, replace(act.setup, choices=made))
    store.set_choices(act.conn, made)
    act.event("workflow.chosen", [], {"choices": [dict(g) for g in given]})
    _changed(act, moved, "")


def restand(act: Act, some: Iterable[int]) -> None:
    """Move what stands of entries whose workflow may be another now, as their section changed."""
    ids = set(some)
    if ids and any(c.section for c in act.setup.choices):
        stand_as_now(act, ids)


def stand_as_now(act: Act, some: Iterable[int]) -> None:
    """Move what stands of entries at a stage that their workflow has no more, as that changed meanwhile."""
    ids = set(some)
    _apply(act, [d for d in _displaced(act, act.setup) if d.entry in ids], "")


def follow_type(act: Act, kind: ContentType) -> None:
    """Move what stands of a type that names another workflow now."""
    then = replace(act.setup, types={**act.setup.types, kind.name: kind})
    _apply(act, _displaced(act, then), kind.label)


def _changed(act: Act, moved: Sequence[_Displaced], label: str) -> None:
    setup_changed(act)
    stages = store.stages(act.conn)
    act.setup = replace(
        act.setup,
        workflows=store.workflows(act.conn),
        choices=store.choices(act.conn),
        stages={name: row.id for name, row in stages.items()},
        stage_names={row.id: name for name, row in stages.items()},
        orders={row.id: row.ord for row in stages.values()},
        labels={name: row.label for name, row in stages.items()},
    )
    _apply(act, moved, label)


def _apply(act: Act, moved: Sequence[_Displaced], label: str) -> None:
    """Close what stands where its workflow has no stage, and open it at the stage below, where it waits again."""
    closing: list[Standing] = []
    opening: list[Opening] = []
    for one in moved:
        stand = standings.now_at(act.conn, [one.edition]).get(one.edition, {})
        waiting = reviews.waiting(act.conn, one.edition)
        if one.stage in stand:
            closing.append(stand[one.stage])
            if one.goal is not None and one.goal not in stand:
                opening.append(Opening(one.edition, one.goal, stand[one.stage].revision))
        if waiting is None or waiting.stage != one.stage:
            continue
        why = act.keep("workflows.stage_is_gone")
        if one.goal is None:
            reviews.decide(act.conn, one.edition, "taken back", act.identity.id, act.now, why)
        else:
            reviews.submit(
                act.conn,
                one.edition,
                one.goal,
                waiting.revision,
                waiting.actor,
                act.now,
                waiting.note,
            )
    if moved:
        applying.apply(act, Plan(tuple(closing), tuple(opening), ()), act.now, None)
        act.event(
            "workflow.moved",
            sorted({d.entry for d in moved}),
            {
                "name": label,
                "standings": [
                    {
                        "edition": d.edition,
                        "from": act.setup.stage_names[d.stage],
                        "to": act.setup.stage_names[d.goal] if d.goal else "draft",
                    }
                    for d in moved[:1000]
                ],
            },
        )


def _displaced(view: View, setup: Setup) -> list[_Displaced]:
    """What stands or waits, between draft and release, at a stage that its workflow will not have under a set-up."""
    flows = Flows(View(view.conn, view.identity, view.now, setup))
    out: list[_Displaced] = []
    orders = {name: row.ord for name, row in store.stages(view.conn).items()}
    for row in reviews.between(view.conn):
        name = view.setup.stage_names[row.stage]
        have = flows.of(row, row.locale).names
        if name not in have:
            below = [s for s in have[1:-1] if orders.get(s, -1) < orders[name] and s in view.setup.stages]
            goal = view.setup.stages[below[-1]] if below else None
            out.append(_Displaced(row.edition, row.entry, row.locale, row.stage, goal))
    return out


def _impact(view: View, setup: Setup, made: Workflow | None) -> Impact:
    moved = _displaced(view, setup)
    out = Impact(editions=len({d.edition for d in moved if d.locale != "*"}))
    by: dict[tuple[int, int | None], list[_Displaced]] = {}
    for one in moved:
        if one.locale != "*":
            by.setdefault((one.stage, one.goal), []).append(one)
    for (stage, goal), ones in by.items():
        here = view.setup.labels[view.setup.stage_names[stage]]
        if goal:
            there = view.setup.labels[view.setup.stage_names[goal]]
            what = view.say("workflows.moves_on", here=here, there=there)
        else:
            what = view.say("workflows.goes_back", here=here)
        out.effects.append(Effect(what, len(ones), _examples(view, ones)))
    out.effects += _bound(view, setup)
    before = view.setup.workflows.get(made.name) if made is not None else None
    if before is not None and made is not None:
        out.effects += _gates(view, before, made)
    return out


def _bound(view: View, setup: Setup) -> list[Effect]:
    """What dispatches that are still to go would bring to a stage that will not be there under a set-up: they are held then."""
    flows = Flows(View(view.conn, view.identity, view.now, setup))
    by: dict[int, list[_Displaced]] = {}
    for row in reviews.bound_between(view.conn):
        if view.setup.stage_names[row.stage] not in flows.of(row, row.locale).names:
            one = _Displaced(row.edition, row.entry, row.locale, row.stage, None)
            by.setdefault(row.stage, []).append(one)
    return [
        Effect(
            view.say("workflows.held_then", there=view.setup.labels[view.setup.stage_names[stage]]),
            len(ones),
            _examples(view, ones),
        )
        for stage, ones in by.items()
    ]


def _gates(view: View, before: Workflow, made: Workflow) -> list[Effect]:
    """What changed gates mean for what waits before them: sign-offs stay, and the gate is asked anew."""
    out: list[Effect] = []
    was = {s.name: s for s in before.stages}
    for below, stage in zip(made.stages, made.stages[1:], strict=False):
        if stage.name not in was:
            out.append(Effect(view.say("workflows.new_stage", stage=stage.label, below=below.label)))
            continue
        if was[stage.name].gate == stage.gate:
            continue
        id = view.setup.stages.get(below.name, 0)
        rows = reviews.waiting_at(view.conn, id)
        mine = [
            _Displaced(r.edition, r.entry, r.locale, id, None)
            for r in rows
            if of(view, entries.entry_by_id(view.conn, r.entry), r.locale).name == made.name
        ]
        what = view.say("workflows.gate_asks_anew", stage=stage.label)
        out.append(Effect(what, len(mine), _examples(view, mine)))
    return out


def _examples(view: View, ones: Sequence[_Displaced]) -> tuple[dict[str, str], ...]:
    return tuple(
        {
            "id": entries.entry_by_id(view.conn, one.entry).uuid,
            "locale": one.locale,
            "title": permission.title(view, one.entry, one.locale) or view.say("common.untitled"),
        }
        for one in ones[:5]
    )


def _with(view: View, made: Workflow) -> Setup:
    return replace(view.setup, workflows={**view.setup.workflows, made.name: made})


def _made(view: View, definition: Mapping[str, Any]) -> Workflow:
    raw = dict(definition)
    if not isinstance(raw.get("version", 1), int):
        raise Invalid([FieldProblem("version", said("workflows.order_no_number"))])
    raw["version"] = max(int(raw.get("version") or 1), 1)
    orders = {name: row.ord for name, row in store.stages(view.conn).items()}
    made = workflow.from_dict(raw, orders)
    problems = _named_things(view, made)
    taken = {order: name for name, order in orders.items()}
    for stage in made.stages:
        if taken.get(stage.order, stage.name) != stage.name:
            problems.append(
                FieldProblem(
                    f"stages.{stage.name}.order", said("workflows.order_taken", stage=taken[stage.order])
                )
            )
        if orders.get(stage.name, stage.order) != stage.order:
            problems.append(
                FieldProblem(
                    f"stages.{stage.name}.order", said("workflows.order_elsewhere", order=orders[stage.name])
                )
            )
    if problems:
        raise Invalid(problems)
    return made


def _named_things(view: View, made: Workflow) -> list[FieldProblem]:
    """What a gate names that is not there: roles, people, and fields that no type has."""
    roles = {r.name for r in people.roles(view.conn)}
    handles = {a.handle for a in people.all_actors(view.conn) if a.kind == "person"}
    out: list[FieldProblem] = []
    for stage in made.stages:
        gate, where = stage.gate, f"stages.{stage.name}.gate"
        for names, known, what in (
            (gate.roles, roles, "roles"),
            (gate.override_roles, roles, "override_roles"),
            (gate.people, handles, "people"),
            (gate.override_people, handles, "override_people"),
        ):
            out += [
                FieldProblem(f"{where}.{what}", said("common.value_none_of", value=n, known=sorted(known)))
                for n in names
                if n not in known
            ]
        for check in gate.custom:
            known = {f.name for k in view.setup.types.values() for f in k.fields}
            asked = expressions.names(expressions.parse(check.holds))
            out += [
                FieldProblem(f"{where}.custom.{check.name}", said("workflows.no_field", name=n))
                for n in sorted(asked - known)
            ]
    return out


def _choices(view: View, given: Sequence[Mapping[str, Any]]) -> tuple[Choice, ...]:
    out: list[Choice] = []
    problems: list[FieldProblem] = []
    for n, raw in enumerate(given):
        one, wrong = shapes.shaped(Choice, raw, f"choices.{n}")
        problems += wrong
        if one is None:
            continue
        # What one names that is chosen already may be gone meanwhile, and come back.
        problems += [] if one in view.setup.choices else _unknown(view, n, one)
        same = next(
            (c for c in out if (c.type, c.locale, c.section) == (one.type, one.locale, one.section)), None
        )
        if same is not None:
            problems.append(FieldProblem(f"choices.{n}", said("workflows.chosen_twice", choice=one.told())))
        out.append(one)
    if problems:
        raise Invalid(problems)
    return tuple(out)


def _unknown(view: View, n: int, one: Choice) -> list[FieldProblem]:
    """What a choice names and is not there."""
    row = entries.entry(view.conn, one.section) if one.section else None
    problems = [
        FieldProblem(f"choices.{n}.{side}", said("common.none_of", known=list(known)))
        for side, value, known in (
            ("workflow", one.workflow, view.setup.workflows),
            ("type", one.type, view.setup.types),
            ("locale", one.locale, view.setup.locales),
        )
        if (value or side == "workflow") and value not in known
    ]
    if one.section and (row is None or not view.setup.types[row.type].section):
        problems.append(FieldProblem(f"choices.{n}.section", said("workflows.no_section")))
    return problems
