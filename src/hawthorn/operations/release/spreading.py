"""Spreading: entries that go out one after another, at the times of a rule, instead of all together."""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from dataclasses import replace
from datetime import date

from hawthorn.core import naming, recurrence, timeline
from hawthorn.core.errors import BadTime, FieldProblem, Invalid
from hawthorn.core.messages import said
from hawthorn.core.quick import dataclass
from hawthorn.core.timeline import PlannedTime
from hawthorn.operations.release import dispatches, planning, times
from hawthorn.operations.release.lines import DispatchCheck, Line, MoveRequest, When
from hawthorn.operations.runtime.act import Act, View
from hawthorn.store import dispatches as store
from hawthorn.store import entries

MOST = 366
"""So many times one spread takes."""


@dataclass(frozen=True, slots=True)
class Spread:
    """The first time (a wall time, or a day at the usual hour), how it comes again (RFC 5545), and the days that are left out. `fold`
    says which of two is meant where a clock change gives a time twice."""

    begins: str
    zone: str = ""
    rule: str = "FREQ=DAILY"
    skip: tuple[str, ...] = ()
    fold: str = ""


@dataclass(frozen=True, slots=True)
class Step:
    """What goes at one of the times."""

    when: PlannedTime
    requests: tuple[MoveRequest, ...]


def steps(view: View, requests: Sequence[MoveRequest], wanted: Spread) -> list[Step]:
    """Each entry with its time, in the order in which they are named; the locales of one go together.

    Raises `BadTime` for a time that is past, that a clock change skips or gives twice, and for a rule that is none or that ends too
    soon; `Invalid` for days that are none.
    """
    groups: dict[str, list[MoveRequest]] = {}
    for request in requests:
        groups.setdefault(request.uuid, []).append(request)
    if not groups:
        raise Invalid("dispatches.empty")
    if len(groups) > MOST:
        raise Invalid("spreading.too_many", most=MOST)
    begins = times.with_hour(wanted.begins, times.policies_of(view, requests))
    skip = _days(wanted.skip)
    zone = wanted.zone or view.identity.zone
    walls = recurrence.spread(wanted.rule, timeline.wall_time(begins), len(groups), skip)
    planned = [timeline.resolve_wall(timeline.wall_text(w), zone, wanted.fold) for w in walls]
    timeline.not_past(planned[0].instant, view.now)
    if len({p.instant for p in planned}) < len(planned):
        raise BadTime("spreading.together")
    return [Step(when, tuple(group)) for when, group in zip(planned, groups.values(), strict=True)]


def check(view: View, requests: Sequence[MoveRequest], wanted: Spread) -> list[tuple[Step, DispatchCheck]]:
    """Each step with what it would do and what blocks it, once those before it have gone; nothing is planned."""
    found: list[tuple[Step, DispatchCheck]] = []
    coming: set[tuple[int, str]] = set()
    for step in steps(view, requests, wanted):
        one = planning.check(view, step.requests, at=step.when.instant, asking=False, coming=coming)
        found.append((step, one))
        coming |= {(_entry(view, line), line.locale) for line in one.lines if line.does.outs and line.leads}
    _say_what_meets(view, found)
    return found


def _entry(view: View, line: Line) -> int:
    row = entries.even_removed(view.conn, line.uuid)
    assert row is not None
    return row.id


def _say_what_meets(view: View, found: Sequence[tuple[Step, DispatchCheck]]) -> None:
    """Say of what goes later that it wants the address that something before it takes."""
    lines = [copy(line) for _, one in found for line in one.lines]
    planning.plan_lines(view, lines, found[-1][0].when.instant)
    first: dict[str, str] = {}
    for alone, beside in zip((x for _, one in found for x in one.lines), lines, strict=True):
        for unmet in beside.unmet:
            if unmet.what.code != "unmet.address_wanted_twice":
                continue
            slug = str(unmet.what.facts["slug"])
            if slug in first and not any(u.code == unmet.code for u in alone.unmet):
                what = said("unmet.address_before", entry=first[slug], slug=slug)
                alone.unmet.append(replace(unmet, what=what))
            first.setdefault(slug, beside.title)


def plan(
    act: Act,
    requests: Sequence[MoveRequest],
    wanted: Spread,
    *,
    name: str = "",
    note: str = "",
    override_quiet: bool = False,
) -> list[str]:
    """Plan a dispatch for each entry; returns their UUIDs in order. All of them are planned, or none is."""
    found = steps(act, requests, wanted)
    titled = naming.line("name", name)
    made: list[str] = []
    for n, step in enumerate(found, 1):
        when = When(wall=step.when.wall, zone=step.when.zone, fold=step.when.fold)
        called = act.keep("spreading.named", name=titled, number=n, count=len(found)) if titled else ""
        made.append(
            dispatches.make(act, step.requests, when, name=called, note=note, override_quiet=override_quiet)
        )
    first = store.by_uuid(act.conn, made[0])
    assert first is not None
    store.join_series(act.conn, made, first.id)
    return made


def _days(skip: Sequence[str]) -> frozenset[date]:
    out: set[date] = set()
    for one in skip:
        try:
            out.add(date.fromisoformat(one))
        except ValueError:
            raise Invalid([FieldProblem("skip", said("kinds.wants_date"))]) from None
    return frozenset(out)
