"""What a change of workflows would do to what stands, waits and is planned: said before it is done."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from typing import Any

from hawthorn.core.access import Subject
from hawthorn.core.contenttypes import COMMON
from hawthorn.core.quick import dataclass
from hawthorn.core.workflow import Workflow
from hawthorn.operations.access import permission
from hawthorn.operations.release import held_then, workflows
from hawthorn.operations.release.workflows import Displaced
from hawthorn.operations.runtime.act import Setup, View
from hawthorn.store import entries, reviews
from hawthorn.store.moves import AskedMove


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


def check(view: View, definition: Mapping[str, Any]) -> Impact:
    """What a definition of a workflow would do to what stands; nothing is changed."""
    permission.require(view, "configure", Subject())
    made = workflows.made_of(view, definition)
    return _impact(view, workflows.with_one(view, made), made)


def check_choices(view: View, given: Sequence[Mapping[str, Any]]) -> Impact:
    """What other choices of workflows would do to what stands; nothing is changed."""
    permission.require(view, "configure", Subject())
    made = workflows.choices_of(view, given)
    return _impact(view, replace(view.setup, choices=made), None)


def _impact(view: View, setup: Setup, made: Workflow | None) -> Impact:
    moved = workflows.displaced(view, setup)
    out = Impact(editions=len({d.edition for d in moved if d.locale != COMMON}))
    out.effects += [
        Effect(what, len(ones), _examples(view, ones))
        for what, ones in (*_moving(view, moved), *_bound(view, setup))
    ]
    out.effects += _planned(view, setup)
    before = view.setup.workflows.get(made.name) if made is not None else None
    if before is not None and made is not None:
        out.effects += _gates(view, before, made)
    return out


def without_stage(view: View, setup: Setup) -> list[tuple[str, list[Displaced]]]:
    """What would be moved, or held, as its workflow has no such stage under a set-up: in words, each with what it is."""
    return _moving(view, workflows.displaced(view, setup)) + _bound(view, setup)


def _moving(view: View, moved: Sequence[Displaced]) -> list[tuple[str, list[Displaced]]]:
    by: dict[tuple[int, int | None], list[Displaced]] = {}
    for one in moved:
        if one.locale != COMMON:
            by.setdefault((one.stage, one.goal), []).append(one)
    out: list[tuple[str, list[Displaced]]] = []
    for (stage, goal), ones in by.items():
        here = view.setup.labels[view.setup.stage_names[stage]]
        if goal:
            there = view.setup.labels[view.setup.stage_names[goal]]
            out.append((view.say("workflows.moves_on", here=here, there=there), ones))
        else:
            out.append((view.say("workflows.goes_back", here=here), ones))
    return out


def _bound(view: View, setup: Setup) -> list[tuple[str, list[Displaced]]]:
    """What dispatches that are still to go would bring to a stage that will not be there under a set-up: they are held then."""
    flows = workflows.Flows(View(view.conn, view.identity, view.now, setup))
    by: dict[int, list[Displaced]] = {}
    for row in reviews.bound_between(view.conn):
        if view.setup.stage_names[row.stage] not in flows.of(row, row.locale).names:
            one = Displaced(row.edition, row.entry, row.locale, row.stage, None)
            by.setdefault(row.stage, []).append(one)
    return [
        (view.say("workflows.held_then", there=view.setup.labels[view.setup.stage_names[stage]]), ones)
        for stage, ones in by.items()
    ]


def _planned(view: View, setup: Setup) -> list[Effect]:
    """What is planned and lacks something by what gates ask under a set-up that it does not lack now."""
    there = _with_stages(setup)
    was, then = workflows.Flows(view), workflows.Flows(View(view.conn, view.identity, view.now, there))

    def concerns(move: AskedMove) -> bool:
        return was.of(move, move.locale) != then.of(move, move.locale)

    ones = held_then.lacking(view, there, concerns, apart=("no-stage",))
    return [Effect(view.say("workflows.planned_lacks"), len(ones), _examples(view, ones))] if ones else []


def _with_stages(setup: Setup) -> Setup:
    """A set-up whose stages are known by numbers, also those that are none of the records yet."""
    stages = {
        s.name: s for flow in setup.workflows.values() for s in flow.stages if s.name not in setup.stages
    }
    ids = {name: -n for n, name in enumerate(stages, 1)}
    return replace(
        setup,
        stages={**setup.stages, **ids},
        stage_names={**setup.stage_names, **{id: name for name, id in ids.items()}},
        orders={**setup.orders, **{id: stages[name].order for name, id in ids.items()}},
        labels={**setup.labels, **{name: stage.label for name, stage in stages.items()}},
    )


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
            Displaced(r.edition, r.entry, r.locale, id, None)
            for r in rows
            if workflows.of(view, entries.entry_by_id(view.conn, r.entry), r.locale).name == made.name
        ]
        what = view.say("workflows.gate_asks_anew", stage=stage.label)
        out.append(Effect(what, len(mine), _examples(view, mine)))
    return out


def _examples(view: View, ones: Sequence[Displaced]) -> tuple[dict[str, str], ...]:
    return tuple(_named(view, one) for one in ones[:5])


def _named(view: View, one: Displaced) -> dict[str, str]:
    """An edition by its entry and title; shared fields as the text of their source."""
    entry = entries.entry_by_id(view.conn, one.entry)
    locale = entry.source_locale if one.locale == COMMON else one.locale
    title = permission.title(view, one.entry, locale) or view.say("common.untitled")
    return {"id": entry.uuid, "locale": locale, "title": title}
