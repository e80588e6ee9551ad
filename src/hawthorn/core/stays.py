"""How long the work on an edition stays where: being written, waiting at a stage for sign-off, signed off and waiting to go out, out. And how long
the other languages of an entry take to follow what its source changed.

Worked out from what happened to it alone: when it was written, submitted, decided about, out and taken away.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import partial

from hawthorn.core.quick import dataclass

DRAFT = "draft"
SIGNED = "signed off"
"""Signed off at the last stage that asks for it, and not out yet. No stage can be called so: names of stages have no spaces."""
RELEASE = "release"
FOLLOWING = "other languages"
"""From a source's change that is out until the last of the languages that were out has gone out anew."""


@dataclass(frozen=True, slots=True)
class Submitted:
    """That somebody submitted a draft to a stage, and what became of it (none: it waits)."""

    stage: str
    at: int
    by: int
    outcome: str | None = None
    decided_at: int | None = None
    decided_by: int | None = None


@dataclass(frozen=True, slots=True)
class Out:
    """That an edition was out from an instant until another, and whoever let it go out."""

    since: int
    until: int | None
    by: int | None = None


@dataclass(frozen=True, slots=True)
class Stay:
    """Where the work stayed, from an instant until another (none: it does), how it went on, and by whom."""

    stage: str
    came: int
    went: int | None = None
    how: str = ""
    by: int | None = None


def stays(
    written: Iterable[int], submitted: Iterable[Submitted], out: Iterable[Out], away: int | None = None
) -> list[Stay]:
    """Where the work on an edition stayed, in the order in which it came there. `away` is when it was removed, or put into the archive."""
    kept = list(out)
    track = _Track()
    happened: list[tuple[_When, Callable[[], None]]] = [
        ((at, _WRITTEN, 0, 0), partial(track.write, at)) for at in written
    ]
    for n, sub in enumerate(submitted):
        happened.append(((sub.at, _SUBMITTED, n, 0), partial(track.submit, sub)))
        if sub.decided_at is not None:
            # Whoever accepts a translation submits it and signs it off in one act: that comes after its own submission.
            at_once = sub.decided_at == sub.at
            rank = _SUBMITTED if at_once else _DECIDED
            happened.append(((sub.decided_at, rank, n, 1), partial(track.decide, sub, sub.decided_at)))
    happened += [((one.since, _OUT, 0, 0), partial(track.release, one.since, one.by)) for one in kept]
    for _, happens in sorted(happened, key=lambda one: one[0]):
        happens()
    if away is not None:
        track.leave(away)
    found = track.ended + track.open()
    found += [Stay(RELEASE, one.since, one.until, "" if one.until is None else "out", one.by) for one in kept]
    return sorted(found, key=lambda one: (one.came, one.stage))


# What happens at one instant happens in this order: a decision lets the work go on to the next stage, and a release writes nothing.
_DECIDED, _SUBMITTED, _OUT, _WRITTEN = range(4)
_When = tuple[int, int, int, int]
"""An instant, what happens at it first, and of several submissions which."""


class _Track:
    """Where the work on an edition is, as one thing after another happens to it."""

    def __init__(self) -> None:
        self.ended: list[Stay] = []
        self._draft: int | None = None
        self._review: tuple[str, int] | None = None
        self._signed: tuple[int, int | None] | None = None
        self._before: tuple[int, int | None] | None = None
        self._changed = False
        self._goes_on: tuple[str, int] | None = None

    def write(self, at: int) -> None:
        if self._review is None:
            self._draft = at if self._draft is None else self._draft
        else:
            self._changed = True

    def submit(self, sub: Submitted) -> None:
        if self._signed is not None and self._signed[0] == sub.at:
            # It went on to the next stage in the same act: what was signed off before waits on.
            self._signed = self._before
            if self._before is not None:
                self.ended.pop()
        if self._draft is not None:
            self._end(DRAFT, self._draft, sub.at, "submitted", sub.by)
        self._draft = None
        came = sub.at
        if self._goes_on is not None and self._goes_on[0] == sub.stage:
            came = self._goes_on[1]
        self._review, self._goes_on, self._changed = (sub.stage, came), None, False

    def decide(self, sub: Submitted, at: int) -> None:
        if self._review is None:
            return
        stage, came = self._review
        self._review = None
        if sub.outcome == "replaced":
            # A newer text took its place: it still waits.
            self._goes_on = (stage, came)
            return
        self._end(stage, came, at, sub.outcome or "", sub.decided_by)
        if sub.outcome == "signed off":
            self._before = self._signed
            if self._signed is not None:
                self._end(SIGNED, self._signed[0], at, "replaced", sub.decided_by)
            self._signed = (at, sub.decided_by)
            # What was written meanwhile is a draft again from now on.
            self._draft = at if self._changed else None
        else:
            self._draft = at
        self._changed = False

    def release(self, at: int, by: int | None) -> None:
        if self._signed is not None:
            self._end(SIGNED, self._signed[0], at, "out", by)
            self._signed = None
        elif self._draft is not None:
            self._end(DRAFT, self._draft, at, "out", by)
            self._draft = None

    def leave(self, at: int) -> None:
        """End all that goes on: it was taken away."""
        self.ended += [Stay(one.stage, one.came, max(at, one.came), "away") for one in self.open()]
        self._draft = self._review = self._signed = self._goes_on = None

    def open(self) -> list[Stay]:
        found = []
        if self._draft is not None:
            found.append(Stay(DRAFT, self._draft))
        if self._review is not None:
            found.append(Stay(*self._review))
        if self._signed is not None:
            found.append(Stay(SIGNED, self._signed[0]))
        return found

    def _end(self, stage: str, came: int, went: int, how: str, by: int | None) -> None:
        self.ended.append(Stay(stage, came, max(went, came), how, by))


@dataclass(frozen=True, slots=True)
class Followed:
    """That a source changed what is out, and when the last of the languages that were out then had gone out anew (none: some have not), and
    which that was."""

    came: int
    went: int | None
    last: str


def followed(source: Sequence[Out], others: Mapping[str, Sequence[Out]]) -> list[Followed]:
    """How the other languages of an entry followed each change of its source. A change before which no other language was out asks for none;
    a language that was withdrawn since is not waited for."""
    found: list[Followed] = []
    for change in sorted(one.since for one in source)[1:]:
        last, when = "", 0
        for locale, mine in sorted(others.items()):
            if not any(one.since < change and (one.until is None or one.until >= change) for one in mine):
                continue
            after = min((one.since for one in mine if one.since >= change), default=None)
            if after is None and not any(one.until is None for one in mine):
                continue
            if after is None:
                last, when = locale, -1
                break
            if after >= when:
                last, when = locale, after
        if last:
            found.append(Followed(change, None if when < 0 else when, last))
    return found
