"""What crosses HTTP about workflows: their stages and gates, which is chosen for what, and what a change would do."""

from __future__ import annotations

from hawthorn.wire.base import Wire


class CustomCheck(Wire):
    """A custom check of a team: an expression over fields, and what is said when it does not hold."""

    name: str
    holds: str
    says: str


class GateSpec(Wire):
    """What must hold before a revision may stand at a stage."""

    sign_offs: int = 0
    roles: list[str] = []
    people: list[str] = []
    author: str = "no"
    checks: list[str] = []
    custom: list[CustomCheck] = []
    embedded: str = "warn"
    leaving: bool = False
    override_roles: list[str] = []
    override_people: list[str] = []


class StageSpec(Wire):
    """A stage of a workflow with the gate before it."""

    name: str
    label: str
    order: int
    gate: GateSpec


class WorkflowSpec(Wire):
    """A workflow."""

    name: str
    label: str
    version: int
    stages: list[StageSpec]


class WorkflowChoice(Wire):
    """Which workflow is followed: by entries of a type, in a locale, in a section (its id); empty means any."""

    workflow: str
    type: str = ""
    locale: str = ""
    section: str = ""


class CheckSpec(Wire):
    """A check that gates may ask for."""

    name: str
    label: str


class Example(Wire):
    """An edition by name."""

    id: str
    locale: str
    title: str


class WorkflowEffect(Wire):
    """One thing that a change of workflows would do."""

    what: str
    editions: int
    examples: list[Example]


class WorkflowImpact(Wire):
    """What a change of workflows would do to what stands."""

    effects: list[WorkflowEffect]
    editions: int


class ChoicesAsk(Wire):
    """Which workflows are followed, in place of what was chosen before."""

    choices: list[WorkflowChoice]
