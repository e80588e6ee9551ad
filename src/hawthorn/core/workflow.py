"""Workflows: stages in order, and the gate before each.

To add a gate check: write a function from `Candidate` to the conditions it finds unmet, and put it in
`CHECKS` under the name that workflow definitions will use.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, dataclass, field
from typing import Any

from hawthorn.core import shapes
from hawthorn.core.errors import FieldProblem, Invalid

DRAFT = "draft"
RELEASE = "release"
DRAFT_RUNG, RELEASE_RUNG = 0, 1000


@dataclass(frozen=True, slots=True)
class Gate:
    """What must hold before a revision may stand at a stage.

    `sign_offs` is how many distinct people must approve that very revision. `author` says whether someone
    who changed the text may be one of them: "no", "with another" (if somebody else signs too), "yes".
    `embedded` says what follows when something the text shows moved on after sign-off: "warn" or "hold".
    """

    sign_offs: int = 0
    roles: tuple[str, ...] = ()
    author: str = "no"
    checks: tuple[str, ...] = ()
    embedded: str = "warn"


@dataclass(frozen=True, slots=True)
class Stage:
    """A named stage. Rungs order the stages of all workflows; a reader at one sees it or what is above."""

    name: str
    label: str
    rung: int
    gate: Gate = Gate()


@dataclass(frozen=True, slots=True)
class Workflow:
    """A route of stages, draft first and release last."""

    name: str
    label: str
    stages: tuple[Stage, ...]
    version: int = 1

    def stage(self, name: str) -> Stage:
        """The stage of that name; raises `Invalid` with the names there are."""
        for stage in self.stages:
            if stage.name == name:
                return stage
        have = ", ".join(s.name for s in self.stages)
        raise Invalid([FieldProblem("stage", f"“{name}” is not a stage of “{self.label}”, which has {have}")])

    def after(self, name: str) -> Stage | None:
        """The stage after the one named, or None after the last."""
        names = [s.name for s in self.stages]
        index = names.index(name) + 1
        return self.stages[index] if index < len(self.stages) else None

    @property
    def last(self) -> Stage:
        """The stage at which entries are out."""
        return self.stages[-1]


@dataclass(frozen=True, slots=True)
class SignOff:
    """One person's approval of one revision at one gate."""

    person: int
    name: str
    roles: tuple[str, ...] = ()
    seen: Mapping[int, int] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Candidate:
    """All that a gate looks at. Lists hold what was found wanting, in words for a person."""

    edition: int
    stage: str
    sign_offs: tuple[SignOff, ...] = ()
    authors: frozenset[int] = frozenset()
    missing: tuple[tuple[str, str], ...] = ()
    not_out: tuple[tuple[str, str], ...] = ()
    without_alt: tuple[str, ...] = ()
    common_absent: bool = False
    address_taken: str = ""
    circle: str = ""
    embeds: Mapping[int, int] = field(default_factory=dict)
    changed_embeds: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Unmet:
    """One condition that does not hold: a code, a sentence, where, and which verb could clear it."""

    code: str
    what: str
    where: str = ""
    verb: str = "write"


def _required(c: Candidate) -> Iterable[Unmet]:
    for name, label in c.missing:
        yield Unmet("missing", f"“{label}” is required and empty.", name)


def _references(c: Candidate) -> Iterable[Unmet]:
    for uuid, title in c.not_out:
        yield Unmet(
            "not-out",
            f"It refers to “{title}”, which is not out and does not go along.",
            uuid,
            "release",
        )


def _alt(c: Candidate) -> Iterable[Unmet]:
    for title in c.without_alt:
        yield Unmet("no-alt", f"The picture “{title}” has no alt text.", title)


CHECKS: dict[str, Callable[[Candidate], Iterable[Unmet]]] = {
    "required": _required,
    "references": _references,
    "alt": _alt,
}


