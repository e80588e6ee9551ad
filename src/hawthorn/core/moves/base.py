"""What a move is, and what every verb of a dispatch answers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field
from typing import Any, ClassVar

from hawthorn.core.errors import FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import Standing
from hawthorn.core.workflow import Stage, Unmet, Workflow

CHOSEN, APPROVED, NOTHING = "chosen", "approved", "nothing"
"""The revision that a move brings: the one that was asked for, the one that stands nearest to its goal, or none."""


@dataclass(frozen=True, slots=True)
class MoveFacts:
    """One move with all that decides about it.

    `standings` are what stands at each stage id now; `lower` are stage ids below the goal whose standing
    holds an ancestor of the revision; `descends` says that the revision comes from what stands at the goal.
    `fresh`: the revision is the one that it is made from, as its own is not written yet. `out_by_then`: something that is planned
    before brings the edition out.
    """

    ord: int
    verb: str
    edition: int
    stage: int
    revision: int | None
    title: str = ""
    standings: Mapping[int, Standing] | None = None
    lower: tuple[int, ...] = ()
    descends: bool = True
    regress: bool = False
    unmet: tuple[Unmet, ...] = ()
    fresh: bool = False
    out_by_then: bool = False
    payload: Mapping[str, Any] = field(default_factory=dict)

    @property
    def current(self) -> Standing | None:
        """What stands where it goes."""
        return (self.standings or {}).get(self.stage)

    @property
    def stands_there(self) -> bool:
        """Whether its revision stands where it goes already."""
        return not self.fresh and self.current is not None and self.current.revision == self.revision


@dataclass(frozen=True, slots=True)
class Around:
    """An entry as a move finds it: the edition that was named, the common one when the entry has one that was written, all of
    them, whether another locale stays out, and which editions hold the fields that it sets."""

    edition: int
    common: int | None
    editions: tuple[int, ...]
    others_stay: bool = False
    holding: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Touched:
    """An edition that a move works on, and which revision it brings there; one that goes `along` is left out where that
    revision stands already, there or further on."""

    edition: int
    brings: str = NOTHING
    along: bool = False


@dataclass(frozen=True, slots=True)
class Step:
    """What one move does: standings to close, and whether its revision then stands where it goes."""

    closings: tuple[Standing, ...] = ()
    opens: bool = False


class Verb:
    """One thing that a dispatch can do with an edition. Each is a module of this package that holds its own as `VERB`.

    `leads` says that a revision stands where it goes afterwards, and so a gate is asked; `outs` that readers see it then; `leaves`
    that the edition is not out afterwards, and so what is below it and what refers to it is looked at; `ends` that the entry is
    removed, `shelves` that it is in the archive. `submits` says that it waits for a decision where it goes, `writes` that it brings
    a revision of its own, which is written when it is asked for.
    `clears` are the codes of conditions of another entry that this verb clears when it goes along. `idles` says that it may
    find nothing to do; `gated` that what it brings has to pass the gate where it goes; `made` that it is made by the service and not
    asked for; `rests` that it waits for the end of a quiet period; `lifts` that what led to its goal does not stand before it any more.
    Its words are in the catalogue, under `moves.cannot` and `moves.idle`.
    """

    name: ClassVar[str]
    leads: ClassVar[bool] = False
    outs: ClassVar[bool] = False
    leaves: ClassVar[bool] = False
    ends: ClassVar[bool] = False
    shelves: ClassVar[bool] = False
    submits: ClassVar[bool] = False
    writes: ClassVar[bool] = False
    clears: ClassVar[tuple[str, ...]] = ()
    idles: ClassVar[bool] = False
    gated: ClassVar[bool] = True
    made: ClassVar[bool] = False
    rests: ClassVar[bool] = False
    lifts: ClassVar[bool] = False
    takes: ClassVar[tuple[str, ...]] = ()
    """The members of the payload that it carries."""
    may_take: ClassVar[tuple[str, ...]] = ()
    """Those that it carries where there is something to say of them."""

    def taken(self, payload: Mapping[str, Any]) -> dict[str, Any]:
        """A payload as it is kept. Raises `Invalid` for a member that it does not take, or one that is missing."""
        problems = [
            FieldProblem(f"payload.{one}", said("moves.takes_no_such", name=self.name))
            for one in payload
            if one not in (*self.takes, *self.may_take)
        ]
        problems += [
            FieldProblem(f"payload.{one}", said("common.missing")) for one in self.takes if one not in payload
        ]
        if problems:
            raise Invalid(problems)
        return dict(payload)

    def leads_with(self, revision: int | None) -> bool:
        """Whether a move with this revision leads somewhere."""
        return self.leads

    def leaves_with(self, revision: int | None) -> bool:
        """Whether an edition is out no longer after a move with this revision."""
        return self.leaves

    def goal(self, flow: Workflow, payload: Mapping[str, Any]) -> Stage:
        """The stage that it goes to, or leaves. Raises `Invalid` for one that it cannot go to."""
        return flow.last

    def asks(self, stood: bool) -> str:
        """The verb of the grant that whoever makes it needs; `stood` says that an edition has been at a stage."""
        return "release"

    def touches(self, around: Around) -> Sequence[Touched]:
        """The editions that it works on."""
        raise NotImplementedError

    def against(self, move: MoveFacts) -> Sequence[Unmet]:
        """What speaks against it, beside what is unmet already."""
        return ()

    def step(self, move: MoveFacts) -> Step:
        """What it does when nothing speaks against it."""
        raise NotImplementedError


class Bringing(Verb):
    """A verb that brings a revision to its goal, in place of what stood there; the shared fields go along in the revision that is
    approved."""

    leads = True
    idles = True

    def touches(self, around: Around) -> Sequence[Touched]:
        own = Touched(around.edition, CHOSEN)
        return (own,) if around.common is None else (own, Touched(around.common, APPROVED, along=True))

    def against(self, move: MoveFacts) -> Sequence[Unmet]:
        if move.revision is None:
            return (Unmet("no-revision", said("unmet.no_revision"), "", "write"),)
        if move.current is None or move.descends or move.regress:
            return ()
        what = said("unmet.not_descended") if self.outs else said("unmet.not_descended_there")
        return (Unmet("not-descended", what, "", "release"),)

    def step(self, move: MoveFacts) -> Step:
        stand = move.standings or {}
        led = tuple(s for stage in move.lower if self.lifts and (s := stand.get(stage)))
        if move.current is None:
            return Step(led, opens=True)
        if move.current.revision == move.revision:
            return Step(led)
        return Step((*led, move.current), opens=True)


class Emptying(Verb):
    """A verb that takes a whole entry away: closes whatever stands of it anywhere. What never stood anywhere is its writer's own."""

    leaves = True

    def asks(self, stood: bool) -> str:
        return "release" if stood else "write"

    def touches(self, around: Around) -> Sequence[Touched]:
        return [Touched(one) for one in around.editions]

    def step(self, move: MoveFacts) -> Step:
        return Step(tuple((move.standings or {}).values()))


VERBS: dict[str, Verb] = {}
"""All of them by name; the usual one first."""
