"""What a merge asks about, and what a person said of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import field
from typing import Any

from hawthorn.core.quick import dataclass
from hawthorn.core.revision import Content
from hawthorn.core.wordmerge import Piece


@dataclass(frozen=True, slots=True)
class Settlement:
    """How a person settled one conflict: "ours", "theirs", "both", or "own" with a `value` of their own."""

    take: str
    value: Any = None


@dataclass(frozen=True, slots=True)
class Conflict:
    """Two sides changed one place. `paragraph` is set when the place is a paragraph of a rich text.

    `field` is the path of the slot or block. `why`: "both changed it", "changed and removed", "ordered differently",
    "moved to different places", "moved into each other". `pieces` say word by word what is contested.
    """

    field: str
    why: str
    base: Any
    ours: Any
    theirs: Any
    paragraph: str = ""
    label: str = ""
    kind: str = ""
    pieces: tuple[Piece, ...] = ()

    @property
    def place(self) -> str:
        """A name for the place, unique within a merge: a path, or path and paragraph."""
        return f"{self.field}.{self.paragraph}" if self.paragraph else self.field


def met(place: str, why: str, sides: Sequence[Any], *, label: str, kind: str) -> Conflict:
    base, ours, theirs = sides
    return Conflict(place, why, base, ours, theirs, label=label, kind=kind)


@dataclass(frozen=True, slots=True)
class Merged:
    """A merged content, what met in it, what is still open, and the fields taken from each side alone."""

    content: Content
    conflicts: tuple[Conflict, ...] = ()
    from_ours: tuple[str, ...] = ()
    from_theirs: tuple[str, ...] = ()
    still_open: tuple[str, ...] = ()
    again: Callable[[Mapping[str, Settlement]], Merged] | None = field(
        default=None, compare=False, repr=False
    )


class Unsettled:
    """Stands in a virtual base for what its own merge could not settle: nothing equals it."""

    def __repr__(self) -> str:
        return "UNSETTLED"


UNSETTLED = Unsettled()


def one_sided(base: Any, ours: Any, theirs: Any) -> str:
    if ours == theirs or base == ours:
        return "theirs"
    return "ours" if base == theirs else ""


def why(ours: Any, theirs: Any) -> str:
    return "changed and removed" if ours is None or theirs is None else "both changed it"


def decided(conflict: Conflict, decision: Settlement) -> Any:
    if decision.take == "ours":
        return conflict.ours
    if decision.take == "theirs":
        return conflict.theirs
    if decision.take == "both":
        ours, theirs = conflict.ours, conflict.theirs
        if isinstance(ours, list) and isinstance(theirs, list):
            return [*theirs, *(x for x in ours if x not in theirs)]
        if not all(isinstance(x, str) for x in (ours, theirs) if x is not None):
            return theirs if theirs is not None else ours
        parts = [x for x in (theirs, ours) if x]
        joined = "" if any(str(p).startswith("<") for p in parts) else " "
        return joined.join(str(p) for p in parts)
    return decision.value
