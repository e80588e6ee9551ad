"""Workflows: stages in order, and the gate before each.

To add a gate check: write a function from `Candidate` to the conditions it finds unmet, and put it in
`CHECKS` under the name that workflow definitions will use, with what it asks in words.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import asdict, field
from typing import Any

from hawthorn.core import expressions, shapes
from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import Message, quoted, said
from hawthorn.core.quick import dataclass

DRAFT = "draft"
RELEASE = "release"
DRAFT_RUNG, RELEASE_RUNG = 0, 1000


@dataclass(frozen=True, slots=True)
class CustomCheck:
    """A custom check of a team: what must hold, as an expression over the fields (`core.expressions`), and what to say if not."""

    name: str
    holds: str
    says: str


@dataclass(frozen=True, slots=True)
class Gate:
    """What must hold before a revision may stand at a stage.

    `sign_offs` is how many distinct people must approve that very revision; if `roles` or `people` (by handle) are
    named, only theirs count. `author` says whether someone who changed the text may be one of them: "no", "with another"
    (if somebody else signs too), "yes". `embedded` says what follows when something the text shows moved on after
    sign-off: "warn" or "hold". With `leaving` the gate before release asks for its sign-offs of what leaves readers, too:
    withdrawn, put into the archive, removed. `override_roles` and `override_people` may override it, with a reason on record.
    """

    sign_offs: int = 0
    roles: tuple[str, ...] = ()
    people: tuple[str, ...] = ()
    author: str = "no"
    checks: tuple[str, ...] = ()
    custom: tuple[CustomCheck, ...] = ()
    embedded: str = "warn"
    leaving: bool = False
    override_roles: tuple[str, ...] = ()
    override_people: tuple[str, ...] = ()

    def counts(self, roles: Iterable[str], handle: str) -> bool:
        """Whether a sign-off by somebody with these roles is one that it asks for."""
        return not (self.roles or self.people) or handle in self.people or bool(set(self.roles) & set(roles))

    def lets_override(self, roles: Iterable[str], handle: str) -> bool:
        """Whether somebody with these roles may override it."""
        return handle in self.override_people or bool(set(self.override_roles) & set(roles))


@dataclass(frozen=True, slots=True)
class Stage:
    """A named stage. `order` orders the stages of all workflows; a reader at one sees it or what is above."""

    name: str
    label: str
    order: int
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
        known = self.names
        raise Invalid(
            [FieldProblem("stage", said("workflow.no_stage", name=name, workflow=self.label, known=known))]
        )

    @property
    def names(self) -> list[str]:
        """The names of its stages, in order."""
        return [s.name for s in self.stages]

    def after(self, name: str) -> Stage | None:
        """The stage after the one named; None after the last, and of one that it has not."""
        names = self.names
        index = names.index(name) + 1 if name in names else len(names)
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
    handle: str = ""
    seen: Mapping[int, int] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Candidate:
    """All that gates look at. Lists hold what was found wanting, in words for a person.

    `signed` are the sign-offs of this very revision by the stage that they are for, `changed_embeds` what moved on since,
    and `overridden` the conditions that somebody overrode for it: (stage, code, where).
    """

    edition: int
    stage: str
    signed: Mapping[str, tuple[SignOff, ...]] = field(default_factory=dict)
    authors: frozenset[int] = frozenset()
    missing: tuple[tuple[str, str], ...] = ()
    not_out: tuple[tuple[str, str], ...] = ()
    without_alt: tuple[str, ...] = ()
    common_absent: bool = False
    address_taken: Message | None = None
    cycle: Message | None = None
    parent_absent: tuple[str, str] | None = None
    embeds: Mapping[int, int] = field(default_factory=dict)
    changed_embeds: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    broken: tuple[tuple[str, str], ...] = ()
    too_long: tuple[tuple[str, Message], ...] = ()
    ends: bool = True
    must_end: bool = False
    behind: tuple[str, int] = ("", 0)
    values: Mapping[str, Any] = field(default_factory=dict)
    overridden: frozenset[tuple[str, str, str]] = frozenset()


@dataclass(frozen=True, slots=True)
class Unmet:
    """One condition that does not hold: a code, what is said of it, where, and which verb could clear it."""

    code: str
    what: Message
    where: str = ""
    verb: str = "write"


def _required(c: Candidate) -> Sequence[Unmet]:
    return [Unmet("missing", said("unmet.missing", label=label), name) for name, label in c.missing]


def _references(c: Candidate) -> Sequence[Unmet]:
    return [
        Unmet("not-out", said("unmet.not_out", entry=title), uuid, "release") for uuid, title in c.not_out
    ]


def _alt(c: Candidate) -> Sequence[Unmet]:
    return [Unmet("no-alt", said("unmet.no_alt", entry=title), title) for title in c.without_alt]


def _links(c: Candidate) -> Sequence[Unmet]:
    return [Unmet("broken-link", said("unmet.broken_link", label=label), uuid) for uuid, label in c.broken]


def _end(c: Candidate) -> Sequence[Unmet]:
    return () if c.ends else (Unmet("no-end", said("unmet.no_end"), "", "release"),)


def _translated(c: Candidate) -> Sequence[Unmet]:
    source, parts = c.behind
    if not parts:
        return ()
    what = said("unmet.behind_source", count=parts, source=source)
    return (Unmet("behind-source", what, source, "accept"),)


def _length(c: Candidate) -> Sequence[Unmet]:
    return [Unmet("too-long", what, name) for name, what in c.too_long]


Check = Callable[[Candidate], Sequence[Unmet]]
CHECKS: dict[str, Check] = {
    "required": _required,
    "links": _links,
    "references": _references,
    "alt": _alt,
    "end": _end,
    "translated": _translated,
    "length": _length,
}


def unmet(flow: Workflow, goal: Stage, candidate: Candidate) -> list[Unmet]:
    """Every condition that does not hold of the gate before a stage, and of those before it; empty when it may pass.

    What goes further than its first stage has to satisfy the gates on the way, whether it stood there or not. An address
    that is taken, a cycle, a page above that is not out and missing shared fields are asked of all and cannot be overridden.
    """
    found = {
        (u.code, u.where, u.what): u
        for stage in flow.stages[1:]
        if stage.order <= goal.order
        for u in asked(stage, candidate)
        if (stage.name, u.code, u.where) not in candidate.overridden
    }
    if candidate.must_end:
        # Asked by its type, whatever the gate asks.
        found.update({(u.code, u.where, u.what): u for u in _end(candidate)})
    return [*found.values(), *structural(candidate)]


def structural(candidate: Candidate) -> list[Unmet]:
    """What is asked of all that goes out, whatever its gate says: that it has an address of its own, a page above it, and the
    fields that its locales share."""
    out: list[Unmet] = []
    if candidate.common_absent:
        out.append(Unmet("no-common", said("unmet.no_common"), "*", "release"))
    if candidate.address_taken:
        out.append(Unmet("address-taken", candidate.address_taken, "slug"))
    if candidate.cycle:
        out.append(Unmet("cycle", candidate.cycle, "parent"))
    if candidate.parent_absent is not None:
        uuid, title = candidate.parent_absent
        out.append(Unmet("parent-not-out", said("unmet.parent_not_out", entry=title), uuid, "release"))
    return out


def asked(stage: Stage, candidate: Candidate) -> list[Unmet]:
    """What the gate before one stage asks for and does not find, whoever overrode it."""
    gate = stage.gate
    out: list[Unmet] = []
    for name in gate.checks:
        out += CHECKS[name](candidate)
    for custom in gate.custom:
        out += _custom(custom, candidate)
    out += sign_offs_unmet(stage, candidate)
    moved = candidate.changed_embeds.get(stage.name, ())
    if gate.embedded == "hold" and moved:
        what = said("unmet.embedded_moved", entries=quoted(moved))
        out.append(Unmet("embedded-moved", what, "", "sign"))
    return out


def _custom(check: CustomCheck, candidate: Candidate) -> Sequence[Unmet]:
    try:
        if expressions.holds(expressions.parse(check.holds), candidate.values):
            return ()
        what = said("common.words", words=check.says)
    except (expressions.Unworkable, Invalid) as error:
        what = said("unmet.custom_check_failed", words=check.says, check=check.name, why=error.message)
    return (Unmet("custom-check", what, check.name),)


def counting(stage: Stage, candidate: Candidate) -> list[SignOff]:
    """The sign-offs that count towards the gate before a stage, one a person."""
    gate = stage.gate
    distinct: dict[int, SignOff] = {}
    for sign_off in candidate.signed.get(stage.name, ()):
        if gate.counts(sign_off.roles, sign_off.handle):
            distinct.setdefault(sign_off.person, sign_off)
    others = [s for p, s in distinct.items() if p not in candidate.authors]
    if gate.author == "no" or (gate.author == "with another" and not others):
        return others
    return others + [s for p, s in distinct.items() if p in candidate.authors]


def sign_offs_unmet(stage: Stage, candidate: Candidate) -> list[Unmet]:
    """The sign-offs that the gate before one stage misses: one condition, or none."""
    gate = stage.gate
    if gate.sign_offs <= 0:
        return []
    have = counting(stage, candidate)
    lacking = gate.sign_offs - len(have)
    if lacking <= 0:
        return []
    named = [*gate.roles, *gate.people]
    not_counted = len({s.person for s in candidate.signed.get(stage.name, ())}) - len(have)
    code = "unmet.sign_offs_by" if named else "unmet.sign_offs"
    what = said(code, count=lacking, named=named)
    if not_counted:
        what = said("common.sentences", sentences=[what, said("unmet.not_counted")])
    return [Unmet("sign-offs", what, "", "sign")]


def from_dict(data: Mapping[str, Any], orders: Mapping[str, int] | None = None) -> Workflow:
    """A workflow from its definition; raises `Invalid` with everything wrong in it.

    A stage without an order has that of the stage of its name in `orders`, or else one between its neighbours.
    """
    raws = shapes.members(data, "stages")
    problems = shapes.words(data, "name", "label")
    if not data.get("name"):
        problems.append(FieldProblem("name", said("common.missing")))
    stages: list[Stage] = []
    for index, raw in enumerate(with_orders(raws, orders or {})):
        found, wrong = _stage(raw, index)
        problems += wrong
        stages += [found] if found else []
    heights = [s.order for s in stages]
    names = [s.name for s in stages]
    if not problems and len(set(names)) < len(names):
        problems.append(FieldProblem("stages", said("workflow.stage_names")))
    if not problems and (len(stages) < 2 or stages[0].name != DRAFT or stages[-1].name != RELEASE):
        problems.append(FieldProblem("stages", said("workflow.first_and_last")))
    if not problems and heights != sorted(set(heights)):
        problems.append(FieldProblem("stages", said("workflow.order_elsewhere")))
    if problems:
        raise Invalid(problems)
    return Workflow(data["name"], data.get("label", data["name"]), tuple(stages), data.get("version", 1))


def with_orders(raws: Sequence[Any], known: Mapping[str, int]) -> list[Any]:
    """Stages as they were written, those without an order given one."""
    fixed = {DRAFT: DRAFT_RUNG, RELEASE: RELEASE_RUNG, **known}
    have = [
        (raw.get("order") if raw.get("order") is not None else fixed.get(str(raw.get("name", ""))))
        if isinstance(raw, Mapping)
        else None
        for raw in raws
    ]
    out: list[Any] = []
    below = 0
    for index, raw in enumerate(raws):
        order = have[index]
        if order is None and isinstance(raw, Mapping):
            ahead = next(
                ((n, h) for n, h in enumerate(have[index:]) if isinstance(h, int)), (1, RELEASE_RUNG)
            )
            order = below + max((ahead[1] - below) // (ahead[0] + 1), 1)
        below = order if isinstance(order, int) else below
        out.append({**raw, "order": order} if isinstance(raw, Mapping) else raw)
    return out


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
            problems.append(
                FieldProblem(f"{where}.checks", said("common.value_none_of", value=check, known=list(CHECKS)))
            )
    if found.gate.author not in ("no", "with another", "yes"):
        problems.append(FieldProblem(f"{where}.author", said("workflow.own_sign_off")))
    if found.gate.embedded not in ("warn", "hold"):
        problems.append(FieldProblem(f"{where}.embedded", said("workflow.embedded")))
    if found.gate.leaving and found.name != RELEASE:
        problems.append(FieldProblem(f"{where}.leaving", said("workflow.leaving_elsewhere")))
    for custom in found.gate.custom:
        if not (custom.name.strip() and custom.says.strip()):
            problems.append(FieldProblem(f"{where}.custom", said("workflow.custom_checks")))
        try:
            expressions.parse(custom.holds)
        except Invalid as wrong_there:
            problems.append(
                FieldProblem(f"{where}.custom.{custom.name}", wrong_there.facts["problems"][0].what)
            )
    if not 0 <= found.gate.sign_offs <= 20:
        problems.append(FieldProblem(f"{where}.sign_offs", said("workflow.sign_offs")))
    return (None if problems else found), problems


def to_dict(workflow: Workflow) -> dict[str, Any]:
    """The definition of a workflow, as `from_dict` reads it."""
    return asdict(workflow)


@dataclass(frozen=True, slots=True)
class Choice:
    """Which workflow entries follow: of a type, in a locale, in a section (UUID) and what is below it; empty means any."""

    workflow: str
    type: str = ""
    locale: str = ""
    section: str = ""

    def told(self, title: str = "") -> Message:
        """What it chooses by; `title` is the section's."""
        sides = {
            "type": self.type,
            "locale": self.locale,
            "section": self.section and (title or self.section),
        }
        parts = [said(f"workflow.chosen_by_{side}", value=value) for side, value in sides.items() if value]
        return said("workflow.chosen_by", parts=parts) if parts else said("workflow.chosen_for_all")


def choose(choices: Iterable[Choice], type: str, locale: str, sections: Sequence[str]) -> Choice | None:
    """The most specific choice that fits; `sections` are those around an entry, the nearest first.

    What names more sides is more specific; among equals a nearer section, then a type, then a locale.
    """
    fitting = [
        c
        for c in choices
        if (not c.type or c.type == type)
        and (not c.locale or c.locale == locale)
        and (not c.section or c.section in sections)
    ]

    def rank(c: Choice) -> tuple[int, int, bool, bool]:
        near = len(sections) - sections.index(c.section) if c.section else 0
        return (bool(c.type) + bool(c.locale) + bool(c.section), near, bool(c.type), bool(c.locale))

    return max(fitting, key=rank, default=None)
