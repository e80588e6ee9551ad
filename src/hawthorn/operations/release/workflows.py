"""Workflows: which one an edition follows and why, and changing them while editions stand at their stages."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
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
class Displaced:
    """An edition that stands or waits at a stage which its workflow will not have; `goal` is where it goes, or nothing."""

    edition: int
    entry: int
    locale: str
    stage: int
    goal: int | None


def define(act: Act, definition: Mapping[str, Any]) -> Workflow:
    """Define a workflow, or a new version of one; what stands at a stage that is no more moves to the one below it.

    A definition that names its `version` must name the one in force: then exactly what was looked at is changed.
    """
    permission.require(act, "configure", Subject())
    made = made_of(act, definition)
    before = act.setup.workflows.get(made.name)
    given = definition.get("version")
    if before is not None and given is not None and given != before.version:
        raise StaleRevision("workflows.stale", name=before.label, version=before.version, given=given)
    made = replace(made, version=store.last_version(act.conn, made.name) + 1)
    moved = displaced(act, with_one(act, made))
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


def set_choices(act: Act, given: Sequence[Mapping[str, Any]]) -> None:
    """Choose workflows by type, locale and section, in place of what was chosen before."""
    permission.require(act, "configure", Subject())
    made = choices_of(act, given)
    moved = displaced(act, replace(act.setup, choices=made))
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
    _apply(act, [d for d in displaced(act, act.setup) if d.entry in ids], "")


def follow_type(act: Act, kind: ContentType) -> None:
    """Move what stands of a type that names another workflow now."""
    then = replace(act.setup, types={**act.setup.types, kind.name: kind})
    _apply(act, displaced(act, then), kind.label)


def _changed(act: Act, moved: Sequence[Displaced], label: str) -> None:
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


def _apply(act: Act, moved: Sequence[Displaced], label: str) -> None:
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


def displaced(view: View, setup: Setup) -> list[Displaced]:
    """What stands or waits, between draft and release, at a stage that its workflow will not have under a set-up."""
    flows = Flows(View(view.conn, view.identity, view.now, setup))
    out: list[Displaced] = []
    orders = {name: row.ord for name, row in store.stages(view.conn).items()}
    for row in reviews.between(view.conn):
        name = view.setup.stage_names[row.stage]
        have = flows.of(row, row.locale).names
        if name not in have:
            below = [s for s in have[1:-1] if orders.get(s, -1) < orders[name] and s in view.setup.stages]
            goal = view.setup.stages[below[-1]] if below else None
            out.append(Displaced(row.edition, row.entry, row.locale, row.stage, goal))
    return out


def with_one(view: View, made: Workflow) -> Setup:
    """The set-up with another workflow, or another version of one."""
    return replace(view.setup, workflows={**view.setup.workflows, made.name: made})


def made_of(view: View, definition: Mapping[str, Any]) -> Workflow:
    """The workflow that a definition describes; raises `Invalid` with each place that is wrong."""
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


def choices_of(view: View, given: Sequence[Mapping[str, Any]]) -> tuple[Choice, ...]:
    """The choices of workflows as they are given; raises `Invalid` with each place that is wrong."""
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
