"""What is asked of a dispatch, and the lines that it comes to."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import field
from typing import Any, TypedDict

from hawthorn.core import moves, timeline
from hawthorn.core.errors import Invalid
from hawthorn.core.messages import Message, said
from hawthorn.core.moves import MoveFacts
from hawthorn.core.quick import dataclass
from hawthorn.core.workflow import Unmet
from hawthorn.operations.release.items import Going
from hawthorn.store import standings
from hawthorn.store.moves import NewMove, PlannedMove

_FOR_GOOD = ("refused", "removed", "archived", "quiet", "stuck", "no-stage")
"""What no sign-off clears."""


@dataclass(frozen=True, slots=True)
class MoveRequest:
    """What somebody asks for: an entry in a locale, and a verb with what it carries. `revision` is a number; one that `follows`
    brings whatever is approved at its instant."""

    uuid: str
    locale: str
    verb: str = moves.USUAL
    revision: int | None = None
    regress: bool = False
    payload: Mapping[str, Any] = field(default_factory=dict)
    follows: bool = False


@dataclass(frozen=True, slots=True)
class When:
    """An instant, or a wall time in a zone; nothing at all means now."""

    instant: str = ""
    wall: str = ""
    zone: str = ""
    fold: str = ""


@dataclass(slots=True)
class Line:
    """One move of a dispatch being made: what goes, from which revision to which, and what blocks it."""

    verb: str
    edition: int
    stage: int
    revision: int | None
    regress: bool
    uuid: str
    locale: str
    title: str
    type: str
    before: int | None = None
    after: int | None = None
    unmet: list[Unmet] = field(default_factory=list)
    along: bool = False
    payload: Mapping[str, Any] = field(default_factory=dict)
    follows: bool = False
    asked: bool = True
    """Whether it was named, and did not come along with one that was."""
    head: int | None = None
    patch: Mapping[str, Any] | None = None
    """What it sets, while the revision that does is not written: then `revision` is the one that it will be made from."""
    about: Going | None = None
    """Its edition with the entry, where it was read with the move."""
    left: list[tuple[str, str]] = field(default_factory=list)
    """What would be out below it and have no address any more: UUIDs and locales."""
    stuck: Unmet | None = None
    """Why it cannot be worked out any more what it would do; then nothing else is known of it."""
    does: moves.Verb = field(init=False, repr=False)
    """What its verb does; looked up once, as it is asked many times of many lines."""

    def __post_init__(self) -> None:
        self.does = moves.of(self.verb)

    @property
    def leads(self) -> bool:
        """Whether a revision stands where it goes afterwards."""
        return self.does.leads_with(self.revision)

    @property
    def leaves(self) -> bool:
        """Whether its edition is not out afterwards."""
        return self.does.leaves_with(self.revision)

    @property
    def weighed(self) -> bool:
        """Whether what it brings is looked at: against its gate, or as what goes out anew."""
        return (
            self.leads and self.revision is not None and (self.does.gated or self.stage == standings.RELEASE)
        )

    def as_new(self) -> NewMove:
        """The same as it is kept."""
        about = (self.verb, self.edition, self.stage, self.revision, self.regress, self.payload)
        return NewMove(*about, follows=self.follows, along=not self.asked)

    def move(self, ord: int, here: Mapping[int, timeline.Standing], **more: Any) -> MoveFacts:
        """The same as a plan looks at it, with what stands now."""
        about = (ord, self.verb, self.edition, self.stage, self.revision, self.title, here)
        return MoveFacts(*about, payload=self.payload, fresh=self.patch is not None, **more)


class Lines(list[Line]):
    """The lines of a dispatch being made, one for an edition, with what is asked of each that comes in. `written` are the revisions
    that were written inside it, by edition, and `coming` the entries (UUIDs) with the locales that are to be out after it."""

    def __init__(
        self, written: Mapping[int, int] | None = None, coming: Collection[tuple[str, str]] = ()
    ) -> None:
        super().__init__()
        self.written = written or {}
        self.coming = coming
        self.editions: set[int] = set()
        self.leaving: set[int] = set()

    def require_agreement(self, edition: int, verb: str) -> None:
        """Refuse two things that are asked for with one edition: a dispatch does one, and which is not guessed."""
        other = next(x for x in self if x.edition == edition)
        if other.verb != verb:
            both = [said(f"moves.cannot.{v}") for v in (other.verb, verb)]
            raise Invalid("planning.contradicts", entry=other.title or said("common.untitled"), both=both)

    def take_off(self, count: int) -> None:
        """Leave the first so many, and take those off that came after."""
        kept = self[:count]
        self[:] = kept
        self.editions = {x.edition for x in kept}
        self.leaving = {x.edition for x in kept if x.leaves}

    def put(self, line: Line) -> None:
        """Add a line."""
        self.append(line)
        self.editions.add(line.edition)
        if line.leaves:
            self.leaving.add(line.edition)


class UnmetAhead(TypedDict):
    """A condition of a gate that does not hold: its code, what is missing in words, the entry (its UUID) that it is about, empty for
    the one that moves, and the verb that clears it."""

    code: str
    what: str
    where: str
    verb: str


class UnmetCondition(UnmetAhead):
    """The same with the names of those who could clear it."""

    who: list[str]


@dataclass(frozen=True, slots=True)
class Need:
    """What a dispatch needs that does not go along: an entry in a locale, and the verb that it needs of it."""

    id: str
    title: str
    type: str
    locale: str
    verb: str


@dataclass(frozen=True, slots=True)
class Offer(Need):
    """What could go along though nothing needs it, and `why` it is offered: it is the same entry in another `locale`, or lies
    `below`."""

    why: str


@dataclass(slots=True)
class DispatchCheck:
    """What a dispatch would do, what blocks it, and what else it depends on."""

    lines: list[Line]
    needs: list[Need]
    warnings: list[Message]
    also: list[PlannedMove] = field(default_factory=list)
    """What other planned dispatches do with the same editions."""
    rest_goes: bool = False
    """Whether what is in the way is held back by itself, and the rest goes."""

    @property
    def blocked(self) -> bool:
        """Whether anything is unmet."""
        return any(line.unmet for line in self.lines)

    @property
    def stopped(self) -> list[Line]:
        """The lines that keep it from being planned: what follows may be approved by then."""
        return [x for x in self.lines if any(not x.follows or u.code in _FOR_GOOD for u in x.unmet)]