def unmet(gate: Gate, candidate: Candidate) -> list[Unmet]:
    """Every condition of a gate that does not hold for a candidate; empty when it may pass."""
    out = [u for name in gate.checks for u in CHECKS[name](candidate)]
    out += _sign_offs_unmet(gate, candidate)
    if candidate.common_absent:
        out.append(
            Unmet(
                "no-common",
                "The fields shared by all locales are not there and do not go along.",
                "*",
                "release",
            )
        )
    if candidate.address_taken:
        out.append(Unmet("address-taken", candidate.address_taken, "slug"))
    if candidate.circle:
        out.append(Unmet("circle", candidate.circle, "below"))
    if gate.embedded == "hold" and candidate.changed_embeds:
        shown = ", ".join(f"“{t}”" for t in candidate.changed_embeds)
        out.append(Unmet("embedded-moved", f"{shown} moved on after the sign-off.", "", "sign"))
    return out


def counting(gate: Gate, candidate: Candidate) -> list[SignOff]:
    """The sign-offs that count towards a gate, one a person."""
    distinct: dict[int, SignOff] = {}
    for sign_off in candidate.sign_offs:
        if not gate.roles or set(gate.roles) & set(sign_off.roles):
            distinct.setdefault(sign_off.person, sign_off)
    own = [s for p, s in distinct.items() if p in candidate.authors]
    others = [s for p, s in distinct.items() if p not in candidate.authors]
    if gate.author == "yes" or (gate.author == "with another" and others):
        return others + own
    return others


def _sign_offs_unmet(gate: Gate, candidate: Candidate) -> list[Unmet]:
    have = counting(gate, candidate)
    lacking = gate.sign_offs - len(have)
    if lacking <= 0:
        return []
    who = f" by {' or '.join(gate.roles)}" if gate.roles else ""
    not_counted = len({s.person for s in candidate.sign_offs}) - len(have)
    note = " A sign-off by someone who changed the text does not count." if not_counted else ""
    said = "one more sign-off" if lacking == 1 else f"{lacking} more sign-offs"
    return [Unmet("sign-offs", f"It needs {said} of exactly this revision{who}.{note}", "", "sign")]


def from_dict(data: Mapping[str, Any]) -> Workflow:
    """A workflow from its definition; raises `Invalid` with everything wrong in it."""
    raws = shapes.members(data, "stages")
    problems = shapes.words(data, "name", "label")
    if not data.get("name"):
        problems.append(FieldProblem("name", "is missing"))
    stages: list[Stage] = []
    for index, raw in enumerate(raws):
        found, wrong = _stage(raw, index)
        problems += wrong
        stages += [found] if found else []
    rungs = [s.rung for s in stages]
    if not problems and (len(stages) < 2 or stages[0].name != DRAFT or stages[-1].name != RELEASE):
        problems.append(FieldProblem("stages", "begin with draft and end with release"))
    if not problems and rungs != sorted(set(rungs)):
        problems.append(FieldProblem("stages", "have rungs that grow from stage to stage"))
    if problems:
        raise Invalid(problems)
    return Workflow(data["name"], data.get("label", data["name"]), tuple(stages), data.get("version", 1))


def _stage(raw: Any, index: int) -> tuple[Stage | None, list[FieldProblem]]:
    where = f"stages.{raw.get('name', index) if isinstance(raw, Mapping) else index}"
    if isinstance(raw, Mapping):
        raw = {"label": str(raw.get("name", "")).capitalize(), **raw}
    gate = raw.get("gate", {}) if isinstance(raw, Mapping) else {}
    _, wrong = shapes.shaped(Gate, gate, f"{where}.gate")
    found, problems = (None, wrong) if wrong else shapes.shaped(Stage, raw, where)
    if found is None:
        return None, problems
    for check in found.gate.checks:
        if check not in CHECKS:
            problems.append(FieldProblem(f"{where}.checks", f"“{check}” is none of {', '.join(CHECKS)}"))
    if found.gate.author not in ("no", "with another", "yes"):
        problems.append(FieldProblem(f"{where}.author", "is “no”, “with another” or “yes”"))
    if found.gate.embedded not in ("warn", "hold"):
        problems.append(FieldProblem(f"{where}.embedded", "is “warn” or “hold”"))
    if not 0 <= found.gate.sign_offs <= 20:
        problems.append(FieldProblem(f"{where}.sign_offs", "is between 0 and 20"))
    return (None if problems else found), problems


def to_dict(workflow: Workflow) -> dict[str, Any]:
    """The definition of a workflow, as `from_dict` reads it."""
    return asdict(workflow)
